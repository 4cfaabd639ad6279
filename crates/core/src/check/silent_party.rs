//! A party that takes no part in the conversation.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, Event};

/// Parties without a message, a remark or a reference.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut heard = vec![false; diagram.elements.len()];
    for relation in &diagram.relations {
        heard[relation.from.index()] = true;
        heard[relation.to.index()] = true;
    }
    across(diagram.events(), &mut |id| heard[id.index()] = true);
    for (id, party) in diagram.ids().filter(|(_, e)| !e.kind.is_box() && !e.kind.is_mark()) {
        if !heard[id.index()] {
            diags.report(party.span, Message::SilentParty { party: party.called() });
        }
    }
}

/// The parties of remarks and references, wherever they are.
fn across(items: &[Event], visit: &mut impl FnMut(ElementId)) {
    for item in items {
        match item {
            Event::Reference { across: parties, .. } | Event::Remark { across: parties, .. } => {
                parties.iter().for_each(|id| visit(*id));
            }
            Event::Message { body, .. } => across(body, visit),
            Event::Fragment { operands, .. } => operands.iter().for_each(|o| across(&o.items, visit)),
            _ => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn every_party_takes_part() {
        assert_eq!(lines("sequence s\n  actor a\n  actor b\n  actor c\n  a sends b \"x\"\n", "silent-party"), [4]);
        assert_eq!(lines("sequence s\n  actor a\n  see t across a\n", "silent-party"), [0_u32; 0]);
    }
}
