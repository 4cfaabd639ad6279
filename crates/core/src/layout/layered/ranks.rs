//! A layer for every node: network simplex (Gansner and others, 1993) over weighted minimum lengths,
//! with the borders of groups as nodes of their own (the nesting graph of Sander, "Layout of compound
//! directed graphs", 1996), so that a group occupies contiguous layers.

use super::super::graph::{Anchor, Graph};
use super::super::simplex::{Constraint, solve};

/// Layers of nodes and groups.
pub(super) struct Ranks {
    /// The layer of each node.
    pub(super) node: Vec<usize>,
    /// The first and the last layer of each group; the first one holds its title.
    pub(super) group: Vec<(usize, usize)>,
    /// How many layers there are.
    pub(super) count: usize,
}

/// Up to this many constraints the simplex runs to its optimum.
const FULL_EFFORT: usize = 6_000;

/// Assigns layers.
pub(super) fn assign(graph: &Graph, reversed: &[bool]) -> Ranks {
    let n = graph.nodes.len();
    let lanes = graph.groups.iter().any(|g| g.lane);
    // Variables: nodes, then top and bottom of each group, then top and bottom of all lanes.
    let top = |g: usize| if graph.groups[g].lane { n + 2 * graph.groups.len() } else { n + 2 * g };
    let bottom = |g: usize| top(g) + 1;
    let count = n + 2 * graph.groups.len() + 2 * usize::from(lanes);
    let own = |v: usize| graph.nodes[v].beside.unwrap_or(v);
    let mut list: Vec<Constraint> = Vec::new();
    for (e, edge) in graph.edges.iter().enumerate() {
        let (upper, lower) = if reversed[e] { (edge.to, edge.from) } else { (edge.from, edge.to) };
        let tail = match upper {
            Anchor::Node(v) => own(v),
            Anchor::Group(g) => bottom(g),
        };
        let head = match lower {
            Anchor::Node(v) => own(v),
            Anchor::Group(g) => top(g),
        };
        let room = usize::from(edge.label.is_some()) + edge.end_labels.iter().flatten().count();
        list.push(Constraint { tail, head, min: 1 + room as i64, weight: edge.weight });
    }
    for (v, node) in graph.nodes.iter().enumerate() {
        if let Some(g) = node.group
            && node.beside.is_none()
        {
            list.push(Constraint { tail: top(g), head: v, min: title_rows(graph, g), weight: 0 });
            list.push(Constraint { tail: v, head: bottom(g), min: 0, weight: 0 });
        }
    }
    for (g, group) in graph.groups.iter().enumerate() {
        list.push(Constraint { tail: top(g), head: bottom(g), min: 0, weight: 1 });
        if let Some(parent) = group.parent {
            list.push(Constraint { tail: top(parent), head: top(g), min: title_rows(graph, parent), weight: 0 });
            list.push(Constraint { tail: bottom(g), head: bottom(parent), min: 0, weight: 0 });
        }
    }
    list.extend(rows_of_loners(graph));
    let budget = if list.len() <= FULL_EFFORT { usize::MAX } else { 50 };
    let at = match solve(count, &list, budget) {
        Some(at) => at,
        None => without_groups(graph, count, &list),
    };
    let rank = |v: usize| at[v].max(0) as usize;
    let node: Vec<usize> = (0..n).map(|v| rank(own(v))).collect();
    let group = (0..graph.groups.len()).map(|g| (rank(top(g)), rank(bottom(g)).max(rank(top(g))))).collect();
    compacted(Ranks { node, group, count: 0 }, graph)
}

/// Titles lie in a layer of their own unless layers lie side by side.
fn title_rows(graph: &Graph, g: usize) -> i64 {
    i64::from(graph.groups[g].title.h > 0.0 && !graph.reading.is_sideways())
}

/// Edges between a group and what lies in it can close a circle: leave out what does.
fn without_groups(graph: &Graph, count: usize, list: &[Constraint]) -> Vec<i64> {
    let kept: Vec<Constraint> = list
        .iter()
        .enumerate()
        .filter(|(i, _)| {
            graph.edges.get(*i).is_none_or(|e| matches!((e.from, e.to), (Anchor::Node(_), Anchor::Node(_))))
        })
        .map(|(_, c)| *c)
        .collect();
    solve(count, &kept, usize::MAX).unwrap_or_else(|| vec![0; count])
}

/// Nodes without edges that share a group stand in rows of a few instead of one wide row.
fn rows_of_loners(graph: &Graph) -> Vec<Constraint> {
    let mut has_edge = vec![false; graph.nodes.len()];
    for edge in &graph.edges {
        for end in [edge.from, edge.to] {
            if let Anchor::Node(v) = end {
                has_edge[v] = true;
            }
        }
    }
    let alone = |v: &usize| !has_edge[*v] && graph.nodes[*v].beside.is_none();
    let mut groups: std::collections::BTreeMap<Option<usize>, Vec<usize>> = std::collections::BTreeMap::new();
    for v in (0..graph.nodes.len()).filter(alone) {
        groups.entry(graph.nodes[v].group).or_default().push(v);
    }
    let mut list = Vec::new();
    for members in groups.values() {
        let columns = libm::ceil(libm::sqrt(members.len() as f64 * 0.8)).max(3.0) as usize;
        for (i, v) in members.iter().enumerate().skip(columns) {
            list.push(Constraint { tail: members[i - columns], head: *v, min: 1, weight: 1 });
        }
    }
    list
}

/// Numbers layers from zero; layers that hold nothing vanish.
fn compacted(mut ranks: Ranks, graph: &Graph) -> Ranks {
    let groups = ranks.group.iter().enumerate();
    let titles = groups.filter(|(g, _)| title_rows(graph, *g) > 0).map(|(_, r)| r.0);
    let low = ranks.node.iter().copied().chain(titles).min().unwrap_or(0);
    let high = ranks.node.iter().copied().chain(ranks.group.iter().map(|g| g.1)).max().unwrap_or(0);
    for rank in &mut ranks.node {
        *rank -= low;
    }
    for span in &mut ranks.group {
        *span = (span.0.max(low) - low, span.1.max(low) - low);
    }
    ranks.count = high.max(low) - low + 1;
    ranks
}
