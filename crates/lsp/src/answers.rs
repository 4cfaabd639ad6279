//! Requests and what is answered.

use crate::desk::Desk;
use crate::documents::Documents;
use crate::text::Encoding;
use lsp_types::TextDocumentPositionParams;
use lsp_types::request::{self, Request};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

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
        request::RangeFormatting::METHOD => answer(params, |p: lsp_types::DocumentRangeFormattingParams| {
            desk.formatted_range(&p.text_document.uri, p.range)
        }),
        request::OnTypeFormatting::METHOD => answer(params, |p: lsp_types::DocumentOnTypeFormattingParams| {
            desk.formatted_line(&p.text_document_position)
        }),
        request::DocumentColor::METHOD => {
            answer(params, |p: lsp_types::DocumentColorParams| desk.colours(&p.text_document.uri))
        }
        request::ColorPresentationRequest::METHOD => answer(params, |p: lsp_types::ColorPresentationParams| {
            desk.colour_names(&p.text_document.uri, p.color, p.range)
        }),
        request::InlayHintRequest::METHOD => {
            answer(params, |p: lsp_types::InlayHintParams| desk.hints(&p.text_document.uri, p.range))
        }
        request::CallHierarchyPrepare::METHOD => {
            answer(params, |p: lsp_types::CallHierarchyPrepareParams| desk.call_item(&p.text_document_position_params))
        }
        request::CallHierarchyIncomingCalls::METHOD => {
            answer(params, |p: lsp_types::CallHierarchyIncomingCallsParams| desk.callers(&p.item))
        }
        request::CallHierarchyOutgoingCalls::METHOD => {
            answer(params, |p: lsp_types::CallHierarchyOutgoingCallsParams| desk.called(&p.item))
        }
        request::TypeHierarchyPrepare::METHOD => {
            answer(params, |p: lsp_types::TypeHierarchyPrepareParams| desk.type_item(&p.text_document_position_params))
        }
        request::TypeHierarchySupertypes::METHOD => {
            answer(params, |p: lsp_types::TypeHierarchySupertypesParams| desk.supertypes(&p.item))
        }
        request::TypeHierarchySubtypes::METHOD => {
            answer(params, |p: lsp_types::TypeHierarchySubtypesParams| desk.subtypes(&p.item))
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
