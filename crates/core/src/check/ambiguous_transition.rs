//! Two transitions of one state on one trigger, and nothing says which is taken.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind, Verb};
use std::collections::BTreeMap;

/// Transitions without a guard that share state and trigger with an earlier one.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut seen = BTreeMap::new();
    for relation in diagram.relations.iter().filter(|r| r.verb == Verb::Becomes) {
        let from = diagram.element(relation.from);
        // Forks go several ways at once.
        let (Some(transition), true) = (&relation.transition, from.kind != ElementKind::Bar) else { continue };
        if transition.guard.is_some() {
            continue;
        }
        let trigger = transition.trigger.as_ref().map(crate::syntax::Label::text);
        let first = *seen.entry((relation.from, trigger.clone())).or_insert(relation.span);
        if first != relation.span {
            let state = from.called();
            diags.report(relation.span, Message::AmbiguousTransition { state, trigger, first });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn one_trigger_leads_one_way() {
        let text = "states s\n  a becomes b on \"x\"\n  a becomes c on \"x\"\n  a becomes d on \"x\" when \"g\"\n  b becomes a\n  b becomes c\n";
        assert_eq!(lines(text, "ambiguous-transition"), [3, 6]);
    }
}
