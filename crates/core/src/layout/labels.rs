//! Places for the texts of a line that has just been drawn: on its longest free stretch, at its ends beside it.
//!
//! Input: a graph and a placement in which one edge has a line. Output: its label and its texts at the ends, where they
//! lie on nothing else; if there is no such place, the least bad one.

use super::graph::{Graph, LabelAt, Placement};
use super::score::hits;
use crate::geom::{Point, Rect, Size, distance, pt};

/// Room between a text at an end and the line, and its node.
const BESIDE: f64 = 6.0;
/// How many places along each stretch are tried.
const PLACES: usize = 17;

/// Places the texts of an edge.
pub(super) fn put(graph: &Graph, placement: &mut Placement, e: usize) {
    let edge = &graph.edges[e];
    let line = placement.routes[e].polyline();
    if line.len() < 2 {
        return;
    }
    if let Some(size) = edge.label {
        let mut best: Option<(f64, Rect)> = None;
        // On the line; where there is no room, beside it.
        let (w, h) = (size.w / 2.0 + 5.0, size.h / 2.0 + 3.0);
        let offsets = [(w, 0.0), (-w, 0.0), (0.0, h), (0.0, -h), (w, h), (-w, h), (w, -h), (-w, -h)];
        let beside = [(0.0, 0.0, 0.0)].into_iter().chain(offsets.into_iter().map(|(x, y)| (x, y, 40.0)));
        let beside: Vec<(f64, f64, f64)> = beside.collect();
        for (wanted, at) in candidates(&line, edge.label_at) {
            for (dx, dy, more) in beside.iter().copied() {
                let rect = Rect::around(pt(at.x + dx, at.y + dy), size);
                let least = best.map_or(f64::INFINITY, |b| b.0);
                if wanted + more >= least {
                    continue;
                }
                let cost = 1000.0 * on_others(placement, e, rect) as f64 + wanted + more;
                if cost < least {
                    best = Some((cost, rect));
                }
            }
        }
        placement.routes[e].label = best.map(|b| b.1);
    }
    for end in 0..2 {
        let Some(size) = edge.end_labels[end] else { continue };
        let (at, next) = if end == 0 { (line[0], line[1]) } else { (line[line.len() - 1], line[line.len() - 2]) };
        let places = at_end(at, next, size);
        let cost = |r: &Rect| on_others(placement, e, *r);
        placement.routes[e].end_labels[end] = places.into_iter().min_by_key(cost);
    }
}

/// Places the labels of edges anew that lie on something, now that all of them have a place.
pub(super) fn mend(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    for e in edges {
        let lies = placement.routes[*e].label.is_some_and(|rect| on_others(placement, *e, rect) > 0);
        if lies && graph.edges[*e].from != graph.edges[*e].to {
            put(graph, placement, *e);
        }
    }
}

/// Points along a line with what they cost in themselves: near its middle, or its start, and on long stretches.
fn candidates(line: &[Point], label_at: LabelAt) -> Vec<(f64, Point)> {
    let whole: f64 = line.windows(2).map(|p| distance(p[0], p[1])).sum();
    let mut list = Vec::new();
    let mut before = 0.0;
    for pair in line.windows(2) {
        let length = distance(pair[0], pair[1]);
        for i in 1..PLACES {
            let part = i as f64 / PLACES as f64;
            let at = pt(pair[0].x + (pair[1].x - pair[0].x) * part, pair[0].y + (pair[1].y - pair[0].y) * part);
            let along = before + length * part;
            let wanted = if label_at == LabelAt::Start { whole * 0.15 } else { whole / 2.0 };
            let from_corner = f64::min(part, 1.0 - part) * length;
            list.push(((along - wanted).abs() / whole.max(1.0) * 100.0 - from_corner.min(60.0), at));
        }
        before += length;
    }
    list
}

/// How many things a text in this place would lie on.
fn on_others(placement: &Placement, e: usize, rect: Rect) -> usize {
    let (near, inner) = (rect.grown(3.0), rect.grown(1.0));
    let mut count = placement.nodes.iter().chain(&placement.titles).filter(|r| r.w > 0.0 && r.meets(near)).count();
    for group in &placement.groups {
        // A frame that runs through the text.
        count += usize::from(group.meets(inner) && group.union(inner) != *group);
    }
    for (_, route) in placement.routes.iter().enumerate().filter(|(f, _)| *f != e) {
        count += route.texts().filter(|r| r.meets(near)).count();
        count += usize::from(route.polyline().windows(2).any(|p| hits(p[0], p[1], inner)));
    }
    count
}

/// Beside the end of a line, on either side.
fn at_end(at: Point, next: Point, size: Size) -> Vec<Rect> {
    let away = 10.0;
    if (at.x - next.x).abs() < (at.y - next.y).abs() {
        let y = if next.y > at.y { at.y + away } else { at.y - away - size.h };
        vec![Rect::new(at.x + BESIDE, y, size.w, size.h), Rect::new(at.x - BESIDE - size.w, y, size.w, size.h)]
    } else {
        let x = if next.x > at.x { at.x + away } else { at.x - away - size.w };
        vec![Rect::new(x, at.y - 2.0 - size.h, size.w, size.h), Rect::new(x, at.y + 2.0, size.w, size.h)]
    }
}
