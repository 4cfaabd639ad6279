//! Tracks for the level stretches of lines between two layers, and places along. Each line has a
//! track of its own; trunks share one. Tracks are ordered so that lines cross least and never lie on
//! each other (channel routing with a linear order of the nets, ordered by the heuristic of Eades,
//! Lin, Smyth on their pairwise crossings).

use super::coordinates::Across;
use super::gaps::{CLOSE, LINE_GAP, TRACK};
use super::layers::{ItemKind, Layers};
use crate::layout::graph::{Graph, LabelAt};
use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap};

/// Places along, in px.
pub(super) struct Along {
    /// The middle of each item.
    pub(super) y: Vec<f64>,
    /// The track of each link that has one.
    pub(super) track: Vec<Option<f64>>,
    /// Upper and lower side of each group.
    pub(super) group: Vec<(f64, f64)>,
    /// The column of each bypass, and the tracks to it and from it.
    pub(super) bypass: Vec<(f64, [f64; 2])>,
}

/// Up to this many nets of a channel are compared pair by pair.
// 300 nets are 45,000 pairs, in every channel.
const FULL_EFFORT: usize = 300;
/// Room above a group's title, and between frames that begin or end together.
// Frames have bands of 5 px; with less between them two look like one.
const FRAME_GAP: f64 = 12.0;

/// One line, or one trunk, in a channel.
struct Net {
    links: Vec<usize>,
    /// The bypass that it leads to or from, and to which of its ends.
    bypass: Option<(usize, usize)>,
    /// Where its lines come from above, and where they go below.
    tops: Vec<f64>,
    bottoms: Vec<f64>,
    left: f64,
    right: f64,
}

/// Finds tracks and places along.
pub(super) fn assign(layers: &Layers, graph: &Graph, across: &Across) -> Along {
    let count = layers.layers.len();
    let mut y = vec![0.0; layers.items.len()];
    let mut track = vec![None; layers.links.len()];
    let mut bypass: Vec<(f64, [f64; 2])> =
        bypass_columns(layers, graph, across).into_iter().map(|x| (x, [0.0; 2])).collect();
    let mut margin = nets_to_margin(layers, across, &bypass);
    let mut at = 0.0;
    for (layer, to_margin) in margin.iter_mut().enumerate() {
        let row = layers.row(layer);
        let height = row.iter().map(|i| layers.items[*i].height).fold(0.0, f64::max);
        at += zone(layers, graph, layer, Border::Begins);
        for &item in &row {
            let own = layers.items[item].height;
            y[item] = at
                + match leaning(layers, graph, item) {
                    Some(Border::Begins) => own / 2.0,
                    Some(Border::Ends) => height - own / 2.0,
                    None => height / 2.0,
                };
        }
        at += height + zone(layers, graph, layer, Border::Ends);
        if layer + 1 < count {
            let mut nets = nets(layers, graph, across, layer);
            nets.append(to_margin);
            let tracks = order(&nets);
            let used = tracks.iter().map(|t| t + 1).max().unwrap_or(0);
            let room = |i: &usize| clearance(layers.items[*i].kind, graph);
            let above = row.iter().map(room).fold(trunk_room(layers, graph, &row), f64::max) * graph.spacing.max(0.8);
            let below = layers.row(layer + 1).iter().map(room).fold(0.0, f64::max) * graph.spacing.max(0.8);
            let (above, below) = if used > 0 { (above.max(8.0), below.max(8.0)) } else { (above, below) };
            for (net, t) in nets.iter().zip(&tracks) {
                let y = at + above + TRACK * graph.spacing * *t as f64;
                net.links.iter().for_each(|link| track[*link] = Some(y));
                if let Some((b, end)) = net.bypass {
                    bypass[b].1[end] = y;
                }
            }
            at += above + below + TRACK * graph.spacing * used.saturating_sub(1) as f64;
        }
    }
    let group = groups(layers, graph, &y);
    Along { y, track, group, bypass }
}

/// To which side of its layer an item leans: a text at an end, or at the start of a line, towards its node; what hangs on a
/// trunk begins level with its siblings.
fn leaning(layers: &Layers, graph: &Graph, item: usize) -> Option<Border> {
    let own = &layers.items[item];
    let hangs = |l: &usize| graph.edges[layers.links[*l].edge].trunk.is_some();
    if matches!(own.kind, ItemKind::Node(_)) && own.up.iter().any(hangs) {
        return Some(Border::Begins);
    }
    let edge = own.edge?;
    let end = match own.kind {
        ItemKind::EndLabel(end) => end,
        ItemKind::Label if graph.edges[edge].label_at == LabelAt::Start => 0,
        _ => return None,
    };
    let at_upper = (end == 0) != layers.chains[edge].reversed;
    let is_end = |i: usize| matches!(layers.items[i].kind, ItemKind::Node(_) | ItemKind::Turn);
    let near = if at_upper {
        own.up.iter().any(|l| is_end(layers.links[*l].upper))
    } else {
        own.down.iter().any(|l| is_end(layers.links[*l].lower))
    };
    near.then_some(if at_upper { Border::Begins } else { Border::Ends })
}

/// Room for arrow heads and bends beside an item.
fn clearance(kind: ItemKind, graph: &Graph) -> f64 {
    match kind {
        ItemKind::Node(_) | ItemKind::Turn => 18.0,
        ItemKind::Label if graph.direction.is_sideways() => 10.0,
        ItemKind::Label => 7.0,
        ItemKind::Title(_) => 6.0,
        ItemKind::Frame(_) => 16.0,
        ItemKind::EndLabel(_) => 3.0,
        ItemKind::Dummy | ItemKind::Filler => 0.0,
    }
}

/// Room for the large head of a trunk.
fn trunk_room(layers: &Layers, graph: &Graph, row: &[usize]) -> f64 {
    let is_trunk = |l: &usize| graph.edges[layers.links[*l].edge].trunk.is_some();
    let has_trunk =
        |i: &usize| matches!(layers.items[*i].kind, ItemKind::Node(_)) && layers.items[*i].down.iter().any(is_trunk);
    if row.iter().any(has_trunk) { 26.0 } else { 0.0 }
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Border {
    Begins,
    Ends,
}

/// Room for the frames that begin or end at a layer.
fn zone(layers: &Layers, graph: &Graph, layer: usize, border: Border) -> f64 {
    let is_here = |g: &usize| layer == if border == Border::Begins { layers.spans[*g].0 } else { layers.spans[*g].1 };
    let chain = |g: usize| std::iter::successors(Some(g), |g| graph.groups[*g].parent).filter(is_here);
    let depth = |g: usize| -> f64 { chain(g).map(|g| pad(graph, g, border)).sum() };
    (0..graph.groups.len()).filter(is_here).map(depth).fold(0.0, f64::max)
}

/// Room between a frame and what it holds, along the reading direction.
fn pad(graph: &Graph, g: usize, border: Border) -> f64 {
    let has_title = graph.groups[g].has_title_row(graph.direction);
    let at_title = has_title && (border == Border::Begins) != graph.direction.is_backwards();
    // Lanes in a lane leave that room to it.
    let inset = if graph.outer_lane(g).is_some() { 0.0 } else { graph.groups[g].inset };
    if at_title { FRAME_GAP } else { inset }
}

fn nets(layers: &Layers, graph: &Graph, across: &Across, layer: usize) -> Vec<Net> {
    let mut nets: Vec<Net> = Vec::new();
    // Links of a trunk, or those that meet where a detour turns, are one net.
    let mut shared: BTreeMap<(usize, usize), usize> = BTreeMap::new();
    for item in layers.row(layer) {
        for &l in &layers.items[item].down {
            let link = &layers.links[l];
            let top = across.x[link.upper] + link.upper_port;
            let bottom = across.x[link.lower] + link.lower_port;
            let net = match meeting(layers, graph, link) {
                Some(key) => *shared.entry(key).or_insert(nets.len()),
                None => nets.len(),
            };
            if net == nets.len() {
                let (links, tops, bottoms) = Default::default();
                nets.push(Net { links, bypass: None, tops, bottoms, left: top, right: top });
            }
            let net = &mut nets[net];
            net.links.push(l);
            net.tops.push(top);
            net.bottoms.push(bottom);
            net.left = net.left.min(top).min(bottom);
            net.right = net.right.max(top).max(bottom);
        }
    }
    nets.retain(|n| n.right - n.left > 0.5);
    nets
}

/// For each channel, the nets that lead to the margin and back.
fn nets_to_margin(layers: &Layers, across: &Across, columns: &[(f64, [f64; 2])]) -> Vec<Vec<Net>> {
    let mut nets: Vec<Vec<Net>> = layers.layers.iter().map(|_| Vec::new()).collect();
    for (b, (own, (column, _))) in layers.bypasses.iter().zip(columns).enumerate() {
        for (end, item) in [own.upper, own.lower].into_iter().enumerate() {
            let layer = layers.items[item].layer - end;
            let (left, right) = (across.x[item], *column);
            let (tops, bottoms) = if end == 0 { (left, right) } else { (right, left) };
            let (tops, bottoms) = (vec![tops], vec![bottoms]);
            nets[layer].push(Net { links: Vec::new(), bypass: Some((b, end)), tops, bottoms, left, right });
        }
    }
    nets
}

/// Where a link shares its line with others, and with which: the trunk, or the edge, and the item.
fn meeting(layers: &Layers, graph: &Graph, link: &super::layers::Link) -> Option<(usize, usize)> {
    let kind = layers.items[link.upper].kind;
    let trunk = graph.edges[link.edge].trunk.filter(|_| !layers.chains[link.edge].reversed);
    if let (Some(trunk), ItemKind::Node(_)) = (trunk, kind) {
        return Some((trunk, link.upper));
    }
    let own = |item: usize| layers.items[item].edge == Some(link.edge);
    let turns = [(link.upper, &layers.items[link.upper].down), (link.lower, &layers.items[link.lower].up)];
    let turn = turns.into_iter().find(|(item, links)| own(*item) && links.len() == 2);
    turn.map(|(item, _)| (usize::MAX - link.edge, item))
}

/// What it costs to have one net above another: crossings, and far more for lines that would lie on
/// each other.
fn cost(above: &Net, below: &Net) -> i64 {
    let inside = |x: f64, net: &Net| x > net.left - CLOSE && x < net.right + CLOSE;
    let crossing = below.tops.iter().filter(|x| inside(**x, above)).count()
        + above.bottoms.iter().filter(|x| inside(**x, below)).count();
    let touching = below.tops.iter().flat_map(|a| above.bottoms.iter().map(move |b| (a - b).abs()));
    crossing as i64 + 1000 * touching.filter(|d| *d < CLOSE).count() as i64
}

/// A track for each net, from above.
fn order(nets: &[Net]) -> Vec<usize> {
    let count = nets.len();
    let meets = |a: &Net, b: &Net| a.left < b.right + TRACK && b.left < a.right + TRACK;
    let mut sequence: Vec<usize> = (0..count).collect();
    if count <= FULL_EFFORT {
        // How much rather one net would be above another.
        let mut constraint = vec![0i64; count * count];
        for a in 0..count {
            for b in a + 1..count {
                if meets(&nets[a], &nets[b]) {
                    let gain = cost(&nets[b], &nets[a]) - cost(&nets[a], &nets[b]);
                    constraint[a * count + b] = gain;
                    constraint[b * count + a] = -gain;
                }
            }
        }
        sequence = linear_order(count, &constraint);
    }
    let mut tracks = vec![0usize; count];
    if count <= FULL_EFFORT {
        for (i, &a) in sequence.iter().enumerate() {
            let over = sequence[..i].iter().filter(|b| meets(&nets[a], &nets[**b]));
            tracks[a] = over.map(|b| tracks[*b] + 1).max().unwrap_or(0);
        }
        return tracks;
    }
    sequence.sort_by(|a, b| nets[*a].left.total_cmp(&nets[*b].left));
    let span = |a: &usize| ((nets[*a].left - TRACK) as i64, nets[*a].right as i64);
    let placed = left_edge(sequence.iter().map(span));
    sequence.into_iter().zip(placed).for_each(|(a, track)| tracks[a] = track);
    tracks
}

/// The column of each bypass, in px: further right than everything else, and shared by those that never stand level.
fn bypass_columns(layers: &Layers, graph: &Graph, across: &Across) -> Vec<f64> {
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

/// The left edge algorithm (Hashimoto, Stevens, "Wire routing by optimizing channel assignment within large apertures",
/// 1971): spans in the order of their beginnings, each on a track that is free again, or on a new one.
fn left_edge(spans: impl Iterator<Item = (i64, i64)>) -> Vec<usize> {
    let mut ends: BinaryHeap<Reverse<(i64, usize)>> = BinaryHeap::new();
    let mut places = Vec::new();
    for (first, last) in spans {
        let is_free = ends.peek().is_some_and(|Reverse((end, _))| *end < first);
        let tracks = ends.len();
        let freed = if is_free { ends.pop() } else { None };
        let track = freed.map_or(tracks, |Reverse((_, track))| track);
        ends.push(Reverse((last, track)));
        places.push(track);
    }
    places
}

/// An order that fulfils as many constraints as possible: always the one with the largest surplus next,
/// then neighbours exchanged while that helps.
fn linear_order(count: usize, constraint: &[i64]) -> Vec<usize> {
    let mut left: Vec<usize> = (0..count).collect();
    let mut order = Vec::with_capacity(count);
    let mut surplus: Vec<i64> = (0..count).map(|a| (0..count).map(|b| constraint[a * count + b]).sum()).collect();
    while !left.is_empty() {
        let mut best = 0;
        for i in 1..left.len() {
            if surplus[left[i]] > surplus[left[best]] {
                best = i;
            }
        }
        let chosen = left.remove(best);
        for &a in &left {
            surplus[a] -= constraint[a * count + chosen];
        }
        order.push(chosen);
    }
    // Each net to the place among the others where it costs least.
    for _ in 0..3 {
        let mut changed = false;
        for at in 0..count {
            let net = order[at];
            let (mut gain, mut best, mut to) = (0, 0, at);
            for i in (0..at).rev() {
                gain += constraint[net * count + order[i]];
                if gain > best {
                    (best, to) = (gain, i);
                }
            }
            gain = 0;
            for (i, other) in order.iter().enumerate().skip(at + 1) {
                gain += constraint[other * count + net];
                if gain > best {
                    (best, to) = (gain, i);
                }
            }
            if to != at {
                order.remove(at);
                order.insert(to, net);
                changed = true;
            }
        }
        if !changed {
            break;
        }
    }
    order
}

/// Upper and lower sides of groups, from what they hold in their first and last layers.
fn groups(layers: &Layers, graph: &Graph, y: &[f64]) -> Vec<(f64, f64)> {
    let count = graph.groups.len();
    let mut sides = vec![(f64::INFINITY, f64::NEG_INFINITY); count];
    for (i, item) in layers.items.iter().enumerate() {
        if let Some(g) = layers.groups_of(i).last() {
            let (top, bottom) = (y[i] - item.height / 2.0, y[i] + item.height / 2.0);
            if item.layer == layers.spans[*g].0 {
                sides[*g].0 = sides[*g].0.min(top);
            }
            if item.layer == layers.spans[*g].1 {
                sides[*g].1 = sides[*g].1.max(bottom);
            }
        }
    }
    // Children come after their parents, so from the last to the first.
    for g in (0..count).rev() {
        let (top, bottom) = sides[g];
        let top = top - pad(graph, g, Border::Begins);
        let mut bottom = bottom + pad(graph, g, Border::Ends);
        if graph.direction.is_sideways() {
            bottom = bottom.max(top + graph.groups[g].title.h + 2.0 * FRAME_GAP);
        }
        sides[g] = (top, bottom);
        if let Some(parent) = graph.groups[g].parent {
            if layers.spans[parent].0 == layers.spans[g].0 {
                sides[parent].0 = sides[parent].0.min(top);
            }
            if layers.spans[parent].1 == layers.spans[g].1 {
                sides[parent].1 = sides[parent].1.max(bottom);
            }
        }
    }
    // Regions that share their layers begin and end level.
    let regions = graph.neighbouring_regions();
    for &(g, h) in regions.iter().chain(regions.iter().rev()).filter(|(g, h)| layers.spans[*g] == layers.spans[*h]) {
        let both = (sides[g].0.min(sides[h].0), sides[g].1.max(sides[h].1));
        (sides[g], sides[h]) = (both, both);
    }
    // Lanes begin and end together, as far as they have as many lanes around them.
    let lanes: Vec<(usize, usize)> =
        (0..count).filter(|g| graph.groups[*g].lane).map(|g| (g, graph.lanes_around(g))).collect();
    let all = sides.clone();
    for (g, depth) in &lanes {
        let level = lanes.iter().filter(|(_, d)| d == depth).map(|(h, _)| all[*h]);
        sides[*g] = level.reduce(|a, b| (a.0.min(b.0), a.1.max(b.1))).unwrap_or(sides[*g]);
        if let Some(outer) = graph.outer_lane(*g) {
            let (top, bottom) = sides[outer];
            sides[*g] = if graph.direction.is_backwards() { (top, sides[*g].1) } else { (sides[*g].0, bottom) };
        }
    }
    sides
}
