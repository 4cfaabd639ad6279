//! What a careful hand does without being asked: siblings level, bars even, groups beside each other, branches apart.

mod support;

use bathygram_core::geom::Rect;
use bathygram_core::layout::score::measure;
use bathygram_core::layout::{Graph, Laid};
use bathygram_core::pipeline::Studio;
use bathygram_core::scene::Places;
use support::{drawing, good, place, views};

/// Where the only picture of a text has its elements and lines.
fn places(text: &str) -> Places {
    let reading = good(text);
    drawing(&Studio::new(), &reading, &views(&reading)[0]).places
}

/// Its layout.
fn laid(text: &str) -> (Graph, Laid) {
    let reading = good(text);
    place(&Studio::new(), &reading, &views(&reading)[0], None).expect("a graph")
}

fn node(places: &Places, key: &str) -> Rect {
    places.nodes.iter().find(|(k, _)| k == key).unwrap_or_else(|| panic!("no {key}")).1
}

fn group(places: &Places, key: &str) -> Rect {
    places.groups.iter().find(|(k, _)| k == key).unwrap_or_else(|| panic!("no {key}")).1
}

/// How often the line with a key turns.
fn bends(places: &Places, key: &str) -> usize {
    places.lines.iter().find(|(k, _)| k.starts_with(key)).unwrap_or_else(|| panic!("no {key}")).1.bends()
}

const FAMILY: &str = "classes kinds\n  class Sensor\n    + read(): Metres\n  class Gauge extends Sensor\n    + zero: Metres\n  \
    class Buoy extends Sensor\n    + drift: Metres\n    + height: Metres\n  class Radar extends Sensor\n";

#[test]
fn siblings_are_level_whatever_else_joins_them() {
    let text = format!("{FAMILY}  Gauge knows 1 Buoy as reference\n  Station owns 1..* Sensor\n  Station owns Radar\n");
    let places = places(&text);
    let tops: Vec<f64> = ["Gauge", "Buoy", "Radar"].map(|key| node(&places, key).y).to_vec();
    assert!(tops.iter().all(|top| *top == tops[0]), "{tops:?}");
    let (graph, laid) = laid(&text);
    assert_eq!(measure(&graph, &laid.placement).faults, [], "the role finds its room between the two");
    assert_eq!(bends(&places, "Gauge knows Buoy"), 0, "though the two are not equally high");
}

#[test]
fn siblings_that_cannot_be_level_are_drawn_without_fault() {
    // What one inherits from the other cannot stand beside it.
    let (graph, laid) = laid(&format!("{FAMILY}  class Float extends Gauge, Sensor\n"));
    assert_eq!(measure(&graph, &laid.placement).faults, []);
}

#[test]
fn bars_of_parallel_parts_are_equally_wide_and_entered_in_their_middle() {
    let text = "flow f\n  step read \"Read the gauges\"\n  together\n    step surge \"Compute surge\"\n  and\n    step chart \"Draw the chart\"\n  and\n    \
                decide storm \"Storm?\"\n      when \"yes\"\n        step warn \"Warn\"\n      or \"no\"\n        step log \"Log\"\n  step publish \"Publish\"\n  finish \"Done\"\n";
    let (graph, laid) = laid(text);
    let bars: Vec<Rect> =
        (0..graph.nodes.len()).filter(|v| graph.nodes[*v].stretches).map(|v| laid.placement.nodes[v]).collect();
    assert_eq!(bars.len(), 2);
    assert_eq!((bars[0].x, bars[0].w), (bars[1].x, bars[1].w));
    let places = places(text);
    for step in ["read", "publish"] {
        assert_eq!(node(&places, step).middle().x, bars[0].middle().x, "{step}");
    }
}

#[test]
fn packages_and_racks_stand_beside_or_above_each_other() {
    let packages = "classes plan\n  group gauges\n    class Gauge\n    class Buoy\n  group forecasts\n    class Forecast\n    class Surge\n  Forecast uses Gauge\n";
    let racks = "network racks\n  group gauges\n    device sw1\n    device sw2\n  group forecasts\n    device sw3\n    device log\n  \
                 sw1 at eth0 joins sw3 at eth1\n  sw1 at eth2 joins sw2 at eth3\n  sw2 at eth1 joins log at lan0\n";
    for text in [packages, racks] {
        let places = places(text);
        let (a, b) = (group(&places, "gauges"), group(&places, "forecasts"));
        assert!(a.y == b.y || a.x == b.x, "a staircase: {a:?} {b:?}");
    }
}

#[test]
fn the_title_before_a_lane_is_wrapped() {
    let lanes = |heading: &str| {
        format!(
            "flow f\n  heading {heading}\n  lane clerk \"Harbour clerk and his assistant\"\n  in clerk\n    step take \"Take the report\"\n    finish \"Closed\"\n"
        )
    };
    let title = |heading: &str| laid(&lanes(heading)).0.groups[0].title;
    let (before, above) = (title("right"), title("down"));
    assert!(before.w <= 112.0 && before.h > above.h && above.w > 150.0, "{before:?} {above:?}");
}

#[test]
fn straight_lines_turn_at_corners_and_never_step() {
    let mut text = String::from("architecture net\n  route straight\n");
    for (a, b) in [(0, 1), (0, 2), (1, 3), (2, 3), (0, 3), (3, 4), (1, 4), (0, 4), (2, 4)] {
        text += &format!("  s{a} uses s{b}\n");
    }
    let places = places(&text);
    for (key, route) in &places.lines {
        let is_stepped = route.points.windows(2).all(|p| p[0].x == p[1].x || p[0].y == p[1].y);
        assert!(route.bends() == 0 || !is_stepped, "{key}: {:?}", route.points);
    }
}
