//! An opened font file: which glyphs a text has, where they stand, and their outlines.

use super::writing::Writing;
use crate::geom::{Cmd, Path, Point, Rect, pt};
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

/// A glyph that is a picture of its own, such as a coloured one.
#[derive(Clone, Copy, Debug)]
pub struct GlyphImage<'a> {
    /// Where it is, in em from the glyph's origin; y runs down.
    pub place: Rect,
    /// A PNG.
    pub png: &'a [u8],
}

/// An opened font file: one that ships with the program, or any other of the same kinds (OpenType).
pub struct FontFace<'a>(rustybuzz::Face<'a>);

impl<'a> FontFace<'a> {
    /// Opens the face of a number in a file; `None` if it is no font.
    pub fn open(file: &'a [u8], number: u32) -> Option<Self> {
        rustybuzz::Face::from_slice(file, number).map(Self)
    }

    /// How many faces a file holds.
    pub fn count(file: &[u8]) -> u32 {
        rustybuzz::ttf_parser::fonts_in_collection(file).unwrap_or(1)
    }

    pub(super) fn shaper(&self) -> &rustybuzz::Face<'a> {
        &self.0
    }

    fn em(&self) -> f64 {
        f64::from(self.0.units_per_em())
    }

    /// Whether it has a letter.
    pub fn has(&self, letter: char) -> bool {
        self.0.glyph_index(letter).is_some()
    }

    /// Whether it can draw letters that belong together: joiners and selectors need no glyph, nor do controls.
    pub fn draws(&self, cluster: &str) -> bool {
        let is_unseen = |c: char| c.is_control() || matches!(c, '\u{200b}'..='\u{200f}' | '\u{fe00}'..='\u{fe0f}');
        cluster.chars().all(|c| is_unseen(c) || self.has(c))
    }

    /// Whether its letters are bold.
    pub fn is_bold(&self) -> bool {
        self.0.weight().to_number() >= 600
    }

    /// The glyphs of a text from left to right, kerned; and how far they move the pen, in em.
    pub fn glyphs(&self, text: &str, writing: Writing) -> (Vec<Glyph>, f64) {
        let mut buffer = rustybuzz::UnicodeBuffer::new();
        buffer.push_str(text);
        buffer.set_direction(match writing {
            Writing::LeftToRight => rustybuzz::Direction::LeftToRight,
            Writing::RightToLeft => rustybuzz::Direction::RightToLeft,
        });
        buffer.guess_segment_properties();
        let shaped = rustybuzz::shape(&self.0, &[], buffer);
        let em = self.em();
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
    pub fn outline(&self, glyph: u16) -> Option<Path> {
        let mut outline = Outline { em: self.em(), path: Path::default(), last: pt(0.0, 0.0) };
        self.0.outline_glyph(GlyphId(glyph), &mut outline)?;
        Some(outline.path)
    }

    /// The picture of a glyph that is one, the largest that there is.
    pub fn image(&self, glyph: u16) -> Option<GlyphImage<'_>> {
        let image = self.0.glyph_raster_image(GlyphId(glyph), u16::MAX)?;
        let [x, y, w, h] = [f64::from(image.x), f64::from(image.y), f64::from(image.width), f64::from(image.height)]
            .map(|v| v / f64::from(image.pixels_per_em.max(1)));
        let is_png = image.format == rustybuzz::ttf_parser::RasterImageFormat::PNG;
        is_png.then_some(GlyphImage { place: Rect::new(x, -y - h, w, h), png: image.data })
    }

    /// How it is underlined.
    pub fn underline(&self) -> Underline {
        let metrics = self.0.underline_metrics().map(|m| (f64::from(m.position), f64::from(m.thickness)));
        let em = self.em();
        metrics.map_or(Underline::USUAL, |(middle, width)| Underline { below: -middle / em, width: width / em })
    }

    /// How far a glyph moves the pen when it stands alone, in em.
    pub fn advance(&self, glyph: u16) -> f64 {
        self.0.glyph_hor_advance(GlyphId(glyph)).map_or(0.0, |advance| f64::from(advance) / self.em())
    }

    /// What a font descriptor says of it.
    pub fn metrics(&self) -> Metrics {
        let em = self.em();
        let b = self.0.global_bounding_box();
        Metrics {
            bounds: [b.x_min, b.y_min, b.x_max, b.y_max].map(|v| f64::from(v) / em),
            ascent: f64::from(self.0.ascender()) / em,
            descent: f64::from(self.0.descender()) / em,
            cap_height: f64::from(self.0.capital_height().unwrap_or(self.0.ascender())) / em,
            italic_angle: f64::from(self.0.italic_angle()),
        }
    }
}

impl Underline {
    /// Where no font says more.
    pub(super) const USUAL: Self = Self { below: 0.1, width: 0.05 };
}

/// What a font descriptor says of a face; lengths in em, y up.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
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
