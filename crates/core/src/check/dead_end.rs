//! A step after which nothing comes, though the flow does not finish there.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind, Verb};

/// Steps without a way on that are no terminals.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Then, Verb::Onward]);
    let asides = Arrows::of(diagram, &[Verb::Aside]);
    for (id, element) in diagram.ids() {
        let ends_well = matches!(element.kind, ElementKind::Finish | ElementKind::Connector | ElementKind::Remark);
        let stands_aside = !asides.back(id).is_empty();
        if arrows.out(id).is_empty() && !ends_well && !element.kind.is_box() && !stands_aside {
            diags.report(element.span, Message::DeadEnd { step: element.called() });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn the_last_step_is_a_terminal() {
        assert_eq!(lines("flow f\n  begin \"a\"\n  \"b\"\n", "dead-end"), [3]);
        assert_eq!(
            lines("flow f\n  begin \"a\"\n  \"b\"\n    aside data \"x\"\n  finish \"c\"\n", "dead-end"),
            [0_u32; 0]
        );
    }
}
