//! Requests and what is answered.

use crate::convert;
use crate::documents::Documents;
use crate::text::Encoding;
use bathygram_core::format::format;
use bathygram_core::ide;
use bathygram_core::model::{Role, Target};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::Span;
use lsp_types::request::{self, Request};
use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOrCommand, CompletionItem, CompletionTextEdit, DocumentHighlight,
    DocumentHighlightKind, DocumentLink, FoldingRange, Hover, HoverContents, Location, MarkupContent, MarkupKind,
    Position, PrepareRenameResponse, SelectionRange, SemanticToken, SemanticTokens, SymbolInformation,
    TextDocumentPositionParams, TextEdit, Uri, WorkspaceEdit,
};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::rc::Rc;

/// Why there is no answer.
pub(crate) enum Failed {
    /// Nobody answers such requests.
    Unknown,
    /// The request cannot be read, or its file cannot.
    Params(String),
    /// What was asked for cannot be done.
    Refused(String),
}

/// Answers a request.
pub(crate) fn of(documents: &Documents, encoding: Encoding, method: &str, params: Value) -> Result<Value, Failed> {
    let desk = Desk { documents, encoding };
    match method {
        request::Completion::METHOD => {
            answer(params, |p: lsp_types::CompletionParams| desk.completion(&p.text_document_position))
        }
        request::HoverRequest::METHOD => {
            answer(params, |p: lsp_types::HoverParams| desk.hover(&p.text_document_position_params))
        }
        request::GotoDefinition::METHOD => {
            answer(params, |p: lsp_types::GotoDefinitionParams| desk.definition(&p.text_document_position_params))
        }
        request::References::METHOD => answer(params, |p: lsp_types::ReferenceParams| {
            desk.references(&p.text_document_position, p.context.include_declaration)
        }),
        request::DocumentHighlightRequest::METHOD => {
            answer(params, |p: lsp_types::DocumentHighlightParams| desk.highlights(&p.text_document_position_params))
        }
        request::PrepareRenameRequest::METHOD => answer(params, |p: TextDocumentPositionParams| desk.renamable(&p)),
        request::Rename::METHOD => {
            answer(params, |p: lsp_types::RenameParams| desk.rename(&p.text_document_position, &p.new_name))
        }
        request::DocumentSymbolRequest::METHOD => {
            answer(params, |p: lsp_types::DocumentSymbolParams| desk.symbols(&p.text_document.uri))
        }
        request::WorkspaceSymbolRequest::METHOD => {
            answer(params, |p: lsp_types::WorkspaceSymbolParams| Ok(desk.all_symbols(&p.query)))
        }
        request::DocumentLinkRequest::METHOD => {
            answer(params, |p: lsp_types::DocumentLinkParams| desk.links(&p.text_document.uri))
        }
        request::FoldingRangeRequest::METHOD => {
            answer(params, |p: lsp_types::FoldingRangeParams| desk.folds(&p.text_document.uri))
        }
        request::SelectionRangeRequest::METHOD => {
            answer(params, |p: lsp_types::SelectionRangeParams| desk.selections(&p.text_document.uri, &p.positions))
        }
        request::Formatting::METHOD => {
            answer(params, |p: lsp_types::DocumentFormattingParams| desk.formatted(&p.text_document.uri))
        }
        request::CodeActionRequest::METHOD => {
            answer(params, |p: lsp_types::CodeActionParams| desk.actions(&p.text_document.uri, p.range))
        }
        request::SemanticTokensFullRequest::METHOD => {
            answer(params, |p: lsp_types::SemanticTokensParams| desk.tokens(&p.text_document.uri))
        }
        _ => Err(Failed::Unknown),
    }
}

fn answer<P: DeserializeOwned, R: Serialize>(
    params: Value, act: impl FnOnce(P) -> Result<R, Failed>,
) -> Result<Value, Failed> {
    let params = serde_json::from_value(params).map_err(|why| Failed::Params(why.to_string()))?;
    serde_json::to_value(act(params)?).map_err(|why| Failed::Refused(why.to_string()))
}

/// The findings of a text.
pub(crate) fn findings(documents: &Documents, encoding: Encoding, uri: &Uri) -> Vec<lsp_types::Diagnostic> {
    let reading = convert::path(uri).and_then(|path| documents.reading(&path));
    let Some(reading) = reading else { return Vec::new() };
    reading.diagnostics.iter().map(|found| convert::finding(&reading, found, encoding)).collect()
}

/// What requests are answered from.
struct Desk<'a> {
    documents: &'a Documents,
    encoding: Encoding,
}

impl Desk<'_> {
    fn open(&self, uri: &Uri) -> Result<(PathBuf, Rc<Reading>), Failed> {
        let unknown = || Failed::Params(format!("{} is no file that can be read", uri.as_str()));
        let path = convert::path(uri).ok_or_else(unknown)?;
        let reading = self.documents.reading(&path).ok_or_else(unknown)?;
        Ok((path, reading))
    }

    /// The file of a position, read, and the byte there.
    fn place(&self, at: &TextDocumentPositionParams) -> Result<(PathBuf, Rc<Reading>, u32), Failed> {
        let (path, reading) = self.open(&at.text_document.uri)?;
        let byte = self.encoding.byte(&reading.source.text, at.position) as u32;
        Ok((path, reading, byte))
    }

    fn completion(&self, at: &TextDocumentPositionParams) -> Result<Vec<CompletionItem>, Failed> {
        let (_, reading, byte) = self.place(at)?;
        let items = ide::completions(&reading, byte).into_iter().enumerate().map(|(i, completion)| {
            let range = convert::range(&reading.source, completion.edit.span, self.encoding);
            CompletionItem {
                label: completion.label,
                kind: Some(convert::completion_kind(completion.kind)),
                detail: Some(completion.about).filter(|about| !about.is_empty()),
                sort_text: Some(format!("{i:04}")),
                text_edit: Some(CompletionTextEdit::Edit(TextEdit::new(range, completion.edit.text))),
                ..CompletionItem::default()
            }
        });
        Ok(items.collect())
    }

    fn hover(&self, at: &TextDocumentPositionParams) -> Result<Option<Hover>, Failed> {
        let (_, reading, byte) = self.place(at)?;
        Ok(ide::hover(&reading, byte).map(|hover| Hover {
            contents: HoverContents::Markup(MarkupContent { kind: MarkupKind::Markdown, value: hover.markdown }),
            range: Some(convert::range(&reading.source, hover.span, self.encoding)),
        }))
    }

    fn definition(&self, at: &TextDocumentPositionParams) -> Result<Option<Location>, Failed> {
        let (path, reading, byte) = self.place(at)?;
        Ok(ide::definition(&reading, byte).and_then(|span| self.location(&reading, &path, span)))
    }

    /// A span of a reading, in its own file or one that it takes from.
    fn location(&self, reading: &Reading, path: &Path, span: Span) -> Option<Location> {
        let sources = reading.sources();
        let source = sources.get(span.source)?;
        let file = if span.source.is_root() { path.to_owned() } else { self.documents.path_of(&source.name, path) };
        Some(Location::new(convert::uri(&file)?, convert::range(source, span, self.encoding)))
    }

    fn references(&self, at: &TextDocumentPositionParams, with_declaration: bool) -> Result<Vec<Location>, Failed> {
        let (path, reading, byte) = self.place(at)?;
        let Some(meant) = ide::meant(&reading, byte) else { return Ok(Vec::new()) };
        let mut found = Vec::new();
        for (path, reading) in self.documents.around(&path) {
            let all = ide::references(&reading, &meant).into_iter();
            let wanted = all.filter(|o| with_declaration || o.role == Role::Named);
            found.extend(wanted.filter_map(|o| self.location(&reading, &path, o.span)));
        }
        Ok(found)
    }

    fn highlights(&self, at: &TextDocumentPositionParams) -> Result<Vec<DocumentHighlight>, Failed> {
        let (_, reading, byte) = self.place(at)?;
        let Some(meant) = ide::meant(&reading, byte) else { return Ok(Vec::new()) };
        let found = ide::references(&reading, &meant).into_iter().map(|o| DocumentHighlight {
            range: convert::range(&reading.source, o.span, self.encoding),
            kind: Some(if o.role == Role::Declared {
                DocumentHighlightKind::WRITE
            } else {
                DocumentHighlightKind::READ
            }),
        });
        Ok(found.collect())
    }

    fn renamable(&self, at: &TextDocumentPositionParams) -> Result<Option<PrepareRenameResponse>, Failed> {
        let (_, reading, byte) = self.place(at)?;
        let span = ide::renamable(&reading, byte);
        Ok(span.map(|span| PrepareRenameResponse::Range(convert::range(&reading.source, span, self.encoding))))
    }

    #[allow(clippy::mutable_key_type, reason = "the protocol's own type: an address never changes")]
    fn rename(&self, at: &TextDocumentPositionParams, name: &str) -> Result<WorkspaceEdit, Failed> {
        let (path, reading, byte) = self.place(at)?;
        let nothing = || Failed::Refused("nothing here has a name".to_owned());
        ide::renamable(&reading, byte).ok_or_else(nothing)?;
        let meant = ide::meant(&reading, byte).ok_or_else(nothing)?;
        let files = self.documents.around(&path);
        let readings: Vec<&Reading> = files.iter().map(|(_, reading)| &**reading).collect();
        let edits = ide::rename(&readings, &meant, name).map_err(|why| Failed::Refused(why.to_string()))?;
        let mut changes = HashMap::new();
        for ((path, reading), edits) in files.iter().zip(edits).filter(|(_, edits)| !edits.is_empty()) {
            let uri = convert::uri(path).ok_or_else(nothing)?;
            changes.insert(uri, convert::edits(&reading.source, &edits, self.encoding));
        }
        Ok(WorkspaceEdit::new(changes))
    }

    fn symbols(&self, uri: &Uri) -> Result<Vec<lsp_types::DocumentSymbol>, Failed> {
        let (_, reading) = self.open(uri)?;
        let all = ide::symbols(&reading);
        Ok(all.iter().map(|symbol| convert::symbol(&reading.source, symbol, self.encoding)).collect())
    }

    #[allow(deprecated, reason = "the type has a field that the protocol no longer uses")]
    fn all_symbols(&self, query: &str) -> Vec<SymbolInformation> {
        let query = query.to_lowercase();
        let mut found = Vec::new();
        for (path, reading) in self.documents.all() {
            let mut work: Vec<(ide::Symbol, Option<String>)> =
                ide::symbols(&reading).into_iter().map(|s| (s, None)).collect();
            while let Some((symbol, around)) = work.pop() {
                let own = Some(symbol.name.clone());
                work.extend(symbol.children.iter().cloned().map(|child| (child, own.clone())));
                if !symbol.name.to_lowercase().contains(&query) && !symbol.detail.to_lowercase().contains(&query) {
                    continue;
                }
                let Some(location) = self.location(&reading, &path, symbol.span) else { continue };
                let kind = convert::symbol_kind(&symbol);
                found.push(SymbolInformation {
                    name: symbol.name,
                    kind,
                    tags: None,
                    deprecated: None,
                    location,
                    container_name: around,
                });
            }
        }
        found
    }

    /// The files that a text takes from.
    fn links(&self, uri: &Uri) -> Result<Vec<DocumentLink>, Failed> {
        let (path, reading) = self.open(uri)?;
        let sources = reading.sources();
        let files = reading.occurrences.iter().filter_map(|o| match o.target {
            Target::File(source) => Some((o.span, sources.get(source)?)),
            _ => None,
        });
        let links = files.map(|(span, source)| DocumentLink {
            range: convert::range(&reading.source, span, self.encoding),
            target: convert::uri(&self.documents.path_of(&source.name, &path)),
            tooltip: None,
            data: None,
        });
        Ok(links.collect())
    }

    fn folds(&self, uri: &Uri) -> Result<Vec<FoldingRange>, Failed> {
        let (_, reading) = self.open(uri)?;
        let one = |fold: ide::Fold| FoldingRange {
            start_line: fold.first - 1,
            end_line: fold.last - 1,
            ..FoldingRange::default()
        };
        Ok(ide::folds(&reading).into_iter().map(one).collect())
    }

    /// For each position the line, and the lines around it.
    fn selections(&self, uri: &Uri, positions: &[Position]) -> Result<Vec<SelectionRange>, Failed> {
        let (_, reading) = self.open(uri)?;
        let text = &reading.source.text;
        let lines: Vec<&str> = text.split('\n').collect();
        let folds = ide::folds(&reading);
        let one = |position: &Position| {
            let at = |line: u32| Position { line, character: 0 };
            let end = |line: u32| Position {
                line,
                character: lines.get(line as usize).map_or(0, |l| self.encoding.position(l, l.len()).character),
            };
            let around = folds.iter().filter(|fold| (fold.first - 1..fold.last).contains(&position.line));
            let ranges = around.map(|fold| lsp_types::Range { start: at(fold.first - 1), end: end(fold.last - 1) });
            let own = lsp_types::Range { start: at(position.line), end: end(position.line) };
            let chain =
                ranges.chain([own]).fold(None, |parent, range| Some(Box::new(SelectionRange { range, parent })));
            chain.map_or(SelectionRange { range: own, parent: None }, |chain| *chain)
        };
        Ok(positions.iter().map(one).collect())
    }

    fn formatted(&self, uri: &Uri) -> Result<Vec<TextEdit>, Failed> {
        let (_, reading) = self.open(uri)?;
        let text = format(&reading.source);
        if text == reading.source.text {
            return Ok(Vec::new());
        }
        let whole = self.encoding.range(&reading.source.text, 0..reading.source.text.len());
        Ok(vec![TextEdit::new(whole, text)])
    }

    #[allow(clippy::mutable_key_type, reason = "the protocol's own type: an address never changes")]
    fn actions(&self, uri: &Uri, range: lsp_types::Range) -> Result<Vec<CodeActionOrCommand>, Failed> {
        let (_, reading) = self.open(uri)?;
        let byte = |position| self.encoding.byte(&reading.source.text, position) as u32;
        let actions = ide::fixes(&reading, byte(range.start)..byte(range.end)).map(|(found, fix)| {
            let edits = convert::edits(&reading.source, &fix.edits, self.encoding);
            CodeActionOrCommand::CodeAction(CodeAction {
                title: fix.title.clone(),
                kind: Some(CodeActionKind::QUICKFIX),
                diagnostics: Some(vec![convert::finding(&reading, found, self.encoding)]),
                edit: Some(WorkspaceEdit::new(HashMap::from([(uri.clone(), edits)]))),
                is_preferred: Some(fix.certainty == bathygram_core::diag::Certainty::Certain),
                ..CodeAction::default()
            })
        });
        Ok(actions.collect())
    }

    fn tokens(&self, uri: &Uri) -> Result<SemanticTokens, Failed> {
        let (_, reading) = self.open(uri)?;
        let mut before = Position { line: 0, character: 0 };
        let mut data = Vec::new();
        for word in ide::word_classes(&reading) {
            let range = convert::range(&reading.source, word.span, self.encoding);
            // A token of the protocol stands in one line.
            if range.start.line != range.end.line {
                continue;
            }
            let delta_line = range.start.line - before.line;
            let from = if delta_line == 0 { before.character } else { 0 };
            let class = convert::CLASSES.iter().position(|(class, _)| *class == word.class).unwrap_or(0);
            data.push(SemanticToken {
                delta_line,
                delta_start: range.start.character - from,
                length: range.end.character - range.start.character,
                token_type: class as u32,
                token_modifiers_bitset: u32::from(word.is_declared),
            });
            before = range.start;
        }
        Ok(SemanticTokens { result_id: None, data })
    }
}
