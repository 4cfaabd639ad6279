//! Groups that are laid out on their own: those with a heading of their own, or, where one order of layers through the
//! whole picture leaves much of it white, all of them. What such a group holds is laid out first; around it, the group is
//! one node of that size. Lines that cross its frame are drawn last, around everything.

use crate::layout::arrange::layered::{self, Directions};
use crate::layout::arrange::rows as blocks;
use crate::layout::graph::{Anchor, Directed, Edge, Graph, Group, Node, PlacementConstraint, RankDirection};
use crate::layout::placement::Placement;
use crate::layout::refine::compaction::{Level, compact};
use crate::layout::refine::straightening::straighten;
use crate::layout::routing::labels;
use crate::layout::routing::lines;
use crate::layout::routing::obstacles as around;

/// A graph without what some groups hold, and what they hold.
struct Split {
    outer: Graph,
    /// For each node and group of the whole: its number outside, if it is there.
    node_outside: Vec<Option<usize>>,
    group_outside: Vec<Option<usize>>,
    /// Edges of the outer graph, by their numbers in the whole.
    edges: Vec<usize>,
    inner: Vec<Inner>,
}

/// What one of these groups holds.
struct Inner {
    group: usize,
    /// The node that stands for it outside.
    node: usize,
    placement: Placement,
    nodes: Vec<usize>,
    groups: Vec<usize>,
    edges: Vec<usize>,
}

/// The outermost groups that a constraint gives their own heading, in the order of groups.
fn headed(graph: &Graph) -> Vec<(usize, RankDirection)> {
    let own = |g: usize| graph.constraints.iter().rev().find_map(|c| c.heading_of(g)).map(|heading| (g, heading));
    let all = (0..graph.groups.len()).filter(|g| !graph.groups[*g].lane).filter_map(own);
    let all: Vec<(usize, RankDirection)> = all.filter(|(_, direction)| *direction != graph.direction).collect();
    let inside = |g: usize| graph.groups_around(Anchor::Group(g)).skip(1).any(|p| all.iter().any(|(h, _)| *h == p));
    all.iter().copied().filter(|(g, _)| !inside(*g)).collect()
}

/// How all groups are laid out on their own.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(in crate::layout) struct SplitOptions {
    /// How what they hold is read.
    pub(in crate::layout) direction: RankDirection,
    /// Whether groups in groups are on their own too.
    pub(in crate::layout) deep: bool,
    /// How layers are made, inside and outside.
    pub(in crate::layout) layers: layered::LayeredOptions,
    /// Whether the outermost stand in rows and columns, near those that they are joined with.
    pub(in crate::layout) blocks: bool,
}

/// Up to this many nodes groups on their own are also tried the other way, and those in them too.
// Each further way costs a whole layout.
const BOTH_WAYS: usize = 120;
const DEEP: usize = 60;
/// Fewer groups than this have nothing to gain from rows and columns.
const FEW: usize = 4;

impl SplitOptions {
    /// Whether groups may be on their own: not where the author set constraints or there are lanes.
    fn is_possible(graph: &Graph) -> bool {
        graph.constraints.is_empty()
            && !graph.groups.is_empty()
            && !graph.groups.iter().any(|g| g.lane)
            && !graph.nodes.iter().any(|n| n.border.is_some())
    }

    /// Groups in groups in rows and columns, what the innermost hold across the picture's heading and along it: what
    /// suits a graph of many lines. Nothing where a few groups hold everything.
    pub(in crate::layout) fn nested(graph: &Graph) -> Vec<SplitOptions> {
        if !Self::is_possible(graph) || graph.directed == Directed::Trunks || !has_blocks(graph) {
            return Vec::new();
        }
        let along = SplitOptions { direction: graph.direction, deep: true, blocks: true, ..SplitOptions::default() };
        vec![SplitOptions { direction: across(graph), ..along }, along]
    }

    /// What is worth trying for a graph.
    pub(in crate::layout) fn candidates(graph: &Graph) -> Vec<SplitOptions> {
        if !Self::is_possible(graph) {
            return Vec::new();
        }
        let across = across(graph);
        // Families read one way only, and what is between them leads outward.
        let (other, layers) = match graph.directed {
            Directed::All | Directed::InTime => (across, layered::LayeredOptions::default()),
            Directed::Trunks => (graph.direction, layered::LayeredOptions::outward(Directions::FromMiddle)),
        };
        let own = SplitOptions { direction: graph.direction, ..SplitOptions::default() };
        let mut list = vec![own];
        if graph.nodes.len() <= BOTH_WAYS {
            list.push(SplitOptions { direction: other, ..own });
        }
        if graph.nodes.len() <= DEEP {
            list.push(SplitOptions { direction: other, deep: true, ..own });
        }
        if layers != own.layers {
            list.push(SplitOptions { layers, ..own });
        }
        if has_blocks(graph) {
            list.push(SplitOptions { layers, blocks: true, ..own });
        }
        list.dedup();
        list
    }
}

/// The reading across that of a graph.
fn across(graph: &Graph) -> RankDirection {
    if graph.direction.is_sideways() { RankDirection::Down } else { RankDirection::Right }
}

/// Whether the outermost groups are worth rows and columns: some, and not too many boxes with what is in none.
fn has_blocks(graph: &Graph) -> bool {
    let outermost = graph.groups.iter().filter(|g| g.parent.is_none()).count();
    let boxes = outermost + graph.nodes.iter().filter(|n| n.group.is_none()).count();
    outermost >= FEW && boxes <= blocks::MOST
}

/// Places a graph with its groups on their own, with `place` for what has no groups apart. Lanes stay as they are.
pub(in crate::layout) fn place_all(
    graph: &Graph, options: SplitOptions, place: &dyn Fn(&Graph) -> Placement,
) -> Placement {
    let mut placement = all_apart(graph, options, place);
    compact(graph, &mut placement, Level::Rows);
    straighten(graph, &mut placement);
    labels::repair(graph, &mut placement);
    placement.fit();
    placement
}

fn all_apart(graph: &Graph, options: SplitOptions, place: &dyn Fn(&Graph) -> Placement) -> Placement {
    let outermost = (0..graph.groups.len()).filter(|g| graph.groups[*g].parent.is_none() && !graph.groups[*g].lane);
    let outermost: Vec<(usize, RankDirection)> = outermost.map(|g| (g, options.direction)).collect();
    let place_inner = |inside: &Graph| {
        if options.deep && !inside.groups.is_empty() { all_apart(inside, options, place) } else { place(inside) }
    };
    let is_block = |outer: &Graph| options.blocks && outer.nodes.len() <= blocks::MOST;
    let outside = |outer: &Graph| if is_block(outer) { blocks::place(outer) } else { place(outer) };
    laid_apart(graph, &outermost, &place_inner, &outside)
}

/// Places a graph in which groups have their own headings, with `place` for what is left; `None` if there are none.
pub(in crate::layout) fn place_headed(graph: &Graph, place: &dyn Fn(&Graph) -> Placement) -> Option<Placement> {
    let headed = headed(graph);
    if headed.is_empty() {
        return None;
    }
    Some(laid_apart(graph, &headed, place, place))
}

/// Lays these groups out on their own, `inside` each and then `outside` around them.
fn laid_apart(
    graph: &Graph, groups: &[(usize, RankDirection)], inside: &dyn Fn(&Graph) -> Placement,
    outside: &dyn Fn(&Graph) -> Placement,
) -> Placement {
    let split = split(graph, groups, inside);
    let around = outside(&split.outer);
    joined(graph, &split, &around)
}

fn split(graph: &Graph, apart: &[(usize, RankDirection)], place: &dyn Fn(&Graph) -> Placement) -> Split {
    // For each thing, the group on its own that it lies in.
    let holder = |a: Anchor| graph.groups_around(a).find(|g| apart.iter().any(|(h, _)| h == g));
    let mut outer = graph.emptied();
    let mut group_outside = vec![None; graph.groups.len()];
    let mut node_outside = vec![None; graph.nodes.len()];
    for (g, group) in graph.groups.iter().enumerate() {
        if holder(Anchor::Group(g)).is_none() {
            group_outside[g] = Some(outer.groups.len());
            outer.groups.push(Group { parent: group.parent.and_then(|p| group_outside[p]), ..group.clone() });
        }
    }
    for (v, node) in graph.nodes.iter().enumerate() {
        if holder(Anchor::Node(v)).is_none() {
            node_outside[v] = Some(outer.nodes.len());
            outer.nodes.push(Node { group: node.group.and_then(|g| group_outside[g]), ..node.clone() });
        }
    }
    for node in &mut outer.nodes {
        node.beside = node.beside.and_then(|host| node_outside[host]);
    }
    let mut inner = Vec::new();
    for (g, direction) in apart {
        let mut part = Inner {
            group: *g,
            node: outer.nodes.len(),
            placement: Placement::default(),
            nodes: (0..graph.nodes.len()).filter(|v| holder(Anchor::Node(*v)) == Some(*g)).collect(),
            groups: (0..graph.groups.len()).filter(|h| h != g && holder(Anchor::Group(*h)) == Some(*g)).collect(),
            edges: Vec::new(),
        };
        let group = &graph.groups[*g];
        let (inside, edges) = contents(graph, *g, &part, *direction);
        part.edges = edges;
        part.placement = place(&inside);
        let size = group.around(part.placement.size);
        outer.nodes.push(Node { size, group: group.parent.and_then(|p| group_outside[p]), ..Node::default() });
        inner.push(part);
    }
    let itself = |a: Anchor| a.renumbered(|v| node_outside[v], |g| group_outside[g]);
    let held = |g: usize| inner.iter().find(|i| i.group == g).map(|i| Anchor::Node(i.node));
    let outside = |a: Anchor| holder(a).map_or_else(|| itself(a), held);
    let mut edges = Vec::new();
    for (e, edge) in graph.edges.iter().enumerate() {
        let (Some(from), Some(to)) = (outside(edge.from), outside(edge.to)) else { continue };
        if !inner.iter().any(|i| i.edges.contains(&e)) {
            outer.edges.push(Edge { from, to, ..edge.clone() });
            edges.push(e);
        }
    }
    let single =
        |w: &&PlacementConstraint| !matches!(w, PlacementConstraint::Pin(..) | PlacementConstraint::Heading(..));
    outer.constraints = graph.constraints.iter().filter(single).filter_map(|w| w.renumbered(outside)).collect();
    Split { outer, node_outside, group_outside, edges, inner }
}

/// What a group holds, as a graph of its own, and which edges that takes.
fn contents(graph: &Graph, g: usize, part: &Inner, direction: RankDirection) -> (Graph, Vec<usize>) {
    let node = |v: usize| part.nodes.iter().position(|n| *n == v);
    let group = |h: usize| part.groups.iter().position(|n| *n == h);
    let own = |a: Anchor| a.renumbered(node, group);
    let mut inside = Graph { direction, ..graph.emptied() };
    for v in &part.nodes {
        let n = &graph.nodes[*v];
        let beside = n.beside.and_then(node);
        inside.nodes.push(Node { group: n.group.and_then(group), beside, ..n.clone() });
    }
    for h in &part.groups {
        let parent = graph.groups[*h].parent.filter(|p| *p != g).and_then(group);
        inside.groups.push(Group { parent, ..graph.groups[*h].clone() });
    }
    let mut edges = Vec::new();
    for (e, edge) in graph.edges.iter().enumerate() {
        if let (Some(from), Some(to)) = (own(edge.from), own(edge.to)) {
            inside.edges.push(Edge { from, to, ..edge.clone() });
            edges.push(e);
        }
    }
    (inside, edges)
}

fn joined(graph: &Graph, split: &Split, outside: &Placement) -> Placement {
    let mut out = Placement::unplaced(graph);
    for (v, own) in split.node_outside.iter().enumerate() {
        own.iter().for_each(|n| out.nodes[v] = outside.nodes[*n]);
    }
    for (g, own) in split.group_outside.iter().enumerate() {
        own.iter().for_each(|n| (out.groups[g], out.titles[g]) = (outside.groups[*n], outside.titles[*n]));
    }
    for part in &split.inner {
        let group = &graph.groups[part.group];
        let rect = outside.nodes[part.node];
        out.groups[part.group] = rect;
        out.titles[part.group] = group.title_in(rect);
        let mut inner = part.placement.clone();
        let free = rect.w - 2.0 * group.inset - inner.size.w;
        inner.shift(libm::round(rect.x + group.inset + free / 2.0), rect.y + group.above());
        out.take(inner, &part.nodes, &part.groups, &part.edges);
    }
    // Lines that end inside a frame are drawn from scratch; the others stay as they are.
    let mut crossing = Vec::new();
    for (own, e) in split.edges.iter().enumerate() {
        let (edge, now) = (&graph.edges[*e], &split.outer.edges[own]);
        if split.hides(edge.from, now.from) || split.hides(edge.to, now.to) {
            crossing.push(*e);
        } else {
            out.routes[*e] = outside.routes[own].clone();
        }
    }
    around::route(graph, &mut out, &crossing);
    lines::join(graph, &mut out);
    out.fit();
    out
}

impl Split {
    /// Whether a node outside stands for a whole group in which an end lies; the group's own frame is no such end.
    fn hides(&self, end: Anchor, outside: Anchor) -> bool {
        let Anchor::Node(node) = outside else { return false };
        self.inner.iter().any(|i| i.node == node && end != Anchor::Group(i.group))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Size;
    use crate::layout::score::measure;

    /// Two zones of three with a zone in the second, and lines within and across.
    fn zones() -> Graph {
        let group = |parent| Group { parent, title: Size::new(60.0, 20.0), inset: 20.0, lane: false, region: false };
        let node = |group| Node { size: Size::new(80.0, 40.0), group, ..Node::default() };
        let held = [Some(0), Some(0), Some(0), Some(1), Some(2), Some(2), None];
        let lines = [(0, 1), (1, 2), (2, 3), (3, 4), (4, 5), (0, 4), (6, 5), (6, 0)];
        Graph {
            groups: vec![group(None), group(None), group(Some(1))],
            nodes: held.map(node).to_vec(),
            edges: lines.map(|(a, b)| Edge::new(Anchor::Node(a), Anchor::Node(b))).to_vec(),
            ..Graph::default()
        }
    }

    fn plain(graph: &Graph) -> Placement {
        layered::place(graph, layered::LayeredOptions::default())
    }

    #[test]
    fn groups_on_their_own_hold_their_members_and_all_lines_are_drawn() {
        let graph = zones();
        for direction in [RankDirection::Down, RankDirection::Right] {
            for deep in [false, true] {
                let placement = place_all(&graph, SplitOptions { direction, deep, ..SplitOptions::default() }, &plain);
                let measures = measure(&graph, &placement);
                assert_eq!(measures.faults, [], "{direction:?} {deep}");
                assert!(placement.routes.iter().all(|r| r.points.len() > 1));
                let inner = placement.groups[2];
                assert_eq!(placement.groups[1].union(inner), placement.groups[1]);
            }
        }
    }

    #[test]
    fn what_they_hold_reads_the_way_that_was_wished() {
        let graph = zones();
        let across =
            place_all(&graph, SplitOptions { direction: RankDirection::Right, ..SplitOptions::default() }, &plain);
        assert!(across.nodes[0].right() < across.nodes[1].x && across.nodes[1].right() < across.nodes[2].x);
        let down =
            place_all(&graph, SplitOptions { direction: RankDirection::Down, ..SplitOptions::default() }, &plain);
        assert!(down.nodes[0].bottom() < down.nodes[1].y && down.nodes[1].bottom() < down.nodes[2].y);
    }

    #[test]
    fn nothing_is_tried_with_lanes_or_constraints_and_less_for_large_pictures() {
        let mut graph = zones();
        assert_eq!(SplitOptions::candidates(&graph).len(), 3);
        graph.nodes.extend(vec![Node::default(); 80]);
        assert_eq!(SplitOptions::candidates(&graph).len(), 2);
        graph.nodes.extend(vec![Node::default(); 80]);
        assert_eq!(
            SplitOptions::candidates(&graph),
            [SplitOptions { direction: RankDirection::Down, ..SplitOptions::default() }]
        );
        graph.constraints.push(PlacementConstraint::Row(vec![Anchor::Node(0), Anchor::Node(1)]));
        assert_eq!(SplitOptions::candidates(&graph), []);
        graph.constraints.clear();
        graph.groups[0].lane = true;
        assert_eq!(SplitOptions::candidates(&graph), []);
    }

    #[test]
    fn families_keep_their_reading_and_few_boxes_are_tried_in_rows_and_columns() {
        let mut graph = zones();
        graph.directed = Directed::Trunks;
        let list = SplitOptions::candidates(&graph);
        assert!(
            list.iter().all(|m| m.direction == RankDirection::Down && !m.blocks),
            "two zones are too few: {list:?}"
        );
        let outward = layered::LayeredOptions::outward(Directions::FromMiddle);
        assert_eq!(list.iter().filter(|m| m.layers == outward).count(), 1);
        graph.groups.extend((0..3).map(|_| Group::default()));
        let blocks =
            |graph: &Graph| SplitOptions::candidates(graph).into_iter().filter(|m| m.blocks).collect::<Vec<_>>();
        assert_eq!(blocks(&graph), [SplitOptions { layers: outward, blocks: true, ..SplitOptions::default() }]);
        graph.directed = Directed::All;
        assert_eq!(blocks(&graph), [SplitOptions { blocks: true, ..SplitOptions::default() }]);
        // Webs are tried in rows and columns at every depth, but for families.
        let nested = SplitOptions::nested(&graph);
        assert!(nested.len() == 2 && nested.iter().all(|m| m.deep && m.blocks), "{nested:?}");
        graph.directed = Directed::Trunks;
        assert_eq!(SplitOptions::nested(&graph), []);
        graph.directed = Directed::All;
        // What lies in no group is a box as well.
        graph.nodes.extend(vec![Node::default(); blocks::MOST]);
        assert_eq!(blocks(&graph), []);
    }

    #[test]
    fn zones_in_rows_and_columns_hold_their_members() {
        let mut graph = zones();
        graph.groups.extend([0, 1].map(|_| Group { title: Size::new(60.0, 20.0), inset: 20.0, ..Group::default() }));
        for (v, group) in [(6, 3), (2, 4)] {
            graph.nodes[v].group = Some(group);
        }
        let placement = place_all(&graph, SplitOptions { blocks: true, ..SplitOptions::default() }, &plain);
        assert_eq!(measure(&graph, &placement).faults, []);
        let boxes = [0, 1, 3, 4].map(|g| placement.groups[g]);
        let is_beside =
            |a: &crate::geom::Rect, b: &crate::geom::Rect| a.right() < b.x && a.y < b.bottom() && b.y < a.bottom();
        assert!(boxes.iter().any(|a| boxes.iter().any(|b| is_beside(a, b))), "some stand side by side: {boxes:?}");
    }

    #[test]
    fn what_stands_beside_something_stays_beside_it_outside() {
        let mut graph = zones();
        graph.nodes.push(Node { size: Size::new(60.0, 30.0), beside: Some(6), ..Node::default() });
        let placement =
            place_all(&graph, SplitOptions { direction: RankDirection::Right, ..SplitOptions::default() }, &plain);
        let (host, own) = (placement.nodes[6], placement.nodes[7]);
        assert!((host.middle().y - own.middle().y).abs() < 1.0, "{host:?} {own:?}");
        assert!((own.x - host.right()).abs() < 80.0 || (host.x - own.right()).abs() < 80.0);
    }
}
