//! What only one kind of diagram holds.

use super::whole::Whole;
use super::{events, members, passages};
use crate::model::{Content, Diagram};

/// Adds what the text does not have.
pub(super) fn take(whole: &mut Whole, facts: &Diagram) {
    match &facts.content {
        Content::Sequence(interaction) => events::take(whole, &interaction.events),
        Content::Flow(procedure) => passages::take(whole, procedure),
        Content::States(all) => members::take_behaviours(whole, all),
        Content::Classes(_) => members::take(whole, facts),
        Content::Architecture(_) | Content::Network | Content::Tree => {}
    }
}
