//! The versions side by side as a film strip, and a page to step through them.

use bathygram_outputs::html;
use std::fmt::Write;

const STYLE: &str = include_str!("page.css");
const SCRIPT: &str = include_str!("page.js");

/// A frame's picture is at most this large, and there are so many in a row; in px.
const WIDTH: f64 = 360.0;
const HEIGHT: f64 = 260.0;
const ROW: usize = 4;
/// Room around and between frames, and for the words below.
const GAP: f64 = 28.0;
const WORDS: f64 = 72.0;
/// Letters that have room in a line below a frame.
const LINE: usize = 52;
/// Only so many versions are drawn, the newest.
const MOST: usize = 24;

/// One version.
pub(super) struct Frame {
    pub(super) date: String,
    pub(super) author: String,
    pub(super) subject: String,
    pub(super) summary: String,
    pub(super) says: Vec<String>,
    /// `None` if the picture was not there.
    pub(super) svg: Option<String>,
}

/// The strip: the oldest first, in rows.
pub(super) fn picture(frames: &[Frame]) -> String {
    let frames = &frames[frames.len().saturating_sub(MOST)..];
    let columns = frames.len().clamp(1, ROW);
    let rows = frames.len().div_ceil(columns);
    let (w, h) = (columns as f64 * (WIDTH + GAP) + GAP, rows as f64 * (HEIGHT + WORDS + GAP) + GAP);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {w} {h}\" width=\"{w}\" height=\"{h}\" role=\"img\" \
         aria-label=\"{} versions\" font-family=\"'Fira Sans', sans-serif\" text-rendering=\"geometricPrecision\">\n\
         <rect width=\"{w}\" height=\"{h}\" fill=\"#fcfdfe\"/>\n",
        frames.len()
    );
    // All at one scale, from one corner: what stays does not move.
    let sizes: Vec<(f64, f64)> = frames.iter().filter_map(|f| size(f.svg.as_ref()?)).collect();
    let widest = sizes.iter().fold((1.0, 1.0), |(w, h), s| (f64::max(w, s.0), f64::max(h, s.1)));
    let scale = f64::min((WIDTH - 16.0) / widest.0, (HEIGHT - 16.0) / widest.1);
    let (left, top) = ((WIDTH - widest.0 * scale) / 2.0, (HEIGHT - widest.1 * scale) / 2.0);
    for (i, frame) in frames.iter().enumerate() {
        let x = GAP + (i % columns) as f64 * (WIDTH + GAP);
        let y = GAP + (i / columns) as f64 * (HEIGHT + WORDS + GAP);
        let _ = writeln!(
            out,
            "<rect x=\"{x}\" y=\"{y}\" width=\"{WIDTH}\" height=\"{HEIGHT}\" rx=\"6\" fill=\"#ffffff\" stroke=\"#7fa3b8\"/>"
        );
        if let Some((svg, (pw, ph))) = frame.svg.as_ref().and_then(|svg| Some((svg, size(svg)?))) {
            let (px, py) = (x + left, y + top);
            let (pw, ph) = (pw * scale, ph * scale);
            let _ = writeln!(
                out,
                "<image x=\"{px}\" y=\"{py}\" width=\"{pw}\" height=\"{ph}\" preserveAspectRatio=\"xMidYMid meet\" href=\"{}\"/>",
                html::data_uri(svg)
            );
        }
        let lines = [
            (format!("{}  {}", frame.date, frame.author), 13, "600", "#17293a"),
            (frame.subject.clone(), 12, "400", "#3d566b"),
            (frame.summary.replace('`', ""), 12, "400", "#17293a"),
        ];
        for (n, (text, size, weight, colour)) in lines.iter().enumerate() {
            let ty = y + HEIGHT + 20.0 + 19.0 * n as f64;
            let _ = writeln!(
                out,
                "<text x=\"{x}\" y=\"{ty}\" font-size=\"{size}\" font-weight=\"{weight}\" fill=\"{colour}\">{}</text>",
                html::escaped(&cut(text))
            );
        }
    }
    out.push_str("</svg>\n");
    out
}

/// The size of a drawing, in px.
fn size(svg: &str) -> Option<(f64, f64)> {
    let number = |name: &str| {
        let tag = &svg[..svg.find('>')?];
        tag.split(&format!(" {name}=\"")).nth(1)?.split('"').next()?.parse().ok()
    };
    Some((number("width")?, number("height")?))
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
        let image = frame.svg.as_ref().map_or("<p>The picture is not there.</p>".to_owned(), |svg| {
            html::image(svg, &format!("version {} of {}", i + 1, frames.len()))
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
