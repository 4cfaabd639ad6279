//! Tests of the stages of the layered arrangement, each against a plain way of saying the same.

use super::bypass;
use super::channels;
use super::coordinates;
use super::cycles;
use super::layers::{Detours, ItemKind, Layers};
use super::options::Care;
use super::order;
use super::ranks::{Ranking, Ranks};
use super::{Directions, LayeredOptions, place};
use crate::geom::Size;
use crate::layout::graph::{Anchor, BackEdges, Edge, Face, Graph, Group, LabelAt, Node, RankDirection};
use crate::layout::score::measure;

fn graph(nodes: usize, edges: &[(usize, usize)]) -> Graph {
    let nodes = vec![Node { size: Size::new(80.0, 40.0), ..Node::default() }; nodes];
    let edges = edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect();
    Graph { nodes, edges, ..Graph::default() }
}

fn group(parent: Option<usize>) -> Group {
    Group { parent, title: Size::new(60.0, 20.0), inset: 20.0, lane: false, region: false }
}

fn ranks(graph: &Graph) -> Ranks {
    let reversed = cycles::reversed(graph, Directions::Written);
    Ranking::new(graph, &reversed, LayeredOptions::default()).solve()
}

fn layers(graph: &Graph) -> Layers {
    let reversed = cycles::reversed(graph, Directions::Written);
    let ranks = Ranking::new(graph, &reversed, LayeredOptions::default()).solve();
    Layers::build(graph, &reversed, &ranks, &Detours::new())
}

/// Crossings between neighbouring layers, pair by pair.
fn crossings(layers: &Layers) -> usize {
    let pos = layers.places();
    let links = &layers.links;
    let crosses = |a: usize, b: usize| {
        let (a, b) = (&links[a], &links[b]);
        let same_channel = layers.items[a.upper].layer == layers.items[b.upper].layer;
        let (upper, lower) = (pos[a.upper].cmp(&pos[b.upper]), pos[a.lower].cmp(&pos[b.lower]));
        same_channel && upper != lower && upper.is_ne() && lower.is_ne()
    };
    (0..links.len()).map(|a| (a + 1..links.len()).filter(|b| crosses(a, *b)).count()).sum()
}

#[test]
fn layers_are_as_short_as_they_can_be() {
    let chain = ranks(&graph(4, &[(0, 1), (1, 2), (0, 3)]));
    assert_eq!(chain.node, [0, 1, 2, 1]);
    let diamond = ranks(&graph(4, &[(0, 1), (0, 2), (1, 3), (2, 3), (0, 3)]));
    assert_eq!((diamond.node.as_slice(), diamond.count), (&[0, 1, 1, 2][..], 3));
    let loose = ranks(&graph(3, &[(0, 1), (1, 2)]));
    assert_eq!(loose.count, 3);
}

#[test]
fn labels_and_texts_at_ends_take_layers() {
    let mut one = graph(2, &[(0, 1)]);
    one.edges[0].label = Some(Size::new(40.0, 16.0));
    assert_eq!(ranks(&one).node, [0, 2]);
    one.edges[0].end_labels = [Some(Size::new(10.0, 16.0)), Some(Size::new(10.0, 16.0))];
    assert_eq!(ranks(&one).node, [0, 4]);
    let kinds: Vec<ItemKind> = layers(&one).chains[0].items.iter().map(|i| layers(&one).items[*i].kind).collect();
    assert_eq!(
        kinds,
        [ItemKind::Node(0), ItemKind::EndLabel(0), ItemKind::Label, ItemKind::EndLabel(1), ItemKind::Node(1)]
    );
}

#[test]
fn a_label_at_the_start_follows_its_node_even_backwards() {
    let mut back = graph(4, &[(0, 1), (1, 2), (2, 3), (3, 0)]);
    back.edges[3].label = Some(Size::new(40.0, 16.0));
    back.edges[3].label_at = LabelAt::Start;
    let layers = layers(&back);
    assert!(layers.chains[3].reversed);
    let kinds: Vec<ItemKind> = layers.chains[3].items.iter().map(|i| layers.items[*i].kind).collect();
    assert_eq!(kinds, [ItemKind::Node(0), ItemKind::Dummy, ItemKind::Label, ItemKind::Node(3)]);
}

#[test]
fn groups_span_contiguous_layers_below_their_titles() {
    let mut nested = graph(4, &[(0, 1), (1, 2), (2, 3)]);
    nested.groups = vec![group(None), group(Some(0))];
    nested.nodes[1].group = Some(0);
    nested.nodes[2].group = Some(1);
    let ranks = ranks(&nested);
    let (outer, inner) = (ranks.group[0], ranks.group[1]);
    assert!(outer.0 < inner.0 && inner.1 <= outer.1, "{outer:?} {inner:?}");
    assert!(ranks.node[1] > outer.0 && ranks.node[2] > inner.0 && ranks.node[2] <= inner.1);
    let layers = layers(&nested);
    for g in 0..2 {
        for layer in layers.spans[g].0..=layers.spans[g].1 {
            assert!(
                layers.layers[layer].iter().any(|u| layers.units[*u].groups.contains(&g)),
                "group {g} in layer {layer}"
            );
        }
    }
}

#[test]
fn a_text_at_an_end_lies_in_the_group_of_its_node() {
    let mut two = graph(2, &[(0, 1)]);
    two.groups = vec![group(None), group(None)];
    (two.nodes[0].group, two.nodes[1].group) = (Some(0), Some(1));
    let plain = ranks(&two).count;
    two.edges[0].end_labels = [Some(Size::new(24.0, 16.0)), Some(Size::new(30.0, 16.0))];
    assert_eq!(ranks(&two).count, plain + 2);
    let layers = layers(&two);
    for (end, group) in [(0, 0), (1, 1)] {
        let text = layers.chains[0].items.iter().find(|i| layers.items[**i].kind == ItemKind::EndLabel(end));
        assert_eq!(layers.groups_of(*text.expect("a text")), [group], "end {end}");
    }
    let placement = place(&two, LayeredOptions::default());
    for end in 0..2 {
        let text = placement.routes[0].end_labels[end].expect("a place");
        assert_eq!(placement.groups[end].union(text), placement.groups[end], "end {end}");
    }
    assert_eq!(measure(&two, &placement).faults, []);
}

#[test]
fn ports_ask_for_the_room_of_their_texts() {
    let mut fan = graph(4, &[(0, 1), (0, 2), (0, 3)]);
    let none = [Size::default(); 4];
    assert_eq!(super::room_for_lines(&fan), none, "no texts");
    fan.edges[0].end_labels[0] = Some(Size::new(40.0, 16.0));
    assert_eq!(super::room_for_lines(&fan), none, "one text finds room");
    fan.edges.iter_mut().for_each(|e| e.end_labels[0] = Some(Size::new(40.0, 16.0)));
    let down = super::room_for_lines(&fan);
    assert!(down[0].w > 3.0 * 40.0 && down[0].h == 0.0 && down[1..] == none[1..], "{down:?}");
    fan.direction = RankDirection::Right;
    let right = super::room_for_lines(&fan);
    assert!(right[0].h > 3.0 * 16.0 && right[0].h < down[0].w && right[0].w == 0.0, "{right:?}");
    // Where lines leave on any side, those to one and the same ask for it.
    let force = Graph { arrangement: Some(crate::layout::graph::Arrangement::Force), ..fan.clone() };
    assert_eq!(super::room_for_lines(&force), none);
    let mut parallel = force;
    parallel.edges.iter_mut().for_each(|e| e.to = Anchor::Node(1));
    let all = super::room_for_lines(&parallel);
    assert!(all[0].w > 3.0 * 40.0 && all[0].h > 3.0 * 16.0 && all[1..] == none[1..], "{all:?}");
    // With that room lines leave straight.
    fan.nodes[0].size.h = right[0].h;
    let placement = place(&fan, LayeredOptions::default());
    let texts: Vec<f64> =
        placement.routes.iter().filter_map(|r| Some(r.end_labels[0]?.distance_to(r.points[0]))).collect();
    assert!(texts.len() == 3 && texts.iter().all(|away| *away < 16.0), "{texts:?}");
}

#[test]
fn only_graphs_with_very_many_dummy_nodes_use_the_margin() {
    let chain = |nodes: usize, cuts: &[(usize, usize)]| {
        let edges: Vec<(usize, usize)> = (1..nodes).map(|i| (i - 1, i)).chain(cuts.iter().copied()).collect();
        graph(nodes, &edges)
    };
    let few = chain(200, &[(0, 199), (10, 150), (3, 190)]);
    assert_eq!(bypass::reach(&few, &ranks(&few)), usize::MAX);
    assert!(layers(&few).bypasses.is_empty());
    // Cuts of all lengths: short ones stay among the layers.
    let cuts: Vec<(usize, usize)> = (0..700).map(|i| (i % 300, 300 + (i * 37) % 300)).collect();
    let many = chain(600, &cuts);
    let reach = bypass::reach(&many, &ranks(&many));
    assert!((50..600).contains(&reach), "{reach}");
    let layers = layers(&many);
    for bypass in &layers.bypasses {
        let (upper, lower) = (layers.items[bypass.upper].layer, layers.items[bypass.lower].layer);
        assert!(upper + 1 < lower, "a gap");
        assert!(layers.items[bypass.upper].down.is_empty() && layers.items[bypass.lower].up.is_empty());
        let (from, to) = cuts[bypass.edge - 599];
        assert!(to - from > reach, "{from} to {to}");
    }
    let dummies = layers.items.iter().filter(|i| i.kind == ItemKind::Dummy).count();
    assert!(dummies < 110_000, "{dummies}");
}

#[test]
fn lanes_span_everything() {
    let mut lanes = graph(3, &[(0, 1), (1, 2)]);
    lanes.groups = vec![Group { lane: true, ..group(None) }, Group { lane: true, ..group(None) }];
    lanes.nodes[0].group = Some(0);
    lanes.nodes[1].group = Some(1);
    lanes.nodes[2].group = Some(0);
    let ranks = ranks(&lanes);
    assert_eq!(ranks.group[0], ranks.group[1]);
    assert_eq!(ranks.group[0], (0, ranks.count - 1));
    assert_eq!(ranks.node, [1, 2, 3]);
}

/// Nodes in lanes, by their numbers; the lanes named by `inside` lie in the first one.
fn in_lanes(lanes: &[usize], edges: &[(usize, usize)], inside: &[usize]) -> Graph {
    let mut all = graph(lanes.len(), edges);
    let count = lanes.iter().max().map_or(0, |g| g + 1);
    let parent = |g: usize| inside.contains(&g).then_some(0);
    all.groups = (0..count).map(|g| Group { lane: true, inset: 24.0, ..group(parent(g)) }).collect();
    all.nodes.iter_mut().zip(lanes).for_each(|(node, lane)| node.group = Some(*lane));
    all
}

#[test]
fn lines_from_lane_to_lane_run_level_where_nothing_stands_between() {
    // 0 and 1 in different lanes; 2 follows in the second, and 3 leads back over the middle lane.
    let graph = in_lanes(&[0, 2, 2, 0, 1], &[(0, 1), (1, 2), (2, 3), (3, 4)], &[]);
    let reversed = cycles::reversed(&graph, Directions::Written);
    let ranks = Ranking::new(&graph, &reversed, LayeredOptions { level: true, ..LayeredOptions::default() }).solve();
    assert_eq!(ranks.node[0], ranks.node[1]);
    assert!(ranks.node[1] < ranks.node[2]);
    assert_eq!(ranks.node[2], ranks.node[3], "nothing of the middle lane stands there");
    let placement = place(&graph, LayeredOptions { level: true, ..LayeredOptions::default() });
    assert_eq!(measure(&graph, &placement).faults, []);
    assert_eq!(placement.routes[0].bends(), 0);
    assert!(placement.size.h < place(&graph, LayeredOptions::default()).size.h);
}

#[test]
fn lanes_in_a_lane_share_its_sides_and_begin_below_its_band() {
    for direction in [RankDirection::Down, RankDirection::Right, RankDirection::Up, RankDirection::Left] {
        let mut graph = in_lanes(&[1, 2, 3, 1], &[(0, 1), (1, 2), (2, 3)], &[1, 2]);
        graph.direction = direction;
        let placement = place(&graph, LayeredOptions::default());
        assert_eq!(measure(&graph, &placement).faults, [], "{direction:?}");
        let [outer, first, last, other] = [0, 1, 2, 3].map(|g| placement.groups[g]);
        let band = graph.header(0, &placement);
        if direction.is_sideways() {
            assert_eq!((first.x, first.y, last.bottom()), (band.right(), outer.y, outer.bottom()), "{direction:?}");
            assert_eq!((first.bottom(), outer.bottom()), (last.y, other.y));
        } else {
            assert_eq!((first.y, first.x, last.right()), (band.bottom(), outer.x, outer.right()), "{direction:?}");
            assert_eq!((first.right(), outer.right()), (last.x, other.x));
        }
        // A lane that is not divided has a band as long as both.
        let (inner, whole) = (graph.header(1, &placement), graph.header(3, &placement));
        assert!(whole.right() >= inner.right() - 0.01 && whole.bottom() >= inner.bottom() - 0.01);
    }
}

#[test]
fn bars_lie_over_their_parts_and_lines_at_them_are_straight() {
    // 0 → bar 1 → 2, 3 → bar 4 → 5.
    let mut parts = graph(6, &[(0, 1), (1, 2), (1, 3), (2, 4), (3, 4), (4, 5)]);
    for bar in [1, 4] {
        parts.nodes[bar] = Node { size: Size::new(96.0, 6.0), stretches: true, ..Node::default() };
    }
    let placement = place(&parts, LayeredOptions::default());
    assert_eq!(measure(&parts, &placement).faults, []);
    assert!(placement.routes.iter().all(|r| r.bends() == 0), "{:?}", placement.routes);
    for bar in [1, 4] {
        let [bar, left, right] = [bar, 2, 3].map(|v| placement.nodes[v]);
        assert!(bar.x < left.middle().x && right.middle().x < bar.right());
    }
    assert_eq!(placement.nodes[0].middle().x, placement.nodes[5].middle().x, "the main path is straight");
}

#[test]
fn circles_through_groups_are_broken_and_all_else_keeps_its_layers() {
    // The group leads to 2, which leads back into it; the group leads to itself, too.
    let mut odd = graph(3, &[(0, 1), (2, 0)]);
    odd.groups = vec![group(None)];
    odd.nodes[0].group = Some(0);
    odd.nodes[1].group = Some(0);
    odd.edges.push(Edge::new(Anchor::Group(0), Anchor::Node(2)));
    odd.edges.push(Edge::new(Anchor::Group(0), Anchor::Group(0)));
    let reversed = Ranking::directions(&odd, cycles::reversed(&odd, Directions::Written));
    let ranks = Ranking::new(&odd, &reversed, LayeredOptions::default()).solve();
    assert!(ranks.node[0] < ranks.node[1], "what lies in it follows as written");
    let (first, last) = ranks.group[0];
    assert!(!(first..=last).contains(&ranks.node[2]), "the other stands before or after it");
    assert_eq!(measure(&odd, &place(&odd, LayeredOptions::default())).faults, []);
}

#[test]
fn regions_begin_and_end_level() {
    let mut regions = graph(4, &[(0, 1), (1, 2)]);
    let inner = Group { region: true, ..group(Some(0)) };
    regions.groups = vec![group(None), inner.clone(), inner];
    [1, 1, 1, 2].into_iter().zip(&mut regions.nodes).for_each(|(g, node)| node.group = Some(g));
    let placement = place(&regions, LayeredOptions::default());
    let (a, b) = (placement.groups[1], placement.groups[2]);
    assert_eq!((a.y, a.bottom()), (b.y, b.bottom()));
    assert!(a.right() < b.x || b.right() < a.x);
}

#[test]
fn loners_stand_in_rows() {
    let ranks = ranks(&graph(9, &[]));
    let rows: std::collections::BTreeSet<usize> = ranks.node.iter().copied().collect();
    assert_eq!(rows.len(), 3, "{:?}", ranks.node);
}

#[test]
fn lines_between_a_group_and_its_members_do_no_harm() {
    let mut odd = graph(2, &[]);
    odd.groups = vec![group(None)];
    odd.nodes[0].group = Some(0);
    odd.edges.push(Edge::new(Anchor::Node(0), Anchor::Group(0)));
    odd.edges.push(Edge::new(Anchor::Group(0), Anchor::Node(1)));
    odd.edges.push(Edge::new(Anchor::Node(1), Anchor::Group(0)));
    let placement = place(&odd, LayeredOptions::default());
    assert!(placement.nodes.iter().all(|r| r.x.is_finite() && r.y.is_finite()));
}

#[test]
fn ordering_finds_planar_orders() {
    // A binary tree, and two interleaved fans that the source order crosses.
    let tree: Vec<(usize, usize)> = (1..15).map(|i| ((i - 1) / 2, i)).collect();
    let fans = [(0, 5), (1, 3), (0, 4), (1, 2), (0, 3), (2, 6), (5, 7), (3, 7)];
    for edges in [tree.as_slice(), &fans] {
        let graph = graph(15, edges);
        let mut layers = layers(&graph);
        order::reduce(&mut layers, &graph);
        order::refine(&mut layers, &graph);
        assert_eq!(crossings(&layers), 0, "{edges:?}");
    }
}

#[test]
fn ordering_is_near_the_optimum_of_small_graphs() {
    let mut seed = 11u64;
    let mut roll = |n: u64| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) % n
    };
    let (mut ours, mut best) = (0, 0);
    for _ in 0..40 {
        // Two layers of five: the optimum is found by trying all orders.
        let edges: Vec<(usize, usize)> =
            (0..5).flat_map(|a| (5..10).map(move |b| (a, b))).filter(|_| roll(5) < 2).collect();
        let graph = graph(10, &edges);
        let mut layers = layers(&graph);
        order::reduce(&mut layers, &graph);
        order::refine(&mut layers, &graph);
        ours += crossings(&layers);
        best += fewest(&edges);
    }
    assert!(ours as f64 <= best as f64 * 1.05, "{ours} crossings where {best} are possible");
}

/// The fewest crossings of a two-layer graph with nodes 0 to 4 above and 5 to 9 below.
fn fewest(edges: &[(usize, usize)]) -> usize {
    let orders = permutations(5);
    let count = |upper: &[usize], lower: &[usize]| {
        let place: Vec<(usize, usize)> = edges.iter().map(|(a, b)| (upper[*a], lower[*b - 5])).collect();
        (0..place.len())
            .map(|i| {
                place[..i]
                    .iter()
                    .filter(|p| (p.0 < place[i].0 && p.1 > place[i].1) || (p.0 > place[i].0 && p.1 < place[i].1))
                    .count()
            })
            .sum()
    };
    orders.iter().flat_map(|u| orders.iter().map(move |l| count(u, l))).min().unwrap_or(0)
}

fn permutations(n: usize) -> Vec<Vec<usize>> {
    if n == 0 {
        return vec![Vec::new()];
    }
    let mut out = Vec::new();
    for rest in permutations(n - 1) {
        for at in 0..n {
            let mut one = rest.clone();
            one.insert(at, n - 1);
            out.push(one);
        }
    }
    out
}

#[test]
fn groups_stay_whole_and_in_one_order() {
    let edges: Vec<(usize, usize)> = (0..12).map(|i| (i, (i * 5 + 3) % 12)).collect();
    let mut mixed = graph(12, &edges);
    mixed.groups = vec![group(None), group(None), group(None)];
    for (i, node) in mixed.nodes.iter_mut().enumerate() {
        node.group = Some(i % 3);
    }
    let mut layers = layers(&mixed);
    order::reduce(&mut layers, &mixed);
    order::refine(&mut layers, &mixed);
    let mut before = std::collections::BTreeSet::new();
    for layer in &layers.layers {
        let mut order: Vec<usize> = layer.iter().filter_map(|u| layers.units[*u].groups.first().copied()).collect();
        order.dedup();
        let distinct: std::collections::BTreeSet<usize> = order.iter().copied().collect();
        assert_eq!(distinct.len(), order.len(), "a group is torn apart: {order:?}");
        for (i, a) in order.iter().enumerate() {
            before.extend(order[i + 1..].iter().map(|b| (*a, *b)));
        }
    }
    assert!(before.iter().all(|(a, b)| !before.contains(&(*b, *a))), "groups change places: {before:?}");
}

/// Layers in their order, with places across.
fn placed_across(graph: &Graph) -> (Layers, coordinates::Across) {
    let mut layers = layers(graph);
    order::reduce(&mut layers, graph);
    order::refine(&mut layers, graph);
    let across = coordinates::assign(&mut layers, graph, Care::Full);
    (layers, across)
}

#[test]
fn neighbours_keep_their_distance() {
    for variant in 0..20 {
        let edges: Vec<(usize, usize)> =
            (0..24).map(|i| ((i * 7 + variant) % 16, (i * 5 + 2 * variant + 1) % 16)).collect();
        let graph = graph(16, &edges);
        let (layers, across) = placed_across(&graph);
        for layer in 0..layers.layers.len() {
            for pair in layers.row(layer).windows(2) {
                let (a, b) = (pair[0], pair[1]);
                let least = layers.items[a].right + layers.gap(a, b) + layers.items[b].left;
                assert!(across.x[b] - across.x[a] >= least - 0.01, "variant {variant}");
            }
        }
    }
}

#[test]
fn large_rows_keep_their_distance_too() {
    let edges: Vec<(usize, usize)> = (1..3_000).map(|i| ((i - 1) / 40, i)).collect();
    let graph = graph(3_000, &edges);
    let (layers, across) = placed_across(&graph);
    for layer in 0..layers.layers.len() {
        for pair in layers.row(layer).windows(2) {
            assert!(across.x[pair[1]] - across.x[pair[0]] >= 80.0);
        }
    }
}

#[test]
fn tracks_of_a_channel_never_lie_on_each_other() {
    for variant in 0..20 {
        let edges: Vec<(usize, usize)> = (0..20).map(|i| (i % 7, 7 + (i * 3 + variant) % 9)).collect();
        let graph = graph(16, &edges);
        let (layers, across) = placed_across(&graph);
        let along = channels::assign(&layers, &graph, &across);
        let level = |l: usize| {
            let link = &layers.links[l];
            let (a, b) = (across.x[link.upper] + link.upper_port, across.x[link.lower] + link.lower_port);
            along.track[l].map(|y| (y, a.min(b), a.max(b)))
        };
        for a in 0..layers.links.len() {
            for b in a + 1..layers.links.len() {
                if let (Some((y, l, r)), Some((z, m, s))) = (level(a), level(b)) {
                    assert!(y != z || r <= m || s <= l, "variant {variant}: links {a} and {b} share a stretch");
                }
            }
        }
    }
}

#[test]
fn a_trunk_is_one_line_at_its_parent() {
    let mut tree = graph(5, &[(0, 1), (0, 2), (0, 3), (0, 4)]);
    tree.edges.iter_mut().for_each(|e| e.trunk = Some(7));
    let placement = place(&tree, LayeredOptions::default());
    let starts: Vec<_> = placement.routes.iter().map(|r| r.points[0]).collect();
    assert!(starts.iter().all(|p| *p == starts[0]), "{starts:?}");
    let tracks: std::collections::BTreeSet<i64> =
        placement.routes.iter().filter(|r| r.points.len() > 2).map(|r| (r.points[1].y * 64.0) as i64).collect();
    assert_eq!(tracks.len(), 1, "one level stretch");
}

#[test]
fn flanks_and_ways_back() {
    let mut flow = graph(4, &[(0, 1), (1, 2), (1, 3), (3, 0)]);
    flow.back_edges = BackEdges::Flanks;
    flow.edges[2].face = Face::Flank;
    let placement = place(&flow, LayeredOptions::default());
    let side = |v: usize, p: crate::geom::Point| {
        p.x <= placement.nodes[v].x + 0.01 || p.x >= placement.nodes[v].right() - 0.01
    };
    assert!(side(1, placement.routes[2].points[0]), "the branch leaves at a flank");
    let back = &placement.routes[3].points;
    assert!(side(3, back[0]) && side(0, back[back.len() - 1]), "the way back runs around the outside");
}

#[test]
fn what_stands_beside_is_tied_by_a_level_line() {
    let mut aside = graph(3, &[(0, 1), (0, 2)]);
    aside.nodes[2].beside = Some(0);
    for direction in [RankDirection::Down, RankDirection::Right, RankDirection::Up, RankDirection::Left] {
        aside.direction = direction;
        let placement = place(&aside, LayeredOptions::default());
        let line = &placement.routes[1].points;
        assert_eq!(line.len(), 2);
        let level = if direction.is_sideways() { line[0].x == line[1].x } else { line[0].y == line[1].y };
        assert!(level, "{direction:?}: {line:?}");
        assert!(!placement.nodes[0].grown(4.0).meets(placement.nodes[2]));
    }
}

#[test]
fn headings_turn_the_picture() {
    let chain = |direction| {
        let mut chain = graph(3, &[(0, 1), (1, 2)]);
        chain.direction = direction;
        place(&chain, LayeredOptions::default()).nodes
    };
    let (down, up) = (chain(RankDirection::Down), chain(RankDirection::Up));
    let (right, left) = (chain(RankDirection::Right), chain(RankDirection::Left));
    assert!(down[0].y < down[1].y && up[0].y > up[1].y);
    assert!(right[0].x < right[1].x && left[0].x > left[1].x);
    assert!(right.iter().all(|r| (r.w, r.h) == (80.0, 40.0)), "boxes are not turned");
}

#[test]
fn nothing_is_placed_for_nothing() {
    let placement = place(&Graph::default(), LayeredOptions::default());
    assert!(placement.nodes.is_empty() && placement.size == Size::default());
    let alone = place(&graph(1, &[]), LayeredOptions::default());
    assert_eq!((alone.size.w, alone.size.h), (80.0, 40.0));
    let mut empty_group = graph(1, &[]);
    empty_group.groups = vec![group(None)];
    let placement = place(&empty_group, LayeredOptions::default());
    assert!(placement.groups[0].w >= 60.0 && placement.groups[0].h.is_finite());
}

#[test]
fn outermost_groups_stack_in_rows() {
    // Two groups side by side, each three wide; nothing leads from one to the other.
    let mut side_by_side = graph(8, &[(0, 1), (0, 2), (0, 3), (4, 5), (4, 6), (4, 7)]);
    side_by_side.groups = vec![group(None), group(None)];
    for (i, node) in side_by_side.nodes.iter_mut().enumerate() {
        node.group = Some(i / 4);
    }
    let plain = place(&side_by_side, LayeredOptions::default());
    assert!(plain.groups[0].y < plain.groups[1].bottom() && plain.groups[1].y < plain.groups[0].bottom());
    let stacked = place(&side_by_side, LayeredOptions { rows: Some(2), ..LayeredOptions::default() });
    assert!(stacked.groups[0].bottom() < stacked.groups[1].y);
    assert_eq!(measure(&side_by_side, &stacked).faults, []);
    // What leads upwards decides the order.
    side_by_side.edges.push(Edge::new(Anchor::Node(7), Anchor::Node(0)));
    let turned = place(&side_by_side, LayeredOptions { rows: Some(2), ..LayeredOptions::default() });
    assert!(turned.groups[1].bottom() < turned.groups[0].y);
}
