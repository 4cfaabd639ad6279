//! Pins: things at given places. The picture is laid out without them first; then they are put at their places, what they push away gives way
//! ([`frames`](super::frames)), and lines that this bends out of shape are drawn from scratch. A pin that would make things overlap is not kept.

use crate::geom::{Point, Rect, Size, SpatialIndex, distance, pt};
use crate::layout::constraints::changes::Changes;
use crate::layout::constraints::frames;
use crate::layout::earlier::Earlier;
use crate::layout::graph::{Anchor, Graph, PlacementConstraint};
use crate::layout::placement::Placement;
use crate::layout::routing::lines;
use crate::layout::score::{Fault, measure};
use crate::layout::separation::Rooms;

/// How much a pinned thing resists moves.
// Against 1 for all others: moving it a px costs as much as moving tens of thousands across the picture.
const FIRM: f64 = 1e9;
/// Room that pinned things clear around themselves, in px.
// The least that a kept picture leaves between two things, too.
const GAP: f64 = 14.0;
/// Around two boxes that are nearer than room allows, this much more each makes them meet, in px.
// A little less than half of that room: what is moved by a px is still at its pin.
const TOO_NEAR: f64 = GAP / 2.0 - 2.0;
/// How many nodes and edges are drawn while looking for the pins that go together, and how many pictures at least.
// The largest pictures take about two seconds for that.
const MOST_DRAWN: usize = 150_000;
const FEWEST_TRIES: usize = 16;

/// A frame that leaves less than this free stays as it is, in px.
// About a box: a frame with more room than that looks as if something were missing.
const SPARE: f64 = 120.0;

/// Moves a placement's nodes to their pins. Places are measured from [`Placement::origin`].
pub(in crate::layout) fn keep(graph: &Graph, placement: &mut Placement) {
    let pins: Pins = graph.constraints.iter().flat_map(|c| pinned(graph, placement, c)).collect();
    if pins.is_empty() {
        return;
    }
    let start = placement.clone();
    let tries = (MOST_DRAWN / (graph.nodes.len() + graph.edges.len())).max(FEWEST_TRIES);
    let mut kept = Kept { start: &start, pins: Vec::new(), placement, tries };
    // What stands on another pin is tried again without those that are not kept for other reasons.
    let mut left = pins;
    while !left.is_empty() {
        let (together, others) = kept.apart(graph, left);
        if together.is_empty() || kept.tries == 0 {
            return;
        }
        kept.add_most(graph, &together);
        left = others;
    }
}

/// The nodes that a constraint pins, and where: all that lies in a group, as it lies there.
fn pinned(graph: &Graph, placement: &Placement, constraint: &PlacementConstraint) -> Pins {
    match constraint {
        PlacementConstraint::Pin(Anchor::Node(v), at) => vec![(*v, *at)],
        PlacementConstraint::Pin(Anchor::Group(g), at) => {
            let middle = placement.groups[*g].middle();
            let moved = |p: Point| pt(libm::round(p.x + at.x - middle.x), libm::round(p.y + at.y - middle.y));
            let is_inside = |v: &usize| graph.groups_around(Anchor::Node(*v)).any(|own| own == *g);
            (0..graph.nodes.len()).filter(is_inside).map(|v| (v, moved(placement.nodes[v].middle()))).collect()
        }
        _ => Vec::new(),
    }
}

/// Nodes and where they are pinned.
type Pins = Vec<(usize, Point)>;

/// The pins that go together, and the picture with them.
struct Kept<'p> {
    /// The picture without pins.
    start: &'p Placement,
    pins: Pins,
    placement: &'p mut Placement,
    /// How many pictures may still be tried.
    tries: usize,
}

impl Kept<'_> {
    /// Adds as many of some pins as go together with those that are kept, in their order: all of them, or the most of their
    /// first half and then of the second one.
    fn add_most(&mut self, graph: &Graph, some: &[(usize, Point)]) {
        if self.tries == 0 || some.is_empty() {
            return;
        }
        self.tries -= 1;
        let all = [&self.pins, some].concat();
        if let Some(better) = tried(graph, self.start, &all) {
            (*self.placement, self.pins) = (better, all);
        } else if some.len() > 1 {
            let (first, second) = some.split_at(some.len() / 2);
            self.add_most(graph, first);
            self.add_most(graph, second);
        }
    }

    /// Some pins without those that would stand on another one or too near to it, and those, both in their order.
    fn apart(&self, graph: &Graph, some: Pins) -> (Pins, Pins) {
        let box_of = |(v, at): &(usize, Point)| Rect::around(*at, graph.nodes[*v].size).grown(TOO_NEAR);
        let bounds = self.pins.iter().chain(&some).map(box_of).reduce(Rect::union).unwrap_or_default();
        let mut taken: Vec<Rect> = self.pins.iter().map(box_of).collect();
        let mut near = SpatialIndex::new(bounds, taken.len() + some.len());
        taken.iter().enumerate().for_each(|(i, rect)| near.add(*rect, i));
        some.into_iter().partition(|pin| {
            let rect = box_of(pin);
            let is_free = !near.touching(rect).any(|i| taken[i].meets(rect));
            if is_free {
                near.add(rect, taken.len());
                taken.push(rect);
            }
            is_free
        })
    }
}

fn tried(graph: &Graph, placement: &Placement, pins: &[(usize, Point)]) -> Option<Placement> {
    let mut out = placement.clone();
    let before = Earlier::of(&out);
    let mut middles: Vec<Point> = out.nodes.iter().map(|r| r.middle()).collect();
    let mut firm = vec![1.0; middles.len()];
    for (v, at) in pins {
        (middles[*v], firm[*v]) = (*at, FIRM);
    }
    for (v, m) in middles.iter().enumerate() {
        let size = Size::new(out.nodes[v].w, out.nodes[v].h);
        out.nodes[v] = Rect::around(pt(libm::round(m.x), libm::round(m.y)), size);
    }
    frames::make_room(graph, &mut out, &firm, (GAP, &Rooms::new()), SPARE);
    if pins.iter().any(|(v, at)| distance(out.nodes[*v].middle(), *at) > 1.0) {
        return None;
    }
    for (v, at) in pins {
        out.nodes[*v] = Rect::around(*at, graph.nodes[*v].size);
    }
    // Lines whose ends moved, and lines that something moved onto.
    let redrawn = Changes::new(graph, &before, &out).bent(&before);
    lines::redraw(graph, &mut out, redrawn);
    // What has to lie left of 0, 0 or above it moves the whole picture.
    let bounds = out.bounds();
    out.origin = pt(f64::max(-bounds.x, 0.0), f64::max(-bounds.y, 0.0));
    out.shift(out.origin.x, out.origin.y);
    out.size = Size::new(bounds.right().max(0.0) + out.origin.x, bounds.bottom().max(0.0) + out.origin.y);
    (!measure(graph, &out).faults.iter().any(is_misplaced)).then_some(out)
}

/// Whether a fault is about boxes. Lines that run badly do not make a pin fail: whoever pins sees them.
fn is_misplaced(fault: &Fault) -> bool {
    let on_a_box = matches!(fault, Fault::Overlap(..) | Fault::Intruder(..) | Fault::TitleOnNode(..));
    on_a_box || matches!(fault, Fault::Outside(..) | Fault::Nowhere(_))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::arrange::layered;
    use crate::layout::graph::RankDirection;
    use crate::layout::{Edge, Group, Node};

    /// Two groups of two, with a line through all four.
    fn nested() -> Graph {
        let node = |g| Node { size: Size::new(100.0, 40.0), group: Some(g), ..Node::default() };
        let group = Group { parent: None, title: Size::new(60.0, 20.0), inset: 20.0, lane: false, region: false };
        let edge = |a, b| Edge::new(Anchor::Node(a), Anchor::Node(b));
        Graph {
            nodes: vec![node(0), node(0), node(1), node(1)],
            groups: vec![group.clone(), group],
            edges: vec![edge(0, 1), edge(1, 2), edge(2, 3)],
            ..Graph::default()
        }
    }

    fn pinned(pins: &[(usize, f64, f64)]) -> (Graph, Placement) {
        let mut graph = nested();
        let mut placement = layered::place(&graph, layered::LayeredOptions::default());
        graph.constraints =
            pins.iter().map(|(v, x, y)| PlacementConstraint::Pin(Anchor::Node(*v), pt(*x, *y))).collect();
        keep(&graph, &mut placement);
        (graph, placement)
    }

    #[test]
    fn frames_and_titles_follow_what_is_pinned() {
        let (graph, placement) = pinned(&[(0, 150.0, 120.0), (1, 150.0, 220.0), (2, 500.0, 120.0), (3, 500.0, 220.0)]);
        assert_eq!(placement.nodes[2].middle(), pt(500.0, 120.0));
        assert_eq!(measure(&graph, &placement).faults, []);
        for g in 0..2 {
            assert_eq!(placement.titles[g], graph.groups[g].title_in(placement.groups[g]));
        }
    }

    #[test]
    fn what_is_not_pinned_makes_room() {
        let (graph, placement) = pinned(&[(2, 150.0, 150.0)]);
        assert_eq!(placement.nodes[2].middle(), pt(150.0 + placement.origin.x, 150.0 + placement.origin.y));
        assert_eq!(measure(&graph, &placement).faults, []);
    }

    #[test]
    fn nothing_lies_outside_the_picture() {
        let (graph, placement) = pinned(&[(0, 60.0, 30.0), (1, 60.0, 130.0)]);
        // The frame needs 20 px and a title more than the pin leaves.
        assert!(placement.origin.x > 0.0 && placement.origin.y > 0.0);
        let bounds = placement.bounds();
        assert!(bounds.x >= 0.0 && bounds.y >= 0.0 && bounds.right() <= placement.size.w);
        assert_eq!(crate::layout::constraints::unmet::dropped(&graph, &placement), Vec::<usize>::new());
    }

    #[test]
    fn lanes_stay_side_by_side_around_what_is_pinned() {
        let mut graph = nested();
        graph.groups.iter_mut().for_each(|g| g.lane = true);
        for direction in [RankDirection::Down, RankDirection::Right] {
            graph.direction = direction;
            graph.constraints.clear();
            let mut placement = layered::place(&graph, layered::LayeredOptions::default());
            let at = |x: f64, y: f64| if direction == RankDirection::Down { pt(x, y) } else { pt(y + 60.0, x) };
            let pins = [(0, at(120.0, 120.0)), (1, at(120.0, 230.0)), (2, at(420.0, 230.0)), (3, at(420.0, 340.0))];
            graph.constraints = pins.iter().map(|(v, at)| PlacementConstraint::Pin(Anchor::Node(*v), *at)).collect();
            keep(&graph, &mut placement);
            assert_eq!(measure(&graph, &placement).faults, []);
            assert_eq!(crate::layout::constraints::unmet::dropped(&graph, &placement), Vec::<usize>::new());
            let [a, b] = placement.groups[..] else { panic!("two lanes") };
            if direction == RankDirection::Down {
                assert_eq!((a.right(), a.y, a.h), (b.x, b.y, b.h));
            } else {
                assert_eq!((a.bottom(), a.x, a.w), (b.y, b.x, b.w));
            }
        }
    }

    #[test]
    fn as_many_are_kept_as_go_together() {
        let mut graph = Graph { groups: Vec::new(), ..nested() };
        graph.nodes.iter_mut().for_each(|node| node.group = None);
        let kept_of = |graph: &mut Graph, pins: &[(f64, f64)]| {
            let pin = |(v, (x, y)): (usize, &(f64, f64))| PlacementConstraint::Pin(Anchor::Node(v), pt(*x, *y));
            graph.constraints = pins.iter().enumerate().map(pin).collect();
            let mut placement = layered::place(graph, layered::LayeredOptions::default());
            keep(graph, &mut placement);
            let dropped = crate::layout::constraints::unmet::dropped(graph, &placement);
            (0..pins.len()).filter(|i| !dropped.contains(i)).collect::<Vec<_>>()
        };
        // The second one stands on the first, the fourth too near to the third.
        let pins = [(100.0, 100.0), (120.0, 110.0), (400.0, 100.0), (508.0, 100.0)];
        assert_eq!(kept_of(&mut graph, &pins), [0, 2]);
        let pins = [(100.0, 100.0), (120.0, 210.0), (400.0, 100.0), (548.0, 100.0)];
        assert_eq!(kept_of(&mut graph, &pins), [0, 1, 2, 3]);
    }
}
