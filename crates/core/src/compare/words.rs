//! Changes as a reviewer would say them.

use super::Fate;
use crate::model::{Diagram, Element, Relation, Verb};

/// A text in one line, in quotes.
pub(super) fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('\n', " "))
}

/// How an element is called in a sentence: by its name, or by what it shows.
pub(super) fn called(element: &Element) -> String {
    if element.name.is_empty() {
        return match element.label.as_ref().map(|l| l.text()).filter(|t| !t.is_empty()) {
            Some(label) => quoted(&label),
            None => format!("a {}", element.kind.word()),
        };
    }
    format!("`{}`", element.name)
}

/// An element with its kind: `service `gateway``.
pub(super) fn introduced(element: &Element) -> String {
    match (element.name.is_empty(), &element.label) {
        (true, None) => format!("a {}", element.kind.word()),
        _ => format!("{} {}", element.kind.word(), called(element)),
    }
}

/// Something that came or went.
pub(super) fn alone(fate: Fate, what: &str) -> String {
    match fate {
        Fate::Came => format!("{what} is new"),
        Fate::Went => format!("{what} is gone"),
        Fate::Changed => format!("{what} changed"),
        Fate::Moved => format!("{what} moved"),
    }
}

/// `label: "a" became "b"`; nothing where both are the same.
pub(super) fn difference(what: &str, old: Option<&str>, new: Option<&str>) -> Option<String> {
    match (old, new) {
        (old, new) if old == new => None,
        (Some(old), Some(new)) => Some(format!("{what}: {} became {}", quoted(old), quoted(new))),
        (None, Some(new)) => Some(format!("{what}: {} came", quoted(new))),
        (Some(old), None) => Some(format!("{what}: {} went", quoted(old))),
        (None, None) => None,
    }
}

/// A relation: `` `gateway` writes `archive` ``.
pub(super) fn related(diagram: &Diagram, relation: &Relation) -> String {
    parts(diagram, relation, "")
}

/// A relation that came or went: `` `gateway` now writes `archive` "levels" ``.
pub(super) fn came_or_went(fate: Fate, diagram: &Diagram, relation: &Relation) -> String {
    let label = relation.label.as_ref().map_or(String::new(), |l| format!(" {}", quoted(&l.text())));
    let adverb = if fate == Fate::Came { "now " } else { "no longer " };
    parts(diagram, relation, adverb) + &label
}

/// A verb in a sentence.
fn said(verb: Verb) -> &'static str {
    match verb.word() {
        "then" => "leads to",
        word => word,
    }
}

fn parts(diagram: &Diagram, relation: &Relation, adverb: &str) -> String {
    let from = called(diagram.element(relation.from));
    match relation.verb {
        Verb::Does => format!("{from} {adverb}does"),
        verb => format!("{from} {adverb}{} {}", said(verb), called(diagram.element(relation.to))),
    }
}
