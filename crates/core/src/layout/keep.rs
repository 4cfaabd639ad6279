//! Stability: unchanged things stay where an earlier picture has them. What is new finds a free place near what it is
//! joined with, what grew pushes its neighbours as little as it must (the separation of [`separate`]), and only lines
//! whose ends moved, or that something moved onto, are drawn anew.
//!
//! The mental map is kept in its strictest sense, positions themselves (Misue, Eades, Lai, Sugiyama, "Layout adjustment
//! and the mental map", 1995); whether the picture is still worth keeping is the portfolio's question.

use super::graph::{Anchor, Graph, Placement, Reading, Route, Routing};
use super::score::hits;
use super::{around, lines, pins, separate};
use crate::geom::{Point, Rect, Size, distance, pt};

/// Where an earlier picture had the things of a graph.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Earlier {
    /// Nodes; `None` for new ones.
    pub nodes: Vec<Option<Rect>>,
    /// Groups.
    pub groups: Vec<Option<Rect>>,
    /// Lines and their texts.
    pub routes: Vec<Option<Route>>,
}

/// Room around a new node, in px.
const GAP: f64 = 30.0;
/// Steps of the search for a free place.
const STEP: f64 = 20.0;
/// How many rings of steps are searched.
const RINGS: i32 = 40;

/// The earlier picture with the changes worked in; `None` where too little of it is left.
pub(super) fn place(graph: &Graph, earlier: &Earlier) -> Option<Placement> {
    let known = earlier.nodes.iter().flatten().count();
    if known == 0 || 2 * known < graph.nodes.len() {
        return None;
    }
    let zero = Rect::default();
    let mut out = Placement {
        nodes: graph
            .nodes
            .iter()
            .zip(&earlier.nodes)
            .map(|(n, r)| r.map_or(zero, |r| Rect::around(r.middle(), n.size)))
            .collect(),
        groups: earlier.groups.iter().map(|r| r.unwrap_or(zero)).collect(),
        titles: vec![zero; graph.groups.len()],
        routes: vec![Route::default(); graph.edges.len()],
        size: Size::default(),
    };
    // 1. Places for what is new, in source order, so that one new thing can lean on another.
    let mut placed: Vec<bool> = earlier.nodes.iter().map(Option::is_some).collect();
    for v in 0..graph.nodes.len() {
        if !placed[v] {
            let middle = free_place(graph, &out, &placed, v);
            out.nodes[v] = Rect::around(middle, graph.nodes[v].size);
            placed[v] = true;
        }
    }
    // 2. Room for what grew, from the innermost groups outwards.
    for g in (0..graph.groups.len()).rev() {
        separate_in(graph, &mut out, Some(g));
        pins::frame(graph, &mut out, g, f64::INFINITY);
    }
    separate_in(graph, &mut out, None);
    // 3. Lines: kept where nothing about them changed.
    let still = |a: Anchor| match a {
        Anchor::Node(v) => earlier.nodes[v] == Some(out.nodes[v]),
        Anchor::Group(g) => earlier.groups[g] == Some(out.groups[g]),
    };
    let changed: Vec<Rect> = (0..graph.nodes.len())
        .filter(|v| !still(Anchor::Node(*v)))
        .map(|v| out.nodes[v])
        .chain((0..graph.groups.len()).filter(|g| !still(Anchor::Group(*g))).map(|g| out.titles[g]))
        .collect();
    let frames: Vec<usize> = (0..graph.groups.len()).filter(|g| !still(Anchor::Group(*g))).collect();
    let mut anew = Vec::new();
    for (e, edge) in graph.edges.iter().enumerate() {
        let kept = earlier.routes[e].as_ref().filter(|route| {
            let texts = route.label.map(|l| Size::new(l.w, l.h)) == edge.label;
            let ends = [0, 1].iter().all(|i| route.end_labels[*i].map(|l| Size::new(l.w, l.h)) == edge.end_labels[*i]);
            let line = route.polyline();
            let met = |r: &Rect| line.windows(2).any(|p| hits(p[0], p[1], r.grown(4.0)));
            let labels = route.label.iter().chain(route.end_labels.iter().flatten());
            let covered = |l: &Rect| changed.iter().any(|r| r.grown(3.0).meets(*l));
            let around: Vec<usize> = [edge.from, edge.to].into_iter().flat_map(|a| graph.groups_around(a)).collect();
            let entered = frames.iter().any(|g| !around.contains(g) && met(&out.groups[*g]));
            let foreign =
                |r: &&Rect| ![edge.from, edge.to].iter().any(|a| matches!(a, Anchor::Node(v) if out.nodes[*v] == **r));
            texts
                && ends
                && still(edge.from)
                && still(edge.to)
                && !entered
                && labels.into_iter().all(|l| !covered(l))
                && !changed.iter().filter(foreign).any(met)
        });
        match kept {
            Some(route) => out.routes[e] = route.clone(),
            None => anew.push(e),
        }
    }
    anew.retain(|e| graph.edges[*e].from != graph.edges[*e].to);
    around::route(graph, &mut out, &anew);
    let lost = anew.iter().any(|e| out.routes[*e].points.is_empty());
    if lost && graph.routing == Routing::Stepped {
        return None;
    }
    lines::join(graph, &mut out);
    if graph.routing != Routing::Stepped {
        lines::reshape(graph, &mut out, &anew);
    }
    out.fit();
    Some(out)
}

/// A place near what a new node is joined with, where nothing lies yet.
fn free_place(graph: &Graph, out: &Placement, placed: &[bool], v: usize) -> Point {
    let node = &graph.nodes[v];
    let (mut sum, mut count) = (pt(0.0, 0.0), 0.0);
    for edge in &graph.edges {
        let (other, ahead) = match (edge.from, edge.to) {
            (Anchor::Node(w), Anchor::Node(n)) if n == v && w != v => (w, 1.0),
            (Anchor::Node(n), Anchor::Node(w)) if n == v && w != v => (w, -1.0),
            _ => continue,
        };
        if placed[other] {
            let m = out.nodes[other].middle();
            let (dx, dy) = match graph.reading {
                Reading::Down => (0.0, 100.0),
                Reading::Up => (0.0, -100.0),
                Reading::Right => (200.0, 0.0),
                Reading::Left => (-200.0, 0.0),
            };
            sum = pt(sum.x + m.x + ahead * dx, sum.y + m.y + ahead * dy);
            count += 1.0;
        }
    }
    let home = node.group.map(|g| out.groups[g]).filter(|r| r.w > 0.0);
    let bounds =
        out.nodes.iter().zip(placed).filter(|(_, p)| **p).map(|(r, _)| *r).reduce(Rect::union).unwrap_or_default();
    let wanted = match (count > 0.0, home) {
        (true, _) => pt(sum.x / count, sum.y / count),
        (false, Some(home)) => pt(home.middle().x, home.bottom()),
        (false, None) => pt(bounds.x + node.size.w / 2.0, bounds.bottom() + GAP + node.size.h / 2.0),
    };
    let around: Vec<usize> = graph.groups_around(Anchor::Node(v)).collect();
    let free = |at: Point| {
        let own = Rect::around(at, node.size);
        let near = own.grown(GAP);
        let inside = around.iter().all(|g| {
            let r = out.groups[*g];
            r.w <= 0.0 || r.grown(400.0).union(own) == r.grown(400.0) && own.y > r.y + 30.0
        });
        inside
            && !out.nodes.iter().zip(placed).any(|(r, p)| *p && r.meets(near))
            && !out.groups.iter().enumerate().any(|(g, r)| r.w > 0.0 && !around.contains(&g) && r.meets(near))
    };
    let mut best: Option<(f64, Point)> = None;
    for ring in 0..RINGS {
        for i in -ring..=ring {
            for (x, y) in [(i, -ring), (i, ring), (-ring, i), (ring, i)] {
                let at = pt(wanted.x + f64::from(x) * STEP, wanted.y + f64::from(y) * STEP);
                // Inside the frame that is there rather than beyond it.
                let beyond = home.map_or(0.0, |h| {
                    let own = Rect::around(at, node.size).grown(16.0);
                    let all = h.union(own);
                    (all.w - h.w) + (all.h - h.h)
                });
                // To the left of everything, or above it, the whole picture would have to move.
                let own = Rect::around(at, node.size);
                let before = f64::max(bounds.x - own.x, 0.0) + f64::max(bounds.y - own.y, 0.0);
                let cost = distance(at, wanted) + 2.0 * beyond + 4.0 * before;
                if best.is_none_or(|(least, _)| cost < least) && free(at) {
                    best = Some((cost, at));
                }
            }
        }
        if best.is_some_and(|(cost, _)| cost < f64::from(ring) * STEP) {
            break;
        }
    }
    let at = best.map_or(pt(bounds.x, bounds.bottom() + GAP + node.size.h), |b| b.1);
    pt(libm::round(at.x), libm::round(at.y))
}

/// Moves apart what overlaps inside one group, or outside all; groups move with what they hold.
fn separate_in(graph: &Graph, out: &mut Placement, group: Option<usize>) {
    let nodes: Vec<usize> = (0..graph.nodes.len()).filter(|v| graph.nodes[*v].group == group).collect();
    let groups: Vec<usize> = (0..graph.groups.len()).filter(|g| graph.groups[*g].parent == group).collect();
    let rects: Vec<Rect> = nodes.iter().map(|v| out.nodes[*v]).chain(groups.iter().map(|g| out.groups[*g])).collect();
    let meets = |(i, a): (usize, &Rect)| rects[i + 1..].iter().any(|b| a.grown(4.0).meets(b.grown(4.0)));
    if !rects.iter().enumerate().any(meets) {
        return;
    }
    let sizes: Vec<Size> = rects.iter().map(|r| Size::new(r.w, r.h)).collect();
    let mut middles: Vec<Point> = rects.iter().map(|r| r.middle()).collect();
    separate::apart(&sizes, &mut middles, 14.0);
    let moves: Vec<(f64, f64)> = rects
        .iter()
        .zip(&middles)
        .map(|(r, m)| (libm::round(m.x - r.middle().x), libm::round(m.y - r.middle().y)))
        .collect();
    for (v, by) in nodes.iter().zip(&moves) {
        out.nodes[*v] = out.nodes[*v].moved(by.0, by.1);
    }
    for (g, by) in groups.iter().zip(&moves[nodes.len()..]) {
        for (v, node) in out.nodes.iter_mut().enumerate() {
            if graph.groups_around(Anchor::Node(v)).any(|x| x == *g) {
                *node = node.moved(by.0, by.1);
            }
        }
        for h in 0..graph.groups.len() {
            if graph.groups_around(Anchor::Group(h)).any(|x| x == *g) {
                out.groups[h] = out.groups[h].moved(by.0, by.1);
                out.titles[h] = out.titles[h].moved(by.0, by.1);
            }
        }
    }
}
