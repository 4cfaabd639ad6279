//! The language server (Language Server Protocol 3.17): the message loop, the open texts, and conversions. What is answered comes
//! from [`bathygram_core::ide`].
//!
//! Guarantees: a client that sends nonsense gets errors; nothing on disk is written; findings are those of the newest text.

mod answers;
mod convert;
mod documents;
mod text;

use answers::Failed;
use documents::Documents;
use lsp_server::{Connection, ErrorCode, Message, Notification, Request, Response};
use lsp_types::notification::{self, Notification as _};
use lsp_types::{InitializeParams, PositionEncodingKind, PublishDiagnosticsParams, Uri};
use serde_json::Value;
use std::error::Error;
use std::path::PathBuf;
use text::Encoding;

/// Serves a client until it ends the session; `folder` is where files outside of any folder of the client belong.
///
/// # Errors
/// If the connection breaks.
pub fn serve(connection: &Connection, folder: PathBuf) -> Result<(), Box<dyn Error + Send + Sync>> {
    let (id, params) = connection.initialize_start()?;
    let params: InitializeParams = serde_json::from_value(params).unwrap_or_default();
    let encoding = encoding(&params);
    let capabilities = convert::capabilities(encoding);
    let about = serde_json::json!({"name": "bathygram", "version": env!("CARGO_PKG_VERSION")});
    connection.initialize_finish(id, serde_json::json!({"capabilities": capabilities, "serverInfo": about}))?;
    let folders = params.workspace_folders.unwrap_or_default();
    let folders: Vec<PathBuf> = folders.iter().filter_map(|folder| convert::path(&folder.uri)).collect();
    let mut server = Server { connection, documents: Documents::new(folders, folder), encoding };
    server.run()
}

/// The first encoding of positions that both know; UTF-16 if the client names none.
fn encoding(params: &InitializeParams) -> Encoding {
    let wanted = params.capabilities.general.as_ref().and_then(|general| general.position_encodings.as_ref());
    let known = |kind: &PositionEncodingKind| match kind.as_str() {
        "utf-8" => Some(Encoding::Utf8),
        "utf-16" => Some(Encoding::Utf16),
        "utf-32" => Some(Encoding::Utf32),
        _ => None,
    };
    wanted.and_then(|wanted| wanted.iter().find_map(known)).unwrap_or(Encoding::Utf16)
}

struct Server<'a> {
    connection: &'a Connection,
    documents: Documents,
    encoding: Encoding,
}

impl Server<'_> {
    fn run(&mut self) -> Result<(), Box<dyn Error + Send + Sync>> {
        let mut waiting = None;
        loop {
            let message = match waiting.take() {
                Some(message) => message,
                None => match self.connection.receiver.recv() {
                    Ok(message) => message,
                    Err(_) => return Ok(()),
                },
            };
            match message {
                Message::Request(request) => {
                    if self.connection.handle_shutdown(&request)? {
                        return Ok(());
                    }
                    let response = self.answer(request);
                    self.connection.sender.send(Message::Response(response))?;
                }
                Message::Notification(notification) => {
                    let mut changed: Vec<Uri> = self.notice(notification).into_iter().collect();
                    // Of many changes, the findings of the last are asked for.
                    while let Ok(next) = self.connection.receiver.try_recv() {
                        match next {
                            Message::Notification(more) => changed.extend(self.notice(more)),
                            other => {
                                waiting = Some(other);
                                break;
                            }
                        }
                    }
                    if !changed.is_empty() {
                        self.publish()?;
                    }
                }
                Message::Response(_) => {}
            }
        }
    }

    fn answer(&self, request: Request) -> Response {
        match answers::of(&self.documents, self.encoding, &request.method, request.params) {
            Ok(value) => Response::new_ok(request.id, value),
            Err(Failed::Unknown) => {
                let message = format!("{} is not answered", request.method);
                Response::new_err(request.id, ErrorCode::MethodNotFound as i32, message)
            }
            Err(Failed::Params(why)) => Response::new_err(request.id, ErrorCode::InvalidParams as i32, why),
            Err(Failed::Refused(why)) => Response::new_err(request.id, ErrorCode::RequestFailed as i32, why),
        }
    }

    /// Takes up a change; gives the text that has other findings now.
    fn notice(&mut self, notification: Notification) -> Option<Uri> {
        fn params<P: serde::de::DeserializeOwned>(value: Value) -> Option<P> {
            serde_json::from_value(value).ok()
        }
        match notification.method.as_str() {
            notification::DidOpenTextDocument::METHOD => {
                let opened: lsp_types::DidOpenTextDocumentParams = params(notification.params)?;
                let document = opened.text_document;
                self.documents.open(&document.uri, document.version, document.text);
                Some(document.uri)
            }
            notification::DidChangeTextDocument::METHOD => {
                let changed: lsp_types::DidChangeTextDocumentParams = params(notification.params)?;
                let document = changed.text_document;
                self.documents.change(&document.uri, document.version, changed.content_changes, self.encoding);
                Some(document.uri)
            }
            notification::DidCloseTextDocument::METHOD => {
                let closed: lsp_types::DidCloseTextDocumentParams = params(notification.params)?;
                self.documents.close(&closed.text_document.uri);
                let uri = closed.text_document.uri;
                let none = PublishDiagnosticsParams { uri: uri.clone(), diagnostics: Vec::new(), version: None };
                self.send::<notification::PublishDiagnostics>(&none);
                Some(uri)
            }
            notification::DidChangeWorkspaceFolders::METHOD => {
                let changed: lsp_types::DidChangeWorkspaceFoldersParams = params(notification.params)?;
                let paths = |folders: Vec<lsp_types::WorkspaceFolder>| -> Vec<PathBuf> {
                    folders.iter().filter_map(|folder| convert::path(&folder.uri)).collect()
                };
                self.documents.folders(&paths(changed.event.added), &paths(changed.event.removed));
                None
            }
            _ => None,
        }
    }

    /// Sends the findings of every open text: one may take from another.
    fn publish(&self) -> Result<(), Box<dyn Error + Send + Sync>> {
        for (uri, version) in self.documents.opened() {
            let diagnostics = answers::findings(&self.documents, self.encoding, &uri);
            self.send::<notification::PublishDiagnostics>(&PublishDiagnosticsParams {
                uri,
                diagnostics,
                version: Some(version),
            });
        }
        Ok(())
    }

    fn send<N: notification::Notification>(&self, params: &N::Params) {
        let params = serde_json::to_value(params).unwrap_or_default();
        // A client that is gone ends the session with the next message.
        let _ =
            self.connection.sender.send(Message::Notification(Notification { method: N::METHOD.to_owned(), params }));
    }
}
