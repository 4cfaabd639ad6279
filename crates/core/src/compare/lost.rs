//! Messages that are gone, put where they were into what happens now.

use crate::model::{Event, RelationId};
use std::collections::{BTreeMap, VecDeque};

/// Where a message was that is gone.
#[derive(Clone, Copy)]
pub(super) enum Place {
    /// Behind a message, or behind what holds it, this many levels up.
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

/// What waits for its place, by the message that it comes after.
#[derive(Default)]
struct Waiting {
    /// With how many levels above the message.
    behind: BTreeMap<RelationId, Vec<(usize, Event)>>,
    first_in: BTreeMap<RelationId, Vec<Event>>,
}

/// Puts items at their places; at the beginning, where these are not there any more.
pub(super) fn put(items: &mut Vec<Event>, new: Vec<(Place, Event)>) {
    let mut waiting = Waiting::default();
    let mut first = Vec::new();
    for (place, item) in new {
        match place {
            Place::First => first.push(item),
            Place::FirstIn(message) => waiting.first_in.entry(message).or_default().push(item),
            Place::Behind(message, up) => waiting.behind.entry(message).or_default().push((up, item)),
        }
    }
    first.append(items);
    *items = waiting.put_into(first, true).0;
    let behind = waiting.behind.into_values().flatten().map(|(_, item)| item);
    let lost: Vec<Event> = behind.chain(waiting.first_in.into_values().flatten()).collect();
    items.splice(0..0, lost);
}

impl Waiting {
    /// A list with what belongs into it, and what belongs this many levels above it. On top there is nothing above.
    fn put_into(&mut self, items: Vec<Event>, is_top: bool) -> (Vec<Event>, Vec<(usize, Event)>) {
        let (mut out, mut above) = (Vec::with_capacity(items.len()), Vec::new());
        let mut left: VecDeque<Event> = items.into();
        while let Some(mut item) = left.pop_front() {
            let mut behind = Vec::new();
            if let Event::Message { relation, body, .. } = &mut item {
                body.splice(0..0, self.first_in.remove(relation).into_iter().flatten());
                behind.extend(self.behind.remove(relation).into_iter().flatten());
            }
            for list in lists_in(&mut item) {
                let (own, more) = self.put_into(std::mem::take(list), false);
                *list = own;
                behind.extend(more);
            }
            out.push(item);
            // What is not nested as deep as it was comes behind the outermost thing.
            let (here, higher): (Vec<_>, Vec<_>) = behind.into_iter().partition(|(up, _)| is_top || *up == 0);
            here.into_iter().rev().for_each(|(_, item)| left.push_front(item));
            above.extend(higher.into_iter().map(|(up, item)| (up - 1, item)));
        }
        (out, above)
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
