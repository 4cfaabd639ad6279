//! The language server (Language Server Protocol 3.17): the message loop, the open texts, and conversions. What is answered comes
//! from [`bathygram_core::ide`].
//!
//! Guarantees: a client that sends nonsense gets errors; nothing on disk is written; findings are those of the newest text.

mod answers;
mod convert;
mod desk;
mod documents;
mod pieces;
mod preview;
mod text;

use answers::Failed;
use bathygram_host::Project;
use bathygram_preview::{Editor, Preview};
use desk::Desk;
use documents::Documents;
use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use lsp_types::notification::{self, Notification as _};
use lsp_types::request::{self, Request as _};
use lsp_types::{InitializeParams, PositionEncodingKind, PublishDiagnosticsParams, Uri};
use serde_json::Value;
use std::collections::VecDeque;
use std::error::Error;
use std::path::PathBuf;
use text::Encoding;

/// The command that opens the preview.
pub(crate) const PREVIEW: &str = "bathygram.preview";

/// How a preview of a project is started, which hands changed texts to the editor.
///
/// # Errors
/// The reason, in a sentence.
pub type StartPreview = Box<dyn Fn(Project, Editor) -> Result<Preview, String>>;

/// What the server is started with.
pub struct Setup {
    /// Where files outside of any folder of the client belong.
    pub folder: PathBuf,
    /// How a preview is started.
    pub preview: StartPreview,
}

/// Serves a client until it ends the session.
///
/// # Errors
/// If the connection breaks.
pub fn serve(connection: &Connection, setup: Setup) -> Result<(), Box<dyn Error + Send + Sync>> {
    let (id, params) = connection.initialize_start()?;
    let params: InitializeParams = serde_json::from_value(params).unwrap_or_default();
    let encoding = encoding(&params);
    let mut capabilities = serde_json::to_value(convert::capabilities(encoding))?;
    // The types that we use know the requests of type hierarchies, but not how to announce them.
    capabilities["typeHierarchyProvider"] = Value::Bool(true);
    let about = serde_json::json!({"name": "bathygram", "version": env!("CARGO_PKG_VERSION")});
    connection.initialize_finish(id, serde_json::json!({"capabilities": capabilities, "serverInfo": about}))?;
    let window = params.capabilities.window.as_ref().and_then(|window| window.show_document.as_ref());
    let shows_documents = window.is_some_and(|shown| shown.support);
    let folders = params.workspace_folders.unwrap_or_default();
    let folders: Vec<PathBuf> = folders.iter().filter_map(|folder| convert::path(&folder.uri)).collect();
    let mut server = Server {
        connection,
        documents: Documents::new(folders, setup.folder),
        encoding,
        previews: preview::Previews::new(setup.preview, connection.sender.clone(), encoding, shows_documents),
        inbox: VecDeque::new(),
        is_stale: false,
    };
    let served = server.run();
    server.previews.stop();
    served
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
    previews: preview::Previews,
    /// What was received and not dealt with.
    inbox: VecDeque<Message>,
    /// Whether texts changed since their findings were sent.
    is_stale: bool,
}

impl Server<'_> {
    fn run(&mut self) -> Result<(), Box<dyn Error + Send + Sync>> {
        loop {
            // Findings are sent when nothing else waits: those of a text that goes on would be old.
            let next = self.inbox.pop_front().or_else(|| self.connection.receiver.try_recv().ok());
            let message = match next {
                Some(message) => message,
                None if self.is_stale => {
                    self.is_stale = !self.publish();
                    continue;
                }
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
                    let response = if self.is_cancelled(&request.id) {
                        let why = "nobody waits for it any more".to_owned();
                        Response::new_err(request.id, ErrorCode::RequestCanceled as i32, why)
                    } else {
                        self.answer(request)
                    };
                    self.connection.sender.send(Message::Response(response))?;
                }
                Message::Notification(notification) => self.notice(notification),
                Message::Response(_) => {}
            }
        }
    }

    /// Whether a request was taken back before its turn came.
    fn is_cancelled(&mut self, id: &RequestId) -> bool {
        self.inbox.extend(self.connection.receiver.try_iter());
        let is_it = |message: &Message| {
            let Message::Notification(told) = message else { return false };
            let own = told.params.get("id").cloned();
            told.method == notification::Cancel::METHOD
                && own.and_then(|own| serde_json::from_value::<RequestId>(own).ok()).as_ref() == Some(id)
        };
        self.inbox.iter().any(is_it)
    }

    fn answer(&mut self, request: Request) -> Response {
        if request.method == request::ExecuteCommand::METHOD {
            return match self.previews.command(&self.documents, request.params) {
                Ok(value) => Response::new_ok(request.id, value),
                Err(why) => Response::new_err(request.id, ErrorCode::RequestFailed as i32, why),
            };
        }
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

    /// Takes up what the client tells.
    fn notice(&mut self, notification: Notification) {
        if self.take_up(notification).is_some() {
            self.is_stale = true;
            self.previews.show(&self.documents);
        }
    }

    /// The same; `Some` if texts have other findings now.
    fn take_up(&mut self, notification: Notification) -> Option<()> {
        fn params<P: serde::de::DeserializeOwned>(value: Value) -> Option<P> {
            serde_json::from_value(value).ok()
        }
        match notification.method.as_str() {
            notification::DidOpenTextDocument::METHOD => {
                let opened: lsp_types::DidOpenTextDocumentParams = params(notification.params)?;
                let document = opened.text_document;
                self.documents.open(&document.uri, document.version, document.text);
                Some(())
            }
            notification::DidChangeTextDocument::METHOD => {
                let changed: lsp_types::DidChangeTextDocumentParams = params(notification.params)?;
                let document = changed.text_document;
                self.documents.change(&document.uri, document.version, changed.content_changes, self.encoding);
                Some(())
            }
            notification::DidCloseTextDocument::METHOD => {
                let closed: lsp_types::DidCloseTextDocumentParams = params(notification.params)?;
                self.documents.close(&closed.text_document.uri);
                let uri = closed.text_document.uri;
                let none = PublishDiagnosticsParams { uri, diagnostics: Vec::new(), version: None };
                self.send::<notification::PublishDiagnostics>(&none);
                Some(())
            }
            notification::DidChangeWorkspaceFolders::METHOD => {
                let changed: lsp_types::DidChangeWorkspaceFoldersParams = params(notification.params)?;
                let paths = |folders: Vec<lsp_types::WorkspaceFolder>| -> Vec<PathBuf> {
                    folders.iter().filter_map(|folder| convert::path(&folder.uri)).collect()
                };
                self.documents.folders(&paths(changed.event.added), &paths(changed.event.removed));
                Some(())
            }
            _ => None,
        }
    }

    /// Sends the findings of every open text, since one may take from another; says whether it came to the end: it stops as soon
    /// as the client says something.
    fn publish(&self) -> bool {
        let stop = || !self.connection.receiver.is_empty();
        let desk = Desk { documents: &self.documents, encoding: self.encoding };
        let opened: Vec<(Uri, i32)> = self.documents.opened();
        for (uri, version) in opened {
            let Some(diagnostics) = desk.findings(&uri, &stop) else { return false };
            let version = Some(version);
            self.send::<notification::PublishDiagnostics>(&PublishDiagnosticsParams { uri, diagnostics, version });
        }
        true
    }

    fn send<N: notification::Notification>(&self, params: &N::Params) {
        let params = serde_json::to_value(params).unwrap_or_default();
        // A client that is gone ends the session with the next message.
        let _ =
            self.connection.sender.send(Message::Notification(Notification { method: N::METHOD.to_owned(), params }));
    }
}
