//! Sessions of an editor with the language server.

use bathygram_lsp::serve;
use lsp_server::{Connection, Message, Notification, Request, RequestId};
use serde_json::{Value, json};
use std::path::Path;
use std::thread::JoinHandle;
use std::time::Duration;

const MAP: &str = "architecture map\n  system core \"Cöre\"\n    service gate\n  actor keeper\n  keeper uses core\n";

/// An editor with a folder.
struct Editor {
    folder: tempfile::TempDir,
    client: Connection,
    server: Option<JoinHandle<()>>,
    last: i32,
    /// What the server sent without being asked.
    told: Vec<Notification>,
}

impl Editor {
    fn new(files: &[(&str, &str)], encodings: &[&str]) -> (Self, Value) {
        let folder = tempfile::tempdir().expect("a folder");
        files.iter().for_each(|(name, text)| std::fs::write(folder.path().join(name), text).expect("written"));
        let (server, client) = Connection::memory();
        let root = folder.path().to_owned();
        let server = std::thread::spawn(move || serve(&server, root).expect("served"));
        let mut editor = Self { folder, client, server: Some(server), last: 0, told: Vec::new() };
        let root = editor.uri("");
        let wanted = json!({
            "capabilities": {"general": {"positionEncodings": encodings}},
            "workspaceFolders": [{"uri": root.trim_end_matches('/'), "name": "bay"}],
        });
        let answer = editor.ask("initialize", wanted).expect("initialized");
        editor.tell("initialized", json!({}));
        (editor, answer)
    }

    fn uri(&self, name: &str) -> String {
        format!("file://{}/{name}", self.folder.path().canonicalize().expect("a folder").display())
    }

    fn tell(&self, method: &str, params: Value) {
        let told = Notification { method: method.to_owned(), params };
        self.client.sender.send(Message::Notification(told)).expect("sent");
    }

    fn ask(&mut self, method: &str, params: Value) -> Result<Value, String> {
        self.last += 1;
        let id = RequestId::from(self.last);
        let request = Request { id: id.clone(), method: method.to_owned(), params };
        self.client.sender.send(Message::Request(request)).expect("sent");
        loop {
            match self.client.receiver.recv_timeout(Duration::from_secs(20)).expect("an answer") {
                Message::Response(response) if response.id == id => {
                    let response = serde_json::to_value(response).expect("JSON");
                    return match response.get("error").filter(|error| !error.is_null()) {
                        Some(error) => Err(error["message"].as_str().unwrap_or_default().to_owned()),
                        None => Ok(response["result"].clone()),
                    };
                }
                Message::Notification(told) => self.told.push(told),
                _ => {}
            }
        }
    }

    fn open(&self, name: &str, text: &str) {
        let document = json!({"uri": self.uri(name), "languageId": "bathygram", "version": 1, "text": text});
        self.tell("textDocument/didOpen", json!({"textDocument": document}));
    }

    /// The newest findings of a file: codes, with the line and the column at which they begin.
    fn findings(&mut self, name: &str) -> Vec<(String, u64, u64)> {
        // A request is answered behind what was sent before it.
        self.ask("textDocument/foldingRange", json!({"textDocument": {"uri": self.uri(name)}})).expect("answered");
        let uri = self.uri(name);
        let newest = self.told.iter().rfind(|told| told.params["uri"] == uri.as_str()).expect("findings");
        let found = newest.params["diagnostics"].as_array().expect("a list").iter();
        let place = |f: &Value, side: &str| f["range"]["start"][side].as_u64().expect("a number");
        found
            .map(|f| (f["code"].as_str().expect("a code").to_owned(), place(f, "line"), place(f, "character")))
            .collect()
    }

    fn at(&self, name: &str, line: u32, character: u32) -> Value {
        json!({"textDocument": {"uri": self.uri(name)}, "position": {"line": line, "character": character}})
    }
}

impl Drop for Editor {
    fn drop(&mut self) {
        if std::thread::panicking() {
            return;
        }
        self.ask("shutdown", Value::Null).expect("ended");
        self.tell("exit", Value::Null);
        self.server.take().map(JoinHandle::join).expect("a server").expect("it ends");
    }
}

fn labels(items: &Value) -> Vec<&str> {
    items.as_array().expect("a list").iter().filter_map(|item| item["label"].as_str()).collect()
}

#[test]
fn findings_follow_what_is_typed_and_are_corrected() {
    let (mut editor, _) = Editor::new(&[], &["utf-16"]);
    editor.open("a.bathy", "sequence s\n  service gateway\n  gatway calls desk\n");
    let found = editor.findings("a.bathy");
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!((found[0].1, found[0].2), (2, 2));
    let range = json!({"start": {"line": 2, "character": 2}, "end": {"line": 2, "character": 8}});
    let uri = editor.uri("a.bathy");
    let context = json!({"diagnostics": []});
    let asked = json!({"textDocument": {"uri": uri}, "range": range, "context": context});
    let actions = editor.ask("textDocument/codeAction", asked).expect("actions");
    let edit = &actions[0]["edit"]["changes"][uri.as_str()][0];
    assert_eq!(edit["newText"], "gateway", "{actions:#}");
    let change = json!({"range": edit["range"], "text": edit["newText"]});
    let document = json!({"uri": uri, "version": 2});
    editor.tell("textDocument/didChange", json!({"textDocument": document, "contentChanges": [change]}));
    assert!(editor.findings("a.bathy").iter().all(|(code, ..)| code != "unknown-name"));
    editor.tell("textDocument/didClose", json!({"textDocument": {"uri": uri}}));
}

#[test]
fn names_are_completed_hovered_found_and_renamed_across_files() {
    let story = "from \"map.bathy\"\nsequence storm of map\n  keeper calls core.gate \"ü\"\n";
    let (mut editor, _) =
        Editor::new(&[("map.bathy", MAP), ("storm.bathy", story), ("bathygram.toml", "")], &["utf-16"]);
    editor.open("storm.bathy", story);
    assert!(editor.findings("storm.bathy").is_empty(), "{:?}", editor.told);
    let place = editor.at("storm.bathy", 2, 22);
    let hover = editor.ask("textDocument/hover", place.clone()).expect("a hover");
    assert!(hover["contents"]["value"].as_str().expect("Markdown").starts_with("**service** gate"), "{hover}");
    let there = editor.ask("textDocument/definition", place.clone()).expect("a place");
    assert_eq!(
        (there["uri"].as_str(), there["range"]["start"]["line"].as_u64()),
        (Some(editor.uri("map.bathy").as_str()), Some(2))
    );
    let mut asked = place.clone();
    asked["context"] = json!({"includeDeclaration": true});
    assert_eq!(editor.ask("textDocument/references", asked).expect("places").as_array().map(Vec::len), Some(2));
    let mut asked = place.clone();
    asked["newName"] = json!("door");
    let edit = editor.ask("textDocument/rename", asked.clone()).expect("an edit");
    let changes = edit["changes"].as_object().expect("changes");
    assert_eq!(changes.len(), 2, "{edit:#}");
    assert!(changes.values().all(|edits| edits[0]["newText"] == "door"));
    asked["newName"] = json!("a.b");
    assert!(editor.ask("textDocument/rename", asked).expect_err("refused").contains("without dots"));
    let links = editor
        .ask("textDocument/documentLink", json!({"textDocument": {"uri": editor.uri("storm.bathy")}}))
        .expect("links");
    assert_eq!(links[0]["target"].as_str(), Some(editor.uri("map.bathy").as_str()));
    // What is not saved counts.
    let moved = MAP.replace("service gate", "service door");
    editor.open("map.bathy", &moved);
    assert!(!editor.findings("storm.bathy").is_empty());
    let found = editor.ask("textDocument/completion", editor.at("map.bathy", 4, 14)).expect("completions");
    assert!(labels(&found).contains(&"core"), "{found}");
    let found = editor.ask("workspace/symbol", json!({"query": "keeper"})).expect("symbols");
    assert!(found.as_array().is_some_and(|all| all.iter().any(|s| s["containerName"] == "map")), "{found}");
}

#[test]
fn columns_are_counted_as_the_client_counts() {
    for (encoding, column) in [("utf-8", 23), ("utf-16", 20), ("utf-32", 19)] {
        let (mut editor, answer) = Editor::new(&[], &[encoding]);
        assert_eq!(answer["capabilities"]["positionEncoding"], encoding);
        editor.open("a.bathy", "architecture a\n  service `ü🌊` uses gat, gate\n  service gate\n");
        // Whatever is wrong here, its places lie in the line.
        editor.findings("a.bathy");
        let text = "flow a\n  begin \"ü🌊\" (fill corl)\n  finish \"b\"\n";
        let document = json!({"uri": editor.uri("a.bathy"), "version": 2});
        editor.tell("textDocument/didChange", json!({"textDocument": document, "contentChanges": [{"text": text}]}));
        let found = editor.findings("a.bathy");
        assert_eq!(found, [("unknown-colour".to_owned(), 1, column)], "{encoding}");
    }
}

#[test]
fn a_text_is_formatted_folded_outlined_and_coloured() {
    let (mut editor, _) = Editor::new(&[], &[]);
    editor.open("a.bathy", "architecture map\n    system core\n        service gate\n");
    let document = json!({"textDocument": {"uri": editor.uri("a.bathy")}});
    let mut asked = document.clone();
    asked["options"] = json!({"tabSize": 2, "insertSpaces": true});
    let edits = editor.ask("textDocument/formatting", asked).expect("edits");
    assert_eq!(edits[0]["newText"], "architecture map\n  system core\n    service gate\n");
    let folds = editor.ask("textDocument/foldingRange", document.clone()).expect("folds");
    assert_eq!(folds.as_array().map(Vec::len), Some(2));
    let symbols = editor.ask("textDocument/documentSymbol", document.clone()).expect("symbols");
    assert_eq!(symbols[0]["children"][0]["children"][0]["name"], "gate");
    assert_eq!(symbols[0]["range"]["end"]["line"], 2);
    let tokens = editor.ask("textDocument/semanticTokens/full", document.clone()).expect("tokens");
    let data: Vec<u64> = tokens["data"].as_array().expect("numbers").iter().filter_map(Value::as_u64).collect();
    assert_eq!(data[..10], [0, 0, 12, 0, 0, 0, 13, 3, 4, 1]);
    let mut asked = document.clone();
    asked["positions"] = json!([{"line": 2, "character": 9}]);
    let ranges = editor.ask("textDocument/selectionRange", asked).expect("ranges");
    assert_eq!(ranges[0]["parent"]["parent"]["range"]["start"]["line"], 0);
}

#[test]
fn nonsense_gets_errors_and_the_session_goes_on() {
    let (mut editor, _) = Editor::new(&[], &["utf-7", "utf-8"]);
    assert!(editor.ask("textDocument/nonsense", json!({})).expect_err("unknown").contains("is not answered"));
    assert!(editor.ask("textDocument/hover", json!({"textDocument": 4})).is_err());
    assert!(
        editor
            .ask(
                "textDocument/hover",
                json!({"textDocument": {"uri": "untitled:1"}, "position": {"line": 0, "character": 0}})
            )
            .is_err()
    );
    editor.tell(
        "textDocument/didChange",
        json!({"textDocument": {"uri": "file:///nowhere", "version": 1}, "contentChanges": []}),
    );
    editor.tell("textDocument/didOpen", json!([1, 2]));
    editor.tell("$/cancelRequest", json!({"id": 1}));
    editor.open("a.bathy", MAP);
    let far = editor.at("a.bathy", 4_000_000, 4_000_000);
    assert_eq!(editor.ask("textDocument/hover", far).expect("an answer"), Value::Null);
    let document = json!({"uri": editor.uri("a.bathy"), "version": 2});
    let backwards = json!({"start": {"line": 3, "character": 9}, "end": {"line": 1, "character": 0}});
    editor.tell(
        "textDocument/didChange",
        json!({"textDocument": document, "contentChanges": [{"range": backwards, "text": "x"}]}),
    );
    editor.findings("a.bathy");
    assert!(Path::new(editor.folder.path()).read_dir().expect("a folder").next().is_none(), "nothing is written");
}
