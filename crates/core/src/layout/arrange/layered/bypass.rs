//! Lines that skip so many layers that their dummy nodes would be more than everything else: they leave their layers
//! for the right margin, each in a column of its own, and come back where they end. A chain with short cuts everywhere
//! has dummy nodes in the square of its length; this keeps it linear.

use super::ranks::Ranks;
use crate::layout::graph::Graph;

/// How many dummy nodes a graph may have, beside one for each node and edge, before its longest lines run in the margin.
// Dummies of long lines grow with the square of the picture; this bounds memory.
const DUMMIES: usize = 100_000;
/// Lines that skip no more layers than this always stay among them.
// A line at the side of the picture that short is a detour.
const SHORT: usize = 12;

/// A gap in the chain of an edge, which the margin closes.
#[derive(Clone, Copy, Debug)]
pub(super) struct Bypass {
    pub(super) edge: usize,
    /// The last item before the gap, from above, and the first one after it.
    pub(super) upper: usize,
    pub(super) lower: usize,
}

/// How many layers a line may skip and still have a dummy node in each of them.
pub(super) fn reach(graph: &Graph, ranks: &Ranks) -> usize {
    let layer = |anchor| ranks.layer(anchor);
    let skipped = graph.edges.iter().map(|e| layer(e.from).abs_diff(layer(e.to)).saturating_sub(1));
    let mut skipped: Vec<usize> = skipped.collect();
    skipped.sort_unstable();
    let mut left = DUMMIES + graph.nodes.len() + graph.edges.len();
    for layers in skipped {
        if layers > left {
            return layers.saturating_sub(1).max(SHORT);
        }
        left -= layers;
    }
    usize::MAX
}
