//! Which found message is which of the text.
//!
//! Messages are paired by their verb and their ends: first within the same body, those with equal labels before others, then
//! anywhere, since people move messages into choices of their own and out of them.

use crate::model::{Diagram, ElementId, Event, Operand, Relation, RelationId};
use crate::syntax::Label;
use std::collections::BTreeSet;

/// The messages of the text that found ones are, by the numbers of these.
pub(super) fn pairs(own: &Diagram, facts: &Diagram, numbers: &[ElementId]) -> Vec<Option<RelationId>> {
    let pairs = vec![None; facts.relations.len()];
    let mut pairing = Pairing { own, facts, numbers, pairs, taken: BTreeSet::new() };
    pairing.bodies(own.events(), facts.events());
    // What was moved elsewhere by hand.
    let all = |diagram: &Diagram| (0..diagram.relations.len() as u32).map(RelationId).collect::<Vec<_>>();
    pairing.pair(&all(own), &all(facts));
    pairing.pairs
}

/// Bodies of more messages than these, multiplied, are paired without regard to their order.
// A table of 4 million numbers takes 16 MB and some 20 ms.
const LARGEST_TABLE: usize = 4_000_000;

struct Pairing<'a> {
    own: &'a Diagram,
    facts: &'a Diagram,
    numbers: &'a [ElementId],
    pairs: Vec<Option<RelationId>>,
    taken: BTreeSet<RelationId>,
}

impl Pairing<'_> {
    fn bodies(&mut self, own: &[Event], found: &[Event]) {
        self.pair_in_order(own, found);
        self.pair(&messages(own), &messages(found));
        for event in found {
            match event {
                Event::Message { relation, body, .. } => {
                    let Some(pair) = self.pairs[relation.index()] else { continue };
                    let is_it = |e: &&Event| matches!(e, Event::Message { relation, .. } if *relation == pair);
                    if let Some(Event::Message { body: inner, .. }) = own.iter().find(is_it) {
                        self.bodies(inner, body);
                    }
                }
                Event::Fragment { operator, operands, .. } => {
                    let alike = own.iter().filter_map(|e| match e {
                        Event::Fragment { operator: o, operands, .. } if o == operator => Some(operands),
                        _ => None,
                    });
                    for (inner, operand) in alike.flatten().flat_map(|inner| operands.iter().map(move |o| (inner, o))) {
                        if guard(inner) == guard(operand) {
                            self.bodies(&inner.items, &operand.items);
                        }
                    }
                }
                _ => {}
            }
        }
    }

    /// Pairs messages: those with equal labels first.
    fn pair(&mut self, own: &[RelationId], found: &[RelationId]) {
        for with_label in [true, false] {
            for id in found {
                let relation = self.facts.relation(*id);
                let is_it = |o: &&RelationId| !self.taken.contains(o) && self.is_alike(**o, relation, with_label);
                if self.pairs[id.index()].is_none()
                    && let Some(pair) = own.iter().find(is_it)
                {
                    self.pairs[id.index()] = Some(*pair);
                    self.taken.insert(*pair);
                }
            }
        }
    }

    /// Pairs equal messages of a common subsequence that weighs most (after Wagner and Fischer 1974): those with the same reply
    /// weigh more.
    fn pair_in_order(&mut self, own: &[Event], found: &[Event]) {
        if own.len().saturating_mul(found.len()) > LARGEST_TABLE {
            return;
        }
        let width = found.len() + 1;
        // The most that pairs from here on weigh.
        let mut most = vec![0_u32; (own.len() + 1) * width];
        for o in (0..own.len()).rev() {
            for f in (0..found.len()).rev() {
                let apart = most[(o + 1) * width + f].max(most[o * width + f + 1]);
                let weight = self.weight(&own[o], &found[f]);
                let paired = if weight > 0 { most[(o + 1) * width + f + 1] + weight } else { 0 };
                most[o * width + f] = apart.max(paired);
            }
        }
        let (mut o, mut f, mut pairs) = (0, 0, Vec::new());
        while o < own.len() && f < found.len() {
            let here = most[o * width + f];
            if here == most[o * width + f + 1] {
                f += 1;
            } else if here == most[(o + 1) * width + f] {
                o += 1;
            } else {
                pairs.extend(message(&own[o]).zip(message(&found[f])));
                (o, f) = (o + 1, f + 1);
            }
        }
        for (own, found) in pairs.into_iter().filter(|(own, _)| !self.taken.contains(own)).collect::<Vec<_>>() {
            self.pairs[found.index()] = Some(own);
            self.taken.insert(own);
        }
    }

    /// How much it speaks for two events that they are paired; 0 if they cannot be.
    fn weight(&self, own: &Event, found: &Event) -> u32 {
        let reply = |returning: &Option<Label>| returning.as_ref().map(Label::text);
        match (own, found) {
            (
                Event::Message { relation: own, returning: then, .. },
                Event::Message { relation: found, returning: now, .. },
            ) => {
                let is_alike = self.is_alike(*own, self.facts.relation(*found), true);
                if is_alike { 2 + u32::from(reply(then) == reply(now)) } else { 0 }
            }
            _ if said(own).is_some() && said(own) == said(found) => 2,
            _ => 0,
        }
    }

    fn is_alike(&self, own: RelationId, found: &Relation, with_label: bool) -> bool {
        let own = self.own.relation(own);
        let number = |id: ElementId| self.numbers[id.index()];
        let label = |relation: &Relation| relation.label.as_ref().map(Label::text);
        (own.verb, own.from, own.to) == (found.verb, number(found.from), number(found.to))
            && own.span.source.is_root()
            && (!with_label || label(own) == label(found))
    }
}

fn messages(events: &[Event]) -> Vec<RelationId> {
    events.iter().filter_map(message).collect()
}

fn message(event: &Event) -> Option<RelationId> {
    if let Event::Message { relation, .. } = event { Some(*relation) } else { None }
}

fn guard(operand: &Operand) -> Option<String> {
    operand.guard.as_ref().map(Label::text)
}

/// A sort of event with its text.
pub(super) type Said = (&'static str, String);

/// What tells a divider, a gap, a reference or a remark from others.
pub(super) fn said(event: &Event) -> Option<Said> {
    let text = |label: &Label| label.text();
    match event {
        Event::Message { .. } | Event::Fragment { .. } => None,
        Event::Reference { sequence, .. } => Some(("see", sequence.value.clone())),
        Event::Phase { label, .. } => Some(("phase", text(label))),
        Event::Pause { label, .. } => Some(("pause", label.as_ref().map(text).unwrap_or_default())),
        Event::Remark { label, .. } => Some(("remark", text(label))),
    }
}
