//! What the layout makes of a text, as its users meet it: shapes that a hand knows, constraints, and pictures that are kept.

use crate::common::Folder;
use std::collections::BTreeMap;

/// Where the upper left corner of each element lies in a drawing: the first point of its outline.
fn places(svg: &str) -> BTreeMap<String, (f64, f64)> {
    let mut places = BTreeMap::new();
    for part in svg.split("<g data-element=\"").skip(1) {
        let name = part.split('"').next().unwrap_or_default().to_owned();
        let Some(path) = part.split(" d=\"M").nth(1) else { continue };
        let numbers: Vec<f64> =
            path.split(|c: char| !c.is_ascii_digit() && c != '.' && c != '-').filter_map(|n| n.parse().ok()).collect();
        places.insert(name, (numbers[0], numbers[1]));
    }
    places
}

/// Width over height of a drawing.
fn aspect(svg: &str) -> f64 {
    let number = |name: &str| -> f64 {
        let rest = svg.split(&format!(" {name}=\"")).nth(1).expect(name);
        rest.split('"').next().and_then(|n| n.parse().ok()).expect("a number")
    };
    number("width") / number("height")
}

/// The only picture of a text.
fn drawn(folder: &Folder, name: &str, text: &str) -> String {
    folder.write(&format!("{name}.bathy"), text);
    folder.run(&["-q", "render", &format!("{name}.bathy"), "--out", &format!("{name}.svg")]).ends_with(0);
    folder.read(&format!("{name}.svg"))
}

/// Services one after the other.
fn path(count: usize, words: &str) -> String {
    let services: String = (0..count).map(|i| format!("  service s{i} \"Relay {i}\"\n")).collect();
    let lines: String = (1..count).map(|i| format!("  s{} calls s{i}\n", i - 1)).collect();
    format!("architecture relays\n{words}{services}{lines}")
}

#[test]
fn a_path_runs_in_rows_back_and_forth() {
    let folder = Folder::new();
    let svg = drawn(&folder, "relays", &path(12, ""));
    assert!((0.9..2.4).contains(&aspect(&svg)), "{}", aspect(&svg));
    let at = places(&svg);
    let row = |i: usize| at[&format!("s{i}")].1;
    let first = (1..12).take_while(|i| row(*i) == row(0)).count() + 1;
    assert!((3..=6).contains(&first), "{first} in the first row");
    // The second row runs back: its first stands below the last of the first.
    let column = |i: usize| at[&format!("s{i}")].0;
    assert!(column(first + 1) < column(first) && row(first) > row(0), "{at:?}");
}

#[test]
fn a_path_is_read_along_its_heading() {
    let folder = Folder::new();
    let at = places(&drawn(&folder, "down", &path(12, "  heading down\n")));
    assert!(at["s1"].1 > at["s0"].1 && (at["s1"].0 - at["s0"].0).abs() < 12.0, "{at:?}");
    let at = places(&drawn(&folder, "left", &path(12, "  heading left\n")));
    assert!(at["s1"].0 < at["s0"].0, "{at:?}");
}

#[test]
fn a_strip_of_steps_is_broken_under_a_heading_as_well() {
    let folder = Folder::new();
    let steps: String = (0..16).map(|i| format!("  step s{i} \"Read gauge {i}\"\n")).collect();
    let svg = drawn(&folder, "strip", &format!("flow strip\n  heading right\n{steps}  finish \"Done\"\n"));
    assert!(aspect(&svg) < 4.0, "{}", aspect(&svg));
    let at = places(&svg);
    let rows: Vec<f64> = (0..16).map(|i| at[&format!("s{i}")].1).collect();
    // Every row is read to the right: whoever stands level with the one before stands right of it.
    for i in 1..16 {
        let is_level = (rows[i] - rows[i - 1]).abs() < 1.0;
        assert!(!is_level || at[&format!("s{i}")].0 > at[&format!("s{}", i - 1)].0, "step {i}");
    }
}

#[test]
fn then_keeps_its_direction_in_a_network() {
    let folder = Folder::new();
    let lines = "  d0 then d1\n  d0 then d2\n  d1 then d3\n  d2 then d3\n  d3 then d4\n  d2 then d5\n  d5 then d4\n";
    let at = places(&drawn(&folder, "net", &format!("network net\n  heading right\n{lines}")));
    for line in lines.lines() {
        let (a, b) = line.trim().split_once(" then ").expect("a line");
        assert!(at[a].0 < at[b].0, "{line}: {at:?}");
    }
}

#[test]
fn parties_stand_in_the_order_that_was_asked_for() {
    let folder = Folder::new();
    let text = "sequence s\n  party gauge\n  party model\n  party store\n  order store, gauge\n  gauge calls model \"levels\"\n  model calls store \"write\"\n";
    let at = places(&drawn(&folder, "s", text));
    assert!(at["store"].0 < at["model"].0 && at["model"].0 < at["gauge"].0, "{at:?}");
    folder.write(
        "s.bathy",
        text.replace("  order store, gauge\n", "  order store, gauge\n  place gauge left of store\n"),
    );
    folder.run(&["check", "s.bathy"]).says("hint-not-kept").says("could not keep this `place`");
}

#[test]
fn what_cannot_be_kept_changes_nothing_and_names_what_is_in_its_way() {
    let folder = Folder::new();
    let text = "architecture a\n  service gauge\n  service model\n  service page\n  gauge sends model\n  page reads model\n  place gauge right of page\n";
    let before = places(&drawn(&folder, "a", text));
    folder.write("b.bathy", format!("{text}  place page right of gauge\n"));
    let run = folder.run(&["render", "b.bathy", "--out", "b.svg"]).ends_with(0);
    run.says("could not keep this `place` beside `place gauge right of page`").says("take back one of the two");
    assert_eq!(places(&folder.read("b.svg")), before);
}

#[test]
fn a_pin_in_the_way_of_another_is_named() {
    let folder = Folder::new();
    folder.write(
        "p.bathy",
        "architecture p\n  service gauge\n  service model\n  gauge sends model\n  pin gauge 100 40\n  pin model 110 44\n",
    );
    let run = folder.run(&["render", "p.bathy", "--out", "p.svg"]).ends_with(0);
    run.says("could not keep this `pin` beside `pin gauge 100 40`");
}

#[test]
fn a_kept_picture_stays_and_one_that_is_given_up_says_why() {
    let folder = Folder::new();
    let map = |parts: &str, label: &str| {
        format!(
            "architecture map\n  system core\n    service gateway \"{label}\"\n    store readings\n{parts}  system field\n    device buoy\n    device mast\n  buoy sends mast\n  mast sends gateway \"frames\"\n  gateway writes readings \"levels\"\n"
        )
    };
    let before = places(&drawn(&folder, "map", &map("", "Gateway")));
    let keep = |text: String| {
        folder.write("map.bathy", text);
        folder.run(&["render", "map.bathy", "--keep", "map.svg", "--explain", "--out", "kept.svg"]).ends_with(0)
    };
    keep(map("", "Gates")).says("the earlier picture kept");
    let after = places(&folder.read("kept.svg"));
    for name in ["core.readings", "field.buoy", "field.mast"] {
        assert_eq!(after[name], before[name], "{name}");
    }
    keep(map("    service rules\n", "Gateway")).says("the earlier picture kept");
    let many: String = (0..12).map(|i| format!("    service other{i}\n")).collect();
    keep(map(&many, "Gateway")).says("the earlier picture given up: more than half of this one is new");
}

#[test]
fn where_a_line_finds_no_way_the_others_make_room_and_elements_stay() {
    let folder = Folder::new();
    // A grid of nine, as close as can be; what is new hangs on the one in the middle.
    let services: String = (0..9).map(|i| format!("  service n{i} \"Gauge {i}\"\n")).collect();
    let joined = [(0, 1), (0, 3), (1, 2), (1, 4), (2, 5), (3, 4), (3, 6), (4, 5), (4, 7), (5, 8), (6, 7), (7, 8)];
    let lines: String = joined.iter().map(|(a, b)| format!("  n{a} uses n{b}\n")).collect();
    let grid = format!("architecture grid\n{services}{lines}");
    let before = places(&drawn(&folder, "grid", &grid));
    folder.write("grid.bathy", format!("{grid}  service fresh \"Fresh\"\n  n4 uses fresh\n"));
    let run =
        folder.run(&["render", "grid.bathy", "--keep", "grid.svg", "--explain", "--out", "kept.svg"]).ends_with(0);
    run.says("the earlier picture kept");
    let after = places(&folder.read("kept.svg"));
    let offset = |name: &str| (after[name].0 - before[name].0, after[name].1 - before[name].1);
    for name in before.keys().filter(|name| name.starts_with('n')) {
        assert_eq!(offset(name), offset("n0"), "{name}");
    }
}

const LANES: &str = "flow haul\n  lane quay \"Quay\"\n  lane office \"Office\"\n  in quay\n    begin \"Berth\"\n    step note \"Note the draught\"\n  in office\n    step file \"File it\"\n  in quay\n    finish \"Cast off\"\n";

#[test]
fn pins_hold_in_lanes() {
    let folder = Folder::new();
    folder.write("haul.bathy", format!("{LANES}  pin note 160 240\n  pin file 420 240\n"));
    let run = folder.run(&["render", "haul.bathy", "--out", "haul.svg"]).ends_with(0);
    assert!(!run.err.contains("hint-not-kept"), "{}", run.err);
    let at = places(&folder.read("haul.svg"));
    assert_eq!(at["note"].1, at["file"].1, "level: {at:?}");
    // Not in the other lane.
    folder.write("haul.bathy", format!("{LANES}  pin note 420 240\n  pin file 160 240\n"));
    folder.run(&["render", "haul.bathy", "--out", "haul.svg"]).says("could not keep this `pin`");
}

#[test]
fn a_picture_with_lanes_is_kept() {
    let folder = Folder::new();
    let before = places(&drawn(&folder, "haul", LANES));
    folder.write("haul.bathy", LANES.replace("File it", "File it in the long book of draughts"));
    let run =
        folder.run(&["render", "haul.bathy", "--keep", "haul.svg", "--explain", "--out", "kept.svg"]).ends_with(0);
    run.says("the earlier picture kept");
    let after = places(&folder.read("kept.svg"));
    assert_eq!(after["note"], before["note"]);
}

#[test]
fn decisions_are_read_to_the_right() {
    let folder = Folder::new();
    let tree = "tree close\n  decide q \"Close the barrier?\"\n    outcome dry \"Dry\" when \"yes\"\n    outcome wet \"Wet\" when \"no\"\n";
    let at = places(&drawn(&folder, "close", tree));
    assert!(at["dry"].0 > at["q"].0 && at["wet"].1 > at["dry"].1, "{at:?}");
}

/// The part of what both drawings have that stands elsewhere, by the shift that most of it shares.
fn part_moved(before: &str, after: &str) -> f64 {
    let (before, after) = (places(before), places(after));
    let shifts: Vec<(i64, i64)> = before
        .iter()
        .filter_map(|(name, from)| after.get(name).map(|to| (from, to)))
        .map(|(from, to)| ((to.0 - from.0).round() as i64, (to.1 - from.1).round() as i64))
        .collect();
    let shared = shifts.iter().map(|shift| shifts.iter().filter(|s| *s == shift).count()).max().unwrap_or(0);
    1.0 - shared as f64 / shifts.len().max(1) as f64
}

#[test]
fn one_line_in_the_demo_moves_little_of_its_map() {
    let text = std::fs::read_to_string(crate::common::repository().join("demo/tidewatch/architecture.bathy"));
    let text = text.expect("the demo");
    let renamed = |from: &str, to: &str| {
        assert!(text.contains(from), "{from}");
        text.replacen(from, to, 1)
    };
    // What was there, and the line that follows it now; nothing where it is renamed.
    let edits = [
        ("a longer label", renamed("\"Alert desk\"", "\"Alert and duty desk\"")),
        ("a shorter label", renamed("\"Ingest gateway\"", "\"Gateway\"")),
        (
            "a part more",
            renamed("part journal \"Replay journal\"\n", "part journal \"Replay journal\"\n      part clock\n"),
        ),
        ("an element more", renamed("store tables", "service tutor \"Tutor\"\n    store tables")),
        ("a technology", renamed("built \"Kotlin\"", "built \"Kotlin and a page in the browser\"")),
        ("another kind", renamed("queue stream", "store stream")),
        (
            "a line more",
            format!("{}\n", text.trim_end()).replacen("  zone shore", "  mariner uses forecast\n  zone shore", 1),
        ),
        ("a remark", renamed("system portal", "// The public looks here.\n  system portal")),
        ("an actor more", renamed("  system met", "  actor pilot \"Pilot\"\n  pilot uses harbours\n  system met")),
    ];
    let folder = Folder::new();
    folder.write("coast.bathy", &text);
    let draw = |out: &str, more: &[&str]| {
        let words = ["-q", "render", "coast.bathy", "--only", "tidewatch", "--out", out];
        folder.run(&[&words[..], more].concat()).ends_with(0);
        folder.read(out)
    };
    let before = draw("before.svg", &[]);
    assert!(places(&before).len() > 20);
    for (what, edited) in edits {
        folder.write("coast.bathy", edited);
        let after = draw("after.svg", &["--keep", "before.svg"]);
        let moved = part_moved(&before, &after);
        assert!(moved <= 0.25, "{what} moved {moved}");
        // Drawn once more from what was kept, nothing moves at all.
        assert_eq!(draw("again.svg", &["--keep", "after.svg"]), after, "{what}");
    }
}

#[test]
fn a_label_that_grows_moves_nothing_where_there_is_room_beside_it() {
    let folder = Folder::new();
    let text = |label: &str| {
        format!(
            "architecture yard\n  system left\n    service crane\n    service \"{label}\"\n  system right\n    service buoy\n  crane uses buoy\n"
        )
    };
    let before = drawn(&folder, "yard", &text("Winch"));
    folder.write("yard.bathy", text("Winch of the old harbour"));
    folder.run(&["-q", "render", "yard.bathy", "--keep", "yard.svg", "--out", "kept.svg"]).ends_with(0);
    let (before, after) = (places(&before), places(&folder.read("kept.svg")));
    let apart = |at: &BTreeMap<String, (f64, f64)>| {
        (at["right.buoy"].0 - at["left.crane"].0, at["right.buoy"].1 - at["left.crane"].1)
    };
    assert_eq!(apart(&before), apart(&after), "neither of the others moved against the other");
}

#[test]
fn texts_of_straight_lines_lie_on_no_line() {
    // From one box to many below it: side by side there is no room for the texts.
    let folder = Folder::new();
    let targets: String = (0..5).map(|i| format!("  service t{i} \"Relay {i}\"\n")).collect();
    let lines: String = (0..5).map(|i| format!("  hub sends t{i} \"wind and pressure {i}\"\n")).collect();
    let across = "  t0 uses t3\n  t1 uses t4\n  t0 uses t4 \"levels and swell\"\n";
    folder.write(
        "web.bathy",
        format!("architecture web\n  route straight\n  service hub \"Hub\"\n{targets}{lines}{across}"),
    );
    let run = folder.run(&["render", "web.bathy", "--out", "web.svg", "--explain"]).ends_with(0);
    assert!(!run.err.contains("lie on others"), "{}", run.err);
}

#[test]
fn columns_of_a_long_flow_are_even() {
    let folder = Folder::new();
    let steps: String = (0..44).map(|i| format!("  step s{i} \"Check gauge {i}\"\n")).collect();
    let svg = drawn(&folder, "round", &format!("flow round\n  begin \"Begin\"\n{steps}  finish \"End\"\n"));
    let mut columns: BTreeMap<i64, usize> = BTreeMap::new();
    for (name, at) in places(&svg) {
        if name.starts_with('s') {
            *columns.entry((at.0 / 100.0).round() as i64).or_default() += 1;
        }
    }
    let (least, most) = (columns.values().min().copied().unwrap_or(0), columns.values().max().copied().unwrap_or(0));
    assert!(columns.len() > 1 && most <= 2 * least, "{columns:?}");
}

#[test]
fn a_ring_runs_out_and_back_in_straight_lines() {
    let folder = Folder::new();
    for n in [5, 8, 10, 13] {
        let back = format!("  s{} calls s0\n", n - 1);
        let svg = drawn(&folder, &format!("ring{n}"), &(path(n, "") + &back));
        let at = places(&svg);
        assert_eq!(at.len(), n);
        // Each stands level with the next, or above it.
        for i in 0..n {
            let (a, b) = (at[&format!("s{i}")], at[&format!("s{}", (i + 1) % n)]);
            let is_level = (a.1 - b.1).abs() < 30.0;
            assert!(is_level || (a.0 - b.0).abs() < 40.0, "{i} of {n}: {at:?}");
        }
        let lines = svg.split("data-role=\"line\" d=\"").skip(1).filter_map(|part| part.split('"').next());
        assert!(
            lines.clone().count() == n && lines.into_iter().all(|line| !line.contains('C')),
            "{n}: a line has a corner"
        );
    }
}
