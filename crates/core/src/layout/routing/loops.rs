//! Lines from a thing to itself: at its right side, further ones around the first.
//!
//! Input: a graph with sizes. Output: how much room they need, and their routes beside a placed thing. A text at an end
//! lies on the stretch that leaves there, above the first and below the last; a label lies to the right.

use crate::geom::{Rect, Size, pt};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::outline::Side;
use crate::layout::route::Route;
use std::collections::BTreeMap;

/// How far the innermost line stands out, in px.
// An arrow head, a round corner, and a piece of straight line.
const FIRST_OUT: f64 = 24.0;
/// How far it leaves and comes back above and below the middle.
const FIRST_STEP: f64 = 10.0;
/// Room between one line and the next around it.
// The pitch of all lines side by side.
const OUT: f64 = 12.0;
const STEP: f64 = 12.0;
/// Room between a text and its line.
const OFF: f64 = 6.0;
/// Room between the thing and a text at an end.
const BESIDE: f64 = 8.0;
/// Room between an outer line and a text inside it.
const AROUND: f64 = 6.0;
/// Room between the outermost line and the thing's corners.
const CORNER: f64 = 4.0;

/// Where one line runs, relative to its thing.
#[derive(Clone, Copy, Debug)]
struct Shape {
    /// How far it stands out.
    out: f64,
    /// How far it is from the middle where it leaves.
    step: f64,
    /// How far what belongs to it reaches: to the right, and from the middle.
    reach: Size,
}

/// All lines from things to themselves.
#[derive(Clone)]
pub(in crate::layout) struct Loops {
    shapes: BTreeMap<usize, Shape>,
    outermost: BTreeMap<Anchor, Shape>,
}

impl Loops {
    /// Shapes that lie around each other in source order.
    pub(in crate::layout) fn new(graph: &Graph) -> Self {
        let mut loops = Self { shapes: BTreeMap::new(), outermost: BTreeMap::new() };
        for (e, edge) in graph.edges.iter().enumerate().filter(|(_, edge)| edge.from == edge.to) {
            let inner = loops.outermost.get(&edge.from);
            let out = inner.map_or(FIRST_OUT, |i| i.reach.w + OUT);
            let step = inner.map_or(FIRST_STEP, |i| i.reach.h + STEP);
            let ends = edge.end_labels.iter().flatten();
            let text = ends.fold(Size::default(), |all, s| Size::new(all.w.max(BESIDE + s.w), all.h.max(OFF + s.h)));
            let label = edge.label.map_or(Size::default(), |s| Size::new(s.w + AROUND + OFF, s.h / 2.0 + OFF));
            let reach = Size::new((out + label.w).max(text.w), (step + text.h).max(label.h));
            let shape = Shape { out, step, reach };
            loops.shapes.insert(e, shape);
            loops.outermost.insert(edge.from, shape);
        }
        loops
    }

    /// Room that a thing's lines need: to its right, and along its right side; zero without lines.
    pub(in crate::layout) fn room(&self, anchor: Anchor) -> Size {
        self.outermost.get(&anchor).map_or(Size::default(), |s| Size::new(s.reach.w + OUT, 2.0 * (s.reach.h + OFF)))
    }

    /// The least height of a thing whose lines do not come too close to each other; zero without lines.
    pub(in crate::layout) fn least_height(&self, anchor: Anchor) -> f64 {
        self.outermost.get(&anchor).map_or(0.0, |s| 2.0 * (s.step + CORNER))
    }

    /// The route of an edge beside its placed thing; `None` for an edge between two things.
    pub(in crate::layout) fn route(&self, graph: &Graph, e: usize, place: Rect) -> Option<Route> {
        let shape = self.shapes.get(&e)?;
        let edge = &graph.edges[e];
        let last = self.outermost.get(&edge.from)?.step;
        let step = shape.step * f64::min(1.0, (place.h / 2.0 - CORNER).max(1.0) / last);
        let outline = graph.outline(edge.from);
        let middle = place.middle();
        let side = |y: f64| middle.x + outline.reach(place.size(), Side::Right, y);
        let (top, bottom, out) = (middle.y - step, middle.y + step, place.right() + shape.out);
        let points = vec![pt(side(-step), top), pt(out, top), pt(out, bottom), pt(side(step), bottom)];
        let label = edge.label.map(|s| Rect::new(out + AROUND, middle.y - s.h / 2.0, s.w, s.h));
        let text = |end: usize, y: f64| edge.end_labels[end].map(|s| Rect::new(place.right() + BESIDE, y, s.w, s.h));
        let height = edge.end_labels[0].map_or(0.0, |s| s.h);
        let end_labels = [text(0, top - OFF - height), text(1, bottom + OFF)];
        Some(Route { points, label, end_labels, ..Route::default() })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::{Edge, Node};

    const THING: Anchor = Anchor::Node(0);

    fn looped(texts: &[[bool; 3]]) -> Graph {
        let text = |is_there: bool| is_there.then_some(Size::new(40.0, 14.0));
        let edge = |[a, label, b]: &[bool; 3]| {
            let mut edge = Edge::new(THING, THING);
            (edge.label, edge.end_labels) = (text(*label), [text(*a), text(*b)]);
            edge
        };
        Graph { nodes: vec![Node::default()], edges: texts.iter().map(edge).collect(), ..Graph::default() }
    }

    #[test]
    fn texts_lie_on_no_line_of_the_same_thing() {
        let graph = looped(&[[true, true, true], [false, true, false], [true, false, true], [false; 3]]);
        let loops = Loops::new(&graph);
        let place = Rect::new(0.0, 0.0, 100.0, loops.least_height(THING));
        let routes: Vec<Route> = (0..4).filter_map(|e| loops.route(&graph, e, place)).collect();
        let room = loops.room(THING);
        for (e, route) in routes.iter().enumerate() {
            let edge = &graph.edges[e];
            assert_eq!(route.end_labels.map(|r| r.is_some()), edge.end_labels.map(|s| s.is_some()));
            assert_eq!(route.label.is_some(), edge.label.is_some());
            for text in route.texts() {
                let inside = text.right() <= place.right() + room.w && text.h / 2.0 <= room.h;
                assert!(inside && !text.meets(place), "{e}: {text:?}");
                for (f, other) in routes.iter().enumerate() {
                    let is_struck = |p: &[crate::geom::Point]| Rect::between(p[0], p[1]).meets(*text);
                    assert!(!other.points.windows(2).any(is_struck), "text of {e} on the line of {f}");
                    assert!(e == f || !other.texts().any(|t| t.meets(*text)), "texts of {e} and {f}");
                }
            }
        }
    }

    #[test]
    fn on_a_low_thing_they_come_closer_and_stay_in_order() {
        let graph = looped(&[[false; 3], [false; 3], [false; 3]]);
        let loops = Loops::new(&graph);
        let leaves = |e: usize| loops.route(&graph, e, Rect::new(0.0, 0.0, 60.0, 24.0)).expect("a loop").points[0].y;
        assert!(leaves(0) > leaves(1) && leaves(1) > leaves(2) && leaves(2) >= CORNER - 0.01);
        let between = Graph { edges: vec![Edge::new(THING, Anchor::Node(1))], ..Graph::default() };
        let none = Loops::new(&between);
        assert_eq!((none.room(THING), none.least_height(THING)), (Size::default(), 0.0));
        assert_eq!(none.route(&between, 0, Rect::default()), None);
    }
}
