//! Two versions of the relations and messages of a diagram: paired by ends, verb and text, then by what they share.

use super::change::{Change, Difference, ElementName, Fate, Field, Subject};
use super::events::{BothEvents, Events};
use super::matching::Matching;
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

/// A relation's ends as elements of the newer version, where they are there, and its verb.
type Ends = ((bool, usize), (bool, usize), Verb);

impl Paired {
    pub(crate) fn of([old, new]: [&Diagram; 2], matched: &Matching, events: [&Events; 2]) -> Self {
        let in_new = |id: usize| matched.to_new.get(&id).map_or((false, id), |n| (true, *n));
        let ends_then = |o: usize| (in_new(old.relations[o].from.index()), in_new(old.relations[o].to.index()));
        let ends_now = |n: usize| ((true, new.relations[n].from.index()), (true, new.relations[n].to.index()));
        // 1. The same ends and verb: those with equal texts are the same, the others follow in order.
        let mut before: BTreeMap<Ends, Vec<usize>> = BTreeMap::new();
        for (o, relation) in old.relations.iter().enumerate() {
            let (from, to) = ends_then(o);
            before.entry((from, to, relation.verb)).or_default().push(o);
        }
        let mut pairs = Vec::new();
        let mut left = Vec::new();
        for (n, relation) in new.relations.iter().enumerate() {
            let (from, to) = ends_now(n);
            let olds = before.get_mut(&(from, to, relation.verb));
            let same = olds.and_then(|olds| {
                let at = olds.iter().position(|o| is_same([old, new], (*o, n), events))?;
                Some(olds.remove(at))
            });
            match same {
                Some(o) => pairs.push((o, n)),
                None => left.push(n),
            }
        }
        left.retain(|n| {
            let (from, to) = ends_now(*n);
            let olds = before.get_mut(&(from, to, new.relations[*n].verb)).filter(|olds| !olds.is_empty());
            let o = olds.map(|olds| olds.remove(0));
            pairs.extend(o.map(|o| (o, *n)));
            o.is_none()
        });
        let mut gone: Vec<usize> = before.into_values().flatten().collect();
        gone.sort_unstable();
        // 2. The same ends with another verb, then the same text and verb with one other end, if that is the only such pair.
        pairs.extend(take_pairs(&mut gone, &mut left, Choose::First, |o, n| ends_then(o) == ends_now(n)));
        let text = |r: &Relation| r.label.as_ref().map(|l| l.text()).filter(|t| !t.is_empty());
        let says_the_same = |a: &Relation, b: &Relation| a.verb == b.verb && text(a).is_some() && text(a) == text(b);
        let is_led_elsewhere = |o: usize, n: usize| {
            let ((from, to), (start, end)) = (ends_then(o), ends_now(n));
            ((from == start) != (to == end)) && says_the_same(&old.relations[o], &new.relations[n])
        };
        pairs.extend(take_pairs(&mut gone, &mut left, Choose::Only, is_led_elsewhere));
        pairs.sort_unstable_by_key(|p| p.1);
        Self { pairs, added: left, removed: gone }
    }

    /// What a relation of the newer version was.
    pub(super) fn old_of(&self, n: usize) -> Option<usize> {
        self.pairs.binary_search_by_key(&n, |p| p.1).ok().map(|at| self.pairs[at].0)
    }
}

/// Which of several pairs is taken.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Choose {
    First,
    /// None, if there are several.
    Only,
}

/// Takes pairs out of what is left of both sides.
fn take_pairs(
    old: &mut Vec<usize>, new: &mut Vec<usize>, choose: Choose, is_pair: impl Fn(usize, usize) -> bool,
) -> Vec<(usize, usize)> {
    let mut pairs = Vec::new();
    new.retain(|n| {
        let mut alike = (0..old.len()).filter(|i| is_pair(old[*i], *n));
        let at = alike.next().filter(|_| choose == Choose::First || alike.next().is_none());
        pairs.extend(at.map(|at| (old.remove(at), *n)));
        at.is_none()
    });
    pairs
}

/// Whether two relations with the same ends and verb say the same.
fn is_same(diagrams: [&Diagram; 2], (o, n): (usize, usize), [then, now]: [&Events; 2]) -> bool {
    then.is_inside_the_same(o, now, n)
        && then.differences(o, now, n).is_empty()
        && differences(diagrams, (o, n)).is_empty()
}

/// What differs between two versions of a relation, apart from its ends, its verb and its place among what happens.
fn differences([old, new]: [&Diagram; 2], (o, n): (usize, usize)) -> Vec<Difference> {
    let (a, b) = (&old.relations[o], &new.relations[n]);
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let some = |s: String| (!s.is_empty()).then_some(s);
    let fields = [
        (Field::Label, text(&a.label), text(&b.label)),
        (Field::Branch, text(&a.start), text(&b.start)),
        (Field::Over, text(&a.over), text(&b.over)),
        (Field::Beginning, some(a.ends[0].shown()), some(b.ends[0].shown())),
        (Field::End, some(a.ends[1].shown()), some(b.ends[1].shown())),
        (Field::Traits, some(written::traits(&a.traits)), some(written::traits(&b.traits))),
    ];
    fields.into_iter().filter_map(|(field, then, now)| Difference::field(field, then, now)).collect()
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
