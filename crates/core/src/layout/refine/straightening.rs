//! Small jogs taken out of lines: where a line steps aside by a few px on its way from or to an end that has room, its
//! port slides along the side instead, so that the line is straight there; where the port has no room, the line beside it
//! does; where it steps aside and back again, it goes straight on.
//!
//! Input: a placement with horizontal and vertical lines. Output: the same with fewer bends; nothing else moves, no line comes
//! nearer to another than lines in a channel are, none crosses more than before, and none runs through anything that it
//! did not run through before.

use crate::geom::{Point, Rect, Size};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::intersections::{crosses, hits};
use crate::layout::outline::Outline;
use crate::layout::placement::Placement;
use crate::layout::route::{Route, tidied};

/// The widest jog that is taken out, in px.
// A larger one is a turn that means something: a line that goes around a box.
const JOG: f64 = 26.0;
/// Room between a port and the corner of its side.
// Corners of boxes are rounded by 8 px.
const CORNER: f64 = 10.0;
/// Room between two lines side by side, between a line and a node, and around a label.
const LINE: f64 = 9.0;
const NODE: f64 = 8.0;
const LABEL: f64 = 4.0;
/// Pictures with more lines than this are left as they are.
// Each line is held against all others.
const LIMIT: usize = 1_000;
/// The same for stretches of lines, of which a line across many layers has dozens.
const STRETCHES: usize = 12_000;

/// Takes jogs out of all lines.
pub(in crate::layout) fn straighten(graph: &Graph, placement: &mut Placement) {
    let stretches: usize = placement.routes.iter().map(|route| route.points.len()).sum();
    if graph.edges.len() > LIMIT || stretches > STRETCHES {
        return;
    }
    // Lines that jog horizontally between vertical stretches, then, with x and y exchanged, the others.
    for is_turned in [false, true] {
        if is_turned {
            placement.transpose();
        }
        for e in 0..graph.edges.len() {
            while slide(graph, placement, e) {}
        }
        if is_turned {
            placement.transpose();
        }
    }
}

/// Takes one jog out of a line; says whether there was one.
fn slide(graph: &Graph, placement: &mut Placement, e: usize) -> bool {
    let (route, edge) = (&placement.routes[e], &graph.edges[e]);
    if route.curved || edge.trunk.is_some() || edge.from == edge.to || route.points.len() < 4 {
        return false;
    }
    let p = &route.points;
    let last = p.len() - 1;
    // A jog near an end: the end, the corner beside it, the next one, and the point beyond.
    let jogs = [(edge.from, [0, 1, 2, 3]), (edge.to, [last, last - 1, last - 2, last - 3])].into_iter();
    let jogs = jogs.filter(|(_, [end, beside, corner, beyond])| {
        p[*end].x == p[*beside].x && p[*beside].y == p[*corner].y && p[*corner].x == p[*beyond].x
    });
    // The end slides; or where it has no room, the stretch beside it does, if that is none itself.
    let near = jogs.filter_map(|(anchor, [end, beside, corner, beyond])| {
        if has_room(graph, placement, anchor, p[corner].x) {
            Some(([end, beside, corner], p[corner].x))
        } else {
            (p.len() > 4).then_some(([corner, beyond, beyond], p[end].x))
        }
    });
    // Stretches in between that lie beside those before and after them.
    let bumps = (2..last.saturating_sub(2)).filter(|k| {
        let [before, here, there, after] = [p[k - 1], p[*k], p[k + 1], p[k + 2]];
        here.x == there.x && before.x == after.x && before.y == here.y && there.y == after.y
    });
    let bumps = bumps.map(|k| ([k, k + 1, k + 1], p[k - 1].x));
    let mut small = near.chain(bumps).filter(|([at, ..], x)| (p[*at].x - x).abs() <= JOG);
    let Some(straight) = small.find_map(|(points, x)| slid(placement, e, points, x)) else { return false };
    placement.routes[e] = straight;
    true
}

/// Whether a port may be at `x` of the side that it is on.
fn has_room(graph: &Graph, placement: &Placement, anchor: Anchor, x: f64) -> bool {
    let rect = placement.rect(anchor);
    *graph.outline(anchor) == Outline::Box && x >= rect.x + CORNER && x <= rect.right() - CORNER
}

/// The line with a stretch, from `end` to `beside`, at `x`; `None` if something is in the way from there to `corner`.
fn slid(placement: &Placement, e: usize, [end, beside, corner]: [usize; 3], x: f64) -> Option<Route> {
    let before = &placement.routes[e];
    let mut route = before.clone();
    let by = x - before.points[end].x;
    let left = Rect::between(before.points[end], before.points[beside]);
    let left = Rect::new(left.x - LABEL, left.y, 2.0 * LABEL, left.h);
    let texts = route.label.iter_mut().chain(route.end_labels.iter_mut().flatten());
    texts.filter(|r| r.meets(left)).for_each(|r| *r = r.moved(by, 0.0));
    route.points[end].x = x;
    route.points[beside].x = x;
    let (first, second) = (route.points[end], route.points[corner]);
    let stretch = Rect::between(first, second);
    route.points = tidied(std::mem::take(&mut route.points));
    let others = || placement.routes.iter().enumerate().filter(|(f, _)| *f != e).map(|(_, r)| r);
    let struck = |r: &Rect| hits(first, second, *r);
    let covers = |r: &Rect| route.texts().any(|t| t.grown(LABEL).meets(*r));
    let lines_apart = !others().flat_map(|r| r.points.windows(2)).any(|p| {
        let other = Rect::between(p[0], p[1]);
        let is_beside = (p[0].x - x).abs() < LINE && (p[1].x - x).abs() < LINE;
        let is_level = other.bottom() > stretch.y - LINE && other.y < stretch.bottom() + LINE;
        is_beside && is_level || route.texts().any(|r| hits(p[0], p[1], r.grown(2.0)))
    });
    let texts_apart = !others().flat_map(Route::texts).any(|r| struck(&r.grown(LABEL)) || covers(r));
    let own = Rect::around(first, Size::new(1.0, 1.0));
    let nodes_apart = !placement.nodes.iter().any(|r| struck(&r.grown(NODE)) && !r.meets(own) || covers(r));
    let titles_apart = !placement.titles.iter().any(|r| r.h > 0.0 && (struck(&r.grown(LABEL)) || covers(r)));
    let sides_apart = !placement.groups.iter().any(|r| {
        let is_near = |side: f64| (side - x).abs() < LINE;
        r.y < stretch.bottom() && stretch.y < r.bottom() && (is_near(r.x) || is_near(r.right()))
    });
    let stretches = || others().flat_map(|r| r.points.windows(2));
    let cut = |p: &[Point]| stretches().filter(|q| crosses(p[0], p[1], q[0], q[1])).count();
    let crossings = |line: &Route| -> usize { line.points.windows(2).map(cut).sum() };
    let is_clear = lines_apart && texts_apart && nodes_apart && titles_apart && sides_apart;
    (is_clear && crossings(&route) <= crossings(before)).then_some(route)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;
    use crate::layout::score::measure;
    use crate::layout::{Edge, Node};

    /// Two nodes above each other, the line between them with a jog, and another line beside it.
    fn picture(beside: f64) -> (Graph, Placement) {
        let node = Node { size: Size::new(120.0, 40.0), ..Node::default() };
        let mut edge = Edge::new(Anchor::Node(0), Anchor::Node(1));
        edge.label = Some(Size::new(40.0, 16.0));
        let edges = vec![edge, Edge::new(Anchor::Node(0), Anchor::Node(1))];
        let graph = Graph { nodes: vec![node; 2], edges, ..Graph::default() };
        let jog = vec![pt(60.0, 40.0), pt(60.0, 60.0), pt(72.0, 60.0), pt(72.0, 140.0)];
        let label = Some(Rect::new(52.0, 90.0, 40.0, 16.0));
        let other = Route { points: vec![pt(beside, 40.0), pt(beside, 140.0)], ..Route::default() };
        let placement = Placement {
            nodes: vec![Rect::new(0.0, 0.0, 120.0, 40.0), Rect::new(10.0, 140.0, 120.0, 40.0)],
            routes: vec![Route { points: jog, label, ..Route::default() }, other],
            size: Size::new(130.0, 180.0),
            ..Placement::default()
        };
        (graph, placement)
    }

    #[test]
    fn a_jog_goes_where_there_is_room() {
        let (graph, mut placement) = picture(20.0);
        straighten(&graph, &mut placement);
        assert_eq!(placement.routes[0].points, [pt(72.0, 40.0), pt(72.0, 140.0)]);
        assert_eq!(measure(&graph, &placement).faults, []);
        let once = placement.clone();
        straighten(&graph, &mut placement);
        assert_eq!(placement, once);
    }

    #[test]
    fn a_bump_goes_with_its_label() {
        let (graph, mut placement) = picture(20.0);
        let bump = [(60.0, 40.0), (60.0, 60.0), (64.0, 60.0), (64.0, 120.0), (60.0, 120.0), (60.0, 140.0)];
        placement.routes[0].points = bump.iter().map(|(x, y)| pt(*x, *y)).collect();
        placement.routes[0].label = Some(Rect::new(44.0, 80.0, 40.0, 16.0));
        straighten(&graph, &mut placement);
        assert_eq!(placement.routes[0].points, [pt(60.0, 40.0), pt(60.0, 140.0)]);
        assert_eq!(placement.routes[0].label, Some(Rect::new(40.0, 80.0, 40.0, 16.0)));
    }

    #[test]
    fn what_is_in_the_way_keeps_the_jog() {
        let (graph, mut placement) = picture(76.0);
        placement.routes[0].label = Some(Rect::new(20.0, 90.0, 40.0, 16.0));
        // Neither end can go where the other is: a line is there, or the label would lie on one.
        placement.routes[1].points = vec![pt(78.0, 40.0), pt(78.0, 60.0), pt(54.0, 60.0), pt(54.0, 140.0)];
        let before = placement.routes[0].points.clone();
        straighten(&graph, &mut placement);
        assert_eq!(placement.routes[0].points.len(), before.len());
    }

    #[test]
    fn where_a_port_has_no_room_the_line_beside_it_comes_to_it() {
        let (mut graph, mut placement) = picture(20.0);
        graph.edges.truncate(1);
        graph.edges[0].label = None;
        let points = [(60.0, 40.0), (60.0, 60.0), (200.0, 60.0), (200.0, 100.0), (206.0, 100.0), (206.0, 140.0)];
        placement.routes = vec![Route { points: points.map(|(x, y)| pt(x, y)).to_vec(), ..Route::default() }];
        // The port may not go to 200: that is too near to the corner.
        placement.nodes[1] = Rect::new(194.0, 140.0, 120.0, 40.0);
        straighten(&graph, &mut placement);
        assert_eq!(
            placement.routes[0].points,
            [(60.0, 40.0), (60.0, 60.0), (206.0, 60.0), (206.0, 140.0)].map(|(x, y)| pt(x, y))
        );
    }
}
