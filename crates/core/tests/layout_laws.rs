//! Laws of the layered layout, on generated graphs: nothing overlaps, nothing is lost, no line runs
//! through a foreign node or group, and the same input gives the same output.

use bathygram_core::geom::{Point, Rect, Size};
use bathygram_core::layout;
use bathygram_core::layout::{Anchor, BackEdges, Edge, Face, Graph, Group, LabelAt, Node, Placement, RankDirection};
use bathygram_corpus::Dice;
use proptest::prelude::*;

const READINGS: [RankDirection; 4] =
    [RankDirection::Down, RankDirection::Right, RankDirection::Up, RankDirection::Left];

/// A graph with nested groups, labels, loops and lines between groups.
fn graph(seed: u64, nodes: usize, groups: usize, edges: usize, direction: RankDirection) -> Graph {
    let mut dice = Dice::new(seed);
    let mut graph = Graph { direction, ..Graph::default() };
    if dice.roll(2) == 0 {
        graph.back_edges = BackEdges::Flanks;
    }
    for g in 0..groups {
        let parent = if g > 0 && dice.roll(2) == 0 { Some(dice.roll(g)) } else { None };
        graph.groups.push(Group {
            parent,
            title: Size::new(60.0 + dice.roll(60) as f64, 20.0),
            inset: 20.0,
            lane: false,
            ..Group::default()
        });
    }
    for _ in 0..nodes {
        let size = Size::new(60.0 + 4.0 * dice.roll(30) as f64, 40.0 + 4.0 * dice.roll(12) as f64);
        let group = if groups > 0 && dice.roll(4) > 0 { Some(dice.roll(groups)) } else { None };
        graph.nodes.push(Node { size, group, ..Node::default() });
    }
    for _ in 0..edges {
        let (a, b) = (dice.roll(nodes), dice.roll(nodes));
        // Several labelled lines from a small node to itself are a known limit.
        let again = graph.edges.iter().any(|e: &Edge| e.from == e.to && e.from == Anchor::Node(a));
        if a == b && again {
            continue;
        }
        let mut edge = Edge::new(Anchor::Node(a), Anchor::Node(b));
        if dice.roll(2) == 0 {
            edge.label = Some(Size::new(30.0 + dice.roll(90) as f64, 16.0 * (1 + dice.roll(2)) as f64));
        }
        if dice.roll(4) == 0 {
            edge.label_at = LabelAt::Start;
        }
        if dice.roll(4) == 0 {
            edge.end_labels = [Some(Size::new(24.0, 16.0)), Some(Size::new(40.0, 16.0))];
        }
        if dice.roll(6) == 0 {
            edge.face = Face::Flank;
        }
        graph.edges.push(edge);
    }
    graph
}

fn ancestors(graph: &Graph, anchor: Anchor) -> Vec<usize> {
    let first = match anchor {
        Anchor::Node(v) => graph.nodes[v].group,
        Anchor::Group(g) => Some(g),
    };
    std::iter::successors(first, |g| graph.groups[*g].parent).collect()
}

fn stretch(a: Point, b: Point) -> Rect {
    Rect::new(a.x.min(b.x), a.y.min(b.y), (a.x - b.x).abs(), (a.y - b.y).abs())
}

/// Everything that is wrong with a placement, in words.
fn faults(graph: &Graph, placement: &Placement) -> Vec<String> {
    let mut faults = Vec::new();
    let inner = |r: Rect| r.grown(-0.75);
    for (a, first) in placement.nodes.iter().enumerate() {
        if !(first.x.is_finite() && first.y.is_finite() && first.x >= -0.01 && first.y >= -0.01) {
            faults.push(format!("node {a} is nowhere"));
        }
        for (b, second) in placement.nodes.iter().enumerate().skip(a + 1) {
            if inner(*first).meets(inner(*second)) {
                faults.push(format!("nodes {a} and {b} overlap"));
            }
        }
        let around = ancestors(graph, Anchor::Node(a));
        for (g, group) in placement.groups.iter().enumerate() {
            let inside = group.holds(*first);
            if around.contains(&g) && !inside {
                faults.push(format!("node {a} leaves group {g}"));
            }
            if !around.contains(&g) && inner(*first).meets(inner(*group)) {
                faults.push(format!("node {a} lies in foreign group {g}"));
            }
        }
    }
    for (e, route) in placement.routes.iter().enumerate() {
        let edge = &graph.edges[e];
        if route.points.len() < 2 {
            faults.push(format!("edge {e} has no line"));
            continue;
        }
        let around: Vec<usize> = [edge.from, edge.to].iter().flat_map(|a| ancestors(graph, *a)).collect();
        for pair in route.points.windows(2) {
            let line = stretch(pair[0], pair[1]);
            for (v, node) in placement.nodes.iter().enumerate() {
                let own = edge.from == Anchor::Node(v) || edge.to == Anchor::Node(v);
                if !own && line.meets(inner(*node)) {
                    faults.push(format!("edge {e} runs through node {v}"));
                }
            }
            for (g, group) in placement.groups.iter().enumerate() {
                if !around.contains(&g) && line.meets(inner(*group)) {
                    faults.push(format!("edge {e} runs through group {g}"));
                }
            }
            for (f, other) in placement.routes.iter().enumerate() {
                if f != e && other.label.is_some_and(|l| line.meets(inner(l))) {
                    faults.push(format!("edge {e} runs through the label of {f}"));
                }
            }
        }
        if edge.label.is_some() && edge.from != edge.to && route.label.is_none() {
            faults.push(format!("edge {e} lost its label"));
        }
        if let Some(label) = route.label {
            for (v, node) in placement.nodes.iter().enumerate() {
                if inner(label).meets(inner(*node)) {
                    faults.push(format!("the label of {e} lies on node {v}"));
                }
            }
            for (f, other) in placement.routes.iter().enumerate().skip(e + 1) {
                if other.label.is_some_and(|l| inner(label).meets(inner(l))) {
                    faults.push(format!("the labels of {e} and {f} overlap"));
                }
            }
        }
    }
    for (g, title) in placement.titles.iter().enumerate() {
        for (e, route) in placement.routes.iter().enumerate() {
            if route.points.windows(2).any(|p| stretch(p[0], p[1]).meets(inner(*title))) {
                faults.push(format!("edge {e} runs through the title of group {g}"));
            }
        }
    }
    faults
}

fn case(seed: u64, groups: usize) -> Graph {
    let nodes = 6 + (seed % 17) as usize;
    graph(seed, nodes, groups, nodes + nodes / 2, READINGS[(seed % 4) as usize])
}

#[test]
fn flat_graphs_have_no_fault() {
    for seed in 0..160 {
        let graph = case(seed, 0);
        assert_eq!(faults(&graph, &layout::place(&graph).placement), Vec::<String>::new(), "seed {seed}");
    }
}

#[test]
fn nested_graphs_have_no_fault_but_rare_lines_through_groups() {
    // In dense random graphs a line between two groups sometimes finds no way around a third one.
    let mut intruding = 0;
    for seed in 0..240 {
        let graph = case(seed, 1 + (seed % 4) as usize);
        let faults = faults(&graph, &layout::place(&graph).placement);
        let (groups, others): (Vec<&String>, Vec<&String>) =
            faults.iter().partition(|f| f.contains("runs through group"));
        assert!(others.is_empty(), "seed {seed}: {others:?}");
        intruding += usize::from(!groups.is_empty());
    }
    assert!(intruding <= 26, "{intruding} of 240 graphs have a line through a foreign group");
}

#[test]
fn lanes_keep_their_steps_and_their_order() {
    for seed in 0..60 {
        let mut dice = Dice::new(seed);
        let mut graph = graph(seed, 14, 0, 18, READINGS[(seed % 4) as usize]);
        for _ in 0..3 {
            graph.groups.push(Group {
                parent: None,
                title: Size::new(70.0, 20.0),
                inset: 24.0,
                lane: true,
                ..Group::default()
            });
        }
        for node in &mut graph.nodes {
            node.group = Some(dice.roll(3));
        }
        let placement = layout::place(&graph).placement;
        let faults: Vec<String> =
            faults(&graph, &placement).into_iter().filter(|f| !f.contains("through group")).collect();
        assert_eq!(faults, Vec::<String>::new(), "seed {seed}");
        for pair in placement.groups.windows(2) {
            let sideways = graph.direction.is_sideways();
            let (end, begin) = if sideways { (pair[0].bottom(), pair[1].y) } else { (pair[0].right(), pair[1].x) };
            assert!((end - begin).abs() < 0.5, "seed {seed}: lanes lie side by side");
        }
    }
}

#[test]
fn a_chain_is_one_straight_line() {
    for direction in READINGS {
        let mut graph = Graph { direction, ..Graph::default() };
        graph.nodes =
            (0..5).map(|i| Node { size: Size::new(80.0 + 20.0 * i as f64, 40.0), ..Node::default() }).collect();
        graph.edges = (0..4).map(|i| Edge::new(Anchor::Node(i), Anchor::Node(i + 1))).collect();
        let placement = layout::place(&graph).placement;
        assert!(placement.routes.iter().all(|r| r.points.len() == 2), "{direction:?}");
    }
}

#[test]
fn every_place_is_a_multiple_of_a_64th_of_a_pixel() {
    let is_placed = |v: f64| (v * 64.0).fract() == 0.0;
    for seed in 0..40 {
        let placement = layout::place(&case(seed, seed as usize % 4)).placement;
        let rects = placement.nodes.iter().chain(&placement.groups).chain(&placement.titles);
        let texts = placement.routes.iter().flat_map(|r| r.texts());
        let sides = rects.chain(texts).flat_map(|r| [r.x, r.y, r.right(), r.bottom()]);
        let corners = placement.routes.iter().flat_map(|r| &r.points).flat_map(|p| [p.x, p.y]);
        let off = sides.chain(corners).chain([placement.size.w, placement.size.h]).find(|v| !is_placed(*v));
        assert_eq!(off, None, "seed {seed}");
    }
}

/// A chain, and short cuts over hundreds of its nodes.
fn chain_with_short_cuts(nodes: usize, short_cuts: usize) -> Graph {
    let node = || Node { size: Size::new(80.0, 40.0), ..Node::default() };
    let mut graph = Graph { nodes: (0..nodes).map(|_| node()).collect(), ..Graph::default() };
    let mut dice = Dice::new(nodes as u64);
    let line = |(a, b)| Edge::new(Anchor::Node(a), Anchor::Node(b));
    graph.edges.extend((1..nodes).map(|i| line((i - 1, i))));
    for i in 0..short_cuts {
        let (a, b) = (dice.roll(nodes), dice.roll(nodes));
        let mut edge = line((a.min(b), a.max(b)));
        if i % 3 == 0 {
            edge.label = Some(Size::new(50.0, 16.0));
        }
        if i % 5 == 0 {
            edge.end_labels = [Some(Size::new(24.0, 16.0)), Some(Size::new(40.0, 16.0))];
        }
        if a != b {
            graph.edges.push(edge);
        }
    }
    graph
}

#[test]
fn lines_that_skip_too_many_layers_run_in_the_margin_without_fault() {
    let graph = chain_with_short_cuts(600, 800);
    let placement = layout::place(&graph).placement;
    let faults = layout::score::measure(&graph, &placement).faults;
    // Two lines that turn in one channel may touch where each would have to be above the other.
    assert!(1000 * faults.len() <= graph.edges.len(), "{} faults, first {:?}", faults.len(), faults.first());
    assert!(placement.routes.iter().all(|r| r.points.len() >= 2));
    // Those in the margin have the same few corners however far they lead.
    let nodes_end = placement.nodes.iter().map(|r| r.right()).fold(0.0, f64::max);
    let margin = placement.routes.iter().filter(|r| r.points.iter().any(|p| p.x > nodes_end)).count();
    assert!(margin > 100, "{margin}");
}

#[test]
fn trees_have_no_crossing() {
    for seed in 0..40 {
        let mut dice = Dice::new(seed);
        let nodes = (0..25).map(|_| Node { size: Size::new(80.0, 40.0), ..Node::default() }).collect();
        let edges = (1..25).map(|i| Edge::new(Anchor::Node(dice.roll(i)), Anchor::Node(i))).collect();
        let placement = layout::place(&Graph { nodes, edges, ..Graph::default() }).placement;
        let stretches: Vec<(usize, Point, Point)> = placement
            .routes
            .iter()
            .enumerate()
            .flat_map(|(e, r)| r.points.windows(2).map(move |p| (e, p[0], p[1])))
            .collect();
        for (e, a, b) in &stretches {
            for (f, c, d) in stretches.iter().filter(|s| s.0 != *e) {
                let level = a.y == b.y && c.x == d.x;
                let crosses = level
                    && a.x.min(b.x) < c.x - 0.5
                    && c.x + 0.5 < a.x.max(b.x)
                    && c.y.min(d.y) < a.y - 0.5
                    && a.y + 0.5 < c.y.max(d.y);
                assert!(!crosses, "seed {seed}: edges {e} and {f} cross");
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn the_same_input_gives_the_same_output(seed in 0u64..1_000_000, groups in 0usize..4) {
        let graph = case(seed, groups);
        prop_assert_eq!(layout::place(&graph).placement, layout::place(&graph).placement);
    }
}
