//! What is meant at a place, and where it stands, also in other files.

use crate::model::{BlockId, Diagram, Occurrence, Occurrences, Role, Target};
use crate::pipeline::Reading;
use crate::source::{SourceId, Span};

/// What is meant at a place, in words that hold in every file of a project.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Meant {
    /// The file in which its block stands.
    pub file: String,
    /// The byte at which that block begins.
    pub block: u32,
    /// What it is in the block.
    pub part: Part,
}

/// A part of a block.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Part {
    /// All of it.
    Whole,
    /// An element, by its key.
    Element(String),
}

/// The diagram of a block.
pub(super) fn diagram(reading: &Reading, block: BlockId) -> Option<&Diagram> {
    let taken = reading.document.imports.diagrams();
    reading.document.diagrams.iter().chain(taken).find(|diagram| BlockId::of(diagram) == block)
}

/// What stands at a byte, a name before the line in which it stands.
pub(super) fn at(occurrences: &Occurrences, byte: u32) -> Option<&Occurrence> {
    // The caret may stand behind the last letter of a name.
    let found = occurrences.at(byte).into_iter().next();
    let before = byte.checked_sub(1).and_then(|byte| occurrences.at(byte).into_iter().next());
    let is_name = |o: &&Occurrence| matches!(o.target, Target::Block(_) | Target::Element(..));
    found.filter(is_name).or(before.filter(is_name)).or(found)
}

/// What is really meant by a target: a party of a sequence of a map is an element of the map.
fn owner(reading: &Reading, target: Target) -> Target {
    let Target::Element(block, id) = target else { return target };
    let party = diagram(reading, block).and_then(|sequence| {
        let map = map_of(reading, sequence)?;
        let key = &sequence.element(id).key;
        let (id, _) = map.ids().find(|(_, element)| element.key == *key)?;
        Some(Target::Element(BlockId::of(map), id))
    });
    party.unwrap_or(target)
}

/// The diagram that a sequence takes its parties from.
fn map_of<'a>(reading: &'a Reading, sequence: &Diagram) -> Option<&'a Diagram> {
    let name = sequence.interaction()?.of.as_ref()?;
    let taken = reading.document.imports.diagrams();
    reading.document.diagrams.iter().chain(taken).find(|diagram| diagram.name == *name)
}

/// What is meant at a byte, if that has a name: a diagram, a sheet or an element.
pub fn meant(reading: &Reading, byte: u32) -> Option<Meant> {
    let target = owner(reading, at(&reading.occurrences, byte)?.target);
    let (block, part) = match target {
        Target::Block(block) => (block, Part::Whole),
        Target::Element(block, id) => (block, Part::Element(diagram(reading, block)?.element(id).key.clone())),
        Target::Relation(..) | Target::Member(..) | Target::File(_) => return None,
    };
    let file = reading.sources().get(block.source)?.name.clone();
    Some(Meant { file, block: block.start, part })
}

/// The block in which what is meant stands, as a file that may know it calls it.
fn block_of(reading: &Reading, meant: &Meant) -> Option<BlockId> {
    let mut sources = std::iter::once(&reading.source).chain(&reading.document.imports.sources);
    let source: SourceId = sources.find(|source| source.name == meant.file)?.id;
    Some(BlockId { source, start: meant.block })
}

/// Where what is meant stands in a file, in the order of its text: of a path, the part that names it.
pub fn references(reading: &Reading, meant: &Meant) -> Vec<Occurrence> {
    let Some(block) = block_of(reading, meant) else { return Vec::new() };
    let key = match &meant.part {
        Part::Whole => return reading.occurrences.of(Target::Block(block)).copied().collect(),
        Part::Element(key) => key,
    };
    let own = diagram(reading, block).and_then(|d| d.ids().find(|(_, element)| element.key == *key));
    let target = own.map(|(id, _)| Target::Element(block, id));
    let mut found: Vec<Occurrence> =
        target.into_iter().flat_map(|target| reading.occurrences.of(target).copied()).collect();
    // Sequences of the map name its elements by paths.
    let is_of_it = |sequence: &&Diagram| map_of(reading, sequence).is_some_and(|map| BlockId::of(map) == block);
    for sequence in reading.document.diagrams.iter().filter(is_of_it) {
        let own = BlockId::of(sequence);
        for occurrence in reading.occurrences.iter() {
            let Target::Element(_, id) = occurrence.target else { continue };
            if occurrence.target != Target::Element(own, id) {
                continue;
            }
            let part = part_of_path(reading, occurrence.span, &sequence.element(id).key, key);
            found.extend(part.map(|span| Occurrence { span, role: Role::Named, ..*occurrence }));
        }
    }
    found.sort();
    found.dedup_by_key(|occurrence| occurrence.span);
    found
}

/// The part of a path to an element that names another, which is around it or the same.
fn part_of_path(reading: &Reading, span: Span, key: &str, wanted: &str) -> Option<Span> {
    let rest = key.strip_prefix(wanted)?;
    if !rest.is_empty() && !rest.starts_with('.') {
        return None;
    }
    let behind = rest.matches('.').count();
    // Of a path, only its last part may have been noted.
    let before = &reading.source.text[..span.start as usize];
    let is_path = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | '`');
    let start = if before.ends_with('.') { before.trim_end_matches(is_path).len() as u32 } else { span.start };
    let span = Span { start, ..span };
    let text = reading.source.slice(span);
    let parts: Vec<&str> = text.split('.').collect();
    let part = parts.len().checked_sub(behind + 1).map(|at| parts[at])?;
    let name = wanted.rsplit('.').next().unwrap_or(wanted);
    let start = span.start + (part.as_ptr() as usize - text.as_ptr() as usize) as u32;
    (part.trim_matches('`') == name).then_some(Span { start, end: start + part.len() as u32, ..span })
}

/// Where what stands at a byte is declared, or named first; the span knows its file among those of the reading.
pub fn definition(reading: &Reading, byte: u32) -> Option<Span> {
    let target = owner(reading, at(&reading.occurrences, byte)?.target);
    let own = || reading.occurrences.of(target);
    let declared = own().find(|o| o.role == Role::Declared).map(|o| o.span);
    declared.or_else(|| match target {
        Target::Element(block, id) if !block.source.is_root() => Some(diagram(reading, block)?.element(id).span),
        Target::Block(block) if !block.source.is_root() => Some(diagram(reading, block)?.span),
        Target::File(source) => Some(Span { source, start: 0, end: 0 }),
        _ => own().next().map(|o| o.span),
    })
}
