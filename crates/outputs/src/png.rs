//! PNG, from a drawing. The picture carries its digest and its source in text chunks, as the SVG does in its metadata; the
//! chunks stand before the pixels.

use crate::Tools;
use crate::letters::{Font, Letters, Placed};
use crate::paint::{self, Surface};
use crate::pixels::unpack;
use bathygram_core::container;
use bathygram_core::geom::{Cmd, Path, Rect, Size};
use bathygram_core::scene::{Drawing, Stroke};
use bathygram_core::theme::{Colour, Palette};
use std::collections::HashMap;
use std::io::Write;
use tiny_skia::{
    BlendMode, Color, FillRule, FilterQuality, LineCap, LineJoin, Paint as Ink, PathBuilder, Pixmap, PixmapPaint,
    PremultipliedColorU8, StrokeDash, Transform,
};

/// A picture may be this wide or high, in pixels.
// Four bytes a pixel: a square of this side takes 1 GiB, and few viewers open more.
pub const MAX_SIDE: f64 = 16_384.0;
/// And this many pixels in all, which take 4 bytes each.
pub const MAX_PIXELS: f64 = 100_000_000.0;

/// Why there is no PNG.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The picture would be too large.
    #[error(
        "the picture would have {width} × {height} pixels; a side may have {MAX_SIDE}, and all of it 100 million: {}",
        advice(*fits)
    )]
    TooLarge {
        /// Its width.
        width: u64,
        /// Its height.
        height: u64,
        /// The largest scale in hundredths that fits.
        fits: u32,
    },
    /// There is not so much memory.
    #[error("there is no memory for {width} × {height} pixels: choose a smaller --scale or --width")]
    NoMemory {
        /// The width.
        width: u64,
        /// The height.
        height: u64,
    },
    /// The pixels could not be packed.
    #[error("the picture cannot be packed: {0}")]
    Packing(#[from] png::EncodingError),
}

/// How large the picture is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Scale {
    /// This many pixels for each px.
    Factor(f64),
    /// This many pixels from left to right.
    Width(f64),
}

/// What is below the drawing.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Below {
    /// The paper of the theme.
    #[default]
    Paper,
    /// Nothing: what lies under the picture is seen.
    Nothing,
}

/// Draws a picture. `texts` are keyword and value; a seal among them is closed.
///
/// # Errors
/// If the picture would be too large.
pub fn write(
    drawing: &Drawing, tools: Tools<'_>, (scale, below): (Scale, Below), texts: &[(&str, &str)],
) -> Result<Vec<u8>, Error> {
    let size = drawing.scene.size;
    let (scale, w) = match scale {
        Scale::Factor(factor) => (factor, (size.w * factor).ceil()),
        Scale::Width(width) => (width / size.w, width.round()),
    };
    let h = (size.h * scale).ceil();
    if !(1.0..=MAX_SIDE).contains(&w) || !(1.0..=MAX_SIDE).contains(&h) || w * h > MAX_PIXELS {
        return Err(Error::TooLarge { width: w as u64, height: h as u64, fits: fitting(size) });
    }
    let mut pixels = blank(w as u32, h as u32).ok_or(Error::NoMemory { width: w as u64, height: h as u64 })?;
    let palette = Palette::new(tools.theme, drawing.scene.ground);
    let paper = palette.colour(drawing.scene.ground.into());
    if below == Below::Paper {
        pixels.fill(Color::from_rgba8(paper.r, paper.g, paper.b, 255));
    }
    let scaled = Transform::from_scale(scale as f32, scale as f32);
    let letters = Letters { fonts: tools.fonts, spare: &tools.spare.open() };
    let clear = (below == Below::Nothing).then_some(paper);
    let mut canvas = Canvas { pixels, scaled, palette, letters, clear, outlines: HashMap::new() };
    paint::items(&mut canvas, &drawing.scene.items);
    packed(&canvas.pixels, texts)
}

/// The largest scale for a picture of a size in px, in hundredths.
fn fitting(size: Size) -> u32 {
    let whole = (MAX_PIXELS / (size.w * size.h).max(1.0)).sqrt();
    let fits = whole.min((MAX_SIDE - 1.0) / size.w.max(1.0)).min((MAX_SIDE - 1.0) / size.h.max(1.0));
    (fits * 100.0).floor() as u32
}

/// What to do about a picture that is too large.
fn advice(fits: u32) -> String {
    match fits {
        // The least that `--scale` takes.
        0..10 => "no scale fits, so draw it as SVG or PDF".to_owned(),
        fits => format!("--scale {}.{:02} fits", fits / 100, fits % 100),
    }
}

/// Pixels without a colour; `None` if there is no memory for them.
fn blank(width: u32, height: u32) -> Option<Pixmap> {
    let count = width as usize * height as usize * 4;
    let mut bytes: Vec<u8> = Vec::new();
    bytes.try_reserve_exact(count).ok()?;
    bytes.resize(count, 0);
    Pixmap::from_vec(bytes, tiny_skia::IntSize::from_wh(width, height)?)
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
    // A row at a time: a second copy of all pixels would take as much memory as they do.
    let mut rows = writer.stream_writer()?;
    for row in pixels.pixels().chunks(pixels.width() as usize) {
        let plain = row.iter().map(|pixel| pixel.demultiply());
        let plain: Vec<u8> = plain.flat_map(|c| [c.red(), c.green(), c.blue(), c.alpha()]).collect();
        rows.write_all(&plain).map_err(png::EncodingError::from)?;
    }
    rows.finish()?;
    writer.finish()?;
    Ok(container::seal_png(out))
}

/// What is being drawn.
struct Canvas<'a> {
    pixels: Pixmap,
    scaled: Transform,
    palette: Palette<'a>,
    letters: Letters<'a>,
    /// The colour that is no colour, but a hole.
    clear: Option<Colour>,
    /// Outlines of glyphs, in em.
    outlines: HashMap<(Font, u16), Option<tiny_skia::Path>>,
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
    fn studio(&self) -> (Palette<'a>, Letters<'a>) {
        (self.palette, self.letters)
    }

    fn fill(&mut self, path: &Path, colour: Colour) {
        if let Some(path) = built(path) {
            let mut ink = ink(colour);
            if self.clear == Some(colour) {
                ink.blend_mode = BlendMode::Clear;
            }
            self.pixels.fill_path(&path, &ink, FillRule::Winding, self.scaled, None);
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
                let (x, y) = (run.x + glyph.at.x * run.size, run.y + glyph.at.y * run.size);
                let placed = Transform::from_row(run.size as f32, 0.0, 0.0, run.size as f32, x as f32, y as f32);
                if let Some(image) = self.letters.face(run.font).and_then(|face| face.image(glyph.id)) {
                    self.image_at(image.place, image.png, placed);
                    continue;
                }
                let outline = self.outlines.entry((run.font, glyph.id));
                let outline =
                    outline.or_insert_with(|| self.letters.outline(run.font, glyph.id).and_then(|p| built(&p)));
                let Some(outline) = outline else { continue };
                self.pixels.fill_path(outline, &ink, FillRule::Winding, placed.post_concat(self.scaled), None);
            }
        }
    }

    fn image(&mut self, place: Rect, png: &[u8]) {
        self.image_at(place, png, Transform::identity());
    }
}

impl Canvas<'_> {
    /// An image, placed and then moved.
    fn image_at(&mut self, place: Rect, png: &[u8], moved: Transform) {
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
        let placed = placed.post_concat(moved).post_concat(self.scaled);
        self.pixels.draw_pixmap(0, 0, image.as_ref(), &paint, placed, None);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::geom::Size;
    use bathygram_core::measure::{Fonts, SpareFonts};
    use bathygram_core::scene::{Item, Places, Scene};
    use bathygram_core::theme::{Ground, Theme};

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
        let (theme, fonts, spare) = (Theme::default(), Fonts::new(), SpareFonts::default());
        let tools = Tools { theme: &theme, fonts: &fonts, spare: &spare };
        let draw = |scale, below| write(&square(), tools, (scale, below), &[("digest", "sha256:00")]);
        let read = |bytes: Vec<u8>| {
            let mut reader = png::Decoder::new(std::io::Cursor::new(&bytes)).read_info().expect("a PNG");
            let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
            reader.next_frame(&mut pixels).expect("pixels");
            ((reader.info().width, reader.info().height), pixels)
        };
        let bytes = draw(Scale::Factor(2.0), Below::Paper).expect("drawn");
        assert!(bytes.windows(9).any(|w| w == b"sha256:00"));
        let (size, pixels) = read(bytes);
        assert_eq!(size, (20, 16));
        assert_eq!(&pixels[..4], &[255, 0, 0, 255]);
        let paper = theme.paper;
        assert_eq!(&pixels[15 * 4..16 * 4], &[paper.r, paper.g, paper.b, 255]);
        let (size, pixels) = read(draw(Scale::Width(50.0), Below::Nothing).expect("drawn"));
        assert_eq!(size, (50, 40));
        assert_eq!(&pixels[..4], &[255, 0, 0, 255]);
        assert_eq!(&pixels[48 * 4..49 * 4], &[0, 0, 0, 0]);
        assert!(matches!(draw(Scale::Factor(1e6), Below::Paper), Err(Error::TooLarge { .. })));
    }
}
