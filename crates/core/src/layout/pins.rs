//! Pins: things at given places. The picture is laid out without them first; then it is moved to where the pinned things
//! would have it on average, they are put at their places, what they push away gives way (the separation of
//! [`separate`]), and lines that this bends out of shape are drawn anew. A pin that would make things overlap is not kept.

use super::graph::{Anchor, Graph, Placement, Route, Wish};
use super::score::{Fault, hits, measure};
use super::{around, lines, separate};
use crate::geom::{Point, Rect, Size, pt};

/// How much a pinned thing resists moves.
const FIRM: f64 = 1e6;
/// Room that pinned things clear around themselves, in px.
const GAP: f64 = 24.0;

/// Moves a placement's nodes to their pins. Pictures with pins begin at 0, 0, whatever lies there.
pub(super) fn keep(graph: &Graph, placement: &mut Placement) {
    let pins: Vec<(usize, Point)> = graph
        .wishes
        .iter()
        .filter_map(|w| if let Wish::Pin(Anchor::Node(v), at) = w { Some((*v, *at)) } else { None })
        .collect();
    if pins.is_empty() {
        return;
    }
    // All of them, or, if they do not go together, one after the other as far as they do.
    if let Some(all) = tried(graph, placement, &pins) {
        *placement = all;
        return;
    }
    let start = placement.clone();
    let mut kept = Vec::new();
    for pin in pins {
        kept.push(pin);
        match tried(graph, &start, &kept) {
            Some(better) => *placement = better,
            None => drop(kept.pop()),
        }
    }
}

fn tried(graph: &Graph, placement: &Placement, pins: &[(usize, Point)]) -> Option<Placement> {
    let mut out = placement.clone();
    let count = pins.len() as f64;
    let off = |(v, at): &(usize, Point)| (at.x - placement.nodes[*v].middle().x, at.y - placement.nodes[*v].middle().y);
    let sum = pins.iter().map(off).fold((0.0, 0.0), |s, o| (s.0 + o.0, s.1 + o.1));
    let bounds = out.bounds();
    let shift = (libm::round(sum.0 / count).max(-bounds.x), libm::round(sum.1 / count).max(-bounds.y));
    out.shift(shift.0, shift.1);
    let before = out.nodes.clone();
    let mut middles: Vec<Point> = out.nodes.iter().map(|r| r.middle()).collect();
    let mut firm = vec![1.0; middles.len()];
    for (v, at) in pins {
        (middles[*v], firm[*v]) = (*at, FIRM);
    }
    let sizes: Vec<Size> = out.nodes.iter().map(|r| Size::new(r.w, r.h)).collect();
    if graph.groups.is_empty() {
        separate::weighted(&sizes, &firm, &mut middles, GAP);
    }
    for (v, m) in middles.iter().enumerate() {
        out.nodes[v] = Rect::around(pt(libm::round(m.x), libm::round(m.y)), sizes[v]);
    }
    for (v, at) in pins {
        out.nodes[*v] = Rect::around(*at, sizes[*v]);
    }
    frames(graph, &mut out);
    // Lines whose ends moved, and lines that something moved onto.
    let moved = |v: usize| (out.nodes[v].x - before[v].x).abs() + (out.nodes[v].y - before[v].y).abs() > 0.01;
    let bent = |e: &usize| {
        let edge = &graph.edges[*e];
        let end = |a: Anchor| match a {
            Anchor::Node(v) => moved(v),
            Anchor::Group(_) => true,
        };
        let through = |p: &[Point]| {
            out.nodes.iter().enumerate().any(|(v, r)| {
                let own = edge.from == Anchor::Node(v) || edge.to == Anchor::Node(v);
                !own && moved(v) && hits(p[0], p[1], r.grown(6.0))
            })
        };
        end(edge.from) || end(edge.to) || out.routes[*e].polyline().windows(2).any(through)
    };
    let edges: Vec<usize> = (0..graph.edges.len()).filter(bent).collect();
    for e in &edges {
        out.routes[*e] = Route::default();
    }
    around::route(graph, &mut out, &edges);
    lines::join(graph, &mut out);
    let bounds = out.bounds();
    out.size = Size::new(bounds.right().max(0.0), bounds.bottom().max(0.0));
    let bad =
        |f: &Fault| matches!(f, Fault::Overlap(..) | Fault::Outside(..) | Fault::Intruder(..) | Fault::Nowhere(_));
    (!measure(graph, &out).faults.iter().any(bad)).then_some(out)
}

/// Frames of groups around what they hold now.
fn frames(graph: &Graph, out: &mut Placement) {
    (0..graph.groups.len()).rev().for_each(|g| frame(graph, out, g, 120.0));
}

/// The frame of one group around what it holds now; as it was where that still fits and leaves less than `spare` px free.
pub(super) fn frame(graph: &Graph, out: &mut Placement, g: usize, spare: f64) {
    let group = &graph.groups[g];
    let nodes = graph.nodes.iter().zip(&out.nodes).filter(|(n, _)| n.group == Some(g)).map(|(_, r)| *r);
    let groups = graph.groups.iter().zip(&out.groups).filter(|(h, _)| h.parent == Some(g)).map(|(_, r)| *r);
    let members: Vec<Rect> = nodes.chain(groups).collect();
    if let Some(inner) = members.iter().copied().reduce(Rect::union) {
        let width = f64::max(inner.w, group.title.w) + 2.0 * group.inset;
        let height = inner.h + group.above() + group.inset;
        let needed = Rect::new(inner.x - group.inset, inner.y - group.above(), width, height);
        let now = out.groups[g];
        let title = group.title_in(now);
        // A little closer than usual is no reason to move; beside a title there may be something.
        let roomy = now.union(inner.grown(group.inset * 0.7)) == now && now.w >= group.title.w + group.inset;
        let fits = roomy && members.iter().all(|m| !m.grown(3.0).meets(title));
        out.groups[g] = if fits && now.w - needed.w < spare && now.h - needed.h < spare { now } else { needed };
    }
    let rect = out.groups[g];
    if out.titles[g].w > 0.0 && rect.union(out.titles[g]) == rect && out.titles[g].w == group.title.w {
        return;
    }
    out.titles[g] = group.title_in(rect);
}
