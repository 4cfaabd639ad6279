//! Edits that are asked for: the canonical form of a text, of some lines or of the one just typed, and corrections.

use super::Desk;
use crate::answers::Failed;
use crate::convert;
use crate::pieces::Piece;
use bathygram_core::format::{LineChange, format, line_changes};
use bathygram_core::ide;
use bathygram_core::source;
use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOrCommand, Range, TextDocumentPositionParams, TextEdit, Uri, WorkspaceEdit,
};
use std::collections::HashMap;

impl Desk<'_> {
    pub(crate) fn formatted(&self, uri: &Uri) -> Result<Vec<TextEdit>, Failed> {
        Ok(self.open(uri)?.iter().flat_map(|piece| piece.edits(&lines_formatted(piece), self.encoding)).collect())
    }

    /// What the canonical form changes in some lines.
    pub(crate) fn formatted_range(&self, uri: &Uri, range: Range) -> Result<Vec<TextEdit>, Failed> {
        // Up to the beginning of a line is without that line.
        let last = range.end.line - u32::from(range.end.character == 0 && range.end.line > range.start.line);
        let is_inside = |edit: &TextEdit| {
            let end =
                edit.range.end.line - u32::from(edit.range.end.character == 0 && edit.range.end > edit.range.start);
            edit.range.start.line >= range.start.line && end <= last
        };
        Ok(self.formatted(uri)?.into_iter().filter(is_inside).collect())
    }

    /// The same for the line that was ended: what stands behind it is still being typed.
    pub(crate) fn formatted_line(&self, at: &TextDocumentPositionParams) -> Result<Vec<TextEdit>, Failed> {
        let Some(line) = at.position.line.checked_sub(1) else { return Ok(Vec::new()) };
        let start = lsp_types::Position { line, character: 0 };
        let end = lsp_types::Position { line, character: u32::MAX };
        self.formatted_range(&at.text_document.uri, Range { start, end })
    }

    #[allow(clippy::mutable_key_type, reason = "the protocol's own type: an address never changes")]
    pub(crate) fn actions(&self, uri: &Uri, range: Range) -> Result<Vec<CodeActionOrCommand>, Failed> {
        let mut found = Vec::new();
        for piece in self.open(uri)? {
            let bytes = [range.start, range.end].map(|position| piece.byte(position, self.encoding));
            let [Some(start), Some(end)] = bytes else { continue };
            found.extend(ide::fixes(&piece.reading, start..end).map(|(finding, fix)| {
                let edits = piece.edits(&fix.edits, self.encoding);
                CodeActionOrCommand::CodeAction(CodeAction {
                    title: fix.title.clone(),
                    kind: Some(CodeActionKind::QUICKFIX),
                    diagnostics: Some(vec![convert::finding(&piece, finding, self.encoding)]),
                    edit: Some(WorkspaceEdit::new(HashMap::from([(uri.clone(), edits)]))),
                    is_preferred: Some(fix.certainty == bathygram_core::diag::Certainty::Certain),
                    ..CodeAction::default()
                })
            }));
        }
        Ok(found)
    }
}

/// How many edits an editor is given to format a text; where more would be needed, one edit replaces all lines from the first that
/// changes to the last. An edit takes 3 kB until it is sent.
const MOST_EDITS: usize = 20_000;

/// The edits that bring a text into its canonical form, whole lines each: what stays, stays, and so does the caret.
fn lines_formatted(piece: &Piece) -> Vec<source::TextEdit> {
    let own = &piece.reading.source;
    let formatted = format(own);
    let before: Vec<&str> = own.text.split_inclusive('\n').collect();
    let after: Vec<&str> = formatted.split_inclusive('\n').collect();
    let mut changes = line_changes(&before, &after);
    if let (true, [first, .., last]) = (changes.len() > MOST_EDITS, changes.as_slice()) {
        changes = vec![LineChange { old: first.old.start..last.old.end, new: first.new.start..last.new.end }];
    }
    let start = |row: usize| own.row_start(row as u32) as usize;
    let edit = |change: LineChange| {
        let span = own.span(start(change.old.start), start(change.old.end));
        source::TextEdit::new(span, after[change.new].concat())
    };
    changes.into_iter().map(edit).collect()
}
