//! The tracks on which lines around obstacles run. Input: a placement. Output: for each direction the tracks that there
//! are: one every pitch, or only those that lines usually take, which makes the search over them as much smaller.

use crate::layout::graph::{Anchor, Graph};
use crate::layout::orientation::Orientation;
use crate::layout::placement::Placement;

/// Distance between two tracks, in px.
// The same as between tracks of a channel, so that lines of both kinds look alike.
pub(super) const PITCH: f64 = 12.0;
/// How far from a thing tracks are kept, in px, and how much further for each line that there is for a node.
// A track or two beside each box, and one more for each line that it has in the mean.
const KEPT: f64 = 22.0;
const KEPT_FOR_LINE: f64 = 12.0;

/// The tracks of one direction: some of the multiples of the pitch, in ascending order.
pub(super) struct Axis {
    /// Where each lies, in px.
    pub(super) at: Vec<f64>,
    /// How many pitches each lies behind the first.
    pub(super) steps: Vec<u32>,
}

impl Axis {
    /// The tracks between two places that are kept.
    fn over(from: f64, count: usize, is_kept: impl Fn(f64) -> bool) -> Self {
        let origin = libm::floor(from);
        let all = (0..count).map(|i| (origin + i as f64 * PITCH, i as u32));
        let (at, steps) = all.filter(|(at, _)| is_kept(*at)).unzip();
        Self { at, steps }
    }

    /// The tracks from one place to another: the first, and the one behind the last.
    pub(super) fn within(&self, from: f64, to: f64) -> (usize, usize) {
        (self.at.partition_point(|at| *at < from), self.at.partition_point(|at| *at <= to))
    }

    /// The number of the last track that does not lie behind a place; the first where all do.
    pub(super) fn last_up_to(&self, at: f64) -> usize {
        self.within(f64::MIN, at).1.saturating_sub(1)
    }

    /// The last track that does not lie behind a place, or the place where there is none.
    pub(super) fn before_or_at(&self, at: f64) -> f64 {
        let behind = self.at.partition_point(|track| *track <= at + 0.01);
        behind.checked_sub(1).map_or(at, |i| self.at[i])
    }

    /// How many pitches lie between two tracks.
    pub(super) fn between(&self, a: usize, b: usize) -> u32 {
        self.steps[a].abs_diff(self.steps[b])
    }

    /// The tracks of a picture from `from` on, over this many pitches: all of them, or those that lines usually take.
    pub(super) fn new(
        (graph, placement): (&Graph, &Placement), (from, count): (f64, usize), direction: Orientation, density: Density,
    ) -> Self {
        if density == Density::All {
            return Self::over(from, count, |_| true);
        }
        let kept = kept_stretches(graph, placement, direction);
        let is_in = |at: f64| kept[..kept.partition_point(|s| s.0 <= at)].last().is_some_and(|s| at <= s.1);
        Self::over(from, count, is_in)
    }
}

/// Which tracks there are.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Density {
    /// One every pitch.
    All,
    /// Only those beside things, and through them where their ports are.
    Few,
}

/// The stretches of an axis beside and through things in which tracks are kept.
fn kept_stretches(graph: &Graph, placement: &Placement, direction: Orientation) -> Vec<(f64, f64)> {
    let mut lines = vec![0_usize; graph.nodes.len()];
    for v in graph.edges.iter().flat_map(|e| [e.from, e.to]).filter_map(Anchor::node) {
        lines[v] += 1;
    }
    let reach = KEPT + KEPT_FOR_LINE * libm::ceil(graph.edges.len() as f64 / graph.nodes.len().max(1) as f64);
    let mut all = Vec::with_capacity(3 * graph.nodes.len() + 2 * graph.groups.len());
    for (rect, lines) in placement.nodes.iter().zip(lines) {
        let (from, to) = direction.along(*rect);
        let ports = PITCH * (0.6 + lines.min(9) as f64 / 2.0);
        let middle = (from + to) / 2.0;
        all.extend([(from - reach, from), (to, to + reach), (middle - ports, middle + ports)]);
    }
    for rect in &placement.groups {
        let (from, to) = direction.along(*rect);
        all.extend([(from - reach, from), (to, to + reach)]);
    }
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    // Stretches that touch become one.
    let mut joined: Vec<(f64, f64)> = Vec::new();
    for (from, to) in all {
        match joined.last_mut() {
            Some(last) if from <= last.1 => last.1 = last.1.max(to),
            _ => joined.push((from, to)),
        }
    }
    joined
}
