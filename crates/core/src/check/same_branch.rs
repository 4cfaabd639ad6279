//! Branches of one question that say the same, or lead to the same place.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, ElementKind, Relation, Verb};
use crate::source::Span;
use std::collections::BTreeMap;

/// Each branch after the first with the same guard, or with the same target.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut guards: BTreeMap<(ElementId, String), (ElementId, Span)> = BTreeMap::new();
    let mut places: BTreeMap<(ElementId, ElementId), Span> = BTreeMap::new();
    for branch in diagram.relations.iter().filter(|r| is_branch(diagram, r)) {
        let span = branch.start.as_ref().map_or(branch.span, |label| label.span);
        let label = branch.start.as_ref().map(|label| label.text()).unwrap_or_default();
        let guard = (branch.from, label.trim().to_lowercase());
        match guards.get(&guard) {
            Some((to, first)) if *to != branch.to && !label.trim().is_empty() => {
                diags.report(span, Message::SameGuard { label: label.clone(), first: *first });
            }
            Some(_) => {}
            None => drop(guards.insert(guard, (branch.to, span))),
        }
        match places.get(&(branch.from, branch.to)) {
            Some(first) => {
                let step = format!("`{}`", diagram.element(branch.to).called());
                diags.report(span, Message::SamePlace { step, first: *first });
            }
            None => drop(places.insert((branch.from, branch.to), span)),
        }
    }
}

/// Whether a relation is a branch of a question.
pub(super) fn is_branch(diagram: &Diagram, relation: &Relation) -> bool {
    matches!(relation.verb, Verb::Then | Verb::Onward) && diagram.element(relation.from).kind == ElementKind::Decide
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    fn flow(branches: &str) -> String {
        format!("flow f\n  begin \"a\"\n  decide \"High?\"\n{branches}  finish done \"Done\"\n")
    }

    #[test]
    fn branches_differ() {
        let twice =
            flow("    when \"yes\"\n      \"Warn\"\n    or \"Yes\"\n      \"Log\"\n    or \"no\"\n      \"Wait\"\n");
        assert_eq!(lines(&twice, "same-guard"), [6]);
        let empty = flow("    when \"yes\"\n      go done\n    or \"no\"\n      go done\n");
        assert_eq!(lines(&empty, "same-place"), [6]);
        let right = flow("    when \"yes\"\n      \"Warn\"\n    or \"no\"\n      \"Log\"\n");
        assert_eq!((lines(&right, "same-guard").len(), lines(&right, "same-place").len()), (0, 0));
    }
}
