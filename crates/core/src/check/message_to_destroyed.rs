//! A message to or from a party that was destroyed before.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, Event, Operator, Verb};
use std::collections::BTreeSet;

/// Walks the messages in order. What is destroyed in one of several branches is still there in the others,
/// and may be there after them.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    walk(diagram, diagram.events(), &mut BTreeSet::new(), diags);
}

fn walk(diagram: &Diagram, items: &[Event], gone: &mut BTreeSet<ElementId>, diags: &mut Diagnostics) {
    for item in items {
        match item {
            Event::Message { relation, body, .. } => {
                let message = diagram.relation(*relation);
                if message.verb == Verb::Creates {
                    gone.remove(&message.to);
                }
                let party = [message.to, message.from].into_iter().find(|id| gone.contains(id));
                if let Some(party) = party {
                    let party = diagram.element(party).called();
                    diags.report(message.span, Message::MessageToDestroyed { party });
                }
                walk(diagram, body, gone, diags);
                if message.verb == Verb::Destroys {
                    gone.insert(message.to);
                }
            }
            Event::Fragment { operator, operands, .. } => {
                for operand in operands {
                    let mut inner = gone.clone();
                    walk(diagram, &operand.items, &mut inner, diags);
                    if matches!(operator, Operator::Critical | Operator::Strict) {
                        *gone = inner;
                    }
                }
            }
            _ => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn nobody_speaks_to_the_destroyed() {
        let text = "sequence s\n  a creates b\n  a destroys b\n  a sends b \"x\"\n";
        assert_eq!(lines(text, "message-to-destroyed"), [4]);
        let text = "sequence s\n  a sends b \"x\"\n  when \"over\"\n    a destroys b\n  a sends b \"x\"\n";
        assert_eq!(lines(text, "message-to-destroyed"), [0_u32; 0]);
    }
}
