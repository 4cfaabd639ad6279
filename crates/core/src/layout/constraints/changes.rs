//! What is not where an earlier picture had it, and which lines that touches.

use crate::geom::{Rect, Size, SpatialIndex};
use crate::layout::earlier::Earlier;
use crate::layout::graph::{Anchor, Graph};
use crate::layout::intersections::hits;
use crate::layout::placement::Placement;
use crate::layout::route::Route;

/// Room that what moved leaves a line, and its texts, in px.
const ROOM: f64 = 4.0;
const TEXT_ROOM: f64 = 3.0;

impl Earlier {
    /// Where a placement has them, all of them known.
    pub(in crate::layout) fn of(placement: &Placement) -> Self {
        Self {
            nodes: placement.nodes.iter().copied().map(Some).collect(),
            groups: placement.groups.iter().copied().map(Some).collect(),
            routes: placement.routes.iter().cloned().map(Some).collect(),
        }
    }
}

/// What is not where the earlier picture had it.
pub(in crate::layout) struct Changes<'a> {
    graph: &'a Graph,
    now: &'a Placement,
    moved: Vec<bool>,
    /// Where the nodes are now that moved.
    nodes: SpatialIndex,
    /// The groups that moved or grew.
    groups: Vec<usize>,
}

impl<'a> Changes<'a> {
    pub(in crate::layout) fn new(graph: &'a Graph, earlier: &Earlier, now: &'a Placement) -> Self {
        let moved: Vec<bool> = now.nodes.iter().zip(&earlier.nodes).map(|(now, then)| *then != Some(*now)).collect();
        let mut nodes =
            SpatialIndex::new(now.nodes.iter().copied().reduce(Rect::union).unwrap_or_default(), moved.len());
        now.nodes.iter().enumerate().filter(|(v, _)| moved[*v]).for_each(|(v, rect)| nodes.add(*rect, v));
        let groups = (0..now.groups.len()).filter(|g| earlier.groups[*g] != Some(now.groups[*g])).collect();
        Self { graph, now, moved, nodes, groups }
    }

    /// Edges whose earlier line is no longer as good as it was, or that had none; ascending.
    pub(in crate::layout) fn bent(&self, earlier: &Earlier) -> Vec<usize> {
        let spared = |e: &usize| earlier.routes[*e].as_ref().is_some_and(|route| self.spare(*e, route));
        (0..self.graph.edges.len()).filter(|e| !spared(e)).collect()
    }

    fn touch(&self, anchor: Anchor) -> bool {
        match anchor {
            Anchor::Node(v) => self.moved[v],
            Anchor::Group(g) => self.groups.binary_search(&g).is_ok(),
        }
    }

    /// Whether an edge's earlier line is as good as it was: its ends and its texts are the same, and nothing moved onto it.
    fn spare(&self, e: usize, route: &Route) -> bool {
        let edge = &self.graph.edges[e];
        let size = |r: Option<Rect>| r.map(|r| Size::new(r.w, r.h));
        let texts = size(route.label) == edge.label && route.end_labels.map(size) == edge.end_labels;
        if !texts || self.touch(edge.from) || self.touch(edge.to) {
            return false;
        }
        let line = route.polyline();
        let met = |r: &Rect| line.windows(2).any(|p| hits(p[0], p[1], r.grown(ROOM)));
        let covers = |r: &Rect| route.texts().any(|l| r.grown(TEXT_ROOM).meets(*l));
        let around = self.graph.groups_around_edge(e);
        let free_of = |r: &Rect| !met(r) && !covers(r);
        // A frame may have come so far that it runs through a text, or holds one that it should not.
        let is_in_place = |g: usize, frame: &Rect, text: &Rect| {
            !frame.meets(*text) || frame.holds(*text) && self.graph.may_hold_text(e, g)
        };
        let suits = |g: &usize| {
            let (frame, title) = (&self.now.groups[*g], &self.now.titles[*g]);
            let texts_in_place = route.texts().all(|text| is_in_place(*g, frame, text));
            free_of(title) && texts_in_place && (around.contains(g) || !met(frame))
        };
        let mut beside_line = line.windows(2).flat_map(|p| self.nodes.along(p[0], p[1], ROOM));
        let mut beside_texts = route.texts().flat_map(|text| self.nodes.touching(text.grown(TEXT_ROOM)));
        let is_free_of = |v: usize| free_of(&self.now.nodes[v]);
        beside_line.all(is_free_of) && beside_texts.all(is_free_of) && self.groups.iter().all(suits)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;
    use crate::layout::graph::{Edge, Group, Node};

    /// A group with one node, and beside it two nodes with a line and its label.
    fn picture() -> (Graph, Placement) {
        let node = |group| Node { size: Size::new(60.0, 40.0), group, ..Node::default() };
        let label = Size::new(40.0, 16.0);
        let edge = Edge { label: Some(label), ..Edge::new(Anchor::Node(1), Anchor::Node(2)) };
        let graph = Graph {
            groups: vec![Group { inset: 16.0, ..Group::default() }],
            nodes: vec![node(Some(0)), node(None), node(None)],
            edges: vec![edge],
            ..Graph::default()
        };
        let mut placement = Placement::unplaced(&graph);
        placement.groups = vec![Rect::new(0.0, 0.0, 92.0, 72.0)];
        placement.nodes = vec![
            Rect::new(16.0, 16.0, 60.0, 40.0),
            Rect::new(120.0, 0.0, 60.0, 40.0),
            Rect::new(120.0, 200.0, 60.0, 40.0),
        ];
        placement.routes[0].points = vec![pt(150.0, 40.0), pt(150.0, 200.0)];
        placement.routes[0].label = Some(Rect::around(pt(130.0, 60.0), label));
        (graph, placement)
    }

    #[test]
    fn where_nothing_moved_no_line_is_drawn_anew() {
        let (graph, placement) = picture();
        let earlier = Earlier::of(&placement);
        assert!(Changes::new(&graph, &earlier, &placement).bent(&earlier).is_empty());
    }

    #[test]
    fn a_frame_that_comes_through_a_text_redraws_its_line() {
        let (graph, mut placement) = picture();
        let earlier = Earlier::of(&placement);
        placement.groups[0].w = 105.0;
        assert!(Changes::new(&graph, &earlier, &placement).bent(&earlier).is_empty(), "it ends before the text");
        placement.groups[0].w = 125.0;
        assert_eq!(Changes::new(&graph, &earlier, &placement).bent(&earlier), [0]);
    }

    #[test]
    fn what_comes_onto_a_line_or_takes_its_end_redraws_it() {
        let (graph, placement) = picture();
        let earlier = Earlier::of(&placement);
        let bent = |change: &dyn Fn(&mut Placement)| {
            let mut now = placement.clone();
            change(&mut now);
            Changes::new(&graph, &earlier, &now).bent(&earlier)
        };
        assert_eq!(bent(&|now| now.nodes[2].x += 30.0), [0], "its end moved");
        assert_eq!(bent(&|now| now.nodes[0] = Rect::new(130.0, 100.0, 60.0, 40.0)), [0], "something stands on it");
        assert!(bent(&|now| now.nodes[0].x += 2.0).is_empty(), "something moved elsewhere");
        let mut longer = graph.clone();
        longer.edges[0].label = Some(Size::new(80.0, 16.0));
        assert_eq!(Changes::new(&longer, &earlier, &placement).bent(&earlier), [0], "its text is another");
    }
}
