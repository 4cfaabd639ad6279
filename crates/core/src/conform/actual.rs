//! A sequence as it really happened: without what never happens, with what nobody drew. Compared with the design, it gives the
//! picture of the differences.

use super::sequence::{Conformance, Difference};
use crate::model::{Diagram, Element, ElementId, ElementKind, Event, Rare, Relation, RelationId, Verb};
use crate::source::Span;
use crate::syntax::Label;
use std::collections::{BTreeMap, BTreeSet};

/// The sequence as traces show it.
pub fn actual(design: &Diagram, conformance: &Conformance) -> Diagram {
    let absent: BTreeSet<RelationId> = {
        let absent = conformance.differences.iter().filter_map(|difference| match difference {
            Difference::Absent { message, seen: 0 } => Some(*message),
            _ => None,
        });
        absent.collect()
    };
    let mut out = design.clone();
    let numbers = without(&mut out, &absent);
    for difference in &conformance.differences {
        let (message, what) = match difference {
            Difference::Absent { message, seen } => (message, format!("in {seen} of {}", conformance.traces)),
            Difference::Repeated { message, most, .. } => (message, format!("up to {most} times")),
            Difference::Order { message, seen, .. } => {
                (message, format!("too early in {seen} of {}", conformance.traces))
            }
            Difference::Untaken { span, .. } => {
                out.events_mut().into_iter().for_each(|events| mark_branch(events, *span));
                continue;
            }
            Difference::Surprise { .. } | Difference::Unobserved { .. } => continue,
        };
        if let Some(number) = numbers.get(message) {
            let relation = &mut out.relations[number.index()];
            let label = relation.label.as_ref().map_or(String::new(), |label| format!("{} ", label.text()));
            relation.label = Some(Label::plain(format!("{label}({what})"), relation.span));
        }
    }
    let mut parties: BTreeMap<String, ElementId> = BTreeMap::new();
    for difference in &conformance.differences {
        let Difference::Surprise { call, ends, after, .. } = difference else { continue };
        let [from, to] = [(call.from.as_ref(), ends[0]), (Some(&call.to), ends[1])];
        let Some(to) = party(&mut out, to, &mut parties) else { continue };
        let Some(from) = party(&mut out, from, &mut parties) else { continue };
        let verb = if call.is_sent { Verb::Sends } else { Verb::Calls };
        let mut relation = Relation::between(from, to, verb, design.span);
        relation.label = (!call.label.is_empty()).then(|| Label::plain(&call.label, design.span));
        relation.key = format!("observed {}", out.relations.len());
        out.relations.push(relation);
        let relation = RelationId(out.relations.len() as u32 - 1);
        let event = Event::Message { relation, body: Vec::new(), returning: None, guard: None, within: None };
        let before = after.and_then(|id| numbers.get(&id)).copied();
        // What the receiver of that message does is part of its work.
        let is_inside = before.is_some_and(|before| out.relation(before).to == from);
        if let Some(events) = out.events_mut() {
            put(events, before, is_inside, event);
        }
    }
    out
}

/// Says at a branch that nobody takes it.
fn mark_branch(events: &mut [Event], span: Span) {
    for event in events {
        match event {
            Event::Message { body, .. } => mark_branch(body, span),
            Event::Fragment { operands, .. } => {
                for operand in operands {
                    if operand.span == span {
                        let guard = operand.guard.as_ref().map_or(String::new(), |guard| format!("{}, ", guard.text()));
                        operand.guard = Some(Label::plain(format!("{guard}never taken"), span));
                    }
                    mark_branch(&mut operand.items, span);
                }
            }
            _ => {}
        }
    }
}

/// Takes messages out; what happens in them stays. Gives the new numbers of the others.
fn without(diagram: &mut Diagram, absent: &BTreeSet<RelationId>) -> BTreeMap<RelationId, RelationId> {
    let ids = (0..diagram.relations.len() as u32).map(RelationId).filter(|id| !absent.contains(id));
    let numbers: BTreeMap<RelationId, RelationId> = ids.zip((0..).map(RelationId)).collect();
    remove(diagram, absent);
    if let Some(events) = diagram.events_mut() {
        let all = std::mem::take(events);
        *events = kept(all, &numbers);
    }
    numbers
}

/// Takes relations out; those behind them get new numbers.
pub(super) fn remove(diagram: &mut Diagram, absent: &BTreeSet<RelationId>) {
    let mut ids = (0..).map(RelationId);
    diagram.relations.retain(|_| ids.next().is_some_and(|id| !absent.contains(&id)));
}

fn kept(events: Vec<Event>, numbers: &BTreeMap<RelationId, RelationId>) -> Vec<Event> {
    let mut out = Vec::new();
    for event in events {
        match event {
            Event::Message { relation, body, returning, guard, within } => {
                let body = kept(body, numbers);
                match numbers.get(&relation) {
                    Some(number) => out.push(Event::Message { relation: *number, body, returning, guard, within }),
                    None => out.extend(body),
                }
            }
            Event::Fragment { operator, mut operands, span } => {
                for operand in &mut operands {
                    operand.items = kept(std::mem::take(&mut operand.items), numbers);
                }
                out.push(Event::Fragment { operator, operands, span });
            }
            other => out.push(other),
        }
    }
    out
}

/// A party of the diagram, or a new one; nothing where nobody knows who it was.
fn party(
    diagram: &mut Diagram, (name, known): (Option<&String>, Option<ElementId>),
    parties: &mut BTreeMap<String, ElementId>,
) -> Option<ElementId> {
    let name = match (known, name) {
        (Some(known), _) => return Some(known),
        (None, name) => name?,
    };
    let next = ElementId(diagram.elements.len() as u32);
    let id = *parties.entry(name.clone()).or_insert(next);
    if id == next {
        diagram.elements.push(Element {
            key: name.clone(),
            name: name.clone(),
            label: None,
            kind: ElementKind::Party,
            parent: None,
            span: diagram.span,
            implicit: false,
            properties: Rare::default(),
            traits: Vec::new(),
            class: None,
        });
    }
    Some(id)
}

/// Puts an event behind a message, or first into it; at the end without one.
fn put(events: &mut Vec<Event>, before: Option<RelationId>, is_inside: bool, event: Event) {
    let left = match before {
        Some(before) => put_behind(events, before, is_inside, event),
        None => Some(event),
    };
    events.extend(left);
}

fn put_behind(events: &mut Vec<Event>, before: RelationId, is_inside: bool, event: Event) -> Option<Event> {
    let is_it = |event: &Event| matches!(event, Event::Message { relation, .. } if *relation == before);
    if let Some(at) = events.iter().position(is_it) {
        match &mut events[at] {
            Event::Message { body, .. } if is_inside => body.insert(0, event),
            _ => events.insert(at + 1, event),
        }
        return None;
    }
    let mut left = Some(event);
    for inner in events {
        let event = left.take()?;
        left = match inner {
            Event::Message { body, .. } => put_behind(body, before, is_inside, event),
            Event::Fragment { operands, .. } => operands
                .iter_mut()
                .try_fold(event, |event, operand| put_behind(&mut operand.items, before, is_inside, event)),
            _ => Some(event),
        };
    }
    left
}
