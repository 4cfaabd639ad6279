//! What is painted on the page.

use super::fonts::Used;
use super::{POINTS, deflated};
use crate::letters::Placed;
use crate::paint::Surface;
use crate::pixels::{Pixels, unpack};
use bathygram_core::geom::{Cmd, Path, Rect};
use bathygram_core::measure::Fonts;
use bathygram_core::scene::{Drawing, Stroke};
use bathygram_core::theme::{Colour, Palette, Theme};
use pdf_writer::types::{LineCapStyle, LineJoinStyle};
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Ref, Str};

/// A page in the making.
pub(super) struct Page<'a> {
    pub(super) content: Content,
    /// The letters that it uses.
    pub(super) used: Used,
    /// The images that it shows.
    pub(super) images: Vec<Pixels>,
    palette: Palette<'a>,
    fonts: &'a Fonts,
}

impl<'a> Page<'a> {
    /// A page that shows nothing but its ground; its height is in points.
    pub(super) fn new(drawing: &Drawing, theme: &'a Theme, fonts: &'a Fonts, height: f64) -> Self {
        let palette = Palette::new(theme, drawing.scene.ground);
        let mut content = Content::new();
        // px from the left upper corner, as in the drawing.
        content.transform([POINTS as f32, 0.0, 0.0, -POINTS as f32, 0.0, height as f32]);
        content.set_line_cap(LineCapStyle::RoundCap).set_line_join(LineJoinStyle::RoundJoin);
        let mut page = Self { content, used: Used::default(), images: Vec::new(), palette, fonts };
        let size = drawing.scene.size;
        page.fill(&Path::rect(Rect::new(0.0, 0.0, size.w, size.h)), palette.colour(drawing.scene.ground.into()));
        page
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
    fn studio(&self) -> (Palette<'a>, &'a Fonts) {
        (self.palette, self.fonts)
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
            let name = self.used.take(run);
            self.content.set_fill_rgb(r, g, b).begin_text().set_font(Name(name.as_bytes()), run.size as f32);
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
                pen += self.used.width(run.face, glyph.id, self.fonts);
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
