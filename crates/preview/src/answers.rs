//! What can be asked, by name, and what is answered.

use crate::shared::Shared;
use crate::{assist, compare, draw, export, files, nudges};
use serde::Serialize;
use serde::de::DeserializeOwned;

/// What a request gets.
pub(crate) enum Answer {
    /// A value.
    Json(Vec<u8>),
    /// A file of a kind.
    File(&'static str, Vec<u8>),
    /// Nothing: the status, and why.
    Refused(u16, String),
}

/// Answers a request.
pub(crate) fn of(shared: &Shared, name: &str, body: &str) -> Answer {
    match name {
        "project" => json(&files::listed(shared)),
        "text" => asked(body, |asked: assist::Named| files::current(shared, &shared.project(), &asked.file)),
        "save" => asked(body, |saved| files::save(shared, &saved)),
        "draw" => asked(body, |asked| draw::draw(shared, &asked)),
        "complete" => asked(body, |at| Ok(assist::completions(shared, &at))),
        "hover" => asked(body, |at| Ok(assist::hover(shared, &at))),
        "format" => asked(body, |at| Ok(assist::formatted(shared, &at))),
        "rename" => asked(body, |at| assist::renamed(shared, &at)),
        "nudge" => asked(body, |drag| nudges::nudge(shared, &drag)),
        "compare" => asked(body, |asked| compare::compare(shared, &asked)),
        "share" => asked(body, |asked| export::shared(shared, &asked)),
        "export" => match serde_json::from_str(body) {
            Ok(asked) => match export::file(shared, &asked) {
                Ok((kind, bytes)) => Answer::File(kind, bytes),
                Err(why) => Answer::Refused(409, why),
            },
            Err(why) => Answer::Refused(400, why.to_string()),
        },
        _ => Answer::Refused(404, format!("nobody answers `{name}`")),
    }
}

fn asked<A: DeserializeOwned, T: Serialize>(body: &str, act: impl FnOnce(A) -> Result<T, String>) -> Answer {
    let asked = match serde_json::from_str(body) {
        Ok(asked) => asked,
        Err(why) => return Answer::Refused(400, why.to_string()),
    };
    match act(asked) {
        Ok(value) => json(&value),
        Err(why) => Answer::Refused(409, why),
    }
}

fn json(value: &impl Serialize) -> Answer {
    match serde_json::to_vec(value) {
        Ok(bytes) => Answer::Json(bytes),
        Err(why) => Answer::Refused(500, why.to_string()),
    }
}
