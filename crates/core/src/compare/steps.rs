//! Steps of a flow that are new between two others, or gone from between them: one change each, instead of one for every line
//! that leads there now.

use super::change::{Difference, ElementName};
use super::matching::Matching;
use super::relations::Paired;
use crate::model::{Diagram, DiagramKind, Verb};
use std::collections::{BTreeMap, BTreeSet, VecDeque};

/// What steps between others explain.
#[derive(Default)]
pub(super) struct Steps {
    /// By the number of an element that is new, in the newer version: where it stands.
    pub(super) added: BTreeMap<usize, Difference>,
    /// By the number of an element that is gone, in the older version: where it stood.
    pub(super) removed: BTreeMap<usize, Difference>,
    /// Pairs of relations of which one end differs for that reason alone.
    pub(super) led: BTreeSet<(usize, usize)>,
}

/// A line between two steps: its number, and its ends.
type Edge = (usize, usize, usize);

impl Steps {
    /// Finds them, and takes the relations that they explain out of what was added and removed.
    pub(super) fn of([old, new]: [&Diagram; 2], matched: &Matching, paired: &mut Paired) -> Self {
        let mut steps = Self::default();
        if new.kind != DiagramKind::Flow {
            return steps;
        }
        let is_led = |(o, n): &(usize, usize)| {
            let (a, b) = (&old.relations[*o], &new.relations[*n]);
            let is_other = |then: usize, now: usize| matched.to_new.get(&then) != Some(&now);
            is_other(a.from.index(), b.from.index()) || is_other(a.to.index(), b.to.index())
        };
        let (led, kept): (Vec<_>, Vec<_>) = paired.pairs.iter().copied().partition(is_led);
        let lost: BTreeSet<usize> = paired.removed.iter().copied().chain(led.iter().map(|p| p.0)).collect();
        let gained: BTreeSet<usize> = paired.added.iter().copied().chain(led.iter().map(|p| p.1)).collect();
        let mut explained = Explained::default();
        // 1. New steps where a line was, then lines where steps were.
        let mut lines = edges(old, &lost)
            .into_iter()
            .filter_map(|(o, p, q)| Some((o, *matched.to_new.get(&p)?, *matched.to_new.get(&q)?)));
        let between = |graph: &Diagram, [a, x, b]: [usize; 3]| {
            let name = |i: usize| ElementName::of(&graph.elements[i]);
            (x, Difference::Between { before: name(a), behind: name(b) })
        };
        let is_new = |x: usize| !matched.to_old.contains_key(&x);
        let mut ways = Ways::of(edges(new, &gained));
        for (o, p, q) in lines.by_ref() {
            if let Some(way) = ways.find((p, q), &explained.new, &is_new) {
                explained.old.insert(o);
                explained.pairs.insert((o, way[0].0));
                explained.new.extend(way.iter().map(|e| e.0));
                steps.added.extend(way.windows(2).map(|w| between(new, [w[0].1, w[0].2, w[1].2])));
            }
        }
        let lines = edges(new, &gained)
            .into_iter()
            .filter_map(|(n, p, q)| Some((n, *matched.to_old.get(&p)?, *matched.to_old.get(&q)?)));
        let is_gone = |x: usize| !matched.to_new.contains_key(&x);
        let mut ways = Ways::of(edges(old, &lost));
        for (n, p, q) in lines {
            if explained.new.contains(&n) {
                continue;
            }
            if let Some(way) = ways.find((p, q), &explained.old, &is_gone) {
                explained.new.insert(n);
                explained.pairs.insert((way[0].0, n));
                explained.old.extend(way.iter().map(|e| e.0));
                steps.removed.extend(way.windows(2).map(|w| between(old, [w[0].1, w[0].2, w[1].2])));
            }
        }
        // 2. What is left.
        let (mut pairs, mut added, mut removed) = (kept, paired.added.clone(), paired.removed.clone());
        for (o, n) in led {
            match (explained.old.contains(&o), explained.new.contains(&n)) {
                (false, false) => pairs.push((o, n)),
                (true, false) => added.push(n),
                (false, true) => removed.push(o),
                (true, true) => {}
            }
        }
        added.retain(|n| !explained.new.contains(n));
        removed.retain(|o| !explained.old.contains(o));
        pairs.extend(explained.pairs.iter().copied());
        pairs.sort_unstable_by_key(|p| p.1);
        (paired.pairs, paired.added, paired.removed) = (pairs, added, removed);
        steps.led = explained.pairs;
        steps
    }
}

/// Relations that need no change of their own.
#[derive(Default)]
struct Explained {
    old: BTreeSet<usize>,
    new: BTreeSet<usize>,
    /// The line that was there, and the first one of those that took its place; or the last, and the one that is there.
    pairs: BTreeSet<(usize, usize)>,
}

/// The lines from step to step among some relations.
fn edges(diagram: &Diagram, among: &BTreeSet<usize>) -> Vec<Edge> {
    let relation = |i: &usize| (*i, &diagram.relations[*i]);
    let lines = among.iter().map(relation).filter(|(_, r)| r.verb == Verb::Then);
    lines.map(|(i, r)| (i, r.from.index(), r.to.index())).collect()
}

/// How many lines are followed to explain all changes of a flow.
// What is left then is reported line by line.
const MOST_FOLLOWED: usize = 1_000_000;

/// Lines by where they begin.
struct Ways {
    from: BTreeMap<usize, Vec<Edge>>,
    /// How many lines may still be followed.
    left: usize,
}

impl Ways {
    fn of(edges: Vec<Edge>) -> Self {
        let mut from: BTreeMap<usize, Vec<Edge>> = BTreeMap::new();
        for edge in edges {
            from.entry(edge.1).or_default().push(edge);
        }
        Self { from, left: MOST_FOLLOWED }
    }

    /// The shortest way from one step to another through others alone, over lines that nothing explains yet; two lines at
    /// least.
    fn find(
        &mut self, (from, to): (usize, usize), taken: &BTreeSet<usize>, is_through: &dyn Fn(usize) -> bool,
    ) -> Option<Vec<Edge>> {
        let mut came: BTreeMap<usize, Edge> = BTreeMap::new();
        let mut work = VecDeque::from([from]);
        while let Some(at) = work.pop_front() {
            for edge in self.from.get(&at).into_iter().flatten() {
                self.left = self.left.checked_sub(1)?;
                let is_direct = at == from && edge.2 == to;
                let is_known = taken.contains(&edge.0) || came.contains_key(&edge.2);
                if is_direct || is_known || (edge.2 != to && !is_through(edge.2)) {
                    continue;
                }
                came.insert(edge.2, *edge);
                if edge.2 == to {
                    let mut way = vec![*edge];
                    while let Some(first) = way.last().filter(|first| first.1 != from) {
                        way.push(*came.get(&first.1)?);
                    }
                    way.reverse();
                    return Some(way);
                }
                work.push_back(edge.2);
            }
        }
        None
    }
}
