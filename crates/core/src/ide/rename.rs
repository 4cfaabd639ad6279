//! Renames: every place where something is named, in all files at once.

use super::places::{Meant, Part, meant, references};
use crate::emit::written_name;
use crate::pipeline::Reading;
use crate::source::world::is_file_name;
use crate::source::{Span, TextEdit};

/// Why something is not renamed.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// The name is empty, or has a line break or a dot.
    #[error("a name is one line without dots")]
    NoName,
    /// Something beside it is called so.
    #[error("something else is called `{0}` there")]
    Taken(String),
    /// A picture cannot have a file of that name.
    #[error("no file of a picture can be called so")]
    NoFile,
}

/// The name at a byte, if it can be renamed.
pub fn renamable(reading: &Reading, byte: u32) -> Option<Span> {
    let meant = meant(reading, byte)?;
    let places = references(reading, &meant).into_iter().map(|o| o.span);
    let span = places.into_iter().find(|span| span.start <= byte && byte <= span.end)?;
    // What has no name of its own is called by its label, and a block without a name by its file.
    let text = reading.source.slice(span);
    (!text.starts_with('"') && !text.contains([' ', '\n']) || text.starts_with('`')).then_some(span)
}

/// The edits that rename what is meant in some readings; those of each in the order of its text.
///
/// # Errors
/// If the name cannot be one, or is taken.
pub fn rename(readings: &[&Reading], meant: &Meant, name: &str) -> Result<Vec<Vec<TextEdit>>, Refused> {
    if name.trim().is_empty() || name.contains(['.', '\n', '\r']) {
        return Err(Refused::NoName);
    }
    if meant.part == Part::Whole && !is_file_name(name) {
        return Err(Refused::NoFile);
    }
    for reading in readings.iter().filter(|r| r.source.name == meant.file) {
        if is_taken(reading, meant, name) {
            return Err(Refused::Taken(name.to_owned()));
        }
    }
    let written = written_name(name);
    let edits = readings.iter().map(|reading| {
        let places = references(reading, meant).into_iter().map(|o| o.span);
        // Something that is named by its label stays so.
        let named = places.filter(|span| !reading.source.slice(*span).starts_with('"'));
        named.map(|span| TextEdit::new(span, written.clone())).collect()
    });
    Ok(edits.collect())
}

/// Whether something beside what is meant is called so.
fn is_taken(reading: &Reading, meant: &Meant, name: &str) -> bool {
    let document = &reading.document;
    match &meant.part {
        Part::Whole => {
            let diagrams = document.diagrams.iter().map(|d| d.name.as_str());
            diagrams.chain(document.sheets.iter().map(|s| s.name.as_str())).any(|own| own == name)
        }
        Part::Element(key) => {
            let diagram = document.diagrams.iter().find(|d| d.span.start == meant.block);
            diagram.is_some_and(|diagram| {
                let Some((_, renamed)) = diagram.ids().find(|(_, e)| e.key == *key) else { return false };
                diagram.elements.iter().any(|e| e.parent == renamed.parent && e.name == name && e.key != *key)
            })
        }
    }
}
