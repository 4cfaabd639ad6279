//! Laws of emission: what is emitted and read again means the same, and canonical text comes back as it was.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::compare::documents;
use bathygram_core::emit::emit;
use bathygram_core::format::format;
use bathygram_core::pipeline::{self, Reading, Setting};
use bathygram_core::source::Source;
use bathygram_core::source::world::{Alone, World};
use bathygram_corpus::{gallery, processes, samples, scale};
use proptest::prelude::*;
use std::path::{Path, PathBuf};
use support::Folder;

fn root(inner: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(inner)
}

fn read(name: &str, text: &str, world: &dyn World) -> Reading {
    let stem = name.rsplit('/').next().unwrap_or_default().trim_end_matches(".bathy");
    pipeline::read(Source::new(name, text), stem, &Setting { world, ..Setting::default() })
}

/// Emits what a text says and reads it again; says what is different.
fn differences(name: &str, text: &str, world: &dyn World) -> Option<String> {
    let before = read(name, text, world);
    if before.has_errors() {
        return None;
    }
    let emitted = emit(&before.document);
    let after = read(name, &emitted, world);
    let mut shown = String::new();
    for finding in after.diagnostics.iter().filter(|_| after.has_errors()) {
        shown += &format!("{}: {}\n", finding.code, support::sentence(&after, finding));
    }
    for change in documents([&before.document], [&after.document]) {
        shown += &format!(
            "{}: {}\n",
            change.diagram,
            change.changes.iter().flat_map(|c| c.sentences()).collect::<Vec<_>>().join("; ")
        );
    }
    for (a, b) in before.document.diagrams.iter().zip(&after.document.diagrams) {
        let (a, b) = (support::outline(a), support::outline(b));
        let lines = a.lines().zip(b.lines()).find(|(a, b)| a != b);
        shown += &lines.map(|(a, b)| format!("`{a}` is read as `{b}`\n")).unwrap_or_default();
    }
    if emit(&after.document) != emitted {
        shown += "emitted twice, the text differs\n";
    }
    Some(if shown.is_empty() { shown } else { format!("{shown}--- from\n{text}\n--- to\n{emitted}") })
}

/// What is written several ways comes back in one: what the demo writes otherwise, file by file.
const REWRITTEN: &[(&str, &[(&str, &str)])] = &[
    (
        "buoy_life.bathy",
        &[("becomes deployed.launch", "becomes launch"), ("deployed.washed becomes", "washed becomes")],
    ),
    (
        "readings_schema.bathy",
        &[
            (
                "    sensor_id: bigint (refers sensor.id)\n    taken_at: timestamptz",
                "    sensor_id: bigint (key, refers sensor.id)\n    taken_at: timestamptz (key)",
            ),
            ("(refers keeper.id, null)", "(null, refers keeper.id)"),
            ("    key sensor_id, taken_at\n", ""),
        ],
    ),
    (
        "recalibrate.bathy",
        &[
            ("\"Put the sensor back in service\" in technician", "\"Put the sensor back in service\""),
            ("\"Sensor in service\" in technician", "\"Sensor in service\""),
        ],
    ),
    ("storm_drill.bathy", &[("rules calls desk", "calls desk"), ("rules does", "does")]),
    ("surge_warning.bathy", &[("desk calls keeper \"ring\"", "calls keeper \"ring\"")]),
];

/// The rows of a text, without comments and empty rows.
fn rows(text: &str) -> Vec<&str> {
    let own = text.lines().filter(|l| !l.trim().is_empty() && !l.trim_start().starts_with("//"));
    own.map(|l| l.split_once(" // ").map_or(l, |(row, _)| row)).collect()
}

fn texts(folder: &Path, ending: &str) -> Vec<(String, String)> {
    let mut found: Vec<PathBuf> = std::fs::read_dir(folder).expect("a folder").flatten().map(|e| e.path()).collect();
    found.retain(|p| p.to_string_lossy().ends_with(ending));
    found.sort();
    let text = |p: &PathBuf| std::fs::read(p).ok().and_then(|bytes| String::from_utf8(bytes).ok());
    let name = |p: &PathBuf| p.file_name().expect("a name").to_string_lossy().into_owned();
    found.iter().filter_map(|p| Some((name(p), text(p)?))).collect()
}

/// The blocks of code of a page: those that are files, and the others.
fn examples(page: &str) -> (Vec<(String, String)>, Vec<String>) {
    let (mut files, mut blocks) = (Vec::new(), Vec::new());
    let mut rest = page;
    while let Some(at) = rest.find("```bathy") {
        let (head, body) = rest[at + 8..].split_once('\n').expect("a first line");
        let (body, after) = body.split_once("\n```").unwrap_or((body, ""));
        match head.trim().strip_prefix("file ") {
            Some(name) => files.push((name.to_owned(), format!("{body}\n"))),
            None => blocks.push(format!("{body}\n")),
        }
        rest = after;
    }
    (files, blocks)
}

#[test]
fn what_is_emitted_means_the_same() {
    let mut count = 0;
    let mut wrong = Vec::new();
    let mut check = |name: &str, text: &str, world: &Folder| {
        let Some(shown) = differences(name, text, world) else { return };
        count += 1;
        if !shown.is_empty() {
            wrong.push(format!("=== {name}\n{shown}"));
        }
    };
    for page in ["language", "example-architectures", "gallery", "notation", "layout", "markdown", "git", "cheatsheet"]
    {
        let text = std::fs::read_to_string(root(&format!("docs/{page}.md"))).expect("a page");
        let (files, blocks) = examples(&text);
        let world = Folder { files: files.clone() };
        for (i, text) in blocks.iter().enumerate() {
            check(&format!("{page}{i}.bathy"), text, &world);
        }
        files.iter().for_each(|(name, text)| check(name, text, &world));
    }
    let demo = texts(&root("demo/tidewatch"), ".bathy");
    let world = Folder { files: demo.clone() };
    demo.iter().for_each(|(name, text)| check(name, text, &world));
    for folder in ["fuzz/corpus", "fuzz/finds"] {
        let nothing = Folder { files: Vec::new() };
        texts(&root(folder), "").iter().for_each(|(name, text)| check(name, text, &nothing));
    }
    let alone = Folder { files: Vec::new() };
    let samples = [samples(), gallery::sequences(), gallery::classes(), processes::flows(), processes::states()];
    for sample in samples.iter().flatten().chain(&processes::trees()) {
        check(&sample.name, &sample.text, &alone);
    }
    let large =
        [scale::architecture(500), scale::flow(500), scale::sequence(500), scale::nested(500), scale::classes(500)];
    large.iter().for_each(|text| check("large.bathy", text, &alone));
    assert!(count > 400, "{count} texts");
    assert!(wrong.is_empty(), "{} of {count}:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn canonical_text_comes_back_as_it_was() {
    let demo = texts(&root("demo/tidewatch"), ".bathy");
    let world = Folder { files: demo.clone() };
    let mut wrong = String::new();
    for (name, text) in &demo {
        let mut canonical = format(&Source::new(name.as_str(), text.as_str()));
        for (was, is) in REWRITTEN.iter().filter(|(n, _)| n == name).flat_map(|(_, pairs)| *pairs) {
            assert!(canonical.contains(was), "{name} no longer says {was}");
            canonical = canonical.replace(was, is);
        }
        let emitted = emit(&read(name, text, &world).document);
        let (was, is) = (rows(&canonical), rows(&emitted));
        let parted = was.iter().zip(&is).position(|(a, b)| a != b).or((was.len() != is.len()).then_some(0));
        if let Some(at) = parted {
            let both = |l: &[&str]| l[at.saturating_sub(2)..(at + 4).min(l.len())].join("\n");
            wrong += &format!("=== {name}, row {at}\n--- was\n{}\n--- is\n{}\n", both(&was), both(&is));
        }
    }
    assert!(wrong.is_empty(), "{wrong}");
}

/// A model of groups in groups in which names repeat at every level, with lines that are written in their bodies and name
/// things all over the block by the path from its own name on, the only one that is never nearer to something else.
fn of_few_names(depths: &[usize], lines: &[(usize, usize, usize)]) -> String {
    const NAMES: [&str; 3] = ["api", "log", "desk"];
    // 1. The elements: each a level deeper than the one before it at most, no two of one name in one holder.
    let mut stack: Vec<String> = Vec::new();
    let mut keys: Vec<String> = Vec::new();
    for depth in depths {
        stack.truncate((*depth).min(stack.len()));
        let above = stack.last().map_or(String::new(), |key| format!("{key}."));
        let Some(name) = NAMES.iter().find(|name| !keys.contains(&format!("{above}{name}"))) else { continue };
        let key = format!("{above}{name}");
        stack.push(key.clone());
        keys.push(key);
    }
    // 2. Each with its body below it: the lines that are written there, and what lies in it.
    fn body(keys: &[String], lines: &[(usize, usize, usize)], holder: &str, indent: usize, out: &mut String) {
        let pad = "  ".repeat(indent);
        for (written_in, from, to) in lines {
            let at = |i: usize| &keys[i % keys.len()];
            // No line is drawn between a thing and what it lies in.
            let is_inside = |a: &String, b: &String| a == b || a.starts_with(&format!("{b}."));
            let are_apart = !is_inside(at(*from), at(*to)) && !is_inside(at(*to), at(*from));
            if at(*written_in) == holder && are_apart {
                out.push_str(&format!("{pad}coast.{} uses coast.{}\n", at(*from), at(*to)));
            }
        }
        for key in keys {
            let (above, name) = key.rsplit_once('.').unwrap_or(("", key));
            if above == holder {
                out.push_str(&format!("{pad}system {name}\n"));
                body(keys, lines, key, indent + 1, out);
            }
        }
    }
    let mut out = String::from("architecture coast\n");
    body(&keys, lines, "", 1, &mut out);
    out
}

#[test]
fn what_something_nearer_is_called_too_is_named_from_the_block_on() {
    let text =
        "architecture coast\n  system north\n    part log\n    part api\n    api writes coast.log\n  service log\n";
    assert_eq!(differences("coast.bathy", text, &Alone).as_deref(), Some(""));
    assert!(emit(&read("coast.bathy", text, &Alone).document).contains("api writes coast.log"));
}

proptest! {
    /// However often a name repeats, what is emitted names the same things.
    #[test]
    fn paths_lead_back_where_names_repeat(
        depths in proptest::collection::vec(0..4_usize, 1..14),
        lines in proptest::collection::vec((0..14_usize, 0..14_usize, 0..14_usize), 0..10),
    ) {
        let text = of_few_names(&depths, &lines);
        let different = differences("coast.bathy", &text, &Alone);
        prop_assert_eq!(different.as_deref(), Some(""), "{}", text);
    }
}
