//! The server as strangers, pages and editors meet it.

use bathygram_host::Project;
use bathygram_preview::{Options, Preview};
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant};

/// A project with a preview of it.
struct Served {
    folder: tempfile::TempDir,
    preview: Arc<Preview>,
}

const TEXT: &str = "sequence surge \"A surge\"\n  buoy sends gateway \"level\"\n  gateway calls desk \"warn\"\n";

impl Served {
    fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        std::fs::write(folder.path().join("surge.bathy"), TEXT).expect("written");
        let project = Project::without_config(folder.path());
        let options = Options {
            project,
            only: Vec::new(),
            export: Box::new(|_, _, picture, _| Ok(picture.name.as_bytes().to_vec())),
            starters: Vec::new(),
            port: 0,
            editor: None,
        };
        let preview = Arc::new(Preview::start(options).expect("a server"));
        let served = preview.clone();
        std::thread::spawn(move || served.serve());
        Self { folder, preview }
    }

    fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    /// The port and the token.
    fn parts(&self) -> (u16, String) {
        let rest = self.preview.address().strip_prefix("http://127.0.0.1:").expect("this machine");
        let (port, token) = rest.split_once('/').expect("a token");
        (port.parse().expect("a port"), token.trim_end_matches('/').to_owned())
    }

    /// What a raw request gets: the status and the rest.
    fn raw(&self, request: &str) -> (u16, String) {
        let (port, token) = self.parts();
        let request = request.replace("TOKEN", &token).replace("PORT", &port.to_string());
        let mut stream = TcpStream::connect(("127.0.0.1", port)).expect("connected");
        stream.set_read_timeout(Some(Duration::from_secs(10))).expect("a limit");
        stream.write_all(request.as_bytes()).expect("sent");
        let mut answer = Vec::new();
        let mut piece = [0; 4096];
        while let Ok(n) = stream.read(&mut piece) {
            answer.extend_from_slice(&piece[..n]);
            if n == 0 || answer.windows(4).any(|w| w == b"\r\n\r\n") && n < piece.len() {
                break;
            }
        }
        let answer = String::from_utf8_lossy(&answer).into_owned();
        let status = answer.split(' ').nth(1).and_then(|word| word.parse().ok()).unwrap_or(0);
        (status, answer)
    }

    /// Asks as a page does.
    fn ask(&self, name: &str, body: &Value) -> (u16, Value) {
        let url = format!("{}{name}", self.preview.address());
        let config = ureq::Agent::config_builder().http_status_as_error(false);
        let agent: ureq::Agent = config.timeout_global(Some(Duration::from_secs(60))).build().into();
        let mut answer = agent.post(&url).send_json(body).expect("an answer");
        let status = answer.status().as_u16();
        (status, answer.body_mut().read_json().unwrap_or(Value::Null))
    }

    fn save(&self, file: &str, text: &str, base: &Value) -> Value {
        let (status, answer) = self.ask("save", &json!({"file": file, "text": text, "base": base}));
        assert_eq!(status, 200, "{answer}");
        answer
    }

    fn base(&self, file: &str) -> Value {
        self.ask("text", &json!({"file": file})).1["base"].clone()
    }
}

fn draw(text: &str, number: u64) -> Value {
    json!({"page": "p", "number": number, "file": "surge.bathy", "text": text, "picture": null, "caret": 0, "theme": null,
        "rest": false, "seen": [0, 1000]})
}

#[test]
fn strangers_are_not_answered() {
    let served = Served::new();
    let get = |path: &str, host: &str, more: &str| {
        served.raw(&format!("GET {path} HTTP/1.1\r\nHost: {host}\r\n{more}Connection: close\r\n\r\n")).0
    };
    assert_eq!(get("/TOKEN/", "127.0.0.1:PORT", ""), 200);
    assert_eq!(get("/TOKEN/", "localhost:PORT", ""), 200);
    assert_eq!(get("/TOKEN/", "tides.example", ""), 421, "a name that leads here");
    assert_eq!(get("/TOKEN/", "127.0.0.1", ""), 421, "another port");
    assert_eq!(get("/TOKEN/", "127.0.0.1:PORT\r\nHost: tides.example", ""), 421, "two names");
    assert_eq!(get("/TOKEN/page.js", "127.0.0.1:PORT", "Origin: http://tides.example\r\n"), 403);
    assert_eq!(get("/TOKEN/page.js", "127.0.0.1:PORT", "Origin: null\r\n"), 403);
    assert_eq!(get("/TOKEN/page.js", "127.0.0.1:PORT", "Sec-Fetch-Site: cross-site\r\n"), 403);
    assert_eq!(get("/TOKEN/", "127.0.0.1:PORT", "Sec-Fetch-Site: cross-site\r\n"), 200, "a link somebody clicked on");
    for path in ["/", "/page.js", "/0000/", "/TOKENX/", "//TOKEN/", "/TOKEN"] {
        assert_eq!(get(path, "127.0.0.1:PORT", ""), 404, "{path}");
    }
    assert_eq!(get("/TOKEN/../../etc/passwd", "127.0.0.1:PORT", ""), 404);
    assert_eq!(get("/TOKEN/%2e%2e/surge.bathy", "127.0.0.1:PORT", ""), 404);
    let (status, page) = served.raw("GET /TOKEN/ HTTP/1.1\r\nHost: 127.0.0.1:PORT\r\nConnection: close\r\n\r\n");
    assert_eq!(status, 200);
    for word in ["default-src 'none'", "frame-ancestors 'none'", "nosniff", "no-referrer", "no-store"] {
        assert!(page.contains(word), "{word} in {page}");
    }
    assert!(!page.contains("unsafe"), "{page}");
}

#[test]
fn what_is_too_large_or_no_request_is_refused() {
    let served = Served::new();
    let post = |name: &str, kind: &str, length: &str, body: &str| {
        let head = format!("POST /TOKEN/{name} HTTP/1.1\r\nHost: 127.0.0.1:PORT\r\nContent-Type: {kind}\r\n");
        served.raw(&format!("{head}Content-Length: {length}\r\nConnection: close\r\n\r\n{body}")).0
    };
    assert_eq!(post("project", "application/json", "2", "{}"), 200);
    assert_eq!(post("project", "text/plain", "2", "{}"), 415, "what a form of another page could send");
    assert_eq!(post("draw", "application/json", "2", "{}"), 400);
    assert_eq!(post("draw", "application/json", "3", "{\"a"), 400);
    assert_eq!(post("nonsense", "application/json", "2", "{}"), 404);
    let put = "PUT /TOKEN/save HTTP/1.1\r\nHost: 127.0.0.1:PORT\r\nContent-Length: 0\r\nConnection: close\r\n\r\n";
    assert_eq!(served.raw(put).0, 405);
    // What is announced as larger than any source is not read.
    let start = Instant::now();
    let (status, answer) = served.ask("text", &json!({"file": "x".repeat(40 * 1024 * 1024)}));
    assert_eq!(status, 413, "{answer}");
    assert!(start.elapsed() < Duration::from_secs(30));
    // Nonsense ends its connection; the next one is answered.
    for nonsense in ["\0\0\0\0\r\n\r\n", "GET\r\n\r\n", "GET / HTTP/9.9\r\n\r\n", "GET /TOKEN/ HTTP/1.1\r\n\r\n"] {
        assert_ne!(served.raw(nonsense).0, 200, "{nonsense:?}");
    }
    assert_eq!(served.ask("project", &json!({})).0, 200);
}

#[test]
fn only_sources_of_the_project_are_written() {
    let served = Served::new();
    let outside = tempfile::tempdir().expect("a folder");
    std::fs::write(outside.path().join("other.bathy"), "mine").expect("written");
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink(outside.path(), served.path("deep")).expect("a link");
        std::os::unix::fs::symlink(outside.path().join("other.bathy"), served.path("link.bathy")).expect("a link");
    }
    let absolute = outside.path().join("new.bathy").display().to_string();
    let names = [
        "../new.bathy",
        "deep/new.bathy",
        "link.bathy",
        &absolute,
        "bathygram.toml",
        "surge.bathy/../../new.bathy",
        ".git/a.bathy",
        "a\u{0}.bathy",
        "",
    ];
    for name in names {
        let (status, answer) = served.ask("save", &json!({"file": name, "text": "x", "base": null}));
        assert_eq!(status, 409, "{name}: {answer}");
        let (status, _) = served.ask("text", &json!({"file": name}));
        assert_eq!(status, 409, "{name}");
    }
    assert_eq!(std::fs::read_to_string(outside.path().join("other.bathy")).expect("there"), "mine");
    assert_eq!(std::fs::read_dir(outside.path()).expect("there").count(), 1);
    assert!(served.save("new/picture.bathy", TEXT, &Value::Null)["saved"].is_string());
    assert_eq!(std::fs::read_to_string(served.path("new/picture.bathy")).expect("written"), TEXT);
}

#[test]
fn a_file_that_changed_meanwhile_is_not_overwritten() {
    let served = Served::new();
    let base = served.base("surge.bathy");
    std::fs::write(served.path("surge.bathy"), "sequence theirs\n  a sends b \"theirs\"\n").expect("written");
    let answer = served.save("surge.bathy", "mine", &base);
    assert_eq!(answer["changed"]["text"], json!("sequence theirs\n  a sends b \"theirs\"\n"));
    assert!(std::fs::read_to_string(served.path("surge.bathy")).expect("there").contains("theirs"));
    // A new file is never written over one that is there.
    let answer = served.save("surge.bathy", "mine", &Value::Null);
    assert!(answer["changed"].is_object(), "{answer}");
    // With the base of what is there, it is somebody's decision.
    let answer = served.save("surge.bathy", "mine\n", &answer["changed"]["base"]);
    assert!(answer["saved"].is_string(), "{answer}");
    assert_eq!(std::fs::read_to_string(served.path("surge.bathy")).expect("there"), "mine\n");
}

#[test]
fn pages_are_told_what_changed() {
    let served = Served::new();
    let (port, token) = served.parts();
    let mut stream = TcpStream::connect(("127.0.0.1", port)).expect("connected");
    stream.set_read_timeout(Some(Duration::from_secs(20))).expect("a limit");
    let request = format!("GET /{token}/events HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n");
    stream.write_all(request.as_bytes()).expect("sent");
    let mut heard = String::new();
    let mut hear = |wanted: &str| {
        let mut piece = [0; 1024];
        while !heard.contains(wanted) {
            let n = stream.read(&mut piece).expect("an event");
            assert!(n > 0, "{heard}");
            heard += &String::from_utf8_lossy(&piece[..n]);
        }
        heard.clear();
    };
    hear(": here");
    std::fs::write(served.path("surge.bathy"), "sequence other\n  a sends b \"x\"\n").expect("written");
    hear("data: files");
    // An editor's text comes before what is on disk, and is saved there alone.
    let path = std::path::absolute(served.path("surge.bathy")).expect("a path");
    served.preview.show_texts(BTreeMap::from([(path, "sequence edited\n  a sends b \"y\"\n".to_owned())]));
    hear("data: texts");
    let (_, text) = served.ask("text", &json!({"file": "surge.bathy"}));
    assert_eq!(
        (text["is_open"].clone(), text["text"].clone()),
        (json!(true), json!("sequence edited\n  a sends b \"y\"\n"))
    );
    let answer = served.save("surge.bathy", "mine", &text["base"]);
    assert!(answer["open"].is_object(), "{answer}");
    served.preview.show_file(Path::new("surge.bathy"));
    hear("data: show surge.bathy");
}

#[test]
fn the_newest_text_wins() {
    let served = Served::new();
    let (_, answer) = served.ask("draw", &draw(TEXT, 5));
    assert_eq!(answer["drawn"]["picture"], json!("surge"));
    assert!(answer["drawn"]["svg"].as_str().expect("a picture").contains("data-line=\"2\""));
    let (_, answer) = served.ask("draw", &draw(TEXT, 4));
    assert_eq!(answer, json!("old"));
    let (_, answer) = served.ask("draw", &draw("architecture a\n  service gateway\n  gateway uses gatway\n", 6));
    let finding = &answer["drawn"]["findings"][0];
    assert_eq!((finding["severity"].clone(), finding["line"].clone()), (json!("error"), json!(3)), "{answer}");
    assert!(finding["fixes"][0]["edits"][0]["insert"].is_string(), "{answer}");
}

#[test]
fn a_slow_drawing_ends_when_a_newer_text_comes() {
    let served = Arc::new(Served::new());
    let mut slow = String::from("architecture map\n");
    (0..1500).for_each(|i| slow += &format!("  service s{i}\n"));
    (1..1500).for_each(|i| slow += &format!("  s{} uses s{i}\n  s{} reads s{i}\n", i * 7 % 1500, (i * 13 + 5) % 1500));
    let other = served.clone();
    let first = std::thread::spawn(move || {
        let mut asked = draw(&slow, 1);
        asked["rest"] = json!(true);
        let start = Instant::now();
        (other.ask("draw", &asked).1, start.elapsed())
    });
    std::thread::sleep(Duration::from_millis(150));
    let start = Instant::now();
    let (_, answer) = served.ask("draw", &draw(TEXT, 2));
    assert_eq!(answer["drawn"]["picture"], json!("surge"));
    let quick = start.elapsed();
    let (answer, slow) = first.join().expect("answered");
    assert_eq!(answer, json!("old"));
    assert!(quick < slow.max(Duration::from_millis(500)), "{quick:?} while the other took {slow:?}");
}

#[test]
fn what_is_asked_of_a_text_is_answered() {
    let served = Served::new();
    let at = |text: &str, at: usize| json!({"file": "surge.bathy", "text": text, "at": at});
    let (_, found) = served.ask("complete", &at("sequence s\n  a se", 17));
    let labels: Vec<&str> = found.as_array().expect("a list").iter().filter_map(|one| one["label"].as_str()).collect();
    assert!(labels.contains(&"sends"), "{labels:?}");
    // Units of a browser: a wave counts two.
    let waves = "sequence s \"\u{1f30a}\"\n  buoy sends gateway \"x\"\n";
    let (_, found) = served.ask("hover", &at(waves, 19));
    assert!(found["markdown"].as_str().expect("words").contains("buoy"), "{found}");
    let (_, found) = served.ask("format", &at("sequence s\n    a   sends b   \"x\"\n", 0));
    assert_eq!(found, json!("sequence s\n  a sends b \"x\"\n"));
    let mut rename = at(TEXT, TEXT.find("gateway").expect("there"));
    rename["name"] = json!("intake");
    let (status, found) = served.ask("rename", &rename);
    assert_eq!((status, found["edits"].as_array().expect("edits").len()), (200, 2), "{found}");
    rename["name"] = json!("a.b");
    assert_eq!(served.ask("rename", &rename).0, 409);
    let drag = json!({"file": "surge.bathy", "text": TEXT, "picture": "surge", "key": "buoy", "by": [900.0, 0.0], "theme": null});
    let (_, found) = served.ask("nudge", &drag);
    assert_eq!(found["written"], json!("place buoy right of desk"), "{found}");
    let wrong = json!({"file": "surge.bathy", "text": TEXT, "picture": "nope", "key": "buoy", "by": [1.0, 0.0], "theme": "nope"});
    let (status, found) = served.ask("nudge", &wrong);
    assert!(status == 409 && found["refused"].as_str().expect("a sentence").contains("nope"), "{found}");
    let mut asked = json!({"file": "surge.bathy", "text": TEXT, "picture": "surge", "theme": null, "format": "gif"});
    assert_eq!(served.ask("export", &asked).0, 409);
    asked["format"] = json!("svg");
    assert_eq!(served.ask("export", &asked).0, 200);
    let (_, found) = served.ask("share", &asked);
    assert!(found["markdown"].as_str().expect("a line").contains("](pictures/surge.svg)"), "{found}");
    let (status, found) = served.ask("compare", &asked);
    assert!(status == 409 && found["refused"].is_string(), "there is no repository: {found}");
}

#[test]
fn the_bundled_editor_is_made_of_its_sources() {
    use sha2::Digest;
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("page");
    let mut hash = sha2::Sha256::new();
    for name in ["package.json", "package-lock.json", "entry.js"] {
        hash.update(std::fs::read(folder.join("editor").join(name)).expect("a source"));
    }
    let digest: String = hash.finalize().iter().map(|byte| format!("{byte:02x}")).collect();
    let bundle = std::fs::read_to_string(folder.join("editor.js")).expect("the bundle");
    let first = bundle.lines().next().unwrap_or_default();
    assert!(first.contains(&digest), "`cargo xtask page` makes it anew: {first}");
    let licences = std::fs::read_to_string(folder.join("LICENSE-EDITOR")).expect("the licences");
    for package in ["@codemirror/state", "@codemirror/view", "style-mod", "crelt"] {
        assert!(licences.contains(package), "{package}");
    }
}
