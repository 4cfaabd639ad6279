//! A page of what changed, in one file: for each picture what changed in words, the marked picture, and before and after
//! over each other with a slider between them.

use super::drawn::{Drawn, Shown};
use super::listed::Listed;
use super::sides::Compared;
use bathygram_outputs::html;
use std::fmt::Write;

const STYLE: &str = include_str!("page.css");
const SCRIPT: &str = include_str!("page.js");

/// The page.
pub(super) fn page(compared: &Compared, drawn: &[Drawn], changes: &[Listed]) -> String {
    let title = format!("Diagrams: {} to {}", compared.from.name, compared.to.name);
    let mut body = format!("<h1>{}</h1>\n", html::escaped(&title));
    if drawn.is_empty() {
        body.push_str("<p>No picture changed.</p>\n");
    }
    for one in drawn {
        let _ = writeln!(body, "<section>\n<h2>{}</h2>", html::escaped(&one.name));
        words(&mut body, changes.iter().find(|c| c.diagram == one.name));
        let picture = |shown: &Shown, what: &str| html::image(&shown.svg, &format!("{}: {what}", one.name));
        match (&one.before, &one.after, &one.changes) {
            (Some(before), Some(after), changes) => {
                let changes = changes.as_ref().map_or(String::new(), |c| picture(c, "what changed"));
                let _ = writeln!(
                    body,
                    "<div class=\"changes\">{changes}</div>\n<div class=\"both\">\n<div class=\"before\">{}</div>\n\
                     <div class=\"after\">{}</div>\n</div>\n<label class=\"slider\"><span>before</span>\
                     <input type=\"range\" min=\"0\" max=\"100\" value=\"50\" aria-label=\"How much of the picture is as it was\">\
                     <span>after</span></label>",
                    picture(before, "before"),
                    picture(after, "after")
                );
            }
            (Some(only), None, _) => {
                let _ = writeln!(body, "<p>This picture is gone.</p>\n<div>{}</div>", picture(only, "before"));
            }
            (None, Some(only), _) => {
                let _ = writeln!(body, "<p>This picture is new.</p>\n<div>{}</div>", picture(only, "after"));
            }
            (None, None, _) => {}
        }
        body.push_str("</section>\n");
    }
    html::page(&title, STYLE, &body, SCRIPT)
}

fn words(body: &mut String, changes: Option<&Listed>) {
    let Some(changes) = changes else { return };
    body.push_str("<ul class=\"words\">\n");
    for change in &changes.changes {
        let class = change.fate.word();
        for sentence in &change.says {
            let _ = writeln!(body, "<li class=\"{class}\">{}</li>", html::with_code(sentence));
        }
    }
    body.push_str("</ul>\n");
}
