//! Leaves of one node on rings around it: what hangs on a node and on nothing else is a crown of that node, and the whole is
//! one box in what is around it. Springs alone would pile such leaves up, with lines through them.
//!
//! Input: sizes and edges. Output: what is left without the leaves, and places for these when the rest has its own.

use crate::geom::{Point, Size, pt};
use crate::layout::arrange::radial::FLAT;
use crate::layout::neighbourhood::distinct_neighbours;
use std::f64::consts::TAU;

/// Fewer leaves than this find room between springs.
const LEAST: usize = 6;
/// How many leaves stand on one ring; more of them stand on two in turn.
// One ring of many is wide and empty. With more than two, lines to the outer ones would not find room between the inner ones.
const RING: usize = 24;
/// Room for a line between two leaves, in px.
// The pitch of lines side by side.
const PASSING: f64 = 12.0;
/// Where the first leaf stands: above.
const TOP: f64 = -TAU / 4.0;

/// The leaves of one node.
struct Fan {
    hub: usize,
    leaves: Vec<usize>,
    /// What else the node is joined with.
    others: Vec<usize>,
    /// As wide and as high as the widest and the highest leaf.
    leaf: Size,
    /// How far out each ring is, where it is not flattened.
    radii: Vec<f64>,
}

/// A graph without its fans.
pub(super) struct Fans {
    all: Vec<Fan>,
    /// What is left, by the numbers of the graph.
    pub(super) core: Vec<usize>,
    /// The sizes of what is left, with the leaves around it.
    pub(super) sizes: Vec<Size>,
    /// The edges between what is left, by its own numbers.
    pub(super) edges: Vec<(usize, usize)>,
}

impl Fans {
    /// Takes the fans out of a graph.
    pub(super) fn of(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Self {
        let count = sizes.len();
        let near = distinct_neighbours(count, edges);
        let is_leaf = |v: usize, hub: usize| near[v].len() == 1 && near[hub].len() > 1;
        let fans = (0..count).filter_map(|hub| {
            let (leaves, others): (Vec<usize>, Vec<usize>) = near[hub].iter().partition(|v| is_leaf(**v, hub));
            (leaves.len() >= LEAST).then(|| {
                let widest = |of: fn(Size) -> f64| leaves.iter().map(|v| of(sizes[*v])).fold(0.0, f64::max);
                let leaf = Size::new(widest(|s| s.w), widest(|s| s.h));
                let radii = radii((sizes[hub], leaf), leaves.len(), others.len(), gap);
                Fan { hub, leaf, radii, leaves, others }
            })
        });
        let all: Vec<Fan> = fans.collect();
        let mut is_out = vec![false; count];
        all.iter().flat_map(|fan| &fan.leaves).for_each(|v| is_out[*v] = true);
        let core: Vec<usize> = (0..count).filter(|v| !is_out[*v]).collect();
        let mut number = vec![usize::MAX; count];
        core.iter().enumerate().for_each(|(i, v)| number[*v] = i);
        let mut own: Vec<Size> = core.iter().map(|v| sizes[*v]).collect();
        for fan in &all {
            own[number[fan.hub]] = fan.size();
        }
        let kept = edges.iter().map(|(a, b)| (number[*a], number[*b]));
        let edges = kept.filter(|(a, b)| *a != usize::MAX && *b != usize::MAX).collect();
        Self { all, core, sizes: own, edges }
    }

    /// The middles of everything, now that what is left has its places.
    pub(super) fn spread(&self, count: usize, core: &[Point]) -> Vec<Point> {
        let mut at = vec![pt(0.0, 0.0); count];
        self.core.iter().zip(core).for_each(|(v, middle)| at[*v] = *middle);
        self.all.iter().for_each(|fan| fan.spread(&mut at));
        at
    }
}

/// How far out the rings are of a node of this size with this many leaves of that one.
fn radii((own, leaf): (Size, Size), leaves: usize, others: usize, gap: f64) -> Vec<f64> {
    let rings = leaves.div_ceil(RING).min(2);
    // Boxes stand side by side above and below the middle, and one below the other at its sides.
    let Size { w, h } = leaf;
    let slots = (leaves + others) as f64 / rings as f64;
    let at_a_slant = (w / FLAT + h) / std::f64::consts::SQRT_2;
    // With several rings, lines to the outer ones pass on both sides.
    let beside_lines = if rings > 1 { PASSING } else { 0.0 };
    let around = (f64::max(w / FLAT, h).max(at_a_slant) + gap * 0.4 + beside_lines) * slots / TAU;
    let beside = f64::max((own.w + w) / 2.0 / FLAT + gap * 0.6, (own.h + h) / 2.0 + gap * 0.7);
    let step = f64::max(h + gap * 0.6, w / FLAT * 0.75);
    (0..rings).map(|ring| f64::max(around, beside) + step * ring as f64).collect()
}

impl Fan {
    /// The room of a node with its leaves.
    fn size(&self) -> Size {
        let last = self.radii.last().copied().unwrap_or(0.0);
        Size::new(2.0 * last * FLAT + self.leaf.w, 2.0 * last + self.leaf.h)
    }

    /// Puts the leaves around their node, where no line leads to anything else.
    fn spread(&self, at: &mut [Point]) {
        let middle = at[self.hub];
        let slots = self.leaves.len() + self.others.len();
        let slot = TAU / slots as f64;
        let mut is_taken = vec![false; slots];
        for other in &self.others {
            let angle = libm::atan2(at[*other].y - middle.y, (at[*other].x - middle.x) / FLAT) - TOP;
            let nearest = libm::round(angle.rem_euclid(TAU) / slot) as usize % slots;
            let free = (0..slots).map(|by| (nearest + by) % slots).find(|i| !is_taken[*i]);
            free.into_iter().for_each(|i| is_taken[i] = true);
        }
        let free = (0..slots).filter(|i| !is_taken[*i]);
        for (i, (leaf, place)) in self.leaves.iter().zip(free).enumerate() {
            let (angle, radius) = (TOP + slot * place as f64, self.radii[i % self.radii.len()]);
            at[*leaf] = pt(middle.x + libm::cos(angle) * radius * FLAT, middle.y + libm::sin(angle) * radius);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Rect;
    use crate::layout::intersections::hits;

    const SIZE: Size = Size { w: 100.0, h: 40.0 };

    #[test]
    fn lines_from_a_hub_pass_between_the_leaves() {
        for count in [6, 24, 40, 90] {
            let star: Vec<(usize, usize)> = (1..=count).map(|leaf| (0, leaf)).collect();
            let sizes = vec![SIZE; count + 1];
            let fans = Fans::of(&sizes, &star, 48.0);
            assert_eq!(fans.core, [0]);
            let at = fans.spread(count + 1, &[pt(0.0, 0.0)]);
            let rects: Vec<Rect> = at.iter().map(|m| Rect::around(*m, SIZE)).collect();
            for leaf in 1..=count {
                let struck = (1..=count).filter(|v| *v != leaf && hits(at[0], at[leaf], rects[*v]));
                assert_eq!(struck.count(), 0, "{count} leaves, line to {leaf}");
                assert!(rects[..leaf].iter().all(|other| !other.meets(rects[leaf])), "{count} leaves, box {leaf}");
            }
        }
    }

    #[test]
    fn what_is_left_keeps_its_edges() {
        let mut edges: Vec<(usize, usize)> = (2..9).map(|leaf| (0, leaf)).collect();
        edges.push((1, 0));
        edges.push((1, 9));
        let fans = Fans::of(&[SIZE; 10], &edges, 48.0);
        assert_eq!((fans.core.as_slice(), fans.edges.as_slice()), (&[0, 1, 9][..], &[(1, 0), (1, 2)][..]));
        assert!(fans.sizes[0].w > 3.0 * SIZE.w);
        assert!(Fans::of(&[SIZE; 3], &[(0, 1), (1, 2)], 48.0).all.is_empty());
    }
}
