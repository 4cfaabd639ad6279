//! The texts of a drawing as glyphs in their places.

use bathygram_core::measure::{Face, Fonts, Glyph, Script};
use bathygram_core::scene::{Text, TextAnchor};

/// Letters of one face and one size.
pub(crate) struct Run<'t> {
    pub(crate) text: &'t str,
    pub(crate) face: Face,
    /// Their size in px.
    pub(crate) size: f64,
    /// Where they begin on their base line, in px.
    pub(crate) x: f64,
    pub(crate) y: f64,
    /// Their glyphs, in em from there.
    pub(crate) glyphs: Vec<Glyph>,
}

/// A line under letters, from left to right.
pub(crate) struct Stroke {
    pub(crate) left: f64,
    pub(crate) right: f64,
    /// Its middle.
    pub(crate) y: f64,
    pub(crate) width: f64,
}

/// A text, placed.
pub(crate) struct Placed<'t> {
    pub(crate) runs: Vec<Run<'t>>,
    pub(crate) underline: Option<Stroke>,
}

/// Places the letters of a text.
pub(crate) fn place<'t>(text: &'t Text, fonts: &Fonts) -> Placed<'t> {
    let mut runs = Vec::with_capacity(text.spans.len());
    let mut width = 0.0;
    for span in &text.spans {
        let (glyphs, advance) = fonts.glyphs(&span.text, span.face);
        let size = text.size * span.script.scale();
        let y = text.y + span.script.drop() * text.size;
        runs.push(Run { text: &span.text, face: span.face, size, x: width, y, glyphs });
        width += advance * size;
    }
    let left = match text.anchor {
        TextAnchor::Start => text.x,
        TextAnchor::Middle => text.x - width / 2.0,
        TextAnchor::End => text.x - width,
    };
    runs.iter_mut().for_each(|run| run.x += left);
    let face = text.spans.iter().find(|s| s.script == Script::Base).map_or(Face::Regular, |s| s.face);
    let underline = text.underline.then(|| {
        let line = fonts.underline(face);
        let y = text.y + line.below * text.size;
        Stroke { left, right: left + width, y, width: line.width * text.size }
    });
    Placed { runs, underline }
}
