//! What a line says without saying it: the subject of a line that begins with its verb, and how many relations a line with sets
//! stands for.

use crate::model::{Diagram, Target};
use crate::pipeline::Reading;
use std::collections::BTreeMap;
use std::ops::Range;

/// Something that a line says without a word for it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hint {
    /// The byte at which it would stand.
    pub at: u32,
    /// What it says.
    pub says: String,
    /// On which side of the place it keeps a distance.
    pub side: HintSide,
}

/// On which side of its place a hint stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum HintSide {
    /// Before what follows.
    Before,
    /// Behind the line.
    Behind,
}

/// The hints of the lines in a range of bytes.
pub fn hints(reading: &Reading, range: Range<u32>) -> Vec<Hint> {
    let mut found = Vec::new();
    for diagram in reading.document.diagrams.iter().filter(|own| own.span.source.is_root()) {
        // Relations by the line in which they are written.
        let mut lines: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
        for (i, relation) in diagram.relations.iter().enumerate().filter(|(_, r)| r.span.source.is_root()) {
            if range.contains(&relation.span.start) {
                lines.entry(reading.source.line_start(relation.span.start)).or_default().push(i);
            }
        }
        for relations in lines.values() {
            found.extend(subject(reading, diagram, relations[0]));
            let is_set = |i: &&usize| diagram.relations[**i].span == diagram.relations[relations[0]].span;
            let count = relations.iter().filter(is_set).count();
            if count > 1 {
                let span = diagram.relations[relations[0]].span;
                // Without a comment.
                let at = reading.tree.line_at(span.start).map_or(span.end, |line| reading.tree.line(line).span.end);
                found.push(Hint { at, says: format!("{count} relations"), side: HintSide::Behind });
            }
        }
    }
    found.sort_by_key(|hint| hint.at);
    found
}

/// The subject of a line that begins with its verb.
fn subject(reading: &Reading, diagram: &Diagram, relation: usize) -> Option<Hint> {
    let written = &diagram.relations[relation];
    let line = reading.tree.line(reading.tree.line_at(written.span.start)?);
    let first = reading.tree.tokens[*line.words.first()? as usize].span;
    if reading.source.slice(first) != written.verb.word() {
        return None;
    }
    // A line may name an element that is called like the verb.
    let names_one = reading.occurrences.at(first.start).iter().any(|o| matches!(o.target, Target::Element(..)));
    let says = diagram.element(written.from).called();
    (!names_one).then_some(Hint { at: first.start, says, side: HintSide::Before })
}
