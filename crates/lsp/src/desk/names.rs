//! What stands at a place: completions, descriptions, definitions, references, renames.

use super::Desk;
use crate::answers::Failed;
use crate::convert;
use bathygram_core::ide;
use bathygram_core::model::{Occurrence, Role};
use bathygram_core::pipeline::Reading;
use lsp_types::{
    CompletionItem, CompletionList, CompletionResponse, CompletionTextEdit, DocumentHighlight, DocumentHighlightKind,
    Hover, HoverContents, Location, MarkupContent, MarkupKind, PrepareRenameResponse, TextDocumentPositionParams,
    TextEdit, WorkspaceEdit,
};
use std::collections::HashMap;

/// How many completions an answer holds. Of more, an editor asks again once another letter is typed.
const MOST_COMPLETIONS: usize = 5_000;

/// How many places of a name an answer holds. A place takes 3 kB until it is sent.
const MOST_PLACES: usize = 100_000;

/// Refuses more places than an answer holds: some of them would be worse than none.
fn counted<T>(found: Vec<T>) -> Result<Vec<T>, Failed> {
    match found.len() {
        0..=MOST_PLACES => Ok(found),
        count => Err(Failed::Refused(format!("this is named in {count} places; {MOST_PLACES} can be answered"))),
    }
}

impl Desk<'_> {
    pub(crate) fn completion(&self, at: &TextDocumentPositionParams) -> Result<CompletionResponse, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(Vec::new().into()) };
        let found = ide::completions(&piece.reading, byte);
        let is_incomplete = found.len() > MOST_COMPLETIONS;
        let items = found.into_iter().take(MOST_COMPLETIONS).enumerate().map(|(i, completion)| {
            let range = piece.range(completion.edit.span, self.encoding);
            CompletionItem {
                label: completion.label,
                kind: Some(convert::completion_kind(completion.kind)),
                detail: Some(completion.about).filter(|about| !about.is_empty()),
                sort_text: Some(format!("{i:04}")),
                text_edit: Some(CompletionTextEdit::Edit(TextEdit::new(range, completion.edit.text))),
                ..CompletionItem::default()
            }
        });
        let items: Vec<CompletionItem> = items.collect();
        Ok(match is_incomplete {
            true => CompletionList { is_incomplete, items }.into(),
            false => items.into(),
        })
    }

    pub(crate) fn hover(&self, at: &TextDocumentPositionParams) -> Result<Option<Hover>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(None) };
        Ok(ide::hover(&piece.reading, byte).map(|hover| Hover {
            contents: HoverContents::Markup(MarkupContent { kind: MarkupKind::Markdown, value: hover.markdown }),
            range: Some(piece.range(hover.span, self.encoding)),
        }))
    }

    pub(crate) fn definition(&self, at: &TextDocumentPositionParams) -> Result<Option<Location>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(None) };
        Ok(ide::definition(&piece.reading, byte).and_then(|span| self.location(&piece, span)))
    }

    pub(crate) fn references(
        &self, at: &TextDocumentPositionParams, with_declaration: bool,
    ) -> Result<Vec<Location>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(Vec::new()) };
        let Some(meant) = ide::meant(&piece.reading, byte) else { return Ok(Vec::new()) };
        let mut found = Vec::new();
        for piece in self.documents.around(&piece.path) {
            let all = counted(ide::references(&piece.reading, &meant))?.into_iter();
            let wanted = all.filter(|o| with_declaration || o.role == Role::Named);
            found.extend(wanted.filter_map(|o| self.location(&piece, o.span)));
        }
        Ok(found)
    }

    pub(crate) fn highlights(&self, at: &TextDocumentPositionParams) -> Result<Vec<DocumentHighlight>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(Vec::new()) };
        let Some(meant) = ide::meant(&piece.reading, byte) else { return Ok(Vec::new()) };
        let kind = |role| match role {
            Role::Declared => DocumentHighlightKind::WRITE,
            Role::Named => DocumentHighlightKind::READ,
        };
        let found = counted(ide::references(&piece.reading, &meant))?.into_iter();
        let shown =
            |o: Occurrence| DocumentHighlight { range: piece.range(o.span, self.encoding), kind: Some(kind(o.role)) };
        Ok(found.map(shown).collect())
    }

    pub(crate) fn renamable(&self, at: &TextDocumentPositionParams) -> Result<Option<PrepareRenameResponse>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(None) };
        let span = ide::renamable(&piece.reading, byte);
        Ok(span.map(|span| PrepareRenameResponse::Range(piece.range(span, self.encoding))))
    }

    #[allow(clippy::mutable_key_type, reason = "the protocol's own type: an address never changes")]
    pub(crate) fn rename(&self, at: &TextDocumentPositionParams, name: &str) -> Result<WorkspaceEdit, Failed> {
        let nothing = || Failed::Refused("nothing here has a name".to_owned());
        let (piece, byte) = self.place(at)?.ok_or_else(nothing)?;
        ide::renamable(&piece.reading, byte).ok_or_else(nothing)?;
        let meant = ide::meant(&piece.reading, byte).ok_or_else(nothing)?;
        let pieces = self.documents.around(&piece.path);
        let readings: Vec<&Reading> = pieces.iter().map(|piece| &*piece.reading).collect();
        let edits = ide::rename(&readings, &meant, name).map_err(|why| Failed::Refused(why.to_string()))?;
        let mut changes: HashMap<lsp_types::Uri, Vec<TextEdit>> = HashMap::new();
        for (piece, edits) in pieces.iter().zip(edits).filter(|(_, edits)| !edits.is_empty()) {
            let uri = convert::uri(&piece.path).ok_or_else(nothing)?;
            changes.entry(uri).or_default().extend(piece.edits(&counted(edits)?, self.encoding));
        }
        Ok(WorkspaceEdit::new(changes))
    }
}
