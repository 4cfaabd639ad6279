//! What the arrangements have in common that take a group with its contents as one box: what each group holds, where
//! an end lies, wider gaps where lines find no room, and the placement in the end.

use crate::geom::Rect;
use crate::layout::graph::{Anchor, Graph};
use crate::layout::placement::Placement;
use crate::layout::score::measure;

/// Something to be arranged: a node or a group with its contents.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(in crate::layout) enum Item {
    Node(usize),
    Group(usize),
}

impl Item {
    /// The node, if it is one.
    pub(super) fn node(self) -> Option<usize> {
        if let Item::Node(v) = self { Some(v) } else { None }
    }

    /// The same as an end of lines.
    pub(in crate::layout) fn anchor(self) -> Anchor {
        match self {
            Item::Node(v) => Anchor::Node(v),
            Item::Group(g) => Anchor::Group(g),
        }
    }

    /// The group that it lies in; the number behind the last group for what lies in none.
    fn holder(self, graph: &Graph) -> usize {
        let around = match self {
            Item::Node(v) => graph.nodes[v].group,
            Item::Group(g) => graph.groups[g].parent,
        };
        around.unwrap_or(graph.groups.len())
    }
}

/// What each group holds, nodes before groups, and last what is in none.
pub(super) fn held(graph: &Graph) -> Vec<Vec<Item>> {
    let mut held = vec![Vec::new(); graph.groups.len() + 1];
    let nodes = (0..graph.nodes.len()).map(Item::Node);
    for item in nodes.chain((0..graph.groups.len()).map(Item::Group)) {
        held[item.holder(graph)].push(item);
    }
    held
}

/// An end, and the groups around it, each with what holds it, from the inside out.
pub(in crate::layout) fn around(graph: &Graph, end: Anchor) -> impl Iterator<Item = (usize, Item)> + '_ {
    let groups = graph.groups_around(end).map(Item::Group);
    end.node().map(Item::Node).into_iter().chain(groups).map(|item| (item.holder(graph), item))
}

/// The first of these placements that has no fault, or else the one with the fewest; later ones are not made.
pub(in crate::layout) fn first_without_fault(graph: &Graph, placements: impl Iterator<Item = Placement>) -> Placement {
    let mut best: Option<(usize, Placement)> = None;
    for placement in placements {
        let faults = measure(graph, &placement).faults.len();
        if best.as_ref().is_none_or(|(least, _)| faults < *least) {
            best = Some((faults, placement));
        }
        if faults == 0 {
            break;
        }
    }
    best.map(|b| b.1).unwrap_or_default()
}

/// A placement of these boxes, without lines.
pub(super) fn placement(graph: &Graph, nodes: Vec<Rect>, groups: Vec<Rect>) -> Placement {
    let titles = graph.groups.iter().zip(&groups).map(|(group, frame)| group.title_in(*frame)).collect();
    Placement { nodes, groups, titles, ..Placement::unplaced(graph) }
}

/// Where stretches of these extents begin, with gaps before, between and behind them, and where the last gap ends.
pub(super) fn positions(extents: &[f64], gaps: &[f64]) -> (Vec<(f64, f64)>, f64) {
    let mut at = 0.0;
    let mut found = Vec::with_capacity(extents.len());
    for (extent, gap) in extents.iter().zip(gaps) {
        at += gap;
        found.push((at, *extent));
        at += extent;
    }
    (found, at + gaps.last().copied().unwrap_or(0.0))
}
