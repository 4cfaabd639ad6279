//! A relation that `never uses` forbids, between the two or anything inside them.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId};

/// Every relation that breaks a rule of the architecture.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    for (rule, relation) in diagram.breaches() {
        let (rule, relation) = (diagram.relation(rule), diagram.relation(relation));
        let called = |id: ElementId| diagram.element(id).called();
        let reason = rule.label.as_ref().map(|l| l.text());
        let (from, to, rule) = (called(rule.from), called(rule.to), rule.span);
        diags.report(relation.span, Message::ForbiddenRelation { from, to, rule, reason });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn never_means_never_for_parts_too() {
        let text = "architecture a\n  system x\n    part p\n  system y\n    part q\n  x never uses y \"why\"\n  p reads q \"all\"\n  q sends p \"back\"\n";
        assert_eq!(lines(text, "forbidden-relation"), [7]);
    }
}
