//! Points at frames: nodes by which a group is entered or left move to the inner side of its frame, and their lines with
//! them. Input: a finished placement. Output: the same, for drawing; later pictures are kept near the placement before.

use crate::geom::{Point, Rect, pt};
use crate::layout::graph::{Anchor, Border, Graph, RankDirection, Routing};
use crate::layout::intersections::hits;
use crate::layout::outline::Side;
use crate::layout::placement::Placement;

/// How near the end of a line is to where it touches the outline of its node, in px.
const NEAR: f64 = 0.6;
/// Room that the moved node keeps from what is not its own, in px.
const ROOM: f64 = 2.0;

/// Moves nodes onto the frames of their groups where nothing is in the way; gives the side of each that was moved.
pub fn onto_frames(graph: &Graph, placement: &mut Placement) -> Vec<Option<Side>> {
    let mut sides = vec![None; graph.nodes.len()];
    for (v, node) in graph.nodes.iter().enumerate() {
        let (Some(border), Some(g)) = (node.border, node.group) else { continue };
        let side = side(border, graph.direction);
        let (rect, frame) = (placement.nodes[v], placement.groups[g]);
        let middle = rect.middle();
        let reach = node.outline.reach(rect.size(), side, 0.0);
        let (dx, dy) = match side {
            Side::Top => (0.0, frame.y + reach - middle.y),
            Side::Bottom => (0.0, frame.bottom() - reach - middle.y),
            Side::Left => (frame.x + reach - middle.x, 0.0),
            Side::Right => (frame.right() - reach - middle.x, 0.0),
        };
        // Only what lies inside counts: the node ends at the frame.
        let path = rect.union(rect.moved(dx, dy)).grown(ROOM);
        let path = Rect::between(
            pt(path.x.max(frame.x), path.y.max(frame.y)),
            pt(path.right().min(frame.right()), path.bottom().min(frame.bottom())),
        );
        if is_free(graph, placement, v, path, g) && ends_follow(graph, placement, v, side) {
            move_node(graph, placement, v, pt(dx, dy));
            sides[v] = Some(side);
        }
    }
    sides
}

/// The side of its group at which a node lies.
fn side(border: Border, direction: RankDirection) -> Side {
    let (begins, ends) = match direction {
        RankDirection::Down => (Side::Top, Side::Bottom),
        RankDirection::Up => (Side::Bottom, Side::Top),
        RankDirection::Right => (Side::Left, Side::Right),
        RankDirection::Left => (Side::Right, Side::Left),
    };
    if border == Border::Begins { begins } else { ends }
}

/// Whether nothing but its own lines and its own group lies where a node moves.
fn is_free(graph: &Graph, placement: &Placement, v: usize, path: Rect, g: usize) -> bool {
    let around: Vec<usize> = graph.groups_around(Anchor::Group(g)).collect();
    let nodes = placement.nodes.iter().enumerate().filter(|(w, _)| *w != v).map(|(_, r)| *r);
    let groups = placement.groups.iter().enumerate().filter(|(h, _)| !around.contains(h)).map(|(_, r)| *r);
    let texts = placement.routes.iter().flat_map(|r| r.texts()).chain(&placement.titles).copied();
    let own = |e: usize| [graph.edges[e].from, graph.edges[e].to].contains(&Anchor::Node(v));
    let mut lines = placement.routes.iter().enumerate().filter(|(e, _)| !own(*e)).map(|(_, r)| r.polyline());
    !nodes.chain(groups).chain(texts).any(|r| r.w > 0.0 && r.meets(path))
        && !lines.any(|line| line.windows(2).any(|p| hits(p[0], p[1], path)))
}

/// The ends of a route at a node, by their places among its points, with the points next to them.
fn ends(graph: &Graph, placement: &Placement, v: usize) -> Vec<(usize, usize, usize)> {
    let mut all = Vec::new();
    for (e, (edge, route)) in graph.edges.iter().zip(&placement.routes).enumerate() {
        let last = route.points.len().saturating_sub(1);
        let ends = [(edge.from, 0, 1), (edge.to, last, last.saturating_sub(1))];
        all.extend(ends.into_iter().filter(|(a, ..)| *a == Anchor::Node(v)).map(|(_, end, next)| (e, end, next)));
    }
    all
}

/// Whether every line of a node can follow its move: its last stretch runs the same way.
fn ends_follow(graph: &Graph, placement: &Placement, v: usize, side: Side) -> bool {
    let is_vertical = side.is_vertical();
    ends(graph, placement, v).into_iter().all(|(e, end, next)| {
        let points = &placement.routes[e].points;
        let (a, b) = (points[end], points[next]);
        graph.routing != Routing::Stepped
            || if is_vertical { (a.x - b.x).abs() < NEAR } else { (a.y - b.y).abs() < NEAR }
    })
}

fn move_node(graph: &Graph, placement: &mut Placement, v: usize, by: Point) {
    placement.nodes[v] = placement.nodes[v].moved(by.x, by.y);
    for (e, end, next) in ends(graph, placement, v) {
        let route = &mut placement.routes[e];
        let shifted = |p: Point| pt(p.x + by.x, p.y + by.y);
        if route.curved && route.points.len() > 2 {
            route.points[next] = shifted(route.points[next]);
        }
        route.points[end] = shifted(route.points[end]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Size;
    use crate::layout::{Edge, Group, Node, Outline, Route};

    /// A point in a state, a line to it from above, and a line from it to a node below.
    fn picture(direction: RankDirection) -> (Graph, Placement) {
        let size = Size::new(16.0, 16.0);
        let half = [pt(0.0, -8.0), pt(8.0, 0.0), pt(0.0, 8.0), pt(-8.0, 0.0)];
        let outline = Outline::Polygon(half.to_vec());
        let point = Node { size, outline, group: Some(0), border: Some(Border::Begins), ..Node::default() };
        let node = |group| Node { size: Size::new(80.0, 40.0), group, ..Node::default() };
        let edges = vec![Edge::new(Anchor::Node(1), Anchor::Node(0)), Edge::new(Anchor::Node(0), Anchor::Node(2))];
        let graph = Graph {
            nodes: vec![point, node(None), node(Some(0))],
            groups: vec![Group { inset: 20.0, ..Group::default() }],
            edges,
            direction,
            ..Graph::default()
        };
        let route = |a: f64, b: f64| Route { points: vec![pt(100.0, a), pt(100.0, b)], ..Route::default() };
        let placement = Placement {
            nodes: vec![
                Rect::around(pt(100.0, 148.0), size),
                Rect::new(60.0, 0.0, 80.0, 40.0),
                Rect::new(60.0, 200.0, 80.0, 40.0),
            ],
            groups: vec![Rect::new(0.0, 100.0, 200.0, 160.0)],
            titles: vec![Rect::default()],
            routes: vec![route(40.0, 140.0), route(156.0, 200.0)],
            ..Placement::default()
        };
        (graph, placement)
    }

    #[test]
    fn a_point_moves_to_its_frame_with_its_lines() {
        let (graph, mut placement) = picture(RankDirection::Down);
        assert_eq!(onto_frames(&graph, &mut placement), [Some(Side::Top), None, None]);
        assert_eq!(placement.nodes[0].y, 100.0);
        assert_eq!(placement.routes[0].points, [pt(100.0, 40.0), pt(100.0, 100.0)]);
        assert_eq!(placement.routes[1].points, [pt(100.0, 116.0), pt(100.0, 200.0)]);
    }

    #[test]
    fn it_stays_where_something_is_in_the_way_or_a_line_would_bend() {
        let (graph, mut placement) = picture(RankDirection::Down);
        placement.titles[0] = Rect::new(80.0, 110.0, 60.0, 20.0);
        let before = placement.clone();
        assert_eq!(onto_frames(&graph, &mut placement), [None; 3]);
        assert_eq!(placement, before);
        // To the side its vertical lines could not follow.
        let (graph, mut placement) = picture(RankDirection::Right);
        assert_eq!(onto_frames(&graph, &mut placement), [None; 3]);
    }
}
