//! Scene to SVG text, after the drawing contract (docs/drawing-contract.md). The one place that rounds numbers and escapes text.
//!
//! Guarantees: the same scene gives the same bytes; no script, no handler, no reference to outside but links to pictures in
//! the same folder; plain SVG 1.1 presentation attributes. The style sheet holds only the embedded fonts, and with two themes
//! the colours of dark pages; those of light ones are attributes.

mod fonts;
mod ink;

pub use fonts::FontCache;
use ink::Ink;

use crate::container::{self, Provenance};
use crate::geom::{Cmd, Path, Rect};
use crate::language::Language;
use crate::markup::{as_link, escape, shortened};
use crate::measure::{Face, Fonts, Script, TextSpan, Writing, line_width, starts};
use crate::pipeline::Studio;
use crate::scene::{Drawing, Holds, Inside, Item, Stroke, Tag, Text, TextAnchor};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::{self, Write};

/// What a part is called in a page has at most this many characters.
// It is read aloud when the part is chosen; the text itself stands in the picture.
const CALLED: usize = 500;

/// What an element with a reference says first.
const XLINK: &str = "xmlns:xlink=\"http://www.w3.org/1999/xlink\"";

/// Where a picture stands, and what it brings along.
#[derive(Clone, Copy)]
pub enum Place<'a> {
    /// In a file of its own, with its fonts.
    File(&'a Provenance<'a>),
    /// In a file of its own, in the fonts of whoever looks at it.
    Plain(&'a Provenance<'a>),
    /// In a page, which has the fonts and the style sheet, and where everything can be chosen. The first one of a page says
    /// where the page comes from.
    Page(Option<&'a Provenance<'a>>),
    /// As there, in a page beside other pages: the addresses that elements lead to, by their keys.
    Site(&'a BTreeMap<String, String>),
}

impl<'a> Place<'a> {
    fn provenance(self) -> Option<&'a Provenance<'a>> {
        match self {
            Place::File(provenance) | Place::Plain(provenance) => Some(provenance),
            Place::Page(provenance) => provenance,
            Place::Site(_) => None,
        }
    }

    fn is_page(self) -> bool {
        matches!(self, Place::Page(_) | Place::Site(_))
    }

    /// The address that an element leads to.
    fn address(self, tag: &Tag) -> Option<&'a str> {
        match (self, tag) {
            (Place::Site(addresses), Tag::Element { id, .. }) => addresses.get(id).map(String::as_str),
            _ => None,
        }
    }
}

/// Writes a drawing in the colours of a theme, or of two.
pub fn write(drawing: &Drawing, studio: &Studio, place: Place<'_>) -> String {
    let scene = &drawing.scene;
    let ink = &mut Ink::new(&studio.themes, scene.ground);
    let main = studio.themes.main.letters.main();
    // The fonts and the source, and about this much for each item.
    let mut out = String::with_capacity(64 * 1024 + 160 * scene.count());
    let (w, h) = (number(scene.size.w), number(scene.size.h));
    let _ = write!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {w} {h}\" width=\"{w}\" height=\"{h}\" font-family=\"{}\" \
         text-rendering=\"geometricPrecision\" xml:lang=\"{}\"",
        main.families(),
        escape(studio.language.tag())
    );
    let (title, desc) = (escape(&scene.title), escape(&scene.desc));
    // In a page, other pictures have the same names.
    let _ = match place.is_page() {
        true => writeln!(out, " role=\"group\" aria-label=\"{title}\">\n<desc>{desc}</desc>"),
        false => writeln!(
            out,
            " role=\"img\" aria-labelledby=\"title desc\">\n<title id=\"title\">{title}</title>\n<desc id=\"desc\">{desc}</desc>"
        ),
    };
    if let Place::File(_) = place {
        studio.subsets.style_sheet(&scene.letters(), &mut out);
    }
    let _ = write!(out, "<rect width=\"{w}\" height=\"{h}\"");
    ink.fill(&mut out, Some(scene.ground.into()));
    ink.end(&mut out);
    out.push_str("/>\n");
    // The open groups, by what is left to write of each, and how they end.
    let mut work: Vec<(std::slice::Iter<'_, Item>, &str)> = vec![(scene.items.iter(), "")];
    while let Some((items, end)) = work.last_mut() {
        match items.next() {
            // Only pages point at parts of an element.
            Some(Item::Group(Tag::Row { .. }, inner)) if !place.is_page() => work.push((inner.iter(), "")),
            Some(Item::Group(tag, inner)) => {
                let target = tag.opens().filter(|_| !place.is_page());
                target.iter().for_each(|name| _ = writeln!(out, "<a {XLINK} xlink:href=\"{}.svg\">", as_link(name)));
                group(&mut out, tag, inner, (place, &studio.language));
                let end = match (target, place.address(tag)) {
                    (Some(_), _) => "</g>\n</a>\n",
                    (None, Some(_)) => "</a>\n",
                    (None, None) => "</g>\n",
                };
                work.push((inner.iter(), end));
            }
            Some(Item::Path { path, fill, stroke, role }) => {
                let _ = write!(out, "<path");
                if let Some(role) = role {
                    let _ = write!(out, " data-role=\"{}\"", role.word());
                }
                out.push_str(" d=\"");
                data(&mut out, path);
                out.push('"');
                ink.fill(&mut out, *fill);
                if let Some(stroke) = stroke {
                    line(&mut out, stroke, ink);
                }
                ink.end(&mut out);
                out.push_str("/>\n");
            }
            Some(Item::Text(text)) => line_of_text(&mut out, text, ink, (&studio.fonts, main)),
            Some(Item::Image { place, png }) => image(&mut out, *place, png),
            None => {
                out.push_str(end);
                work.pop();
            }
        }
    }
    if !place.is_page() {
        ink.style_sheet(&mut out);
    }
    let places = drawing.places.to_text();
    let seal_at = place.provenance().map(|provenance| container::write_metadata(&mut out, provenance, &places));
    out.push_str("</svg>\n");
    match seal_at {
        Some(seal_at) => container::seal_svg(out, seal_at),
        None => out,
    }
}

/// The fonts of pages beside each other, whose drawings have these letters in all faces of the theme.
pub fn font_faces(letters: &BTreeSet<char>, studio: &Studio) -> String {
    let sans = [Face::Regular, Face::Bold, Face::Italic, Face::BoldItalic, Face::Mono];
    let faces: BTreeSet<Face> = sans.into_iter().chain(sans.map(|face| studio.fonts.cast(face))).collect();
    let letters = faces.into_iter().map(|face| (face, letters.clone())).collect();
    let mut out = String::new();
    studio.subsets.faces(&letters, &mut out);
    out
}

/// The colours that a drawing has on dark pages, as a style sheet; empty where there is one theme.
pub fn dark_colours(drawing: &Drawing, studio: &Studio) -> String {
    let classes = Ink::new(&studio.themes, drawing.scene.ground).classes_of(&drawing.scene);
    match classes.is_empty() {
        true => String::new(),
        false => format!("@media (prefers-color-scheme: dark){{{}}}", ink::rules(&classes)),
    }
}

/// The style sheet of a page that shows drawings: their fonts, and the colours of dark pages.
pub fn style_sheet(drawings: &[&Drawing], studio: &Studio) -> String {
    let mut letters: BTreeMap<Face, BTreeSet<char>> = BTreeMap::new();
    let mut classes = BTreeSet::new();
    for drawing in drawings {
        for (face, used) in drawing.scene.letters() {
            letters.entry(face).or_default().extend(used);
        }
        classes.extend(Ink::new(&studio.themes, drawing.scene.ground).classes_of(&drawing.scene));
    }
    let mut out = String::new();
    studio.subsets.faces(&letters, &mut out);
    if !classes.is_empty() {
        let _ = write!(out, "@media (prefers-color-scheme: dark){{{}}}", ink::rules(&classes));
    }
    out
}

/// What is written in a part, for those who cannot see it.
fn texts(items: &[Item]) -> String {
    let mut found = Vec::new();
    let mut work: Vec<&Item> = items.iter().rev().collect();
    while let Some(item) = work.pop() {
        match item {
            Item::Group(_, inner) => work.extend(inner.iter().rev()),
            Item::Text(text) => found.push(text.spans.iter().map(|span| span.text.as_str()).collect::<String>()),
            Item::Path { .. } | Item::Image { .. } => {}
        }
    }
    found.join(" ")
}

fn group(out: &mut String, tag: &Tag, inner: &[Item], (place, language): (Place<'_>, &Language)) {
    let address = place.address(tag);
    match address {
        Some(address) => _ = write!(out, "<a href=\"{}\"", escape(address)),
        None => out.push_str("<g"),
    }
    match tag {
        Tag::Plain => {}
        Tag::Label => out.push_str(" data-role=\"label\""),
        Tag::EndLabel => out.push_str(" data-role=\"end-label\""),
        Tag::Row { line } => _ = write!(out, " data-role=\"row\" data-line=\"{line}\""),
        Tag::Element { id, kind, says, inside, holds, line, file, opens } => {
            if place.is_page() && kind != "activation" {
                let shown = texts(inner);
                let called = if shown.is_empty() { says } else { &shown };
                let kind = language.say("kind", kind);
                if address.is_none() {
                    out.push_str(" role=\"button\" tabindex=\"-1\"");
                }
                let _ = write!(
                    out,
                    " aria-label=\"{}\" data-says=\"{}\"",
                    escape(&format!(
                        "{}{}{kind}",
                        shortened(called, CALLED),
                        if called.is_empty() { "" } else { ", " }
                    )),
                    escape(&shortened(if says.is_empty() { kind } else { says }, CALLED))
                );
                opens.iter().for_each(|name| _ = write!(out, " data-opens=\"{}\"", escape(name)));
            }
            let _ = write!(out, " data-element=\"{}\" data-kind=\"{kind}\" data-line=\"{line}\"", escape(id));
            if let Some(file) = file {
                let _ = write!(out, " data-file=\"{}\"", escape(file));
            }
            let _ = match inside {
                Inside::Nothing => Ok(()),
                Inside::Frame(parent) => write!(out, " data-parent=\"{}\"", escape(parent)),
                Inside::Lane(lane) => write!(out, " data-lane=\"{}\"", escape(lane)),
            };
            if *holds == Holds::Others {
                out.push_str(" data-container=\"true\"");
            }
        }
        Tag::Relation { id, from, to, says, steps, line, file, lines } => {
            if place.is_page() {
                let shown = texts(inner);
                let called = format!("{says}{}{shown}", if shown.is_empty() { "" } else { ": " });
                let _ = write!(
                    out,
                    " role=\"button\" tabindex=\"-1\" aria-label=\"{}\"",
                    escape(&shortened(&called, CALLED))
                );
                if !steps.is_empty() {
                    let steps: Vec<String> = steps.iter().map(u32::to_string).collect();
                    let _ = write!(out, " data-steps=\"{}\"", steps.join(" "));
                }
            }
            let _ = write!(
                out,
                " data-relation=\"{}\" data-from=\"{}\" data-to=\"{}\" data-line=\"{line}\"",
                escape(id),
                escape(from),
                escape(to)
            );
            if let Some(file) = file {
                let _ = write!(out, " data-file=\"{}\"", escape(file));
            }
            if lines.len() > 1 {
                let lines: Vec<String> = lines.iter().map(u32::to_string).collect();
                let _ = write!(out, " data-lines=\"{}\"", lines.join(" "));
            }
        }
    }
    out.push_str(">\n");
}

fn image(out: &mut String, place: Rect, png: &[u8]) {
    let [x, y, w, h] = [place.x, place.y, place.w, place.h].map(number);
    let data = STANDARD.encode(png);
    let _ = writeln!(
        out,
        "<image {XLINK} x=\"{x}\" y=\"{y}\" width=\"{w}\" height=\"{h}\" xlink:href=\"data:image/png;base64,{data}\"/>"
    );
}

fn line(out: &mut String, stroke: &Stroke, ink: &mut Ink<'_>) {
    ink.stroke(out, stroke.paint);
    let _ = write!(out, " stroke-width=\"{}\"", number(stroke.width));
    if let [stroke, gap] = stroke.dash.lengths() {
        let _ = write!(out, " stroke-dasharray=\"{stroke} {gap}\"");
    }
    out.push_str(" stroke-linecap=\"round\" stroke-linejoin=\"round\"");
}

fn line_of_text(out: &mut String, text: &Text, ink: &mut Ink<'_>, (fonts, main): (&Fonts, Face)) {
    let _ = write!(out, "<text x=\"{}\" y=\"{}\" font-size=\"{}\"", number(text.x), number(text.y), number(text.size));
    let is_rtl = text.writing == Writing::RightToLeft;
    if is_rtl {
        out.push_str(" direction=\"rtl\"");
    }
    // SVG counts from where a text begins.
    match (text.anchor, is_rtl) {
        (TextAnchor::Start, false) | (TextAnchor::End, true) => {}
        (TextAnchor::Middle, _) => out.push_str(" text-anchor=\"middle\""),
        (TextAnchor::End, false) | (TextAnchor::Start, true) => out.push_str(" text-anchor=\"end\""),
    }
    if text.underline {
        out.push_str(" text-decoration=\"underline\"");
    }
    // A viewer that ignores the embedded fonts still keeps the text inside its box.
    if let Some(width) = shipped_width(text, fonts) {
        let _ = write!(out, " textLength=\"{}\"", number(width));
    }
    ink.fill(out, Some(text.fill));
    ink.end(out);
    if let [only] = text.spans.as_slice()
        && only.script == Script::Base
    {
        face(out, only.face, main);
        let _ = writeln!(out, ">{}</text>", escape(&only.text));
        return;
    }
    out.push_str(" xml:space=\"preserve\">");
    let mut dropped = 0.0;
    let has_scripts = text.spans.iter().any(|span| span.script != Script::Base);
    let starts = if has_scripts { starts(&text.spans, fonts, text.size).0 } else { Vec::new() };
    let mut pen = 0.0;
    for (i, span) in text.spans.iter().enumerate() {
        out.push_str("<tspan");
        if let Some(start) = starts.get(i) {
            // Back to where the span below or above it begins, and on behind the longer one.
            if (start - pen).abs() > 0.005 {
                let _ = write!(out, " dx=\"{}\"", number(start - pen));
            }
            pen = start + fonts.width(&span.text, span.face, text.size * span.script.scale());
        }
        face(out, span.face, main);
        let drop = span.script.drop() * text.size;
        if drop != dropped {
            let _ = write!(out, " dy=\"{}\"", number(drop - dropped));
            dropped = drop;
        }
        if span.script != Script::Base {
            let _ = write!(out, " font-size=\"{}\"", number(text.size * span.script.scale()));
        }
        let _ = write!(out, ">{}</tspan>", escape(&span.text));
    }
    out.push_str("</text>\n");
}

/// How wide a text is, if the shipped fonts have all of its letters.
fn shipped_width(text: &Text, fonts: &Fonts) -> Option<f64> {
    let has_all = |span: &TextSpan| span.text.is_ascii() || span.text.chars().all(|c| fonts.has(c, span.face));
    // What stands above another text has a place of its own.
    let is_plain = text.spans.windows(2).all(|pair| pair.iter().any(|span| span.script == Script::Base));
    let is_shipped = !text.is_empty() && is_plain && text.spans.iter().all(has_all);
    is_shipped.then(|| line_width(&text.spans, fonts, text.size))
}

/// Writes what differs from the face of most texts.
fn face(out: &mut String, face: Face, main: Face) {
    if face.family() != main.family() {
        let _ = write!(out, " font-family=\"{}\"", face.families());
    }
    if face.weight() != 400 {
        let _ = write!(out, " font-weight=\"{}\"", face.weight());
    }
    if face.is_italic() {
        out.push_str(" font-style=\"italic\"");
    }
}

/// The commands of a path.
fn data(out: &mut String, path: &Path) {
    for command in &path.0 {
        let (letter, points) = match command {
            Cmd::Move(p) => ('M', [Some(p), None, None]),
            Cmd::Line(p) => ('L', [Some(p), None, None]),
            Cmd::Curve(a, b, p) => ('C', [Some(a), Some(b), Some(p)]),
            Cmd::Close => ('Z', [None; 3]),
        };
        out.push(letter);
        for (i, p) in points.into_iter().flatten().enumerate() {
            if i > 0 {
                out.push(' ');
            }
            out.push_str(number(p.x).text());
            out.push(' ');
            out.push_str(number(p.y).text());
        }
    }
}

/// A number with at most two decimals, none that are zero at the end, and no minus zero.
fn number(value: f64) -> Number {
    let hundredths = libm::round(value * 100.0) as i64;
    let (mut rest, mut number) = (hundredths.unsigned_abs(), Number { letters: [0; 24], from: 24 });
    let decimals = if rest % 100 == 0 { 0 } else { 2 - usize::from(rest % 10 == 0) };
    rest /= [100, 10, 1][decimals];
    let mut written = 0;
    while rest > 0 || written <= decimals {
        if written == decimals && decimals > 0 {
            number.put(b'.');
        }
        number.put(b'0' + (rest % 10) as u8);
        rest /= 10;
        written += 1;
    }
    if hundredths < 0 {
        number.put(b'-');
    }
    number
}

/// The letters of a number, from the back.
struct Number {
    letters: [u8; 24],
    from: usize,
}

impl Number {
    fn put(&mut self, letter: u8) {
        self.from -= 1;
        self.letters[self.from] = letter;
    }

    fn text(&self) -> &str {
        std::str::from_utf8(&self.letters[self.from..]).unwrap_or_default()
    }
}

impl fmt::Display for Number {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.text())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_short_and_stable() {
        for (value, written) in [
            (1.0, "1"),
            (-0.001, "0"),
            (2.345_678, "2.35"),
            (-0.25, "-0.25"),
            (0.05, "0.05"),
            (-12.301, "-12.3"),
            (1_234_567.0, "1234567"),
            (f64::NAN, "0"),
        ] {
            assert_eq!(number(value).to_string(), written);
        }
    }
}
