//! Source text with positions. Input: a file's name and text. Output: [`Source`] with byte [`Span`]s that know their file and
//! turn into lines and columns; [`TextEdit`]s, and the one function that applies them. Guarantees: every span handed out lies
//! on character boundaries.

pub mod conflict;
mod edit;
pub(crate) mod increasing;
mod unique;
mod units;
mod visible;
pub mod world;

pub use edit::{Overlap, TextEdit, apply};
pub use unique::Unique;
pub use units::Units;
pub use visible::{is_invisible, visible, visible_cut, visible_lines};

use std::collections::BTreeMap;

/// The number of a source in one reading.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct SourceId(u32);

impl SourceId {
    /// The file that is read; those that it takes from have higher numbers.
    pub const ROOT: Self = Self(0);
    /// A text that belongs to no file, such as what stands in the arguments of a command.
    pub const LOOSE: Self = Self(u32::MAX);

    /// One of several texts that belong to no file; the first is [`SourceId::LOOSE`].
    pub fn loose(number: u32) -> Self {
        Self(u32::MAX - number)
    }

    /// The source with this number, 0 for the file that is read.
    pub fn new(number: usize) -> Self {
        Self(number as u32)
    }

    /// The number itself.
    pub fn number(self) -> u32 {
        self.0
    }

    /// Whether it is the file that is read.
    pub fn is_root(self) -> bool {
        self == Self::ROOT
    }
}

/// A half-open range of bytes in one source of a reading.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Span {
    /// The source.
    pub source: SourceId,
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// The span of a source from `start` to `end` (bytes).
    pub fn new(source: SourceId, start: usize, end: usize) -> Self {
        Self { source, start: start as u32, end: end as u32 }
    }

    /// The smallest span that holds both, which lie in one source.
    pub fn to(self, other: Span) -> Span {
        Span { source: self.source, start: self.start.min(other.start), end: self.end.max(other.end) }
    }

    /// The span as a range of `usize`, for slicing.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }
}

/// A value with the place it was written at.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Spanned<T> {
    /// The value.
    pub value: T,
    /// Where it stands.
    pub span: Span,
}

/// One source text and where its lines begin.
#[derive(Clone, Debug)]
pub struct Source {
    /// Its number in the reading that it belongs to.
    pub id: SourceId,
    /// The file's name as shown to people, with `/` as separator.
    pub name: String,
    /// The text, valid UTF-8.
    pub text: String,
    line_starts: Vec<u32>,
    /// Where it stands in its file, if that holds more than this text.
    place: Place,
}

/// Where a text stands in a file that holds more than it, such as a block in Markdown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Place {
    /// How many lines of the file come before the text.
    pub lines: u32,
    /// How many characters of the file stand before each line of the text.
    pub columns: u32,
}

impl Source {
    /// The file that is read, from its shown name and text.
    pub fn new(name: impl Into<String>, text: impl Into<String>) -> Self {
        Self::numbered(SourceId::ROOT, name, text)
    }

    /// A source with a number of its own.
    pub fn numbered(id: SourceId, name: impl Into<String>, text: impl Into<String>) -> Self {
        let text = text.into();
        let starts = text.bytes().enumerate().filter(|(_, b)| *b == b'\n').map(|(i, _)| i as u32 + 1);
        let line_starts = std::iter::once(0).chain(starts).collect();
        Self { id, name: name.into(), text, line_starts, place: Place::default() }
    }

    /// The same text as part of a file that holds more: lines and columns are those of the file.
    pub fn at(self, place: Place) -> Self {
        Self { place, ..self }
    }

    /// Where the text stands in its file.
    pub fn place(&self) -> Place {
        self.place
    }

    /// The place of the line that holds a byte, from 0.
    fn row(&self, byte: u32) -> usize {
        self.line_starts.partition_point(|start| *start <= byte) - 1
    }

    /// The same source with another number.
    pub fn renumbered(&self, id: SourceId) -> Self {
        Self { id, ..self.clone() }
    }

    /// The line (from 1) that holds a byte.
    pub fn line(&self, byte: u32) -> u32 {
        self.row(byte) as u32 + 1 + self.place.lines
    }

    /// Line and column (both from 1, the column in characters) of a byte.
    pub fn position(&self, byte: u32) -> (u32, u32) {
        let start = self.line_starts[self.row(byte)] as usize;
        let end = (byte as usize).min(self.text.len());
        (self.line(byte), self.text[start..end].chars().count() as u32 + 1 + self.place.columns)
    }

    /// The text of a span.
    pub fn slice(&self, span: Span) -> &str {
        &self.text[span.range()]
    }

    /// A span of this source, in bytes.
    pub fn span(&self, start: usize, end: usize) -> Span {
        Span::new(self.id, start, end)
    }

    /// The byte at which the line of a byte begins.
    pub fn line_start(&self, byte: u32) -> u32 {
        self.line_starts[self.row(byte)]
    }

    /// The byte at which a line of this text begins, by its number from 0; behind the last one, where the text ends.
    pub fn row_start(&self, row: u32) -> u32 {
        self.line_starts.get(row as usize).copied().unwrap_or(self.text.len() as u32)
    }

    /// The byte at which the line of a byte ends, before its line break.
    pub fn line_end(&self, byte: u32) -> u32 {
        let rest = &self.text[byte as usize..];
        byte + rest.find(['\n', '\r']).unwrap_or(rest.len()) as u32
    }

    /// How new lines of this text end: as those that are there.
    pub fn line_break(&self) -> &'static str {
        if self.text.contains("\r\n") { "\r\n" } else { "\n" }
    }
}

/// The sources of one reading, found by their numbers.
#[derive(Clone, Debug, Default)]
pub struct Sources<'a> {
    by_id: BTreeMap<SourceId, &'a Source>,
    /// Whether lines are those of the texts, wherever these stand in their files.
    is_relative: bool,
}

impl<'a> Sources<'a> {
    /// Some sources, each with a number of its own.
    pub fn new(all: impl IntoIterator<Item = &'a Source>) -> Self {
        Self { by_id: all.into_iter().map(|source| (source.id, source)).collect(), is_relative: false }
    }

    /// The same, with lines that count from the beginning of each text: a picture stays the same when what stands above its
    /// text in a document changes.
    pub fn relative(self) -> Self {
        Self { is_relative: true, ..self }
    }

    /// The source with a number.
    pub fn get(&self, id: SourceId) -> Option<&'a Source> {
        self.by_id.get(&id).copied()
    }

    /// The line (from 1) at which a span begins; 0 where its source is not among these.
    pub fn line(&self, span: Span) -> u32 {
        self.get(span.source).map_or(0, |source| match self.is_relative {
            true => source.row(span.start) as u32 + 1,
            false => source.line(span.start),
        })
    }

    /// The name of the file of a span, where that is not the file that is read.
    pub fn other_file(&self, span: Span) -> Option<&'a str> {
        self.get(span.source).filter(|s| !s.id.is_root()).map(|s| s.name.as_str())
    }

    /// Where something else stands, for a sentence about a place: `line 5`, or `line 5 of shore/gateway.bathy` where that is
    /// another file.
    pub fn elsewhere(&self, span: Span, here: SourceId) -> String {
        let line = self.line(span);
        match self.get(span.source).filter(|s| s.id != here) {
            Some(source) => format!("line {line} of {}", source.name),
            None => format!("line {line}"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn positions_count_characters_not_bytes() {
        let source = Source::new("a.bathy", "Gezeiten\nÜber uns\n");
        assert_eq!(source.position(0), (1, 1));
        assert_eq!(source.position(9), (2, 1));
        assert_eq!(source.position(11), (2, 2));
        assert_eq!(source.line(source.text.len() as u32), 3);
        let placed = source.at(Place { lines: 10, columns: 2 });
        assert_eq!((placed.position(9), placed.position(11)), ((12, 3), (12, 4)));
        assert_eq!((placed.line_start(11), placed.line_end(11)), (9, 18));
    }
}
