//! What outputs that have no fonts of their own ask of a shipped face.

use super::face::Face;
use super::font_face::{FontFace, Metrics, Underline};
use super::fonts::Fonts;

impl Fonts {
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
    use super::super::writing::Writing;
    use super::*;
    use crate::geom::{Cmd, Point};

    #[test]
    fn glyphs_stand_where_letters_are_measured() {
        let fonts = Fonts::new();
        let opened = |face| fonts.face(face).expect("a face");
        for text in ["Tide AV", "Grüße, Κύμα", "a"] {
            let (glyphs, advance) = opened(Face::Regular).glyphs(text, Writing::LeftToRight);
            assert!((advance - fonts.width(text, Face::Regular, 1.0)).abs() < 1e-9, "{text}");
            assert!(glyphs.iter().all(|g| g.id != 0 && text.is_char_boundary(g.byte)), "{text}");
        }
        assert_eq!(opened(Face::Regular).glyphs("潮", Writing::LeftToRight).0[0].id, 0);
        let outline = opened(Face::Bold).glyphs("o", Writing::LeftToRight).0[0].id;
        let outline = opened(Face::Bold).outline(outline).expect("a letter has an outline");
        let inside = |p: &Point| (-0.1..1.0).contains(&p.x) && (-1.0..0.3).contains(&p.y);
        assert!(
            outline.0.iter().all(|c| matches!(c, Cmd::Close)
                || matches!(c, Cmd::Move(p) | Cmd::Line(p) | Cmd::Curve(_, _, p) if inside(p)))
        );
        assert_eq!(
            opened(Face::Regular).outline(opened(Face::Regular).glyphs(" ", Writing::LeftToRight).0[0].id),
            None
        );
        let line = fonts.underline(Face::Regular);
        assert!(line.below > 0.0 && line.width > 0.0);
    }
}
