//! What happens in two versions of a sequence: where messages stand in time and in fragments, and
//! fragments, dividers, remarks and references themselves.

use super::change::{Change, Difference, Fate, Field, Subject};
use crate::model::{Diagram, Event, Operand};
use crate::source::Span;
use std::collections::BTreeMap;

/// A message's place and clauses.
#[derive(Default)]
struct Message {
    place: usize,
    inside: String,
    returning: Option<String>,
    guard: Option<String>,
    within: Option<String>,
}

/// A flat view of what happens.
#[derive(Default)]
pub(super) struct Events {
    /// By the number of the relation.
    messages: BTreeMap<usize, Message>,
    /// Everything else, as it would be reported, and where it was written.
    others: Vec<(String, Span)>,
}

impl Events {
    pub(super) fn of(diagram: &Diagram) -> Self {
        let mut events = Self::default();
        events.take(diagram, diagram.events(), "");
        events
    }

    fn take(&mut self, diagram: &Diagram, items: &[Event], inside: &str) {
        let text = |l: &crate::syntax::Label| l.text().replace('\n', " ");
        for item in items {
            match item {
                Event::Message { relation, body, returning, guard, within } => {
                    let message = Message {
                        place: self.messages.len(),
                        inside: inside.to_owned(),
                        returning: returning.as_ref().map(text),
                        guard: guard.as_ref().map(text),
                        within: within.as_ref().map(text),
                    };
                    self.messages.insert(relation.index(), message);
                    self.take(diagram, body, inside);
                }
                Event::Fragment { operator, operands, span } => {
                    let named = |o: &Operand| o.guard.as_ref().map_or(String::new(), |g| format!(" [{}]", text(g)));
                    let all: String = operands.iter().map(named).collect();
                    self.others.push((format!("{}{all}", operator.word()), *span));
                    for operand in operands {
                        let own = format!("{}{}", operator.word(), named(operand));
                        let path = if inside.is_empty() { own } else { format!("{inside}, {own}") };
                        self.take(diagram, &operand.items, &path);
                    }
                }
                Event::Reference { label, span, .. } => self.others.push((format!("see \"{}\"", text(label)), *span)),
                Event::Phase { label, span } => self.others.push((format!("phase \"{}\"", text(label)), *span)),
                Event::Pause { label, span } => {
                    let label = label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", text(l)));
                    self.others.push((format!("pause{label}"), *span));
                }
                Event::Remark { across, label, span, .. } => {
                    let on: Vec<&str> = across.iter().map(|e| diagram.element(*e).key.as_str()).collect();
                    self.others.push((format!("remark on {} \"{}\"", on.join(", "), text(label)), *span));
                }
            }
        }
    }

    /// What differs between a message here and one in a later version.
    pub(super) fn differences(&self, here: usize, later: &Events, there: usize) -> Vec<Difference> {
        let (Some(a), Some(b)) = (self.messages.get(&here), later.messages.get(&there)) else { return Vec::new() };
        let some = |s: &str| (!s.is_empty()).then(|| s.to_owned());
        let fields = [
            (Field::Inside, some(&a.inside), some(&b.inside)),
            (Field::Returning, a.returning.clone(), b.returning.clone()),
            (Field::When, a.guard.clone(), b.guard.clone()),
            (Field::Within, a.within.clone(), b.within.clone()),
        ];
        fields.into_iter().filter_map(|(field, then, now)| Difference::field(field, then, now)).collect()
    }

    /// Everything but messages, against a later version.
    pub(super) fn others_against(&self, later: &Events) -> Vec<Change> {
        let added = later.others_without(self).into_iter().map(|other| change(Fate::Added, other));
        let removed = self.others_without(later).into_iter().map(|other| change(Fate::Removed, other));
        added.chain(removed).collect()
    }

    /// Those that have no equal in `these`; two that are alike need two.
    fn others_without(&self, these: &Events) -> Vec<&(String, Span)> {
        let mut left: Vec<&str> = these.others.iter().map(|o| o.0.as_str()).collect();
        let mut found = Vec::new();
        for other in &self.others {
            match left.iter().position(|l| *l == other.0) {
                Some(at) => _ = left.swap_remove(at),
                None => found.push(other),
            }
        }
        found
    }
}

/// An event that is new or gone.
fn change(fate: Fate, (what, span): &(String, Span)) -> Change {
    Change { fate, subject: Subject::Event(what.clone()), differences: Vec::new(), span: *span }
}

/// Where a message was, and before which one it is now; numbers are those of the older version, from 1.
pub(super) struct Place {
    pub(super) number: usize,
    /// `None` if it is the last one now.
    pub(super) before: Option<usize>,
}

/// Of paired messages, those that are out of the common order: the fewest whose move explains it (all
/// outside a longest increasing subsequence; O(n log n)). Numbers are of the later version.
pub(super) fn moved(then: &Events, now: &Events, pairs: &[(usize, usize)]) -> Vec<(usize, Place)> {
    let mut placed: Vec<(usize, usize, usize)> =
        pairs.iter().filter_map(|(o, n)| Some((then.messages.get(o)?.place, now.messages.get(n)?.place, *n))).collect();
    placed.sort_unstable();
    let mut tails: Vec<usize> = Vec::new();
    let mut before: Vec<Option<usize>> = vec![None; placed.len()];
    for (i, (_, place, _)) in placed.iter().enumerate() {
        let at = tails.partition_point(|t| placed[*t].1 < *place);
        before[i] = at.checked_sub(1).map(|b| tails[b]);
        if at == tails.len() { tails.push(i) } else { tails[at] = i }
    }
    let mut kept = vec![false; placed.len()];
    let mut at = tails.last().copied();
    while let Some(i) = at {
        kept[i] = true;
        at = before[i];
    }
    // By their places now: those that stayed, with their numbers then.
    let mut stayed: Vec<(usize, usize)> =
        placed.iter().zip(&kept).filter(|(_, kept)| **kept).map(|(p, _)| (p.1, p.0 + 1)).collect();
    stayed.sort_unstable();
    let next = |place: usize| stayed.get(stayed.partition_point(|s| s.0 <= place)).map(|s| s.1);
    let place = |p: &(usize, usize, usize)| (p.2, Place { number: p.0 + 1, before: next(p.1) });
    placed.iter().zip(kept).filter(|(_, kept)| !kept).map(|(p, _)| place(p)).collect()
}
