//! Arrangements that place boxes without layers: `grid`, `radial` and `force`. What a group holds is arranged first and
//! is one box in the arrangement around it, so groups are kept together and hold exactly their members; lines are drawn
//! last, around everything.
//!
//! Input: a graph. Output: its placement, never turned: these arrangements have no reading direction but that of rows.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::arrange::boxes::{self, Item};
use crate::layout::arrange::force;
use crate::layout::arrange::radial;
use crate::layout::graph::{Anchor, Arrangement, Graph};
use crate::layout::placement::Placement;
use crate::layout::routing::lines;
use crate::layout::routing::obstacles as around;
use std::collections::BTreeMap;

/// Room between boxes, in px: enough for a few lines.
const GAP: f64 = 48.0;

/// How much wider gaps are tried where lines or labels find no room.
const STRETCHES: [f64; 4] = [1.0, 1.35, 1.8, 2.4];
/// For up to this many nodes.
// Each is a whole layout with its lines.
const TRIED: usize = 120;

struct Boxes<'a> {
    graph: &'a Graph,
    arrangement: Arrangement,
    /// Gaps, as a multiple of the usual ones.
    stretch: f64,
    /// What each group holds, and last what is in none.
    held: Vec<Vec<Item>>,
    /// Sizes of groups, once their contents are arranged; middles of all items relative to what holds them.
    sizes: Vec<Size>,
    node_at: Vec<Point>,
    group_at: Vec<Point>,
}

/// Places a graph without layers; further apart where lines and labels do not find room.
pub(in crate::layout) fn place(graph: &Graph, arrangement: Arrangement) -> Placement {
    // Nothing that is thrown away is made for large graphs, and what is not compared is not measured.
    if graph.nodes.len() > TRIED {
        return placed(graph, arrangement, STRETCHES[0]);
    }
    boxes::first_without_fault(graph, STRETCHES.iter().map(|stretch| placed(graph, arrangement, *stretch)))
}

fn placed(graph: &Graph, arrangement: Arrangement, stretch: f64) -> Placement {
    let count = graph.groups.len();
    let zero = pt(0.0, 0.0);
    let mut all = Boxes {
        graph,
        arrangement,
        stretch,
        held: boxes::held(graph),
        sizes: vec![Size::default(); count],
        node_at: vec![zero; graph.nodes.len()],
        group_at: vec![zero; count],
    };
    // Children come after their parents; what is in no group comes last.
    for g in (0..count).rev().chain([count]) {
        all.arrange(g);
    }
    let mut placement = all.placed();
    let stepped = lines::stepped_first(graph, &placement);
    around::route(graph, &mut placement, &stepped);
    lines::complete(graph, &mut placement);
    placement.fit();
    placement
}

impl Boxes<'_> {
    fn size(&self, item: Item) -> Size {
        match item {
            Item::Node(v) => self.graph.nodes[v].size,
            Item::Group(g) => self.sizes[g],
        }
    }

    /// The item of a container that holds an end, if it lies in it.
    fn lifted(&self, end: Anchor, container: usize) -> Option<Item> {
        boxes::around(self.graph, end).find(|(holder, _)| *holder == container).map(|(_, item)| item)
    }

    fn arrange(&mut self, container: usize) {
        let items = self.held[container].clone();
        let sizes: Vec<Size> = items.iter().map(|i| self.size(*i)).collect();
        let numbers: BTreeMap<Item, usize> = items.iter().copied().zip(0..).collect();
        let number = |anchor| self.lifted(anchor, container).and_then(|item| numbers.get(&item).copied());
        let ends = |e: &crate::layout::Edge| number(e.from).zip(number(e.to)).filter(|(a, b)| a != b);
        let edges: Vec<(usize, usize)> = self.graph.edges.iter().filter_map(ends).collect();
        let labelled = self.graph.edges.iter().filter_map(|e| e.label).map(|l| l.w).fold(0.0, f64::max);
        // Rings are as far apart as labels are wide where lines run level.
        let part = if self.arrangement == Arrangement::Radial { 0.9 } else { 0.6 };
        let gap = (GAP + labelled * part) * self.graph.spacing * self.stretch;
        let middles = match self.arrangement {
            Arrangement::Radial => radial::arrange(&sizes, &edges, gap),
            Arrangement::Force => force::arrange(&sizes, &edges, gap),
            _ => crate::layout::refine::packing::grid(&sizes, gap),
        };
        let rects = items.iter().zip(&middles).map(|(i, m)| Rect::around(*m, self.size(*i)));
        let bounds = rects.reduce(Rect::union).unwrap_or_default();
        let mut origin = pt(bounds.x, bounds.y);
        if let Some(group) = self.graph.groups.get(container) {
            let size = group.around(Size::new(bounds.w, bounds.h));
            self.sizes[container] = size;
            origin = pt(bounds.x - (size.w - bounds.w) / 2.0, bounds.y - group.above());
        }
        for (item, middle) in items.iter().zip(middles) {
            let at = pt(libm::round(middle.x - origin.x), libm::round(middle.y - origin.y));
            match item {
                Item::Node(v) => self.node_at[*v] = at,
                Item::Group(g) => self.group_at[*g] = at,
            }
        }
    }

    fn placed(self) -> Placement {
        let graph = self.graph;
        let mut groups: Vec<Rect> = Vec::with_capacity(graph.groups.len());
        let corner = |groups: &[Rect], g: Option<usize>| g.map_or(pt(0.0, 0.0), |g| pt(groups[g].x, groups[g].y));
        for (g, group) in graph.groups.iter().enumerate() {
            let (base, at) = (corner(&groups, group.parent), self.group_at[g]);
            groups.push(Rect::around(pt(base.x + at.x, base.y + at.y), self.sizes[g]));
        }
        let nodes = graph.nodes.iter().enumerate().map(|(v, node)| {
            let (base, at) = (corner(&groups, node.group), self.node_at[v]);
            Rect::around(pt(base.x + at.x, base.y + at.y), node.size)
        });
        let nodes = nodes.collect();
        boxes::placement(graph, nodes, groups)
    }
}
