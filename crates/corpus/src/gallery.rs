//! A small diagram for every construct of a sequence, and for every one that can hold another, with each that it can
//! hold; for every relation of classes with everything that can stand at it, everywhere it can lead; and for every kind
//! of classifier with everything that it can hold.

use crate::Sample;
use std::fmt::Write;

/// What opens a body: lines above it, the line that opens it, and lines that continue it, each with a body of its own.
const OUTER: &[(&str, &str, &[&str])] = &[
    ("call", "keeper calls desk \"ask\" returning \"answer\"", &[]),
    ("send", "keeper sends desk \"tell\"", &[]),
    ("create", "keeper creates desk \"open\"", &[]),
    ("own-action", "desk does \"think\"", &[]),
    ("own-call", "desk calls desk \"again\"", &[]),
    ("opt", "when \"over 4 m\"", &[]),
    ("alt", "when \"over 4 m\"", &["or \"over 3 m\"", "otherwise"]),
    ("loop", "repeat \"each minute\"", &[]),
    ("par", "together \"call out\"", &["and \"log\""]),
    ("break", "leave when \"answered\"", &[]),
    ("critical", "undivided", &[]),
    ("strict", "in order", &[]),
    ("neg", "never", &[]),
];

/// What can stand in a body, indented by nothing.
const INNER: &[(&str, &str)] = &[
    ("call", "desk calls store \"read\" returning \"4.2 m\""),
    ("nested-calls", "desk calls store \"read\"\n  calls mast \"ask\" returning \"4.2 m\""),
    ("send", "desk sends mast \"call out\""),
    ("own-action", "desk does \"note it\""),
    ("own-call", "desk calls desk \"look again\"\n  calls store \"read\""),
    ("call-back", "desk calls keeper \"who?\" returning \"I\""),
    (
        "long-label",
        "desk sends store \"the level of every minute of the last six hours, with its quality and its gauge\"",
    ),
    ("across", "keeper sends mast \"over the desk\""),
    ("within", "desk calls store \"read\" within \"2 s\""),
    ("guard", "desk calls store \"read\" when \"ready\""),
    ("life", "desk creates ticket \"open\"\ndesk destroys ticket \"close\""),
    ("lost", "desk sends lost \"copy\""),
    ("found", "found sends desk \"a call\""),
    ("remark", "remark on desk \"Nobody is there at night.\""),
    ("remark-across", "desk calls store \"read\"\nremark on desk, store \"Both are busy.\""),
    ("pause", "desk sends store \"a\"\npause \"one tide\"\ndesk sends store \"b\""),
    (
        "overlap",
        "desk calls store \"first\"\ndesk calls mast \"second\"\nstore answers desk \"one\"\nmast answers desk \"two\"",
    ),
    ("opt", "when \"calm\"\n  desk sends store \"keep\""),
    (
        "alt",
        "when \"calm\"\n  desk sends store \"keep\"\nor \"rough\"\n  desk sends mast \"warn\"\notherwise\n  desk does \"wait\"",
    ),
    ("loop", "repeat \"three times\"\n  desk sends mast \"ring\""),
    ("par", "together \"one\"\n  desk sends mast \"ring\"\nand \"two\"\n  desk sends store \"keep\""),
    ("break", "leave when \"enough\"\n  desk sends mast \"stop\""),
    ("critical", "undivided\n  desk sends store \"lock\""),
    ("strict", "in order\n  desk sends store \"first\"\n  desk sends store \"then\""),
    ("neg", "never\n  desk sends store \"delete\""),
    (
        "deep",
        "when \"calm\"\n  repeat \"each\"\n    together \"one\"\n      desk sends mast \"ring\"\n    and \"two\"\n      desk does \"wait\"",
    ),
];

/// Every pair, and everything that stands for itself.
pub fn sequences() -> Vec<Sample> {
    let mut samples: Vec<Sample> =
        INNER.iter().map(|(name, lines)| sample(&format!("plain_{name}"), &[("", &[lines])])).collect();
    for (outer, opening, more) in OUTER {
        for (inner, lines) in INNER {
            // Nobody is created twice.
            let again = if *inner == "life" { &"desk sends store \"keep\"" } else { lines };
            let first = (*opening, std::slice::from_ref(lines));
            let parts: Vec<(&str, &[&str])> =
                [first].into_iter().chain(more.iter().map(|o| (*o, std::slice::from_ref(again)))).collect();
            samples.push(sample(&format!("{outer}_{inner}"), &parts));
        }
    }
    samples
}

/// A sequence of parts: a line that opens a body, or none, and what stands in it.
fn sample(name: &str, parts: &[(&str, &[&str])]) -> Sample {
    let name = name.replace('-', "_");
    let mut text = format!("sequence {name} \"{name}\"\n  actor keeper \"Duty keeper\"\n");
    let creates = parts.iter().any(|(opening, _)| opening.contains("creates desk"));
    if !creates {
        text += "  service desk \"Alert desk\"\n";
    }
    text += "  store store \"Readings store\"\n  device mast \"Radio mast\"\n";
    for (opening, bodies) in parts {
        let indent = if opening.is_empty() { "  " } else { "    " };
        if !opening.is_empty() {
            let _ = writeln!(text, "  {opening}");
        }
        for line in bodies.iter().flat_map(|body| body.lines()) {
            let _ = writeln!(text, "{indent}{line}");
        }
    }
    let name = format!("sequence_{name}");
    Sample { family: "gallery", name, text }
}

/// Verbs of classes.
const VERBS: &[&str] = &["extends", "implements", "owns", "shares", "knows", "joins", "uses"];

/// What can stand at a relation: before the subject, after it, before and after the object, and the label.
const TEXTS: &[(&str, [&str; 5])] = &[
    ("bare", ["", "", "", "", ""]),
    ("label", ["", "", "", "", "\"looks after\""]),
    ("multiplicities", ["1 ", "", "0..* ", "", ""]),
    ("roles", ["", "as owner ", "", " as parts", ""]),
    ("all", ["0..1 ", "as keeper ", "1..* ", " as sensors", "\"looks after for the whole of the winter\""]),
];

/// Where a relation can lead: lines above it, with the subject `a` and the object `b`.
const PLACES: &[(&str, &str)] = &[
    ("plain", "class a\n  + name: Text\nclass b\n  + at: Time"),
    ("own", "class a\n  + name: Text"),
    ("low", "class a"),
    ("into", "class a\ngroup \"Inside\"\n  class b\n  class c"),
    ("out-of", "group \"Inside\"\n  class a\n  class c\nclass b"),
    ("across", "group \"One\"\n  class a\n  class c\ngroup \"Two\"\n  group \"Deep\"\n    class b\n  class d"),
    ("within", "group \"One\"\n  class a\n  class b\n    + at: Time"),
    ("remarked", "class a\nclass b\nremark on a \"One.\"\nremark on a, b \"Both.\""),
];

/// Kinds of classifiers, with what stands on their line.
const KINDS: &[(&str, &str)] = &[
    ("class", "class Station"),
    ("abstract", "class Station (abstract)"),
    ("labelled", "class Station \"A station at the coast, with its mast and its hut\""),
    ("keyword", "class Station (keyword \"service\")"),
    ("parameter", "class Series<T>"),
    ("parameters", "class Series<Key: Text, Value: List<Reading> [1..*]>"),
    ("interface", "interface Alarm"),
    ("enum", "enum Level"),
    ("record", "record Position"),
    ("table", "table station"),
    ("object", "object westPier of Station"),
];

/// What a classifier can hold.
const BODIES: &[(&str, &str)] = &[
    ("nothing", ""),
    ("names", "calm\nwatch\nsurge"),
    (
        "attributes",
        "+ name: Text\n- position: Position [0..1] = origin {readOnly}\n# /age: Years\n~ count: Count = 0 (static)",
    ),
    ("operations", "+ raise(level: Level, at: Time): Warning\n- reset() (abstract)\n+ all(): Station [0..*] (static)"),
    ("both", "+ name: Text\n+ raise(level: Level): Warning"),
    ("sections", "+ name: Text\nsection \"Upkeep\"\n  - battery: Percent\nsection \"Duties\"\n  + ring()"),
    (
        "long",
        "+ levelOfEveryMinuteOfTheLastSixHours(station: Station, quality: Quality, gauge: Gauge): Map<Time, List<Reading>> [0..*]",
    ),
    ("columns", "id: bigint (key)\nname: text (unique)\nlevel: decimal(6,3) (null)\nunique id, name"),
    ("values", "name = \"West pier\"\nbattery = 80"),
];

/// Multiplicities that have a crow's foot of their own.
const FEET: &[&str] = &["1", "0..1", "1..*", "0..*", "*", "3", "2..5"];

/// Every relation with everything at it, everywhere; crow's feet; families; kinds with what they hold.
pub fn classes() -> Vec<Sample> {
    let mut samples = Vec::new();
    for verb in VERBS {
        for (place, lines) in PLACES {
            for (text, parts) in TEXTS {
                let [before, after, many, role, label] = parts;
                let object = if matches!(*place, "own" | "low") { "a" } else { "b" };
                let relation = format!("{before}a {after}{verb} {many}{object}{role} {label}");
                samples.push(classes_sample(&format!("{verb}_{place}_{text}"), &[lines, relation.trim_end()]));
            }
        }
        for heading in ["up", "right", "left"] {
            let lines = [
                "class a\n  + name: Text\nclass b",
                &format!("heading {heading}"),
                &format!("0..1 a {verb} 1..* b as parts \"x\""),
            ];
            samples.push(classes_sample(&format!("{verb}_{heading}"), &lines));
        }
        let lines = format!(
            "a {verb} b\nc {verb} b \"second\"\n1 b {verb} 0..* d\nd {verb} b\na {verb} a\na {verb} a \"again\""
        );
        samples.push(classes_sample(&format!("{verb}_several"), &["class a\nclass b\nclass c\nclass d", &lines]));
    }
    for from in FEET {
        for to in FEET {
            let lines = [
                "multiplicity crowfoot\ntable a\n  id: bigint (key)\ntable b\n  id: bigint (key)",
                &format!("{from} a joins {to} b"),
            ];
            let name = format!("crowfoot_{from}_{to}").replace("..", "-").replace('*', "n");
            samples.push(classes_sample(&name, &lines));
        }
    }
    for children in 1..=6 {
        let names: Vec<String> =
            (0..children).map(|i| format!("class child{i} extends parent implements face")).collect();
        samples.push(classes_sample(
            &format!("family_{children}"),
            &["class parent (abstract)\ninterface face", &names.join("\n")],
        ));
    }
    for (kind, opening) in KINDS {
        for (body, lines) in BODIES {
            let lines: Vec<String> = lines.lines().map(|l| format!("  {l}")).collect();
            samples.push(classes_sample(&format!("{kind}_{body}"), &[opening, &lines.join("\n")]));
        }
    }
    samples
}

/// Classes of these parts.
fn classes_sample(name: &str, parts: &[&str]) -> Sample {
    let name = name.replace('-', "_");
    let mut text = format!("classes {name} \"{name}\"\n");
    for line in parts.iter().flat_map(|part| part.lines()) {
        let _ = writeln!(text, "  {line}");
    }
    let name = format!("classes_{name}");
    Sample { family: "gallery", name, text }
}
