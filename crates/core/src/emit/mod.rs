//! Model to canonical source text. Input: a [`Document`]. Output: the text that one would write for it, as
//! [`format`](crate::format) leaves it. Guarantees: read again, the text means the same; lines stand in the order of the
//! spans that their things were read at, and what was read nowhere stands in the order of the model, so that a canonical
//! text without comments and empty lines comes back as it was.
//!
//! What is written several ways comes back in one: the shortest path to an element, a step's remark under the step, keys
//! as traits of their columns.

mod classes;
mod flow;
mod lines;
mod nested;
mod outline;
mod phrases;
mod picture;
mod sequence;
mod sets;
mod sheets;
mod states;
mod tree;

use crate::format::format;
use crate::model::{Constraint, Diagram, DiagramKind, Document, ElementId, LookRule, Relation, Sheet};
use crate::source::{Source, Span};
pub(crate) use lines::{Line, Lines};
pub(crate) use phrases::quoted;
use std::collections::BTreeMap;

/// A name as it is written: in backquotes where it would not be read as one otherwise, or as a verb.
pub fn written_name(name: &str) -> String {
    phrases::name(name, &crate::model::Verb::ALL.iter().map(|verb| verb.word()).collect::<Vec<_>>())
}

/// The name of a column as it is written: in backquotes where it would not be read as a name otherwise.
pub fn written_column(name: &str) -> String {
    phrases::name(name, &[])
}

/// The shortest path that names an element, at the level of its block.
pub(crate) fn written_path(diagram: &Diagram, id: ElementId) -> String {
    phrases::Naming::of(diagram).path(id, None)
}

/// A constraint as it is written at the level of its block.
pub(crate) fn written_constraint(diagram: &Diagram, constraint: &Constraint) -> String {
    let naming = phrases::Naming::of(diagram);
    constraint.written(|ids| naming.paths(ids, None))
}

/// The lines that say some relations, at the level of their block.
pub(crate) fn written_relations(diagram: &Diagram, relations: &[&Relation]) -> String {
    let mut lines = Lines::default();
    nested::relations(&outline::Outline::of(diagram), relations, None, &mut lines);
    lines.to_text()
}

/// A rule of a look as it is written.
pub(crate) fn written_rule(rule: &LookRule) -> String {
    format!("{}: {}", phrases::selector(&rule.selector), phrases::trait_list(&rule.traits))
}

/// The canonical text of a document. What it takes from other files stays there: the text names them.
pub fn emit(document: &Document) -> String {
    emit_with(document, &BTreeMap::new())
}

/// The same with comments at the ends of lines: by the byte at which what a line says was read.
pub fn emit_with(document: &Document, comments: &BTreeMap<u32, String>) -> String {
    let mut blocks = Lines::default();
    for path in &document.from {
        blocks.push(path.span, format!("from {}", phrases::text(path)));
    }
    document.diagrams.iter().for_each(|diagram| block(&mut blocks, diagram));
    for sheet in &document.sheets {
        let Some(diagram) = document.diagram(&sheet.of) else { continue };
        blocks.extend(sheets::sheet(diagram, sheet));
    }
    looks(&mut blocks, document);
    blocks.comment(comments);
    finished(blocks)
}

/// The canonical text of one sheet of a diagram.
pub fn emit_sheet(diagram: &Diagram, sheet: &Sheet) -> String {
    finished(sheets::sheet(diagram, sheet))
}

/// Lines in the form that every text has.
fn finished(blocks: Lines) -> String {
    format(&Source::new("", blocks.in_order().to_text()))
}

/// One diagram.
fn block(blocks: &mut Lines, diagram: &Diagram) {
    blocks.push_with(diagram.span, picture::header(diagram), body(diagram));
}

/// The lines under the first one of a diagram.
pub(crate) fn body(diagram: &Diagram) -> Lines {
    match diagram.kind {
        DiagramKind::Sequence => sequence::body(diagram),
        DiagramKind::Classes => classes::body(diagram),
        DiagramKind::Flow => flow::body(diagram),
        DiagramKind::States => states::body(diagram),
        DiagramKind::Architecture | DiagramKind::Network => nested::body(diagram),
        DiagramKind::Tree => tree::body(diagram),
    }
}

/// Rules of looks; those that were read one after the other stand in one block.
fn looks(blocks: &mut Lines, document: &Document) {
    let starts: Vec<Span> =
        document.diagrams.iter().map(|d| d.span).chain(document.sheets.iter().map(|s| s.span)).collect();
    let is_parted = |a: &LookRule, b: &LookRule| starts.iter().any(|s| a.span < *s && *s < b.span);
    for rules in document.looks.chunk_by(|a, b| !is_parted(a, b)) {
        let mut body = Lines::default();
        for rule in rules {
            body.push(rule.span, written_rule(rule));
        }
        blocks.push_with(rules[0].span, "look".to_owned(), body);
    }
}
