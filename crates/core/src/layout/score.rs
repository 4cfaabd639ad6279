//! How good a placement is. Input: a [`Graph`] and its [`Placement`]. Output: [`Measures`], and the one
//! [score](Measures::score) by which the portfolio chooses; smaller is better.
//!
//! The score adds what costs a reader effort, each in units of one bend, and grows when the picture is wider or taller
//! than a page or screen can hold:
//!
//! `(6 · crossings + bends + (length + detours) / 150 px + against + area / 40,000 px² + 1,000 · faults) · (1 + ln(excess))²`
//!
//! where a detour is by how much a line is longer than the nearest way between its ends, as if nothing were between them;
//! `against` is the number of lines whose end lies before their start although a heading was asked for; and `excess` is by how much the aspect passes 2.4 : 1 or 1 : 2, at least 1; but no more than the cube of width over
//! 900 px, or of height over 600 px, so that what any page holds is neither too wide nor too tall. Faults are what may not
//! be in any picture: overlaps, lines through boxes, labels on anything. The weights of crossings and bends follow what
//! readers were measured to suffer from (Purchase, "Which aesthetic has the greatest effect on human understanding?", 1997).

use crate::geom::{Point, Rect, Size, distance};
use crate::layout::graph::{Anchor, Directed, Graph, Routing};
use crate::layout::intersections::{crosses, hits, is_struck, shared};
use crate::layout::placement::Placement;
use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap};
use std::fmt;

/// The widest a picture should be, as width over height.
// A slide is 1.78 and a wide screen 2.4 times as wide as high.
pub const WIDEST: f64 = 2.4;
/// The tallest a picture should be, as width over height.
// A sheet of paper, upright, with margins.
pub const TALLEST: f64 = 0.5;
/// What any page holds, in px: a picture within it is neither too wide nor too tall, whatever its aspect.
const PAGE: Size = Size { w: 900.0, h: 600.0 };

/// Something that may not be in a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fault {
    /// Two nodes lie on each other.
    Overlap(usize, usize),
    /// A node leaves its group.
    Outside(usize, usize),
    /// A node lies in a group that is not its own, or two groups that are not nested overlap.
    Intruder(usize, usize),
    /// A line runs through a node.
    Through(usize, usize),
    /// A line runs through a group that is around none of its ends.
    ThroughGroup(usize, usize),
    /// Lines without a common end lie on each other.
    SharedRun(usize, usize),
    /// The label of an edge lies on a node.
    LabelOnNode(usize, usize),
    /// Labels of two edges overlap.
    LabelOnLabel(usize, usize),
    /// The label of an edge is struck by the line of another, or a text at an end by its own line.
    LabelOnLine(usize, usize),
    /// The title of a group is struck by the line of an edge.
    TitleStruck(usize, usize),
    /// The title of a group lies on a node.
    TitleOnNode(usize, usize),
    /// The title of a group lies on the label of an edge.
    TitleOnLabel(usize, usize),
    /// The frame of a group runs through a label of an edge, or the label lies in a group that is around none of its ends.
    FrameOnLabel(usize, usize),
    /// An edge has no line, or a text of it no place.
    Lost(usize),
    /// A line that should be stepped runs at a slant, for want of a way.
    Slanted(usize),
    /// A coordinate is no number, or lies outside the picture.
    Nowhere(usize),
}

impl Fault {
    /// The edges whose line or text is in the wrong place: one, or one of two.
    pub fn edges(&self) -> [Option<usize>; 2] {
        match self {
            Fault::SharedRun(e, f) | Fault::LabelOnLabel(e, f) | Fault::LabelOnLine(e, f) => [Some(*e), Some(*f)],
            Fault::Through(e, _)
            | Fault::ThroughGroup(e, _)
            | Fault::LabelOnNode(e, _)
            | Fault::TitleStruck(_, e)
            | Fault::TitleOnLabel(_, e)
            | Fault::FrameOnLabel(_, e)
            | Fault::Lost(e)
            | Fault::Slanted(e) => [Some(*e), None],
            Fault::Overlap(..) | Fault::Outside(..) | Fault::Intruder(..) => [None, None],
            Fault::TitleOnNode(..) | Fault::Nowhere(_) => [None, None],
        }
    }
}

impl fmt::Display for Fault {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Fault::Overlap(a, b) => write!(f, "nodes {a} and {b} overlap"),
            Fault::Outside(v, g) => write!(f, "node {v} leaves group {g}"),
            Fault::Intruder(v, g) => write!(f, "node {v} lies in foreign group {g}"),
            Fault::Through(e, v) => write!(f, "edge {e} runs through node {v}"),
            Fault::ThroughGroup(e, g) => write!(f, "edge {e} runs through group {g}"),
            Fault::SharedRun(a, b) => write!(f, "edges {a} and {b} lie on each other"),
            Fault::LabelOnNode(e, v) => write!(f, "the label of {e} lies on node {v}"),
            Fault::LabelOnLabel(a, b) => write!(f, "the labels of {a} and {b} overlap"),
            Fault::LabelOnLine(e, by) => write!(f, "the label of {e} is struck by edge {by}"),
            Fault::TitleStruck(g, e) => write!(f, "the title of group {g} is struck by edge {e}"),
            Fault::TitleOnNode(g, v) => write!(f, "the title of group {g} lies on node {v}"),
            Fault::TitleOnLabel(g, e) => write!(f, "the title of group {g} lies on the label of {e}"),
            Fault::FrameOnLabel(g, e) => {
                write!(f, "the frame of group {g} runs through the label of {e}, or holds it wrongly")
            }
            Fault::Slanted(e) => write!(f, "edge {e} runs at a slant"),
            Fault::Lost(e) => write!(f, "edge {e} lost its line or a text"),
            Fault::Nowhere(v) => write!(f, "node {v} is nowhere"),
        }
    }
}

/// What was measured of a placement.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Measures {
    /// Points where two lines cross.
    pub crossings: usize,
    /// Corners of lines.
    pub bends: usize,
    /// All lines together, in px.
    pub length: f64,
    /// How much longer they are than the nearest ways between their ends, in px.
    pub detours: f64,
    /// Lines that lead against the heading that was asked for.
    pub against: usize,
    /// The picture.
    pub size: Size,
    /// All nodes together, in px².
    pub node_area: f64,
    /// What may not be.
    pub faults: Vec<Fault>,
}

impl Measures {
    /// Width over height.
    pub fn aspect(&self) -> f64 {
        self.size.w / self.size.h.max(1.0)
    }

    /// From corner to corner, in px.
    pub fn diagonal(&self) -> f64 {
        libm::hypot(self.size.w, self.size.h)
    }

    /// The picture's area.
    pub fn area(&self) -> f64 {
        self.size.w * self.size.h
    }

    /// What the picture costs its reader; smaller is better. The formula is that of the module.
    pub fn score(&self) -> f64 {
        let faults = 1000.0 * self.faults.len() as f64;
        let sum = 6.0 * self.crossings as f64
            + (self.bends + self.against) as f64
            + (self.length + self.detours) / 150.0
            + self.area() / 40_000.0
            + faults;
        let factor = page_factor(self.size);
        sum * factor * factor
    }
}

/// What a picture costs that no page holds, as a factor whose square counts; 1 for those that fit.
pub(in crate::layout) fn page_factor(size: Size) -> f64 {
    1.0 + libm::log(excess(size))
}

/// By how much a picture is wider or taller than a page holds; 1 for those that fit.
pub(in crate::layout) fn excess(size: Size) -> f64 {
    excess_width(size).max(excess_height(size)).max(1.0)
}

/// By how much a picture is too wide; at most 1 if it is not.
pub(in crate::layout) fn excess_width(size: Size) -> f64 {
    f64::min(size.w / (WIDEST * size.h).max(1.0), beyond(size.w, PAGE.w))
}

/// By how much a picture is too tall; at most 1 if it is not.
pub(in crate::layout) fn excess_height(size: Size) -> f64 {
    f64::min(size.h / (size.w / TALLEST).max(1.0), beyond(size.h, PAGE.h))
}

/// Softens the aspect of what is hardly larger than a page.
fn beyond(length: f64, page: f64) -> f64 {
    let times = length / page;
    times * times * times
}

/// What a rectangle in the picture is.
#[derive(Clone, Copy, PartialEq)]
enum Thing {
    Node(usize),
    Group(usize),
    Title(usize),
    Label(usize),
    Stretch(usize, Point, Point),
}

/// Measures a placement.
pub fn measure(graph: &Graph, placement: &Placement) -> Measures {
    let mut things: Vec<(Rect, Thing)> = Vec::new();
    let mut out = Measures { size: placement.size, ..Measures::default() };
    for (v, place) in placement.nodes.iter().enumerate() {
        things.push((*place, Thing::Node(v)));
        out.node_area += place.w * place.h;
        let inside = place.x > -0.5
            && place.y > -0.5
            && place.right() < placement.size.w + 0.5
            && place.bottom() < placement.size.h + 0.5;
        out.faults.extend((!inside).then_some(Fault::Nowhere(v)));
    }
    things.extend((0..placement.groups.len()).flat_map(|g| placement.frames(g).map(move |r| (r, Thing::Group(g)))));
    let titled = (0..placement.titles.len()).filter(|g| placement.titles[*g].h > 0.0);
    things.extend(titled.flat_map(|g| graph.headers(g, placement).into_iter().map(move |r| (r, Thing::Title(g)))));
    for (e, route) in placement.routes.iter().enumerate() {
        let edge = &graph.edges[e];
        things.extend(route.texts().map(|r| (*r, Thing::Label(e))));
        let wanted = [edge.label, edge.end_labels[0], edge.end_labels[1]].map(|s| s.is_some());
        let placed = [route.label, route.end_labels[0], route.end_labels[1]].map(|r| r.is_some());
        let lost = wanted != placed || route.points.len() < 2;
        out.faults.extend(lost.then_some(Fault::Lost(e)));
        let line = route.polyline();
        let is_slanted = |p: &[Point]| (p[0].x - p[1].x).abs() > 0.5 && (p[0].y - p[1].y).abs() > 0.5;
        let runs_at_slant = graph.routing == Routing::Stepped && line.windows(2).any(is_slanted);
        out.faults.extend(runs_at_slant.then_some(Fault::Slanted(e)));
        let is_struck = route.end_labels.iter().flatten().any(|text| is_struck(&line, *text));
        out.faults.extend(is_struck.then_some(Fault::LabelOnLine(e, e)));
        out.bends += route.bends();
        let length: f64 = line.windows(2).map(|pair| distance(pair[0], pair[1])).sum();
        out.length += length;
        if edge.from != edge.to {
            let (from, to) = (placement.rect(edge.from), placement.rect(edge.to));
            out.detours += f64::max(0.0, length - nearest(from, to, graph.routing));
            let is_back = graph.direction.advance(from.middle(), to.middle()) < 0.0;
            let has_direction = graph.directed != Directed::Trunks || edge.is_directed;
            out.against += usize::from(graph.is_heading_asked && has_direction && is_back);
        }
        for pair in line.windows(2) {
            things.push((Rect::between(pair[0], pair[1]), Thing::Stretch(e, pair[0], pair[1])));
        }
    }
    things.sort_by(|a, b| a.0.x.total_cmp(&b.0.x));
    let judge = Judge { graph, around: (0..graph.edges.len()).map(|e| graph.groups_around_edge(e)).collect() };
    let mut open = Open::default();
    for (number, (rect, thing)) in things.into_iter().enumerate() {
        open.close(rect.x);
        open.each_level_with(rect, |other, what| judge.pair((other, what), (rect, thing), &mut out));
        open.push(number, rect, thing);
    }
    out.faults.sort_unstable();
    out.faults.dedup();
    out
}

/// The length of the nearest way between two boxes, in px; 0 where one holds the other.
pub(in crate::layout) fn nearest(from: Rect, to: Rect, routing: Routing) -> f64 {
    let Size { w, h } = from.gap(to);
    if routing == Routing::Stepped { w + h } else { libm::hypot(w, h) }
}

/// What the sweep from left to right has met and not yet left. Level lines may lie open for the whole width of a picture
/// and be many: they are found by their height, so that the sweep takes time for what meets, not for what lies open.
#[derive(Default)]
struct Open {
    /// Flat things by their upper side, in 1/64 px, and their number.
    flat: BTreeMap<(i64, usize), (Rect, Thing)>,
    /// The right sides of the flat, the nearest first.
    ends: BinaryHeap<Reverse<(i64, (i64, usize))>>,
    tall: Vec<(Rect, Thing)>,
}

/// Things no taller than this are flat, in px.
// Such as bars, which lie across lanes and are no boxes to read.
const FLAT: f64 = 24.0;

impl Open {
    /// Leaves what ends before a place across.
    fn close(&mut self, x: f64) {
        self.tall.retain(|(r, _)| r.right() >= x);
        while let Some(Reverse((_, key))) = self.ends.peek().filter(|Reverse((end, _))| *end < steps(x) - 1).copied() {
            self.ends.pop();
            self.flat.remove(&key);
        }
    }

    fn push(&mut self, number: usize, rect: Rect, thing: Thing) {
        if rect.h > FLAT {
            self.tall.push((rect, thing));
            return;
        }
        let key = (steps(rect.y), number);
        self.flat.insert(key, (rect, thing));
        self.ends.push(Reverse((steps(rect.right()), key)));
    }

    /// Everything open that shares a height with a rectangle.
    fn each_level_with(&self, rect: Rect, mut act: impl FnMut(Rect, Thing)) {
        let reach = (steps(rect.y - FLAT) - 1, 0)..(steps(rect.bottom()) + 2, 0);
        let near = self.flat.range(reach).map(|(_, open)| open).chain(&self.tall);
        for (other, what) in near {
            if other.right() >= rect.x && other.y <= rect.bottom() && rect.y <= other.bottom() {
                act(*other, *what);
            }
        }
    }
}

/// A place in whole steps of the grid.
fn steps(place: f64) -> i64 {
    libm::floor(place * 64.0) as i64
}

struct Judge<'a> {
    graph: &'a Graph,
    /// For each edge, the groups around its ends.
    around: Vec<Vec<usize>>,
}

impl Judge<'_> {
    fn pair(&self, a: (Rect, Thing), b: (Rect, Thing), out: &mut Measures) {
        use Thing::{Group, Label, Node, Stretch, Title};
        let within = |r: Rect| r.grown(-0.75);
        let overlap = within(a.0).meets(within(b.0));
        let fault = match (a.1, b.1) {
            (Node(v), Node(w)) => overlap.then(|| Fault::Overlap(v.min(w), v.max(w))),
            (Node(v), Group(g)) => self.held(v, a.0, g, b.0),
            (Group(g), Node(v)) => self.held(v, b.0, g, a.0),
            (Group(g), Group(h)) => {
                let nested = |a, b| self.graph.groups_around(Anchor::Group(a)).any(|x| x == b);
                (overlap && !nested(g, h) && !nested(h, g)).then_some(Fault::Intruder(g, h))
            }
            (Label(e), Node(v)) | (Node(v), Label(e)) => overlap.then_some(Fault::LabelOnNode(e, v)),
            (Label(e), Label(f)) => overlap.then(|| Fault::LabelOnLabel(e.min(f), e.max(f))),
            (Label(e), Stretch(f, p, q)) => (e != f && hits(p, q, within(a.0))).then_some(Fault::LabelOnLine(e, f)),
            (Stretch(f, p, q), Label(e)) => (e != f && hits(p, q, within(b.0))).then_some(Fault::LabelOnLine(e, f)),
            (Title(g), Stretch(e, p, q)) => hits(p, q, within(a.0)).then_some(Fault::TitleStruck(g, e)),
            (Stretch(e, p, q), Title(g)) => hits(p, q, within(b.0)).then_some(Fault::TitleStruck(g, e)),
            (Stretch(e, p, q), Node(v)) => self.through(e, v, p, q, b.0),
            (Node(v), Stretch(e, p, q)) => self.through(e, v, p, q, a.0),
            (Stretch(e, p, q), Group(g)) => self.through_group(e, g, p, q, b.0),
            (Group(g), Stretch(e, p, q)) => self.through_group(e, g, p, q, a.0),
            (Stretch(e, p, q), Stretch(f, r, s)) => self.lines((e, p, q), (f, r, s), out),
            (Title(g), Node(v)) | (Node(v), Title(g)) => overlap.then_some(Fault::TitleOnNode(g, v)),
            (Title(g), Label(e)) | (Label(e), Title(g)) => overlap.then_some(Fault::TitleOnLabel(g, e)),
            (Group(g), Label(e)) | (Label(e), Group(g)) => {
                let (frame, label) = if matches!(a.1, Group(_)) { (a.0, b.0) } else { (b.0, a.0) };
                let is_in_place = frame.grown(0.75).holds(label) && self.graph.may_hold_text(e, g);
                (overlap && !is_in_place).then_some(Fault::FrameOnLabel(g, e))
            }
            (Group(_), Title(_)) | (Title(_), Group(_)) | (Title(_), Title(_)) => None,
        };
        out.faults.extend(fault);
    }

    fn held(&self, v: usize, node: Rect, g: usize, group: Rect) -> Option<Fault> {
        if self.graph.groups_around(Anchor::Node(v)).any(|x| x == g) {
            let holds = group.x < node.x + 0.75
                && group.y < node.y + 0.75
                && node.right() < group.right() + 0.75
                && node.bottom() < group.bottom() + 0.75;
            return (!holds).then_some(Fault::Outside(v, g));
        }
        node.grown(-0.75).meets(group.grown(-0.75)).then_some(Fault::Intruder(v, g))
    }

    fn through(&self, e: usize, v: usize, p: Point, q: Point, node: Rect) -> Option<Fault> {
        let edge = &self.graph.edges[e];
        let own = edge.from == Anchor::Node(v) || edge.to == Anchor::Node(v);
        (!own && hits(p, q, node.grown(-0.75))).then_some(Fault::Through(e, v))
    }

    fn through_group(&self, e: usize, g: usize, p: Point, q: Point, group: Rect) -> Option<Fault> {
        let foreign = !self.around[e].contains(&g) && !self.graph.groups[g].lane;
        (foreign && hits(p, q, group.grown(-0.75))).then_some(Fault::ThroughGroup(e, g))
    }

    fn lines(&self, a: (usize, Point, Point), b: (usize, Point, Point), out: &mut Measures) -> Option<Fault> {
        let (e, p, q) = a;
        let (f, r, s) = b;
        if e == f {
            return None;
        }
        if crosses(p, q, r, s) {
            out.crossings += 1;
        }
        let (first, second) = (&self.graph.edges[e], &self.graph.edges[f]);
        let apart = [first.from, first.to].iter().all(|end| *end != second.from && *end != second.to);
        (apart && shared(p, q, r, s) > 4.0).then(|| Fault::SharedRun(e.min(f), e.max(f)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;
    use crate::layout::{Edge, Group, Node, Route};

    #[test]
    fn a_label_lies_within_a_frame_or_outside() {
        let label = Size::new(40.0, 16.0);
        let edge = Edge { label: Some(label), ..Edge::new(Anchor::Node(0), Anchor::Node(1)) };
        let graph = Graph {
            nodes: vec![Node { group: Some(0), ..Node::default() }, Node::default()],
            groups: vec![Group::default()],
            edges: vec![edge],
            ..Graph::default()
        };
        let faults = |y: f64| {
            let label = Some(Rect::new(30.0, y, label.w, label.h));
            let route = Route { points: vec![pt(50.0, 40.0), pt(50.0, 160.0)], label, ..Route::default() };
            let placement = Placement {
                nodes: vec![Rect::new(20.0, 20.0, 60.0, 20.0), Rect::new(20.0, 160.0, 60.0, 20.0)],
                groups: vec![Rect::new(0.0, 0.0, 100.0, 100.0)],
                titles: vec![Rect::default()],
                routes: vec![route],
                size: Size::new(100.0, 200.0),
                ..Placement::default()
            };
            measure(&graph, &placement).faults
        };
        assert_eq!(faults(60.0), []);
        assert_eq!(faults(120.0), []);
        assert_eq!(faults(92.0), [Fault::FrameOnLabel(0, 0)]);
    }

    #[test]
    fn a_label_lies_in_no_group_that_its_line_only_comes_to() {
        let label = Size::new(40.0, 16.0);
        let edge = Edge { label: Some(label), ..Edge::new(Anchor::Node(0), Anchor::Group(0)) };
        let inside = Node { group: Some(0), ..Node::default() };
        let mut graph = Graph {
            nodes: vec![Node::default(), inside],
            groups: vec![Group::default()],
            edges: vec![edge],
            ..Graph::default()
        };
        let route = Route {
            points: vec![pt(60.0, 50.0), pt(84.0, 50.0)],
            label: Some(Rect::new(90.0, 42.0, 40.0, 16.0)),
            ..Route::default()
        };
        let mut placement = Placement {
            nodes: vec![Rect::new(0.0, 40.0, 60.0, 20.0), Rect::new(140.0, 70.0, 40.0, 20.0)],
            groups: vec![Rect::new(84.0, 0.0, 116.0, 100.0)],
            titles: vec![Rect::default()],
            routes: vec![route],
            size: Size::new(200.0, 100.0),
            ..Placement::default()
        };
        assert_eq!(measure(&graph, &placement).faults, [Fault::FrameOnLabel(0, 0)]);
        // From inside it may.
        graph.edges[0].from = Anchor::Node(1);
        placement.routes[0].points = vec![pt(140.0, 80.0), pt(84.0, 80.0)];
        assert_eq!(measure(&graph, &placement).faults, []);
    }

    #[test]
    fn stepped_lines_have_no_slant() {
        let mut graph = Graph {
            nodes: vec![Node::default(); 2],
            edges: vec![Edge::new(Anchor::Node(0), Anchor::Node(1))],
            ..Graph::default()
        };
        let route = Route { points: vec![pt(20.0, 20.0), pt(60.0, 50.0)], ..Route::default() };
        let placement = Placement {
            nodes: vec![Rect::new(0.0, 0.0, 20.0, 20.0), Rect::new(60.0, 50.0, 20.0, 20.0)],
            routes: vec![route],
            size: Size::new(80.0, 70.0),
            ..Placement::default()
        };
        assert_eq!(measure(&graph, &placement).faults, [Fault::Slanted(0)]);
        graph.routing = Routing::Straight;
        assert_eq!(measure(&graph, &placement).faults, []);
    }

    #[test]
    fn stretches_meet_rectangles_as_drawn() {
        let rect = Rect::new(10.0, 10.0, 20.0, 20.0);
        assert!(hits(pt(0.0, 20.0), pt(40.0, 20.0), rect));
        assert!(hits(pt(0.0, 0.0), pt(40.0, 40.0), rect));
        assert!(!hits(pt(0.0, 10.0), pt(40.0, 10.0), rect), "along its side");
        assert!(!hits(pt(0.0, 30.0), pt(12.0, 36.0), rect));
        assert!(crosses(pt(0.0, 0.0), pt(10.0, 10.0), pt(0.0, 10.0), pt(10.0, 0.0)));
        assert!(!crosses(pt(0.0, 0.0), pt(10.0, 0.0), pt(5.0, 0.0), pt(5.0, 9.0)), "a line that ends on another");
        assert_eq!(shared(pt(0.0, 0.0), pt(10.0, 0.0), pt(4.0, 0.0), pt(20.0, 0.0)), 6.0);
    }

    #[test]
    fn nothing_may_enter_the_band_of_a_lane() {
        let lane = Group { parent: None, title: Size::new(40.0, 20.0), inset: 24.0, lane: true, region: false };
        let node = Node { size: Size::new(60.0, 30.0), group: Some(0), ..Node::default() };
        let mut graph = Graph { nodes: vec![node], groups: vec![lane], ..Graph::default() };
        let mut placement = Placement {
            nodes: vec![Rect::new(100.0, 30.0, 60.0, 30.0)],
            groups: vec![Rect::new(0.0, 0.0, 200.0, 100.0)],
            titles: vec![Rect::new(24.0, 12.0, 40.0, 20.0)],
            size: Size::new(200.0, 100.0),
            ..Placement::default()
        };
        // Beside the title, and yet on the band that it stands on.
        assert_eq!(measure(&graph, &placement).faults, [Fault::TitleOnNode(0, 0)]);
        graph.direction = crate::layout::RankDirection::Right;
        assert_eq!(measure(&graph, &placement).faults, [], "here the band is at the left");
        placement.nodes[0].x = 60.0;
        assert_eq!(measure(&graph, &placement).faults, [Fault::TitleOnNode(0, 0)]);
        graph.groups[0].lane = false;
        assert_eq!(measure(&graph, &placement).faults, [Fault::TitleOnNode(0, 0)]);
    }

    #[test]
    fn detours_and_lines_against_an_asked_heading_cost() {
        let edge = Edge::new(Anchor::Node(0), Anchor::Node(1));
        let mut graph = Graph { nodes: vec![Node::default(); 2], edges: vec![edge], ..Graph::default() };
        let at = |y: f64| Rect::new(0.0, y, 40.0, 20.0);
        let measured = |graph: &Graph, tops: [f64; 2], points: Vec<Point>| {
            let routes = vec![Route { points, ..Route::default() }];
            let nodes = tops.map(at).to_vec();
            measure(graph, &Placement { nodes, routes, size: Size::new(300.0, 300.0), ..Placement::default() })
        };
        let straight = vec![pt(20.0, 20.0), pt(20.0, 100.0)];
        let around = vec![pt(40.0, 10.0), pt(90.0, 10.0), pt(90.0, 110.0), pt(40.0, 110.0)];
        let (near, far) = (measured(&graph, [0.0, 100.0], straight.clone()), measured(&graph, [0.0, 100.0], around));
        assert_eq!((near.detours, far.detours), (0.0, 120.0));
        // Up, though down was asked for.
        let up: Vec<Point> = straight.into_iter().rev().collect();
        assert_eq!(measured(&graph, [100.0, 0.0], up.clone()).against, 0);
        graph.is_heading_asked = true;
        assert_eq!(measured(&graph, [100.0, 0.0], up.clone()).against, 1);
        graph.directed = Directed::Trunks;
        assert_eq!(measured(&graph, [100.0, 0.0], up.clone()).against, 0, "it may lead anywhere");
        graph.edges[0].is_directed = true;
        assert_eq!(measured(&graph, [100.0, 0.0], up).against, 1);
        let saved = far.score() - Measures { detours: 0.0, ..far.clone() }.score();
        assert!((saved - 120.0 / 150.0).abs() < 1e-9, "{saved}");
    }

    #[test]
    fn a_picture_that_fits_a_page_costs_less() {
        let fits = Measures { size: Size::new(400.0, 400.0), bends: 4, ..Measures::default() };
        let strip = Measures { size: Size::new(1600.0, 100.0), ..fits.clone() };
        assert_eq!(fits.area(), strip.area());
        assert!(strip.score() > 3.0 * fits.score());
        let small = Measures { size: Size::new(800.0, 200.0), ..fits.clone() };
        assert_eq!(small.score(), fits.score(), "any page holds it");
        let tall = Measures { size: Size::new(100.0, 1600.0), ..fits.clone() };
        assert!(tall.score() > strip.score());
        let crossed = Measures { crossings: 1, ..fits.clone() };
        assert_eq!(crossed.score() - fits.score(), 6.0);
    }
}
