//! What is not where an earlier picture had it, and which lines that touches.

use crate::geom::{Rect, Size};
use crate::layout::earlier::Earlier;
use crate::layout::graph::{Anchor, Graph};
use crate::layout::intersections::hits;
use crate::layout::placement::Placement;
use crate::layout::route::Route;

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
    nodes: Vec<(usize, Rect)>,
    /// Groups with their frames and titles.
    groups: Vec<(usize, Rect, Rect)>,
}

impl<'a> Changes<'a> {
    pub(in crate::layout) fn new(graph: &'a Graph, earlier: &Earlier, now: &Placement) -> Self {
        let nodes = now.nodes.iter().enumerate().filter(|(v, r)| earlier.nodes[*v] != Some(**r)).map(|(v, r)| (v, *r));
        let groups = now.groups.iter().enumerate().filter(|(g, r)| earlier.groups[*g] != Some(**r));
        let groups = groups.map(|(g, r)| (g, *r, now.titles[g]));
        Self { graph, nodes: nodes.collect(), groups: groups.collect() }
    }

    /// Edges whose earlier line is no longer as good as it was, or that had none; ascending.
    pub(in crate::layout) fn bent(&self, earlier: &Earlier) -> Vec<usize> {
        let spared = |e: &usize| earlier.routes[*e].as_ref().is_some_and(|route| self.spare(*e, route));
        (0..self.graph.edges.len()).filter(|e| !spared(e)).collect()
    }

    fn touch(&self, anchor: Anchor) -> bool {
        match anchor {
            Anchor::Node(v) => self.nodes.iter().any(|n| n.0 == v),
            Anchor::Group(g) => self.groups.iter().any(|n| n.0 == g),
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
        let met = |r: &Rect| line.windows(2).any(|p| hits(p[0], p[1], r.grown(4.0)));
        let covers = |r: &Rect| route.texts().any(|l| r.grown(3.0).meets(*l));
        let around = self.graph.groups_around_edge(e);
        let free_of = |r: &Rect| !met(r) && !covers(r);
        self.nodes.iter().all(|(_, r)| free_of(r))
            && self.groups.iter().all(|(g, frame, title)| free_of(title) && (around.contains(g) || !met(frame)))
    }
}
