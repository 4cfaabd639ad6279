//! What was asked to come before what: `order` and `place` as pairs.

use crate::layout::graph::{Anchor, Graph, PlacementConstraint, Placing};

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
    let mut kept: Vec<(Anchor, Anchor)> = Vec::new();
    for (a, b) in pairs {
        if a != b && !reaches(&kept, b, a) {
            kept.push((a, b));
        }
    }
    kept
}

/// Whether one thing comes before another by some pairs.
fn reaches(pairs: &[(Anchor, Anchor)], from: Anchor, to: Anchor) -> bool {
    let mut work = vec![from];
    let mut seen = Vec::new();
    while let Some(a) = work.pop() {
        if a == to {
            return true;
        }
        if !seen.contains(&a) {
            seen.push(a);
            work.extend(pairs.iter().filter(|p| p.0 == a).map(|p| p.1));
        }
    }
    false
}
