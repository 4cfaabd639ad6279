//! The texts of a drawing as glyphs in their places: in the order in which they are seen (Unicode Standard Annex 9), each
//! letter from a font that has it.

use bathygram_core::geom::Path;
use bathygram_core::measure::{Face, FontFace, Fonts, Glyph, Opened, Script, Writing, starts};
use bathygram_core::scene::Text;
use std::ops::Range;
use unicode_bidi::{BidiInfo, Level};
use unicode_segmentation::UnicodeSegmentation;

/// Where glyphs come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum Font {
    /// A face that ships with the program.
    Shipped(Face),
    /// Another one, by its number.
    Spare(usize),
}

/// The fonts of a drawing.
#[derive(Clone, Copy)]
pub(crate) struct Letters<'a> {
    pub(crate) fonts: &'a Fonts,
    pub(crate) spare: &'a Opened<'a>,
}

impl<'a> Letters<'a> {
    pub(crate) fn face(self, font: Font) -> Option<&'a FontFace<'a>> {
        match font {
            Font::Shipped(face) => self.fonts.face(face),
            Font::Spare(number) => self.spare.face(number),
        }
    }

    pub(crate) fn outline(self, font: Font, glyph: u16) -> Option<Path> {
        self.face(font)?.outline(glyph)
    }

    /// The font for letters that belong together; where none has them, the shipped one draws its box.
    fn font(self, cluster: &str, face: Face) -> Font {
        if let Some(face) = self.fonts.shipped(cluster, face) {
            return Font::Shipped(face);
        }
        self.spare.find(cluster, face.is_bold()).map_or(Font::Shipped(face), Font::Spare)
    }
}

/// Letters of one font and one size.
pub(crate) struct Run<'t> {
    pub(crate) text: &'t str,
    pub(crate) font: Font,
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
pub(crate) fn place<'t>(text: &'t Text, letters: Letters<'_>) -> Placed<'t> {
    let mut runs = Vec::with_capacity(text.spans.len());
    let mut width = 0.0;
    let pieces = pieces(text, letters);
    // Bounds stand above each other where every span is one piece from left to right.
    let is_plain = pieces.len() == text.spans.len() && text.writing == Writing::LeftToRight;
    let has_scripts = text.spans.iter().any(|span| span.script != Script::Base);
    let starts = if is_plain && has_scripts { starts(&text.spans, letters.fonts, text.size).0 } else { Vec::new() };
    for piece in pieces {
        let span = &text.spans[piece.span];
        let shown = &span.text[piece.range];
        let (glyphs, advance) = letters.face(piece.font).map(|f| f.glyphs(shown, piece.writing)).unwrap_or_default();
        let size = text.size * span.script.scale();
        let y = text.y + span.script.drop() * text.size;
        let begin = starts.get(piece.span).copied().unwrap_or(width);
        runs.push(Run { text: shown, font: piece.font, size, x: begin, y, glyphs });
        width = f64::max(width, begin + advance * size);
    }
    let left = text.left(width);
    runs.iter_mut().for_each(|run| run.x += left);
    let face = text.spans.iter().find(|s| s.script == Script::Base).map_or(Face::Regular, |s| s.face);
    let underline = text.underline.then(|| {
        let line = letters.fonts.underline(face);
        let y = text.y + line.below * text.size;
        Stroke { left, right: left + width, y, width: line.width * text.size }
    });
    Placed { runs, underline }
}

/// Letters that are shaped at once.
struct Piece {
    /// The span that they stand in, and where.
    span: usize,
    range: Range<usize>,
    font: Font,
    writing: Writing,
}

/// A text in pieces, in the order in which they are seen.
fn pieces(text: &Text, letters: Letters<'_>) -> Vec<Piece> {
    let is_simple = text.spans.iter().all(|span| span.text.is_ascii());
    if is_simple {
        let whole = text.spans.iter().enumerate().map(|(i, span)| Piece {
            span: i,
            range: 0..span.text.len(),
            font: Font::Shipped(span.face),
            writing: Writing::LeftToRight,
        });
        return whole.collect();
    }
    // Logical order: letters of one span and one font.
    let line: String = text.spans.iter().map(|span| span.text.as_str()).collect();
    let mut logical: Vec<(usize, Range<usize>, Font)> = Vec::new();
    let mut begin = 0;
    for (i, span) in text.spans.iter().enumerate() {
        for (at, cluster) in span.text.grapheme_indices(true) {
            let range = begin + at..begin + at + cluster.len();
            let font = letters.font(cluster, span.face);
            match logical.last_mut() {
                Some((last, open, own)) if *last == i && *own == font => open.end = range.end,
                _ => logical.push((i, range, font)),
            }
        }
        begin += span.text.len();
    }
    // Visual order.
    let level = if text.writing == Writing::RightToLeft { Level::rtl() } else { Level::ltr() };
    let bidi = BidiInfo::new(&line, Some(level));
    let starts: Vec<usize> =
        text.spans.iter().scan(0, |at, span| Some(std::mem::replace(at, *at + span.text.len()))).collect();
    let mut seen = Vec::new();
    for paragraph in &bidi.paragraphs {
        let (levels, runs) = bidi.visual_runs(paragraph, paragraph.range.clone());
        for run in runs {
            let is_rtl = levels[run.start].is_rtl();
            let writing = if is_rtl { Writing::RightToLeft } else { Writing::LeftToRight };
            let inside = logical.iter().filter_map(|(span, range, font)| {
                let (from, to) = (range.start.max(run.start), range.end.min(run.end));
                (from < to).then(|| {
                    let range = from - starts[*span]..to - starts[*span];
                    Piece { span: *span, range, font: *font, writing }
                })
            });
            let before = seen.len();
            seen.extend(inside);
            if is_rtl {
                seen[before..].reverse();
            }
        }
    }
    seen
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::measure::{SpareFonts, TextSpan};
    use bathygram_core::scene::TextAnchor;
    use bathygram_core::theme::Paint;

    /// The pieces of a text from left to right.
    fn seen(spans: &[(&str, Face)], writing: Writing) -> Vec<String> {
        let spans =
            spans.iter().map(|(text, face)| TextSpan { text: (*text).to_owned(), face: *face, script: Script::Base });
        let (anchor, fill) = (TextAnchor::Start, Paint::INK);
        let text =
            Text { x: 10.0, y: 0.0, anchor, spans: spans.collect(), size: 10.0, fill, underline: false, writing };
        let (fonts, spare) = (Fonts::new(), SpareFonts::default());
        let spare = &spare.open();
        let placed = place(&text, Letters { fonts: &fonts, spare });
        let mut at = 10.0;
        for run in &placed.runs {
            assert!((run.x - at).abs() < 1e-9, "one piece begins where the one before it ends");
            at += run.glyphs.iter().map(|glyph| glyph.advance).sum::<f64>() * run.size;
        }
        placed.runs.iter().map(|run| run.text.to_owned()).collect()
    }

    #[test]
    fn pieces_stand_in_the_order_in_which_they_are_read() {
        let (plain, bold) = (Face::Regular, Face::Bold);
        assert_eq!(seen(&[("tide ", plain), ("4 m", bold)], Writing::LeftToRight), ["tide ", "4 m"]);
        assert_eq!(seen(&[("tide שלום 12", plain)], Writing::LeftToRight), ["tide ", "12", "שלום "]);
        assert_eq!(seen(&[("שלום tide", plain)], Writing::RightToLeft), ["tide", "שלום "]);
        assert_eq!(seen(&[("שלום ", plain), ("עולם", bold)], Writing::RightToLeft), ["עולם", "שלום "]);
    }

    #[test]
    fn what_a_face_lacks_comes_from_the_sans() {
        let fonts = Fonts::new();
        let spare = SpareFonts::default();
        let letters = Letters { fonts: &fonts, spare: &spare.open() };
        assert_eq!(letters.font("Ж", Face::Hand), Font::Shipped(Face::Regular));
        assert_eq!(letters.font("Ж", Face::HandBold), Font::Shipped(Face::Bold));
        assert_eq!(letters.font("潮", Face::Mono), Font::Shipped(Face::Mono), "its box");
    }
}
