//! How much of the layout is tried for a graph: what takes long is left out where there is much.

use crate::layout::graph::{Graph, Routing, Share};

/// Up to this many lines, everything is tried for a graph with groups.
// Each candidate is a whole layout.
pub(super) const NESTED_EDGES: usize = 600;
/// More curved lines than this get one placement.
// Each is measured as a dozen stretches against those of all others: 9,000 between 200 nodes took 11 s.
const CURVED_EDGES: usize = 3_000;

/// Groups deeper in each other than this get one placement.
// Nobody reads twenty frames around a box, and each takes the time of all that lies in it: 190 elements in 60 of them took as long as
// 500 side by side, and a stack of 90 such pictures 45 s.
const DEPTH: usize = 20;

/// How much is tried, by the number of nodes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Effort {
    /// One placement, plain channels.
    Plain,
    /// Fewer sweeps, no candidates.
    Some,
    /// Every step, no candidates.
    Brisk,
    /// Everything.
    Full,
}

impl Effort {
    /// The effort for a graph.
    pub(super) fn for_graph(graph: &Graph) -> Self {
        let is_nested = !graph.groups.is_empty();
        match Self::of(graph.nodes.len().max(graph.groups.len())).min(Self::of_lines(graph.edges.len())) {
            _ if graph.share == Share::Part || depth(graph) > DEPTH => Effort::Plain,
            _ if graph.routing == Routing::Curved && graph.edges.len() > CURVED_EDGES => Effort::Plain,
            Effort::Full if is_nested && graph.edges.len() > NESTED_EDGES => Effort::Some,
            Effort::Full if graph.share != Share::Own => Effort::Brisk,
            other => other,
        }
    }

    /// The effort for this many lines, which cross each other more the more there are.
    // Measured on graphs in which everything is joined with everything: with every step, 60 nodes and their 1,770 lines take 20 s, and
    // 80 nodes more than 100 s; with fewer, 3 s.
    fn of_lines(lines: usize) -> Self {
        match lines {
            0..=1000 => Effort::Full,
            1001..=9000 => Effort::Some,
            _ => Effort::Plain,
        }
    }

    /// The effort for this many nodes.
    pub fn of(nodes: usize) -> Self {
        match nodes {
            0..=300 => Effort::Full,
            301..=3000 => Effort::Some,
            _ => Effort::Plain,
        }
    }
}

/// How many groups lie in each other at most.
fn depth(graph: &Graph) -> usize {
    // Parents come before what they hold.
    let mut depths: Vec<usize> = Vec::with_capacity(graph.groups.len());
    for group in &graph.groups {
        depths.push(1 + group.parent.map_or(0, |parent| depths[parent]));
    }
    depths.into_iter().max().unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::graph::{Anchor, Edge, Group, Node};

    #[test]
    fn many_lines_take_fewer_steps_as_many_nodes_do() {
        let joined = |nodes: usize, lines: usize| {
            let edge = |i: usize| Edge::new(Anchor::Node(i % nodes), Anchor::Node((i + 1 + i / nodes) % nodes));
            let edges = (0..lines).map(edge).collect();
            Graph { nodes: vec![Node::default(); nodes], edges, ..Graph::default() }
        };
        let cases =
            [(40, 60, Effort::Full), (60, 1_770, Effort::Some), (301, 10, Effort::Some), (200, 20_000, Effort::Plain)];
        let deep = |groups: usize| {
            let group = |g: usize| Group { parent: g.checked_sub(1), ..Group::default() };
            Graph { groups: (0..groups).map(group).collect(), ..joined(2, 1) }
        };
        assert_eq!([20, 21].map(|groups| Effort::for_graph(&deep(groups))), [Effort::Full, Effort::Plain]);
        for (nodes, lines, effort) in cases {
            assert_eq!(Effort::for_graph(&joined(nodes, lines)), effort, "{nodes} nodes, {lines} lines");
        }
    }
}
