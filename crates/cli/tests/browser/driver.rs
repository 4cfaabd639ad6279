//! A real browser, driven through WebDriver (W3C Recommendation, 2018).

use crate::files::skipped;
use serde_json::{Value, json};
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

/// A browser with one window.
pub(crate) struct Browser {
    driver: Child,
    session: String,
}

/// The key in which WebDriver keeps the number of an element.
const ELEMENT: &str = "element-6066-11e4-a52e-4f735466cecf";

/// What somebody likes.
#[derive(Clone, Copy)]
pub(crate) enum Scheme {
    /// Light pages.
    Light,
    /// Dark ones.
    Dark,
}

impl Browser {
    /// Opens a window of 1280 by 800 px; `None`, with a line that says so, where there is no browser.
    pub(crate) fn open() -> Option<Self> {
        Self::open_in(Scheme::Light)
    }

    /// The same for somebody who likes light pages, or dark ones.
    pub(crate) fn open_in(scheme: Scheme) -> Option<Self> {
        let started = Command::new("chromedriver").arg("--port=0").stdout(Stdio::piped()).stderr(Stdio::null()).spawn();
        let Ok(mut driver) = started else {
            skipped("there is no chromedriver here");
            return None;
        };
        let lines = BufReader::new(driver.stdout.take()?).lines();
        let port = lines.map_while(Result::ok).find_map(|line| {
            let port = line.split("on port ").nth(1)?.trim_end_matches('.').trim().parse::<u16>().ok()?;
            line.contains("successfully").then_some(port)
        })?;
        let mut browser = Self { driver, session: format!("http://127.0.0.1:{port}/session") };
        let arguments = [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--window-size=1280,800",
            match scheme {
                Scheme::Light => "--blink-settings=preferredColorScheme=1",
                Scheme::Dark => "--blink-settings=preferredColorScheme=0",
            },
        ];
        let wanted = json!({"capabilities": {"alwaysMatch": {
            "timeouts": {"script": 20_000, "pageLoad": 20_000},
            "goog:chromeOptions": {"args": arguments}, "goog:loggingPrefs": {"browser": "ALL"},
        }}});
        let opened = browser.ask("POST", "", &wanted);
        browser.session += &format!("/{}", opened["sessionId"].as_str().expect("a session"));
        Some(browser)
    }

    fn ask(&self, method: &str, path: &str, body: &Value) -> Value {
        let url = format!("{}{path}", self.session);
        // A page that hangs fails its test.
        let wait = Some(std::time::Duration::from_secs(40));
        let config = ureq::Agent::config_builder().http_status_as_error(false).timeout_global(wait);
        let agent: ureq::Agent = config.build().into();
        let answer = match method {
            "POST" => agent.post(&url).send_json(body),
            "DELETE" => agent.delete(&url).call(),
            _ => agent.get(&url).call(),
        };
        let mut answer = answer.expect("the driver answers");
        let answer: Value = answer.body_mut().read_json().expect("JSON");
        assert!(answer["value"]["error"].is_null(), "{path}: {}", answer["value"]["message"]);
        answer["value"].clone()
    }

    /// Opens a file.
    pub(crate) fn show(&self, file: &Path) {
        self.visit(&format!("file://{}", file.canonicalize().expect("a file").display()));
    }

    /// Opens an address.
    pub(crate) fn visit(&self, address: &str) {
        self.ask("POST", "/url", &json!({"url": address}));
    }

    /// Goes one step back in the history.
    // A script in the page that does so may go further: browsers leave out pages in which nobody seems to have done anything.
    pub(crate) fn back(&self) {
        self.ask("POST", "/back", &json!({}));
    }

    /// Runs a function body in the page, and gives what it returns.
    pub(crate) fn run(&self, script: &str) -> Value {
        self.ask("POST", "/execute/sync", &json!({"script": script, "args": []}))
    }

    /// Runs a function body until it returns what is expected: the page needs its time.
    pub(crate) fn until(&self, script: &str, expected: &Value) {
        let mut last = Value::Null;
        for _ in 0..100 {
            last = self.run(script);
            if last == *expected {
                return;
            }
            std::thread::sleep(std::time::Duration::from_millis(50));
        }
        panic!("{script} stays {last}, and should be {expected}");
    }

    /// Runs a function body that returns a promise.
    pub(crate) fn wait_for(&self, script: &str) -> Value {
        let whole = format!(
            "const done = arguments[arguments.length - 1]; (async () => {{ {script} }})().then(done, (e) => done(String(e)));"
        );
        self.ask("POST", "/execute/async", &json!({"script": whole, "args": []}))
    }

    fn find(&self, selector: &str) -> String {
        let found = self.ask("POST", "/element", &json!({"using": "css selector", "value": selector}));
        found[ELEMENT].as_str().expect("an element").to_owned()
    }

    /// Clicks in the middle of what a selector finds.
    pub(crate) fn click(&self, selector: &str) {
        let element = json!({ELEMENT: self.find(selector)});
        let at = |kind: &str| json!({"type": kind, "button": 0});
        let moved = json!({"type": "pointerMove", "origin": element, "x": 0, "y": 0, "duration": 0});
        let actions = json!([moved, at("pointerDown"), at("pointerUp")]);
        self.ask("POST", "/actions", &json!({"actions": [{"type": "pointer", "id": "mouse", "actions": actions}]}));
    }

    /// The code of a key: a letter, or a name such as `Escape`.
    fn code(key: &str) -> String {
        match key {
            "Tab" => "\u{e004}".to_owned(),
            "Enter" => "\u{e007}".to_owned(),
            "Escape" => "\u{e00c}".to_owned(),
            "ArrowLeft" => "\u{e012}".to_owned(),
            "ArrowUp" => "\u{e013}".to_owned(),
            "ArrowRight" => "\u{e014}".to_owned(),
            "ArrowDown" => "\u{e015}".to_owned(),
            "End" => "\u{e010}".to_owned(),
            "Home" => "\u{e011}".to_owned(),
            "Control" => "\u{e009}".to_owned(),
            "Alt" => "\u{e00a}".to_owned(),
            "F6" => "\u{e036}".to_owned(),
            other => other.to_owned(),
        }
    }

    /// Presses keys, one after the other: letters, or names such as `Escape`.
    pub(crate) fn press(&self, keys: &[&str]) {
        let actions: Vec<Value> = keys
            .iter()
            .flat_map(|key| ["keyDown", "keyUp"].map(|kind| json!({"type": kind, "value": Self::code(key)})))
            .collect();
        self.ask("POST", "/actions", &json!({"actions": [{"type": "key", "id": "keys", "actions": actions}]}));
    }

    /// Presses a key while another is held.
    pub(crate) fn press_with(&self, held: &str, key: &str) {
        let one = |kind: &str, key: &str| json!({"type": kind, "value": Self::code(key)});
        let actions = json!([one("keyDown", held), one("keyDown", key), one("keyUp", key), one("keyUp", held)]);
        self.ask("POST", "/actions", &json!({"actions": [{"type": "key", "id": "keys", "actions": actions}]}));
    }

    /// Types a text, letter by letter.
    pub(crate) fn type_text(&self, text: &str) {
        let letters: Vec<String> =
            text.chars().map(|c| if c == '\n' { "Enter".to_owned() } else { c.to_string() }).collect();
        self.press(&letters.iter().map(String::as_str).collect::<Vec<_>>());
    }

    /// Moves the pointer to the middle of what a selector finds.
    pub(crate) fn point_at(&self, selector: &str) {
        let element = json!({ELEMENT: self.find(selector)});
        let moved = json!({"type": "pointerMove", "origin": element, "x": 0, "y": 0, "duration": 0});
        self.ask("POST", "/actions", &json!({"actions": [{"type": "pointer", "id": "mouse", "actions": [moved]}]}));
    }

    /// Drags what a selector finds by some px of the window.
    pub(crate) fn drag(&self, selector: &str, (dx, dy): (i64, i64)) {
        let element = json!({ELEMENT: self.find(selector)});
        let at = |kind: &str| json!({"type": kind, "button": 0});
        let to = |x: i64, y: i64, origin: Value| json!({"type": "pointerMove", "origin": origin, "x": x, "y": y, "duration": 40});
        let steps = (0..4).map(|_| to(dx / 4, dy / 4, json!("pointer")));
        let rest = to(dx - 4 * (dx / 4), dy - 4 * (dy / 4), json!("pointer"));
        let before = [to(0, 0, element), at("pointerDown")];
        let actions: Vec<Value> = before.into_iter().chain(steps).chain([rest, at("pointerUp")]).collect();
        self.ask("POST", "/actions", &json!({"actions": [{"type": "pointer", "id": "mouse", "actions": actions}]}));
    }

    /// Gives the window another size.
    pub(crate) fn resize(&self, width: u32, height: u32) {
        self.ask("POST", "/window/rect", &json!({"width": width, "height": height}));
    }

    /// What was written to the console, errors of the policy among it.
    pub(crate) fn log(&self) -> Vec<String> {
        let log = self.ask("POST", "/se/log", &json!({"type": "browser"}));
        log.as_array().expect("a log").iter().map(|line| line["message"].to_string()).collect()
    }

    /// The window as PNG.
    pub(crate) fn picture(&self) -> Vec<u8> {
        unpacked(&self.ask("GET", "/screenshot", &Value::Null))
    }

    /// The page printed, as PDF.
    pub(crate) fn print(&self) -> Vec<u8> {
        unpacked(&self.ask("POST", "/print", &json!({})))
    }
}

/// Bytes that came as text.
fn unpacked(packed: &Value) -> Vec<u8> {
    let packed = packed.as_str().expect("a text");
    base64::Engine::decode(&base64::engine::general_purpose::STANDARD, packed).expect("base64")
}

impl Drop for Browser {
    fn drop(&mut self) {
        // After a failure, too: the window would stay open.
        let config = ureq::Agent::config_builder().timeout_global(Some(std::time::Duration::from_secs(10)));
        let agent: ureq::Agent = config.build().into();
        let _ = agent.delete(&self.session).call();
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}
