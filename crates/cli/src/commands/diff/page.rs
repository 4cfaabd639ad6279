//! A page of what changed, in one file: for each picture what changed in words, and the picture in both versions: what changed is
//! marked, or both stand side by side, fade into each other, or are parted by a slider. All pictures share their fonts.

use super::drawn::{Drawn, Shown};
use super::listed::Listed;
use super::sides::{Compared, Conflict};
use bathygram_core::compare::Phrase;
use bathygram_core::geom::{Point, Rect};
use bathygram_core::pipeline::Studio;
use bathygram_core::scene::Drawing;
use bathygram_core::svg::{self, Place};
use bathygram_outputs::html;
use std::collections::BTreeMap;
use std::fmt::Write;

const STYLE: &str = include_str!("page.css");
const SCRIPT: &str = include_str!("page.js");

/// A list of this many pictures is open at the top of the page.
const FEW: usize = 24;

/// A file whose merge is not finished, and what its sides say differently.
pub(super) type Unmerged<'a> = (&'a Conflict, Vec<Listed>);

/// The page.
pub(super) fn page(
    studio: &Studio, compared: &Compared, drawn: &[Drawn], changes: &[Listed], conflicts: &[Unmerged<'_>],
) -> String {
    let title = format!("Diagrams: {} to {}", compared.from.name, compared.to.name);
    let mut body = format!("<h1>{}</h1>\n", html::escaped(&title));
    if drawn.is_empty() && conflicts.is_empty() {
        body.push_str("<p>No picture changed.</p>\n");
    }
    if drawn.len() > 1 {
        // A long list is opened by whoever looks for something.
        let open = if drawn.len() > FEW { "" } else { " open" };
        let count = crate::session::count(drawn.len(), "picture");
        let _ = writeln!(body, "<nav aria-label=\"Pictures\"><details{open}><summary>{count} changed</summary><ul>");
        for (i, one) in drawn.iter().enumerate() {
            let _ = writeln!(body, "<li><a href=\"#d{i}\">{}</a></li>", html::escaped(&one.name));
        }
        body.push_str("</ul></details></nav>\n");
    }
    for (conflict, listed) in conflicts {
        let _ = writeln!(
            body,
            "<section>\n<h2>{}</h2>\n<p>The merge is not finished. From {} to {}:</p>",
            html::escaped(&conflict.file),
            html::escaped(&conflict.ours.name),
            html::escaped(&conflict.theirs.name)
        );
        listed.iter().for_each(|l| words(&mut body, Some(l)));
        body.push_str("</section>\n");
    }
    for (i, one) in drawn.iter().enumerate() {
        let _ = writeln!(body, "<section id=\"d{i}\">\n<h2>{}</h2>", html::escaped(&one.name));
        words(&mut body, changes.iter().find(|c| c.diagram == one.name));
        body.push_str(&pictures(studio, i, one));
        body.push_str("</section>\n");
    }
    let shown: Vec<&Drawing> =
        drawn.iter().flat_map(|d| [&d.before, &d.after, &d.changes]).flatten().map(|s| &s.drawing).collect();
    let style = format!("{STYLE}{}\n", svg::style_sheet(&shown, studio));
    html::page(&title, &style, &body, SCRIPT)
}

/// The ways of looking at a picture that both versions have.
const WAYS: [(&str, &str); 4] =
    [("marked", "What changed"), ("beside", "Side by side"), ("slide", "Slider"), ("fade", "Fade")];

/// The pictures of one diagram.
fn pictures(studio: &Studio, number: usize, one: &Drawn) -> String {
    let figure = |shown: &Shown| inline(studio, &shown.drawing);
    match (&one.before, &one.after, &one.changes) {
        (Some(before), Some(after), Some(changes)) => {
            let mut out = String::from("<div class=\"ways\" role=\"radiogroup\" aria-label=\"How to compare\">");
            for (i, (way, words)) in WAYS.iter().enumerate() {
                let checked = if i == 0 { " checked" } else { "" };
                let _ = write!(
                    out,
                    "<label><input type=\"radio\" name=\"way{number}\" value=\"{way}\"{checked}><span>{words}</span></label>"
                );
            }
            out.push_str("</div>\n");
            let (w, h, places) = together(&before.drawing, &after.drawing);
            let layer = |shown: &Shown, at: Point, class: &str, words: &str| {
                let size = shown.drawing.scene.size;
                let (x, y) = (100.0 * at.x / w, 100.0 * at.y / h);
                format!(
                    "<figure class=\"{class}\"><figcaption>{words}</figcaption><div class=\"sheet\" style=\"aspect-ratio:{w:.2}/{h:.2}\">\
                     <div class=\"at\" style=\"left:{x:.4}%;top:{y:.4}%;width:{:.4}%\">{}</div></div></figure>",
                    100.0 * size.w / w,
                    figure(shown)
                )
            };
            let _ = writeln!(
                out,
                "<div class=\"marked\">{}</div>\n<div class=\"both\" style=\"--width:{w:.0}px\">\n\
                 <div class=\"slider\"><div class=\"ends\"><span>before</span><span>after</span></div><input type=\"range\" \
                 min=\"0\" max=\"1000\" value=\"500\" aria-label=\"From before to after\"></div>\n\
                 <div class=\"layers\">{}\n{}\n</div>\n</div>",
                figure(changes),
                layer(before, places[0], "before", "before"),
                layer(after, places[1], "after", "after"),
            );
            out
        }
        (Some(only), None, _) => format!("<p>This picture is gone.</p>\n<div>{}</div>\n", figure(only)),
        (None, Some(only), _) => format!("<p>This picture is new.</p>\n<div>{}</div>\n", figure(only)),
        _ => String::new(),
    }
}

/// A drawing in the page, without its fonts; nothing in it acts, since texts are escaped.
fn inline(studio: &Studio, drawing: &Drawing) -> String {
    svg::write(drawing, studio, Place::Page(None))
}

/// A sheet on which both drawings have what they share at the same place: its size, and where each drawing is; px.
fn together(before: &Drawing, after: &Drawing) -> (f64, f64, [Point; 2]) {
    let places = |drawing: &Drawing| -> BTreeMap<String, Rect> {
        let all = drawing.places.nodes.iter().chain(&drawing.places.groups);
        all.map(|(key, place)| (key.clone(), *place)).collect()
    };
    let (then, now) = (places(before), places(after));
    let both = || then.iter().filter_map(|(key, a)| Some((*a, *now.get(key)?)));
    // The shift that most elements have: those that moved have others.
    let median = |mut all: Vec<f64>| {
        all.sort_by(f64::total_cmp);
        all.get(all.len() / 2).copied().unwrap_or(0.0)
    };
    let (dx, dy) = (median(both().map(|(a, b)| a.x - b.x).collect()), median(both().map(|(a, b)| a.y - b.y).collect()));
    let (a, b) = (before.scene.size, after.scene.size);
    let (left, top) = (f64::min(0.0, dx), f64::min(0.0, dy));
    let (right, bottom) = (f64::max(a.w, b.w + dx), f64::max(a.h, b.h + dy));
    (right - left, bottom - top, [Point { x: -left, y: -top }, Point { x: dx - left, y: dy - top }])
}

fn words(body: &mut String, changes: Option<&Listed>) {
    let Some(changes) = changes else { return };
    body.push_str("<ul class=\"words\">\n");
    for change in &changes.changes {
        let class = change.fate.word().split(' ').next().unwrap_or_default();
        for sentence in &change.phrases {
            let part = |phrase: &Phrase| match phrase {
                Phrase::Words(words) => html::escaped(words),
                Phrase::Code(code) => format!("<code>{}</code>", html::escaped(code)),
            };
            let sentence: String = sentence.iter().map(part).collect();
            let _ = writeln!(body, "<li class=\"{class}\">{sentence}</li>");
        }
    }
    body.push_str("</ul>\n");
}
