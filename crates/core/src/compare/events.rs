//! What happens in two versions of a sequence: where messages stand in time and in fragments, and
//! fragments, dividers, remarks and references themselves.

use super::{Change, Fate, Subject, differ};
use crate::model::{Diagram, Item, Operand};
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
    /// Everything else, as it would be told, with its line.
    others: Vec<(String, u32)>,
}

impl Events {
    pub(super) fn of(diagram: &Diagram) -> Self {
        let mut events = Self::default();
        events.take(diagram, &diagram.items, "");
        events
    }

    fn take(&mut self, diagram: &Diagram, items: &[Item], inside: &str) {
        let text = |l: &crate::syntax::Label| l.text().replace('\n', " ");
        for item in items {
            match item {
                Item::Message { relation, body, returning, guard, within } => {
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
                Item::Fragment { operator, operands, line } => {
                    let named = |o: &Operand| o.guard.as_ref().map_or(String::new(), |g| format!(" [{}]", text(g)));
                    let all: String = operands.iter().map(named).collect();
                    self.others.push((format!("{}{all}", operator.word()), *line));
                    for operand in operands {
                        let own = format!("{}{}", operator.word(), named(operand));
                        let path = if inside.is_empty() { own } else { format!("{inside}, {own}") };
                        self.take(diagram, &operand.items, &path);
                    }
                }
                Item::Reference { label, line, .. } => self.others.push((format!("see \"{}\"", text(label)), *line)),
                Item::Phase { label, line } => self.others.push((format!("phase \"{}\"", text(label)), *line)),
                Item::Pause { label, line } => {
                    let label = label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", text(l)));
                    self.others.push((format!("pause{label}"), *line));
                }
                Item::Remark { across, label, line, .. } => {
                    let on: Vec<&str> = across.iter().map(|e| diagram.element(*e).key.as_str()).collect();
                    self.others.push((format!("remark on {} \"{}\"", on.join(", "), text(label)), *line));
                }
            }
        }
    }

    /// What differs between a message here and one in a later version.
    pub(super) fn message_details(&self, here: usize, later: &Events, there: usize) -> Vec<String> {
        let (Some(a), Some(b)) = (self.messages.get(&here), later.messages.get(&there)) else { return Vec::new() };
        let some = |s: &str| (!s.is_empty()).then(|| s.to_owned());
        let mut details = Vec::new();
        differ(&mut details, "inside", some(&a.inside), some(&b.inside));
        differ(&mut details, "returning", a.returning.clone(), b.returning.clone());
        differ(&mut details, "when", a.guard.clone(), b.guard.clone());
        differ(&mut details, "within", a.within.clone(), b.within.clone());
        details
    }

    /// Everything but messages, against a later version.
    pub(super) fn others_against(&self, later: &Events) -> Vec<Change> {
        let change = |fate, (what, line): &(String, u32)| Change {
            fate,
            subject: Subject::Event,
            id: what.clone(),
            what: what.clone(),
            details: Vec::new(),
            says: vec![super::words::alone(fate, &format!("`{what}`"))],
            line: *line,
        };
        let only = |these: &Events, those: &Events| -> Vec<(String, u32)> {
            let mut left: Vec<&str> = those.others.iter().map(|o| o.0.as_str()).collect();
            let is_new = |o: &&(String, u32)| match left.iter().position(|l| *l == o.0) {
                Some(at) => {
                    left.swap_remove(at);
                    false
                }
                None => true,
            };
            these.others.iter().filter(is_new).cloned().collect()
        };
        let came = only(later, self);
        let went = only(self, later);
        came.iter().map(|o| change(Fate::Came, o)).chain(went.iter().map(|o| change(Fate::Went, o))).collect()
    }
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
