//! Sessions of an editor with the language server.

use bathygram_lsp::{Setup, serve};
use bathygram_preview::{Options, Preview};
use lsp_server::{Connection, Message, Notification, Request, RequestId};
use serde_json::{Value, json};
use std::path::Path;
use std::thread::JoinHandle;
use std::time::Duration;

const MAP: &str = "architecture map\n  system core \"Cöre\"\n    service gate\n  actor keeper\n  keeper uses core\n";

/// A server that knows how to start a preview.
fn setup(folder: std::path::PathBuf) -> Setup {
    let preview = Box::new(|project, editor| {
        let export: bathygram_preview::Export = Box::new(|_, _, _, _| Ok(Vec::new()));
        let options =
            Options { project, only: Vec::new(), export, starters: Vec::new(), port: 0, editor: Some(editor) };
        Preview::start(options).map_err(|why| why.to_string())
    });
    Setup { folder, preview }
}

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
        let server = std::thread::spawn(move || serve(&server, setup(root)).expect("served"));
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
        let uri = self.uri(name);
        // Findings are sent once nothing else waits.
        while let Ok(message) = self.client.receiver.recv_timeout(Duration::from_millis(400)) {
            if let Message::Notification(told) = message {
                self.told.push(told);
            }
        }
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
    let edits = editor.ask("textDocument/formatting", asked.clone()).expect("edits");
    let texts: Vec<&str> = edits.as_array().expect("edits").iter().filter_map(|e| e["newText"].as_str()).collect();
    assert_eq!(texts, ["  system core\n", "    service gate\n"], "lines that are in their form stay");
    // Only some lines, and only the line that was just ended.
    let mut part = asked.clone();
    part["range"] = json!({"start": {"line": 2, "character": 0}, "end": {"line": 3, "character": 0}});
    let edits = editor.ask("textDocument/rangeFormatting", part).expect("edits");
    assert_eq!((edits.as_array().map(Vec::len), edits[0]["range"]["start"]["line"].as_u64()), (Some(1), Some(2)));
    let mut typed = asked.clone();
    typed["position"] = json!({"line": 2, "character": 0});
    typed["ch"] = json!("\n");
    let edits = editor.ask("textDocument/onTypeFormatting", typed).expect("edits");
    assert_eq!((edits.as_array().map(Vec::len), edits[0]["newText"].as_str()), (Some(1), Some("  system core\n")));
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
fn texts_of_any_shape_are_answered_soon() {
    let (mut editor, _) = Editor::new(&[], &["utf-16"]);
    let options = json!({"tabSize": 2, "insertSpaces": true});
    // 1. Every line changes, and most go.
    let loose: String = (0..30_000).map(|i| format!("   ebb    calls   buoy   \"m{i}\"\n\n\n")).collect();
    editor.open("loose.bathy", &format!("sequence a\n{loose}"));
    let asked = json!({"textDocument": {"uri": editor.uri("loose.bathy")}, "options": options});
    let edits = editor.ask("textDocument/formatting", asked).expect("edits");
    let edits = edits.as_array().expect("a list");
    assert_eq!(edits.len(), 1, "all lines at once");
    assert_eq!(edits[0]["newText"].as_str().expect("a text").matches("  ebb calls buoy").count(), 30_000);
    // 2. Everything in one line, with a letter that has two units.
    let names: Vec<String> = (0..9_000).map(|i| format!("b{i}")).collect();
    editor.open("line.bathy", &format!("architecture a\n  service {} // 🌊\n", names.join(", ")));
    let document = json!({"textDocument": {"uri": editor.uri("line.bathy")}});
    let tokens = editor.ask("textDocument/semanticTokens/full", document.clone()).expect("tokens");
    assert!(tokens["data"].as_array().expect("a list").len() > 5 * 9_000, "a token for each name");
    let symbols = editor.ask("textDocument/documentSymbol", document).expect("symbols");
    assert_eq!(symbols[0]["children"].as_array().expect("a list").len(), 9_000);
    // 3. More symbols than an outline shows.
    let members: String = (0..25_000).map(|i| format!("    + m{i}: int\n")).collect();
    editor.open("many.bathy", &format!("classes a\n  class Buoy\n{members}"));
    let document = json!({"textDocument": {"uri": editor.uri("many.bathy")}});
    let symbols = editor.ask("textDocument/documentSymbol", document).expect("symbols");
    assert_eq!(symbols[0]["children"][0]["children"].as_array().expect("a list").len(), 19_998);
    assert_eq!(symbols[1]["name"], "5002 more symbols, which are not listed");
    // 4. More names than are offered at once, and more places than a name may be answered with.
    let buoys: String = (0..6_000).map(|i| format!("  service b{i}\n")).collect();
    editor.open("names.bathy", &format!("architecture a\n{buoys}  b0 uses b\n"));
    let offered = editor.ask("textDocument/completion", editor.at("names.bathy", 6_001, 11)).expect("names");
    assert_eq!((&offered["isIncomplete"], offered["items"].as_array().map(Vec::len)), (&json!(true), Some(5_000)));
    editor.open("places.bathy", &format!("sequence a\n{}", "  ebb calls buoy\n".repeat(100_001)));
    let refused = editor.ask("textDocument/documentHighlight", editor.at("places.bathy", 1, 3));
    assert!(refused.is_err_and(|why| why.contains("named in 100001 places; 100000 can be answered")));
    let found = editor.ask("workspace/symbol", json!({"query": "m"})).expect("symbols");
    let found = found.as_array().expect("a list");
    assert!(found.len() == 20_000 && found[19_999]["name"].as_str().is_some_and(|name| name.contains("more symbols")));
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

#[test]
fn blocks_of_a_document_are_texts_of_their_own() {
    let page = "# Notes\n\n- a list\n\n  ```bathygram\n  sequence storm of map\n    keeper calls core.gate \"ü\"\n    keper sends core.gate\n  ```\n\n\
                ```bathygram\narchitecture other\n    service gate\n```\n";
    let page = page.replace("sequence storm", "from \"map.bathy\"\n  sequence storm");
    let (mut editor, _) = Editor::new(&[("map.bathy", MAP)], &["utf-8"]);
    std::fs::write(editor.folder.path().join("bathygram.toml"), "").expect("written");
    editor.open("notes.md", &page);
    let found = editor.findings("notes.md");
    assert!(found.iter().any(|(_, line, column)| (*line, *column) == (8, 4)), "{found:?}");
    // Line 7 of the document: keeper calls core.gate.
    let hover = editor.ask("textDocument/hover", editor.at("notes.md", 7, 24)).expect("a description");
    assert!(hover["contents"]["value"].as_str().expect("words").contains("**service** gate"), "{hover}");
    assert_eq!(hover["range"]["start"], json!({"line": 7, "character": 22}));
    let nothing = editor.ask("textDocument/hover", editor.at("notes.md", 2, 4)).expect("nothing");
    assert_eq!(nothing, Value::Null);
    let mut asked = editor.at("notes.md", 7, 24);
    asked["newName"] = json!("door");
    let edit = editor.ask("textDocument/rename", asked).expect("edits");
    let changes = edit["changes"].as_object().expect("changes");
    assert!(changes.contains_key(&editor.uri("map.bathy")) && changes.contains_key(&editor.uri("notes.md")), "{edit}");
    assert_eq!(
        changes[&editor.uri("notes.md")].as_array().map(Vec::len),
        Some(2),
        "the other block has a gate of its own"
    );
    let document =
        json!({"textDocument": {"uri": editor.uri("notes.md")}, "options": {"tabSize": 2, "insertSpaces": true}});
    let edits = editor.ask("textDocument/formatting", document.clone()).expect("edits");
    let own = edits.as_array().expect("edits").iter().find(|edit| edit["newText"] == json!("  service gate\n"));
    assert_eq!(own.map(|edit| edit["range"]["start"]["line"].clone()), Some(json!(13)), "{edits}");
    let symbols = editor.ask("textDocument/documentSymbol", document).expect("symbols");
    let names: Vec<&str> = symbols.as_array().expect("a list").iter().filter_map(|s| s["name"].as_str()).collect();
    assert_eq!(names, ["storm", "other"]);
}

#[test]
fn what_a_text_says_and_leads_to() {
    let text = "from \"map.bathy\"\nclasses c\n  interface Level\n  class Tide implements Level\n    link \"https://tides.example/a\"\n  class Spring extends Tide (fill kelp)\n\n\
                sequence storm of map\n  keeper calls core.gate\n    sends keeper, keeper \"ok\"\n  see calm\n\nsequence calm\n  a sends b\n";
    let (mut editor, answer) = Editor::new(&[("map.bathy", MAP)], &["utf-8"]);
    assert_eq!(answer["capabilities"]["typeHierarchyProvider"], json!(true));
    editor.open("a.bathy", text);
    let document = json!({"textDocument": {"uri": editor.uri("a.bathy")}});
    let links = editor.ask("textDocument/documentLink", document.clone()).expect("links");
    let targets: Vec<&str> = links.as_array().expect("a list").iter().filter_map(|l| l["target"].as_str()).collect();
    let own = editor.uri("a.bathy");
    let map = editor.uri("map.bathy");
    for wanted in [map.clone(), "https://tides.example/a".to_owned(), format!("{own}#L13")] {
        assert!(targets.contains(&wanted.as_str()), "{wanted} in {targets:?}");
    }
    let colours = editor.ask("textDocument/documentColor", document.clone()).expect("colours");
    assert_eq!(colours[0]["range"]["start"]["line"], json!(5), "{colours}");
    let mut asked = document.clone();
    asked["color"] = colours[0]["color"].clone();
    asked["range"] = colours[0]["range"].clone();
    let names = editor.ask("textDocument/colorPresentation", asked).expect("names");
    assert_eq!(names[0]["label"], json!("kelp"));
    let mut asked = document;
    asked["range"] = json!({"start": {"line": 0, "character": 0}, "end": {"line": 20, "character": 0}});
    let hints = editor.ask("textDocument/inlayHint", asked).expect("hints");
    let says: Vec<(u64, &str)> = hints
        .as_array()
        .expect("a list")
        .iter()
        .map(|h| (h["position"]["line"].as_u64().expect("a line"), h["label"].as_str().expect("words")))
        .collect();
    assert!(says.contains(&(9, "gate")), "the one who sends: {says:?}");
    // Hierarchies.
    let items = editor.ask("textDocument/prepareTypeHierarchy", editor.at("a.bathy", 3, 9)).expect("an item");
    assert_eq!(items[0]["name"], json!("Tide"));
    let above = editor.ask("typeHierarchy/supertypes", json!({"item": items[0]})).expect("types");
    let below = editor.ask("typeHierarchy/subtypes", json!({"item": items[0]})).expect("types");
    assert_eq!((above[0]["name"].clone(), below[0]["name"].clone()), (json!("Level"), json!("Spring")));
    let items = editor.ask("textDocument/prepareCallHierarchy", editor.at("a.bathy", 8, 3)).expect("an item");
    let called = editor.ask("callHierarchy/outgoingCalls", json!({"item": items[0]})).expect("calls");
    assert_eq!(called[0]["to"]["name"], json!("gate"), "{called}");
    assert_eq!(called[0]["fromRanges"][0]["start"]["line"], json!(8));
    let callers = editor.ask("callHierarchy/incomingCalls", json!({"item": items[0]})).expect("calls");
    assert_eq!(callers[0]["from"]["name"], json!("gate"));
    let none = editor.ask(
        "callHierarchy/incomingCalls",
        json!({"item": {"name": "x", "kind": 1, "uri": own, "range": items[0]["range"],
        "selectionRange": items[0]["range"]}}),
    );
    assert!(none.is_err(), "an item of somebody else: {none:?}");
}

#[test]
fn the_preview_follows_what_is_not_saved_and_hands_back_what_is_dragged() {
    let (mut editor, _) = Editor::new(&[("surge.bathy", "sequence surge\n  a sends b \"saved\"\n")], &["utf-8"]);
    editor.open("surge.bathy", "sequence surge\n  a sends b \"typed\"\n  b sends c \"on\"\n");
    let command = json!({"command": "bathygram.preview", "arguments": [editor.uri("surge.bathy")]});
    let answer = editor.ask("workspace/executeCommand", command.clone()).expect("an address");
    let address = answer["address"].as_str().expect("an address").to_owned();
    let (page, file) = address.split_once('#').expect("a file");
    assert_eq!(file, "surge.bathy");
    let again = editor.ask("workspace/executeCommand", command).expect("an address");
    assert_eq!(again["address"], json!(address), "one for each project");
    let agent: ureq::Agent = ureq::Agent::config_builder().http_status_as_error(false).build().into();
    let ask = |name: &str, body: &Value| -> Value {
        agent.post(format!("{page}{name}")).send_json(body).expect("answered").body_mut().read_json().expect("JSON")
    };
    let text = ask("text", &json!({"file": "surge.bathy"}));
    assert!(text["text"].as_str().expect("a text").contains("typed") && text["is_open"] == json!(true), "{text}");
    let document = json!({"uri": editor.uri("surge.bathy"), "version": 2});
    let whole = "sequence surge\n  a sends b \"typed on\"\n  b sends c \"on\"\n";
    editor.tell("textDocument/didChange", json!({"textDocument": document, "contentChanges": [{"text": whole}]}));
    editor.findings("surge.bathy");
    let text = ask("text", &json!({"file": "surge.bathy"}));
    assert_eq!(text["text"], json!(whole));
    // What the page changes is an edit of the editor.
    let changed = format!("{whole}  place a right of c\n");
    let answer = ask("save", &json!({"file": "surge.bathy", "text": changed, "base": text["base"]}));
    assert_eq!(answer, json!("handed"));
    let edit = loop {
        match editor.client.receiver.recv_timeout(Duration::from_secs(10)).expect("a request") {
            Message::Request(request) if request.method == "workspace/applyEdit" => break request.params,
            _ => {}
        }
    };
    let only = &edit["edit"]["changes"][editor.uri("surge.bathy").as_str()][0];
    assert_eq!(
        (only["newText"].clone(), only["range"]["start"]["line"].clone()),
        (json!("  place a right of c\n"), json!(3))
    );
    assert_eq!(
        std::fs::read_to_string(editor.folder.path().join("surge.bathy")).expect("there"),
        "sequence surge\n  a sends b \"saved\"\n"
    );
    let wrong = editor.ask("workspace/executeCommand", json!({"command": "bathygram.nonsense"}));
    assert!(wrong.expect_err("unknown").contains("no command"));
}

/// Numbers by chance, the same ones for each seed (Knuth's MMIX).
struct Chance(u64);

impl Chance {
    fn below(&mut self, limit: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % limit.max(1)
    }
}

/// What is asked of a text at the end.
fn answers(editor: &mut Editor, name: &str) -> Vec<Value> {
    let document = json!({"textDocument": {"uri": editor.uri(name)}, "options": {"tabSize": 2, "insertSpaces": true}});
    let plain = ["documentSymbol", "foldingRange", "semanticTokens/full", "documentLink", "formatting"];
    let mut found: Vec<Value> = plain
        .iter()
        .map(|what| editor.ask(&format!("textDocument/{what}"), document.clone()).unwrap_or_default())
        .collect();
    for line in 0..6 {
        found.push(editor.ask("textDocument/completion", editor.at(name, line, 4)).unwrap_or_default());
        found.push(editor.ask("textDocument/hover", editor.at(name, line, 4)).unwrap_or_default());
    }
    let found_now: Vec<Value> =
        editor.findings(name).into_iter().map(|(code, line, column)| json!([code, line, column])).collect();
    found.push(json!(found_now));
    // Files have other folders in another session.
    let text = serde_json::to_string(&found).expect("JSON").replace(&editor.uri(""), "");
    serde_json::from_str(&text).expect("JSON")
}

#[test]
fn random_edits_and_cancellations_leave_what_a_fresh_start_says() {
    const EDITS: usize = 10_000;
    const PIECES: [&str; 12] = [
        "\n",
        "  ",
        "service ",
        "a ",
        "uses ",
        "b",
        " \"ü\"",
        "system core\n",
        "sends ",
        "(fill kelp)",
        "\n\nlook\n",
        "sequence s\n",
    ];
    let mut chance = Chance(7);
    let (mut editor, _) = Editor::new(&[], &["utf-8"]);
    let mut text = String::from("architecture map\n  service a\n  a uses b\n");
    editor.open("a.bathy", &text);
    let uri = editor.uri("a.bathy");
    for version in 2..EDITS as i64 + 2 {
        // A change at a place by chance; a long text loses some of it.
        let bounds: Vec<usize> = text.char_indices().map(|(i, _)| i).chain([text.len()]).collect();
        let from = chance.below(bounds.len());
        let most = if text.len() > 400 { 90 } else { 6 };
        let to = (from + chance.below(most)).min(bounds.len() - 1);
        let (from, to) = (bounds[from], bounds[to]);
        let position = |byte: usize| {
            let before = &text[..byte];
            let start = before.rfind('\n').map_or(0, |at| at + 1);
            json!({"line": before.matches('\n').count(), "character": byte - start})
        };
        let put = if chance.below(3) == 0 { "" } else { PIECES[chance.below(PIECES.len())] };
        let change = json!({"range": {"start": position(from), "end": position(to)}, "text": put});
        let params = json!({"textDocument": {"uri": uri, "version": version}, "contentChanges": [change]});
        text.replace_range(from..to, put);
        editor.tell("textDocument/didChange", params);
        // Requests that are taken back at once, or later, or never.
        if chance.below(4) == 0 {
            editor.last += 1;
            let id = editor.last;
            let method = ["textDocument/completion", "textDocument/semanticTokens/full", "textDocument/references"]
                [chance.below(3)];
            let mut params = editor.at("a.bathy", chance.below(8) as u32, chance.below(20) as u32);
            params["context"] = json!({"includeDeclaration": true});
            let request = Request { id: RequestId::from(id), method: method.to_owned(), params };
            editor.client.sender.send(Message::Request(request)).expect("sent");
            if chance.below(2) == 0 {
                editor.tell("$/cancelRequest", json!({"id": id - chance.below(3) as i32}));
            }
        }
        // What came is taken away, as editors do.
        editor.client.receiver.try_iter().for_each(drop);
    }
    let after = answers(&mut editor, "a.bathy");
    let (mut fresh, _) = Editor::new(&[], &["utf-8"]);
    fresh.open("a.bathy", &text);
    let anew = answers(&mut fresh, "a.bathy");
    for (i, (a, b)) in after.iter().zip(&anew).enumerate() {
        assert_eq!(a, b, "answer {i} of:\n{text}");
    }
}
