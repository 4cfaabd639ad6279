//! A refusal after which a flow goes on as if it had been accepted.

use super::graph::Arrows;
use super::same_branch::is_branch;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind, Relation, Verb};

/// Words on branches that refuse in every project.
const REFUSED: &[&str] = &["no", "rejected", "invalid", "denied", "failed"];
/// At most this many refusals of one flow are looked at: each costs a walk through the flow.
// So a generated flow is checked in linear time.
const MOST: usize = 200;

/// Branches that refuse and come to the step to which another branch of the same question leads, without being asked again.
/// `more` are words that refuse in this project.
pub(super) fn check(diagram: &Diagram, more: &[String], diags: &mut Diagnostics) {
    for branch in diagram.relations.iter().filter(|r| refuses(diagram, r, more)).take(MOST) {
        let is_accepted = |r: &&Relation| {
            r.from == branch.from && is_branch(diagram, r) && r.to != branch.to && !refuses(diagram, r, more)
        };
        // What comes after the question is asked again is not gone on to.
        let again = Arrows::matching(diagram, |r| {
            matches!(r.verb, Verb::Then | Verb::Onward) && r.from != branch.from && r.to != branch.from
        });
        let reached = again.reached([branch.to]);
        let accepted = diagram.relations.iter().filter(is_accepted).map(|r| r.to);
        // To end in the same way is no step that is taken.
        let mut steps = accepted.filter(|to| diagram.element(*to).kind != ElementKind::Finish);
        if let Some(step) = steps.find(|to| reached[to.index()]) {
            let span = branch.start.as_ref().map_or(branch.span, |label| label.span);
            let label = branch.start.as_ref().map(|label| label.text()).unwrap_or_default();
            let step = format!("`{}`", diagram.element(step).called());
            diags.report(span, Message::RefusalGoesOn { label, step });
        }
    }
}

fn refuses(diagram: &Diagram, relation: &Relation, more: &[String]) -> bool {
    let Some(label) = relation.start.as_ref().filter(|_| is_branch(diagram, relation)) else { return false };
    let label = label.text().trim().to_lowercase();
    let says =
        |word: &str| label.strip_prefix(word).is_some_and(|rest| rest.is_empty() || rest.starts_with([',', ':', ' ']));
    REFUSED.iter().any(|word| says(word)) || more.iter().any(|word| says(word))
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    fn flow(question: &str, word: &str) -> String {
        format!(
            "flow f\n  begin \"a\"\n  decide \"{question}\"\n    when \"yes\"\n      go store\n    or \"{word}\"\n      \"Note why\"\n  step store \"Store\"\n  finish \"Done\"\n"
        )
    }

    #[test]
    fn what_was_refused_does_not_go_on() {
        for word in ["no", "rejected", "Invalid", "denied, by the desk", "failed"] {
            assert_eq!(lines(&flow("Valid?", word), "refusal-goes-on"), [6], "{word}");
        }
        assert_eq!(lines(&flow("Valid?", "later"), "refusal-goes-on"), [0_u32; 0]);
        let ends = flow("Valid?", "no").replace("\"Note why\"", "finish \"Refused\"");
        assert_eq!(lines(&ends, "refusal-goes-on"), [0_u32; 0]);
        let again = "flow f\n  begin \"a\"\n  step draft \"Draft\"\n  decide \"Valid?\"\n    when \"yes\"\n      \"Store\"\n    or \"no\"\n      go draft\n  finish \"Done\"\n";
        assert_eq!(lines(again, "refusal-goes-on"), [0_u32; 0]);
    }

    #[test]
    fn a_project_has_words_of_its_own() {
        use crate::check::Levels;
        use crate::pipeline::{Setting, read};
        use crate::source::Source;
        let levels = Levels::new().refusing(&["Stale".to_owned()]);
        let text = flow("Fresh?", "stale");
        let found = |levels: &Levels| {
            let reading = read(Source::new("t", text.as_str()), "t", &Setting { levels, ..Setting::default() });
            reading.diagnostics.iter().any(|d| d.code == "refusal-goes-on")
        };
        assert!(found(&levels) && !found(&Levels::new()));
    }
}
