//! One-dimensional compaction with the frames of groups as bodies. Contiguous layers leave nested groups tall and
//! empty; here everything moves along one axis, then along the other, as far as its neighbours allow.
//!
//! Input: a placement with horizontal and vertical lines. Output: the same drawing, with the same crossings and the same order
//! of everything that lies above something else, in less room. Neighbours are found with a skyline from above, which
//! gives a number of constraints linear in what is visible; the moves with the shortest lines, groups and picture are
//! found by the network simplex (the compaction of orthogonal drawings as a flow problem: Eiglsperger, Fekete, Klau,
//! "Orthogonal graph drawing", 2001, section on compaction; visibility as in Lengauer, "Combinatorial algorithms for
//! integrated circuit layout", 1990).

use crate::geom::{Point, Rect};
use crate::layout::graph::{Anchor, Graph, PlacementConstraint};
use crate::layout::placement::Placement;
use crate::layout::precedence;
use crate::layout::route::tidied;
use crate::layout::sets::Sets;
use crate::layout::simplex::{Constraint, improve};
use std::collections::BTreeMap;

/// Steps that the simplex may take for each thousand bodies.
// The limit is for graphs that were made to take long.
const STEPS: usize = 3_000;
/// Each may move a part of everything: together they move this much at most.
const MOST_MOVES: usize = 30_000_000;
/// Of more bodies than this, they move less, by as much as there are more.
// So few steps of so many change nothing that can be seen, and took half of the time of a picture of 9,000 elements.
const MANY: usize = 20_000;
/// How much the picture's own extent matters, where a line counts 1.
// A picture that is a px narrower is worth eight lines that are a px longer.
const WHOLE: i64 = 8;
/// How much a group's extent matters.
// A frame as tight as it can be is worth four lines that get a px longer.
const FRAME: i64 = 4;

/// How far across the axis nodes and frames, texts, and lines are taken to reach beyond themselves.
const BODY: f64 = 8.0;
const TEXT: f64 = 4.0;
const LINE: f64 = 6.0;

/// What stays level where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) enum Level {
    /// Nodes of a group, along the reading direction.
    Rows,
    /// Nodes of a group in rows and columns, and the groups in a group whose upper or left sides are.
    Grid,
}

/// How many steps the simplex may take for this many bodies.
fn steps(count: usize) -> usize {
    let most = MOST_MOVES / count.max(1);
    let most = if count > MANY { most * MANY / count } else { most };
    (STEPS * (count / 1000 + 1)).min(most)
}

/// Moves everything together, along one axis and then the other, twice.
pub(in crate::layout) fn compact(graph: &Graph, placement: &mut Placement, level: Level) {
    if placement.routes.iter().flat_map(|r| r.points.windows(2)).any(is_slanted) {
        return;
    }
    for _ in 0..2 {
        for heading in [AxisHeading::Along, AxisHeading::Across] {
            let is_vertical = (heading == AxisHeading::Along) != graph.direction.is_sideways();
            if !is_vertical {
                placement.transpose();
            }
            Axis::new(graph, placement, heading, level).apply(placement);
            if !is_vertical {
                placement.transpose();
            }
        }
    }
    placement.routes.iter_mut().for_each(|r| r.points = tidied(std::mem::take(&mut r.points)));
    placement.fit();
}

fn is_slanted(pair: &[Point]) -> bool {
    (pair[0].x - pair[1].x).abs() > 0.01 && (pair[0].y - pair[1].y).abs() > 0.01
}

fn is_horizontal(pair: &[Point]) -> bool {
    (pair[0].y - pair[1].y).abs() <= 0.01
}

/// What a body is, for the room around it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kind {
    Node,
    /// The upper or lower side of a group.
    Border(usize),
    Title,
    /// The title of a lane.
    Band,
    Line,
    Label,
    /// The ends of the picture.
    Edge,
}

/// Something that moves along the axis.
#[derive(Clone, Copy, Debug)]
struct Body {
    kind: Kind,
    /// Where it lies; across the axis with the margin by which it shades others.
    rect: Rect,
    margin: f64,
    /// The innermost group around it.
    group: Option<usize>,
}

/// How an axis lies in the picture.
#[derive(Clone, Copy, PartialEq, Eq)]
enum AxisHeading {
    /// In the rank direction.
    Along,
    Across,
}

/// All bodies along one axis; positions are those before any move.
struct Axis<'a> {
    graph: &'a Graph,
    bodies: Vec<Body>,
    /// Bodies that move as one.
    tied: Sets,
    list: Vec<Constraint>,
    /// First bodies of nodes, of groups (upper and lower side), of titles, labels, and texts at ends.
    groups: usize,
    titles: usize,
    labels: Vec<[Option<usize>; 3]>,
    /// For each stretch of each route, its body if it lies level.
    stretches: Vec<Vec<Option<usize>>>,
    along: bool,
}

impl<'a> Axis<'a> {
    fn new(graph: &'a Graph, placement: &Placement, heading: AxisHeading, level: Level) -> Self {
        let (nodes, groups) = (placement.nodes.len(), placement.groups.len());
        let mut axis = Self {
            graph,
            bodies: Vec::new(),
            tied: Sets::new(0),
            list: Vec::new(),
            groups: nodes,
            titles: nodes + 2 * groups,
            labels: vec![[None; 3]; placement.routes.len()],
            stretches: Vec::new(),
            along: heading == AxisHeading::Along,
        };
        // 1. Bodies.
        for (v, rect) in placement.nodes.iter().enumerate() {
            axis.add(Kind::Node, *rect, BODY, graph.nodes[v].group);
        }
        for (g, rect) in placement.groups.iter().enumerate() {
            let group = graph.groups[g].parent;
            axis.add(Kind::Border(g), Rect::new(rect.x, rect.y, rect.w, 0.0), BODY, group);
            axis.add(Kind::Border(g), Rect::new(rect.x, rect.bottom(), rect.w, 0.0), BODY, group);
        }
        for (g, rect) in placement.titles.iter().enumerate() {
            // A lane has its title on a band from side to side; along, sideways pictures are turned here.
            let is_band = axis.along && graph.groups[g].lane;
            let rect =
                if is_band { Rect::new(placement.groups[g].x, rect.y, placement.groups[g].w, rect.h) } else { *rect };
            let title = axis.add(if is_band { Kind::Band } else { Kind::Title }, rect, TEXT, Some(g));
            axis.tied.join(title, axis.side(g, 0));
        }
        for e in 0..placement.routes.len() {
            axis.add_route(placement, e);
        }
        axis.tie_rows(placement, level);
        // 2. What keeps them apart, and what pulls.
        axis.shade(placement);
        if !axis.along {
            axis.keep_order();
        }
        for e in 0..placement.routes.len() {
            axis.pull(placement, e);
        }
        for g in 0..groups {
            axis.weigh(axis.side(g, 0), axis.side(g, 1), FRAME);
        }
        axis
    }

    fn add(&mut self, kind: Kind, rect: Rect, margin: f64, group: Option<usize>) -> usize {
        self.bodies.push(Body { kind, rect, margin, group });
        self.tied.push();
        self.bodies.len() - 1
    }

    /// The body that a route's end moves with.
    fn anchor(&self, anchor: Anchor, at: Point, placement: &Placement) -> Option<usize> {
        match anchor {
            Anchor::Node(v) => Some(v),
            Anchor::Group(g) => {
                let rect = placement.groups[g];
                let sides = [(rect.y, self.side(g, 0)), (rect.bottom(), self.side(g, 1))];
                sides.into_iter().find(|(y, _)| (y - at.y).abs() < 0.5).map(|s| s.1)
            }
        }
    }

    /// The groups that hold both ends of an edge.
    fn common_group(&self, e: usize) -> Option<usize> {
        let edge = &self.graph.edges[e];
        let other: Vec<usize> = self.graph.groups_around(edge.to).collect();
        self.graph.groups_around(edge.from).find(|g| other.contains(g))
    }

    fn add_route(&mut self, placement: &Placement, e: usize) {
        let (route, edge) = (&placement.routes[e], &self.graph.edges[e]);
        let group = self.common_group(e);
        let last = route.points.len().saturating_sub(2);
        let mut own = Vec::new();
        for (i, pair) in route.points.windows(2).enumerate() {
            own.push(is_horizontal(pair).then(|| {
                let (mut left, mut right) = (pair[0].x.min(pair[1].x), pair[0].x.max(pair[1].x));
                let mut nodes = Vec::new();
                // A line at a flank moves with its node, and leaves it to the node to be seen there.
                for (is_end, anchor, at) in [(i == 0, edge.from, pair[0].x), (i == last, edge.to, pair[1].x)] {
                    if let (true, Anchor::Node(v)) = (is_end, anchor) {
                        nodes.push(v);
                        let hidden = BODY + LINE;
                        if at == left { left += hidden } else { right -= hidden }
                    }
                }
                let body = self.add(Kind::Line, Rect::new(left, pair[0].y, (right - left).max(0.0), 0.0), LINE, group);
                nodes.into_iter().for_each(|v| self.tied.join(body, v));
                // A line from a group to itself stands at its far side, and as far from where it begins.
                if let (Anchor::Group(g), true) = (edge.from, edge.from == edge.to) {
                    self.tied.join(body, self.own_side(g));
                }
                body
            }));
        }
        if route.points.len() >= 2 {
            self.add_texts(placement, e, &own);
        }
        self.stretches.push(own);
    }

    /// The side of a group that its lines to itself move with: its right one, and the upper one along it.
    fn own_side(&self, g: usize) -> usize {
        self.side(g, usize::from(!self.along))
    }

    fn add_texts(&mut self, placement: &Placement, e: usize, own: &[Option<usize>]) {
        let (route, edge) = (&placement.routes[e], &self.graph.edges[e]);
        let group = self.common_group(e);
        if let Some(rect) = route.label {
            let label = self.add(Kind::Label, rect, TEXT, group);
            self.labels[e][0] = Some(label);
            // On a level stretch, or beside a line to the own node, it moves with it.
            let level = route.points.windows(2).zip(own).find(|(p, body)| {
                body.is_some() && p[0].x.min(p[1].x) < rect.right() && rect.x < p[0].x.max(p[1].x) && {
                    (p[0].y - rect.middle().y).abs() < rect.h
                }
            });
            let stretch = self.label_stretch(placement, e);
            match (level, edge.from, stretch) {
                (_, Anchor::Node(v), _) if edge.from == edge.to => self.tied.join(label, v),
                (_, Anchor::Group(g), _) if edge.from == edge.to => {
                    self.tied.join(label, self.own_side(g));
                }
                (Some((_, Some(body))), _, None) => {
                    self.tied.join(label, *body);
                    self.cut_out(*body, rect);
                }
                (_, Anchor::Node(v), None) => self.tied.join(label, v),
                _ => {}
            }
        }
        let ends = [(edge.from, 0, 0), (edge.to, own.len() - 1, route.points.len() - 1)];
        for (i, (anchor, stretch, point)) in ends.into_iter().enumerate() {
            if let Some(rect) = route.end_labels[i] {
                let text = self.add(Kind::Label, rect, TEXT, group);
                self.labels[e][1 + i] = Some(text);
                if let Some(body) = own[stretch].or(self.anchor(anchor, route.points[point], placement)) {
                    self.tied.join(text, body);
                }
            }
        }
    }

    /// Where a label lies on a level line, neighbours see the label instead of the line.
    fn cut_out(&mut self, line: usize, label: Rect) {
        let whole = self.bodies[line].rect;
        let hidden = TEXT + LINE;
        self.bodies[line].rect.w = (label.x - hidden - whole.x).max(0.0);
        let begin = label.right() + hidden;
        let rest = Rect::new(begin, whole.y, (whole.right() - begin).max(0.0), 0.0);
        let rest = self.add(Kind::Line, rest, LINE, self.bodies[line].group);
        self.tied.join(rest, line);
    }

    /// The vertical stretch that a route's label lies on.
    fn label_stretch(&self, placement: &Placement, e: usize) -> Option<usize> {
        let route = &placement.routes[e];
        let rect = route.label?;
        route.points.windows(2).position(|p| !is_horizontal(p) && runs_through(p, rect))
    }

    /// What stands level stays level.
    fn tie_rows(&mut self, placement: &Placement, level: Level) {
        if self.along || level == Level::Grid {
            let mut rows: BTreeMap<(Option<usize>, i64), usize> = BTreeMap::new();
            for (v, rect) in placement.nodes.iter().enumerate() {
                let key = (self.graph.nodes[v].group, libm::round(rect.middle().y * 2.0) as i64);
                let first = *rows.entry(key).or_insert(v);
                self.tied.join(first, v);
            }
        }
        if level == Level::Grid {
            let mut sides: BTreeMap<(Option<usize>, i64), usize> = BTreeMap::new();
            for (g, rect) in placement.groups.iter().enumerate() {
                let key = (self.graph.groups[g].parent, libm::round(rect.y * 2.0) as i64);
                let first = *sides.entry(key).or_insert(g);
                self.tied.join(self.side(first, 0), self.side(g, 0));
            }
        }
        if self.along {
            self.tie_families(placement);
        }
        let constraints = if self.along { &self.graph.constraints[..] } else { &[] };
        for constraint in constraints {
            if let PlacementConstraint::Row(all) = constraint {
                for pair in all.windows(2) {
                    if let [Anchor::Node(a), Anchor::Node(b)] = pair {
                        self.tied.join(*a, *b);
                    }
                }
            }
        }
        self.tie_lanes();
        for (g, h) in if self.along { self.graph.neighbouring_regions() } else { Vec::new() } {
            let (a, b) = (placement.groups[g], placement.groups[h]);
            for (end, is_level) in [(0, a.y == b.y), (1, a.bottom() == b.bottom())] {
                if is_level {
                    self.tied.join(self.side(g, end), self.side(h, end));
                }
            }
        }
    }

    /// What hangs on one trunk and begins, or ends, level stays so, however high each is.
    fn tie_families(&mut self, placement: &Placement) {
        let mut level: BTreeMap<(usize, bool, i64), usize> = BTreeMap::new();
        for edge in &self.graph.edges {
            let (Some(trunk), Anchor::Node(v)) = (edge.trunk, edge.to) else { continue };
            let rect = placement.nodes[v];
            for (is_end, at) in [(false, rect.y), (true, rect.bottom())] {
                let first = *level.entry((trunk, is_end, libm::round(at * 2.0) as i64)).or_insert(v);
                self.tied.join(first, v);
            }
        }
    }

    /// Lanes begin and end together, and lie side by side; those in a lane fill it below its title.
    fn tie_lanes(&mut self) {
        let graph = self.graph;
        let side = |g: usize, end: usize| self.side(g, end);
        // Of each lane, or of the picture: the lanes in it.
        let mut families: BTreeMap<Option<usize>, Vec<usize>> = BTreeMap::new();
        for g in (0..graph.groups.len()).filter(|g| graph.groups[*g].lane) {
            families.entry(graph.outer_lane(g)).or_default().push(g);
        }
        let mut ties = Vec::new();
        let mut first_at = BTreeMap::new();
        for (outer, lanes) in families {
            for &g in lanes.iter().filter(|_| self.along) {
                let first = *first_at.entry(graph.lanes_around(g)).or_insert(g);
                ties.extend([(side(first, 0), side(g, 0)), (side(first, 1), side(g, 1))]);
                ties.extend(outer.map(|outer| (side(outer, 1), side(g, 1))));
            }
            if !self.along {
                ties.extend(lanes.windows(2).map(|pair| (side(pair[0], 1), side(pair[1], 0))));
                let ends =
                    outer.map(|o| [(side(o, 0), side(lanes[0], 0)), (side(o, 1), side(lanes[lanes.len() - 1], 1))]);
                ties.extend(ends.into_iter().flatten());
            }
        }
        ties.into_iter().for_each(|(a, b)| self.tied.join(a, b));
    }

    /// Constraints between what sees each other, found with a skyline from above.
    fn shade(&mut self, placement: &Placement) {
        let bounds = placement.bounds();
        let top = self.add(Kind::Edge, Rect::new(bounds.x - 99.0, bounds.y, bounds.w + 198.0, 0.0), 0.0, None);
        let bottom =
            self.add(Kind::Edge, Rect::new(bounds.x - 99.0, bounds.bottom(), bounds.w + 198.0, 0.0), 0.0, None);
        let mut order: Vec<usize> = (0..self.bodies.len()).collect();
        let middle = |b: usize| self.bodies[b].rect.middle().y;
        // The edges of the picture come first and last, whatever reaches beyond them.
        let depth = |b: usize| {
            if b == top {
                f64::NEG_INFINITY
            } else if b == bottom {
                f64::INFINITY
            } else {
                middle(b)
            }
        };
        let left = |b: usize| self.bodies[b].rect.x;
        order.sort_by(|a, b| depth(*a).total_cmp(&depth(*b)).then(left(*a).total_cmp(&left(*b))));
        let grid = |x: f64| libm::floor(x * 64.0) as i64;
        let mut skyline: BTreeMap<i64, usize> = BTreeMap::new();
        skyline.insert(i64::MIN, top);
        for body in order {
            let Body { rect, margin, .. } = self.bodies[body];
            let (left, right) = (grid(rect.x - margin), grid(rect.right() + margin) + 1);
            let (left, right) = if body == bottom { (i64::MIN + 1, i64::MAX) } else { (left, right) };
            let before = skyline.range(..=left).next_back().map_or(top, |s| *s.1);
            let mut seen: Vec<usize> = vec![before];
            seen.extend(skyline.range(left + 1..right).map(|s| *s.1));
            let after = skyline.range(..=right).next_back().map_or(top, |s| *s.1);
            let inner: Vec<i64> = skyline.range(left..right).map(|s| *s.0).collect();
            for x in inner {
                skyline.remove(&x);
            }
            skyline.insert(left, body);
            skyline.entry(right).or_insert(after);
            seen.sort_unstable();
            seen.dedup();
            for above in seen {
                self.keep_apart(above, body);
            }
        }
        self.weigh(top, bottom, WHOLE);
    }

    /// Constraints about order hold where nothing else keeps things apart, too.
    fn keep_order(&mut self) {
        for (a, b) in precedence::pairs(self.graph) {
            self.keep_apart(self.body(a, 1), self.body(b, 0));
        }
    }

    /// The body of the upper (0) or lower (1) side of a group.
    fn side(&self, group: usize, end: usize) -> usize {
        self.groups + 2 * group + end
    }

    /// The body of a node, or of a side of a group.
    fn body(&self, anchor: Anchor, side: usize) -> usize {
        match anchor {
            Anchor::Node(v) => v,
            Anchor::Group(g) => self.side(g, side),
        }
    }

    /// The constraint that a lower body keeps its distance from one above it, as far as it has it now.
    fn keep_apart(&mut self, above: usize, below: usize) {
        let (a, b) = (self.bodies[above], self.bodies[below]);
        let distance = b.rect.y - a.rect.bottom();
        if above == below || distance < -0.01 {
            return;
        }
        let room = (self.room(&a, &b) * self.graph.spacing).min(distance);
        self.push(above, below, room - distance, 0);
    }

    /// The room that two bodies want between them.
    fn room(&self, above: &Body, below: &Body) -> f64 {
        use Kind::{Band, Border, Edge, Label, Line, Node, Title};
        let inset = |g: usize| self.graph.groups[g].inset;
        let holds = |g: usize, other: &Body| other.group == Some(g);
        match (above.kind, below.kind) {
            (Edge, _) | (_, Edge) => 0.0,
            (Border(g), Border(h)) if g == h => 2.0 * inset(g),
            (Border(g), Border(_)) if holds(g, below) => inset(g),
            (Border(_), Border(g)) if holds(g, above) => inset(g),
            (Border(_), Border(_)) => 24.0,
            (Border(g), Node) if holds(g, below) => inset(g),
            (Node, Border(g)) if holds(g, above) => inset(g),
            (Border(_), Node) | (Node, Border(_)) => 24.0,
            (Band, _) | (_, Band) => 28.0,
            (Title, _) | (_, Title) => 12.0,
            (Node, Node) => 32.0,
            (Node, Line) | (Line, Node) => 18.0,
            (Line, Line) => 12.0,
            (Border(_), Line) | (Line, Border(_)) => 14.0,
            (Label, Label) => 8.0,
            (Label, Line) | (Line, Label) => 8.0,
            (Label, Node | Border(_)) | (Node | Border(_), Label) => 10.0,
        }
    }

    fn push(&mut self, tail: usize, head: usize, min: f64, weight: i64) {
        let (tail, head) = (self.tied.first(tail), self.tied.first(head));
        if tail != head {
            self.list.push(Constraint { tail, head, min: libm::ceil(min) as i64, weight });
        }
    }

    /// Shortens what lies between two bodies.
    fn weigh(&mut self, above: usize, below: usize, weight: i64) {
        let distance = self.bodies[below].rect.y - self.bodies[above].rect.y;
        self.push(above, below, -distance, weight);
    }

    /// Vertical stretches want to be short, keep room for arrow heads, and hold their label.
    fn pull(&mut self, placement: &Placement, e: usize) {
        let (route, edge) = (&placement.routes[e], &self.graph.edges[e]);
        let last = route.points.len().saturating_sub(2);
        let label = self.label_stretch(placement, e);
        for (i, pair) in route.points.windows(2).enumerate() {
            if self.stretches[e][i].is_some() {
                continue;
            }
            let end = |anchor, at| self.anchor(anchor, at, placement);
            let first = if i == 0 { end(edge.from, pair[0]) } else { self.stretches[e][i - 1] };
            let second = if i == last { end(edge.to, pair[1]) } else { self.stretches[e][i + 1] };
            let (Some(first), Some(second)) = (first, second) else { continue };
            let length = (pair[0].y - pair[1].y).abs();
            let (above, below) = if pair[0].y < pair[1].y { (first, second) } else { (second, first) };
            let least = if i == 0 && i == last { 36.0 } else { 0.0 };
            self.push(above, below, f64::min(least, length) - length, edge.weight);
            if let (true, Some(body)) = (label == Some(i), self.labels[e][0]) {
                let rect = self.bodies[body].rect;
                let (top, bottom) = (pair[0].y.min(pair[1].y), pair[0].y.max(pair[1].y));
                let room = |now: f64| f64::min(10.0, now) - now;
                self.push(above, body, room(rect.y - top), 0);
                self.push(body, below, room(bottom - rect.bottom()), 0);
            }
        }
    }

    /// Finds the moves, and makes them.
    fn apply(self, placement: &mut Placement) {
        let count = self.bodies.len();
        let moves = improve(count, &self.list, steps(count));
        let by = |body: usize| moves[self.tied.first(body)] as f64;
        for (v, rect) in placement.nodes.iter_mut().enumerate() {
            rect.y += by(v);
        }
        for (g, rect) in placement.groups.iter_mut().enumerate() {
            let (top, bottom) = (by(self.side(g, 0)), by(self.side(g, 1)));
            rect.y += top;
            rect.h += bottom - top;
        }
        for (g, rect) in placement.titles.iter_mut().enumerate() {
            rect.y += by(self.titles + g);
        }
        let before = placement.groups.clone();
        for (e, route) in placement.routes.iter_mut().enumerate() {
            let edge = &self.graph.edges[e];
            let last = route.points.len().saturating_sub(1);
            let ends = [(edge.from, 0), (edge.to, last)];
            for i in 0..route.points.len() {
                let near = [i.checked_sub(1), Some(i)].into_iter().flatten();
                let level = near.filter_map(|s| self.stretches[e].get(s).copied().flatten()).next();
                let end = ends.iter().find(|(_, at)| *at == i);
                let moved = match (level, end) {
                    (Some(body), _) => by(body),
                    (None, Some((Anchor::Node(v), _))) => by(*v),
                    (None, Some((Anchor::Group(g), _))) => {
                        // The side that it lay on before the move.
                        let (top, bottom) = (by(self.side(*g, 0)), by(self.side(*g, 1)));
                        let at_top = (before[*g].y - top - route.points[i].y).abs() < 0.5;
                        if at_top { top } else { bottom }
                    }
                    (None, None) => 0.0,
                };
                route.points[i].y += moved;
            }
            let texts = route.label.iter_mut().map(|r| (0, r));
            let ends = route.end_labels.iter_mut().enumerate().filter_map(|(i, r)| r.as_mut().map(|r| (i + 1, r)));
            for (i, rect) in texts.chain(ends) {
                rect.y += self.labels[e][i].map_or(0.0, by);
            }
        }
    }
}

/// Whether a vertical stretch runs through a text from its top to its bottom; half a px is what rounding may take.
fn runs_through(p: &[Point], text: Rect) -> bool {
    let (top, bottom) = (p[0].y.min(p[1].y), p[0].y.max(p[1].y));
    let is_on = p[0].x > text.x - 0.5 && p[0].x < text.right() + 0.5;
    is_on && top < text.y + 0.5 && text.bottom() - 0.5 < bottom
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::{Size, pt};
    use crate::layout::score::measure;
    use crate::layout::{Edge, Group, Node, Route};

    fn group(parent: Option<usize>) -> Group {
        Group { parent, title: Size::new(60.0, 20.0), inset: 20.0, lane: false, region: false }
    }

    /// Two groups above each other, far apart, each with one node, and a line that bends between them.
    fn picture() -> (Graph, Placement) {
        let node = |g| Node { size: Size::new(100.0, 40.0), group: Some(g), ..Node::default() };
        let mut edge = Edge::new(Anchor::Node(0), Anchor::Node(1));
        edge.label = Some(Size::new(40.0, 16.0));
        let graph = Graph {
            nodes: vec![node(0), node(1)],
            groups: vec![group(None), group(None)],
            edges: vec![edge],
            ..Graph::default()
        };
        let points = vec![pt(100.0, 120.0), pt(100.0, 500.0), pt(400.0, 500.0), pt(400.0, 780.0)];
        let route = Route { points, label: Some(Rect::new(380.0, 600.0, 40.0, 16.0)), ..Route::default() };
        let placement = Placement {
            nodes: vec![Rect::new(50.0, 80.0, 100.0, 40.0), Rect::new(350.0, 780.0, 100.0, 40.0)],
            groups: vec![Rect::new(20.0, 20.0, 300.0, 300.0), Rect::new(320.0, 700.0, 160.0, 300.0)],
            titles: vec![Rect::new(40.0, 32.0, 60.0, 20.0), Rect::new(340.0, 712.0, 60.0, 20.0)],
            routes: vec![route],
            size: Size::new(500.0, 1000.0),
            ..Placement::default()
        };
        (graph, placement)
    }

    #[test]
    fn empty_room_goes_and_everything_holds_together() {
        let (graph, mut placement) = picture();
        assert_eq!(measure(&graph, &placement).faults, []);
        compact(&graph, &mut placement, Level::Rows);
        let measures = measure(&graph, &placement);
        assert_eq!(measures.faults, []);
        assert!(placement.size.h < 420.0 && placement.size.w < 400.0, "{:?}", placement.size);
        assert_eq!(
            placement.groups[0].h,
            20.0 + 12.0 + 28.0 + 40.0 + 20.0 - 20.0 + 4.0,
            "as tall as title and node need"
        );
        let route = &placement.routes[0];
        assert_eq!(route.points[0].y, placement.nodes[0].bottom());
        assert_eq!(route.points[route.points.len() - 1].y, placement.nodes[1].y);
    }

    #[test]
    fn compacting_twice_changes_nothing() {
        let (graph, mut placement) = picture();
        compact(&graph, &mut placement, Level::Rows);
        let once = placement.clone();
        compact(&graph, &mut placement, Level::Rows);
        assert_eq!(placement, once);
    }

    #[test]
    fn slanted_lines_are_left_alone() {
        let (graph, mut placement) = picture();
        placement.routes[0].points = vec![pt(100.0, 120.0), pt(400.0, 780.0)];
        let before = placement.clone();
        compact(&graph, &mut placement, Level::Rows);
        assert_eq!(placement, before);
    }

    #[test]
    fn what_hangs_on_one_trunk_keeps_its_upper_sides_level() {
        let node = |h: f64| Node { size: Size::new(100.0, h), ..Node::default() };
        let child = |v| Edge { trunk: Some(0), ..Edge::new(Anchor::Node(0), Anchor::Node(v)) };
        let graph = Graph {
            nodes: vec![node(40.0), node(40.0), node(90.0), node(40.0)],
            edges: vec![child(1), child(2)],
            ..Graph::default()
        };
        let mut placement = Placement::unplaced(&graph);
        // The last one stands between the parent and the second child, and holds that one down.
        let rects = [(100.0, 0.0, 40.0), (0.0, 500.0, 40.0), (200.0, 500.0, 90.0), (200.0, 200.0, 40.0)];
        placement.nodes = rects.map(|(x, y, h)| Rect::new(x, y, 100.0, h)).to_vec();
        compact(&graph, &mut placement, Level::Rows);
        assert_eq!(placement.nodes[1].y, placement.nodes[2].y, "{:?}", placement.nodes);
        assert!(placement.nodes[2].y < 400.0, "they moved");
    }
}
