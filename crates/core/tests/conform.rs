//! A sequence against traces: what was played by its rules conforms to it, and what breaks them is found.

use bathygram_core::conform::{Call, Conformance, Difference, Trace, Weight, actual, sequence};
use bathygram_core::model::{Diagram, Event, Operator};
use bathygram_core::pipeline::{self, Setting};
use bathygram_core::source::Source;
use bathygram_corpus::Dice;
use std::fmt::Write;

fn read(text: &str) -> Diagram {
    let mut reading = pipeline::read(Source::new("a.bathy", text), "a", &Setting::default());
    assert!(!reading.has_errors(), "{:?}\n{text}", reading.diagnostics);
    reading.document.diagrams.remove(0)
}

fn call(from: &str, to: &str, label: &str) -> Call {
    let from = (!from.is_empty()).then(|| from.to_owned());
    Call { from, to: to.to_owned(), label: label.to_owned(), is_sent: false, place: "t.json:1".to_owned() }
}

fn trace(calls: &[(&str, &str, &str)]) -> Trace {
    Trace { id: "1".to_owned(), calls: calls.iter().map(|(from, to, label)| call(from, to, label)).collect() }
}

fn sentences(design: &Diagram, traces: &[Trace]) -> Vec<String> {
    let of = sequence(design, traces);
    of.differences.iter().map(|difference| difference.sentence(design, &of)).collect()
}

const WARNING: &str = "sequence warning\n  buoy sends gateway \"level\"\n    calls readings \"append\"\n    when \"over 4 m\"\n      calls desk \"raise\"\n    otherwise\n      calls chart \"keep\"\n    repeat \"until somebody answers\"\n      calls pager \"ring\"\n    together\n      calls log \"write\"\n    and\n      calls desk \"show\"\n";

#[test]
fn what_a_diagram_leaves_open_is_no_difference() {
    let design = read(WARNING);
    let high = trace(&[
        ("", "gateway", "level"),
        ("gateway", "readings", "append"),
        ("gateway", "desk", "raise"),
        ("gateway", "pager", "ring"),
        ("gateway", "pager", "ring"),
        ("gateway", "desk", "show"),
        ("gateway", "log", "write"),
    ]);
    let low = trace(&[
        ("", "gateway", "level"),
        ("gateway", "readings", "append"),
        ("gateway", "chart", "keep"),
        ("gateway", "log", "write"),
        ("gateway", "desk", "show"),
    ]);
    let other = trace(&[("", "readings", "tidy")]);
    let of = sequence(&design, &[high, low, other]);
    assert_eq!((of.traces, of.others, of.agreements.len()), (2, 1, 7));
    let party = |difference: &Difference| matches!(difference, Difference::Unobserved { .. });
    assert!(of.differences.iter().all(party) && of.differences.len() == 1, "{:?}", of.differences);
}

#[test]
fn differences_are_said_with_how_often() {
    let design = read(WARNING);
    let traces = [
        // Nothing is appended, somebody calls the coast guard, the pager comes before the warning.
        trace(&[
            ("", "gateway", "level"),
            ("gateway", "pager", "ring"),
            ("gateway", "desk", "raise"),
            ("gateway", "coast_guard", "call"),
            ("gateway", "log", "write"),
            ("gateway", "log", "write"),
            ("gateway", "desk", "show"),
        ]),
        trace(&[
            ("", "gateway", "level"),
            ("gateway", "readings", "append"),
            ("gateway", "desk", "raise"),
            ("gateway", "log", "write"),
            ("gateway", "desk", "show"),
        ]),
    ];
    assert_eq!(
        sentences(&design, &traces),
        [
            "`gateway` calls `readings` \"append\" happens in 1 of 2 traces only; nothing says that it may be left out",
            "`gateway` calls `log` \"write\" happens up to 2 times in 1 of 2 traces; the diagram says once",
            "`gateway` calls `coast_guard` (not in the diagram) \"call\" in 1 of 2 traces; the diagram does not say so",
            "no trace speaks of `buoy`",
            "no trace speaks of `chart`",
        ]
    );
    let early = trace(&[
        ("", "gateway", "level"),
        ("gateway", "desk", "raise"),
        ("gateway", "readings", "append"),
        ("gateway", "log", "write"),
        ("gateway", "desk", "show"),
    ]);
    let said = sentences(&design, &[early]);
    assert!(said[0].contains("comes before") && said[0].contains("the diagram says the opposite"), "{said:?}");
}

#[test]
fn parties_are_known_by_origin_name_or_label() {
    let design = read(
        "sequence s\n  service g \"Ingest gateway\"\n  store r (origin readings_v2)\n  service Desk\n  g calls r \"append\"\n  g calls Desk \"raise\"\n",
    );
    let calls = trace(&[("ingest-gateway", "readings-v2", "INSERT"), ("ingest-gateway", "desk", "raise")]);
    let of = sequence(&design, &[calls]);
    assert_eq!((of.traces, of.agreements.len(), of.differences), (1, 2, vec![]));
}

#[test]
fn a_branch_that_nobody_takes_is_a_note() {
    let design = read(WARNING);
    let low = trace(&[
        ("", "gateway", "level"),
        ("gateway", "readings", "append"),
        ("gateway", "chart", "keep"),
        ("gateway", "log", "write"),
        ("gateway", "desk", "show"),
    ]);
    let of = sequence(&design, &[low]);
    let untaken: Vec<&Difference> = of.differences.iter().filter(|d| d.code() == "untaken").collect();
    let [Difference::Untaken { guard, .. }] = untaken.as_slice() else { panic!("{:?}", of.differences) };
    assert_eq!(guard, "over 4 m");
    assert!(of.differences.iter().all(|difference| difference.weight() == Weight::Note), "{:?}", of.differences);
}

#[test]
fn the_picture_has_what_happens_and_not_what_does_not() {
    let design =
        read("sequence s\n  gate calls rules \"judge\"\n    calls store \"look up\"\n  gate calls desk \"raise\"\n");
    let calls =
        trace(&[("", "gate", "x"), ("gate", "rules", "judge"), ("rules", "rota", "who"), ("gate", "desk", "raise")]);
    let calls = Trace { calls: calls.calls[1..].to_vec(), ..calls };
    let mut of = sequence(&design, &[calls]);
    // The store was asked in no trace, but it is known.
    of.differences.push(Difference::Absent { message: bathygram_core::model::RelationId(1), seen: 0 });
    let happened = actual(&design, &of);
    let labels: Vec<String> = happened.relations.iter().filter_map(|r| r.label.as_ref()).map(|l| l.text()).collect();
    assert_eq!(labels, ["judge", "raise", "who"]);
    let Event::Message { body, .. } = &happened.events()[0] else { panic!("a message") };
    assert_eq!(body.len(), 1, "the surprise stands in the work of the rules");
    assert!(happened.elements.iter().any(|element| element.name == "rota"));
}

/// A sequence by chance. Every message has a label of its own.
fn design(dice: &mut Dice) -> String {
    let mut text = String::from("sequence s\n  gate calls p0 \"begin\"\n");
    let mut next = 0;
    body(dice, &mut text, 0, 1, &mut next);
    text
}

fn body(dice: &mut Dice, text: &mut String, from: usize, depth: usize, next: &mut usize) {
    let indent = "  ".repeat(depth + 1);
    for _ in 0..1 + dice.roll(3) {
        match dice.roll(if depth > 3 { 2 } else { 6 }) {
            0..=2 => {
                let to = (from + 1 + dice.roll(4)) % 5;
                *next += 1;
                let _ = writeln!(text, "{indent}p{from} calls p{to} \"m{next}\"");
                if depth < 4 && dice.percent(40) {
                    body(dice, text, to, depth + 1, next);
                }
            }
            3 => {
                *next += 1;
                let _ = writeln!(text, "{indent}when \"guard {next}\"");
                body(dice, text, from, depth + 1, next);
                if dice.percent(60) {
                    let _ = writeln!(text, "{indent}otherwise");
                    body(dice, text, from, depth + 1, next);
                }
            }
            4 => {
                *next += 1;
                let _ = writeln!(text, "{indent}repeat \"until {next}\"");
                body(dice, text, from, depth + 1, next);
            }
            _ => {
                let _ = writeln!(text, "{indent}together");
                body(dice, text, from, depth + 1, next);
                let _ = writeln!(text, "{indent}and");
                body(dice, text, from, depth + 1, next);
            }
        }
    }
}

/// Plays a sequence by its rules.
fn play(design: &Diagram, events: &[Event], dice: &mut Dice, calls: &mut Vec<Call>) {
    for event in events {
        match event {
            Event::Message { relation, body, .. } => {
                let message = design.relation(*relation);
                let name = |id| design.element(id).name.clone();
                let label = message.label.as_ref().map(|label| label.text()).unwrap_or_default();
                calls.push(call(&name(message.from), &name(message.to), &label));
                play(design, body, dice, calls);
            }
            Event::Fragment { operator: Operator::Loop, operands, .. } => {
                (0..dice.roll(4)).for_each(|_| play(design, &operands[0].items, dice, calls));
            }
            Event::Fragment { operator: Operator::Par, operands, .. } => {
                let first = dice.roll(operands.len());
                let order = (0..operands.len()).map(|i| (i + first) % operands.len());
                order.for_each(|i| play(design, &operands[i].items, dice, calls));
            }
            Event::Fragment { operator: Operator::Opt, operands, .. } if dice.percent(50) => {
                play(design, &operands[0].items, dice, calls);
            }
            Event::Fragment { operator: Operator::Alt, operands, .. } => {
                play(design, &operands[dice.roll(operands.len())].items, dice, calls);
            }
            _ => {}
        }
    }
}

/// A sequence with traces of it.
fn played(seed: u64, count: usize) -> (String, Diagram, Vec<Trace>) {
    let mut dice = Dice::new(seed);
    let text = design(&mut dice);
    let diagram = read(&text);
    let one = |i: usize| {
        let mut calls = Vec::new();
        play(&diagram, diagram.events(), &mut dice, &mut calls);
        Trace { id: i.to_string(), calls }
    };
    let traces = (0..count).map(one).collect();
    (text, diagram, traces)
}

fn real(of: &Conformance) -> Vec<&Difference> {
    of.differences.iter().filter(|difference| difference.weight() == Weight::Difference).collect()
}

#[test]
fn what_is_played_by_the_rules_conforms() {
    for seed in 0..300 {
        let (text, diagram, traces) = played(seed, 12);
        let of = sequence(&diagram, &traces);
        assert_eq!(of.traces, 12);
        assert_eq!(real(&of), Vec::<&Difference>::new(), "seed {seed}:\n{text}");
    }
}

#[test]
fn what_breaks_the_rules_is_found() {
    let mut found = [0; 2];
    for seed in 0..300 {
        let (text, diagram, mut traces) = played(seed, 6);
        let mut dice = Dice::new(seed + 1000);
        // 1. Somebody calls what nobody drew.
        let at = 1 + dice.roll(traces[0].calls.len());
        traces[0].calls.insert(at, call("p0", "stranger", "hello"));
        let of = sequence(&diagram, &traces);
        let is_stranger =
            |d: &&Difference| matches!(d, Difference::Surprise { call, seen: 1, .. } if call.to == "stranger");
        assert!(real(&of).iter().any(is_stranger), "seed {seed}:\n{text}");
        found[0] += 1;
        // 2. The first thing that must happen never does.
        let Event::Message { body, .. } = &diagram.events()[0] else { panic!("a message") };
        let must = body.iter().find_map(|event| match event {
            Event::Message { relation, .. } => Some(*relation),
            _ => None,
        });
        let Some(must) = must else { continue };
        let label = diagram.relation(must).label.as_ref().map(|label| label.text()).unwrap_or_default();
        traces.iter_mut().for_each(|trace| trace.calls.retain(|call| call.label != label));
        let of = sequence(&diagram, &traces);
        let to = diagram.relation(must).to;
        // A party that nothing else speaks of cannot be observed any more.
        let is_known = traces.iter().flat_map(|t| &t.calls).any(|c| c.to == diagram.element(to).name);
        let is_absent = |d: &&Difference| matches!(d, Difference::Absent { .. } | Difference::Order { .. });
        assert!(
            !is_known || !real(&of).is_empty() && real(&of).iter().any(is_absent),
            "seed {seed}:\n{text}\n{:?}",
            of.differences
        );
        found[1] += usize::from(is_known);
    }
    assert!(found[0] == 300 && found[1] > 30, "{found:?}");
}
