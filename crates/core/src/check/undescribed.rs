//! An element without a description, where its neighbours have one.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, Element, ElementKind};

/// A sketch has no descriptions, and needs none. Once more than half of the elements at the outermost level
/// are described, those that are not are reported.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let outermost: Vec<&Element> = diagram.elements.iter().filter(|e| is_outermost(diagram, e)).collect();
    let described = outermost.iter().filter(|e| e.properties.about.is_some()).count();
    if described * 2 <= outermost.len() {
        return;
    }
    for element in outermost.iter().filter(|e| e.properties.about.is_none() && e.span.source.is_root()) {
        diags.report(element.span, Message::Undescribed { element: element.called() });
    }
}

/// Whether an element stands in nothing but boxes, and is more than a box or a place itself.
fn is_outermost(diagram: &Diagram, element: &Element) -> bool {
    let kind = element.kind;
    let is_place = matches!(kind, ElementKind::Zone | ElementKind::Host);
    element.parent.is_none_or(|p| diagram.element(p).kind.is_box()) && !kind.is_box() && !kind.is_mark() && !is_place
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn what_most_have_the_others_need() {
        let text = "architecture a\n  system x (about \"X\")\n  system y\n    about \"Y\"\n  system z\n    part p\n";
        assert_eq!(lines(text, "undescribed-element"), [5]);
        assert_eq!(
            lines("architecture a\n  system x (about \"X\")\n  system y\n  z uses x\n", "undescribed-element"),
            [0_u32; 0]
        );
    }
}
