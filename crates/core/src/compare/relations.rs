//! Two versions of the relations and messages of a diagram: paired by ends, verb and text, then by what they share.

use super::events::{self, Events};
use super::matching::Matching;
use super::{Change, Fate, Subject, differ, quoted, traits, words};
use crate::model::{Diagram, ElementId, Relation, Verb};
use std::collections::BTreeMap;

/// Which relation of one version is which of the other, by index, in the order of the newer one.
pub(super) struct Paired {
    pub(super) pairs: Vec<(usize, usize)>,
    pub(super) came: Vec<usize>,
    pub(super) went: Vec<usize>,
}

/// A relation's ends as elements of the newer version, where they are there, and its verb.
type Ends = ((bool, usize), (bool, usize), Verb);

impl Paired {
    pub(super) fn of(old: &Diagram, new: &Diagram, matched: &Matching, then: &Events, now: &Events) -> Self {
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
                let at = olds.iter().position(|o| details(old, new, (*o, n), then, now).is_empty())?;
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
        let mut went: Vec<usize> = before.into_values().flatten().collect();
        went.sort_unstable();
        // 2. The same ends with another verb, then the same text and verb with one other end, if that is the only such pair.
        let mut take = |is_pair: &dyn Fn(usize, usize) -> bool, only: bool| {
            left.retain(|n| {
                let alike: Vec<usize> = (0..went.len()).filter(|i| is_pair(went[*i], *n)).collect();
                let at = match alike.as_slice() {
                    [at] => Some(*at),
                    [at, ..] if !only => Some(*at),
                    _ => None,
                };
                pairs.extend(at.map(|at| (went.remove(at), *n)));
                at.is_none()
            });
        };
        take(&|o, n| ends_then(o) == ends_now(n), false);
        let text = |r: &Relation| r.label.as_ref().map(|l| l.text()).filter(|t| !t.is_empty());
        let is_led_elsewhere = |o: usize, n: usize| {
            let (a, b) = (&old.relations[o], &new.relations[n]);
            let ((from, to), (start, end)) = (ends_then(o), ends_now(n));
            a.verb == b.verb && text(a).is_some() && text(a) == text(b) && ((from == start) != (to == end))
        };
        take(&is_led_elsewhere, true);
        pairs.sort_unstable_by_key(|p| p.1);
        Self { pairs, came: left, went }
    }
}

/// What differs between two versions of a relation, apart from its ends and verb.
fn details(old: &Diagram, new: &Diagram, (o, n): (usize, usize), then: &Events, now: &Events) -> Vec<String> {
    let (a, b) = (&old.relations[o], &new.relations[n]);
    let mut details = Vec::new();
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let some = |s: String| (!s.is_empty()).then_some(s);
    differ(&mut details, "label", text(&a.label), text(&b.label));
    differ(&mut details, "branch", text(&a.start), text(&b.start));
    differ(&mut details, "over", text(&a.over), text(&b.over));
    differ(&mut details, "beginning", some(a.ends[0].shown()), some(b.ends[0].shown()));
    differ(&mut details, "end", some(a.ends[1].shown()), some(b.ends[1].shown()));
    differ(&mut details, "traits", some(traits(&a.traits)), some(traits(&b.traits)));
    details.extend(then.message_details(o, now, n));
    details
}

/// Whether a pair differs in anything but its place in time.
pub(super) fn is_changed(
    old: &Diagram, new: &Diagram, (o, n): (usize, usize), (matched, then, now): (&Matching, &Events, &Events),
) -> bool {
    let (a, b) = (&old.relations[o], &new.relations[n]);
    let is_led_elsewhere = leads_elsewhere(matched, a.from, b.from) || leads_elsewhere(matched, a.to, b.to);
    is_led_elsewhere || a.verb != b.verb || !details(old, new, (o, n), then, now).is_empty()
}

/// Whether an end of a relation is another element now.
fn leads_elsewhere(matched: &Matching, then: ElementId, now: ElementId) -> bool {
    matched.to_new.get(&then.index()) != Some(&now.index())
}

/// The changes of all relations, in the order of the newer text, those that went last.
pub(super) fn compare(old: &Diagram, new: &Diagram, matched: &Matching, then: &Events, now: &Events) -> Vec<Change> {
    let paired = Paired::of(old, new, matched, then, now);
    let alone = |fate, diagram, relation| {
        let says = vec![words::came_or_went(fate, diagram, relation)];
        change(fate, diagram, relation, Vec::new(), says)
    };
    let mut changes: Vec<Change> = paired.came.iter().map(|n| alone(Fate::Came, new, &new.relations[*n])).collect();
    changes.extend(paired.went.iter().map(|o| alone(Fate::Went, old, &old.relations[*o])));
    for (o, n) in &paired.pairs {
        let (a, b) = (&old.relations[*o], &new.relations[*n]);
        let mut list = details(old, new, (*o, *n), then, now);
        let who = words::related(new, b);
        let mut says: Vec<String> = list.iter().map(|d| format!("{who}: {d}")).collect();
        let element = |d: &Diagram, id| words::called(d.element(id));
        let mut also = Vec::new();
        if a.verb != b.verb {
            differ(&mut list, "verb", Some(a.verb.word().to_owned()), Some(b.verb.word().to_owned()));
            also.push(format!("{who} now, where it said `{}`", a.verb.word()));
        }
        if leads_elsewhere(matched, a.to, b.to) {
            differ(&mut list, "to", Some(old.element(a.to).key.clone()), Some(new.element(b.to).key.clone()));
            also.push(format!("{who} now, no longer {}", element(old, a.to)));
        }
        if leads_elsewhere(matched, a.from, b.from) {
            differ(&mut list, "from", Some(old.element(a.from).key.clone()), Some(new.element(b.from).key.clone()));
            also.push(format!("{who} now, in place of {}", element(old, a.from)));
        }
        says.splice(0..0, also);
        if !list.is_empty() {
            changes.push(change(Fate::Changed, new, b, list, says));
        }
    }
    for (n, place) in events::moved(then, now, &paired.pairs) {
        let relation = &new.relations[n];
        let label = relation.label.as_ref().map_or(String::new(), |l| format!(" {}", quoted(&l.text())));
        let says = match place.before {
            Some(next) => format!("message {}{label} moved before message {next}", place.number),
            None => format!("message {}{label} moved to the end", place.number),
        };
        changes.push(change(Fate::Moved, new, relation, vec!["moved in time".to_owned()], vec![says]));
    }
    changes.sort_by_key(|c| (c.fate == Fate::Went, c.line));
    changes
}

fn change(fate: Fate, diagram: &Diagram, relation: &Relation, details: Vec<String>, says: Vec<String>) -> Change {
    let end = |id| {
        let element = diagram.element(id);
        if element.key.contains(' ') { quoted(&element.key) } else { element.key.clone() }
    };
    let label = relation.label.as_ref().map_or(String::new(), |l| format!(" {}", quoted(&l.text())));
    let what = match relation.verb {
        Verb::Does => format!("{} does{label}", end(relation.from)),
        verb => format!("{} {} {}{label}", end(relation.from), verb.word(), end(relation.to)),
    };
    Change { fate, subject: Subject::Relation, id: relation.key.clone(), what, details, says, line: relation.line }
}
