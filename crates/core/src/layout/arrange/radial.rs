//! Rings around a centre: the tree of shortest ways from the centre, each subtree in a wedge as wide as what it holds
//! needs (Eades, "Drawing free trees", 1992), each ring as far out as its boxes need. Rings are flattened to the shape of
//! a page.

use crate::geom::{Point, Size, pt};
use crate::layout::neighbourhood::neighbours;
use std::f64::consts::TAU;

/// More nodes than this are laid out in layers.
// Rings of so many are larger than anybody looks at.
pub(in crate::layout) const LIMIT: usize = 20_000;
/// How much wider than tall a ring is.
// Boxes are wider than high, and so are screens.
pub(super) const FLAT: f64 = 1.35;
/// How much further out than they need the inner rings are tried, so that the outer ones find room sooner.
const WIDER: [f64; 6] = [1.0, 1.1, 1.25, 1.4, 1.6, 2.0];
/// Up to this many boxes times rings, each ring has its own distance.
const EXACT: usize = 200_000;

/// Middles of boxes.
pub(in crate::layout) fn arrange(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Vec<Point> {
    if sizes.is_empty() {
        return Vec::new();
    }
    let mut rings = Rings::new(sizes, edges, gap);
    rings.spread();
    let mut middles = rings.middles();
    // What still overlaps is pushed apart.
    crate::layout::separation::apart(sizes, &mut middles, gap * 0.5);
    middles
}

/// The tree of shortest ways from the centre.
struct Rings {
    centre: usize,
    depth: Vec<usize>,
    children: Vec<Vec<usize>>,
    /// Parents before children.
    order: Vec<usize>,
    /// How much of its ring a box takes, and how much further out than the ring before a ring is at least, in px.
    widths: Vec<f64>,
    steps: Vec<f64>,
    /// How far out each ring is, where it is not flattened.
    radii: Vec<f64>,
}

impl Rings {
    fn new(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Self {
        let count = sizes.len();
        let neighbours = neighbours(count, edges);
        let centre = centre(&neighbours, edges);
        let mut depth = vec![usize::MAX; count];
        let mut children: Vec<Vec<usize>> = vec![Vec::new(); count];
        let mut order = vec![centre];
        depth[centre] = 0;
        let (mut at, mut unseen) = (0, 0);
        while order.len() < count {
            if at == order.len() {
                // What the centre does not reach hangs on it too.
                unseen = (unseen..count).find(|v| depth[*v] == usize::MAX).unwrap_or(centre);
                depth[unseen] = 1;
                children[centre].push(unseen);
                order.push(unseen);
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
        // Boxes stand side by side above and below the centre, and one below the other at its sides.
        let widths = sizes.iter().map(|s| f64::max(s.w / FLAT, s.h) + gap * 0.4).collect();
        let deepest = depth.iter().copied().max().unwrap_or(0);
        let mut thick = vec![Size::default(); deepest + 1];
        for (size, d) in sizes.iter().zip(&depth) {
            thick[*d] = Size::new(thick[*d].w.max(size.w), thick[*d].h.max(size.h));
        }
        let between = |a: Size, b: Size| f64::max(((a.w + b.w) / 2.0 + gap) / FLAT, (a.h + b.h) / 2.0 + gap * 0.7);
        let between = thick.windows(2).map(|pair| between(pair[0], pair[1]));
        let steps: Vec<f64> = std::iter::once(0.0).chain(between).collect();
        let radii = steps.iter().scan(0.0, |sum, step| Some(add(sum, *step))).collect();
        Self { centre, depth, children, order, widths, steps, radii }
    }

    /// Moves rings out until all boxes find room side by side: ring by ring from the inside, or all by one factor where that
    /// would cost too much.
    fn spread(&mut self) {
        let count = self.radii.len();
        if self.order.len() * count > EXACT {
            let factor = least(|by| self.whole(count - 1, |_, radius| radius * by) <= TAU);
            self.radii.iter_mut().for_each(|r| *r *= factor);
            return;
        }
        let candidates = WIDER.map(|wider| {
            let mut radii = vec![0.0];
            for ring in 1..count {
                let start = radii[ring - 1] + self.steps[ring];
                let full = TAU / if ring + 1 < count { wider } else { 1.0 };
                let angles = |own: f64| self.whole(ring, |d, _| if d == ring { own } else { radii[d] });
                let factor = least(|by| angles(start * by) <= full);
                radii.push(start * factor);
            }
            radii
        });
        let furthest = |radii: &Vec<f64>| radii[radii.len() - 1];
        let best = candidates.into_iter().min_by(|a, b| furthest(a).total_cmp(&furthest(b)));
        self.radii = best.unwrap_or_default();
    }

    /// Which angle the boxes of the rings up to `last` need, with the radius of each ring.
    fn whole(&self, last: usize, radius: impl Fn(usize, f64) -> f64) -> f64 {
        self.needs(last, radius)[self.centre]
    }

    /// Which angle each subtree needs: that of its own box, or what those below it need.
    fn needs(&self, last: usize, radius: impl Fn(usize, f64) -> f64) -> Vec<f64> {
        let mut need = vec![0.0; self.depth.len()];
        for v in self.order.iter().rev().filter(|v| self.depth[**v] <= last) {
            let d = self.depth[*v];
            let below: f64 = self.children[*v].iter().map(|w| need[*w]).sum();
            let own = if d == 0 { 0.0 } else { self.widths[*v] / radius(d, self.radii[d]).max(1e-6) };
            need[*v] = f64::max(own, below);
        }
        need
    }

    /// Where the boxes are: each in the middle of its wedge.
    fn middles(&self) -> Vec<Point> {
        let need = self.needs(self.radii.len(), |_, radius| radius);
        let mut wedge = vec![(0.0, TAU); self.depth.len()];
        for v in &self.order {
            let whole: f64 = self.children[*v].iter().map(|w| need[*w]).sum();
            let (from, to) = wedge[*v];
            // Lines to the next ring stay outside of this one.
            let d = self.depth[*v];
            let most = if d == 0 || d + 1 >= self.radii.len() {
                TAU
            } else {
                2.0 * libm::acos((self.radii[d] / self.radii[d + 1]).min(1.0))
            };
            let all = f64::min(to - from, most.max(whole));
            let mut from = (from + to - all) / 2.0;
            for w in &self.children[*v] {
                let part = all * need[*w] / whole.max(1e-9);
                wedge[*w] = (from, from + part);
                from += part;
            }
        }
        let mut middles = vec![pt(0.0, 0.0); self.depth.len()];
        for v in self.order.iter().skip(1) {
            let angle = (wedge[*v].0 + wedge[*v].1) / 2.0 - TAU / 4.0;
            let r = self.radii[self.depth[*v]];
            middles[*v] = pt(libm::cos(angle) * r * FLAT, libm::sin(angle) * r);
        }
        middles
    }
}

fn add(sum: &mut f64, step: f64) -> f64 {
    *sum += step;
    *sum
}

/// The root of a tree whose lines all lead away from it, or towards it; else where most lines meet.
fn centre(neighbours: &[Vec<usize>], edges: &[(usize, usize)]) -> usize {
    let count = neighbours.len();
    if edges.len() + 1 == count {
        for end in [|e: &(usize, usize)| e.1, |e: &(usize, usize)| e.0] {
            let mut met = vec![0; count];
            edges.iter().for_each(|e| met[end(e)] += 1);
            let root = met.iter().position(|m| *m == 0);
            if let (Some(root), true) = (root, met.iter().filter(|m| **m == 1).count() + 1 == count) {
                return root;
            }
        }
    }
    (0..count).max_by_key(|v| (neighbours[*v].len(), count - v)).unwrap_or(0)
}

/// The least factor from 1 to 64 with which something fits, which it does with every larger one.
fn least(fits: impl Fn(f64) -> bool) -> f64 {
    let (mut low, mut high) = (1.0, 64.0);
    if fits(low) {
        return low;
    }
    for _ in 0..24 {
        let middle = (low + high) / 2.0;
        if fits(middle) { high = middle } else { low = middle }
    }
    high
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
