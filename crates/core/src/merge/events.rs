//! What happens in a sequence, and where new events go. A message is known if it is paired, a fragment if any of its messages is.

use super::ordered::{Anchor, Insertions, Key};
use super::pairing::{Said, said};
use super::place::moved;
use super::whole::Whole;
use crate::model::{Event, Operand, Relation};
use std::collections::BTreeMap;

/// Adds the events that the text does not have.
pub(super) fn take(whole: &mut Whole, found: &[Event]) {
    let block = whole.diagram.span.start;
    let mut others = BTreeMap::new();
    index(whole.diagram.events(), &mut others);
    let mut taking = Taking { whole, others, events: Insertions::default(), operands: BTreeMap::new() };
    taking.body(found, block, None);
    let Taking { mut events, mut operands, .. } = taking;
    let relations = whole.diagram.relations.clone();
    if let Some(own) = whole.diagram.events_mut() {
        let old = std::mem::take(own);
        *own = fill(&mut events, &mut operands, &relations, old, block);
    }
}

/// The places of all events that are no messages.
fn index(events: &[Event], places: &mut BTreeMap<Said, Key>) {
    for event in events {
        match event {
            Event::Message { body, .. } => index(body, places),
            Event::Fragment { operands, .. } => operands.iter().for_each(|operand| index(&operand.items, places)),
            Event::Reference { span, .. }
            | Event::Phase { span, .. }
            | Event::Pause { span, .. }
            | Event::Remark { span, .. } => {
                let said = said(event).filter(|_| span.source.is_root());
                said.into_iter().for_each(|said| _ = places.entry(said).or_insert(span.start));
            }
        }
    }
}

struct Taking<'a> {
    whole: &'a Whole,
    /// Dividers, gaps, references and remarks of the text, by what they say.
    others: BTreeMap<Said, Key>,
    events: Insertions<Event>,
    /// New operands of known fragments.
    operands: BTreeMap<Key, Vec<Operand>>,
}

impl Taking<'_> {
    /// Puts what is new in a body where it belongs; gives the last known thing in it.
    fn body(&mut self, found: &[Event], of: Key, mut last: Option<Key>) -> Option<Key> {
        let mut was_new = false;
        for (i, event) in found.iter().enumerate() {
            if let Some(key) = self.known(event) {
                self.inside(event, key);
                (last, was_new) = (Some(key), false);
                continue;
            }
            if let Event::Fragment { operands, .. } = event
                && operands.iter().any(|operand| self.is_any_known(&operand.items))
            {
                last = self.fragment(operands, of, last);
                continue;
            }
            // People edit and remove remarks: they come with what is new only.
            if matches!(event, Event::Remark { .. }) && !was_new {
                continue;
            }
            let next = || found[i..].iter().find_map(|event| self.known(event));
            let anchor = match last {
                Some(key) => Anchor::Behind(key),
                None => next().map_or(Anchor::First(of), Anchor::Before),
            };
            let new = self.added(event);
            new.into_iter().for_each(|event| self.events.put(anchor, event));
            was_new = true;
        }
        last
    }

    /// What is new in a fragment of which something is known; gives the last known thing.
    fn fragment(&mut self, operands: &[Operand], of: Key, mut last: Option<Key>) -> Option<Key> {
        let fragment = operands.iter().find_map(|operand| self.fragment_around(&operand.items));
        for operand in operands {
            match fragment {
                Some(key) if !self.is_any_known(&operand.items) => {
                    let new = self.new_operand(operand);
                    self.operands.entry(key).or_default().push(new);
                }
                Some(_) => _ = self.body(&operand.items, of, None),
                // People took it apart: what was in it stands for itself.
                None => last = self.body(&operand.items, of, last),
            }
        }
        fragment.or(last)
    }

    /// What is known of an event: the place of its line.
    fn known(&self, event: &Event) -> Option<Key> {
        let Event::Message { relation, .. } = event else {
            return said(event).and_then(|said| self.others.get(&said)).copied();
        };
        let id = self.whole.relation(*relation).filter(|id| !self.whole.is_new_relation(*id))?;
        Some(self.whole.diagram.relation(id).span.start)
    }

    fn is_any_known(&self, events: &[Event]) -> bool {
        events.iter().any(|event| match event {
            Event::Message { body, .. } => self.known(event).is_some() || self.is_any_known(body),
            Event::Fragment { operands, .. } => operands.iter().any(|operand| self.is_any_known(&operand.items)),
            _ => false,
        })
    }

    /// The fragment of the text whose operand holds the first known one of some events.
    fn fragment_around(&self, events: &[Event]) -> Option<Key> {
        let key = events.iter().find_map(|event| self.known(event))?;
        fragment_of(self.whole.diagram.events(), &self.whole.diagram.relations, key)
    }

    /// What is new inside a known message.
    fn inside(&mut self, event: &Event, key: Key) {
        if let Event::Message { body, .. } = event {
            self.body(body, key, None);
        }
    }

    /// An event that is not in the text, without what is; nothing if nothing is left of it.
    fn added(&mut self, event: &Event) -> Option<Event> {
        let whole = self.whole;
        match event {
            Event::Message { relation, body, returning, guard, within } => {
                if let Some(key) = self.known(event) {
                    self.inside(event, key);
                    return None;
                }
                let relation = whole.relation(*relation)?;
                let (returning, guard, within) = (returning.clone(), guard.clone(), within.clone());
                let body = body.iter().filter_map(|event| self.added(event)).collect();
                Some(Event::Message { relation, body, returning, guard, within })
            }
            Event::Fragment { operator, operands, span } => {
                let operands = operands.iter().map(|operand| self.new_operand(operand)).collect();
                Some(Event::Fragment { operator: *operator, operands, span: moved(*span) })
            }
            Event::Reference { sequence, label, across, span } => {
                let (sequence, label, across) = (sequence.clone(), label.clone(), whole.numbers(across));
                Some(Event::Reference { sequence, label, across, span: moved(*span) })
            }
            Event::Phase { label, span } => Some(Event::Phase { label: label.clone(), span: moved(*span) }),
            Event::Pause { label, span } => Some(Event::Pause { label: label.clone(), span: moved(*span) }),
            Event::Remark { across, label, left, span } => {
                let across = whole.numbers(across);
                Some(Event::Remark { across, label: label.clone(), left: *left, span: moved(*span) })
            }
        }
    }

    fn new_operand(&mut self, operand: &Operand) -> Operand {
        let items = operand.items.iter().filter_map(|event| self.added(event)).collect();
        Operand { guard: operand.guard.clone(), items, span: moved(operand.span) }
    }
}

/// The fragment in one of whose operands a line stands.
fn fragment_of(events: &[Event], relations: &[Relation], line: Key) -> Option<Key> {
    let is_it =
        |e: &Event| matches!(e, Event::Message { relation, .. } if relations[relation.index()].span.start == line);
    events.iter().find_map(|event| match event {
        Event::Message { body, .. } => fragment_of(body, relations, line),
        Event::Fragment { operands, span, .. } => operands.iter().find_map(|operand| {
            let is_here = operand.items.iter().any(is_it);
            is_here.then_some(span.start).or_else(|| fragment_of(&operand.items, relations, line))
        }),
        _ => None,
    })
}

fn fill(
    new: &mut Insertions<Event>, operands: &mut BTreeMap<Key, Vec<Operand>>, relations: &[Relation], body: Vec<Event>,
    of: Key,
) -> Vec<Event> {
    let key = |event: &Event| match event {
        Event::Message { relation, .. } => relations[relation.index()].span.start,
        Event::Fragment { span, .. }
        | Event::Reference { span, .. }
        | Event::Phase { span, .. }
        | Event::Pause { span, .. }
        | Event::Remark { span, .. } => span.start,
    };
    new.fill(body, of, &key, &mut |new, event| {
        let at = key(event);
        match event {
            Event::Message { body, .. } => {
                *body = fill(new, operands, relations, std::mem::take(body), at);
            }
            Event::Fragment { operands: own, .. } => {
                for operand in own.iter_mut() {
                    let items = std::mem::take(&mut operand.items);
                    operand.items = fill(new, operands, relations, items, operand.span.start);
                }
                own.extend(operands.remove(&at).into_iter().flatten());
            }
            _ => {}
        }
    })
}
