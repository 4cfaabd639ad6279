//! What the portfolio decides: how much is tried for graphs of each size, which candidate is taken, when an earlier picture is
//! given up, and what is said of constraints that are in each other's way.

use bathygram_core::geom::{Size, pt};
use bathygram_core::layout::score::measure;
use bathygram_core::layout::{
    self, Anchor, Earlier, Edge, Graph, Group, Keeping, Node, PlacementConstraint, Placing, Routing,
};
use proptest::prelude::*;

fn graph(nodes: usize, edges: &[(usize, usize)]) -> Graph {
    let node = Node { size: Size::new(110.0, 44.0), ..Node::default() };
    let edge = |(a, b): &(usize, usize)| Edge::new(Anchor::Node(*a), Anchor::Node(*b));
    Graph { nodes: vec![node; nodes], edges: edges.iter().map(edge).collect(), spacing: 1.0, ..Graph::default() }
}

/// Where a layout has everything, as an earlier picture says it.
fn earlier(laid: &layout::Laid) -> Earlier {
    Earlier {
        nodes: laid.placement.nodes.iter().copied().map(Some).collect(),
        groups: laid.placement.groups.iter().copied().map(Some).collect(),
        routes: laid.placement.routes.iter().cloned().map(Some).collect(),
    }
}

/// A graph with more nodes and lines than an earlier picture of it has.
fn grown(before: &layout::Laid, nodes: usize, edges: &[(usize, usize)]) -> Graph {
    let mut now = graph(nodes, edges);
    let mut known = earlier(before);
    known.nodes.resize(nodes, None);
    known.routes.resize(edges.len(), None);
    now.earlier = Some(known);
    now
}

#[test]
fn much_is_tried_for_little_and_little_for_much() {
    let web = |n: usize| {
        let edges: Vec<(usize, usize)> =
            (1..n).flat_map(|i| [((i - 1) / 3, i), (i * 7 % n, i)]).filter(|(a, b)| a != b).collect();
        layout::place(&graph(n, &edges)).report
    };
    let (small, large) = (web(20), web(2_000));
    assert!(small.effort > large.effort, "{:?} {:?}", small.effort, large.effort);
    assert!(small.score.is_some() && large.score.is_none(), "what is not compared has no score");
    // What lies apart is laid out apart.
    assert_eq!(layout::place(&graph(6, &[(0, 1), (2, 3), (4, 5)])).report.parts, 3);
}

#[test]
fn an_earlier_picture_is_kept_or_it_is_said_why_not() {
    let edges = [(0, 1), (0, 2), (1, 3), (2, 3), (3, 4)];
    let before = layout::place(&graph(5, &edges));
    assert_eq!(before.report.keeping, Keeping::None, "there was none");
    // As it was: the same picture.
    let same = layout::place(&grown(&before, 5, &edges));
    assert_eq!(same.report.keeping, Keeping::Kept);
    assert_eq!(same.placement, before.placement);
    // A line more: nothing moves.
    let more = layout::place(&grown(&before, 5, &[&edges[..], &[(1, 4)]].concat()));
    assert_eq!((more.report.keeping, more.report.faults), (Keeping::Kept, 0));
    let shift = |v: usize| {
        let (a, b) = (before.placement.nodes[v], more.placement.nodes[v]);
        (b.x - a.x, b.y - a.y)
    };
    assert!((1..5).all(|v| shift(v) == shift(0)), "{:?}", more.placement.nodes);
    // Most of it is new.
    let other: Vec<(usize, usize)> = (1..14).map(|i| ((i - 1) / 2, i)).collect();
    let new = layout::place(&grown(&before, 14, &other));
    assert_eq!(new.report.keeping, Keeping::TooLittle);
    assert_eq!(new.placement, layout::place(&graph(14, &other)).placement, "it is laid out as if there had been none");
}

#[test]
fn what_is_in_the_way_of_a_constraint_is_named() {
    let node = Anchor::Node;
    let mut wished = graph(4, &[(0, 1), (0, 2), (0, 3)]);
    wished.constraints = vec![
        PlacementConstraint::Order(vec![node(1), node(2), node(3)]),
        PlacementConstraint::Order(vec![node(3), node(1)]),
    ];
    let laid = layout::place(&wished);
    let dropped: Vec<(usize, Option<usize>)> = laid.report.dropped.iter().map(|d| (d.constraint, d.against)).collect();
    assert_eq!(dropped, [(1, Some(0))]);
    // Alone it is kept, and then nothing is reported.
    wished.constraints.remove(0);
    let laid = layout::place(&wished);
    assert!(laid.report.dropped.is_empty());
    assert!(laid.placement.nodes[3].x < laid.placement.nodes[1].x);
    // What nothing else is in the way of, but the lines themselves.
    wished.constraints = vec![PlacementConstraint::Place(node(2), Placing::Above, node(0))];
    let laid = layout::place(&wished);
    assert!(laid.report.dropped.iter().all(|d| d.against.is_none()), "{:?}", laid.report.dropped);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Kept or not, stepped or straight, with groups or without: every line has its course, and nothing lies on anything.
    #[test]
    fn a_line_more_or_a_longer_label_leaves_a_picture_without_fault(
        n in 4..16_usize, pairs in proptest::collection::vec((0..16_usize, 0..16_usize), 3..14),
        more in (0..16_usize, 0..16_usize), longer in 0..16_usize, groups in 0..3_usize,
    ) {
        let mut edges: Vec<(usize, usize)> = pairs.iter().map(|(a, b)| (a % n, b % n)).filter(|(a, b)| a != b).collect();
        edges.sort_unstable();
        edges.dedup();
        let shaped = |mut graph: Graph| {
            graph.groups = vec![Group { inset: 16.0, title: Size::new(60.0, 18.0), ..Group::default() }; groups];
            for (v, node) in graph.nodes.iter_mut().enumerate().filter(|_| groups > 0) {
                node.group = Some(v % groups);
            }
            graph
        };
        let before = layout::place(&shaped(graph(n, &edges)));
        let more = (more.0 % n, more.1 % n);
        if more.0 != more.1 && !edges.contains(&more) {
            edges.push(more);
        }
        let mut now = shaped(grown(&before, n, &edges));
        now.nodes[longer % n].size.w += 70.0;
        let laid = layout::place(&now);
        prop_assert_eq!(measure(&now, &laid.placement).faults, vec![], "{:?}", laid.report.keeping);
        prop_assert_eq!(laid.placement.routes.iter().filter(|r| r.points.len() < 2).count(), 0);
    }

    /// Straight lines around boxes without texts lie on none of them.
    #[test]
    fn straight_lines_lie_on_nothing(n in 3..12_usize, pairs in proptest::collection::vec((0..12_usize, 0..12_usize), 2..12)) {
        let mut edges: Vec<(usize, usize)> = pairs.iter().map(|(a, b)| (a % n, b % n)).filter(|(a, b)| a != b).collect();
        edges.sort_unstable();
        edges.dedup();
        let straight = Graph { routing: Routing::Straight, ..graph(n, &edges) };
        let laid = layout::place(&straight);
        prop_assert_eq!(measure(&straight, &laid.placement).faults, vec![]);
        // A line between two that nothing lies between has no corner.
        for (edge, route) in straight.edges.iter().zip(&laid.placement.routes) {
            let ends = [edge.from, edge.to].map(|end| end.node().map_or(pt(0.0, 0.0), |v| laid.placement.nodes[v].middle()));
            prop_assert!(route.points.len() >= 2 && ends[0] != ends[1]);
        }
    }
}
