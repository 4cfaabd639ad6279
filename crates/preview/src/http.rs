//! Requests and responses: what is asked for, how large it may be, and what stands in every response.

use crate::answers::{self, Answer};
use crate::events::Dropped;
use crate::guard::Stranger;
use crate::shared::Shared;
use bathygram_host::MAX_SOURCE;
use bathygram_outputs::interactive::PAN_AND_ZOOM;
use std::io::{Read, Write};
use tiny_http::{Method, Request};

/// A request may have this many bytes: a source, written as JSON.
const MAX_BODY: u64 = 2 * MAX_SOURCE;
/// After this long without news a page hears that there are none: it finds out so that the server is gone.
const HEARTBEAT: std::time::Duration = std::time::Duration::from_secs(15);

/// The page, and what it is made of.
const PAGE: &str = include_str!("../page/page.html");
const STYLE: &str = include_str!("../page/page.css");
const SCRIPT: &str = include_str!("../page/page.js");
/// CodeMirror 6 from npm, bundled by `cargo xtask page`.
const EDITOR: &str = include_str!("../page/editor.js");

/// Answers a request.
pub(crate) fn answer(shared: &Shared, mut request: Request) {
    let path = match shared.guard.path(&request) {
        Ok(path) => path,
        Err(Stranger::Host) => return refuse(request, 421, "this server has another name"),
        Err(Stranger::Origin) => return refuse(request, 403, "other pages are not answered"),
        Err(Stranger::Token) => return refuse(request, 404, "nothing is here; the address is longer"),
    };
    match (request.method(), path.as_str()) {
        (Method::Get, "") => page(request, shared),
        (Method::Get, "page.css") => send(request, 200, "text/css; charset=utf-8", STYLE.as_bytes().to_vec()),
        (Method::Get, "page.js") => send(request, 200, "text/javascript; charset=utf-8", SCRIPT.as_bytes().to_vec()),
        (Method::Get, "editor.js") => send(request, 200, "text/javascript; charset=utf-8", EDITOR.as_bytes().to_vec()),
        (Method::Get, "panzoom.js") => {
            send(request, 200, "text/javascript; charset=utf-8", PAN_AND_ZOOM.as_bytes().to_vec());
        }
        (Method::Get, "events") => follow(request, shared),
        (Method::Post, name) => {
            let name = name.to_owned();
            match body(&mut request) {
                Ok(body) => match answers::of(shared, &name, &body) {
                    Answer::Json(json) => send(request, 200, "application/json", json),
                    Answer::File(kind, bytes) => send(request, 200, kind, bytes),
                    Answer::Refused(status, why) => refuse(request, status, &why),
                },
                Err((status, why)) => refuse(request, status, why),
            }
        }
        (Method::Get, _) => refuse(request, 404, "there is no such file"),
        _ => refuse(request, 405, "only GET and POST are answered"),
    }
}

/// The text that was sent.
fn body(request: &mut Request) -> Result<String, (u16, &'static str)> {
    const LARGE: (u16, &str) = (413, "that is too large");
    let kinds = request.headers().iter().filter(|header| header.field.equiv("Content-Type"));
    let is_json =
        kinds.map(|header| header.value.as_str()).any(|kind| kind.split(';').next() == Some("application/json"));
    if !is_json {
        return Err((415, "what is sent is JSON"));
    }
    if request.body_length().is_some_and(|length| length as u64 > MAX_BODY) {
        return Err(LARGE);
    }
    let mut bytes = Vec::new();
    request.as_reader().take(MAX_BODY + 1).read_to_end(&mut bytes).map_err(|_| (400, "it broke off"))?;
    if bytes.len() as u64 > MAX_BODY {
        return Err(LARGE);
    }
    String::from_utf8(bytes).map_err(|_| (400, "it is not UTF-8"))
}

/// The page itself. Styles that the editor adds know a word that no other page can.
fn page(request: Request, shared: &Shared) {
    let nonce = &shared.nonce;
    let policy = format!(
        "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; connect-src 'self'; img-src 'self' data: blob:; \
         font-src data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
    );
    let html = PAGE.replace("NONCE", nonce);
    let policy = format!("Content-Security-Policy: {policy}\r\n");
    respond(request, 200, "text/html; charset=utf-8", html.as_bytes(), &policy);
}

/// Says no, in a sentence.
pub(crate) fn refuse(request: Request, status: u16, why: &str) {
    let text = serde_json::json!({ "refused": why }).to_string();
    send(request, status, "application/json", text.into_bytes());
}

fn send(request: Request, status: u16, kind: &str, bytes: Vec<u8>) {
    respond(request, status, kind, &bytes, "");
}

/// Writes a response in one piece: two would wait for each other, 40 ms on most systems (RFC 896 with RFC 1122, 4.2.3.2).
fn respond(request: Request, status: u16, kind: &str, bytes: &[u8], more: &str) {
    let reason = tiny_http::StatusCode(status).default_reason_phrase();
    let head = format!(
        "HTTP/1.1 {status} {reason}\r\nContent-Type: {kind}\r\nContent-Length: {}\r\nCache-Control: no-store\r\n\
         X-Content-Type-Options: nosniff\r\nReferrer-Policy: no-referrer\r\nCross-Origin-Resource-Policy: same-origin\r\n\
         Cross-Origin-Opener-Policy: same-origin\r\n{more}\r\n",
        bytes.len()
    );
    let mut out = request.into_writer();
    // Whoever left is not told.
    let _ = out.write_all(&[head.as_bytes(), bytes].concat()).and_then(|()| out.flush());
}

/// Server-sent events (HTML standard, section 9.2): a page is told what changed, as long as it is there.
fn follow(request: Request, shared: &Shared) {
    let Some(events) = shared.events.follow() else {
        return refuse(request, 503, "too many pages are open");
    };
    let mut out = request.into_writer();
    let head = "HTTP/1.1 200 OK\r\nContent-Type: text/event-stream\r\nCache-Control: no-store\r\n\
                X-Content-Type-Options: nosniff\r\nConnection: close\r\n\r\n: here\n\n";
    let mut alive = out.write_all(head.as_bytes()).and_then(|()| out.flush()).is_ok();
    while alive {
        let text = match events.next(HEARTBEAT) {
            // A name of a file may have a line break.
            Ok(Some(event)) => format!("data: {}\n\n", event.replace(['\n', '\r'], " ")),
            Ok(None) => ": still here\n\n".to_owned(),
            // The page asks again by itself, and looks at everything.
            Err(Dropped) => return,
        };
        alive = out.write_all(text.as_bytes()).and_then(|()| out.flush()).is_ok();
    }
}
