//! Places for the texts of a line that has just been drawn: on its longest free stretch, at its ends beside it.
//!
//! Input: a graph and a placement in which one edge has a line. Output: its label and its texts at the ends, where they
//! lie on nothing else; if there is no such place, the least bad one.

use crate::geom::{Point, Rect, Size, SpatialIndex, distance, pt};
use crate::layout::graph::{Graph, LabelAt};
use crate::layout::intersections::{hits, is_struck};
use crate::layout::placement::Placement;
use std::cell::RefCell;

/// Room between a text at an end and the line, and its node.
const BESIDE: f64 = 6.0;
/// How far from its node a text at an end may lie; the first is the usual place.
// Less than a box is high: further off, nobody takes it for the text of that end.
const AWAY: [f64; 6] = [10.0, 6.0, 18.0, 26.0, 34.0, 42.0];
/// And beside a line at a slant, which leaves less room at its node.
const FURTHER: [f64; 4] = [54.0, 68.0, 84.0, 100.0];
/// How many places along each stretch are tried, fewer where there are many stretches.
// An odd number: the middle is one of them.
const PLACES: usize = 17;
/// How many places along a whole line are tried, about.
// A long line has enough free places among fewer.
const ALL_PLACES: usize = 256;
/// A stretch of a line lies in at most so many cells of a board, in the mean.
const MOST_CELLS: usize = 24;

/// Places the texts of edges that have their lines, one after the other, and then those from scratch that lie on something, now
/// that all of them have a place.
pub(in crate::layout) fn put(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    let has_texts = |e: &&usize| graph.edges[**e].label.is_some() || graph.edges[**e].end_labels != [None, None];
    if edges.iter().any(|e| has_texts(&e)) {
        let mut board = Board::new(placement);
        edges.iter().filter(has_texts).for_each(|e| board.put(graph, placement, *e));
        board.repair(graph, placement, edges);
    }
}

/// Places the texts of edges from scratch that lie on something.
pub(in crate::layout) fn repair(graph: &Graph, placement: &mut Placement) {
    if placement.routes.iter().all(|route| route.texts().next().is_none()) {
        return;
    }
    let edges: Vec<usize> = (0..graph.edges.len()).collect();
    Board::new(placement).repair(graph, placement, &edges);
}

/// Moves texts at ends nearer to their ends, where nothing else is.
pub(in crate::layout) fn snug(graph: &Graph, placement: &mut Placement) {
    if graph.edges.iter().all(|edge| edge.end_labels == [None, None]) {
        return;
    }
    let mut board = Board::new(placement);
    for (e, edge) in graph.edges.iter().enumerate().filter(|(_, edge)| edge.from != edge.to) {
        let line = placement.routes[e].polyline();
        let ([first, second, ..], [.., before, last]) = (line.as_slice(), line.as_slice()) else { continue };
        for (end, (at, next)) in [(*first, *second), (*last, *before)].into_iter().enumerate() {
            let (Some(size), Some(now)) = (edge.end_labels[end], placement.routes[e].end_labels[end]) else { continue };
            let free = |r: &Rect| board.met_by(graph, e, *r, 1.0) == 0 && !is_struck(&line, *r);
            let nearest = at_end(at, next, size).into_iter().find(free);
            if let Some(nearest) = nearest.filter(|r| r.distance_to(at) < now.distance_to(at)) {
                placement.routes[e].end_labels[end] = Some(nearest);
                board.note(placement, e);
            }
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

/// What a text must not lie on, and where it is.
struct Board {
    index: SpatialIndex,
    things: Vec<Thing>,
    /// The first text; each edge has three. They come after nodes, titles and frames, and before stretches of lines.
    texts: usize,
    seen: RefCell<Seen>,
}

/// What was looked at for a place: each thing and each line counts once.
// Kept from one place to the next: a picture asks for tens of thousands.
#[derive(Default)]
struct Seen {
    /// The number of the place.
    place: u32,
    /// For which place each thing, and each line, was last looked at.
    things: Vec<u32>,
    lines: Vec<u32>,
}

impl Seen {
    /// Whether a number is looked at for the first time.
    fn is_new(place: u32, numbers: &mut Vec<u32>, i: usize) -> bool {
        if i >= numbers.len() {
            numbers.resize(i + 1, 0);
        }
        std::mem::replace(&mut numbers[i], place) != place
    }
}

/// One of these.
#[derive(Clone, Copy, Debug)]
enum Thing {
    /// A node or a title.
    Box(Rect),
    /// The frame of a group, with its number.
    Frame(usize, Rect),
    /// A text of an edge, if it has a place.
    Text(usize, Option<Rect>),
    /// A stretch of the line of an edge; those of one edge follow each other.
    Stretch(usize, Point, Point),
}

impl Board {
    fn new(placement: &Placement) -> Self {
        let boxes = placement.nodes.iter().chain(&placement.titles).filter(|r| r.w > 0.0).map(|r| Thing::Box(*r));
        let frames = placement.groups.iter().enumerate().filter(|(_, r)| r.w > 0.0);
        let frames = frames.map(|(g, r)| Thing::Frame(g, *r));
        let mut things: Vec<Thing> = boxes.chain(frames).collect();
        let texts = things.len();
        for (e, route) in placement.routes.iter().enumerate() {
            let own = [route.label, route.end_labels[0], route.end_labels[1]];
            things.extend(own.map(|text| Thing::Text(e, text)));
        }
        for (e, route) in placement.routes.iter().enumerate() {
            things.extend(route.polyline().windows(2).map(|p| Thing::Stretch(e, p[0], p[1])));
        }
        // Cells so large that a stretch lies in some dozens of them at most, in the mean.
        let length = |thing: &Thing| if let Thing::Stretch(_, p, q) = thing { distance(*p, *q) } else { 0.0 };
        let side = things.iter().map(length).sum::<f64>() / (MOST_CELLS * things.len().max(1)) as f64;
        let area = placement.bounds().w * placement.bounds().h;
        let count = (area / (side * side).max(1.0)).min(things.len() as f64) as usize;
        let mut index = SpatialIndex::new(placement.bounds(), count);
        for (i, thing) in things.iter().enumerate() {
            match thing {
                Thing::Box(rect) | Thing::Text(_, Some(rect)) => index.add(*rect, i),
                Thing::Frame(_, r) => {
                    let corners = [pt(r.x, r.y), pt(r.right(), r.y), pt(r.right(), r.bottom()), pt(r.x, r.bottom())];
                    (0..4).for_each(|c| index.add_along(corners[c], corners[(c + 1) % 4], i));
                }
                Thing::Stretch(_, p, q) => index.add_along(*p, *q, i),
                Thing::Text(_, None) => {}
            }
        }
        Self { index, things, texts, seen: RefCell::default() }
    }

    /// Places the texts of an edge.
    fn put(&mut self, graph: &Graph, placement: &mut Placement, e: usize) {
        let edge = &graph.edges[e];
        let line = placement.routes[e].polyline();
        if line.len() < 2 {
            return;
        }
        let label = edge.label.and_then(|size| self.beside_line(graph, e, &line, edge.label_at, size));
        placement.routes[e].label = label.or(placement.routes[e].label.filter(|_| edge.label.is_none()));
        for end in 0..2 {
            self.put_at_end(graph, placement, (e, end), &line);
        }
        self.note(placement, e);
    }

    /// Places the text at one end of an edge with this line.
    fn put_at_end(&self, graph: &Graph, placement: &mut Placement, (e, end): (usize, usize), line: &[Point]) {
        let Some(size) = graph.edges[e].end_labels[end] else { return };
        let ([first, second, ..], [.., before, last]) = (line, line) else { return };
        let (at, next) = if end == 0 { (*first, *second) } else { (*last, *before) };
        let cost = |r: &Rect| self.met_by(graph, e, *r, f64::INFINITY) + usize::from(is_struck(line, *r));
        placement.routes[e].end_labels[end] = at_end(at, next, size).into_iter().min_by_key(cost);
    }

    /// Takes note of where the texts of an edge are now.
    fn note(&mut self, placement: &Placement, e: usize) {
        let route = &placement.routes[e];
        for (k, text) in [route.label, route.end_labels[0], route.end_labels[1]].into_iter().enumerate() {
            let thing = self.texts + 3 * e + k;
            if let Thing::Text(_, Some(before)) = self.things[thing] {
                self.index.remove(before, thing);
            }
            text.iter().for_each(|rect| self.index.add(*rect, thing));
            self.things[thing] = Thing::Text(e, text);
        }
    }

    /// The best place for a label: on its line; where there is no room, beside it.
    fn beside_line(&self, graph: &Graph, e: usize, line: &[Point], label_at: LabelAt, size: Size) -> Option<Rect> {
        let mut best: Option<(f64, Rect)> = None;
        let (w, h) = (size.w / 2.0 + 5.0, size.h / 2.0 + 3.0);
        let offsets = [(w, 0.0), (-w, 0.0), (0.0, h), (0.0, -h), (w, h), (-w, h), (w, -h), (-w, -h)];
        let beside: Vec<(f64, f64, f64)> =
            [(0.0, 0.0, 0.0)].into_iter().chain(offsets.into_iter().map(|(x, y)| (x, y, 40.0))).collect();
        for (wanted, at) in candidates(line, label_at) {
            for (dx, dy, more) in beside.iter().copied() {
                let rect = Rect::around(pt(at.x + dx, at.y + dy), size);
                let least = best.map_or(f64::INFINITY, |b| b.0);
                if wanted + more >= least {
                    continue;
                }
                // More than this many would be no better.
                let most = (least - wanted - more) / 1000.0;
                let cost = 1000.0 * self.met_by(graph, e, rect, most) as f64 + wanted + more;
                if cost < least {
                    best = Some((cost, rect));
                }
            }
        }
        best.map(|b| b.1)
    }

    fn repair(&mut self, graph: &Graph, placement: &mut Placement, edges: &[usize]) {
        for e in edges {
            if graph.edges[*e].from == graph.edges[*e].to {
                continue;
            }
            let route = &placement.routes[*e];
            if route.label.is_some_and(|rect| self.met_by(graph, *e, rect, 1.0) > 0) {
                self.put(graph, placement, *e);
                continue;
            }
            let line = route.polyline();
            let lies = |rect: &Rect| self.met_by(graph, *e, *rect, 1.0) > 0 || is_struck(&line, *rect);
            let wrong = route.end_labels.map(|text| text.is_some_and(|rect| lies(&rect)));
            for end in (0..2).filter(|end| wrong[*end]) {
                self.put_at_end(graph, placement, (*e, end), &line);
                self.note(placement, *e);
            }
        }
    }

    /// How many things a text of an edge would lie on in this place; no longer counted from `most` on.
    fn met_by(&self, graph: &Graph, e: usize, rect: Rect, most: f64) -> usize {
        let (near, inner) = (rect.grown(3.0), rect.grown(1.0));
        let mut count = 0;
        let mut seen = self.seen.borrow_mut();
        let Seen { place, things, lines } = &mut *seen;
        *place += 1;
        for i in self.index.touching(near) {
            if !Seen::is_new(*place, things, i) {
                continue;
            }
            let is_met = match &self.things[i] {
                Thing::Box(r) => r.meets(near),
                Thing::Text(own, Some(r)) => *own != e && r.meets(near),
                // A frame that runs through the text, or has it inside by error.
                Thing::Frame(g, r) => r.meets(inner) && !(r.holds(inner) && graph.may_hold_text(e, *g)),
                // A line counts once.
                Thing::Stretch(own, p, q) => *own != e && hits(*p, *q, inner) && Seen::is_new(*place, lines, *own),
                Thing::Text(_, None) => false,
            };
            count += usize::from(is_met);
            if count as f64 >= most {
                break;
            }
        }
        count
    }
}

/// Places beside the end of a line, on either side of it: the nearest first, and others as far as its first stretch goes.
fn at_end(at: Point, next: Point, size: Size) -> Vec<Rect> {
    if (at.x - next.x).abs() > 1.0 && (at.y - next.y).abs() > 1.0 {
        return at_slant(at, next, size);
    }
    let is_vertical = (at.x - next.x).abs() < (at.y - next.y).abs();
    let length = if is_vertical { (at.y - next.y).abs() - size.h } else { (at.x - next.x).abs() - size.w };
    let places = AWAY.into_iter().filter(|away| *away == AWAY[0] || *away <= length);
    let beside = if is_vertical { beside_vertical } else { beside_horizontal };
    places.flat_map(|away| beside(at, next, size, away)).collect()
}

/// A text right and left of a vertical stretch, `away` from its end.
fn beside_vertical(at: Point, next: Point, size: Size, away: f64) -> [Rect; 2] {
    let y = if next.y > at.y { at.y + away } else { at.y - away - size.h };
    [at.x + BESIDE, at.x - BESIDE - size.w].map(|x| Rect::new(x, y, size.w, size.h))
}

/// A text above and below a horizontal stretch, `away` from its end.
fn beside_horizontal(at: Point, next: Point, size: Size, away: f64) -> [Rect; 2] {
    let x = if next.x > at.x { at.x + away } else { at.x - away - size.w };
    [at.y - BESIDE - size.h, at.y + BESIDE].map(|y| Rect::new(x, y, size.w, size.h))
}

/// The same for a line that runs at a slant: the text lies just clear of it.
fn at_slant(at: Point, next: Point, size: Size) -> Vec<Rect> {
    let length = distance(at, next);
    let along = pt((next.x - at.x) / length, (next.y - at.y) / length);
    let half = |x: f64, y: f64| (x.abs() * size.w + y.abs() * size.h) / 2.0;
    let (own, beside) = (half(along.x, along.y), half(along.y, along.x) + BESIDE - 2.0);
    let places = AWAY.into_iter().chain(FURTHER);
    let places = places.filter(|away| *away == AWAY[0] || away + 2.0 * own <= length / 2.0);
    let both = |away: f64| [(own + away, beside), (own + away, -beside)];
    let place = |(by, across)| pt(at.x + along.x * by - along.y * across, at.y + along.y * by + along.x * across);
    places.flat_map(both).map(|at| Rect::around(place(at), size)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::graph::{Anchor, Edge, Group, Node};
    use crate::layout::route::Route;

    const LABEL: Size = Size { w: 40.0, h: 16.0 };

    /// Two nodes far apart on one level, with a line between them, and the frame of a group that the line leaves.
    fn picture(frame_at: f64) -> (Graph, Placement) {
        let edge =
            Edge { label: Some(LABEL), end_labels: [Some(LABEL); 2], ..Edge::new(Anchor::Node(0), Anchor::Node(1)) };
        let graph = Graph {
            nodes: vec![Node { group: Some(0), ..Node::default() }, Node::default()],
            groups: vec![Group::default()],
            edges: vec![edge, Edge::new(Anchor::Node(0), Anchor::Node(1))],
            ..Graph::default()
        };
        let route = |points: &[Point]| Route { points: points.to_vec(), ..Route::default() };
        let placement = Placement {
            nodes: vec![Rect::new(0.0, 80.0, 60.0, 40.0), Rect::new(460.0, 80.0, 60.0, 40.0)],
            groups: vec![Rect::new(-20.0, 40.0, frame_at + 20.0, 120.0)],
            titles: vec![Rect::default()],
            routes: vec![route(&[pt(60.0, 100.0), pt(460.0, 100.0)]), route(&[pt(30.0, 80.0), pt(30.0, 20.0)])],
            size: Size::new(520.0, 200.0),
            ..Placement::default()
        };
        (graph, placement)
    }

    fn texts(placement: &Placement) -> [Rect; 3] {
        let route = &placement.routes[0];
        [route.label, route.end_labels[0], route.end_labels[1]].map(|r| r.expect("a place"))
    }

    #[test]
    fn texts_lie_in_the_middle_and_beside_the_ends() {
        let (graph, mut placement) = picture(300.0);
        put(&graph, &mut placement, &[0]);
        let [label, first, last] = texts(&placement);
        assert_eq!(label.middle().y, 100.0, "on its line");
        assert!((label.middle().x - 260.0).abs() < 60.0, "{label:?}");
        assert_eq!((first.x, last.right()), (60.0 + AWAY[0], 460.0 - AWAY[0]));
        assert!([first, last].iter().all(|r| !is_struck(&placement.routes[0].points, *r)));
    }

    #[test]
    fn texts_at_the_ends_of_slanted_lines_lie_just_clear_of_them() {
        for next in [pt(200.0, 60.0), pt(-30.0, 180.0), pt(-150.0, -150.0)] {
            let places = at_end(pt(0.0, 0.0), next, LABEL);
            assert!(places.len() > 6, "as many as the line has room for");
            for place in places {
                assert!(!is_struck(&[pt(0.0, 0.0), next], place), "{place:?}");
                assert!(is_struck(&[pt(0.0, 0.0), next], place.grown(BESIDE)), "{place:?} is near");
            }
        }
    }

    #[test]
    fn a_text_at_an_end_goes_along_its_line_where_a_frame_is_in_the_way() {
        for frame_at in [75.0, 90.0, 100.0] {
            let (graph, mut placement) = picture(frame_at);
            put(&graph, &mut placement, &[0]);
            let [_, first, _] = texts(&placement);
            assert!(first.x > frame_at, "the frame at {frame_at} runs through {first:?}");
        }
    }

    #[test]
    fn what_lies_on_something_is_placed_anew_and_the_rest_stays() {
        let (graph, mut placement) = picture(300.0);
        put(&graph, &mut placement, &[0]);
        let before = texts(&placement);
        repair(&graph, &mut placement);
        assert_eq!(texts(&placement), before, "nothing was wrong");
        // One at the end on its own line, the other on a node.
        placement.routes[0].end_labels =
            [Some(Rect::new(80.0, 92.0, 40.0, 16.0)), Some(Rect::new(470.0, 90.0, 40.0, 16.0))];
        repair(&graph, &mut placement);
        assert_eq!(texts(&placement), before);
        placement.routes[0].label = Some(Rect::around(pt(300.0, 100.0), LABEL));
        repair(&graph, &mut placement);
        assert!(!placement.groups[0].holds(texts(&placement)[0]) || texts(&placement)[0].right() < 300.0);
    }

    #[test]
    fn texts_come_nearer_to_their_ends_where_nothing_is() {
        let (graph, mut placement) = picture(300.0);
        put(&graph, &mut placement, &[0]);
        let at_ends = texts(&placement);
        let far = |r: Rect, by: f64| Some(r.moved(by, 0.0));
        placement.routes[0].end_labels = [far(at_ends[1], 30.0), far(at_ends[2], -30.0)];
        snug(&graph, &mut placement);
        assert_eq!(texts(&placement), at_ends);
        // What stands in the way is left alone.
        placement.routes[0].end_labels[0] = far(at_ends[1], 60.0);
        placement.nodes.push(at_ends[1].grown(20.0));
        snug(&graph, &mut placement);
        assert!(texts(&placement)[1].x > at_ends[1].x);
    }

    #[test]
    fn each_thing_and_each_line_counts_once_for_a_place() {
        // A line that turns in the place, and a box over several cells of the index.
        let node = |x: f64, y: f64, w: f64| Rect::new(x, y, w, 40.0);
        let graph = Graph {
            nodes: vec![Node::default(); 3],
            edges: vec![Edge::new(Anchor::Node(0), Anchor::Node(1)); 2],
            ..Graph::default()
        };
        let mut placement = Placement::unplaced(&graph);
        placement.nodes = vec![node(0.0, 0.0, 60.0), node(600.0, 400.0, 60.0), node(100.0, 190.0, 400.0)];
        placement.routes[1].points = vec![pt(60.0, 20.0), pt(300.0, 20.0), pt(300.0, 420.0), pt(600.0, 420.0)];
        placement.size = Size::new(700.0, 500.0);
        let board = Board::new(&placement);
        let met = |rect: Rect| board.met_by(&graph, 0, rect, f64::INFINITY);
        assert_eq!(met(Rect::new(280.0, 10.0, 60.0, 40.0)), 1, "the corner is two stretches of one line");
        assert_eq!(met(Rect::new(280.0, 200.0, 60.0, 20.0)), 2, "the line and the box");
        assert_eq!(met(Rect::new(120.0, 200.0, 20.0, 20.0)), 1, "the box");
        assert_eq!(met(Rect::new(500.0, 100.0, 20.0, 20.0)), 0);
        assert_eq!(board.met_by(&graph, 1, Rect::new(280.0, 10.0, 60.0, 40.0), f64::INFINITY), 0, "its own line");
        assert_eq!(board.met_by(&graph, 0, Rect::new(280.0, 200.0, 60.0, 20.0), 1.0), 1, "no longer counted");
    }
}
