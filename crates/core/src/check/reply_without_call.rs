//! A reply to somebody who did not ask.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, Event, Verb};
use std::collections::BTreeSet;

/// Walks the messages in order. A call that happens in one branch counts after it too.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    walk(diagram, diagram.events(), &mut BTreeSet::new(), diags);
}

/// `asked` holds who has asked whom.
fn walk(diagram: &Diagram, items: &[Event], asked: &mut BTreeSet<(ElementId, ElementId)>, diags: &mut Diagnostics) {
    for item in items {
        match item {
            Event::Message { relation, body, returning, .. } => {
                let message = diagram.relation(*relation);
                match message.verb {
                    Verb::Answers if !asked.contains(&(message.to, message.from)) => {
                        let (from, to) = (diagram.element(message.from).called(), diagram.element(message.to).called());
                        diags.report(message.span, Message::ReplyUnasked { from, to });
                    }
                    Verb::Calls | Verb::Sends | Verb::Creates if returning.is_none() => {
                        asked.insert((message.from, message.to));
                    }
                    _ => {}
                }
                walk(diagram, body, asked, diags);
            }
            Event::Fragment { operands, .. } => operands.iter().for_each(|o| walk(diagram, &o.items, asked, diags)),
            _ => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn who_answers_was_asked() {
        assert_eq!(lines("sequence s\n  a sends b \"x\"\n  b answers a \"y\"\n", "reply-without-call"), [0_u32; 0]);
        assert_eq!(lines("sequence s\n  a calls b\n    answers \"y\"\n", "reply-without-call"), [0_u32; 0]);
        assert_eq!(lines("sequence s\n  a sends b \"x\"\n  a answers b \"y\"\n", "reply-without-call"), [3]);
    }
}
