//! Values of the core as the protocol has them.

use crate::pieces::Piece;
use crate::text::Encoding;
use bathygram_core::diag::{Diagnostic, Severity};
use bathygram_core::ide::{CompletionKind, Symbol, TokenClass};
use bathygram_core::source::{Source, Span, Units};
use lsp_types::{
    CallHierarchyServerCapability, CodeActionProviderCapability, ColorProviderCapability, CompletionItemKind,
    CompletionOptions, DiagnosticSeverity, DocumentLinkOptions, DocumentOnTypeFormattingOptions, DocumentSymbol,
    ExecuteCommandOptions, FoldingRangeProviderCapability, HoverProviderCapability, NumberOrString, OneOf, Position,
    PositionEncodingKind, Range, RenameOptions, SelectionRangeProviderCapability, SemanticTokenModifier,
    SemanticTokenType, SemanticTokensFullOptions, SemanticTokensLegend, SemanticTokensOptions, ServerCapabilities,
    SymbolKind, TextDocumentSyncCapability, TextDocumentSyncKind, Uri, WorkspaceFoldersServerCapabilities,
    WorkspaceServerCapabilities,
};
use std::path::{Path, PathBuf};
use std::str::FromStr;

/// The kinds of words, in the order of their numbers.
pub(crate) const CLASSES: [(TokenClass, SemanticTokenType); 9] = [
    (TokenClass::Keyword, SemanticTokenType::KEYWORD),
    (TokenClass::Kind, SemanticTokenType::TYPE),
    (TokenClass::Verb, SemanticTokenType::OPERATOR),
    (TokenClass::Property, SemanticTokenType::PROPERTY),
    (TokenClass::Block, SemanticTokenType::NAMESPACE),
    (TokenClass::Element, SemanticTokenType::VARIABLE),
    (TokenClass::Text, SemanticTokenType::STRING),
    (TokenClass::Number, SemanticTokenType::NUMBER),
    (TokenClass::Comment, SemanticTokenType::COMMENT),
];

/// What the server can do.
pub(crate) fn capabilities(encoding: Encoding) -> ServerCapabilities {
    let legend = SemanticTokensLegend {
        token_types: CLASSES.iter().map(|(_, kind)| kind.clone()).collect(),
        token_modifiers: vec![SemanticTokenModifier::DECLARATION],
    };
    let tokens = SemanticTokensOptions {
        legend,
        full: Some(SemanticTokensFullOptions::Bool(true)),
        ..SemanticTokensOptions::default()
    };
    let triggers = [" ", "(", ".", ","].map(str::to_owned).to_vec();
    ServerCapabilities {
        position_encoding: Some(match encoding {
            Encoding::Utf8 => PositionEncodingKind::UTF8,
            Encoding::Utf16 => PositionEncodingKind::UTF16,
            Encoding::Utf32 => PositionEncodingKind::UTF32,
        }),
        text_document_sync: Some(TextDocumentSyncCapability::Kind(TextDocumentSyncKind::INCREMENTAL)),
        completion_provider: Some(CompletionOptions {
            trigger_characters: Some(triggers),
            ..CompletionOptions::default()
        }),
        hover_provider: Some(HoverProviderCapability::Simple(true)),
        definition_provider: Some(OneOf::Left(true)),
        references_provider: Some(OneOf::Left(true)),
        document_highlight_provider: Some(OneOf::Left(true)),
        rename_provider: Some(OneOf::Right(RenameOptions {
            prepare_provider: Some(true),
            work_done_progress_options: Default::default(),
        })),
        document_link_provider: Some(DocumentLinkOptions {
            resolve_provider: Some(false),
            work_done_progress_options: Default::default(),
        }),
        document_symbol_provider: Some(OneOf::Left(true)),
        workspace_symbol_provider: Some(OneOf::Left(true)),
        folding_range_provider: Some(FoldingRangeProviderCapability::Simple(true)),
        selection_range_provider: Some(SelectionRangeProviderCapability::Simple(true)),
        document_formatting_provider: Some(OneOf::Left(true)),
        document_range_formatting_provider: Some(OneOf::Left(true)),
        document_on_type_formatting_provider: Some(DocumentOnTypeFormattingOptions {
            first_trigger_character: "\n".to_owned(),
            more_trigger_character: None,
        }),
        color_provider: Some(ColorProviderCapability::Simple(true)),
        inlay_hint_provider: Some(OneOf::Left(true)),
        call_hierarchy_provider: Some(CallHierarchyServerCapability::Simple(true)),
        execute_command_provider: Some(ExecuteCommandOptions {
            commands: vec![crate::PREVIEW.to_owned()],
            ..ExecuteCommandOptions::default()
        }),
        workspace: Some(WorkspaceServerCapabilities {
            workspace_folders: Some(WorkspaceFoldersServerCapabilities {
                supported: Some(true),
                change_notifications: Some(OneOf::Left(true)),
            }),
            file_operations: None,
        }),
        code_action_provider: Some(CodeActionProviderCapability::Simple(true)),
        semantic_tokens_provider: Some(tokens.into()),
        ..ServerCapabilities::default()
    }
}

/// The path of a file; `None` for what is none.
pub(crate) fn path(uri: &Uri) -> Option<PathBuf> {
    let rest = uri.as_str().strip_prefix("file://")?;
    // A host before the path is this machine.
    let path = &rest[rest.find('/')?..];
    let mut bytes = Vec::with_capacity(path.len());
    let mut rest = path.bytes();
    while let Some(byte) = rest.next() {
        let hex = |byte: Option<u8>| char::from(byte?).to_digit(16);
        bytes.push(match byte {
            b'%' => (hex(rest.next())? * 16 + hex(rest.next())?) as u8,
            other => other,
        });
    }
    String::from_utf8(bytes).ok().map(PathBuf::from)
}

/// The address of a file.
pub(crate) fn uri(path: &Path) -> Option<Uri> {
    let text = path.to_str()?;
    let parts: Vec<String> = text.split('/').map(bathygram_core::markup::as_link).collect();
    Uri::from_str(&format!("file://{}", parts.join("/"))).ok()
}

/// A span of a text, which is counted: it has tens of thousands of words to be placed, and all of them may stand in one line.
pub(crate) fn range(source: &Source, span: Span, units: &Units) -> Range {
    let position = |byte: u32| {
        let before = |byte: u32| units.before(&source.text, byte as usize);
        let character = before(byte) - before(source.line_start(byte));
        Position { line: source.line(byte) - 1, character: character as u32 }
    };
    Range { start: position(span.start), end: position(span.end) }
}

/// A finding.
pub(crate) fn finding(piece: &Piece, found: &Diagnostic, encoding: Encoding) -> lsp_types::Diagnostic {
    let words = found.words(&piece.reading.sources());
    let message = match words.help {
        Some(help) => format!("{}\n{help}", words.sentence),
        None => words.sentence,
    };
    // What stands in another file is shown where this text begins.
    let span = if found.span.source.is_root() { found.span } else { Span::default() };
    lsp_types::Diagnostic {
        range: piece.range(span, encoding),
        severity: Some(match found.severity {
            Severity::Error => DiagnosticSeverity::ERROR,
            Severity::Warning => DiagnosticSeverity::WARNING,
        }),
        code: Some(NumberOrString::String(found.code.to_owned())),
        source: Some("bathygram".to_owned()),
        message,
        ..lsp_types::Diagnostic::default()
    }
}

pub(crate) fn completion_kind(kind: CompletionKind) -> CompletionItemKind {
    match kind {
        CompletionKind::Name => CompletionItemKind::VARIABLE,
        CompletionKind::Verb => CompletionItemKind::OPERATOR,
        CompletionKind::Kind => CompletionItemKind::CLASS,
        CompletionKind::Keyword => CompletionItemKind::KEYWORD,
        CompletionKind::Trait => CompletionItemKind::PROPERTY,
        CompletionKind::Value => CompletionItemKind::VALUE,
    }
}

/// A symbol with what it holds.
#[allow(deprecated, reason = "the type has a field that the protocol no longer uses")]
pub(crate) fn symbol(piece: &Piece, symbol: &Symbol, encoding: Encoding) -> DocumentSymbol {
    let own = piece.range(symbol.span, encoding);
    let children: Vec<DocumentSymbol> =
        symbol.children.iter().map(|child| self::symbol(piece, child, encoding)).collect();
    let end = children
        .iter()
        .map(|child| child.range.end)
        .fold(own.end, |a, b| if (b.line, b.character) > (a.line, a.character) { b } else { a });
    DocumentSymbol {
        name: symbol.name.clone(),
        detail: Some(symbol.detail.clone()),
        kind: symbol_kind(symbol),
        tags: None,
        deprecated: None,
        range: Range { start: own.start, end },
        selection_range: own,
        children: Some(children).filter(|children| !children.is_empty()),
    }
}

pub(crate) fn symbol_kind(symbol: &Symbol) -> SymbolKind {
    match symbol.detail.split([' ', ',']).next().unwrap_or_default() {
        "sequence" | "classes" | "flow" | "states" | "architecture" | "network" | "tree" | "sheet" => {
            SymbolKind::MODULE
        }
        "class" | "record" | "table" => SymbolKind::CLASS,
        "interface" => SymbolKind::INTERFACE,
        "enum" => SymbolKind::ENUM,
        _ => SymbolKind::OBJECT,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_have_addresses() {
        let file = PathBuf::from("/home/keeper/süd 1/a.bathy");
        let address = uri(&file).expect("an address");
        assert_eq!(address.as_str(), "file:///home/keeper/s%C3%BCd%201/a.bathy");
        assert_eq!(path(&address), Some(file));
        for wrong in ["https://a.invalid/x", "untitled:1", "file:///%zz"] {
            assert_eq!(Uri::from_str(wrong).ok().and_then(|uri| path(&uri)), None, "{wrong}");
        }
    }
}
