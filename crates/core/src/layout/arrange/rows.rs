//! Large boxes in rows and columns, those near each other that many lines join (the quadratic assignment of boxes to
//! cells, by exchanges of two as in Armour, Buffa, "A heuristic algorithm and simulation approach to relative location of
//! facilities", 1963).
//!
//! Input: a graph without groups. Output: its placement with lines around everything.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::Graph;
use crate::layout::placement::Placement;
use crate::layout::refine::packing as pack;
use crate::layout::routing::lines;
use crate::layout::routing::obstacles as around;

/// Up to this many boxes are exchanged.
// Exchanges look at all pairs, and at the lines of both.
pub(in crate::layout) const MOST: usize = 40;
/// Room between boxes, and more of it for each line.
const GAP: f64 = 48.0;
const LANE: f64 = 6.0;
/// No more room than for this many lines.
// A street wider than that is wider than the groups beside it.
const LANES: usize = 24;
/// How often all pairs are looked at.
// It ends as soon as nothing gets better.
const ROUNDS: usize = 20;

/// Places the boxes in the number of columns that gives the shortest lines in the least room.
pub(in crate::layout) fn place(graph: &Graph) -> Placement {
    let ends = graph.edges.iter().filter_map(|e| e.from.node().zip(e.to.node()));
    let edges: Vec<(usize, usize)> = ends.filter(|(a, b)| a != b).collect();
    let gap = (GAP + LANE * edges.len().min(LANES) as f64) * graph.spacing;
    let tried = (1..=graph.nodes.len().min(MOST)).map(|columns| {
        let middles = in_order(graph, &nearest(graph, &edges, columns), gap, columns);
        (cost(graph, &edges, &middles), middles)
    });
    let Some((_, middles)) = tried.min_by(|a, b| a.0.total_cmp(&b.0)) else { return Placement::default() };
    let mut placement = Placement::unplaced(graph);
    for ((rect, middle), node) in placement.nodes.iter_mut().zip(middles).zip(&graph.nodes) {
        *rect = Rect::around(pt(libm::round(middle.x), libm::round(middle.y)), node.size);
    }
    let between = graph.edges_between();
    around::route(graph, &mut placement, &between);
    lines::join(graph, &mut placement);
    placement.fit();
    placement
}

/// The middles of the boxes, in their own order, where `order` says who stands in which cell.
fn in_order(graph: &Graph, order: &[usize], gap: f64, columns: usize) -> Vec<Point> {
    let sizes: Vec<Size> = order.iter().map(|v| graph.nodes[*v].size).collect();
    let mut middles = vec![pt(0.0, 0.0); order.len()];
    for (v, middle) in order.iter().zip(pack::in_columns(&sizes, gap, columns)) {
        middles[*v] = middle;
    }
    middles
}

/// Who stands in which cell: from the source order on, two change places as long as that makes lines shorter.
fn nearest(graph: &Graph, edges: &[(usize, usize)], columns: usize) -> Vec<usize> {
    let count = graph.nodes.len();
    let mean = |of: fn(Size) -> f64| graph.nodes.iter().map(|n| of(n.size)).sum::<f64>() / count.max(1) as f64;
    let cell = Size::new(mean(|s| s.w), mean(|s| s.h));
    let near = crate::layout::neighbourhood::neighbours(count, edges);
    let mut order: Vec<usize> = (0..count).collect();
    let mut cells = order.clone();
    let across = |a: usize, b: usize| (a % columns).abs_diff(b % columns) as f64 * cell.w;
    let down = |a: usize, b: usize| (a / columns).abs_diff(b / columns) as f64 * cell.h;
    let far = |a: usize, b: usize| across(a, b) + down(a, b);
    for _ in 0..ROUNDS {
        let mut is_better = false;
        for a in 0..count {
            for b in a + 1..count {
                let of = |v: usize, cells: &[usize]| near[v].iter().map(|w| far(cells[v], cells[*w])).sum::<f64>();
                let length = |cells: &[usize]| of(a, cells) + of(b, cells);
                let before = length(&cells);
                cells.swap(a, b);
                if length(&cells) < before - 0.5 {
                    order.swap(cells[a], cells[b]);
                    is_better = true;
                } else {
                    cells.swap(a, b);
                }
            }
        }
        if !is_better {
            break;
        }
    }
    order
}

/// Lines and room, weighed as in the score of pictures, but for the shape: whatever is not like a page costs.
fn cost(graph: &Graph, edges: &[(usize, usize)], middles: &[Point]) -> f64 {
    let rects = graph.nodes.iter().zip(middles).map(|(node, m)| Rect::around(*m, node.size));
    let whole = rects.reduce(Rect::union).unwrap_or_default();
    let far =
        |(a, b): &(usize, usize)| libm::fabs(middles[*a].x - middles[*b].x) + libm::fabs(middles[*a].y - middles[*b].y);
    let length: f64 = edges.iter().map(far).sum();
    (length / 150.0 + whole.w * whole.h / 40_000.0) * pack::unlike_a_page(whole.size())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::score::measure;
    use crate::layout::{Anchor, Edge, Node};

    fn graph(count: usize, edges: &[(usize, usize)]) -> Graph {
        let node = |v: usize| Node { size: Size::new(300.0 + 10.0 * v as f64, 240.0), ..Node::default() };
        let edges = edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect();
        Graph { nodes: (0..count).map(node).collect(), edges, ..Graph::default() }
    }

    #[test]
    fn what_is_joined_stands_next_to_each_other() {
        // A ring, numbered so that neighbours are far apart in the source.
        let ring: Vec<(usize, usize)> = (0..9).map(|v| (v * 4 % 9, (v + 1) * 4 % 9)).collect();
        let graph = graph(9, &ring);
        let placement = place(&graph);
        let measures = measure(&graph, &placement);
        assert_eq!(measures.faults, []);
        let middle = |v: usize| placement.nodes[v].middle();
        let steps = |(a, b): &(usize, usize)| {
            let (a, b) = (middle(*a), middle(*b));
            (libm::fabs(a.x - b.x) / 400.0 + libm::fabs(a.y - b.y) / 300.0).round()
        };
        let all: f64 = ring.iter().map(steps).sum();
        assert!(all <= 12.0, "ten is the least in nine cells, and the source order has more than twenty: {all}");
        assert!(measures.aspect() > 0.8 && measures.aspect() < 2.4, "{}", measures.aspect());
    }

    #[test]
    fn nothing_and_one_are_placed() {
        assert_eq!(place(&graph(0, &[])).nodes, []);
        let one = place(&graph(1, &[(0, 0)]));
        assert_eq!((one.nodes.len(), one.routes[0].points.len()), (1, 4));
    }
}
