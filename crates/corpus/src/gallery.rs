//! A small diagram for every construct of a sequence, and for every one that can hold another, with each that it can
//! hold.

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
