//! What happens in two versions of a sequence: where messages stand in time and in fragments, and
//! fragments, dividers, remarks and references themselves.

use super::change::{Change, Difference, Fate, Field, Said, Subject};
use super::pairing::take_pairs;
use crate::model::{Diagram, Event, Operand, Operator};
use crate::source::Span;
use std::collections::{BTreeMap, BTreeSet};

/// A message's place and clauses.
#[derive(Default)]
struct Message {
    place: usize,
    /// The fragments around it, the outermost first, each with the number of the operand.
    inside: Vec<(usize, usize)>,
    returning: Option<String>,
    guard: Option<String>,
    within: Option<String>,
}

impl Message {
    /// Its clauses.
    fn said(&self) -> Said<3> {
        [
            (Field::Returning, self.returning.clone()),
            (Field::When, self.guard.clone()),
            (Field::Within, self.within.clone()),
        ]
    }
}

/// A combined fragment.
struct Fragment {
    operator: Operator,
    /// Of each operand; empty where it has none.
    guards: Vec<String>,
    span: Span,
    /// The messages inside, by the numbers of their relations.
    messages: BTreeSet<usize>,
}

impl Fragment {
    /// As it would be reported.
    fn text(&self) -> String {
        (0..self.guards.len()).map(|i| self.guard(i)).fold(self.operator.word().to_owned(), |all, guard| all + &guard)
    }

    /// As it is called where it is known: by its first guard.
    fn name(&self) -> String {
        let more = if self.guards.len() > 1 { " …" } else { "" };
        format!("{}{}{more}", self.operator.word(), self.guard(0))
    }

    fn guard(&self, operand: usize) -> String {
        self.guards.get(operand).filter(|g| !g.is_empty()).map_or(String::new(), |g| format!(" [{g}]"))
    }
}

/// A divider, a pause, a remark or a reference.
struct Other {
    /// As it would be reported.
    text: String,
    span: Span,
    /// How many messages come before it.
    place: usize,
}

/// A flat view of what happens.
#[derive(Default)]
pub(crate) struct Events {
    /// By the number of the relation.
    messages: BTreeMap<usize, Message>,
    fragments: Vec<Fragment>,
    others: Vec<Other>,
}

impl Events {
    pub(crate) fn of(diagram: &Diagram) -> Self {
        let mut events = Self::default();
        events.take(diagram, diagram.events(), &mut Vec::new());
        events
    }

    fn take(&mut self, diagram: &Diagram, items: &[Event], inside: &mut Vec<(usize, usize)>) {
        let text = |l: &crate::syntax::Label| l.text().replace('\n', " ");
        let names = |ids: &[crate::model::ElementId]| -> String {
            ids.iter().map(|e| diagram.element(*e).key.as_str()).collect::<Vec<_>>().join(", ")
        };
        for item in items {
            match item {
                Event::Message { relation, body, returning, guard, within } => {
                    let message = Message {
                        place: self.messages.len(),
                        inside: inside.clone(),
                        returning: returning.as_ref().map(text),
                        guard: guard.as_ref().map(text),
                        within: within.as_ref().map(text),
                    };
                    self.messages.insert(relation.index(), message);
                    for (fragment, _) in inside.iter() {
                        self.fragments[*fragment].messages.insert(relation.index());
                    }
                    self.take(diagram, body, inside);
                }
                Event::Fragment { operator, operands, span } => {
                    let guard = |o: &Operand| o.guard.as_ref().map_or(String::new(), text);
                    let guards = operands.iter().map(guard).collect();
                    let number = self.fragments.len();
                    let (operator, span, messages) = (*operator, *span, BTreeSet::new());
                    self.fragments.push(Fragment { operator, guards, span, messages });
                    for (i, operand) in operands.iter().enumerate() {
                        inside.push((number, i));
                        self.take(diagram, &operand.items, inside);
                        inside.pop();
                    }
                }
                Event::Reference { label, across, span, .. } => {
                    self.add(format!("see \"{}\" across {}", text(label), names(across)), *span);
                }
                Event::Phase { label, span } => self.add(format!("phase \"{}\"", text(label)), *span),
                Event::Pause { label, span } => {
                    let label = label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", text(l)));
                    self.add(format!("pause{label}"), *span);
                }
                Event::Remark { across, label, span, .. } => {
                    self.add(format!("remark on {} \"{}\"", names(across), text(label)), *span);
                }
            }
        }
    }

    fn add(&mut self, text: String, span: Span) {
        self.others.push(Other { text, span, place: self.messages.len() });
    }

    /// The fragments around a message in words, the outermost first.
    fn around(&self, message: &Message) -> String {
        let one = |(fragment, operand): &(usize, usize)| {
            let fragment = &self.fragments[*fragment];
            format!("{}{}", fragment.operator.word(), fragment.guard(*operand))
        };
        message.inside.iter().map(one).collect::<Vec<_>>().join(", ")
    }

    /// What a message says in its clauses, and the fragments around it; `None` for a relation that is no message.
    pub(super) fn said(&self, message: usize) -> Option<(Said<3>, String)> {
        self.messages.get(&message).map(|message| (message.said(), self.around(message)))
    }

    /// What differs between the clauses of a message here and one in a later version.
    fn differences(&self, here: usize, later: &Events, there: usize) -> Vec<Difference> {
        let (Some(a), Some(b)) = (self.messages.get(&here), later.messages.get(&there)) else { return Vec::new() };
        Difference::fields(a.said(), b.said())
    }

    /// Everything but messages and fragments, against a later version.
    fn others_against<'a>(&'a self, later: &'a Events, stays: &Stays) -> Vec<Change> {
        let mut gone: Vec<&Other> = self.others.iter().collect();
        let mut added: Vec<&Other> = later.others.iter().collect();
        let text = |other: &'a Other| other.text.as_str();
        let mut changes = Vec::new();
        for (was, other) in take_pairs(&mut gone, &mut added, (text, text)) {
            if stays.then(was.place) != stays.now(other.place) {
                let before = stays.next(other.place);
                let spans = [Some(was.span), Some(other.span)];
                changes.push(change(Fate::Moved, &other.text, spans, vec![Difference::EventInTime { before }]));
            }
        }
        changes.extend(added.into_iter().map(|o| change(Fate::Added, &o.text, [None, Some(o.span)], Vec::new())));
        changes.extend(gone.into_iter().map(|o| change(Fate::Removed, &o.text, [Some(o.span), None], Vec::new())));
        changes
    }
}

/// Two versions of what happens, with the messages that both have.
pub(super) struct BothEvents<'a> {
    then: &'a Events,
    now: &'a Events,
    /// The messages that both have: their places then and now, with their numbers now; in the order of then.
    placed: Vec<(usize, usize, usize)>,
    /// Of each of them, whether it kept its order.
    kept: Vec<bool>,
    stays: Stays,
    /// Which message is which, by their numbers; the newer ones by the older ones.
    to_new: BTreeMap<usize, usize>,
    /// Which fragment is which, by their numbers.
    fragments: BTreeMap<usize, usize>,
    /// The same, the other way.
    olds: BTreeMap<usize, usize>,
}

impl<'a> BothEvents<'a> {
    pub(super) fn of([then, now]: [&'a Events; 2], pairs: &'a [(usize, usize)]) -> Self {
        let to_new: BTreeMap<usize, usize> = pairs.iter().copied().collect();
        let fragments = same_fragments(then, now, &to_new);
        let olds = fragments.iter().map(|(o, n)| (*n, *o)).collect();
        let place = |(o, n): &(usize, usize)| Some((then.messages.get(o)?.place, now.messages.get(n)?.place, *n));
        let mut placed: Vec<(usize, usize, usize)> = pairs.iter().filter_map(place).collect();
        placed.sort_unstable();
        let kept = crate::source::increasing::kept(&placed.iter().map(|p| p.1).collect::<Vec<_>>());
        let stays = Stays::of(&placed, &kept);
        Self { then, now, placed, kept, stays, to_new, fragments, olds }
    }

    /// What differs between a message then and now: its clauses, and the fragments that it stands in. Fragments that are new or
    /// gone are changes of their own.
    pub(super) fn differences(&self, (o, n): (usize, usize)) -> Vec<Difference> {
        let mut all = self.then.differences(o, self.now, n);
        let (Some(a), Some(b)) = (self.then.messages.get(&o), self.now.messages.get(&n)) else { return all };
        let then: Vec<(usize, usize)> =
            a.inside.iter().filter_map(|(f, operand)| Some((*self.fragments.get(f)?, *operand))).collect();
        let now: Vec<(usize, usize)> = b.inside.iter().filter(|(f, _)| self.olds.contains_key(f)).copied().collect();
        if then != now {
            let some = |s: String| (!s.is_empty()).then_some(s);
            let (old, new) = (some(self.then.around(a)), some(self.now.around(b)));
            all.push(Difference::Field { field: Field::Inside, old, new });
        }
        all
    }

    /// The changes of everything but messages.
    pub(super) fn changes(&self) -> Vec<Change> {
        let mut changes = Vec::new();
        let in_both: BTreeSet<usize> = self.to_new.values().copied().collect();
        let stay_in = |fragment: &Fragment, is_there: &dyn Fn(usize) -> bool| {
            let messages = fragment.messages.iter().filter(|m| is_there(**m)).count();
            if messages > 0 { vec![Difference::Around { messages }] } else { Vec::new() }
        };
        for (n, fragment) in self.now.fragments.iter().enumerate() {
            let Some(o) = self.olds.get(&n) else {
                let around = stay_in(fragment, &|m| in_both.contains(&m));
                changes.push(change(Fate::Added, &fragment.text(), [None, Some(fragment.span)], around));
                continue;
            };
            let before = &self.then.fragments[*o];
            let differences = of_fragment(before, fragment);
            if !differences.is_empty() {
                changes.push(change(
                    Fate::Changed,
                    &before.name(),
                    [Some(before.span), Some(fragment.span)],
                    differences,
                ));
            }
        }
        for fragment in (0..).zip(&self.then.fragments).filter(|(o, _)| !self.fragments.contains_key(o)).map(|f| f.1) {
            let around = stay_in(fragment, &|m| self.to_new.contains_key(&m));
            changes.push(change(Fate::Removed, &fragment.text(), [Some(fragment.span), None], around));
        }
        changes.extend(self.then.others_against(self.now, &self.stays));
        changes
    }

    /// Of the messages that both have, those that are out of the common order: the fewest whose move explains it. Numbers are of
    /// the later version.
    pub(super) fn moved(&self) -> Vec<(usize, Place)> {
        let place = |p: &(usize, usize, usize)| (p.2, Place { number: p.0 + 1, before: self.stays.next(p.1) });
        self.placed.iter().zip(&self.kept).filter(|(_, kept)| !**kept).map(|(p, _)| place(p)).collect()
    }
}

/// Which fragment is which: those first that share the most messages, then those that read the same, in their order.
fn same_fragments(then: &Events, now: &Events, to_new: &BTreeMap<usize, usize>) -> BTreeMap<usize, usize> {
    let mut alike: Vec<(usize, usize, usize)> = Vec::new();
    for (o, a) in then.fragments.iter().enumerate() {
        let mut shared: BTreeMap<usize, usize> = BTreeMap::new();
        let here = a.messages.iter().filter_map(|m| now.messages.get(to_new.get(m)?));
        for (n, _) in here.flat_map(|message| &message.inside) {
            *shared.entry(*n).or_default() += 1;
        }
        alike.extend(shared.into_iter().map(|(n, shared)| {
            let b = &now.fragments[n];
            (4 * shared + usize::from(a.operator == b.operator) + 2 * usize::from(a.text() == b.text()), o, n)
        }));
    }
    alike.sort_by_key(|(likeness, o, n)| (std::cmp::Reverse(*likeness), *o, *n));
    let (mut fragments, mut taken) = (BTreeMap::new(), BTreeSet::new());
    for (_, o, n) in alike {
        if !fragments.contains_key(&o) && taken.insert(n) {
            fragments.insert(o, n);
        }
    }
    let mut gone: Vec<usize> = (0..then.fragments.len()).filter(|o| !fragments.contains_key(o)).collect();
    let mut left: Vec<usize> = (0..now.fragments.len()).filter(|n| !taken.contains(n)).collect();
    let texts = (|o: usize| then.fragments[o].text(), |n: usize| now.fragments[n].text());
    fragments.extend(take_pairs(&mut gone, &mut left, texts));
    fragments
}

/// What differs between two versions of a fragment.
fn of_fragment(a: &Fragment, b: &Fragment) -> Vec<Difference> {
    let operator = |f: &Fragment| Some(f.operator.word().to_owned());
    let some = |f: &Fragment, i: usize| f.guards.get(i).filter(|g| !g.is_empty()).cloned();
    let guards = (0..a.guards.len().max(b.guards.len())).map(|i| (Field::Guard, some(a, i), some(b, i)));
    let fields = std::iter::once((Field::Kind, operator(a), operator(b))).chain(guards);
    fields.filter_map(|(field, then, now)| Difference::field(field, then, now)).collect()
}

/// The messages that kept their order, by their places then and now, both sorted.
struct Stays {
    then: Vec<usize>,
    now: Vec<usize>,
}

impl Stays {
    fn of(placed: &[(usize, usize, usize)], kept: &[bool]) -> Self {
        let stayed = || placed.iter().zip(kept).filter(|(_, kept)| **kept).map(|(p, _)| p);
        Self { then: stayed().map(|p| p.0).collect(), now: stayed().map(|p| p.1).collect() }
    }

    /// How many of them come before a place then.
    fn then(&self, place: usize) -> usize {
        self.then.partition_point(|p| *p < place)
    }

    /// How many of them come before a place now.
    fn now(&self, place: usize) -> usize {
        self.now.partition_point(|p| *p < place)
    }

    /// The number then, from 1, of the one that comes next after a place now.
    fn next(&self, place: usize) -> Option<usize> {
        self.then.get(self.now(place)).map(|p| p + 1)
    }
}

/// A change of an event.
fn change(fate: Fate, what: &str, [old, new]: [Option<Span>; 2], differences: Vec<Difference>) -> Change {
    let span = new.or(old).unwrap_or_default();
    Change { fate, subject: Subject::Event(what.to_owned()), differences, span, old_span: old }
}

/// Where a message was, and before which one it is now; numbers are those of the older version, from 1.
pub(super) struct Place {
    pub(super) number: usize,
    /// `None` if it is the last one now.
    pub(super) before: Option<usize>,
}
