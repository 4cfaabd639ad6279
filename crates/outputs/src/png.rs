//! PNG. The picture carries its digest and its source's name in text chunks, as the SVG does in its
//! metadata; the chunks stand before the pixels.

use bathygram_core::container;
use bathygram_core::measure::FACES;
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};
use std::sync::Arc;

/// A picture may be this wide or high, in pixels.
pub const MAX_SIDE: f32 = 16_384.0;

/// Why there is no PNG.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The drawing could not be read.
    #[error("the drawing cannot be read: {0}")]
    Drawing(#[from] resvg::usvg::Error),
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

/// Draws PNGs with the fonts that ship with the program, and no others.
pub struct Png {
    fonts: Arc<fontdb::Database>,
}

/// The fonts that ship with the program.
pub(crate) fn fonts() -> Arc<fontdb::Database> {
    let mut fonts = fontdb::Database::new();
    for face in FACES {
        fonts.load_font_data(face.file().to_vec());
    }
    fonts.set_sans_serif_family("Fira Sans");
    fonts.set_monospace_family("Fira Mono");
    Arc::new(fonts)
}

impl Default for Png {
    fn default() -> Self {
        Self::new()
    }
}

impl Png {
    /// Opens the fonts.
    pub fn new() -> Self {
        Self { fonts: fonts() }
    }

    /// Draws an SVG at a scale: 1 gives one pixel for each px. `texts` are keyword and value; a seal among them is closed.
    ///
    /// # Errors
    /// If the drawing cannot be read, or would be too large.
    pub fn draw(&self, svg: &str, scale: f32, texts: &[(&str, &str)]) -> Result<Vec<u8>, Error> {
        let options = Options { fontdb: self.fonts.clone(), font_family: "Fira Sans".into(), ..Options::default() };
        let tree = Tree::from_str(svg, &options)?;
        let (w, h) = ((tree.size().width() * scale).ceil(), (tree.size().height() * scale).ceil());
        let too_large = || Error::TooLarge { width: w as u64, height: h as u64 };
        if !(1.0..=MAX_SIDE).contains(&w) || !(1.0..=MAX_SIDE).contains(&h) {
            return Err(too_large());
        }
        let mut pixels = Pixmap::new(w as u32, h as u32).ok_or_else(too_large)?;
        // A fraction of a px at the edge shows what is below the drawing.
        pixels.fill(resvg::tiny_skia::Color::WHITE);
        resvg::render(&tree, Transform::from_scale(scale, scale), &mut pixels.as_mut());
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
}

#[cfg(test)]
mod tests {
    use super::*;

    const SQUARE: &str = "<svg xmlns='http://www.w3.org/2000/svg' width='10' height='8'>\
        <rect width='10' height='8' fill='#ff0000'/></svg>";

    #[test]
    fn pixels_and_texts_are_there() {
        let bytes = Png::new().draw(SQUARE, 2.0, &[("digest", "sha256:00")]).expect("drawn");
        let mut reader = png::Decoder::new(std::io::Cursor::new(&bytes)).read_info().expect("a PNG");
        assert_eq!((reader.info().width, reader.info().height), (20, 16));
        let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
        reader.next_frame(&mut pixels).expect("pixels");
        assert_eq!(&pixels[..4], &[255, 0, 0, 255]);
        assert!(bytes.windows(9).any(|w| w == b"sha256:00"));
    }

    #[test]
    fn sizes_have_a_limit() {
        assert!(matches!(Png::new().draw(SQUARE, 1e6, &[]), Err(Error::TooLarge { .. })));
        assert!(matches!(Png::new().draw("<svg", 1.0, &[]), Err(Error::Drawing(_))));
    }
}
