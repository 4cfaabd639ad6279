//! The layered arrangement, after Sugiyama, Tagawa, Toda (1981), in the stages that became usual.
//! Groups are laid out in one pass with what is around them.
//!
//! Everything inside works in one frame: layers from top to bottom. Other readings are turned into
//! it, and back.

mod channels;
mod coordinates;
mod cycles;
mod layers;
mod order;
mod ports;
mod ranks;
mod routes;
#[cfg(test)]
mod tests;

use super::compact::compact;
use super::graph::{Graph, Placement, Reading};
use crate::geom::Size;
use layers::{Detours, Layers};
use ranks::Ranking;

/// Room between neighbours of a layer, in px.
const NODE_GAP: f64 = 32.0;
/// Room between a line and its neighbours.
const LINE_GAP: f64 = 14.0;
/// Room between two lines in a channel.
const TRACK: f64 = 12.0;

/// How often layers are assigned anew to keep lines out of groups.
const REPAIRS: usize = 8;
/// Up to this many edges that is tried.
const REPAIRED_EDGES: usize = 1_000;

/// Places a graph.
pub fn place(graph: &Graph) -> Placement {
    // 1. One frame for all readings.
    let turned = turn(graph);
    // 2. Which edges run against the reading direction.
    let reversed = cycles::reversed(&turned);
    // 3. Layers, orders, places; again where a line runs through a group: first with more distance,
    //    then with a detour.
    let mut ranking = Ranking::new(&turned, &reversed);
    let mut detours = Detours::new();
    let mut placement = arrange(&turned, &reversed, &ranking, &detours);
    let mut faults = routes::intrusions(&turned, &placement);
    for round in 0..REPAIRS {
        if turned.edges.len() > REPAIRED_EDGES || faults.is_empty() {
            break;
        }
        let apart = round < REPAIRS / 2 && faults.iter().fold(false, |any, (e, g)| ranking.keep_apart(*e, *g) || any);
        if !apart {
            faults.iter().for_each(|(e, g)| detours.entry(*e).or_default().push(*g));
        }
        let tried = arrange(&turned, &reversed, &ranking, &detours);
        let left = routes::intrusions(&turned, &tried);
        if left.len() <= faults.len() {
            (placement, faults) = (tried, left);
        }
    }
    // 4. Back into the frame of the reading.
    turn_back(&mut placement, graph.reading);
    // 5. Closer together, where groups kept things apart.
    if !graph.groups.is_empty() {
        compact(graph, &mut placement);
    }
    placement
}

/// The stages of one arrangement.
fn arrange(graph: &Graph, reversed: &[bool], ranking: &Ranking<'_>, detours: &Detours) -> Placement {
    // 1. A layer for every node.
    let ranks = ranking.solve();
    // 2. Items in layers: nodes, and what long lines and labels need in between.
    let mut layers = Layers::build(graph, reversed, &ranks, detours);
    // 3. The order in each layer.
    order::reduce(&mut layers, graph);
    // 4. Places across.
    let across = coordinates::assign(&mut layers, graph);
    // 5. Tracks for lines, and places along.
    let along = channels::assign(&layers, graph, &across);
    // 6. Lines.
    routes::collect(&layers, graph, &across, &along)
}

/// Exchanges the axes of sizes for sideways readings.
fn turn(graph: &Graph) -> Graph {
    let mut turned = graph.clone();
    if graph.reading.is_sideways() {
        let swap = |size: &mut Size| *size = size.transposed();
        for node in &mut turned.nodes {
            swap(&mut node.size);
            node.outline = node.outline.transposed();
        }
        turned.groups.iter_mut().for_each(|g| swap(&mut g.title));
        for edge in &mut turned.edges {
            edge.label.iter_mut().chain(edge.end_labels.iter_mut().flatten()).for_each(swap);
        }
    }
    if matches!(graph.reading, Reading::Up | Reading::Left) {
        turned.nodes.iter_mut().for_each(|n| n.outline = n.outline.mirrored());
    }
    turned
}

fn turn_back(placement: &mut Placement, reading: Reading) {
    if matches!(reading, Reading::Up | Reading::Left) {
        placement.mirror();
    }
    if reading.is_sideways() {
        placement.transpose();
    }
    placement.fit();
}
