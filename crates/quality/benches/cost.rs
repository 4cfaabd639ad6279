//! What each stage costs, how it grows, and how much memory the whole takes: generated pictures of 30, 1,000 and
//! 10,000 elements, a process for each. Medians; growth is that from 1,000 to 10,000. Budgets that are not met are
//! marked. Figures are kept in `docs/performance.md`.

#![allow(clippy::print_stdout)]

use bathygram_core::layout;
use bathygram_core::layout::layered::{LayeredOptions, Stage, place_watched};
use bathygram_core::pipeline::{self, DrawOptions, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_core::views::View;
use bathygram_corpus::scale::{SIZES, architecture, classes, flow, nested, sequence};
use std::cell::RefCell;
use std::collections::BTreeMap;
use std::process::Command;
use std::time::Instant;

/// Writes the text of a picture with this many elements.
type Write = fn(usize) -> String;

/// Generated pictures by their names, and their sizes.
const KINDS: [(&str, Write, [usize; 3]); 5] = [
    ("architecture", architecture, SIZES),
    ("nested", nested, SIZES),
    ("flow", flow, SIZES),
    ("sequence", sequence, SIZES),
    // Of twenty members each.
    ("classes", classes, [30, 300, 3_000]),
];
/// Most that growth may be, to ten times the size.
const GROWTH: f64 = 15.0;
/// Most milliseconds of whole pictures, and most MB.
const BUDGETS: [(&str, usize, f64); 5] = [
    ("whole", 30, 10.0),
    ("whole", 300, 300.0),
    ("whole", 1_000, 250.0),
    ("whole", 10_000, 3_000.0),
    ("peak MB", 10_000, 400.0),
];
/// The same for a sequence of 10,000 messages.
const SEQUENCE: f64 = 300.0;

/// Measured milliseconds by name, in the order in which they came up.
type Runs = Vec<(String, Vec<f64>)>;

fn main() {
    let arguments: Vec<String> = std::env::args().collect();
    if let [_, flag, kind, size, ..] = &arguments[..]
        && flag == "--one"
    {
        let write = KINDS.iter().find(|k| k.0 == kind).expect("a kind").1;
        one(&write(size.parse().expect("a number")));
        return;
    }
    for (kind, _, sizes) in KINDS {
        let columns: Vec<Vec<(String, f64)>> = sizes.iter().map(|size| measured(kind, *size)).collect();
        let [small, middle, large] = sizes;
        println!("\n| {kind} | {small} | {middle} | {large} | growth |\n|---|---:|---:|---:|---:|");
        for (name, _) in &columns[0] {
            let of = |c: &Vec<(String, f64)>| c.iter().find(|f| f.0 == *name).map_or(0.0, |f| f.1);
            let values: Vec<f64> = columns.iter().map(of).collect();
            let growth = values[2] / values[1].max(1e-3);
            let cells: Vec<String> = values.iter().zip(sizes).map(|(v, n)| cell(kind, name, n, *v)).collect();
            // What takes no time does not grow.
            let is_over = growth > GROWTH && values[2] > 5.0;
            println!("| {name} | {} | ×{growth:.1}{} |", cells.join(" | "), if is_over { " (over)" } else { "" });
        }
    }
}

/// A figure, marked if it is over its budget.
fn cell(kind: &str, name: &str, size: usize, value: f64) -> String {
    let budget = BUDGETS.iter().find(|b| (b.0, b.1) == (name, size)).map(|b| b.2);
    let budget = budget.map(|b| if (kind, name, size) == ("sequence", "whole", 10_000) { SEQUENCE } else { b });
    let digits = if value < 10.0 { 2 } else { 0 };
    format!("{value:.digits$}{}", if budget.is_some_and(|b| value > b) { " (over)" } else { "" })
}

/// What a process of its own measures of one picture.
fn measured(kind: &str, size: usize) -> Vec<(String, f64)> {
    let program = std::env::current_exe().expect("this program");
    let output = Command::new(program).args(["--one", kind, &size.to_string()]).output().expect("it runs");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    text.lines().filter_map(|l| l.rsplit_once(' ')).map(|(n, v)| (n.to_owned(), v.parse().unwrap_or(0.0))).collect()
}

/// Measures one picture, and prints a figure on each line: medians in milliseconds, and the most memory.
fn one(text: &str) {
    let studio = Studio::new();
    let source = Source::new("bench.bathy", text);
    let mut runs: Runs = Vec::new();
    let begin = Instant::now();
    // Until there are 21 runs or two seconds are over, three runs at least.
    for run in 0..21 {
        if run >= 3 && begin.elapsed().as_secs() >= 2 {
            break;
        }
        let whole = Instant::now();
        let reading = pipeline::read(source.clone(), "bench", &Setting::default());
        note(&mut runs, "read and review", whole.elapsed().as_secs_f64());
        let view = View::of(reading.document.diagrams[0].clone());
        let drawing = pipeline::draw(&studio, &reading, &view, &DrawOptions::default());
        let length = studio.svg(&drawing, &reading.provenance(view.name())).len();
        note(&mut runs, "whole", whole.elapsed().as_secs_f64());
        assert!(length > 0);
        if run == 0 {
            println!("peak MB {:.1}", peak());
        }
        let layout = Instant::now();
        let Some(graph) = pipeline::layout_input(&studio, &reading, &view, &DrawOptions::default()) else { continue };
        layout::place(&graph);
        note(&mut runs, "shapes and layout", layout.elapsed().as_secs_f64());
        let stages: RefCell<BTreeMap<Stage, f64>> = RefCell::default();
        let last = RefCell::new(Instant::now());
        place_watched(&graph, LayeredOptions::default(), &|stage| {
            *stages.borrow_mut().entry(stage).or_default() += last.borrow().elapsed().as_secs_f64();
            *last.borrow_mut() = Instant::now();
        });
        stages.into_inner().into_iter().for_each(|(stage, s)| note(&mut runs, &format!("one candidate: {stage:?}"), s));
    }
    for (name, mut values) in runs {
        values.sort_by(f64::total_cmp);
        println!("{name} {}", values[values.len() / 2]);
    }
}

/// Adds a measured time, in seconds, to those of the same name.
fn note(runs: &mut Runs, name: &str, seconds: f64) {
    match runs.iter_mut().find(|r| r.0 == name) {
        Some(run) => run.1.push(seconds * 1e3),
        None => runs.push((name.to_owned(), vec![seconds * 1e3])),
    }
}

/// The most memory that this process has had, in MB; 0 where the system does not tell.
fn peak() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find(|l| l.starts_with("VmHWM:"));
    line.and_then(|l| l.split_whitespace().nth(1)).and_then(|kib| kib.parse::<f64>().ok()).unwrap_or(0.0) / 1024.0
}
