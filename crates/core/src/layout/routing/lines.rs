//! Lines that are not stepped: `straight` runs from middle to middle, and around the corners of what is in its way
//! ([`shortest`](super::shortest)); `curved` is one smooth sweep, or the same with wide corners. Where there are very many lines, those with
//! something in their way are their stepped lines pulled tight (the taut string of Hershberger, Snoeyink, "Computing minimum
//! length paths of a given homotopy class", 1994).
//!
//! Input: a graph and a placement. Output: the same, every edge with a line and its texts.

use crate::geom::{Point, Rect, Size, SpatialIndex, between, distance, pt};
use crate::layout::graph::{Anchor, Graph, Routing};
use crate::layout::intersections::{hits, shared};
use crate::layout::outline::{Outline, Side};
use crate::layout::placement::Placement;
use crate::layout::route::{Route, tidied};
use crate::layout::routing::labels;
use crate::layout::routing::loops::Loops;
use crate::layout::routing::obstacles as around;
use crate::layout::routing::shortest::Corners;
use crate::layout::score::{Fault, measure};
use crate::layout::separation;
use std::collections::BTreeMap;

/// How far a corner of a curve reaches at most, in px.
// Nearly twice the height of a box: a wider sweep leaves the room between two layers.
const SWING: f64 = 90.0;
/// The same of a line that keeps its stepped course.
// Its bends lie close to what it passes.
const REPAIRED_SWING: f64 = 40.0;
/// Up to this many lines, single ones are left stepped.
// Each is checked against all others; beyond it the picture is a web in which one line more or less is not seen.
const REPAIRED: usize = 1_000;
/// At most this many of the lines that lie on something are tried one by one.
// Each is measured against the whole picture.
const SINGLE: usize = 24;
/// Up to this many lines, none runs on another.
// Each stretch that is tried is compared with all lines that are there.
const SEEN: usize = 200;
/// How near to the corner of a box a line may end.
// The corner is rounded by 8 px: a line that ends on the round part would hang in the air.
const CORNER: f64 = 9.0;
/// How far apart lines between the same two stand at least, and the room beside a text at an end.
const BESIDE: f64 = 16.0;
const BESIDE_TEXT: f64 = 12.0;
/// How far apart lines end at one side, in px, if it is long enough.
// The width of an arrow head, and as much again between two of them.
const END_PITCH: f64 = 16.0;
/// Room that lines keep from what they pass.
// Half of what stepped lines keep: a line at a slant passes a corner, not a side.
const CLEAR: f64 = 5.0;
/// How far a line may run along the frame of its own end.
// Longer, and line and frame look like one.
const ALONG: f64 = 12.0;

/// Gives every edge the kind of line that the graph asks for.
pub(in crate::layout) fn complete(graph: &Graph, placement: &mut Placement) {
    join(graph, placement);
    if graph.routing == Routing::Stepped {
        return;
    }
    let all: Vec<usize> = (0..graph.edges.len()).collect();
    let stepped = placement.clone();
    reshape(graph, placement, &all);
    // Lines that lie on something now stay stepped, where that takes faults away.
    if graph.edges.len() > REPAIRED {
        return;
    }
    let mut faults = measure(graph, placement).faults;
    let in_fault = |faults: &[Fault], ends: &[usize]| {
        let mut edges: Vec<usize> = faults.iter().flat_map(|f| ends.iter().filter_map(|end| f.edges()[*end])).collect();
        edges.sort_unstable();
        edges.dedup();
        edges.retain(|e| graph.edges[*e].from != graph.edges[*e].to);
        edges
    };
    let first = in_fault(&faults, &[0]);
    // All of them at once, then one after the other.
    let single: Vec<usize> = in_fault(&faults, &[0, 1]).into_iter().take(SINGLE).collect();
    for edges in std::iter::once(first).chain(single.into_iter().map(|e| vec![e])) {
        if faults.is_empty() {
            break;
        }
        let tried = stepped_again(graph, placement, &stepped, &edges);
        let left = measure(graph, &tried).faults;
        if left.len() < faults.len() {
            (*placement, faults) = (tried, left);
        }
    }
}

/// The same with the stepped lines of some edges; curved, with wide corners.
fn stepped_again(graph: &Graph, placement: &Placement, stepped: &Placement, edges: &[usize]) -> Placement {
    let mut tried = placement.clone();
    for e in edges {
        let route = &mut tried.routes[*e];
        *route = stepped.routes[*e].clone();
        if graph.routing == Routing::Curved {
            (route.points, route.curved) = (rounded(&tidied(std::mem::take(&mut route.points)), REPAIRED_SWING), true);
        }
    }
    tried
}

/// Draws lines from scratch around everything, as the graph asks. A line that finds no way runs straight. Lines from something
/// to itself stand beside it.
pub(in crate::layout) fn redraw(graph: &Graph, placement: &mut Placement, edges: Vec<usize>) {
    let edges = cleared(graph, placement, edges);
    around::route(graph, placement, &edges);
    finish(graph, placement, &edges);
}

/// The same, unless one of them finds no way: says whether all did. If not, the placement is not complete.
pub(in crate::layout) fn redraw_all(graph: &Graph, placement: &mut Placement, edges: Vec<usize>) -> bool {
    let edges = cleared(graph, placement, edges);
    let is_whole = around::route_all(graph, placement, &edges);
    if is_whole {
        finish(graph, placement, &edges);
    }
    is_whole
}

/// Takes the lines of edges away, and says which of these join two things.
fn cleared(graph: &Graph, placement: &mut Placement, mut edges: Vec<usize>) -> Vec<usize> {
    edges.iter().for_each(|e| placement.routes[*e] = Route::default());
    edges.retain(|e| graph.edges[*e].from != graph.edges[*e].to);
    edges
}

/// Lines beside things and straight ones for edges without a line, and the kind of line that the graph asks for.
fn finish(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    join(graph, placement);
    if graph.routing != Routing::Stepped {
        reshape(graph, placement, edges);
    }
}

/// The edges that must have a stepped line before they are [reshaped](reshape): a search over corners is for few lines.
pub(in crate::layout) fn stepped_first(graph: &Graph, placement: &Placement) -> Vec<usize> {
    match graph.routing {
        Routing::Straight if graph.edges.len() <= REPAIRED => Vec::new(),
        Routing::Straight => blocked(graph, placement),
        _ => graph.edges_between(),
    }
}

/// Makes stepped lines straight or curved, as the graph asks, and finds new places for their texts.
fn reshape(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    let edges: Vec<usize> = edges.iter().copied().filter(|e| graph.edges[*e].from != graph.edges[*e].to).collect();
    let (obstacles, siblings) = (Obstacles::new(graph, placement), Siblings::new(graph));
    let mut blocked: Vec<(f64, usize)> = Vec::new();
    // 1. What can be done with nothing in the way.
    for &e in &edges {
        let (points, is_curved) = match graph.routing {
            Routing::Curved => (sweep(&obstacles.beside(e), &placement.routes[e].points), true),
            _ => (free_line(graph, placement, e, (&obstacles, &siblings)), false),
        };
        match points {
            Some(points) => placement.routes[e] = Route { points, curved: is_curved, ..Route::default() },
            None => {
                let (from, to) = axis(graph, placement, e, &siblings);
                blocked.push((distance(from, to), e));
            }
        }
    }
    // 2. Around what is in the way, the shortest lines first.
    blocked.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
    let boxes = obstacles.boxes.iter().chain(&obstacles.groups).filter(|r| r.h > 0.0).copied();
    let mut corners = Corners::new(boxes);
    let mut drawn: Vec<usize> = edges.iter().copied().filter(|e| !blocked.iter().any(|b| b.1 == *e)).collect();
    for (_, e) in blocked {
        let others: Vec<(Point, Point)> =
            if edges.len() <= SEEN { apart_from(graph, placement, e, &drawn) } else { Vec::new() };
        let is_free = obstacles.beside(e);
        let free = |p, q| is_free(p, q) && !others.iter().any(|(r, s)| shared(p, q, *r, *s) > 0.0);
        drawn.push(e);
        let way = (graph.edges.len() <= REPAIRED)
            .then(|| around_corners(graph, placement, e, &siblings, (&free, &mut corners)));
        let stepped = &placement.routes[e].points;
        let points = way.flatten().unwrap_or_else(|| taut(&is_free, stepped));
        let is_curved = graph.routing == Routing::Curved;
        let points = if is_curved { rounded_where_free(&is_free, &points) } else { points };
        placement.routes[e] = Route { points, curved: is_curved, ..Route::default() };
    }
    // 3. Ends side by side.
    if graph.routing == Routing::Straight {
        spread_ends(graph, placement, &edges, &obstacles);
    }
    // 4. Labels last: they look at all lines.
    labels::put(graph, placement, &edges);
}

/// The stretches of these lines that have no end in common with an edge.
fn apart_from(graph: &Graph, placement: &Placement, e: usize, drawn: &[usize]) -> Vec<(Point, Point)> {
    let own = &graph.edges[e];
    let is_apart = |f: &&usize| ![0, 1].iter().any(|end| [own.from, own.to].contains(&graph.edges[**f].end(*end)));
    let lines = drawn.iter().filter(is_apart).map(|f| placement.routes[*f].points.windows(2).map(|p| (p[0], p[1])));
    lines.flatten().collect()
}

/// An end of a line at a side: how far along it, whose it is, and which of its ends.
struct LineEnd {
    along: f64,
    edge: usize,
    end: usize,
}

/// Moves the ends of lines apart that meet a side of a box at nearly one place, as far as the side is long and the lines stay free.
fn spread_ends(graph: &Graph, placement: &mut Placement, edges: &[usize], obstacles: &Obstacles<'_>) {
    // 1. The ends at each side of each box.
    let mut sides: BTreeMap<(Anchor, usize), Vec<LineEnd>> = BTreeMap::new();
    for &e in edges {
        for end in [0, 1] {
            let anchor = graph.edges[e].end(end);
            let (rect, points) = (placement.rect(anchor), &placement.routes[e].points);
            let (Outline::Box, [first, .., last]) = (graph.outline(anchor), points.as_slice()) else { continue };
            let at = if end == 0 { *first } else { *last };
            let side = Side::ALL.into_iter().find(|side| {
                let across = if side.is_vertical() { at.y } else { at.x };
                (across - side.of(rect)).abs() < 0.01
            });
            if let Some(side) = side {
                let along = if side.is_vertical() { at.x } else { at.y };
                sides.entry((anchor, side.number())).or_default().push(LineEnd { along, edge: e, end });
            }
        }
    }
    // 2. As near to where they are as their distance allows.
    for ((anchor, side), mut ends) in sides {
        ends.sort_by(|a, b| a.along.total_cmp(&b.along).then(a.edge.cmp(&b.edge)));
        let rect = placement.rect(anchor);
        let is_vertical = Side::ALL[side].is_vertical();
        let (from, extent) = if is_vertical { (rect.x, rect.w) } else { (rect.y, rect.h) };
        let room = extent - 2.0 * CORNER;
        let count = ends.len();
        if count < 2 || room <= 0.0 {
            continue;
        }
        let text = |own: &LineEnd| {
            let size = graph.edges[own.edge].end_labels[own.end].unwrap_or_default();
            if is_vertical { size.w } else { size.h }
        };
        // A text stands between its line and the next.
        let gaps: Vec<f64> = ends.windows(2).map(|pair| END_PITCH.max(text(&pair[0]) + BESIDE_TEXT)).collect();
        let scale = f64::min(1.0, room / gaps.iter().sum::<f64>());
        let wanted: Vec<f64> = ends.iter().map(|end| end.along).collect();
        let constraints: Vec<(usize, usize, f64)> =
            gaps.iter().enumerate().map(|(i, gap)| (i, i + 1, gap * scale)).collect();
        let order: Vec<usize> = (0..count).collect();
        let bounds = vec![(from + CORNER, from + extent - CORNER); count];
        let found = separation::satisfied(&wanted, &vec![1.0; count], &constraints, &order, &bounds);
        for (LineEnd { edge: e, end, .. }, at) in ends.into_iter().zip(found) {
            let mut points = placement.routes[e].points.clone();
            let number = if end == 0 { 0 } else { points.len() - 1 };
            let next = if end == 0 { 1 } else { number - 1 };
            if is_vertical {
                points[number].x = at
            } else {
                points[number].y = at
            }
            if obstacles.beside(e)(points[number.min(next)], points[number.max(next)]) {
                placement.routes[e].points = points;
            }
        }
    }
}

/// The shortest way around what is in the way of an edge.
fn around_corners(
    graph: &Graph, placement: &Placement, e: usize, siblings: &Siblings,
    (free, corners): (&impl Fn(Point, Point) -> bool, &mut Corners),
) -> Option<Vec<Point>> {
    let edge = &graph.edges[e];
    let outlines = [edge.from, edge.to].map(|end| graph.outline(end).corners(placement.rect(end)));
    let (from, to) = axis(graph, placement, e, siblings);
    let seen = |p: Point, q: Point, [starts, ends]: [bool; 2]| {
        let begin = if starts { leave(&outlines[0], p, q) } else { p };
        let end = if ends { leave(&outlines[1], q, p) } else { q };
        free(begin, end)
    };
    let inner = corners.way(from, to, seen)?;
    let (first, last) = (inner.first().copied().unwrap_or(to), inner.last().copied().unwrap_or(from));
    let (start, goal) = (leave(&outlines[0], from, first), leave(&outlines[1], to, last));
    Some(std::iter::once(start).chain(inner).chain([goal]).collect())
}

/// Gives a straight line to every edge that has none.
pub(in crate::layout) fn join(graph: &Graph, placement: &mut Placement) {
    let mut lost: Vec<usize> = (0..graph.edges.len()).filter(|e| placement.routes[*e].points.len() < 2).collect();
    if lost.is_empty() {
        return;
    }
    let (siblings, loops) = (Siblings::new(graph), Loops::new(graph));
    lost.retain(|e| {
        let own = loops.route(graph, *e, placement.rect(graph.edges[*e].from));
        let is_between = own.is_none();
        placement.routes[*e] = own.unwrap_or_else(|| direct(graph, placement, *e, &siblings));
        is_between
    });
    labels::put(graph, placement, &lost);
}

/// Joins nodes that stand beside or above each other, by one stretch between their middles, where nothing lies
/// there; gives back the edges for which that could not be.
pub(in crate::layout) fn level(graph: &Graph, placement: &mut Placement, mut edges: Vec<usize>) -> Vec<usize> {
    let (obstacles, siblings) = (Obstacles::new(graph, placement), Siblings::new(graph));
    edges.retain(|e| {
        let edge = &graph.edges[*e];
        let (Anchor::Node(a), Anchor::Node(b)) = (edge.from, edge.to) else { return true };
        let Some(route) = level_line(graph, placement, (a, b)) else { return true };
        let alone = siblings.of(graph, *e).len() == 1;
        let free = obstacles.beside(*e)(route.points[0], route.points[1]);
        let crosses = |p: &[Point]| hits(route.points[0], route.points[1], Rect::between(p[0], p[1]).grown(CLEAR));
        let crossed = || placement.routes.iter().flat_map(|r| r.points.windows(2)).any(crosses);
        if !(alone && free) || crossed() {
            return true;
        }
        placement.routes[*e] = route;
        labels::put(graph, placement, &[*e]);
        false
    });
    edges
}

/// A line between two nodes that stand beside or above each other: from middle to middle, or in the middle of what their
/// sides share; `None` if they share nothing.
fn level_line(graph: &Graph, placement: &Placement, (a, b): (usize, usize)) -> Option<Route> {
    let (from, to) = (placement.nodes[a], placement.nodes[b]);
    let is_box = [a, b].iter().all(|v| graph.nodes[*v].outline == Outline::Box);
    let shared = |(begin, end): (f64, f64), (first, last): (f64, f64)| {
        let (low, high) = (begin.max(first), end.min(last));
        let is_level = ((begin + end) - (first + last)).abs() < 0.02;
        (is_level || is_box && high - low >= 2.0 * CORNER).then_some((low + high) / 2.0)
    };
    let ends = |side: Side, at: f64| {
        let port = |v: usize, rect: Rect, side: Side| graph.nodes[v].outline.port(rect, side, at);
        Route { points: vec![port(a, from, side), port(b, to, side.opposite())], ..Route::default() }
    };
    if from.right() <= to.x || to.right() <= from.x {
        let side = if from.x < to.x { Side::Right } else { Side::Left };
        return shared((from.y, from.bottom()), (to.y, to.bottom())).map(|y| ends(side, y));
    }
    let side = if from.y < to.y { Side::Bottom } else { Side::Top };
    shared((from.x, from.right()), (to.x, to.right())).map(|x| ends(side, x))
}

/// Which edges could not run straight from outline to outline without meeting anything.
fn blocked(graph: &Graph, placement: &Placement) -> Vec<usize> {
    let (obstacles, siblings) = (Obstacles::new(graph, placement), Siblings::new(graph));
    let runs_free = |e: usize| free_line(graph, placement, e, (&obstacles, &siblings)).is_some();
    graph.edges_between().into_iter().filter(|e| !runs_free(*e)).collect()
}

/// The line between the outlines of an edge's ends, if nothing is in its way.
fn free_line(
    graph: &Graph, placement: &Placement, e: usize, (obstacles, siblings): (&Obstacles<'_>, &Siblings),
) -> Option<Vec<Point>> {
    let free = obstacles.beside(e);
    Some(direct(graph, placement, e, siblings).points).filter(|points| free(points[0], points[1]))
}

/// The edges between each two ends, in either direction, in source order.
struct Siblings(BTreeMap<(Anchor, Anchor), Vec<usize>>);

impl Siblings {
    fn new(graph: &Graph) -> Self {
        let mut all: BTreeMap<(Anchor, Anchor), Vec<usize>> = BTreeMap::new();
        for (e, edge) in graph.edges.iter().enumerate() {
            all.entry((edge.from.min(edge.to), edge.from.max(edge.to))).or_default().push(e);
        }
        Self(all)
    }

    /// Those of an edge; itself is one of them.
    fn of(&self, graph: &Graph, e: usize) -> &[usize] {
        let edge = &graph.edges[e];
        self.0.get(&(edge.from.min(edge.to), edge.from.max(edge.to))).map_or(&[], Vec::as_slice)
    }
}

/// A line between the outlines of its ends.
fn direct(graph: &Graph, placement: &Placement, e: usize, siblings: &Siblings) -> Route {
    let edge = &graph.edges[e];
    let (from, to) = (placement.rect(edge.from), placement.rect(edge.to));
    let (a, b) = axis(graph, placement, e, siblings);
    let start = leave(&graph.outline(edge.from).corners(from), a, b);
    let end = leave(&graph.outline(edge.to).corners(to), b, a);
    Route { points: vec![start, end], ..Route::default() }
}

/// From where to where a line would run that nothing is in the way of: from middle to middle, or beside that.
fn axis(graph: &Graph, placement: &Placement, e: usize, siblings: &Siblings) -> (Point, Point) {
    let edge = &graph.edges[e];
    let (from, to) = (placement.rect(edge.from), placement.rect(edge.to));
    // Lines between the same two stand side by side.
    let same = siblings.of(graph, e);
    let (all, nth) = (same.len() as f64, same.partition_point(|o| *o < e) as f64);
    let (a, b) = (from.middle(), to.middle());
    let length = distance(a, b).max(1.0);
    // As far apart as their texts need, if both ends are wide enough across the line.
    let across = |s: Size| ((b.y - a.y).abs() * s.w + (b.x - a.x).abs() * s.h) / length;
    let texts = same.iter().flat_map(|e| graph.edges[*e].end_labels).flatten();
    let wanted = texts.map(|text| across(text) + BESIDE_TEXT).fold(BESIDE, f64::max);
    let room = across(from.size()).min(across(to.size())) / all;
    let off = (nth - (all - 1.0) / 2.0) * f64::min(wanted, room * 0.9);
    // The same side for both directions.
    let sign = if (edge.from, edge.to) <= (edge.to, edge.from) { 1.0 } else { -1.0 };
    let (dx, dy) = (-(b.y - a.y) / length * off * sign, (b.x - a.x) / length * off * sign);
    (pt(a.x + dx, a.y + dy), pt(b.x + dx, b.y + dy))
}

/// Where a line from a point inside an outline to another point leaves it last.
fn leave(outline: &[Point], inside: Point, towards: Point) -> Point {
    let mut best = (0.0, inside);
    for (i, p) in outline.iter().enumerate() {
        let q = outline[(i + 1) % outline.len()];
        let (d, s) = (pt(towards.x - inside.x, towards.y - inside.y), pt(q.x - p.x, q.y - p.y));
        let det = d.x * s.y - d.y * s.x;
        if det.abs() < 1e-9 {
            continue;
        }
        let t = ((p.x - inside.x) * s.y - (p.y - inside.y) * s.x) / det;
        let u = ((p.x - inside.x) * d.y - (p.y - inside.y) * d.x) / det;
        if (-1e-9..=1.0 + 1e-9).contains(&u) && t > best.0 && t <= 1.0 {
            best = (t, pt(inside.x + d.x * t, inside.y + d.y * t));
        }
    }
    // Corners of boxes are round: lines keep away from them.
    let is_box = matches!(outline, [a, b, c, _] if a.y == b.y && b.x == c.x);
    let near = outline.iter().copied().find(|c| is_box && distance(*c, best.1) < CORNER);
    let off = |v: f64| if v < 0.0 { -CORNER } else { CORNER };
    match near {
        Some(corner) if best.1.y == corner.y => pt(corner.x + off(inside.x - corner.x), corner.y),
        Some(corner) => pt(corner.x, corner.y + off(inside.y - corner.y)),
        None => best.1,
    }
}

/// What straight stretches must not run into: nodes and titles, and groups that are around none of their ends.
struct Obstacles<'a> {
    graph: &'a Graph,
    /// Nodes, then titles.
    boxes: Vec<Rect>,
    index: SpatialIndex,
    groups: Vec<Rect>,
}

impl<'a> Obstacles<'a> {
    fn new(graph: &'a Graph, placement: &Placement) -> Self {
        let boxes: Vec<Rect> = placement.nodes.iter().chain(&placement.titles).copied().collect();
        let index = SpatialIndex::of(&boxes);
        Self { graph, boxes, index, groups: placement.groups.clone() }
    }

    /// Tells whether a stretch of an edge runs free.
    fn beside(&self, e: usize) -> impl Fn(Point, Point) -> bool + '_ {
        let edge = &self.graph.edges[e];
        let own = [edge.from, edge.to].map(Anchor::node);
        let around = self.graph.groups_around_edge(e);
        let foreign = move |g: &usize| !self.graph.groups[*g].lane && !around.contains(g);
        let foreign: Vec<Rect> = (0..self.groups.len()).filter(foreign).map(|g| self.groups[g].grown(2.0)).collect();
        let outline = |v: &usize| self.graph.nodes[*v].outline.corners(self.boxes[*v]);
        let ends: Vec<Vec<Point>> = own.iter().flatten().map(outline).collect();
        move |p, q| {
            let mut near = self.index.along(p, q, CLEAR);
            near.all(|i| own.contains(&Some(i)) || !self.is_hit(i, p, q))
                && !foreign.iter().any(|r| hits(p, q, *r))
                && !ends.iter().any(|e| within(p, q, e, -1.0) > 1e-9 || within(p, q, e, 1.0) * distance(p, q) > ALONG)
        }
    }

    /// Whether a stretch comes too near to a box or a title.
    fn is_hit(&self, i: usize, p: Point, q: Point) -> bool {
        let is_title = i >= self.graph.nodes.len();
        let room = if is_title { 2.0 } else { CLEAR };
        !(is_title && self.boxes[i].h <= 0.0) && hits(p, q, self.boxes[i].grown(room))
    }
}

/// Which part of a stretch, from 0 to 1, lies in an outline that is grown by `by` (Cyrus, Beck, "Generalized two- and
/// three-dimensional clipping", 1978). Of an outline with dents, what lies inside of all its sides counts.
fn within(p: Point, q: Point, outline: &[Point], by: f64) -> f64 {
    let next = |i: usize| outline[(i + 1) % outline.len()];
    let area: f64 = outline.iter().enumerate().map(|(i, a)| a.x * next(i).y - next(i).x * a.y).sum();
    let (mut from, mut to) = (0.0, 1.0);
    for (i, a) in outline.iter().enumerate() {
        let b = next(i);
        let length = distance(*a, b).max(1e-9) * area.signum();
        // How far a point lies inside of this side.
        let depth = |c: Point| ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)) / length + by;
        match (depth(p), depth(q)) {
            (start, end) if start <= 0.0 && end <= 0.0 => return 0.0,
            (start, end) if start < 0.0 => from = f64::max(from, start / (start - end)),
            (start, end) if end < 0.0 => to = f64::min(to, start / (start - end)),
            _ => {}
        }
    }
    f64::max(0.0, to - from)
}

/// The corners of a line that it cannot do without.
fn taut(is_free: &impl Fn(Point, Point) -> bool, points: &[Point]) -> Vec<Point> {
    let mut out = vec![points[0]];
    let mut at = 0;
    while at + 1 < points.len() {
        let free = |to: &usize| is_free(points[at], points[*to]);
        let next = (at + 2..points.len()).rev().find(free).unwrap_or(at + 1);
        out.push(points[next]);
        at = next;
    }
    out
}

/// Whether a curve runs free.
fn is_curve_free(is_free: &impl Fn(Point, Point) -> bool, points: &[Point]) -> bool {
    let drawn = Route { points: points.to_vec(), curved: true, ..Route::default() }.polyline();
    drawn.windows(2).all(|p| is_free(p[0], p[1]))
}

/// One smooth sweep that leaves and arrives as a stepped line does, as a cubic curve: a point, two control points and a
/// point; nothing if something is in its way.
fn sweep(is_free: &impl Fn(Point, Point) -> bool, stepped: &[Point]) -> Option<Vec<Point>> {
    let points = tidied(stepped.to_vec());
    let (first, last) = (points[0], points[points.len() - 1]);
    let found = if points.len() > 2 {
        let is_vertical = |a: Point, b: Point| (a.x - b.x).abs() < (a.y - b.y).abs();
        let half = pt((first.x + last.x) / 2.0, (first.y + last.y) / 2.0);
        let control =
            |own: Point, next: Point| if is_vertical(own, next) { pt(own.x, half.y) } else { pt(half.x, own.y) };
        let sweep = vec![first, control(first, points[1]), control(last, points[points.len() - 2]), last];
        // Not where it would have to turn back.
        let ahead = |a: Point, b: Point, c: Point| (b.x - a.x) * (c.x - a.x) + (b.y - a.y) * (c.y - a.y) > 0.0;
        let is_ahead = ahead(first, sweep[1], points[1]) && ahead(last, sweep[2], points[points.len() - 2]);
        is_ahead.then_some(sweep)
    } else {
        Some(rounded(&points, SWING))
    };
    found.filter(|sweep| is_curve_free(is_free, sweep))
}

/// A line with wide corners, as wide as there is room.
fn rounded_where_free(is_free: &impl Fn(Point, Point) -> bool, points: &[Point]) -> Vec<Point> {
    let mut swing = SWING;
    loop {
        let rounded = rounded(points, swing);
        if swing < 6.0 || is_curve_free(is_free, &rounded) {
            return rounded;
        }
        swing /= 2.0;
    }
}

/// A line with corners rounded, as cubic curves.
fn rounded(points: &[Point], swing: f64) -> Vec<Point> {
    let mut out = vec![points[0]];
    for three in points.windows(3) {
        let (a, b, c) = (three[0], three[1], three[2]);
        let by = f64::min(swing, f64::min(distance(a, b), distance(b, c)) / 2.0);
        let (enter, exit) = (towards(b, a, by), towards(b, c, by));
        straight(&mut out, enter);
        // A circle's quarter is 0.5523 of its radius from the corner's arms.
        out.extend([towards(enter, b, by * 0.5523), towards(exit, b, by * 0.5523), exit]);
    }
    straight(&mut out, points[points.len() - 1]);
    out
}

/// The point that lies this many px from `a` on the way to `b`.
fn towards(a: Point, b: Point, by: f64) -> Point {
    between(a, b, by / distance(a, b).max(1e-9))
}

/// A straight piece as a cubic curve.
fn straight(out: &mut Vec<Point>, to: Point) {
    let from = out[out.len() - 1];
    let third = distance(from, to) / 3.0;
    out.extend([towards(from, to, third), towards(to, from, third), to]);
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::{Edge, Node};

    fn picture(routing: Routing) -> (Graph, Placement) {
        let size = Size::new(80.0, 40.0);
        let node = |x: f64, y: f64| Rect::around(pt(x, y), size);
        let edges = vec![Edge::new(Anchor::Node(0), Anchor::Node(1)), Edge::new(Anchor::Node(0), Anchor::Node(0))];
        let graph = Graph { nodes: vec![Node { size, ..Node::default() }; 3], edges, routing, ..Graph::default() };
        let nodes = vec![node(40.0, 20.0), node(340.0, 320.0), node(500.0, 20.0)];
        let points = vec![pt(40.0, 40.0), pt(40.0, 170.0), pt(340.0, 170.0), pt(340.0, 300.0)];
        let routes = vec![Route { points, ..Route::default() }, Route::default()];
        (graph, Placement { nodes, routes, ..Placement::default() })
    }

    #[test]
    fn straight_lines_are_pulled_tight() {
        let (graph, mut placement) = picture(Routing::Straight);
        complete(&graph, &mut placement);
        assert_eq!(placement.routes[0].points, [pt(60.0, 40.0), pt(320.0, 300.0)], "from middle to middle");
        // Something in the way takes a corner.
        let (graph, mut placement) = picture(Routing::Straight);
        placement.nodes[2] = Rect::around(pt(190.0, 170.0), Size::new(20.0, 20.0));
        placement.routes[0].points = vec![pt(40.0, 40.0), pt(40.0, 220.0), pt(340.0, 220.0), pt(340.0, 300.0)];
        complete(&graph, &mut placement);
        let line = &placement.routes[0].points;
        assert!(line.len() > 2 && line.windows(2).all(|p| !hits(p[0], p[1], placement.nodes[2])), "{line:?}");
    }

    #[test]
    fn straight_lines_do_not_lie_on_the_frames_of_their_ends() {
        let (graph, mut placement) = picture(Routing::Straight);
        placement.nodes[1] = Rect::around(pt(40.0, 320.0), Size::new(80.0, 40.0));
        let beside = vec![pt(0.0, 20.0), pt(-20.0, 20.0), pt(-20.0, 320.0), pt(0.0, 320.0)];
        placement.routes[0].points = beside;
        complete(&graph, &mut placement);
        assert_eq!(placement.routes[0].points, [pt(40.0, 40.0), pt(40.0, 300.0)], "from side to side");
    }

    #[test]
    fn lines_to_the_corner_of_a_diamond_end_there() {
        let diamond = [pt(0.0, -20.0), pt(40.0, 0.0), pt(0.0, 20.0), pt(-40.0, 0.0)];
        assert_eq!(leave(&diamond, pt(0.0, 0.0), pt(80.0, 0.0)), pt(40.0, 0.0));
        let at = leave(&diamond, pt(0.0, 0.0), pt(80.0, 4.0));
        assert!((at.x / 40.0 + at.y / 20.0 - 1.0).abs() < 1e-9, "{at:?} lies on its side");
    }

    #[test]
    fn curves_leave_and_arrive_as_their_steps_did() {
        let (graph, mut placement) = picture(Routing::Curved);
        complete(&graph, &mut placement);
        let route = &placement.routes[0];
        assert!(route.curved && (route.points.len() - 1) % 3 == 0);
        assert_eq!((route.points[0], route.points[1].x), (pt(40.0, 40.0), 40.0));
        assert_eq!(route.points[route.points.len() - 1], pt(340.0, 300.0));
        let line = route.polyline();
        assert!(line.windows(2).all(|p| p[0].y <= p[1].y + 1e-9), "it never turns back");
    }

    #[test]
    fn a_line_to_the_own_node_stands_at_its_side() {
        let (graph, mut placement) = picture(Routing::Stepped);
        complete(&graph, &mut placement);
        let route = &placement.routes[1];
        assert!(route.points.iter().all(|p| p.x >= placement.nodes[0].right()));
        assert_eq!(route.bends(), 2);
    }
}
