//! Two versions of the relations and messages of a diagram: paired by ends, verb and text, then by what they share.

use super::change::{Change, Difference, ElementName, Fate, Field, Said, Subject};
use super::events::{BothEvents, Events};
use super::matching::Matching;
use super::pairing::take_pairs;
use super::written;
use crate::model::{Diagram, ElementId, Relation, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// Which relation of one version is which of the other, by index, in the order of the newer one.
pub(crate) struct Paired {
    /// In the order of the newer version.
    pub(crate) pairs: Vec<(usize, usize)>,
    pub(super) added: Vec<usize>,
    pub(super) removed: Vec<usize>,
}

/// An end of a relation: whether it is there in the newer version, and its number there or in the older one.
type End = (bool, usize);
type Ends = (End, End);

impl Paired {
    pub(crate) fn of([old, new]: [&Diagram; 2], matched: &Matching, events: [&Events; 2]) -> Self {
        let in_new = |id: usize| matched.to_new.get(&id).map_or((false, id), |n| (true, *n));
        let ends_then = |o: usize| (in_new(old.relations[o].from.index()), in_new(old.relations[o].to.index()));
        let ends_now = |n: usize| ((true, new.relations[n].from.index()), (true, new.relations[n].to.index()));
        // 1. The same ends and verb: those with equal texts are the same, the others follow in order.
        let (mut gone, mut left): (Vec<usize>, Vec<usize>) =
            ((0..old.relations.len()).collect(), (0..new.relations.len()).collect());
        let then = |o: usize| (ends_then(o), old.relations[o].verb);
        let now = |n: usize| (ends_now(n), new.relations[n].verb);
        let all_then = |o: usize| (then(o), said(&old.relations[o]), events[0].said(o));
        let all_now = |n: usize| (now(n), said(&new.relations[n]), events[1].said(n));
        let mut pairs = take_pairs(&mut gone, &mut left, (all_then, all_now));
        pairs.extend(take_pairs(&mut gone, &mut left, (then, now)));
        // 2. The same ends with another verb, then the same text and verb with one other end, if that is the only such pair.
        pairs.extend(take_pairs(&mut gone, &mut left, (ends_then, ends_now)));
        pairs.extend(led_elsewhere([old, new], &mut gone, &mut left, (&ends_then, &ends_now)));
        pairs.sort_unstable_by_key(|p| p.1);
        Self { pairs, added: left, removed: gone }
    }

    /// What a relation of the newer version was.
    pub(super) fn old_of(&self, n: usize) -> Option<usize> {
        self.pairs.binary_search_by_key(&n, |p| p.1).ok().map(|at| self.pairs[at].0)
    }
}

/// Takes pairs out of what is left of both versions that say the same with the same verb and have one end in common, where
/// there is only one such pair. No two that are left have both ends in common.
fn led_elsewhere(
    [old, new]: [&Diagram; 2], gone: &mut Vec<usize>, left: &mut Vec<usize>,
    (ends_then, ends_now): (&dyn Fn(usize) -> Ends, &dyn Fn(usize) -> Ends),
) -> Vec<(usize, usize)> {
    let said = |r: &Relation| r.label.as_ref().map(|l| l.text()).filter(|t| !t.is_empty()).map(|t| (r.verb, t));
    let mut waiting: BTreeMap<(bool, End, (Verb, String)), BTreeSet<usize>> = BTreeMap::new();
    let keys = |(from, to): Ends, said: (Verb, String)| [(false, from, said.clone()), (true, to, said)];
    for o in gone.iter() {
        for key in said(&old.relations[*o]).into_iter().flat_map(|said| keys(ends_then(*o), said)) {
            waiting.entry(key).or_default().insert(*o);
        }
    }
    let mut pairs = Vec::new();
    left.retain(|n| {
        let Some(said) = said(&new.relations[*n]) else { return true };
        let alike = |key| waiting.get(&key).into_iter().flatten().copied();
        let alike: Vec<usize> = keys(ends_now(*n), said.clone()).into_iter().flat_map(alike).take(2).collect();
        let [o] = alike[..] else { return true };
        for key in keys(ends_then(o), said) {
            waiting.entry(key).or_default().remove(&o);
        }
        pairs.push((o, *n));
        false
    });
    let taken: BTreeSet<usize> = pairs.iter().map(|p| p.0).collect();
    gone.retain(|o| !taken.contains(o));
    pairs
}

/// What a relation says, apart from its ends, its verb and its place among what happens.
fn said(relation: &Relation) -> Said<6> {
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let some = |s: String| (!s.is_empty()).then_some(s);
    [
        (Field::Label, text(&relation.label)),
        (Field::Branch, text(&relation.start)),
        (Field::Over, text(&relation.over)),
        (Field::Beginning, some(relation.ends[0].shown())),
        (Field::End, some(relation.ends[1].shown())),
        (Field::Traits, some(written::traits(&relation.traits))),
    ]
}

/// What differs between two versions of what a relation says.
fn differences([old, new]: [&Diagram; 2], (o, n): (usize, usize)) -> Vec<Difference> {
    Difference::fields(said(&old.relations[o]), said(&new.relations[n]))
}

/// Everything that differs between two versions of a relation, but for its place in time.
pub(super) fn all_differences(
    diagrams: [&Diagram; 2], (o, n): (usize, usize), matched: &Matching, events: &BothEvents<'_>,
) -> Vec<Difference> {
    let [old, new] = diagrams;
    let (a, b) = (&old.relations[o], &new.relations[n]);
    let mut all = differences(diagrams, (o, n));
    all.extend(events.differences((o, n)));
    if a.verb != b.verb {
        all.push(Difference::Verb { old: a.verb, new: b.verb });
    }
    let ends = |then, now| (ElementName::of(old.element(then)), ElementName::of(new.element(now)));
    if leads_elsewhere(matched, a.to, b.to) {
        let (old, new) = ends(a.to, b.to);
        all.push(Difference::To { old, new });
    }
    if leads_elsewhere(matched, a.from, b.from) {
        let (old, new) = ends(a.from, b.from);
        all.push(Difference::From { old, new });
    }
    all
}

/// Whether an end of a relation is another element now.
fn leads_elsewhere(matched: &Matching, then: ElementId, now: ElementId) -> bool {
    matched.to_new.get(&then.index()) != Some(&now.index())
}

/// The changes of all relations; of the pairs in `led` it does not count where they lead. In the order of the newer text, those that were removed last.
pub(super) fn compare(
    diagrams: [&Diagram; 2], (paired, led): (&Paired, &BTreeSet<(usize, usize)>), matched: &Matching,
    events: &BothEvents<'_>,
) -> Vec<Change> {
    let [old, new] = diagrams;
    let added = paired.added.iter().map(|n| change(Fate::Added, new, &new.relations[*n], Vec::new()));
    let removed = paired.removed.iter().map(|o| {
        let relation = &old.relations[*o];
        Change { old_span: Some(relation.span), ..change(Fate::Removed, old, relation, Vec::new()) }
    });
    let was = |o: usize| Some(old.relations[o].span);
    let mut changes: Vec<Change> = added.chain(removed).collect();
    for (o, n) in &paired.pairs {
        let mut differences = all_differences(diagrams, (*o, *n), matched, events);
        // A step that is new or gone explains where it leads.
        if led.contains(&(*o, *n)) {
            differences.retain(|d| !matches!(d, Difference::To { .. } | Difference::From { .. }));
        }
        if !differences.is_empty() {
            let change = change(Fate::Changed, new, &new.relations[*n], differences);
            changes.push(Change { old_span: was(*o), ..change });
        }
    }
    for (n, place) in events.moved() {
        let in_time = Difference::InTime { number: place.number, before: place.before };
        let before = paired.old_of(n).and_then(was);
        changes.push(Change { old_span: before, ..change(Fate::Moved, new, &new.relations[n], vec![in_time]) });
    }
    changes.sort_by_key(|c| (c.fate == Fate::Removed, c.span.source, c.span.start));
    changes
}

pub(super) fn change(fate: Fate, diagram: &Diagram, relation: &Relation, differences: Vec<Difference>) -> Change {
    let end = |id| ElementName::of(diagram.element(id));
    let subject = Subject::Relation {
        key: relation.key.clone(),
        from: end(relation.from),
        verb: relation.verb,
        to: end(relation.to),
        label: relation.label.as_ref().map(|l| l.text()),
    };
    Change { fate, subject, differences, span: relation.span, old_span: None }
}
