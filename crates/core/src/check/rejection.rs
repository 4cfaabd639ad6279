//! A rejection with no way back: what was turned down cannot be repaired and handed in again.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind, Relation, Verb};

/// Words that turn something down by themselves.
const REJECTING: &[&str] = &[
    "reject",
    "refuse",
    "refusal",
    "deny",
    "denied",
    "denies",
    "decline",
    "disapprove",
    "turned down",
    "not approved",
    "not accepted",
    "insufficient",
];
/// Questions to which "no" turns something down.
const APPROVING: &[&str] =
    &["approve", "approval", "accept", "agree", "complete", "correct", "valid", "plausible", "sign off", "pass"];

/// At most this many rejections of one flow are looked at: each costs a walk through the flow.
// So a generated flow is checked in linear time.
const MOST: usize = 200;

/// Branches that turn something down and lead neither back nor to where the others go on.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Then, Verb::Onward]);
    for branch in diagram.relations.iter().filter(|r| rejects(diagram, r)).take(MOST) {
        let reached = arrows.reached([branch.to]);
        let before = arrows.reaching([branch.from]);
        let others = arrows.out(branch.from).iter().copied().filter(|id| *id != branch.to);
        let goes_on = arrows.reached(others);
        let leads_on = diagram.ids().any(|(id, _)| reached[id.index()] && (before[id.index()] || goes_on[id.index()]));
        if !leads_on {
            let span = branch.start.as_ref().map_or(branch.span, |l| l.span);
            let label = branch.start.as_ref().map(|l| l.text()).unwrap_or_default();
            diags.report(span, Message::RejectionWithoutReturn { label });
        }
    }
}

fn rejects(diagram: &Diagram, relation: &Relation) -> bool {
    let decision = diagram.element(relation.from);
    let Some(label) = relation.start.as_ref().filter(|_| decision.kind == ElementKind::Decide) else { return false };
    let label = label.text().to_lowercase();
    let says = |text: &str, words: &[&str]| words.iter().any(|w| text.contains(w));
    let is_no = matches!(label.trim(), "no" | "not yet") || label.starts_with("no,");
    says(&label, REJECTING) || is_no && says(&decision.shown().text().to_lowercase(), APPROVING)
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    const HEAD: &str = "flow f\n  begin \"a\"\n  step plan \"Plan\"\n  decide \"Plan approved?\"\n";

    #[test]
    fn a_rejection_leads_back_or_on() {
        let lost = format!(
            "{HEAD}    when \"yes\"\n      \"Do it\"\n    or \"no\"\n      finish \"Over\"\n  finish \"Done\"\n"
        );
        assert_eq!(lines(&lost, "rejection-without-return"), [7]);
        let back =
            format!("{HEAD}    when \"yes\"\n      \"Do it\"\n    or \"no\"\n      go plan\n  finish \"Done\"\n");
        assert_eq!(lines(&back, "rejection-without-return"), [0_u32; 0]);
        let on = format!(
            "{HEAD}    when \"yes\"\n      \"Do it\"\n    or \"rejected\"\n      \"Note why\"\n  finish \"Done\"\n"
        );
        assert_eq!(lines(&on, "rejection-without-return"), [0_u32; 0]);
    }

    #[test]
    fn other_questions_may_end_with_no() {
        let text = "flow f\n  begin \"a\"\n  decide \"Raining?\"\n    when \"no\"\n      finish \"b\"\n    or \"yes\"\n      \"c\"\n  finish \"d\"\n";
        assert_eq!(lines(text, "rejection-without-return"), [0_u32; 0]);
    }
}
