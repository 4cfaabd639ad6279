//! Rings around a centre: the tree of shortest ways from the centre, each subtree in a wedge as wide as what it holds
//! needs (Eades, "Drawing free trees", 1992), each ring as far out as its boxes need. Rings are flattened to the shape of
//! a page.

use super::boxes::{neighbours, radius};
use crate::geom::{Point, Size, pt};
use std::f64::consts::TAU;

/// How much wider than tall a ring is.
const FLAT: f64 = 1.35;

/// Middles of boxes.
pub(super) fn arrange(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Vec<Point> {
    let count = sizes.len();
    if count == 0 {
        return Vec::new();
    }
    let neighbours = neighbours(count, edges);
    // 1. The centre: where most lines meet. What it does not reach hangs on it too.
    let centre = (0..count).max_by_key(|v| (neighbours[*v].len(), count - v)).unwrap_or(0);
    let mut depth = vec![usize::MAX; count];
    let mut children: Vec<Vec<usize>> = vec![Vec::new(); count];
    let mut order = vec![centre];
    depth[centre] = 0;
    let mut at = 0;
    while order.len() < count {
        if at == order.len() {
            let lost = (0..count).find(|v| depth[*v] == usize::MAX).unwrap_or(centre);
            depth[lost] = 1;
            children[centre].push(lost);
            order.push(lost);
        }
        let v = order[at];
        at += 1;
        for w in &neighbours[v] {
            if depth[*w] == usize::MAX {
                depth[*w] = depth[v] + 1;
                children[v].push(*w);
                order.push(*w);
            }
        }
    }
    // 2. Wedges: a subtree needs what its own boxes need, or those below it.
    let own = |v: usize| 2.0 * radius(sizes[v]) * 0.8 + gap * 0.6;
    let mut need = vec![0.0; count];
    for v in order.iter().rev() {
        let below: f64 = children[*v].iter().map(|w| need[*w]).sum();
        need[*v] = f64::max(own(*v), below * 0.75);
    }
    let mut wedge = vec![(0.0, TAU); count];
    for v in &order {
        let whole: f64 = children[*v].iter().map(|w| need[*w]).sum();
        let (mut from, to) = wedge[*v];
        let all = to - from;
        for w in &children[*v] {
            let part = all * need[*w] / whole.max(1e-9);
            wedge[*w] = (from, from + part);
            from += part;
        }
    }
    // 3. Radii: no ring is too near to the one inside it, nor too short for its boxes.
    let deepest = depth.iter().copied().max().unwrap_or(0);
    let mut rings = vec![0.0f64; deepest + 1];
    for ring in 1..=deepest {
        let members: Vec<usize> = order.iter().copied().filter(|v| depth[*v] == ring).collect();
        let thick = |r: usize| order.iter().filter(|v| depth[**v] == r).map(|v| radius(sizes[*v])).fold(0.0, f64::max);
        let apart = rings[ring - 1] + (thick(ring - 1) + thick(ring)) * 0.85 + gap;
        let narrow = members.iter().map(|v| own(*v) / (wedge[*v].1 - wedge[*v].0).max(1e-6)).fold(0.0, f64::max);
        let whole = members.iter().map(|v| own(*v)).sum::<f64>() / TAU;
        // A ring may give each box its exact share only if it is as long as all of them.
        rings[ring] = f64::max(apart, f64::max(whole, narrow.min(whole * 3.0)));
    }
    let mut middles = vec![pt(0.0, 0.0); count];
    for v in order.iter().skip(1) {
        let angle = (wedge[*v].0 + wedge[*v].1) / 2.0 - TAU / 4.0;
        let r = rings[depth[*v]];
        middles[*v] = pt(libm::cos(angle) * r * FLAT, libm::sin(angle) * r);
    }
    // 4. What still overlaps is pushed apart.
    super::separate::apart(sizes, &mut middles, gap * 0.5);
    middles
}
