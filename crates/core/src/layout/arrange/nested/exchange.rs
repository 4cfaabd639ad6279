//! Two things of a block trade their cells, if that makes the lines of the whole picture better: shorter, straighter, with
//! fewer crossings. Here all lines are known with both their ends, where cells alone know only what lies in one block.
//!
//! Input: where everything stands, and the edges. Output: which trades pay.

use super::blocks::{Nested, SMALL};
use super::cells::against;
use super::crossings::Crossings;
use super::extents::{Extent, Extents};
use crate::geom::{Point, Rect, pt};
use crate::layout::arrange::boxes::Item;
use crate::layout::graph::{Anchor, Edge, Graph};
use crate::layout::intersections::hits;

/// What a crossing costs, in px of length.
// Twice that between cells: here both ends of all lines are known.
const CROSSING: f64 = 250.0;
/// What a line costs that steps aside.
const STEP: f64 = 80.0;
/// What a box costs that stands on the way of a line that would be straight.
const MET: f64 = 100.0;
/// How often everything may trade its cell, and blocks of more cells in which nothing does.
// What was traded makes other trades pay; it ends as soon as none does.
const TRADES: usize = 4;
const FEW_TRADES: usize = 2;
const MOST_TRADED: usize = 64;
/// Of more lines than this, crossings are not counted.
// Each trade asks for those of all lines that it moves, with all others.
const CROSSED: usize = 600;
/// A line that can leave a side this far from its corner is straight.
// As much as lines keep from the corners of a side.
const CORNER: f64 = 12.0;

/// The picture as boxes and the lines between their middles.
pub(super) struct Lines<'g> {
    graph: &'g Graph,
    nodes: Vec<Rect>,
    groups: Vec<Rect>,
    /// Where the nodes are.
    extents: Extents,
    /// Edges at each node, and at each group.
    at_node: Vec<Vec<usize>>,
    at_group: Vec<Vec<usize>>,
    /// From middle to middle; none where there are too many.
    crossings: Crossings,
    /// What each edge cost in itself, since the last trade; `None` where that is not known.
    known: Vec<Option<f64>>,
}

impl<'g> Lines<'g> {
    pub(super) fn new(graph: &'g Graph, nodes: &[Rect], groups: &[Rect]) -> Self {
        let middle = |end: Anchor| end.of(nodes, groups).middle();
        let stretch = |edge: &Edge| ([Some(edge.from), Some(edge.to)], middle(edge.from), middle(edge.to));
        let mut lines = Self {
            graph,
            nodes: nodes.to_vec(),
            groups: groups.to_vec(),
            extents: nodes.iter().map(|rect| Extent::from(*rect)).collect(),
            at_node: vec![Vec::new(); nodes.len()],
            at_group: vec![Vec::new(); groups.len()],
            crossings: Crossings::up_to(CROSSED, graph.edges.iter().map(stretch).collect()),
            known: vec![None; graph.edges.len()],
        };
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
        end.of(&self.nodes, &self.groups)
    }

    /// Moves a node; its edges are put where it is by [`Lines::renew`].
    fn put(&mut self, v: usize, rect: Rect) {
        self.nodes[v] = rect;
        self.extents.put(v, Extent::from(rect));
    }

    /// Puts these edges where their ends are now.
    pub(super) fn renew(&mut self, edges: &[usize]) {
        for e in edges {
            let edge = &self.graph.edges[*e];
            let (from, to) = (self.rect(edge.from).middle(), self.rect(edge.to).middle());
            self.crossings.put(*e, from, to);
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
    pub(super) fn cost(&mut self, edges: &[usize]) -> f64 {
        self.cost_below(edges, f64::INFINITY).unwrap_or(f64::INFINITY)
    }

    /// The same, if it is less than a limit.
    // Most trades are far from that, and crossings are what takes time to count.
    fn cost_below(&mut self, edges: &[usize], limit: f64) -> Option<f64> {
        let own = self.cost_in_itself(edges);
        let cost = |count: usize| own + CROSSING * count as f64;
        self.crossings.count_while(edges, |count| cost(count) < limit).map(cost)
    }

    /// What these edges cost before a trade is tried.
    fn cost_before(&mut self, edges: &[usize]) -> f64 {
        let mut cost = 0.0;
        for e in edges {
            let known = self.known[*e].unwrap_or_else(|| self.cost_of(*e));
            self.known[*e] = Some(known);
            cost += known;
        }
        cost + CROSSING * self.crossings.known(edges) as f64
    }

    /// Takes note of a trade that moved these edges.
    fn note(&mut self, edges: &[usize]) {
        self.crossings.note(edges);
        // What moved stands in the way of others now.
        self.known.fill(None);
    }

    /// What these edges cost without their crossings.
    fn cost_in_itself(&self, edges: &[usize]) -> f64 {
        edges.iter().map(|e| self.cost_of(*e)).sum()
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
            let near = self.extents.meeting(Extent::of(p, q));
            near.filter(|v| foreign(*v) && hits(p, q, self.nodes[*v])).take(2).count()
        } else {
            0
        };
        let is_against = self.graph.direction.advance(p, q) < -CORNER;
        let against = if is_against { against(self.graph) } else { 0.0 };
        length + against + if is_level && in_the_way == 0 { 0.0 } else { STEP } + MET * in_the_way as f64
    }
}

impl Nested<'_> {
    /// Lets things of a block trade their cells while that makes the lines of the whole picture better.
    pub(super) fn exchange(&mut self) {
        let whole = self.graph.groups.len();
        let members = self.members();
        let rounds = if self.graph.nodes.len() > SMALL { FEW_TRADES } else { TRADES };
        for _ in 0..rounds {
            let mut lines = Lines::new(self.graph, &self.nodes, &self.groups);
            let mut is_better = false;
            for block in std::iter::once(whole).chain(0..whole) {
                is_better |= self.exchange_in(block, &members, &mut lines);
            }
            self.measure_all();
            self.settle();
            if !is_better {
                break;
            }
        }
    }

    /// The nodes and groups in each group, at any depth; a group is one of its own.
    fn members(&self) -> Vec<(Vec<usize>, Vec<usize>)> {
        let mut members = vec![(Vec::new(), Vec::new()); self.graph.groups.len()];
        for v in 0..self.graph.nodes.len() {
            self.graph.groups_around(Anchor::Node(v)).for_each(|g| members[g].0.push(v));
        }
        for h in 0..self.graph.groups.len() {
            self.graph.groups_around(Anchor::Group(h)).for_each(|g| members[g].1.push(h));
        }
        members
    }

    /// The same for one block; says whether anything was traded.
    fn exchange_in(&mut self, block: usize, members: &[(Vec<usize>, Vec<usize>)], lines: &mut Lines) -> bool {
        let Some(mut cells) = self.blocks[block].cells.clone() else { return false };
        let (columns, rows) = (cells.columns, cells.rows());
        let count = columns * rows;
        if count > MOST_TRADED {
            return false;
        }
        let middle = |placed: &[Vec<(f64, f64)>; 2], cell: usize| {
            let ((x, w), (y, h)) = (placed[0][cell % columns], placed[1][cell / columns]);
            pt(x + w / 2.0, y + h / 2.0)
        };
        let mut is_better = false;
        for a in 0..count {
            for b in a + 1..count {
                let own = &self.blocks[block];
                let item_in = |cell: usize| cells.at.iter().position(|at| at.0 + at.1 * columns == cell);
                let both = [item_in(a), item_in(b)];
                if both == [None, None] {
                    continue;
                }
                let (from, to) = (middle(&own.placed, a), middle(&own.placed, b));
                let moves = [pt(to.x - from.x, to.y - from.y), pt(from.x - to.x, from.y - to.y)];
                let items = both.map(|i| i.map(|i| own.held[i]));
                let parts = items.map(|item| match item {
                    Some(Item::Node(v)) => (vec![v], Vec::new()),
                    Some(Item::Group(g)) => members[g].clone(),
                    None => (Vec::new(), Vec::new()),
                });
                let (nodes, groups) = (
                    [parts[0].0.as_slice(), parts[1].0.as_slice()].concat(),
                    [parts[0].1.as_slice(), parts[1].1.as_slice()].concat(),
                );
                let edges = lines.of(&nodes, &groups);
                let before = lines.cost_before(&edges);
                shift(lines, &parts, moves, &edges);
                if lines.cost_below(&edges, before - 1.0).is_some() {
                    lines.note(&edges);
                    let place = |cell: usize| (cell % columns, cell / columns);
                    both[0].iter().for_each(|i| cells.at[*i] = place(b));
                    both[1].iter().for_each(|i| cells.at[*i] = place(a));
                    is_better = true;
                } else {
                    shift(lines, &parts, moves.map(|by| pt(-by.x, -by.y)), &edges);
                }
            }
        }
        self.blocks[block].cells = Some(cells);
        is_better
    }
}

/// Moves two parts of a picture, and these edges with them.
fn shift(lines: &mut Lines, parts: &[(Vec<usize>, Vec<usize>); 2], moves: [Point; 2], edges: &[usize]) {
    for ((nodes, groups), by) in parts.iter().zip(moves) {
        nodes.iter().for_each(|v| lines.put(*v, lines.nodes[*v].moved(by.x, by.y)));
        groups.iter().for_each(|g| lines.groups[*g] = lines.groups[*g].moved(by.x, by.y));
    }
    lines.renew(edges);
}

#[cfg(test)]
mod tests {
    use super::super::cells::{AGAINST, AGAINST_ASKED};
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
        lines.put(1, lines.nodes[1].moved(150.0, 0.0));
        lines.renew(&[0, 1]);
        assert!(lines.cost(&[0, 1]) > before);
    }
}
