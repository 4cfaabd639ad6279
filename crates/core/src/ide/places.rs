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
    let taken = reading.document.imports.diagrams.iter();
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

/// What is meant at a byte, if that has a name: a diagram, a sheet or an element.
pub fn meant(reading: &Reading, byte: u32) -> Option<Meant> {
    let target = at(&reading.occurrences, byte)?.target;
    let (block, part) = match target {
        Target::Block(block) => (block, Part::Whole),
        Target::Element(block, id) => (block, Part::Element(diagram(reading, block)?.element(id).key.clone())),
        Target::Relation(..) | Target::Member(..) | Target::File(_) => return None,
    };
    let file = reading.sources().get(block.source)?.name.clone();
    Some(Meant { file, block: block.start, part })
}

/// What is meant, as a file that may know it calls it.
fn target(reading: &Reading, meant: &Meant) -> Option<Target> {
    let sources = std::iter::once(&reading.source).chain(&reading.document.imports.sources);
    let source: SourceId = sources.into_iter().find(|source| source.name == meant.file)?.id;
    let block = BlockId { source, start: meant.block };
    match &meant.part {
        Part::Whole => Some(Target::Block(block)),
        Part::Element(key) => {
            let (id, _) = diagram(reading, block)?.ids().find(|(_, element)| element.key == *key)?;
            Some(Target::Element(block, id))
        }
    }
}

/// Where what is meant stands in a file, in the order of its text.
pub fn references(reading: &Reading, meant: &Meant) -> Vec<Occurrence> {
    target(reading, meant).map(|target| reading.occurrences.of(target).copied().collect()).unwrap_or_default()
}

/// Where what stands at a byte is declared, or named first; the span knows its file among those of the reading.
pub fn definition(reading: &Reading, byte: u32) -> Option<Span> {
    let target = at(&reading.occurrences, byte)?.target;
    let own = || reading.occurrences.of(target);
    let declared = own().find(|o| o.role == Role::Declared).map(|o| o.span);
    declared.or_else(|| match target {
        Target::Element(block, id) if !block.source.is_root() => Some(diagram(reading, block)?.element(id).span),
        Target::Block(block) if !block.source.is_root() => Some(diagram(reading, block)?.span),
        Target::File(source) => Some(Span { source, start: 0, end: 0 }),
        _ => own().next().map(|o| o.span),
    })
}
