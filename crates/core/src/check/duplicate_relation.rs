//! A relation that is written already.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, Verb};
use std::collections::BTreeMap;

/// Relations with the same ends, verb, label, protocol and texts at their ends.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut seen = BTreeMap::new();
    for relation in diagram.relations.iter().filter(|r| r.verb != Verb::Remarks) {
        let text = |l: &Option<crate::syntax::Label>| l.as_ref().map(|l| l.text());
        let ends: Vec<String> = relation.ends.iter().map(|e| e.shown()).collect();
        let says = (relation.from, relation.to, relation.verb, text(&relation.label), text(&relation.over), ends);
        match seen.get(&says) {
            Some(first) => diags.report(relation.span, Message::DuplicateRelation { first: *first }),
            None => {
                seen.insert(says, relation.span);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn relations_are_written_once() {
        let text = "architecture a\n  x uses y \"q\"\n  x uses y \"r\"\n  x uses y \"q\"\n  y uses x \"q\"\n";
        assert_eq!(lines(text, "duplicate-relation"), [4]);
    }
}
