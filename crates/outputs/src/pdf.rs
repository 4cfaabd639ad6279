//! PDF: one page of the picture's size, text as text, links left out. Its source is attached as a file; its digest and seal
//! stand in a comment behind its end.

use crate::png::fonts;
use bathygram_core::container;
use krilla::Document;
use krilla::embed::{AssociationKind, EmbeddedFile, MimeType};
use krilla::geom::Size;
use krilla::metadata::Metadata;
use krilla::page::PageSettings;
use krilla_svg::{SurfaceExt, SvgSettings};
use resvg::usvg::{Options, Tree};
use std::sync::Arc;

/// A px is so many points.
const POINTS: f32 = 0.75;

/// Why there is no PDF.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The drawing could not be read.
    #[error("the drawing cannot be read: {0}")]
    Drawing(#[from] resvg::usvg::Error),
    /// The page could not be written.
    #[error("the page cannot be written: {0}")]
    Writing(String),
}

/// What a PDF carries.
#[derive(Clone, Copy, Debug)]
pub struct About<'a> {
    /// Its title.
    pub title: &'a str,
    /// The name of its source file.
    pub file: &'a str,
    /// Its source.
    pub source: &'a str,
    /// The digest of what it was drawn from.
    pub digest: &'a str,
}

/// Draws PDFs with the fonts that ship with the program, and no others.
pub struct Pdf {
    fonts: Arc<fontdb::Database>,
}

impl Default for Pdf {
    fn default() -> Self {
        Self::new()
    }
}

impl Pdf {
    /// Opens the fonts.
    pub fn new() -> Self {
        Self { fonts: fonts() }
    }

    /// Draws an SVG on a page of its size.
    ///
    /// # Errors
    /// If the drawing cannot be read, or has no size that a page can have.
    pub fn draw(&self, svg: &str, about: &About<'_>) -> Result<Vec<u8>, Error> {
        let options = Options { fontdb: self.fonts.clone(), font_family: "Fira Sans".into(), ..Options::default() };
        let tree = Tree::from_str(svg, &options)?;
        let (w, h) = (tree.size().width() * POINTS, tree.size().height() * POINTS);
        let sizes = PageSettings::from_wh(w, h).zip(Size::from_wh(w, h));
        let (settings, size) = sizes.ok_or_else(|| Error::Writing(format!("no page is {w} × {h} points")))?;
        let mut document = Document::new();
        let mut page = document.start_page_with(settings);
        let mut surface = page.surface();
        surface.draw_svg(&tree, size, SvgSettings::default());
        surface.finish();
        page.finish();
        let name = about.file.rsplit('/').next().unwrap_or(about.file);
        document.embed_file(EmbeddedFile {
            path: name.to_owned(),
            mime_type: MimeType::new("text/plain"),
            description: Some("The text that this picture was drawn from".to_owned()),
            association_kind: AssociationKind::Source,
            data: about.source.as_bytes().to_vec().into(),
            modification_date: None,
            compress: Some(true),
            location: None,
        });
        let producer = format!("bathygram {}", env!("CARGO_PKG_VERSION"));
        document.set_metadata(Metadata::new().title(about.title.to_owned()).producer(producer));
        let bytes = document.finish().map_err(|e| Error::Writing(format!("{e:?}")))?;
        Ok(container::seal_pdf(bytes, about.digest, about.file))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SQUARE: &str = "<svg xmlns='http://www.w3.org/2000/svg' width='40' height='20'>\
        <rect width='40' height='20' fill='#ff0000'/><text x='2' y='14' font-size='12'>Tide</text></svg>";

    #[test]
    fn the_source_is_attached_and_the_bytes_are_the_same_each_time() {
        let source = "flow f\r\n  \"Grüße\"\n";
        let about = About { title: "Tide", file: "docs/f.bathy", source, digest: "sha256:00" };
        let bytes = Pdf::new().draw(SQUARE, &about).expect("drawn");
        assert!(bytes.starts_with(b"%PDF-1.7"));
        assert_eq!(Pdf::new().draw(SQUARE, &about).expect("drawn"), bytes);
        assert_eq!(container::source(&bytes).as_deref(), Some(source));
        assert_eq!(container::file(&bytes).as_deref(), Some("docs/f.bathy"));
        let carried = container::read(&bytes).expect("ours");
        assert!(carried.is_intact && carried.digest == "sha256:00");
        let mut edited = bytes.clone();
        edited[20] ^= 1;
        assert!(container::read(&edited).is_some_and(|c| !c.is_intact));
        for end in (0..bytes.len()).step_by(7) {
            container::read(&bytes[..end]);
            container::source(&bytes[..end]);
        }
    }
}
