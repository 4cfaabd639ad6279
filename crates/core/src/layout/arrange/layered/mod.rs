//! The layered arrangement, after Sugiyama, Tagawa, Toda (1981), in the stages that became usual.
//! Groups are laid out in one pass with what is around them.
//!
//! Everything inside works in one frame: layers from top to bottom. Other readings are turned into
//! it, and back.

mod bars;
mod bypass;
mod channels;
mod coordinates;
mod cycles;
mod faces;
mod gaps;
mod layers;
mod options;
mod order;
mod ports;
mod ranks;
mod routes;
mod system;
#[cfg(test)]
mod tests;

use crate::geom::Rect;
use crate::layout::graph::{Directed, Graph, PlacementConstraint, Share};
use crate::layout::placement::Placement;
use crate::layout::refine::compaction::{Level, compact};
use crate::layout::refine::straightening::straighten;
use crate::layout::routing::labels;
use crate::layout::routing::lines;
use crate::layout::routing::obstacles as around;
use gaps::NODE_GAP;
use layers::{Detours, Layers};
pub(in crate::layout) use options::Directions;
pub use options::LayeredOptions;
use options::{Care, REPAIRED_EDGES};
pub use ports::room_for_lines;
use ranks::Ranking;

/// How often layers are assigned from scratch to keep lines out of groups.
const REPAIRS: usize = 5;

/// Both ways to lead away from one node.
const OUTWARD: [Directions; 2] = [Directions::FromMiddle, Directions::FromHub];

/// From this many nodes on, directions that were written make long narrow pictures where lines may lead anywhere.
const LARGE: usize = 120;

/// Whether a graph is so large that only leading away from one node is worth its time.
fn is_large_web(graph: &Graph) -> bool {
    let is_free = graph.groups.is_empty() && graph.constraints.is_empty();
    graph.directed == Directed::Trunks && is_free && graph.nodes.len() >= LARGE
}

impl LayeredOptions {
    /// Whether wide layers are folded, or groups stacked.
    pub(in crate::layout) fn folds(self) -> bool {
        self.width.is_some() || self.rows.is_some()
    }

    /// Lines lead away from one node, and everything is close together.
    pub(in crate::layout) fn outward(directions: Directions) -> LayeredOptions {
        LayeredOptions { directions, closer: true, ..LayeredOptions::default() }
    }

    /// What is worth trying where the usual candidates leave much of the picture white.
    pub(in crate::layout) fn closer(graph: &Graph) -> Vec<LayeredOptions> {
        // The candidates of a large graph are these already.
        if graph.directed != Directed::Trunks || is_large_web(graph) {
            return Vec::new();
        }
        let closer = graph.groups.is_empty().then_some(LayeredOptions { closer: true, ..LayeredOptions::default() });
        closer.into_iter().chain(OUTWARD.map(LayeredOptions::outward)).collect()
    }

    /// Other layers than the usual ones, for where those leave texts no room.
    pub(in crate::layout) fn others() -> Vec<LayeredOptions> {
        let closer = LayeredOptions { closer: true, ..LayeredOptions::default() };
        std::iter::once(closer).chain(OUTWARD.map(LayeredOptions::outward)).collect()
    }

    /// What is worth trying for a graph; the plain one first.
    pub(in crate::layout) fn candidates(graph: &Graph) -> Vec<LayeredOptions> {
        let plain = LayeredOptions::default();
        let turned = graph.turned();
        let areas = turned.nodes.iter().map(|n| (n.size.w + NODE_GAP) * (n.size.h + 3.0 * NODE_GAP));
        let page = libm::sqrt(areas.sum::<f64>() * if graph.direction.is_sideways() { 0.7 } else { 1.5 });
        if is_large_web(graph) {
            let outward = OUTWARD.map(LayeredOptions::outward);
            // Classes inherit and are layered by that; a network has nothing but its lines.
            let is_plain = graph.edges.iter().all(|e| e.trunk.is_none());
            let folded = outward.map(|options| LayeredOptions { width: Some(page * 1.4), ..options });
            return outward.into_iter().chain(folded.into_iter().filter(|_| is_plain)).collect();
        }
        if !graph.groups.is_empty() {
            let mut options = [3, 8, 1].map(|group_weight| LayeredOptions { group_weight, ..plain }).to_vec();
            if graph.groups.iter().any(|g| g.lane) {
                options.push(LayeredOptions { level: true, ..plain });
            }
            // Weights that lead to the same layers are one candidate. A group with a heading has layers of its own.
            if !graph.constraints.iter().any(|w| matches!(w, PlacementConstraint::Heading(..))) {
                let reversed = Ranking::directions(&turned, cycles::reversed(&turned, plain.directions));
                let mut seen = Vec::new();
                options.retain(|options| {
                    let ranks = Ranking::new(&turned, &reversed, *options).solve();
                    let is_new = !seen.contains(&ranks);
                    seen.push(ranks);
                    is_new
                });
            }
            let outermost = graph.groups.iter().filter(|g| g.parent.is_none() && !g.lane).count();
            options.extend((2..=outermost.min(3)).map(|rows| LayeredOptions { rows: Some(rows), ..plain }));
            return options;
        }
        let folded = [1.4, 1.0, 0.7].map(|part| LayeredOptions { width: Some(page * part), ..plain });
        [&[plain][..], &folded].concat()
    }
}

/// A stage of the arrangement.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Stage {
    /// Which edges run against the reading direction.
    Cycles,
    /// A layer for every node.
    Layers,
    /// What long lines and labels need in the layers.
    Items,
    /// The order in each layer.
    Order,
    /// Places across.
    Across,
    /// Tracks for lines, and places along.
    Along,
    /// Lines.
    Lines,
    /// Everything closer together.
    Compaction,
    /// Lines between things that stand level.
    Level,
}

/// Places a graph.
pub fn place(graph: &Graph, options: LayeredOptions) -> Placement {
    place_watched(graph, options, &|_| {})
}

/// The same; `watch` is called after each stage, for those that measure what it costs. Stages come back where layers
/// are assigned from scratch.
pub fn place_watched(graph: &Graph, options: LayeredOptions, watch: &dyn Fn(Stage)) -> Placement {
    // 1. One frame for all readings.
    let mut turned = graph.turned();
    // 2. Which edges run against the reading direction.
    let reversed = Ranking::directions(&turned, cycles::reversed(&turned, options.directions));
    watch(Stage::Cycles);
    if faces::has_choice(&turned) {
        turned = faces::chosen(turned, |graph| {
            let ranking = Ranking::new(graph, &reversed, options);
            drawn(ordered(graph, &reversed, &ranking, &Detours::new(), watch), graph, Care::Draft, watch)
        });
    }
    // 3. Layers, orders, places; again where a line runs through a group: first with more distance,
    //    then with a detour.
    let mut ranking = Ranking::new(&turned, &reversed, options);
    let mut detours = Detours::new();
    let is_tried_once = turned.groups.is_empty() || turned.edges.len() > REPAIRED_EDGES || turned.share == Share::Part;
    let rounds = if is_tried_once { 0 } else { REPAIRS };
    let mut best: Option<(usize, Layers)> = None;
    for round in 0..rounds {
        let layers = ordered(&turned, &reversed, &ranking, &detours, watch);
        let faults = routes::intrusions(&turned, &drawn(layers.clone(), &turned, Care::Draft, watch));
        if best.as_ref().is_none_or(|(least, _)| faults.len() <= *least) {
            best = Some((faults.len(), layers));
        }
        if faults.is_empty() {
            break;
        }
        let apart = round < rounds / 2 && faults.iter().fold(false, |any, (e, g)| ranking.keep_apart(*e, *g) || any);
        if !apart {
            faults.iter().for_each(|(e, g)| detours.entry(*e).or_default().push(*g));
        }
    }
    let mut layers = best.map_or_else(|| ordered(&turned, &reversed, &ranking, &detours, watch), |b| b.1);
    order::refine(&mut layers, &turned);
    watch(Stage::Order);
    let mut placement = drawn(layers, &turned, Care::Full, watch);
    // 4. Back into the frame of the reading.
    placement.turn_back(graph.direction);
    // 5. Lines between things that stand level.
    let mut level: Vec<usize> = (0..graph.edges.len()).filter(|e| placement.routes[*e].points.is_empty()).collect();
    if options.level {
        level = lines::level(graph, &mut placement, level);
    }
    // 6. Closer together, where groups kept things apart.
    if !graph.groups.is_empty() || options.closer {
        compact(graph, &mut placement, Level::Rows);
        watch(Stage::Compaction);
    }
    // 7. Those whose ends that has brought nearer, and those that run around something.
    if !level.is_empty() {
        let left = lines::level(graph, &mut placement, level);
        around::route(graph, &mut placement, &left);
        lines::join(graph, &mut placement);
        placement.fit();
        watch(Stage::Level);
    }
    fit_lanes(graph, &mut placement);
    // 8. Small jogs, and texts that all that moved onto something.
    straighten(graph, &mut placement);
    labels::snug(graph, &mut placement);
    if options.closer || !graph.groups.is_empty() {
        labels::repair(graph, &mut placement);
        // One that found its place outside widens the picture.
        placement.fit();
    }
    placement
}

/// Lanes in a lane begin where the band with its title ends.
fn fit_lanes(graph: &Graph, placement: &mut Placement) {
    for g in 0..graph.groups.len() {
        let Some(outer) = graph.outer_lane(g) else { continue };
        let band = graph.header(outer, placement);
        let frame = &mut placement.groups[g];
        if graph.direction.is_sideways() {
            *frame = Rect::new(band.right(), frame.y, frame.right() - band.right(), frame.h);
        } else {
            *frame = Rect::new(frame.x, band.bottom(), frame.w, frame.bottom() - band.bottom());
        }
    }
}

/// Layers with everything in its order.
fn ordered(
    graph: &Graph, reversed: &[bool], ranking: &Ranking<'_>, detours: &Detours, watch: &dyn Fn(Stage),
) -> Layers {
    // 1. A layer for every node.
    let ranks = ranking.solve();
    watch(Stage::Layers);
    // 2. Items in layers: nodes, and what long lines and labels need in between.
    let mut layers = Layers::build(graph, reversed, &ranks, detours);
    watch(Stage::Items);
    // 3. The order in each layer.
    order::reduce(&mut layers, graph);
    watch(Stage::Order);
    layers
}

/// Places and lines of what has its order; a draft takes less time over places.
fn drawn(mut layers: Layers, graph: &Graph, care: Care, watch: &dyn Fn(Stage)) -> Placement {
    // 1. Places across.
    let across = coordinates::assign(&mut layers, graph, care);
    watch(Stage::Across);
    // 2. Tracks for lines, and places along.
    let along = channels::assign(&layers, graph, &across);
    watch(Stage::Along);
    // 3. Lines.
    let placement = routes::collect(&layers, graph, &across, &along);
    watch(Stage::Lines);
    placement
}
