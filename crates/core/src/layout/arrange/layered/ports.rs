//! Where lines meet the faces of nodes: spread along the face in the order of their far ends, and staggered where two
//! of them would meet in a channel.

use super::gaps::{CLOSE, CORNER, END_LEFT, END_RIGHT, LINE_GAP, PORT_GAP};
use super::layers::{ItemKind, Layers};
use crate::geom::Size;
use crate::layout::graph::{Anchor, Arrangement, Graph};
use crate::layout::outline::{Outline, Side};
use crate::layout::routing::loops::Loops;
use std::collections::BTreeMap;

/// For each node, the least size at which its lines have room: the texts at the ends of lines stand side by side along
/// its faces, and its lines to itself do not come too close; in px, zero where there is nothing to ask for.
pub fn room_for_lines(graph: &Graph) -> Vec<Size> {
    if matches!(graph.arrangement, Some(Arrangement::Radial | Arrangement::Force | Arrangement::Grid)) {
        return room_for_bundles(graph);
    }
    let turned = graph.direction.is_sideways().then(|| graph.turned());
    let turned = turned.as_ref().unwrap_or(graph);
    let loops = Loops::new(turned);
    // At each face: texts so far, and their extent.
    let mut faces = vec![[(0, 0.0); 2]; graph.nodes.len()];
    for edge in turned.edges.iter().filter(|e| e.from != e.to) {
        for (end, anchor) in [edge.from, edge.to].into_iter().enumerate() {
            if let (Anchor::Node(v), Some(size)) = (anchor, edge.end_labels[end]) {
                let (count, extent) = &mut faces[v][end];
                *count += 1;
                *extent += END_LEFT + size.w + END_RIGHT + LINE_GAP;
            }
        }
    }
    let along = |(count, extent): (usize, f64)| if count > 1 { extent + 2.0 * CORNER } else { 0.0 };
    let width = |[from, to]: [(usize, f64); 2]| f64::max(along(from), along(to));
    let sizes = faces.into_iter().enumerate();
    let sizes = sizes.map(|(v, face)| Size::new(width(face), loops.least_height(Anchor::Node(v))));
    sizes.map(|size| if graph.direction.is_sideways() { size.transposed() } else { size }).collect()
}

/// The same where lines may leave on any side: the texts of lines between the same two stand side by side, along
/// the layers or across them.
fn room_for_bundles(graph: &Graph) -> Vec<Size> {
    // For each node and what its lines lead to: texts so far, and their extent along and across.
    let mut bundles: BTreeMap<(usize, Anchor), (usize, Size)> = BTreeMap::new();
    for edge in graph.edges.iter().filter(|e| e.from != e.to) {
        for (end, (own, far)) in [(edge.from, edge.to), (edge.to, edge.from)].into_iter().enumerate() {
            if let (Anchor::Node(v), Some(size)) = (own, edge.end_labels[end]) {
                let (count, extent) = bundles.entry((v, far)).or_default();
                *count += 1;
                extent.w += END_LEFT + size.w + END_RIGHT + LINE_GAP;
                extent.h += END_LEFT + size.h + END_RIGHT + LINE_GAP;
            }
        }
    }
    let mut room = vec![Size::default(); graph.nodes.len()];
    for ((v, _), (_, extent)) in bundles.into_iter().filter(|(_, (count, _))| *count > 1) {
        room[v].w = f64::max(room[v].w, extent.w + 2.0 * CORNER);
        room[v].h = f64::max(room[v].h, extent.h + 2.0 * CORNER);
    }
    room
}

/// The face of a node that its lines leave by.
#[derive(Clone, Copy, PartialEq, Eq)]
enum LayerFace {
    Above,
    Below,
}

/// Spreads the lines of each node along its faces, in the order of their far ends.
pub(super) fn spread_all(layers: &mut Layers, graph: &Graph) {
    let pos = layers.places();
    for (v, &item) in layers.node_item.iter().enumerate() {
        for face in [LayerFace::Above, LayerFace::Below] {
            let downwards = face == LayerFace::Below;
            let mut links = if downwards { layers.items[item].down.clone() } else { layers.items[item].up.clone() };
            let far = |l: &usize| if downwards { layers.links[*l].lower } else { layers.links[*l].upper };
            links.sort_by_key(|l| (pos[far(l)], layers.links[*l].edge));
            let places = spread(layers, graph, v, &links, face);
            for (link, place) in links.into_iter().zip(places) {
                let link = &mut layers.links[link];
                *(if downwards { &mut link.upper_port } else { &mut link.lower_port }) = place;
            }
        }
    }
}

/// Places of links along a face, relative to the node's axis. Links of one trunk share a place.
fn spread(layers: &Layers, graph: &Graph, v: usize, links: &[usize], face: LayerFace) -> Vec<f64> {
    let is_forward = |e: usize| face == LayerFace::Below && !layers.chains[e].reversed;
    let trunk = |l: usize| Some(layers.links[l].edge).filter(|e| is_forward(*e)).and_then(|e| graph.edges[e].trunk);
    let mut places: Vec<f64> = Vec::new();
    let mut trunks: BTreeMap<usize, f64> = BTreeMap::new();
    let mut at = 0.0;
    let mut before: Option<f64> = None;
    for &l in links {
        if let Some(shared) = trunk(l).and_then(|t| trunks.get(&t)) {
            places.push(*shared);
            continue;
        }
        let (left, right) = room_for_text(layers, l, face);
        if let Some(room) = before {
            at += f64::max(PORT_GAP, room + left + if room + left > 0.0 { LINE_GAP } else { 0.0 });
        }
        before = Some(right);
        places.push(at);
        trunk(l).map(|t| trunks.insert(t, at));
    }
    let figure = graph.nodes[v].figure();
    let wide = (figure.w - 2.0 * CORNER).max(0.0);
    let wide = if is_pointed(&graph.nodes[v].outline, figure.h) { wide / 3.0 } else { wide };
    // The one that matters most stands in the middle, the others around it.
    let middle = heaviest(layers, graph, links).map_or(at / 2.0, |i| places[i]);
    let reach = f64::max(middle, at - middle);
    let scale = if 2.0 * reach > wide && reach > 0.0 { (wide / 2.0).max(0.0) / reach } else { 1.0 };
    places.iter().map(|p| libm::round((p - middle) * scale)).collect()
}

/// The room that the text on or beside a line needs to its left and right.
fn room_for_text(layers: &Layers, l: usize, face: LayerFace) -> (f64, f64) {
    let link = &layers.links[l];
    let far = &layers.items[if face == LayerFace::Below { link.lower } else { link.upper }];
    match far.kind {
        ItemKind::EndLabel(_) | ItemKind::Label => (far.left, far.right),
        _ => (0.0, 0.0),
    }
}

/// Which link belongs to the edge of the greatest weight, if there is just one, or one trunk.
fn heaviest(layers: &Layers, graph: &Graph, links: &[usize]) -> Option<usize> {
    let edge = |i: usize| &graph.edges[layers.links[links[i]].edge];
    let most = (0..links.len()).map(|i| edge(i).weight).max()?;
    let first = (0..links.len()).find(|i| edge(*i).weight == most)?;
    let mut rivals = (0..links.len()).filter(|i| *i != first && edge(*i).weight == most);
    let alone = rivals.all(|i| edge(i).trunk.is_some() && edge(i).trunk == edge(first).trunk);
    alone.then_some(first)
}

/// Whether an outline meets lines from above in a point, as a diamond does.
pub(super) fn is_pointed(outline: &Outline, height: f64) -> bool {
    match outline {
        Outline::Box => false,
        polygon => polygon.reach(crate::geom::Size::default(), Side::Top, 8.0) < height / 2.0 - 1.0,
    }
}

/// Moves ports of lower nodes sideways where a line that ends there would come to lie under another that begins above
/// it: such a pair forces an order on the tracks of its channel, and two pairs can force opposite ones. `x` are the axes
/// of the items.
pub(super) fn stagger(layers: &mut Layers, graph: &Graph, x: &[f64]) {
    for layer in 0..layers.layers.len().saturating_sub(1) {
        let row = layers.row(layer);
        let links: Vec<usize> = row.iter().flat_map(|i| layers.items[*i].down.iter().copied()).collect();
        let top = |layers: &Layers, l: usize| x[layers.links[l].upper] + layers.links[l].upper_port;
        let bottom = |layers: &Layers, l: usize| x[layers.links[l].lower] + layers.links[l].lower_port;
        let mut tops: Vec<(f64, usize)> = links.iter().map(|l| (top(layers, *l), *l)).collect();
        tops.sort_by(|a, b| a.0.total_cmp(&b.0));
        let near = |at: f64| &tops[tops.partition_point(|t| t.0 <= at - CLOSE)..];
        let clear = |at: f64, own: usize| near(at).iter().take_while(|t| t.0 < at + CLOSE).all(|t| t.1 == own);
        for &l in &links {
            let at = bottom(layers, l);
            let ItemKind::Node(v) = layers.items[layers.links[l].lower].kind else { continue };
            if clear(at, l) || (top(layers, l) - at).abs() < 0.5 {
                continue;
            }
            let item = &layers.items[layers.node_item[v]];
            let port = layers.links[l].lower_port;
            let others: Vec<f64> = item.up.iter().filter(|o| **o != l).map(|o| layers.links[*o].lower_port).collect();
            let is_apart = |o: f64, wanted: f64| (o < port) == (o < wanted) && (o - wanted).abs() >= PORT_GAP / 2.0;
            let is_free = |wanted: f64| others.iter().all(|o| is_apart(*o, wanted));
            let fits = |by: &f64| holds_port(&graph.nodes[v], port + by) && is_free(port + by) && clear(at + by, l);
            let steps = (1..=12).flat_map(|i| [f64::from(i), -f64::from(i)]);
            if let Some(by) = steps.into_iter().find(fits) {
                layers.links[l].lower_port += by;
            }
        }
    }
}

/// Whether the upper side of a node is flat and wide enough for a port so far from its middle.
fn holds_port(node: &crate::layout::Node, port: f64) -> bool {
    let size = node.figure();
    let is_flat = node.outline.reach(size, Side::Top, port) >= size.h / 2.0 - 1.0;
    port.abs() <= size.w / 2.0 - CORNER && is_flat && !is_pointed(&node.outline, size.h)
}
