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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Rect;

    const SIZE: Size = Size { w: 100.0, h: 40.0 };

    /// How far out a box is, in rings as flat as they are drawn.
    fn ring(at: Point) -> f64 {
        libm::hypot(at.x / FLAT, at.y)
    }

    #[test]
    fn what_most_lines_meet_is_the_centre() {
        let star: Vec<(usize, usize)> = (0..9).map(|leaf| (leaf, 9)).collect();
        let at = arrange(&[SIZE; 10], &star, 24.0);
        let out: Vec<f64> = at[..9].iter().map(|m| libm::hypot(m.x - at[9].x, m.y - at[9].y)).collect();
        assert!(out.iter().all(|d| *d > 60.0), "{out:?}");
        let middle = at.iter().map(|m| m.x).sum::<f64>() / 10.0;
        assert!((middle - at[9].x).abs() < 30.0, "leaves lie on all sides");
    }

    #[test]
    fn children_lie_further_out_than_their_parents() {
        // A centre with four branches of three each.
        let mut edges: Vec<(usize, usize)> = (1..5).map(|b| (0, b)).collect();
        edges.extend((0..12).map(|leaf| (1 + leaf / 3, 5 + leaf)));
        let at = arrange(&[SIZE; 17], &edges, 24.0);
        for (parent, child) in edges {
            assert!(ring(at[child]) > ring(at[parent]) + 20.0, "{parent} and {child}");
        }
        let rects: Vec<Rect> = at.iter().map(|m| Rect::around(*m, SIZE)).collect();
        for (v, rect) in rects.iter().enumerate() {
            assert!(rects[..v].iter().all(|other| !other.meets(*rect)));
        }
    }

    #[test]
    fn what_nothing_reaches_hangs_on_the_centre() {
        let at = arrange(&[SIZE; 4], &[(0, 1)], 24.0);
        assert_eq!(at.len(), 4);
        assert!(at.iter().all(|m| m.x.is_finite() && m.y.is_finite()));
        assert!(arrange(&[], &[], 24.0).is_empty());
    }
}
