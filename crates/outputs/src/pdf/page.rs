//! What is painted on the pages.

use super::fonts::Used;
use super::spare::UsedSpare;
use super::{Frame, deflated};
use crate::letters::{Font, Letters, Placed, Run};
use crate::paint::Surface;
use crate::pixels::{Pixels, unpack};
use bathygram_core::geom::{Cmd, Path, Rect};
use bathygram_core::scene::{Scene, Stroke};
use bathygram_core::theme::{Colour, Ground, Palette, Theme};
use pdf_writer::types::{LineCapStyle, LineJoinStyle};
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Ref, Str};

/// Pages in the making, one after the other.
pub(super) struct Page<'a> {
    content: Content,
    /// The letters that they use.
    pub(super) used: Used,
    /// Those of other fonts than the shipped ones.
    pub(super) spare: UsedSpare,
    /// The images that they show.
    pub(super) images: Vec<Pixels>,
    theme: &'a Theme,
    palette: Palette<'a>,
    letters: Letters<'a>,
}

impl<'a> Page<'a> {
    /// No page yet.
    pub(super) fn new(theme: &'a Theme, letters: Letters<'a>) -> Self {
        let palette = Palette::new(theme, Ground::Paper);
        let (used, spare) = (Used::default(), UsedSpare::default());
        Self { content: Content::new(), used, spare, images: Vec::new(), theme, palette, letters }
    }

    /// Begins a page, which shows nothing but its ground.
    pub(super) fn begin(&mut self, scene: &Scene, frame: &Frame) {
        self.palette = Palette::new(self.theme, scene.ground);
        self.content = Content::new();
        self.content.begin_marked_content_with_properties(Name(b"Figure")).properties().identify(0);
        let [r, g, b] = rgb(self.palette.colour(scene.ground.into()));
        self.content.set_fill_rgb(r, g, b).rect(0.0, 0.0, frame.width as f32, frame.height as f32).fill_nonzero();
        // px from the left upper corner, as in the drawing.
        let (scale, left, upper) = (frame.scale as f32, frame.left as f32, (frame.height - frame.top) as f32);
        self.content.transform([scale, 0.0, 0.0, -scale, left, upper]);
        self.content.set_line_cap(LineCapStyle::RoundCap).set_line_join(LineJoinStyle::RoundJoin);
    }

    /// Ends it: what is painted on it.
    pub(super) fn end(&mut self) -> Vec<u8> {
        self.content.end_marked_content();
        std::mem::replace(&mut self.content, Content::new()).finish().into_vec()
    }

    /// Letters of a font that does not ship with the program, each in its place.
    fn spare_letters(&mut self, run: &Run<'_>, number: usize) {
        for (i, glyph) in run.glyphs.iter().enumerate() {
            let (name, code) = self.spare.take(run, i, number);
            self.content.begin_text().set_font(Name(name.as_bytes()), run.size as f32);
            let (x, y) = (run.x + glyph.at.x * run.size, run.y + glyph.at.y * run.size);
            self.content.set_text_matrix([1.0, 0.0, 0.0, -1.0, rounded(x), rounded(y)]);
            self.content.show(Str(&[code])).end_text();
        }
    }

    fn path(&mut self, path: &Path) {
        for cmd in &path.0 {
            match cmd {
                Cmd::Move(p) => self.content.move_to(rounded(p.x), rounded(p.y)),
                Cmd::Line(p) => self.content.line_to(rounded(p.x), rounded(p.y)),
                Cmd::Curve(a, b, p) => {
                    let [ax, ay, bx, by, x, y] = [a.x, a.y, b.x, b.y, p.x, p.y].map(rounded);
                    self.content.cubic_to(ax, ay, bx, by, x, y)
                }
                Cmd::Close => self.content.close_path(),
            };
        }
    }
}

impl<'a> Surface<'a> for Page<'a> {
    fn studio(&self) -> (Palette<'a>, Letters<'a>) {
        (self.palette, self.letters)
    }

    fn fill(&mut self, path: &Path, colour: Colour) {
        if path.0.is_empty() {
            return;
        }
        let [r, g, b] = rgb(colour);
        self.content.set_fill_rgb(r, g, b);
        self.path(path);
        self.content.fill_nonzero();
    }

    fn stroke(&mut self, path: &Path, stroke: &Stroke, colour: Colour) {
        if path.0.is_empty() {
            return;
        }
        let [r, g, b] = rgb(colour);
        self.content.set_stroke_rgb(r, g, b).set_line_width(stroke.width as f32);
        self.content.set_dash_pattern(stroke.dash.lengths().iter().copied(), 0.0);
        self.path(path);
        self.content.stroke();
    }

    fn letters(&mut self, text: &Placed<'_>, colour: Colour) {
        let [r, g, b] = rgb(colour);
        for run in text.runs.iter().filter(|run| !run.glyphs.is_empty()) {
            self.content.set_fill_rgb(r, g, b);
            let face = match run.font {
                Font::Shipped(face) => face,
                Font::Spare(number) => {
                    self.spare_letters(run, number);
                    continue;
                }
            };
            let name = self.used.take(run, face);
            self.content.begin_text().set_font(Name(name.as_bytes()), run.size as f32);
            // Letters stand upright on a page whose y runs down.
            self.content.set_text_matrix([1.0, 0.0, 0.0, -1.0, rounded(run.x), rounded(run.y)]);
            let mut shown = self.content.show_positioned();
            let mut items = shown.items();
            let mut pen = 0.0;
            for glyph in &run.glyphs {
                // Kerning, in thousandths of an em to the left.
                let off = ((pen - glyph.at.x) * 1000.0).round();
                if off != 0.0 {
                    items.adjust(off as f32);
                    pen = glyph.at.x;
                }
                items.show(Str(&glyph.id.to_be_bytes()));
                pen += self.letters.fonts.advance(face, glyph.id);
            }
            items.finish();
            shown.finish();
            self.content.end_text();
        }
    }

    fn image(&mut self, place: Rect, png: &[u8]) {
        let Some(pixels) = unpack(png) else { return };
        let name = format!("I{}", self.images.len());
        self.images.push(pixels);
        let [x, bottom, w, h] = [place.x, place.bottom(), place.w, place.h].map(rounded);
        self.content.save_state().transform([w, 0.0, 0.0, -h, x, bottom]);
        self.content.x_object(Name(name.as_bytes())).restore_state();
    }
}

/// Two decimals, as in SVG.
fn rounded(value: f64) -> f32 {
    ((value * 100.0).round() / 100.0) as f32
}

fn rgb(colour: Colour) -> [f32; 3] {
    [colour.r, colour.g, colour.b].map(|v| f32::from(v) / 255.0)
}

/// Writes an image, with its opacity as a mask.
pub(super) fn write_image(pdf: &mut Pdf, pixels: &Pixels, id: Ref, mask: Ref) {
    let (width, height) = (pixels.width as i32, pixels.height as i32);
    let colours: Vec<u8> = pixels.bytes.chunks_exact(4).flat_map(|p| [p[0], p[1], p[2]]).collect();
    let opacity: Vec<u8> = pixels.bytes.chunks_exact(4).map(|p| p[3]).collect();
    let packed = deflated(&colours);
    let mut image = pdf.image_xobject(id, &packed);
    image.filter(Filter::FlateDecode);
    image.width(width).height(height).bits_per_component(8).s_mask(mask);
    image.color_space().device_rgb();
    image.finish();
    let packed = deflated(&opacity);
    let mut image = pdf.image_xobject(mask, &packed);
    image.filter(Filter::FlateDecode);
    image.width(width).height(height).bits_per_component(8);
    image.color_space().device_gray();
}
