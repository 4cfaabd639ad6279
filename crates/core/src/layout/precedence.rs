//! What was asked to come before what: `order` and `place` as pairs.

use crate::layout::graph::{Anchor, Graph, PlacementConstraint, Placing};
use std::collections::{BTreeMap, BTreeSet};

/// At most this many steps are made to find circles; what comes after that is left out, and reported as every constraint that
/// is not kept.
const STEPS: usize = 4_000_000;

/// Constraints about order as pairs: the first comes before the second. Those of `order` come before those of `place`.
pub(in crate::layout) fn pairs(graph: &Graph) -> Vec<(Anchor, Anchor)> {
    let orders =
        graph.constraints.iter().filter_map(|w| if let PlacementConstraint::Order(all) = w { Some(all) } else { None });
    let mut pairs: Vec<(Anchor, Anchor)> = orders.flat_map(|all| all.windows(2).map(|p| (p[0], p[1]))).collect();
    for constraint in &graph.constraints {
        if let PlacementConstraint::Place(a, placing, b) = constraint {
            match placing.turned(graph.direction) {
                Placing::Left => pairs.push((*a, *b)),
                Placing::Right => pairs.push((*b, *a)),
                Placing::Above | Placing::Below => {}
            }
        }
    }
    // What would close a circle is left out.
    let mut after: BTreeMap<Anchor, Vec<Anchor>> = BTreeMap::new();
    let mut steps = STEPS;
    pairs.retain(|(a, b)| {
        let is_kept = a != b && !may_reach(&after, (*b, *a), &mut steps);
        if is_kept {
            after.entry(*a).or_default().push(*b);
        }
        is_kept
    });
    pairs
}

/// Whether one thing comes before another, or there are no steps left to find out.
fn may_reach(after: &BTreeMap<Anchor, Vec<Anchor>>, (from, to): (Anchor, Anchor), steps: &mut usize) -> bool {
    let mut work = vec![from];
    let mut seen = BTreeSet::new();
    while let Some(a) = work.pop() {
        if a == to || *steps == 0 {
            return true;
        }
        if seen.insert(a) {
            *steps -= 1;
            work.extend(after.get(&a).into_iter().flatten());
        }
    }
    false
}
