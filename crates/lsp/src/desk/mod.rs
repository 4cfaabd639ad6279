//! What requests are answered from: the open texts, and how a client counts. One file for each kind of answer.

mod hierarchy;
mod names;
mod outline;
mod writing;

use crate::answers::Failed;
use crate::convert;
use crate::documents::Documents;
use crate::pieces::Piece;
use crate::text::Encoding;
use bathygram_core::source::Span;
use lsp_types::{Location, TextDocumentPositionParams, Uri};

/// What requests are answered from.
pub(crate) struct Desk<'a> {
    pub(crate) documents: &'a Documents,
    pub(crate) encoding: Encoding,
}

impl Desk<'_> {
    /// The texts of a file.
    fn open(&self, uri: &Uri) -> Result<Vec<Piece>, Failed> {
        let unknown = || Failed::Params(format!("{} is no file that can be read", uri.as_str()));
        let path = convert::path(uri).ok_or_else(unknown)?;
        self.documents.pieces(&path).ok_or_else(unknown)
    }

    /// The text at a position, and the byte there; `None` between the blocks of a document.
    fn place(&self, at: &TextDocumentPositionParams) -> Result<Option<(Piece, u32)>, Failed> {
        let pieces = self.open(&at.text_document.uri)?.into_iter();
        let mut found = pieces.filter_map(|piece| piece.byte(at.position, self.encoding).map(|byte| (piece, byte)));
        Ok(found.next())
    }

    /// A span of a text, in its own file or one that it takes from.
    fn location(&self, piece: &Piece, span: Span) -> Option<Location> {
        if span.source.is_root() {
            return Some(Location::new(convert::uri(&piece.path)?, piece.range(span, self.encoding)));
        }
        let sources = piece.reading.sources();
        let source = sources.get(span.source)?;
        let file = self.documents.path_of(&source.name, &piece.path);
        Some(Location::new(convert::uri(&file)?, convert::range(source, span, &piece.units(source, self.encoding))))
    }

    /// The findings of a file; `None` once nobody waits for them any more.
    pub(crate) fn findings(&self, uri: &Uri, stop: &dyn Fn() -> bool) -> Option<Vec<lsp_types::Diagnostic>> {
        let Some(path) = convert::path(uri) else { return Some(Vec::new()) };
        let pieces = match self.documents.pieces_unless(&path, stop) {
            Some(pieces) => pieces,
            None if stop() => return None,
            None => Vec::new(),
        };
        let of_piece = |piece: &Piece| -> Vec<_> {
            let found = piece.reading.diagnostics.iter();
            found.map(|found| convert::finding(piece, found, self.encoding)).collect()
        };
        Some(pieces.iter().flat_map(of_piece).collect())
    }
}
