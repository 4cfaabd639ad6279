//! The preview beside an editor: one for each project, with the texts as they are being edited. What is dragged there comes back
//! as an edit of the editor.

use crate::StartPreview;
use crate::convert;
use crate::documents::Documents;
use crate::text::Encoding;
use bathygram_preview::{Editor, Preview};
use lsp_server::{Message, Request, RequestId};
use lsp_types::request::{ApplyWorkspaceEdit, Request as _, ShowDocument};
use lsp_types::{ApplyWorkspaceEditParams, ExecuteCommandParams, TextEdit, Uri, WorkspaceEdit};
use serde_json::{Value, json};
use std::collections::{BTreeMap, HashMap};
use std::path::{Path, PathBuf};
use std::str::FromStr;
use std::sync::Arc;
use std::sync::atomic::{AtomicU32, Ordering};

/// What messages to the client go through.
type Sender = crossbeam_channel::Sender<Message>;

/// The previews that were asked for, by the folders of their projects.
pub(crate) struct Previews {
    start: StartPreview,
    sender: Sender,
    encoding: Encoding,
    /// Whether the client opens addresses.
    shows_documents: bool,
    started: BTreeMap<PathBuf, Arc<Preview>>,
    asked: Arc<AtomicU32>,
}

impl Previews {
    pub(crate) fn new(start: StartPreview, sender: Sender, encoding: Encoding, shows_documents: bool) -> Self {
        Self { start, sender, encoding, shows_documents, started: BTreeMap::new(), asked: Arc::default() }
    }

    /// Runs a command of the client: opens the preview of a file.
    ///
    /// # Errors
    /// If there is no such command, or nothing can be served.
    pub(crate) fn command(&mut self, documents: &Documents, params: Value) -> Result<Value, String> {
        let params: ExecuteCommandParams = serde_json::from_value(params).map_err(|why| why.to_string())?;
        if params.command != crate::PREVIEW {
            return Err(format!("there is no command {}", params.command));
        }
        let uri = params.arguments.first().and_then(Value::as_str).and_then(|text| Uri::from_str(text).ok());
        let path = uri.as_ref().and_then(convert::path).ok_or("the command takes the address of a file")?;
        let project = documents.project(&path);
        let preview = match self.started.get(&project.root) {
            Some(preview) => preview.clone(),
            None => {
                let preview = Arc::new((self.start)(project.clone(), self.editor())?);
                let served = preview.clone();
                std::thread::spawn(move || served.serve());
                self.started.insert(project.root.clone(), preview.clone());
                preview
            }
        };
        self.show(documents);
        preview.show_file(&path);
        let file = bathygram_core::markup::as_link(&project.shown(&path));
        let address = format!("{}#{file}", preview.address());
        if self.shows_documents {
            self.request(ShowDocument::METHOD, json!({"uri": address, "external": true}));
        }
        Ok(json!({ "address": address }))
    }

    /// Shows the texts as they are now.
    pub(crate) fn show(&self, documents: &Documents) {
        if !self.started.is_empty() {
            let texts = documents.open_sources();
            self.started.values().for_each(|preview| preview.show_texts(texts.clone()));
        }
    }

    /// Ends all of them.
    pub(crate) fn stop(&self) {
        self.started.values().for_each(|preview| preview.stop());
    }

    fn request(&self, method: &str, params: Value) {
        request(&self.sender, &self.asked, method, params);
    }

    /// Hands a text that was changed in the preview to the client.
    fn editor(&self) -> Editor {
        let (sender, asked, encoding) = (self.sender.clone(), self.asked.clone(), self.encoding);
        Box::new(move |path, old, new| {
            if let Some(edit) = changed(path, old, new, encoding) {
                let params = serde_json::to_value(edit).unwrap_or_default();
                request(&sender, &asked, ApplyWorkspaceEdit::METHOD, params);
            }
        })
    }
}

fn request(sender: &Sender, asked: &AtomicU32, method: &str, params: Value) {
    let id = RequestId::from(format!("bathygram-{}", asked.fetch_add(1, Ordering::Relaxed)));
    // A client that is gone ends the session with its next message.
    let _ = sender.send(Message::Request(Request { id, method: method.to_owned(), params }));
}

/// The smallest edit between two texts of a file.
#[allow(clippy::mutable_key_type, reason = "the protocol's own type: an address never changes")]
fn changed(path: &Path, old: &str, new: &str, encoding: Encoding) -> Option<ApplyWorkspaceEditParams> {
    let common = |a: &mut dyn Iterator<Item = char>, b: &mut dyn Iterator<Item = char>| -> usize {
        a.zip(b).take_while(|(a, b)| a == b).map(|(a, _)| a.len_utf8()).sum()
    };
    let first = common(&mut old.chars(), &mut new.chars());
    let (rest, newer) = (&old[first..], &new[first..]);
    let last = common(&mut rest.chars().rev(), &mut newer.chars().rev());
    let range = encoding.range(old, first..old.len() - last);
    let edit = TextEdit::new(range, newer[..newer.len() - last].to_owned());
    let edit = WorkspaceEdit::new(HashMap::from([(convert::uri(path)?, vec![edit])]));
    Some(ApplyWorkspaceEditParams { label: Some("From the preview".to_owned()), edit })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_smallest_edit_is_handed_over() {
        let path = Path::new("/a.bathy");
        let edit = changed(path, "one\nfür two\nend\n", "one\nfür the two\nend\n", Encoding::Utf16).expect("an edit");
        let edit = serde_json::to_value(edit).expect("JSON");
        let only = &edit["edit"]["changes"]["file:///a.bathy"][0];
        assert_eq!((only["range"]["start"]["line"].clone(), only["newText"].clone()), (json!(1), json!("he t")));
        assert_eq!(only["range"]["start"]["character"], json!(5));
    }
}
