//! Messages that are gone, put where they were into what happens now.

use crate::model::{Event, RelationId};

/// Where a message was that is gone.
#[derive(Clone, Copy)]
pub(super) enum Place {
    /// Behind a message, or behind what holds it, so many levels up.
    Behind(RelationId, usize),
    /// The first thing that happens while the receiver of a message works.
    FirstIn(RelationId),
    /// Before everything else.
    First,
}

/// The messages that are gone, in their order, each with its place; `number` gives messages their numbers now, those that are gone
/// have `first` and more.
pub(super) fn places(
    items: &[Event], holder: Option<RelationId>, number: &dyn Fn(RelationId) -> Option<RelationId>, first: usize,
    out: &mut Vec<(Place, Event)>,
) {
    let mut before = holder.map_or(Place::First, Place::FirstIn);
    for item in items {
        match item {
            Event::Message { relation, body, returning, guard, within } => {
                let Some(now) = number(*relation) else { continue };
                if now.index() >= first {
                    let (returning, guard, within) = (returning.clone(), guard.clone(), within.clone());
                    out.push((before, Event::Message { relation: now, body: Vec::new(), returning, guard, within }));
                }
                before = Place::Behind(now, 0);
                places(body, Some(now), number, first, out);
            }
            Event::Fragment { operands, .. } => {
                for operand in operands {
                    places(&operand.items, None, number, first, out);
                }
                if let Some((last, depth)) = last_message(item, number) {
                    before = Place::Behind(last, depth);
                }
            }
            _ => {}
        }
    }
}

/// The last message in a fragment that is there, and how many lists it lies below the one that holds the fragment.
fn last_message(item: &Event, number: &dyn Fn(RelationId) -> Option<RelationId>) -> Option<(RelationId, usize)> {
    match item {
        Event::Message { relation, .. } => Some((number(*relation)?, 0)),
        Event::Fragment { operands, .. } => {
            let mut items = operands.iter().rev().flat_map(|o| o.items.iter().rev());
            items.find_map(|item| last_message(item, number)).map(|(last, depth)| (last, depth + 1))
        }
        _ => None,
    }
}

/// Puts an item at its place; at the beginning, where that is not there any more.
pub(super) fn put(items: &mut Vec<Event>, place: Place, new: Event) {
    let mut new = Some(new);
    match place {
        Place::First => {}
        Place::FirstIn(message) => put_first_in(items, message, &mut new),
        Place::Behind(message, up) => {
            put_behind(items, message, up, &mut new);
            // It is not nested as deep as it was.
            if new.is_some() {
                put_behind(items, message, 0, &mut new);
            }
        }
    }
    if let Some(new) = new {
        items.insert(0, new);
    }
}

/// The lists of what happens inside an item.
fn lists_in(item: &mut Event) -> Vec<&mut Vec<Event>> {
    match item {
        Event::Message { body, .. } => vec![body],
        Event::Fragment { operands, .. } => operands.iter_mut().map(|o| &mut o.items).collect(),
        _ => Vec::new(),
    }
}

/// Puts an item behind what holds a message, `up` levels above it; tells how many levels below this list the message lies.
fn put_behind(items: &mut Vec<Event>, message: RelationId, up: usize, new: &mut Option<Event>) -> Option<usize> {
    for at in 0..items.len() {
        let is_it = matches!(&items[at], Event::Message { relation, .. } if *relation == message);
        let below = match is_it {
            true => Some(0),
            false => {
                lists_in(&mut items[at]).into_iter().find_map(|list| put_behind(list, message, up, new)).map(|n| n + 1)
            }
        };
        let Some(below) = below else { continue };
        if below == up
            && let Some(new) = new.take()
        {
            items.insert(at + 1, new);
        }
        return Some(below);
    }
    None
}

/// Puts an item first into what happens in the body of a message.
fn put_first_in(items: &mut [Event], message: RelationId, new: &mut Option<Event>) {
    for item in items {
        if let Event::Message { relation, body, .. } = item
            && *relation == message
        {
            body.splice(0..0, new.take());
            return;
        }
        lists_in(item).into_iter().for_each(|list| put_first_in(list, message, new));
    }
}
