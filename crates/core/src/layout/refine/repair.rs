//! Lines that are in each other's way run elsewhere. Input: a graph and its placement. Output: the same placement, or one with
//! fewer faults.

use crate::layout::graph::Graph;
use crate::layout::placement::Placement;
use crate::layout::routing::obstacles as around;
use crate::layout::score::measure;

/// A placement whose faulty lines run elsewhere, if that takes faults away: first one line of each fault, then, of two
/// lines that are in each other's way, the other one.
pub(in crate::layout) fn repaired(graph: &Graph, placement: Placement) -> Placement {
    let mut kept = placement;
    let mut faults = measure(graph, &kept).faults;
    for which in [0, 1] {
        let mut edges: Vec<usize> = faults.iter().filter_map(|f| f.edges()[which]).collect();
        edges.sort_unstable();
        edges.dedup();
        if edges.is_empty() {
            continue;
        }
        let mut tried = kept.clone();
        around::route(graph, &mut tried, &edges);
        tried.fit();
        let left = measure(graph, &tried).faults;
        if left.len() < faults.len() {
            (kept, faults) = (tried, left);
        }
    }
    kept
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::{Point, Rect, Size, pt};
    use crate::layout::{Anchor, Edge, Node};

    /// Three boxes in a row, and lines between them through these corners.
    fn row(lines: &[(usize, usize, &[Point])]) -> (Graph, Placement) {
        let edge = |(a, b, _): &(usize, usize, &[Point])| Edge::new(Anchor::Node(*a), Anchor::Node(*b));
        let graph = Graph {
            nodes: vec![Node { size: Size::new(80.0, 40.0), ..Node::default() }; 3],
            edges: lines.iter().map(edge).collect(),
            spacing: 1.0,
            ..Graph::default()
        };
        let mut placement = Placement::unplaced(&graph);
        placement.nodes = (0..3).map(|i| Rect::new(200.0 * f64::from(i), 100.0, 80.0, 40.0)).collect();
        for (route, (_, _, points)) in placement.routes.iter_mut().zip(lines) {
            route.points = points.to_vec();
        }
        placement.fit();
        (graph, placement)
    }

    #[test]
    fn a_line_through_a_box_runs_around_it() {
        let (graph, placement) = row(&[(0, 2, &[pt(80.0, 120.0), pt(400.0, 120.0)])]);
        assert_eq!(measure(&graph, &placement).faults.len(), 1);
        let repaired = repaired(&graph, placement);
        assert_eq!(measure(&graph, &repaired).faults, []);
        assert!(repaired.routes[0].bends() >= 2);
    }

    #[test]
    fn what_has_no_fault_stays_as_it_is() {
        let (graph, placement) = row(&[(0, 1, &[pt(80.0, 120.0), pt(200.0, 120.0)])]);
        assert_eq!(repaired(&graph, placement.clone()), placement);
    }
}
