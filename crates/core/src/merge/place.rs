//! Places of what is new: in the model of the diagram as it will be, new things stand behind every byte of the text.

use crate::model::ClassBody;
use crate::source::{SourceId, Span};

/// What is new stands at its place in the facts, this many bytes on.
const BASE: u32 = u32::MAX / 2;

/// The place of something new.
pub(super) fn moved(span: Span) -> Span {
    Span { source: SourceId::new(0), start: BASE + span.start.min(BASE), end: BASE + span.end.min(BASE) }
}

/// The place in the facts of something new; `None` for what stands in the text.
pub(super) fn place_in_facts(span: Span) -> Option<u32> {
    span.start.checked_sub(BASE)
}

/// Puts the members of a new classifier at the places of new things.
pub(super) fn move_body(body: &mut ClassBody) {
    for compartment in &mut body.compartments {
        if let Some(title) = &mut compartment.title {
            title.span = moved(title.span);
        }
        compartment.members.iter_mut().for_each(|member| member.span = moved(member.span));
    }
}
