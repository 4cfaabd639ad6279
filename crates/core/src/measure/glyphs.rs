//! Texts as glyphs of the shipped faces. For outputs that have no fonts of their own.

use super::face::Face;
use super::font_face::{FontFace, Glyph, Metrics, Underline};
use super::fonts::Fonts;
use super::writing::Writing;
use crate::geom::Path;

impl Fonts {
    /// The glyphs of a text in one face, from left to right, kerned; and how far they move the pen, in em.
    pub fn glyphs(&self, text: &str, face: Face) -> (Vec<Glyph>, f64) {
        self.face(face).map(|opened| opened.glyphs(text, Writing::LeftToRight)).unwrap_or_default()
    }

    /// The outline of a glyph, in em from its origin; `None` for spaces.
    pub fn outline(&self, face: Face, glyph: u16) -> Option<Path> {
        self.face(face)?.outline(glyph)
    }

    /// How a face is underlined.
    pub fn underline(&self, face: Face) -> Underline {
        self.face(face).map_or(Underline::USUAL, FontFace::underline)
    }

    /// How far a glyph moves the pen when it stands alone, in em.
    pub fn advance(&self, face: Face, glyph: u16) -> f64 {
        self.face(face).map_or(0.0, |opened| opened.advance(glyph))
    }

    /// What a font descriptor says of a face.
    pub fn metrics(&self, face: Face) -> Metrics {
        self.face(face).map(FontFace::metrics).unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::{Cmd, Point};

    #[test]
    fn glyphs_stand_where_letters_are_measured() {
        let fonts = Fonts::new();
        for text in ["Tide AV", "Grüße, Κύμα", "a"] {
            let (glyphs, advance) = fonts.glyphs(text, Face::Regular);
            assert!((advance - fonts.width(text, Face::Regular, 1.0)).abs() < 1e-9, "{text}");
            assert!(glyphs.iter().all(|g| g.id != 0 && text.is_char_boundary(g.byte)), "{text}");
        }
        assert_eq!(fonts.glyphs("潮", Face::Regular).0[0].id, 0);
        let outline = fonts.glyphs("o", Face::Bold).0[0].id;
        let outline = fonts.outline(Face::Bold, outline).expect("a letter has an outline");
        let inside = |p: &Point| (-0.1..1.0).contains(&p.x) && (-1.0..0.3).contains(&p.y);
        assert!(
            outline.0.iter().all(|c| matches!(c, Cmd::Close)
                || matches!(c, Cmd::Move(p) | Cmd::Line(p) | Cmd::Curve(_, _, p) if inside(p)))
        );
        assert_eq!(fonts.outline(Face::Regular, fonts.glyphs(" ", Face::Regular).0[0].id), None);
        let line = fonts.underline(Face::Regular);
        assert!(line.below > 0.0 && line.width > 0.0);
    }
}
