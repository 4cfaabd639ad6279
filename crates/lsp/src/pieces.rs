//! Texts that are read on their own: a source, or a block of a Markdown document; and where each stands in its document.

use crate::convert;
use crate::text::Encoding;
use bathygram_core::pipeline::Reading;
use bathygram_core::source::{Source, SourceId, Span, TextEdit, Units};
use bathygram_host::MAX_DOCUMENT;
use bathygram_outputs::markdown;
use lsp_types::{Position, Range};
use std::cell::RefCell;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::rc::Rc;

/// A text that is read on its own.
#[derive(Clone)]
pub(crate) struct Piece {
    /// The file that it stands in.
    pub(crate) path: PathBuf,
    pub(crate) reading: Rc<Reading>,
    place: Rc<Place>,
    /// Its text, and those of files that it takes from, as the client counts them.
    units: Rc<RefCell<HashMap<SourceId, Rc<Units>>>>,
}

/// Where a text stands in its document: nowhere else, for a source.
#[derive(Default)]
pub(crate) struct Place {
    /// This many lines are above it.
    above: u32,
    /// How many letters stand before each of its lines: those of lists and quotes.
    columns: Vec<u32>,
    /// What stands there, before a line that is put in.
    prefix: String,
}

/// A block of a Markdown document, before it is read.
pub(crate) struct Unread {
    pub(crate) text: String,
    /// What a diagram in it is called that has no name of its own.
    pub(crate) stem: String,
    pub(crate) place: Place,
}

/// The blocks of a Markdown document.
pub(crate) fn blocks(path: &Path, text: &str) -> Vec<Unread> {
    let lines: Vec<&str> = text.lines().collect();
    let stem = path.file_stem().map_or("block".into(), |stem| stem.to_string_lossy().into_owned());
    let block = |(number, block): (usize, markdown::Block)| {
        let above = block.line - 1;
        let before = |(i, own): (usize, &str)| {
            let whole = lines.get(above as usize + i).copied().unwrap_or_default();
            // What lists and quotes put there is ASCII: as many letters as bytes.
            whole.len().saturating_sub(own.len()) as u32
        };
        let columns: Vec<u32> = block.text.lines().enumerate().map(before).collect();
        let first = lines.get(above as usize).copied().unwrap_or_default();
        let prefix = columns.first().and_then(|width| first.get(..*width as usize)).unwrap_or_default().to_owned();
        Unread { stem: format!("{stem}_{}", number + 1), place: Place { above, columns, prefix }, text: block.text }
    };
    // What the other commands refuse shows nothing here.
    let text = if text.len() as u64 > MAX_DOCUMENT { "" } else { text };
    markdown::blocks(text).into_iter().enumerate().map(block).collect()
}

impl Piece {
    /// A source.
    pub(crate) fn whole(path: PathBuf, reading: Rc<Reading>) -> Self {
        Self { path, reading, place: Rc::default(), units: Rc::default() }
    }

    /// A block that was read.
    pub(crate) fn block(path: PathBuf, reading: Reading, place: Place) -> Self {
        Self { path, reading: Rc::new(reading), place: Rc::new(place), units: Rc::default() }
    }

    fn column(&self, line: u32) -> u32 {
        self.place.columns.get(line as usize).copied().unwrap_or(0)
    }

    /// A line of the document, from 0, as one of the text.
    pub(crate) fn line_in(&self, line: u32) -> Option<u32> {
        let own = line.checked_sub(self.place.above)?;
        let is_block = !self.place.columns.is_empty();
        (!is_block || (own as usize) < self.place.columns.len()).then_some(own)
    }

    /// A line of the text, from 0, as one of the document.
    pub(crate) fn line_out(&self, line: u32) -> u32 {
        line + self.place.above
    }

    /// The byte at a position of the document; `None` if that is outside of the text.
    pub(crate) fn byte(&self, position: Position, encoding: Encoding) -> Option<u32> {
        let line = self.line_in(position.line)?;
        let character = position.character.saturating_sub(self.column(line));
        Some(encoding.byte(&self.reading.source.text, Position { line, character }) as u32)
    }

    /// A position of the text as one of the document.
    pub(crate) fn outward(&self, position: Position) -> Position {
        Position { line: self.line_out(position.line), character: position.character + self.column(position.line) }
    }

    /// A text as the client counts it: this one, or that of a file that it takes from.
    pub(crate) fn units(&self, source: &Source, encoding: Encoding) -> Rc<Units> {
        let mut known = self.units.borrow_mut();
        Rc::clone(known.entry(source.id).or_insert_with(|| Rc::new(encoding.units(&source.text))))
    }

    /// Where a span of the text stands in the document.
    pub(crate) fn range(&self, span: Span, encoding: Encoding) -> Range {
        let source = &self.reading.source;
        let own = convert::range(source, span, &self.units(source, encoding));
        Range { start: self.outward(own.start), end: self.outward(own.end) }
    }

    /// Edits of the text, in its document: lines that are put in begin as the others do.
    pub(crate) fn edits(&self, edits: &[TextEdit], encoding: Encoding) -> Vec<lsp_types::TextEdit> {
        let own = edits.iter().filter(|edit| edit.span.source.is_root());
        let edit = |edit: &TextEdit| {
            let text = edit.text.replace('\n', &format!("\n{}", self.place.prefix));
            lsp_types::TextEdit::new(self.range(edit.span, encoding), text)
        };
        own.map(edit).collect()
    }
}
