//! Two things of a block trade their cells, if that makes the lines of the whole picture better: shorter, straighter, with
//! fewer crossings. Here all lines are known with both their ends, where cells alone know only what lies in one block.
//!
//! Input: where everything stands, and the edges. Output: which trades pay.

use crate::geom::{Point, Rect};
use crate::layout::graph::{Anchor, Graph, RankDirection};
use crate::layout::intersections::{crosses, hits};

/// What a crossing costs, in px of length.
const CROSSING: f64 = 250.0;
/// What a line costs that steps aside.
const STEP: f64 = 80.0;
/// What a box costs that stands on the way of a line that would be straight.
const MET: f64 = 100.0;
/// What a line costs that runs against the heading; and where that was asked for.
// Less than a step aside: a heading is a preference for flow, and a straight line up reads better than a bent one down.
const AGAINST: f64 = 40.0;
const AGAINST_ASKED: f64 = 240.0;
/// A line that can leave a side this far from its corner is straight.
const CORNER: f64 = 12.0;

/// The picture as boxes and the lines between their middles.
pub(super) struct Lines<'g> {
    graph: &'g Graph,
    pub(super) nodes: Vec<Rect>,
    pub(super) groups: Vec<Rect>,
    /// Edges at each node, and at each group.
    at_node: Vec<Vec<usize>>,
    at_group: Vec<Vec<usize>>,
    /// From middle to middle.
    stretches: Vec<(Point, Point)>,
}

impl<'g> Lines<'g> {
    pub(super) fn new(graph: &'g Graph, nodes: &[Rect], groups: &[Rect]) -> Self {
        let mut lines = Self {
            graph,
            nodes: nodes.to_vec(),
            groups: groups.to_vec(),
            at_node: vec![Vec::new(); nodes.len()],
            at_group: vec![Vec::new(); groups.len()],
            stretches: Vec::new(),
        };
        lines.stretches = (0..graph.edges.len()).map(|e| lines.stretch(e)).collect();
        for (e, edge) in graph.edges.iter().enumerate().filter(|(_, edge)| edge.from != edge.to) {
            for end in [edge.from, edge.to] {
                match end {
                    Anchor::Node(v) => lines.at_node[v].push(e),
                    Anchor::Group(g) => lines.at_group[g].push(e),
                }
            }
        }
        lines
    }

    fn rect(&self, end: Anchor) -> Rect {
        match end {
            Anchor::Node(v) => self.nodes[v],
            Anchor::Group(g) => self.groups[g],
        }
    }

    fn stretch(&self, e: usize) -> (Point, Point) {
        let edge = &self.graph.edges[e];
        (self.rect(edge.from).middle(), self.rect(edge.to).middle())
    }

    /// Takes note of where these edges are now.
    pub(super) fn renew(&mut self, edges: &[usize]) {
        for e in edges {
            self.stretches[*e] = self.stretch(*e);
        }
    }

    /// The edges that end at any of these things, each once.
    pub(super) fn of(&self, nodes: &[usize], groups: &[usize]) -> Vec<usize> {
        let own = nodes.iter().flat_map(|v| &self.at_node[*v]).chain(groups.iter().flat_map(|g| &self.at_group[*g]));
        let mut all: Vec<usize> = own.copied().collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// What these edges cost, with their crossings with all others.
    pub(super) fn cost(&self, edges: &[usize]) -> f64 {
        let mut is_own = vec![false; self.graph.edges.len()];
        edges.iter().for_each(|e| is_own[*e] = true);
        let own: f64 = edges.iter().map(|e| self.cost_of(*e)).sum();
        let mut count = 0;
        for e in edges {
            let (p, q) = self.stretches[*e];
            let (left, right, top, bottom) = (p.x.min(q.x), p.x.max(q.x), p.y.min(q.y), p.y.max(q.y));
            let first = &self.graph.edges[*e];
            for (f, (r, s)) in self.stretches.iter().enumerate() {
                // Most lie elsewhere.
                if r.x.min(s.x) > right || r.x.max(s.x) < left || r.y.min(s.y) > bottom || r.y.max(s.y) < top {
                    continue;
                }
                if (is_own[f] && f >= *e) || !crosses(p, q, *r, *s) {
                    continue;
                }
                let second = &self.graph.edges[f];
                let is_joined = [first.from, first.to].iter().any(|end| *end == second.from || *end == second.to);
                count += usize::from(!is_joined);
            }
        }
        own + CROSSING * count as f64
    }

    /// What one line costs in itself.
    fn cost_of(&self, e: usize) -> f64 {
        let edge = &self.graph.edges[e];
        let (a, b) = (self.rect(edge.from), self.rect(edge.to));
        let (p, q) = (a.middle(), b.middle());
        let length = (p.x - q.x).abs() + (p.y - q.y).abs();
        let overlap = |(a, b): (f64, f64), (c, d): (f64, f64)| b.min(d) - a.max(c) > 2.0 * CORNER;
        let is_level = overlap((a.y, a.bottom()), (b.y, b.bottom())) || overlap((a.x, a.right()), (b.x, b.right()));
        let foreign = |v: usize| edge.from != Anchor::Node(v) && edge.to != Anchor::Node(v);
        let in_the_way = if is_level {
            // Whatever stands between two that are level takes the straight line away.
            self.nodes.iter().enumerate().filter(|(v, r)| foreign(*v) && hits(p, q, **r)).count()
        } else {
            0
        };
        let against = if is_against(self.graph.direction, p, q) { against(self.graph) } else { 0.0 };
        length + against + if is_level && in_the_way == 0 { 0.0 } else { STEP } + MET * in_the_way.min(2) as f64
    }
}

/// What a line of a graph costs that runs against its heading.
pub(super) fn against(graph: &Graph) -> f64 {
    if graph.is_heading_asked { AGAINST_ASKED } else { AGAINST }
}

/// Whether a line from one place to another runs against a heading.
fn is_against(heading: RankDirection, from: Point, to: Point) -> bool {
    match heading {
        RankDirection::Down => to.y < from.y - CORNER,
        RankDirection::Up => to.y > from.y + CORNER,
        RankDirection::Right => to.x < from.x - CORNER,
        RankDirection::Left => to.x > from.x + CORNER,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::graph::{Edge, Node};

    fn lines<'g>(graph: &'g Graph, middles: &[(f64, f64)]) -> Lines<'g> {
        let rect = |(x, y): &(f64, f64)| Rect::new(x - 40.0, y - 20.0, 80.0, 40.0);
        Lines::new(graph, &middles.iter().map(rect).collect::<Vec<Rect>>(), &[])
    }

    fn graph(count: usize, edges: &[(usize, usize)]) -> Graph {
        let edge = |(a, b): &(usize, usize)| Edge::new(Anchor::Node(*a), Anchor::Node(*b));
        Graph { nodes: vec![Node::default(); count], edges: edges.iter().map(edge).collect(), ..Graph::default() }
    }

    #[test]
    fn crossings_turns_and_boxes_in_the_way_cost() {
        let graph = graph(4, &[(0, 3), (1, 2)]);
        let square = [(0.0, 0.0), (200.0, 0.0), (0.0, 200.0), (200.0, 200.0)];
        let crossed = lines(&graph, &square).cost(&[0, 1]);
        let parallel = lines(&graph, &[square[0], square[1], square[3], square[2]]).cost(&[0, 1]);
        assert!(crossed > parallel + CROSSING, "{crossed} {parallel}");
        let row = [(0.0, 0.0), (200.0, 0.0), (400.0, 0.0)];
        let passing = lines(&graph_of_one(), &row).cost(&[0]);
        assert_eq!(passing, 400.0 + STEP + MET, "around the box between them");
    }

    fn graph_of_one() -> Graph {
        graph(3, &[(0, 2)])
    }

    #[test]
    fn a_heading_that_was_asked_for_weighs_more() {
        let mut graph = graph(2, &[(0, 1)]);
        let up = [(0.0, 200.0), (0.0, 0.0)];
        let preferred = lines(&graph, &up).cost(&[0]);
        assert_eq!(preferred, 200.0 + AGAINST);
        graph.is_heading_asked = true;
        assert_eq!(lines(&graph, &up).cost(&[0]), 200.0 + AGAINST_ASKED);
        assert_eq!(lines(&graph, &[up[1], up[0]]).cost(&[0]), 200.0, "down as asked");
    }

    #[test]
    fn what_moves_takes_its_lines_along() {
        let graph = graph(3, &[(0, 1), (1, 2)]);
        let mut lines = lines(&graph, &[(0.0, 0.0), (0.0, 100.0), (0.0, 200.0)]);
        assert_eq!(lines.of(&[1], &[]), [0, 1]);
        assert_eq!(lines.of(&[0], &[]), [0]);
        let before = lines.cost(&[0, 1]);
        lines.nodes[1] = lines.nodes[1].moved(150.0, 0.0);
        lines.renew(&[0, 1]);
        assert!(lines.cost(&[0, 1]) > before);
    }
}
