//! A small diagram for every construct of a flow in every other, in lanes and without, every heading and every kind of
//! line; for every construct of a state machine in every place; and trees of every kind in every heading.

use crate::Sample;
use std::fmt::Write;

/// What opens a body in a flow: the line that opens it, and lines that continue it, each with a body of its own.
const OUTER: &[(&str, &str, &[&str])] = &[
    ("decide", "decide \"Above the mark?\"\n  when \"yes\"", &["  or \"no\""]),
    ("decide-three", "decide \"Which way?\"\n  when \"rising\"", &["  or \"falling\"", "  otherwise"]),
    ("together", "together", &["and"]),
    ("together-named", "together \"indoors\"", &["and \"outdoors\"", "and \"at sea\""]),
    ("repeat", "repeat \"until it is steady\"", &[]),
];

/// What can stand in a body.
const INNER: &[(&str, &str)] = &[
    ("step", "\"Read the level\""),
    ("steps", "\"Read the level\"\ndocument \"Note it\"\n\"Sign it\""),
    ("aside", "\"Read the level\"\n  aside data \"Level book\""),
    ("remark", "\"Read the level\"\n  remark \"By daylight only.\""),
    ("decide", "decide \"Calm?\"\n  when \"yes\"\n    \"Wait\"\n  or \"no\"\n    \"Warn\""),
    ("decide-empty", "decide \"Calm?\"\n  when \"yes\"\n  or \"no\"\n    \"Warn\""),
    ("decide-open", "decide \"Calm?\"\n  when \"yes\"\n    \"Wait\""),
    ("together", "together\n  \"Ring the bell\"\nand\n  \"Hoist the flag\""),
    ("repeat", "repeat \"three times\"\n  \"Knock\""),
    ("finish", "\"Stop\"\nfinish \"Over\""),
    ("back", "\"Read once more\"\ngo first \"again\""),
    ("ahead", "\"Hurry\"\ngo last \"at once\""),
];

/// Layouts of a flow: lines after its first.
const STYLES: &[(&str, &str)] = &[
    ("down", ""),
    ("right", "heading right\n"),
    ("up", "heading up\n"),
    ("left", "heading left\n"),
    ("curved", "route curved\n"),
    ("straight", "route straight\n"),
    ("right-curved", "heading right\nroute curved\n"),
    ("left-straight", "heading left\nroute straight\n"),
];

/// A process in lanes with a decision, a way back, and parallel parts.
const IN_LANES: &str = "begin \"A level is due\" in one
step first \"Read the level\" in one
decide \"Above the mark?\" in two
  when \"yes\"
    \"Call the keeper\" in three
  or \"no\"
    \"Wait an hour\" in one
    go first \"again\"
together
  \"Ring the bell\" in two
and
  store \"Keep the level\" in three
\"Close the book\" in one
finish \"Done\" in one";

/// Divisions into lanes.
const LANES: &[(&str, &str)] = &[
    ("three", "lane one \"Gauge\"\nlane two \"Desk\"\nlane three \"Keeper\""),
    ("nested", "lane shore \"Shore\"\n  lane one \"Gauge\"\n  lane two \"Desk\"\nlane three \"Keeper\""),
    (
        "nested-twice",
        "lane all \"Service\"\n  lane shore \"Shore\"\n    lane one \"Gauge\"\n    lane two \"Desk\"\n  lane three \"Keeper\"",
    ),
    ("group", "lane one \"Gauge\"\nlane two \"Desk\"\nlane house \"House\"\ngroup three \"Watch room\" in house"),
];

/// Every pair of constructs of a flow, every heading and line for a few of them, and lanes.
pub fn flows() -> Vec<Sample> {
    let mut samples = Vec::new();
    for (outer, opening, more) in OUTER {
        for (inner, body) in INNER {
            samples.push(flow(&format!("flow-{outer}-{inner}"), "", (opening, more), body));
        }
        for (style, lines) in STYLES.iter().skip(1) {
            for (inner, body) in [INNER[4], INNER[7], INNER[10]] {
                // Nothing may leave what happens at the same time.
                samples.push(flow(&format!("flow-{outer}-{inner}-{style}"), lines, (opening, more), body));
            }
        }
    }
    samples
        .retain(|s| !(s.name.starts_with("flow-together") && (s.name.contains("-back") || s.name.contains("-ahead"))));
    for (lanes, declared) in LANES {
        for (style, lines) in STYLES {
            let mut text = "flow watch \"A watch\"\n".to_owned();
            indented(&mut text, lines, 1);
            indented(&mut text, declared, 1);
            indented(&mut text, IN_LANES, 1);
            samples.push(Sample { family: "flow gallery", name: format!("flow-lanes-{lanes}-{style}"), text });
        }
    }
    samples
}

fn flow(name: &str, style: &str, (opening, more): (&str, &[&str]), body: &str) -> Sample {
    let mut text = "flow watch \"A watch\"\n".to_owned();
    indented(&mut text, style, 1);
    indented(&mut text, "begin \"Watch begins\"\nstep first \"Look at the gauge\"", 1);
    indented(&mut text, opening, 1);
    // The body stands below the last line of what opens it.
    let depth = 2 + usize::from(opening.contains('\n'));
    indented(&mut text, body, depth);
    for (i, line) in more.iter().enumerate() {
        indented(&mut text, line, 1);
        indented(&mut text, &format!("\"Other {}\"", i + 1), depth);
    }
    indented(&mut text, "step last \"Close the book\"\nfinish \"Watch ends\"", 1);
    Sample { family: "flow gallery", name: name.to_owned(), text }
}

/// What can stand in a state machine; `awake` and `asleep` are states of the same level.
const STATES: &[(&str, &str)] = &[
    ("trigger", "awake becomes asleep on \"tide turns\""),
    ("full", "awake becomes asleep on \"tide turns\" when \"level below 1 m\" do \"ring\""),
    ("label", "awake becomes asleep \"at last\""),
    ("back", "awake becomes asleep on \"ebb\"\nasleep becomes awake on \"flood\""),
    ("own", "awake becomes awake on \"tick\" do \"count\"\nawake becomes asleep"),
    ("own-twice", "awake becomes awake on \"tick\"\nawake becomes awake on \"tock\"\nawake becomes asleep"),
    (
        "choice",
        "choice pick \"how high?\"\nawake becomes pick on \"reading\"\npick becomes asleep when \"low\"\npick becomes awake when \"high\"",
    ),
    ("junction", "junction meet\nawake becomes meet on \"one\"\nmeet becomes asleep"),
    (
        "fork",
        "together split\ntogether merge\nawake becomes split\nsplit becomes left, right\nleft, right becomes merge\nmerge becomes asleep",
    ),
    (
        "behaviour",
        "state busy\n  arriving do \"light the lamp\"\n  staying do \"turn it\"\n  leaving do \"put it out\"\n  on \"fog\" when \"night\" do \"sound the horn\"\nawake becomes busy\nbusy becomes asleep",
    ),
    (
        "nested",
        "state work\n  begin becomes look\n  look becomes note on \"seen\"\n  note becomes finish\nawake becomes work\nwork becomes asleep on \"done\"",
    ),
    (
        "own-nested",
        "state work\n  begin becomes look\nwork becomes work on \"reset\" do \"clear\"\nawake becomes work\nwork becomes asleep",
    ),
    (
        "regions",
        "state work\n  region \"Eyes\"\n    begin becomes look\n    look becomes rest on \"tired\"\n  region \"Hands\"\n    begin becomes write\nawake becomes work\nwork becomes asleep",
    ),
    (
        "three-regions",
        "state work\n  region \"Eyes\"\n    begin becomes look\n  region \"Hands\"\n    begin becomes write\n    write becomes hold on \"full\"\n  region \"Feet\"\n    begin becomes stand\nawake becomes work\nwork becomes asleep",
    ),
    (
        "points",
        "state work\n  entry early\n  exit late\n  early becomes look\n  look becomes note on \"seen\"\n  note becomes late\nawake becomes work.early on \"dawn\"\nwork.late becomes asleep",
    ),
    (
        "history",
        "state work\n  history\n  begin becomes look\n  look becomes note on \"seen\"\nawake becomes work\nwork becomes asleep on \"call\"\nasleep becomes work.history on \"back\"",
    ),
    (
        "deep-history",
        "state work\n  history all (deep)\n  begin becomes look\nawake becomes work\nasleep becomes work.all on \"back\"\nwork becomes asleep on \"call\"",
    ),
    ("remark", "awake becomes asleep\nremark on awake \"Every night.\""),
];

/// Where it can stand: at the top, in a state, in a region.
const PLACES: &[(&str, &str, usize)] = &[
    ("top", "", 1),
    ("inside", "state outer \"Keeping watch\"\n", 2),
    ("region", "state outer \"Keeping watch\"\n  region \"Tower\"\n", 3),
];

/// Every construct of a state machine in every place and every heading.
pub fn states() -> Vec<Sample> {
    let mut samples = Vec::new();
    for (place, opening, depth) in PLACES {
        for (name, body) in STATES {
            for (heading, lines) in &STYLES[..4] {
                let mut text = "states keeper \"A keeper\"\n".to_owned();
                indented(&mut text, lines, 1);
                indented(&mut text, opening, 1);
                indented(&mut text, &format!("begin becomes awake\n{body}\nasleep becomes finish"), *depth);
                samples.push(Sample {
                    family: "states gallery",
                    name: format!("states-{name}-{place}-{heading}"),
                    text,
                });
            }
        }
    }
    samples
}

/// Trees: an outline, a decision tree with labels on all branches, one that branches widely.
const TREES: &[(&str, &str)] = &[
    (
        "outline",
        "\"Service\"\n  \"Coast\"\n    \"North\"\n    \"South\"\n  \"Sea\"\n    \"Buoys\"\n    \"Boats\"\n      \"Old ones\"",
    ),
    (
        "decision",
        "decide \"Survey?\"\n  chance \"Survey finds\" when \"yes, $c = 4$\"\n    decide \"Dredge?\" when \"silt, $p = 0.3$\"\n      outcome \"Open, $v = 90$\" when \"yes, $c = 40$\"\n      chance \"Storms\" when \"no\"\n        outcome \"Open, $v = 70$\" when \"calm\"\n        outcome \"Closed, $v = -60$\" when \"rough\"\n    outcome \"Safe, $v = 95$\" when \"none\"\n  outcome \"Unknown\" when \"no\"",
    ),
    (
        "wide",
        "\"Gauges\"\n  \"One\"\n  \"Two\"\n  \"Three\"\n  \"Four\"\n  \"Five\"\n  \"Six\"\n  \"Seven\"\n  \"Eight\"",
    ),
    ("deep", "\"A\"\n  \"B\"\n    \"C\"\n      \"D\"\n        \"E\"\n          \"F\""),
    ("remark", "\"Service\"\n  item coast \"Coast\"\n  item sea \"Sea\"\n  remark on sea \"By boat only.\""),
];

/// Trees of every kind in every heading, round, and with every kind of line.
pub fn trees() -> Vec<Sample> {
    let mut samples = Vec::new();
    let round = [("radial", "arrange radial\n"), ("radial-curved", "arrange radial\nroute curved\n")];
    for (name, body) in TREES {
        for (style, lines) in STYLES.iter().chain(&round) {
            let mut text = "tree service \"The service\"\n".to_owned();
            indented(&mut text, lines, 1);
            indented(&mut text, body, 1);
            samples.push(Sample { family: "tree gallery", name: format!("tree-{name}-{style}"), text });
        }
    }
    samples
}

/// Adds lines, indented this many times.
fn indented(text: &mut String, lines: &str, times: usize) {
    for line in lines.lines() {
        let _ = writeln!(text, "{:1$}{line}", "", 2 * times);
    }
}
