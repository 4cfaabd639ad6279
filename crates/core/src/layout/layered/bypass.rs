//! Lines that skip so many layers that their dummy nodes would be more than everything else: they leave their layers
//! for the right margin, each in a column of its own, and come back where they end. A chain with short cuts everywhere
//! has dummy nodes in the square of its length; this keeps it linear.

use super::super::graph::Graph;
use super::LINE_GAP;
use super::channels::left_edge;
use super::coordinates::Across;
use super::layers::Layers;
use super::ranks::Ranks;

/// How many dummy nodes a graph may have, beside one for each node and edge, before its longest lines run in the margin.
const DUMMIES: usize = 100_000;
/// Lines that skip no more layers than this always stay among them.
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

/// The column of each bypass, in px: further right than everything else, and shared by those that never stand level.
pub(super) fn columns(layers: &Layers, graph: &Graph, across: &Across) -> Vec<f64> {
    if layers.bypasses.is_empty() {
        return Vec::new();
    }
    let items = layers.items.iter().zip(&across.x).map(|(item, x)| x + item.right);
    let frames = across.group.iter().map(|g| g.1);
    let edge = items.chain(frames).fold(0.0, f64::max);
    let layer = |item: usize| layers.items[item].layer as i64;
    let span = |i: &usize| (layer(layers.bypasses[*i].upper), layer(layers.bypasses[*i].lower));
    let mut order: Vec<usize> = (0..layers.bypasses.len()).collect();
    order.sort_by_key(|i| (span(i), *i));
    let placed = left_edge(order.iter().map(span));
    let mut columns = vec![0.0; layers.bypasses.len()];
    for (i, column) in order.into_iter().zip(placed) {
        columns[i] = edge + LINE_GAP * graph.spacing * (column + 1) as f64;
    }
    columns
}
