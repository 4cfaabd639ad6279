//! Edits that are asked for: the canonical form of a text, of some lines or of the one just typed, and corrections.

use super::Desk;
use crate::answers::Failed;
use crate::convert;
use crate::pieces::Piece;
use bathygram_core::format::format;
use bathygram_core::ide;
use bathygram_core::source;
use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOrCommand, Range, TextDocumentPositionParams, TextEdit, Uri, WorkspaceEdit,
};
use similar::{Algorithm, DiffOp, capture_diff_slices};
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

/// The edits that bring a text into its canonical form, whole lines each: what stays, stays, and so does the caret.
fn lines_formatted(piece: &Piece) -> Vec<source::TextEdit> {
    let own = &piece.reading.source;
    let formatted = format(own);
    let before: Vec<&str> = own.text.split_inclusive('\n').collect();
    let after: Vec<&str> = formatted.split_inclusive('\n').collect();
    let start = |line: usize| before[..line].iter().map(|line| line.len()).sum::<usize>();
    let ops = capture_diff_slices(Algorithm::Myers, &before, &after);
    let edit = |op: &DiffOp| {
        let (old, new) = (op.old_range(), op.new_range());
        source::TextEdit::new(own.span(start(old.start), start(old.end)), after[new].concat())
    };
    // Lines that are as many as they were are edits of their own.
    let parts = ops.iter().filter(|op| !matches!(op, DiffOp::Equal { .. })).flat_map(|op| match op {
        DiffOp::Replace { old_index, old_len, new_index, new_len } if old_len == new_len => {
            let one =
                |i| DiffOp::Replace { old_index: old_index + i, old_len: 1, new_index: new_index + i, new_len: 1 };
            (0..*old_len).map(one).collect()
        }
        other => vec![*other],
    });
    parts.map(|op| edit(&op)).collect()
}
