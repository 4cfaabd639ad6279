//! Snapshots of small pictures: everything that is drawn, without the fonts and the source. A change
//! here is to be looked at before it is accepted.

mod support;

use insta::assert_snapshot;

/// The drawing without style sheet and metadata.
fn strokes(text: &str, name: &str) -> String {
    let svg = support::svg(text, name);
    let mut out = String::new();
    for line in svg.lines().filter(|l| !l.starts_with("<style>") && !l.starts_with("<metadata>")) {
        out.push_str(line);
        out.push('\n');
    }
    out
}

#[test]
fn a_sequence() {
    assert_snapshot!(strokes(
        "sequence s \"Storm\"\n  device buoy \"Buoy\"\n  buoy calls desk \"level 4 m\" returning \"noted\"\n    when \"over 4 m\"\n      sends keeper \"call-out\"\n",
        "s"
    ));
}

#[test]
fn a_flow() {
    assert_snapshot!(strokes(
        "flow f \"Tide\"\n  begin \"Begin\"\n  step a \"Read\"\n  decide \"High?\"\n    when \"yes\"\n      \"Warn\"\n    or \"no\"\n      go a \"again\"\n  finish \"End\"\n",
        "f"
    ));
}

#[test]
fn classes() {
    assert_snapshot!(strokes(
        "classes c \"Stations\"\n  class Station (abstract)\n    + name: Text\n  class Buoy extends Station\n  class Gauge extends Station\n  Station owns 1..* Sensor as sensors\n",
        "c"
    ));
}

#[test]
fn an_architecture() {
    assert_snapshot!(strokes(
        "architecture a \"Map\"\n  actor keeper \"Keeper\"\n  system core \"Core\"\n    service desk \"Desk\"\n      built \"Rust\"\n  keeper uses desk \"acknowledges\" over \"HTTPS\"\n",
        "a"
    ));
}
