//! What the tests of the core share: reading a text, and telling a model in a few words.

#![allow(dead_code, reason = "each test file uses a part of it")]

use bathygram_core::model::{Diagram, ElementId, Item, Relation};
use bathygram_core::pipeline::{self, Reading, Studio};
use bathygram_core::source::Source;
use std::fmt::Write;

/// Reads a text, mistakes included.
pub(crate) fn read(text: &str) -> Reading {
    pipeline::read(Source::new("t.bathy", text), "t")
}

/// Reads a text that has no mistakes.
pub(crate) fn good(text: &str) -> Reading {
    let reading = read(text);
    assert!(!reading.has_errors(), "{:#?}", reading.diagnostics);
    reading
}

/// The first diagram of a text without mistakes.
pub(crate) fn diagram(text: &str) -> Diagram {
    good(text).document.diagrams.remove(0)
}

/// The codes of everything that was found, in order.
pub(crate) fn codes(text: &str) -> Vec<&'static str> {
    read(text).diagnostics.iter().map(|d| d.code).collect()
}

/// The SVG of one picture of a text.
pub(crate) fn svg(text: &str, name: &str) -> String {
    let reading = good(text);
    let pictures = reading.pictures();
    let picture = pictures.iter().find(|p| p.name == name).expect("a picture of that name");
    pipeline::draw(&Studio::new(), &reading, picture)
}

/// Elements, relations and events, a line each.
pub(crate) fn outline(diagram: &Diagram) -> String {
    let mut out = String::new();
    for (id, element) in diagram.ids() {
        let depth = diagram.ancestors(id).count();
        let label = element.label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", l.text()));
        let implicit = if element.implicit { " (mentioned)" } else { "" };
        let place = element.parent.map_or(String::new(), |p| format!(" in {}", diagram.element(p).key));
        let _ = writeln!(out, "{}{} {}{label}{place}{implicit}", "  ".repeat(depth), element.kind.word(), element.key);
    }
    for relation in &diagram.relations {
        let _ = writeln!(out, "{}", told(diagram, relation));
    }
    events(diagram, &diagram.items, 0, &mut out);
    out
}

fn told(diagram: &Diagram, relation: &Relation) -> String {
    let key = |id: ElementId| diagram.element(id).key.clone();
    let ends: Vec<String> = relation.ends.iter().map(|e| e.shown()).collect();
    let mut out = format!("{} {} {}", key(relation.from), relation.verb.word(), key(relation.to));
    for (word, text) in [("from", &ends[0]), ("to", &ends[1])] {
        if !text.is_empty() {
            let _ = write!(out, " {word}[{text}]");
        }
    }
    for (word, label) in [("", &relation.label), (" start", &relation.start), (" over", &relation.over)] {
        if let Some(label) = label {
            let _ = write!(out, "{word} \"{}\"", label.text());
        }
    }
    out
}

fn events(diagram: &Diagram, items: &[Item], depth: usize, out: &mut String) {
    let pad = "  ".repeat(depth);
    let text = |l: &Option<bathygram_core::syntax::Label>| l.as_ref().map_or("-".to_owned(), |l| l.text());
    for item in items {
        let _ = match item {
            Item::Message { relation, body, returning, guard, within } => {
                let _ = write!(out, "{pad}> {}", told(diagram, diagram.relation(*relation)));
                for (word, label) in [("when", guard), ("within", within), ("returning", returning)] {
                    if label.is_some() {
                        let _ = write!(out, " {word} {}", text(label));
                    }
                }
                let _ = writeln!(out);
                events(diagram, body, depth + 1, out);
                Ok(())
            }
            Item::Fragment { operator, operands, .. } => {
                for operand in operands {
                    let _ = writeln!(out, "{pad}{} [{}]", operator.word(), text(&operand.guard));
                    events(diagram, &operand.items, depth + 1, out);
                }
                Ok(())
            }
            Item::Reference { label, across, .. } => writeln!(out, "{pad}ref {} over {}", label.text(), across.len()),
            Item::Phase { label, .. } => writeln!(out, "{pad}phase {}", label.text()),
            Item::Pause { label, .. } => writeln!(out, "{pad}pause {}", text(label)),
            Item::Remark { across, label, left, .. } => {
                writeln!(out, "{pad}remark {} over {}{}", label.text(), across.len(), if *left { " left" } else { "" })
            }
        };
    }
}
