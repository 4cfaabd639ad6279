//! The two ways into the model: a file with all that it takes from others, and a sheet that stands in no file.

use super::document::read_with;
use super::occurrences::{Occurrences, Recorder};
use super::sheet::{self, AdHocWords, Blocks};
use super::{Diagram, Document, Sheet, imports};
use crate::diag::Diagnostics;
use crate::source::Source;
use crate::source::world::World;
use crate::syntax::Tree;

/// Reads a file's tree of lines. `file_name` names a diagram whose block has no name; `world` gives the
/// files that it takes from. Once `stop` says so, what is left is passed over.
pub fn read(
    source: &Source, tree: &Tree, file_name: &str, (world, stop): (&dyn World, &dyn Fn() -> bool),
    diags: &mut Diagnostics,
) -> (Document, Occurrences) {
    let recorder = Recorder::new(stop);
    let imports = imports::read(source, tree, world, &recorder, diags);
    let document = read_with(source, tree, file_name, imports, &recorder, diags);
    (document, recorder.into_occurrences(source.id))
}

/// Makes a sheet that stands in no file, of a diagram that a document holds or sees. It may follow a sequence of `others`.
pub fn ad_hoc(
    words: &AdHocWords<'_>, diagram: &Diagram, document: &Document, others: &[&Diagram], diags: &mut Diagnostics,
) -> Sheet {
    let seen = document.diagrams.iter().chain(document.imports.diagrams()).chain(others.iter().copied());
    sheet::ad_hoc(words, diagram, &Blocks(seen.collect()), diags)
}
