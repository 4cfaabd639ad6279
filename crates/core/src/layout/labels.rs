//! Places for the texts of a line that has just been drawn: on its longest free stretch, at its ends beside it.
//!
//! Input: a graph and a placement in which one edge has a line. Output: its label and its texts at the ends, where they
//! lie on nothing else; if there is no such place, the least bad one.

use super::graph::{Graph, LabelAt, Placement, Route};
use super::score::hits;
use crate::geom::{Point, Rect, Size, distance, pt};

/// Room between a text at an end and the line, and its node.
const BESIDE: f64 = 6.0;
/// How many places along each stretch are tried, fewer where there are many stretches.
const PLACES: usize = 17;
/// How many places along a whole line are tried, about.
const ALL_PLACES: usize = 256;

/// Places the texts of an edge.
pub(super) fn put(graph: &Graph, placement: &mut Placement, e: usize) {
    let edge = &graph.edges[e];
    let line = placement.routes[e].polyline();
    if line.len() < 2 {
        return;
    }
    let near = Near::new(placement, e, &line, edge.label.iter().chain(edge.end_labels.iter().flatten()));
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
                let cost = 1000.0 * near.met_by(rect) as f64 + wanted + more;
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
        let cost = |r: &Rect| near.met_by(*r);
        placement.routes[e].end_labels[end] = places.into_iter().min_by_key(cost);
    }
}

/// Places the labels of edges anew that lie on something, now that all of them have a place.
pub(super) fn mend(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    for e in edges {
        let lies = placement.routes[*e].label.is_some_and(|rect| Near::in_region(placement, *e, rect).met_by(rect) > 0);
        if lies && graph.edges[*e].from != graph.edges[*e].to {
            put(graph, placement, *e);
        }
    }
}

/// Points along a line with what they cost in themselves: near its middle, or its start, and on long stretches.
fn candidates(line: &[Point], label_at: LabelAt) -> Vec<(f64, Point)> {
    let whole: f64 = line.windows(2).map(|p| distance(p[0], p[1])).sum();
    let mut list = Vec::new();
    let places = (ALL_PLACES / line.len().max(1)).clamp(2, PLACES);
    let mut before = 0.0;
    for pair in line.windows(2) {
        let length = distance(pair[0], pair[1]);
        for i in 1..places {
            let part = i as f64 / places as f64;
            let at = pt(pair[0].x + (pair[1].x - pair[0].x) * part, pair[0].y + (pair[1].y - pair[0].y) * part);
            let along = before + length * part;
            let wanted = if label_at == LabelAt::Start { whole * 0.15 } else { whole / 2.0 };
            let from_corner = f64::min(part, 1.0 - part) * length;
            list.push(((along - wanted).abs() / whole.max(1.0) * 100.0 - from_corner.min(60.0), at));
        }
        before += length;
    }
    // The best ones first: what follows the first free one need not be tried.
    list.sort_by(|a, b| a.0.total_cmp(&b.0));
    list
}

/// What lies near a line, other than its own texts.
struct Near {
    /// Nodes and titles.
    boxes: Vec<Rect>,
    frames: Vec<Rect>,
    texts: Vec<Rect>,
    /// The stretches of each other line.
    lines: Vec<Vec<(Point, Point)>>,
}

impl Near {
    /// What texts of these sizes may meet, on the line or beside it.
    fn new<'s>(placement: &Placement, e: usize, line: &[Point], sizes: impl Iterator<Item = &'s Size>) -> Self {
        let bounds = Rect::around_all(line.iter().copied()).unwrap_or_default();
        let reach = sizes.map(|s| s.w + s.h).fold(0.0, f64::max) + 24.0;
        Self::in_region(placement, e, bounds.grown(reach))
    }

    fn in_region(placement: &Placement, e: usize, region: Rect) -> Self {
        let region = region.grown(4.0);
        let within = |rects: &mut dyn Iterator<Item = &Rect>| -> Vec<Rect> {
            rects.filter(|r| r.w > 0.0 && r.meets(region)).copied().collect()
        };
        let others = || placement.routes.iter().enumerate().filter(|(f, _)| *f != e).map(|(_, r)| r);
        let meets = |r: &&Route| r.bounds().is_some_and(|b| b.grown(1.0).meets(region));
        let stretches = |r: &Route| {
            let line = r.polyline();
            let pairs = line.windows(2).map(|p| (p[0], p[1]));
            pairs.filter(|(p, q)| Rect::between(*p, *q).grown(1.0).meets(region)).collect()
        };
        Self {
            boxes: within(&mut placement.nodes.iter().chain(&placement.titles)),
            frames: within(&mut placement.groups.iter()),
            texts: within(&mut others().flat_map(Route::texts)),
            lines: others().filter(meets).map(stretches).collect(),
        }
    }

    /// How many things a text in this place would lie on.
    fn met_by(&self, rect: Rect) -> usize {
        let (near, inner) = (rect.grown(3.0), rect.grown(1.0));
        let texts = self.boxes.iter().chain(&self.texts).filter(|r| r.meets(near)).count();
        // A frame that runs through the text.
        let frames = self.frames.iter().filter(|r| r.meets(inner) && r.union(inner) != **r).count();
        let lines = self.lines.iter().filter(|l| l.iter().any(|(p, q)| hits(*p, *q, inner))).count();
        texts + frames + lines
    }
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
