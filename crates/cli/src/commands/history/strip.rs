//! The versions side by side as a film strip, and a page to step through them.

use bathygram_core::geom::{Path, Rect, Size};
use bathygram_core::measure::{Face, Script, TextSpan, Writing};
use bathygram_core::scene::{Drawing, Item, Places, Scene, Stroke, Text, TextAnchor};
use bathygram_core::theme::{Ground, Paint};
use bathygram_outputs::html;
use std::fmt::Write;

const STYLE: &str = include_str!("page.css");
const SCRIPT: &str = include_str!("page.js");

/// A frame's picture is at most this large, and there are this many in a row; in px.
const WIDTH: f64 = 360.0;
const HEIGHT: f64 = 260.0;
const ROW: usize = 4;
/// Room around and between frames, and for the words below.
const GAP: f64 = 28.0;
const WORDS: f64 = 72.0;
/// Letters that have room in a line below a frame.
// At 13 px a letter of the sans is 7 px wide in the mean.
const LINE: usize = 52;
/// At most this many versions are drawn, the newest.
// More do not fit on a page, and every one costs a layout.
const MOST: usize = 24;

/// One version.
pub(super) struct Frame {
    pub(super) date: String,
    pub(super) author: String,
    pub(super) subject: String,
    pub(super) summary: String,
    pub(super) says: Vec<String>,
    /// `None` if the picture was not there.
    pub(super) shown: Option<Shown>,
}

/// A drawing, and the same as SVG text.
pub(super) struct Shown {
    pub(super) drawing: Drawing,
    pub(super) svg: String,
}

/// The strip: the oldest first, in rows. The drawings themselves stand in it, all at one scale and from one corner: what stays
/// does not move.
pub(super) fn picture(frames: &[Frame]) -> Drawing {
    let frames = &frames[frames.len().saturating_sub(MOST)..];
    let columns = frames.len().clamp(1, ROW);
    let rows = frames.len().div_ceil(columns);
    let (w, h) = (columns as f64 * (WIDTH + GAP) + GAP, rows as f64 * (HEIGHT + WORDS + GAP) + GAP);
    let sizes = frames.iter().filter_map(|f| Some(f.shown.as_ref()?.drawing.scene.size));
    let widest = sizes.fold(Size::new(1.0, 1.0), |all, s| Size::new(all.w.max(s.w), all.h.max(s.h)));
    let scale = f64::min((WIDTH - 16.0) / widest.w, (HEIGHT - 16.0) / widest.h);
    let (left, top) = ((WIDTH - widest.w * scale) / 2.0, (HEIGHT - widest.h * scale) / 2.0);
    let mut items = Vec::new();
    for (i, frame) in frames.iter().enumerate() {
        let x = GAP + (i % columns) as f64 * (WIDTH + GAP);
        let y = GAP + (i / columns) as f64 * (HEIGHT + WORDS + GAP);
        let (path, stroke) =
            (Path::rounded(Rect::new(x, y, WIDTH, HEIGHT), 6.0), Some(Stroke::solid(Paint::Frame, 1.0)));
        items.push(Item::Path { path, fill: Some(Paint::PICTURE), stroke, role: None });
        if let Some(shown) = &frame.shown {
            let inner = shown.drawing.scene.items.iter().cloned();
            items.extend(inner.map(|item| item.placed(scale, x + left, y + top)));
        }
        let lines = [
            (format!("{}  {}", frame.date, frame.author), 13.0, Face::Bold, Paint::INK),
            (frame.subject.clone(), 12.0, Face::Regular, Paint::Quiet),
            (frame.summary.replace('`', ""), 12.0, Face::Regular, Paint::INK),
        ];
        for (n, (text, size, face, fill)) in lines.into_iter().enumerate() {
            let spans = vec![TextSpan { text: cut(&text), face, script: Script::Base }];
            let y = y + HEIGHT + 20.0 + 19.0 * n as f64;
            let (anchor, writing) = (TextAnchor::Start, Writing::of(&text));
            items.push(Item::Text(Text { x, y, anchor, spans, size, fill, underline: false, writing }));
        }
    }
    let title = format!("{} versions", frames.len());
    let desc = frames.iter().map(|f| format!("{} {}: {}", f.date, f.author, f.summary)).collect::<Vec<_>>().join("; ");
    let scene = Scene { size: Size::new(w, h), title, desc, ground: Ground::Paper, items };
    Drawing { scene, places: Places::default(), report: None, unmet: Vec::new() }
}

/// As much of a text as has room in a line.
fn cut(text: &str) -> String {
    if text.chars().count() <= LINE {
        return text.to_owned();
    }
    let kept: String = text.chars().take(LINE - 1).collect();
    format!("{}…", kept.trim_end())
}

/// The page: one version at a time, with buttons and arrow keys.
pub(super) fn page(file: &str, frames: &[Frame]) -> String {
    let title = format!("History of {file}");
    let mut body = format!(
        "<h1>{}</h1>\n<nav><button id=\"back\">older</button> <input id=\"step\" type=\"range\" min=\"1\" max=\"{}\" \
         value=\"{}\" aria-label=\"Version\"> <button id=\"on\">newer</button></nav>\n",
        html::escaped(&title),
        frames.len(),
        frames.len()
    );
    for (i, frame) in frames.iter().enumerate() {
        let says: String = frame.says.iter().map(|s| format!("<li>{}</li>\n", html::with_code(s))).collect();
        let image = frame.shown.as_ref().map_or("<p>The picture is not there.</p>".to_owned(), |shown| {
            html::image(&shown.svg, &format!("version {} of {}", i + 1, frames.len()))
        });
        let _ = writeln!(
            body,
            "<section class=\"version\"><h2>{} of {}: {}, {}</h2>\n<p>{}</p>\n<ul>\n{says}</ul>\n{image}</section>",
            i + 1,
            frames.len(),
            html::escaped(&frame.date),
            html::escaped(&frame.author),
            html::escaped(&frame.subject)
        );
    }
    html::page(&title, STYLE, &body, SCRIPT)
}
