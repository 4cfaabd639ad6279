//! Texts as glyphs: which glyph stands where, and its outline. For outputs that have no fonts of their own.

use super::face::Face;
use super::fonts::Fonts;
use crate::geom::{Cmd, Path, Point, pt};
use rustybuzz::ttf_parser::{GlyphId, OutlineBuilder};

/// One glyph of a shaped text. Lengths are in em; y runs down, as in drawings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Glyph {
    /// Its number in the face; 0 is the box for letters that the face lacks.
    pub id: u16,
    /// The byte of the text that it stands for, or begins to.
    pub byte: usize,
    /// Where its origin is, from the beginning of the text.
    pub at: Point,
    /// How far it moves the pen.
    pub advance: f64,
}

/// Where a line under letters runs, in em: its middle below the base line, and its width.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Underline {
    /// How far its middle lies below the base line.
    pub below: f64,
    /// Its width.
    pub width: f64,
}

impl Fonts {
    /// The glyphs of a text in one face, in the order in which they are drawn, kerned; and how far they move the pen, in em.
    pub fn glyphs(&self, text: &str, face: Face) -> (Vec<Glyph>, f64) {
        let Some(opened) = self.face(face) else { return (Vec::new(), 0.0) };
        let mut buffer = rustybuzz::UnicodeBuffer::new();
        buffer.push_str(text);
        let shaped = rustybuzz::shape(opened, &[], buffer);
        let em = f64::from(opened.units_per_em());
        let mut pen = 0.0;
        let all = shaped.glyph_infos().iter().zip(shaped.glyph_positions());
        let glyphs = all.map(|(info, place)| {
            let [dx, dy, advance] = [place.x_offset, place.y_offset, place.x_advance].map(|v| f64::from(v) / em);
            let at = pt(pen + dx, -dy);
            pen += advance;
            Glyph { id: info.glyph_id as u16, byte: info.cluster as usize, at, advance }
        });
        let glyphs = glyphs.collect();
        (glyphs, pen)
    }

    /// The outline of a glyph, in em from its origin; `None` for spaces.
    pub fn outline(&self, face: Face, glyph: u16) -> Option<Path> {
        let opened = self.face(face)?;
        let mut outline = Outline { em: f64::from(opened.units_per_em()), path: Path::default(), last: pt(0.0, 0.0) };
        opened.outline_glyph(GlyphId(glyph), &mut outline)?;
        Some(outline.path)
    }

    /// How a face is underlined.
    pub fn underline(&self, face: Face) -> Underline {
        let metrics = self.face(face).and_then(|f| Some((f.underline_metrics()?, f64::from(f.units_per_em()))));
        metrics.map_or(Underline { below: 0.1, width: 0.05 }, |(m, em)| Underline {
            below: -f64::from(m.position) / em,
            width: f64::from(m.thickness) / em,
        })
    }
}

/// What a font descriptor says of a face; lengths in em, y up.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Metrics {
    /// The box around all glyphs: left, bottom, right, top.
    pub bounds: [f64; 4],
    /// How high letters reach.
    pub ascent: f64,
    /// How deep they reach; negative.
    pub descent: f64,
    /// How high capitals are.
    pub cap_height: f64,
    /// Degrees from the vertical, against the clock.
    pub italic_angle: f64,
}

impl Fonts {
    /// How far a glyph moves the pen when it stands alone, in em.
    pub fn advance(&self, face: Face, glyph: u16) -> f64 {
        let advance = self.face(face).and_then(|f| Some((f.glyph_hor_advance(GlyphId(glyph))?, f.units_per_em())));
        advance.map_or(0.0, |(advance, em)| f64::from(advance) / f64::from(em))
    }

    /// What a font descriptor says of a face.
    pub fn metrics(&self, face: Face) -> Metrics {
        let Some(opened) = self.face(face) else {
            return Metrics { bounds: [0.0; 4], ascent: 0.0, descent: 0.0, cap_height: 0.0, italic_angle: 0.0 };
        };
        let em = f64::from(opened.units_per_em());
        let b = opened.global_bounding_box();
        Metrics {
            bounds: [b.x_min, b.y_min, b.x_max, b.y_max].map(|v| f64::from(v) / em),
            ascent: f64::from(opened.ascender()) / em,
            descent: f64::from(opened.descender()) / em,
            cap_height: f64::from(opened.capital_height().unwrap_or(opened.ascender())) / em,
            italic_angle: f64::from(opened.italic_angle()),
        }
    }
}

/// Collects an outline.
struct Outline {
    em: f64,
    path: Path,
    last: Point,
}

impl Outline {
    fn point(&mut self, x: f32, y: f32) -> Point {
        self.last = self.em_point(x, y);
        self.last
    }

    fn em_point(&self, x: f32, y: f32) -> Point {
        pt(f64::from(x) / self.em, -f64::from(y) / self.em)
    }
}

impl OutlineBuilder for Outline {
    fn move_to(&mut self, x: f32, y: f32) {
        let to = self.point(x, y);
        self.path.0.push(Cmd::Move(to));
    }

    fn line_to(&mut self, x: f32, y: f32) {
        let to = self.point(x, y);
        self.path.0.push(Cmd::Line(to));
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        // A quadratic curve as a cubic one.
        let (from, control) = (self.last, self.em_point(x1, y1));
        let to = self.point(x, y);
        let towards = |q: Point| pt(q.x + (control.x - q.x) * 2.0 / 3.0, q.y + (control.y - q.y) * 2.0 / 3.0);
        self.path.0.push(Cmd::Curve(towards(from), towards(to), to));
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        let (a, b) = (self.em_point(x1, y1), self.em_point(x2, y2));
        let to = self.point(x, y);
        self.path.0.push(Cmd::Curve(a, b, to));
    }

    fn close(&mut self) {
        self.path.0.push(Cmd::Close);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

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
