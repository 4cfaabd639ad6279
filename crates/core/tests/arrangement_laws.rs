//! Laws of every arrangement and routing, on the generated corpus: nothing overlaps, nothing is lost, constraints that are
//! not reported as dropped are kept, an earlier picture is kept, and the answer does not depend on threads.

mod support;

use bathygram_core::geom::pt;
use bathygram_core::jobs::Jobs;
use bathygram_core::layout::score::{Fault, measure};
use bathygram_core::layout::{self, Anchor, Arrangement, Edge, Graph, Node, PlacementConstraint, Placing, Routing};
use bathygram_core::pipeline::{self, Reading, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_corpus::{Sample, edits, samples};
use proptest::prelude::*;
use std::sync::atomic::{AtomicUsize, Ordering};

fn read(text: &str) -> Reading {
    let reading = pipeline::read(Source::new("sample.bathy", text), "sample", &Setting::default());
    assert!(!reading.has_errors(), "{:?}\n{text}", reading.diagnostics.first());
    reading
}

fn small() -> Vec<Sample> {
    samples().into_iter().filter(|s| s.text.lines().count() < 70).collect()
}

/// A text with one more word about its picture.
fn with(text: &str, words: &str) -> String {
    let (first, rest) = text.split_once('\n').expect("a block has a first line");
    format!("{first}\n  {words}\n{rest}")
}

/// What may never be, whatever was asked for.
fn grave(fault: &Fault) -> bool {
    !matches!(fault, Fault::LabelOnLine(..) | Fault::LabelOnLabel(..) | Fault::LabelOnNode(..) | Fault::TitleStruck(..))
}

/// The constraints that a layout did not keep.
fn dropped(report: &layout::Report) -> Vec<usize> {
    report.dropped.iter().map(|d| d.constraint).collect()
}

#[test]
fn the_corpus_is_drawn_without_fault() {
    let studio = Studio::new();
    for sample in small() {
        let reading = read(&sample.text);
        let (graph, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
        assert_eq!(measure(&graph, &laid.placement).faults, [], "{}", sample.name);
        assert_eq!(laid.placement.routes.len(), graph.edges.len());
    }
}

#[test]
fn every_heading_is_drawn_without_fault() {
    let studio = Studio::new();
    for sample in small() {
        for heading in ["up", "right", "left"] {
            let reading = read(&with(&sample.text, &format!("heading {heading}")));
            let (graph, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
            assert_eq!(measure(&graph, &laid.placement).faults, [], "{} {heading}", sample.name);
        }
    }
}

#[test]
fn trees_planar_graphs_and_grids_have_no_crossing() {
    let studio = Studio::new();
    for sample in samples().iter().filter(|s| ["trees", "grids", "series-parallel", "stars"].contains(&s.family)) {
        let reading = read(&sample.text);
        let (graph, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
        assert_eq!(measure(&graph, &laid.placement).crossings, 0, "{}", sample.name);
    }
}

#[test]
fn stars_and_fans_fit_a_page() {
    let studio = Studio::new();
    for sample in samples().iter().filter(|s| s.family == "stars") {
        let reading = read(&sample.text);
        let (_, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
        let size = laid.placement.size;
        let (is_small, aspect) = (size.w <= 900.0 && size.h <= 600.0, size.w / size.h);
        assert!(is_small || (0.5..=2.4).contains(&aspect), "{}: {size:?}", sample.name);
    }
}

#[test]
fn long_flows_are_broken_into_columns() {
    let studio = Studio::new();
    let aspect = |text: &str| {
        let reading = read(text);
        let (graph, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
        assert_eq!(measure(&graph, &laid.placement).faults, []);
        laid.placement.size.w / laid.placement.size.h
    };
    for name in ["flow_40", "flow_80", "flow_160"] {
        let sample = samples().into_iter().find(|s| s.name == name).expect("it is in the corpus");
        let asked = aspect(&with(&sample.text, "heading down"));
        assert!(aspect(&sample.text) > 0.35, "{name}");
        assert!(asked > 0.35, "{name}: each column is read downwards");
        let rows = aspect(&with(&sample.text, "heading right"));
        assert!(rows < 3.0, "{name}: each row is read to the right, {rows}");
    }
}

#[test]
fn groups_stand_on_their_own_where_one_order_of_layers_is_a_strip() {
    let studio = Studio::new();
    let mut text = String::from("architecture drill\n  heading right\n");
    for zone in ["Field", "Core", "Warnings"] {
        text += &format!("  system \"{zone}\"\n");
        (0..3).for_each(|i| text += &format!("    service {}{i}\n", zone.to_lowercase()));
    }
    let names: Vec<String> =
        ["field", "core", "warnings"].iter().flat_map(|z| (0..3).map(move |i| format!("{z}{i}"))).collect();
    names.windows(2).for_each(|pair| text += &format!("  {} uses {}\n", pair[0], pair[1]));
    let reading = read(&text);
    let (graph, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
    let aspect = |p: &layout::Placement| p.size.w / p.size.h;
    let strip = layout::layered::place(&graph, layout::layered::LayeredOptions::default());
    assert!(aspect(&strip) > 5.0, "{}", aspect(&strip));
    assert!(aspect(&laid.placement) < 2.5, "{}", aspect(&laid.placement));
    // The zones stand in reading order, and the lines are those of a chain.
    let zones: Vec<f64> = laid.placement.groups.iter().map(|r| r.x).collect();
    assert!(zones.is_sorted(), "{zones:?}");
    let measures = measure(&graph, &laid.placement);
    assert_eq!((measures.crossings, measures.faults), (0, vec![]));
    assert!(measures.bends <= 4, "{}", measures.bends);
}

#[test]
fn flows_go_forward_as_they_are_written() {
    // Every repetition leads back to the second step, which does not make that one the last.
    let mut text = String::from("flow watch\n  begin\n  step first \"Read the gauge\"\n");
    for i in 0..5 {
        text +=
            &format!("  decide \"Calm {i}?\"\n    when \"no\"\n      go first\n    or \"yes\"\n      \"Wait {i}\"\n");
    }
    let reading = read(&with(&text, "heading down"));
    let (graph, laid) = support::place(&Studio::new(), &reading, &support::views(&reading)[0], None).expect("a graph");
    let level = |end: Anchor| match end {
        Anchor::Node(v) => laid.placement.nodes[v].y,
        Anchor::Group(g) => laid.placement.groups[g].y,
    };
    let back = graph.edges.iter().filter(|e| level(e.from) > level(e.to)).count();
    assert_eq!(back, 5);
    assert!(laid.placement.nodes.iter().all(|n| n.y >= laid.placement.nodes[0].y), "the beginning stands on top");
}

#[test]
fn every_arrangement_and_routing_keeps_things_apart() {
    let studio = Studio::new();
    let arrangements = ["layered", "tree", "radial", "force", "grid"];
    let routings = ["stepped", "curved", "straight"];
    let samples: Vec<Sample> = small().into_iter().filter(|s| s.text.starts_with("architecture")).collect();
    for (i, sample) in samples.iter().enumerate().filter(|(i, _)| i % 3 == 0) {
        for arrangement in arrangements {
            let routing = routings[(i / 3 + arrangement.len()) % 3];
            let text = with(&with(&sample.text, &format!("arrange {arrangement}")), &format!("route {routing}"));
            let reading = read(&text);
            let (graph, laid) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
            let faults: Vec<Fault> = measure(&graph, &laid.placement).faults.into_iter().filter(grave).collect();
            // A curve may touch what its stepped line kept clear of by a hair.
            let faults: Vec<Fault> = faults.into_iter().filter(|f| !matches!(f, Fault::SharedRun(..))).collect();
            assert!(faults.len() <= 1, "{} as {arrangement}, {routing}: {faults:?}", sample.name);
        }
    }
}

#[test]
fn unchanged_things_stay_where_they_were() {
    let studio = Studio::new();
    let (mut still, mut all) = (0, 0);
    for (seed, sample) in small().iter().enumerate().filter(|(i, _)| i % 4 == 0) {
        let reading = read(&sample.text);
        let picture = support::draw(&studio, &reading, &support::views(&reading)[0]);
        // The law: its own picture gives that picture.
        assert_eq!(support::draw_near(&studio, &reading, &support::views(&reading)[0], Some(&picture)), picture);
        let (_, before) = support::place(&studio, &reading, &support::views(&reading)[0], None).expect("a graph");
        for edit in edits(&sample.text, seed as u64) {
            let changed = read(&edit.text);
            let diagram = &support::views(&changed)[0];
            let (graph, laid) = support::place(&studio, &changed, diagram, Some(&picture)).expect("a graph");
            assert_eq!(measure(&graph, &laid.placement).faults, [], "{}: {}", sample.name, edit.what);
            let nodes = before.placement.nodes.iter().zip(&laid.placement.nodes);
            let (dx, dy) = {
                let (a, b) = (before.placement.nodes[0].middle(), laid.placement.nodes[0].middle());
                (b.x - a.x, b.y - a.y)
            };
            let stays = nodes.filter(|(a, b)| {
                let (a, b) = (a.middle(), b.middle());
                (b.x - a.x - dx).abs() < 1.0 && (b.y - a.y - dy).abs() < 1.0
            });
            still += stays.count();
            all += before.placement.nodes.len();
        }
    }
    assert!(still * 10 > all * 8, "{still} of {all} elements stayed");
}

fn graph(nodes: usize, edges: &[(usize, usize)]) -> Graph {
    let size = bathygram_core::geom::Size::new(100.0, 48.0);
    let edges = edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect();
    Graph { nodes: vec![Node { size, ..Node::default() }; nodes], edges, ..Graph::default() }
}

#[test]
fn constraints_are_kept_or_reported() {
    let node = Anchor::Node;
    let mut wished = graph(6, &[(0, 1), (1, 2), (0, 3), (3, 4), (2, 5)]);
    wished.constraints = vec![
        PlacementConstraint::Row(vec![node(1), node(2)]),
        PlacementConstraint::Order(vec![node(3), node(1)]),
        PlacementConstraint::Place(node(4), Placing::Left, node(5)),
        // Nothing stands above what leads to it.
        PlacementConstraint::Place(node(5), Placing::Above, node(0)),
        PlacementConstraint::Order(vec![node(1), node(3)]),
    ];
    let laid = layout::place(&wished);
    assert_eq!(dropped(&laid.report), [3, 4]);
    let at = |v: usize| laid.placement.nodes[v].middle();
    assert_eq!(at(1).y, at(2).y);
    assert!(at(3).x < at(1).x);
    assert!(at(4).x < at(5).x && (at(4).y - at(5).y).abs() < 40.0);
    assert_eq!(measure(&wished, &laid.placement).faults, []);
}

#[test]
fn pins_hold_and_push() {
    let mut pinned = graph(4, &[(0, 1), (1, 2), (2, 3)]);
    pinned.constraints = vec![
        PlacementConstraint::Pin(Anchor::Node(3), pt(400.0, 40.0)),
        PlacementConstraint::Pin(Anchor::Node(1), pt(120.0, 200.0)),
    ];
    let laid = layout::place(&pinned);
    assert_eq!(dropped(&laid.report), Vec::<usize>::new());
    let origin = laid.placement.origin;
    assert_eq!(laid.placement.nodes[3].middle(), pt(400.0 + origin.x, 40.0 + origin.y));
    assert_eq!(laid.placement.nodes[1].middle(), pt(120.0 + origin.x, 200.0 + origin.y));
    assert_eq!(measure(&pinned, &laid.placement).faults, []);
    // Two things in one place: the first pin holds, the second is reported.
    pinned.constraints = vec![
        PlacementConstraint::Pin(Anchor::Node(0), pt(200.0, 60.0)),
        PlacementConstraint::Pin(Anchor::Node(1), pt(210.0, 60.0)),
    ];
    assert_eq!(dropped(&layout::place(&pinned).report), [1]);
}

#[test]
fn force_has_a_limit_that_is_reported() {
    let at = |nodes: usize| {
        let edges: Vec<(usize, usize)> = (1..nodes).map(|i| (i / 3, i)).collect();
        layout::place(&Graph { arrangement: Some(Arrangement::Force), ..graph(nodes, &edges) }).report.arrangement
    };
    assert_eq!(at(40), Arrangement::Force);
    assert_eq!(at(401), Arrangement::Layered);
}

#[test]
fn lanes_keep_to_layers_and_that_is_reported() {
    for sample in samples().iter().filter(|s| s.family == "lanes") {
        for asked in ["grid", "radial", "force"] {
            let reading = read(&with(&sample.text, &format!("arrange {asked}")));
            let (graph, laid) = support::place(&Studio::new(), &reading, &support::views(&reading)[0], None)
                .expect("a flow is a graph");
            assert_eq!(laid.report.arrangement, Arrangement::Layered);
            assert_eq!(measure(&graph, &laid.placement).faults, [], "{} as {asked}", sample.name);
            let drawing = support::drawing(&Studio::new(), &reading, &support::views(&reading)[0]);
            assert!(drawing.unmet.iter().any(|unmet| unmet.word == "arrange"), "{}", sample.name);
        }
    }
}

#[test]
fn rows_come_before_places() {
    let node = Anchor::Node;
    let mut wished = graph(3, &[(0, 1), (0, 2)]);
    wished.constraints = vec![
        PlacementConstraint::Place(node(1), Placing::Above, node(2)),
        PlacementConstraint::Row(vec![node(1), node(2)]),
    ];
    let laid = layout::place(&wished);
    assert_eq!(dropped(&laid.report), [0], "the place, though it stands first");
}

#[test]
fn spacing_widens_gaps() {
    let small = layout::place(&graph(5, &[(0, 1), (0, 2), (1, 3), (2, 4)])).placement.size;
    let wide = Graph { spacing: 2.0, ..graph(5, &[(0, 1), (0, 2), (1, 3), (2, 4)]) };
    let wide = layout::place(&wide).placement.size;
    assert!(wide.w > small.w && wide.h > small.h);
}

/// This many threads, which share the work out by chance.
struct Crew(usize);

impl Jobs for Crew {
    fn run(&self, count: usize, work: &(dyn Fn(usize) + Sync)) {
        let next = AtomicUsize::new(0);
        let pull = || {
            while let Some(i) = Some(next.fetch_add(1, Ordering::Relaxed)).filter(|i| *i < count) {
                work(i);
            }
        };
        std::thread::scope(|scope| (0..self.0).for_each(|_| drop(scope.spawn(pull))));
    }
}

#[test]
fn threads_change_nothing() {
    for name in ["nested_3_20", "nested_tangled_3_20", "random_dense_20", "star_40"] {
        let sample = samples().into_iter().find(|s| s.name == name).expect("it is in the corpus");
        let reading = read(&sample.text);
        let draw = |studio: Studio| support::draw(&studio, &reading, &support::views(&reading)[0]);
        let alone = draw(Studio::new());
        for threads in [1, 2, 7] {
            assert_eq!(draw(Studio::with_jobs(Box::new(Crew(threads)))), alone, "{name} with {threads}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn no_random_graph_breaks_an_arrangement(
        nodes in 1usize..24, pairs in proptest::collection::vec((0usize..24, 0usize..24), 0..40), which in 0usize..6,
        routing in 0usize..3,
    ) {
        let edges: Vec<(usize, usize)> = pairs.iter().map(|(a, b)| (a % nodes, b % nodes)).collect();
        let mut graph = graph(nodes, &edges);
        graph.arrangement =
            [None, Some(Arrangement::Layered), Some(Arrangement::Tree), Some(Arrangement::Radial), Some(Arrangement::Force), Some(Arrangement::Grid)][which];
        graph.routing = [Routing::Stepped, Routing::Curved, Routing::Straight][routing];
        let laid = layout::place(&graph);
        prop_assert_eq!(laid.placement.routes.len(), edges.len());
        for fault in measure(&graph, &laid.placement).faults {
            prop_assert!(!matches!(fault, Fault::Overlap(..) | Fault::Nowhere(_) | Fault::Lost(_)), "{fault}");
        }
        prop_assert_eq!(&layout::place(&graph), &laid);
    }

    #[test]
    fn the_order_of_lines_does_not_change_what_is_drawn(seed in 0usize..1000) {
        // Relations in another order: the same elements and lines are there, whatever their places.
        let edges: Vec<(usize, usize)> = (0..14).map(|i| ((i * 7 + seed) % 9, (i * 5 + seed / 3) % 9)).collect();
        let mut turned = edges.clone();
        turned.rotate_left(seed % 14);
        let count = |edges: &[(usize, usize)]| {
            let graph = graph(9, edges);
            let laid = layout::place(&graph);
            let lines = laid.placement.routes.iter().filter(|r| r.points.len() > 1).count();
            (laid.placement.nodes.len(), lines, measure(&graph, &laid.placement).faults.len())
        };
        prop_assert_eq!(count(&edges), count(&turned));
    }
}

#[test]
fn a_group_reads_its_own_way() {
    let text = "architecture a\n  device buoy\n  system core\n    heading right\n    service gateway\n    store readings\n    \
        gateway writes readings \"levels\"\n  service rules\n  buoy sends gateway\n  readings sends rules \"levels\"\n";
    let reading = read(text);
    assert_eq!(reading.diagnostics.len(), 0, "{:?}", reading.diagnostics);
    let (graph, laid) = support::place(&Studio::new(), &reading, &support::views(&reading)[0], None).expect("a graph");
    assert_eq!(measure(&graph, &laid.placement).faults, []);
    let at = |v: usize| laid.placement.nodes[v].middle();
    let (buoy, gateway, readings, rules) = (at(0), at(1), at(2), at(3));
    assert!(gateway.x < readings.x && gateway.y == readings.y, "inside to the right");
    assert!(buoy.y < gateway.y && readings.y < rules.y, "outside down");
}
