//! New facts into a text that people have edited. Input: a reading, and the diagram of what was found. Output: [`TextEdit`]s, and
//! what they do.
//!
//! Laws: merging the same facts twice changes nothing the second time; whatever was written by hand is still there, byte for
//! byte; without pruning the text means what was in it plus what is new. What is gone is reported, and removed only where
//! somebody asks for that and nothing that was written by hand speaks of it.

mod contents;
mod counts;
mod events;
mod matching;
mod members;
mod ordered;
mod outcome;
mod pairing;
mod passages;
mod place;
mod prune;
mod whole;
mod writing;

pub use outcome::{Gone, Merged, Refused};

use crate::check::is_error;
use crate::emit;
use crate::model::{Diagram, Document, LookRule, Selector};
use crate::pipeline::Reading;
use crate::source::{TextEdit, apply};
use matching::Matched;
use std::collections::BTreeMap;
use whole::Whole;
use writing::Additions;

/// Merges the first diagram of some facts into a text. `comments` stand at the ends of new lines, by the byte of the facts at
/// which what a line says was read. `read` reads another text in the place of this one.
///
/// # Errors
/// If the text has errors, or does not say into which of its diagrams.
pub fn merge(
    reading: &Reading, found: &Document, comments: &BTreeMap<u32, String>, gone: Gone, read: &dyn Fn(String) -> Reading,
) -> Result<Merged, Refused> {
    if reading.has_errors() {
        return Err(Refused::Errors);
    }
    let Some(facts) = found.diagrams.first() else { return Ok(Merged::default()) };
    let own = target(reading, facts)?;
    let matched = Matched::of(own, facts);
    // 1. What there will be: all that is in the text, and what is new.
    let mut whole = Whole::of(own, facts, &matched);
    contents::take(&mut whole, facts);
    is_within_reach(reading, &whole)?;
    // 2. The lines of what is new.
    let mut additions = Additions::of(reading, &whole, comments);
    if let Some(block) = reading.tree.block_at(own.span.start) {
        additions.body(&emit::body(&whole.diagram), block);
    }
    // 3. Looks of tags that have none.
    let rules: Vec<&LookRule> = found.looks.iter().filter(|rule| !has_rule(reading, rule)).collect();
    additions.looks(&rules);
    let mut merged = Merged { edits: additions.edits(), added: additions.added, ..Merged::default() };
    // 4. What is gone.
    prune::gone(reading, own, facts, (&matched, &whole.found_relations()), gone, &mut merged);
    // 5. Numbers that are others by now, but for lines that are written again anyway.
    let renewed = counts::renewed(reading, (own, facts), (&whole, &matched), comments).into_iter();
    let is_free = |edit: &TextEdit| {
        merged.edits.iter().all(|other| other.span.end <= edit.span.start || edit.span.end <= other.span.start)
    };
    let renewed: Vec<TextEdit> = renewed.filter(is_free).collect();
    merged.renewed = renewed.len();
    merged.edits.extend(renewed);
    let text = apply(&reading.source, &merged.edits).map_err(|_| Refused::Broken("two edits overlap".to_owned()))?;
    let after = read(text);
    match after.diagnostics.iter().find(|d| is_error(d)) {
        Some(error) => Err(Refused::Broken(error.words(&after.sources()).sentence)),
        None => Ok(merged),
    }
}

/// Whether every line that new things are to stand under is in this text and speaks of one element alone.
fn is_within_reach(reading: &Reading, whole: &Whole) -> Result<(), Refused> {
    let diagram = &whole.diagram;
    let holders = diagram.ids().filter(|(id, _)| whole.is_new(*id)).filter_map(|(_, new)| new.parent);
    for holder in holders.filter(|id| !whole.is_new(*id)) {
        let element = diagram.element(holder);
        if !element.span.source.is_root() {
            return Err(Refused::Elsewhere(element.called()));
        }
        let is_beside = |other: &&crate::model::Element| !other.implicit && other.span == element.span;
        if diagram.elements.iter().filter(is_beside).count() > 1 {
            return Err(Refused::Together(element.called(), reading.source.line(element.span.start)));
        }
    }
    Ok(())
}

/// The diagram of the text that facts go into: of their name, or the only one of their kind.
fn target<'r>(reading: &'r Reading, facts: &Diagram) -> Result<&'r Diagram, Refused> {
    let of_kind: Vec<&Diagram> = reading.document.diagrams.iter().filter(|d| d.kind == facts.kind).collect();
    let named = of_kind.iter().find(|d| d.name == facts.name);
    match (named, of_kind.as_slice()) {
        (Some(named), _) => Ok(named),
        (None, [only]) => Ok(only),
        (None, []) => Err(Refused::Which(format!("the text has no {} that this could go into", facts.kind.word()))),
        (None, several) => {
            let names: Vec<&str> = several.iter().map(|diagram| diagram.name.as_str()).collect();
            let kind = facts.kind.word();
            Err(Refused::Which(format!(
                "several of {kind} could be meant, {}; say which by its name",
                names.join(", ")
            )))
        }
    }
}

/// Whether the text has a look for the same.
fn has_rule(reading: &Reading, rule: &LookRule) -> bool {
    let is_same =
        |own: &LookRule| matches!((&own.selector, &rule.selector), (Selector::Tag(a), Selector::Tag(b)) if a == b);
    reading.looks.iter().any(is_same)
}
