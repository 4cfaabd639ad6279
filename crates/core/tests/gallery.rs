//! One small diagram for every construct and every pair that can nest: each is read without errors, everything written
//! is drawn, and the picture is no wider or taller than it was when it was looked at.

mod support;

use bathygram_core::model::{Diagram, ElementKind, Relation};
use bathygram_core::pipeline::Studio;
use bathygram_corpus::{Sample, gallery, processes};
use insta::assert_snapshot;
use std::fmt::Write;

/// How often something stands in a text.
fn count(text: &str, what: &str) -> usize {
    text.matches(what).count()
}

/// The messages that a text of a sequence has, replies included.
fn messages(text: &str) -> usize {
    let verbs = [" calls ", " sends ", " creates ", " destroys ", " answers ", " does ", " returning "];
    verbs.iter().map(|verb| count(text, verb)).sum()
}

/// The fragments that it has.
fn fragments(text: &str) -> usize {
    let opens = |line: &&str| {
        let words = ["when ", "repeat ", "together ", "leave when ", "undivided", "in order", "never"];
        words.iter().any(|word| line.trim_start().starts_with(word))
    };
    text.lines().filter(opens).count()
}

/// The width and height that a drawing says.
fn size(svg: &str) -> String {
    let attribute = |name: &str| {
        let (_, rest) = svg.split_once(&format!(" {name}=\"")).expect("the attribute");
        rest.split_once('"').expect("its end").0.to_owned()
    };
    format!("{} x {}", attribute("width"), attribute("height"))
}

/// Draws all, lets `check` look at each with its drawing; gives the sizes that they have.
fn sizes(samples: &[Sample], check: impl Fn(&Sample, &Diagram, &str)) -> String {
    let studio = Studio::new();
    let mut sizes = String::new();
    for sample in samples {
        let reading = support::good(&sample.text);
        let svg = support::draw(&studio, &reading, &support::views(&reading)[0]);
        check(sample, &reading.document.diagrams[0], &svg);
        let _ = writeln!(sizes, "{} {}", sample.name, size(&svg));
    }
    sizes
}

#[test]
fn every_construct_of_a_sequence_in_every_other() {
    let sizes = sizes(&gallery::sequences(), |sample, _, svg| {
        assert_eq!(count(svg, "data-relation="), messages(&sample.text), "{}\n{}", sample.name, sample.text);
        assert_eq!(count(svg, "data-kind=\"fragment\""), fragments(&sample.text), "{}\n{}", sample.name, sample.text);
    });
    assert_snapshot!(sizes);
}

/// The letters of a drawing's texts, without markup, line ends and spaces.
fn letters(svg: &str) -> String {
    let mut out = String::new();
    for part in svg.split("<text").skip(1) {
        let inner = part.split_once("</text>").expect("its end").0;
        out.extend(inner.split('<').filter_map(|piece| piece.split_once('>')).map(|(_, letters)| letters));
    }
    let out = out.replace("&lt;", "<").replace("&gt;", ">").replace("&quot;", "\"").replace("&amp;", "&");
    out.split_whitespace().collect()
}

/// What a picture of a process must show: every element and relation, every label.
fn shows_everything(sample: &Sample, diagram: &Diagram, svg: &str) {
    assert_eq!(count(svg, "data-relation="), diagram.relations.len(), "{}\n{}", sample.name, sample.text);
    assert_eq!(count(svg, "data-element="), diagram.elements.len(), "{}\n{}", sample.name, sample.text);
    let shown = letters(svg);
    // Marks that their shape tells have no letters.
    let names = diagram.elements.iter().filter(|e| e.label.is_some() || matches!(e.kind, ElementKind::State));
    let texts = |r: &Relation| [&r.label, &r.start].map(|l| l.as_ref().map(|l| l.text())).into_iter().flatten();
    let members = diagram.elements.iter().filter_map(|e| e.class.as_ref()).flat_map(|body| body.members());
    let all = names.map(|e| e.shown().text()).chain(diagram.relations.iter().flat_map(texts));
    for text in all.chain(members.map(|m| m.text.clone())) {
        let text: String = text.split_whitespace().collect();
        assert!(shown.contains(&text), "{}: `{text}` is not in `{shown}`\n{}", sample.name, sample.text);
    }
}

#[test]
fn every_construct_of_a_flow_in_every_other_and_in_lanes() {
    assert_snapshot!(sizes(&processes::flows(), shows_everything));
}

#[test]
fn every_construct_of_states_everywhere() {
    assert_snapshot!(sizes(&processes::states(), shows_everything));
}

#[test]
fn every_tree_in_every_heading() {
    assert_snapshot!(sizes(&processes::trees(), shows_everything));
}

#[test]
fn every_relation_of_classes_everywhere_and_every_kind_with_every_body() {
    let sizes = sizes(&gallery::classes(), |sample, diagram, svg| {
        assert_eq!(count(svg, "data-relation="), diagram.relations.len(), "{}\n{}", sample.name, sample.text);
        assert_eq!(count(svg, "data-element="), diagram.elements.len(), "{}\n{}", sample.name, sample.text);
        let shown = letters(svg);
        let ends =
            diagram.relations.iter().flat_map(|r| &r.ends).filter(|_| !diagram.has_crows_feet()).map(|end| end.shown());
        let labels = diagram.relations.iter().filter_map(|r| r.label.as_ref()).map(|label| label.text());
        // Names and types of columns stand in two columns.
        let members = diagram.elements.iter().filter_map(|e| e.class.as_ref().map(|body| (e.kind, body)));
        let members = members.flat_map(|(kind, body)| {
            let parts = move |text: &str| match kind {
                ElementKind::Table => text.split(": ").map(str::to_owned).collect(),
                _ => vec![text.to_owned()],
            };
            body.members().flat_map(move |member| parts(&member.text)).collect::<Vec<_>>()
        });
        let names = diagram.elements.iter().map(|e| e.shown().text());
        for text in ends.chain(labels).chain(members).chain(names) {
            let text: String = text.split_whitespace().collect();
            assert!(shown.contains(&text), "{}: `{text}` is not in `{shown}`\n{}", sample.name, sample.text);
        }
    });
    assert_snapshot!(sizes);
}
