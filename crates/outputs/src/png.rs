//! PNG, from a drawing. The picture carries its digest and its source in text chunks, as the SVG does in its metadata; the
//! chunks stand before the pixels.

use crate::letters::Placed;
use crate::paint::{self, Surface};
use crate::pixels::unpack;
use bathygram_core::container;
use bathygram_core::geom::{Cmd, Path, Rect};
use bathygram_core::measure::{Face, Fonts};
use bathygram_core::scene::{Drawing, Stroke};
use bathygram_core::theme::{Colour, Palette, Theme};
use std::collections::HashMap;
use tiny_skia::{
    Color, FillRule, FilterQuality, LineCap, LineJoin, Paint as Ink, PathBuilder, Pixmap, PixmapPaint,
    PremultipliedColorU8, StrokeDash, Transform,
};

/// A picture may be this wide or high, in pixels.
// Four bytes a pixel: a square of this side takes 1 GiB, and few viewers open more.
pub const MAX_SIDE: f64 = 16_384.0;

/// Why there is no PNG.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The picture would be too large.
    #[error("the picture would have {width} × {height} pixels; a side may have {MAX_SIDE}: choose a smaller --scale")]
    TooLarge {
        /// Its width.
        width: u64,
        /// Its height.
        height: u64,
    },
    /// The pixels could not be packed.
    #[error("the picture cannot be packed: {0}")]
    Packing(#[from] png::EncodingError),
}

/// Draws at a scale: 1 gives one pixel for each px. `texts` are keyword and value; a seal among them is closed.
///
/// # Errors
/// If the picture would be too large.
pub fn write(
    drawing: &Drawing, theme: &Theme, fonts: &Fonts, scale: f64, texts: &[(&str, &str)],
) -> Result<Vec<u8>, Error> {
    let size = drawing.scene.size;
    let (w, h) = ((size.w * scale).ceil(), (size.h * scale).ceil());
    let too_large = || Error::TooLarge { width: w as u64, height: h as u64 };
    if !(1.0..=MAX_SIDE).contains(&w) || !(1.0..=MAX_SIDE).contains(&h) {
        return Err(too_large());
    }
    let mut pixels = Pixmap::new(w as u32, h as u32).ok_or_else(too_large)?;
    // A fraction of a px at the edge shows what is below the drawing.
    pixels.fill(Color::WHITE);
    let palette = Palette::new(theme, drawing.scene.ground);
    let scaled = Transform::from_scale(scale as f32, scale as f32);
    let mut canvas = Canvas { pixels, scaled, palette, fonts, outlines: HashMap::new() };
    canvas.fill(&Path::rect(Rect::new(0.0, 0.0, size.w, size.h)), palette.colour(drawing.scene.ground.into()));
    paint::items(&mut canvas, &drawing.scene.items);
    packed(&canvas.pixels, texts)
}

/// Pixels as a file, with texts before them.
fn packed(pixels: &Pixmap, texts: &[(&str, &str)]) -> Result<Vec<u8>, Error> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, pixels.width(), pixels.height());
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    for (keyword, value) in texts {
        encoder.add_itxt_chunk((*keyword).to_owned(), (*value).to_owned())?;
    }
    let mut writer = encoder.write_header()?;
    // The ground is opaque, so premultiplied and plain colours are the same.
    writer.write_image_data(pixels.data())?;
    writer.finish()?;
    Ok(container::seal_png(out))
}

/// What is being drawn.
struct Canvas<'a> {
    pixels: Pixmap,
    scaled: Transform,
    palette: Palette<'a>,
    fonts: &'a Fonts,
    /// Outlines of glyphs, in em.
    outlines: HashMap<(Face, u16), Option<tiny_skia::Path>>,
}

fn ink(colour: Colour) -> Ink<'static> {
    let mut ink = Ink::default();
    ink.set_color_rgba8(colour.r, colour.g, colour.b, 255);
    ink.anti_alias = true;
    ink
}

/// A path as the rasteriser holds it; `None` if there is nothing to draw.
fn built(path: &Path) -> Option<tiny_skia::Path> {
    let mut out = PathBuilder::new();
    for cmd in &path.0 {
        match cmd {
            Cmd::Move(p) => out.move_to(p.x as f32, p.y as f32),
            Cmd::Line(p) => out.line_to(p.x as f32, p.y as f32),
            Cmd::Curve(a, b, p) => {
                out.cubic_to(a.x as f32, a.y as f32, b.x as f32, b.y as f32, p.x as f32, p.y as f32);
            }
            Cmd::Close => out.close(),
        }
    }
    out.finish()
}

impl<'a> Surface<'a> for Canvas<'a> {
    fn studio(&self) -> (Palette<'a>, &'a Fonts) {
        (self.palette, self.fonts)
    }

    fn fill(&mut self, path: &Path, colour: Colour) {
        if let Some(path) = built(path) {
            self.pixels.fill_path(&path, &ink(colour), FillRule::Winding, self.scaled, None);
        }
    }

    fn stroke(&mut self, path: &Path, stroke: &Stroke, colour: Colour) {
        let Some(path) = built(path) else { return };
        // An unbroken line has no lengths, and so no dash.
        let dash = StrokeDash::new(stroke.dash.lengths().to_vec(), 0.0);
        let line = tiny_skia::Stroke {
            width: stroke.width as f32,
            line_cap: LineCap::Round,
            line_join: LineJoin::Round,
            dash,
            ..tiny_skia::Stroke::default()
        };
        self.pixels.stroke_path(&path, &ink(colour), &line, self.scaled, None);
    }

    fn letters(&mut self, text: &Placed<'_>, colour: Colour) {
        let ink = ink(colour);
        for run in &text.runs {
            for glyph in &run.glyphs {
                let outline = self.outlines.entry((run.face, glyph.id));
                let outline = outline.or_insert_with(|| self.fonts.outline(run.face, glyph.id).and_then(|p| built(&p)));
                let Some(outline) = outline else { continue };
                let (x, y) = (run.x + glyph.at.x * run.size, run.y + glyph.at.y * run.size);
                let placed = Transform::from_row(run.size as f32, 0.0, 0.0, run.size as f32, x as f32, y as f32);
                self.pixels.fill_path(outline, &ink, FillRule::Winding, placed.post_concat(self.scaled), None);
            }
        }
    }

    fn image(&mut self, place: Rect, png: &[u8]) {
        let Some(read) = unpack(png) else { return };
        let Some(mut image) = Pixmap::new(read.width, read.height) else { return };
        for (to, from) in image.pixels_mut().iter_mut().zip(read.bytes.chunks_exact(4)) {
            let colour = tiny_skia::ColorU8::from_rgba(from[0], from[1], from[2], from[3]).premultiply();
            *to = PremultipliedColorU8::from_rgba(colour.red(), colour.green(), colour.blue(), colour.alpha())
                .unwrap_or(PremultipliedColorU8::TRANSPARENT);
        }
        let (sx, sy) = (place.w / f64::from(read.width), place.h / f64::from(read.height));
        let placed = Transform::from_row(sx as f32, 0.0, 0.0, sy as f32, place.x as f32, place.y as f32);
        let paint = PixmapPaint { quality: FilterQuality::Bicubic, ..PixmapPaint::default() };
        self.pixels.draw_pixmap(0, 0, image.as_ref(), &paint, placed.post_concat(self.scaled), None);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::geom::Size;
    use bathygram_core::scene::{Item, Places, Scene};
    use bathygram_core::theme::Ground;

    /// A red square on paper.
    fn square() -> Drawing {
        let red = Ground::Fixed(Colour { r: 255, g: 0, b: 0 });
        let path = Path::rect(Rect::new(0.0, 0.0, 5.0, 8.0));
        let item = Item::Path { path, fill: Some(red.into()), stroke: None, role: None };
        let size = Size::new(10.0, 8.0);
        let (title, desc) = (String::new(), String::new());
        let scene = Scene { size, title, desc, ground: Ground::Paper, items: vec![item] };
        Drawing { scene, places: Places::default(), report: None, unmet: Vec::new() }
    }

    #[test]
    fn pixels_and_texts_are_there() {
        let (theme, fonts) = (Theme::default(), Fonts::new());
        let bytes = write(&square(), &theme, &fonts, 2.0, &[("digest", "sha256:00")]).expect("drawn");
        let mut reader = png::Decoder::new(std::io::Cursor::new(&bytes)).read_info().expect("a PNG");
        assert_eq!((reader.info().width, reader.info().height), (20, 16));
        let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
        reader.next_frame(&mut pixels).expect("pixels");
        assert_eq!(&pixels[..4], &[255, 0, 0, 255]);
        let paper = theme.paper;
        assert_eq!(&pixels[15 * 4..16 * 4], &[paper.r, paper.g, paper.b, 255]);
        assert!(bytes.windows(9).any(|w| w == b"sha256:00"));
    }

    #[test]
    fn sizes_have_a_limit() {
        let drawn = write(&square(), &Theme::default(), &Fonts::new(), 1e6, &[]);
        assert!(matches!(drawn, Err(Error::TooLarge { .. })));
    }
}
