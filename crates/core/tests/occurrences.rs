//! Laws of occurrences: what stands at a place is what the text says there, and a name that is changed wherever it stands
//! gives a text that means the same with another name.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::model::{BlockId, Diagram, ElementId, Role, Target};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::{TextEdit, apply};
use bathygram_corpus::{gallery, processes, samples};
use support::{codes, demo, good, read};

const NEW: &str = "renamed_by_a_test";

/// Texts of all kinds, without errors.
fn texts() -> Vec<String> {
    let mut all = [gallery::sequences(), gallery::classes(), processes::flows(), processes::states()].concat();
    all.extend(processes::trees());
    all.extend(samples().into_iter().step_by(7));
    let mut texts: Vec<String> = all.into_iter().map(|sample| sample.text).collect();
    texts.retain(|text| !read(text).has_errors());
    texts
}

/// The diagrams that stand in the file itself.
fn own(reading: &Reading) -> impl Iterator<Item = &Diagram> {
    reading.document.diagrams.iter().filter(|d| d.span.source.is_root())
}

#[test]
fn what_is_declared_stands_there_by_its_name() {
    let mut seen = 0;
    for text in texts() {
        let reading = good(&text);
        for diagram in own(&reading) {
            let block = BlockId::of(diagram);
            for (id, element) in diagram.ids().filter(|(_, e)| !e.name.is_empty()) {
                let target = Target::Element(block, id);
                let declared: Vec<&str> = reading
                    .occurrences
                    .iter()
                    .filter(|o| o.target == target && o.role == Role::Declared)
                    .map(|o| reading.source.slice(o.span).trim_matches('`'))
                    .collect();
                assert!(declared.len() <= 1, "{} is declared at {declared:?} in\n{text}", element.name);
                // One of a set stands at the whole range, such as `buoy1..buoy4`.
                let is_there = |d: &str| d == element.name || d.contains("..") || d.starts_with('"');
                assert!(declared.iter().all(|d| is_there(d)), "{} at {declared:?} in\n{text}", element.name);
                seen += declared.len();
            }
        }
    }
    assert!(seen > 1_000, "{seen} declared elements are too few to say anything");
}

#[test]
fn places_lie_in_the_text_and_are_found_again() {
    for text in texts() {
        let reading = good(&text);
        for occurrence in reading.occurrences.iter() {
            let range = occurrence.span.range();
            assert!(range.start < range.end && text.get(range.clone()).is_some(), "{occurrence:?} in\n{text}");
            let found = reading.occurrences.at(occurrence.span.start);
            assert!(found.contains(&occurrence), "{occurrence:?} is not found at its own first byte in\n{text}");
        }
    }
}

/// The text with an element called otherwise wherever it is named.
fn renamed(reading: &Reading, target: Target, name: &str) -> Option<String> {
    let mut edits = Vec::new();
    for occurrence in reading.occurrences.iter().filter(|o| o.target == target) {
        let written = reading.source.slice(occurrence.span);
        // Sets and names in backquotes are written otherwise: the editor does not offer to rename these.
        if written != name {
            return None;
        }
        edits.push(TextEdit::new(occurrence.span, NEW));
    }
    (!edits.is_empty()).then(|| apply(&reading.source, &edits).expect("names do not overlap"))
}

/// The labels, kinds and places of all elements of a diagram, without their names.
fn shape(diagram: &Diagram) -> Vec<(String, Option<usize>)> {
    let parent = |id: ElementId| diagram.element(id).parent.map(ElementId::index);
    diagram.ids().map(|(id, e)| (e.kind.word().to_owned(), parent(id))).collect()
}

#[test]
fn a_name_changed_wherever_it_stands_changes_nothing_else() {
    let mut tried = 0;
    for text in texts() {
        let before = good(&text);
        let findings = codes(&text);
        for diagram in own(&before) {
            let named = diagram.ids().filter(|(_, e)| !e.name.is_empty()).take(4);
            for (id, element) in named {
                let Some(after) = renamed(&before, Target::Element(BlockId::of(diagram), id), &element.name) else {
                    continue;
                };
                tried += 1;
                let reading = read(&after);
                assert_eq!(codes(&after), findings, "{} renamed:\n{after}", element.name);
                let now = reading.document.diagram(&diagram.name).expect("the block");
                assert_eq!(shape(now), shape(diagram), "{} renamed:\n{after}", element.name);
                assert_eq!(now.element(id).name, NEW, "{after}");
                assert_eq!(now.relations.len(), diagram.relations.len(), "{after}");
            }
        }
    }
    assert!(tried > 100, "{tried} names are too few to say anything");
}

#[test]
fn the_demo_knows_where_its_parts_come_from() {
    for reading in demo() {
        let files = reading.occurrences.iter().filter(|o| matches!(o.target, Target::File(_))).count();
        let froms = reading.source.text.lines().filter(|l| l.trim_start().starts_with("from ")).count();
        assert_eq!(files, froms, "{}", reading.source.name);
    }
}
