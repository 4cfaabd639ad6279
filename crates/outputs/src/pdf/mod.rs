//! PDF, from a drawing (ISO 32000-1): one page of the picture's size, text as text, links left out. Its source is attached as
//! a file; its digest and seal stand in a comment behind its end.

mod fonts;
mod page;

use crate::paint;
use bathygram_core::container;
use bathygram_core::measure::Fonts;
use bathygram_core::scene::Drawing;
use bathygram_core::theme::Theme;
use flate2::Compression;
use flate2::write::ZlibEncoder;
use fonts::Embedded;
use page::Page;
use pdf_writer::types::AssociationKind;
use pdf_writer::{Filter, Finish, Name, Pdf, Rect, Ref, Str, TextStr};
use std::io::Write;

/// A px is so many points.
// 96 px and 72 points are an inch each.
const POINTS: f64 = 0.75;
/// A side of a page has at most so many points (ISO 32000-1, annex C).
const LARGEST: f64 = 14_400.0;

/// Why there is no PDF.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// No page has that size.
    #[error("no page is {width} × {height} points; the largest side is {LARGEST}")]
    Size {
        /// Its width.
        width: u64,
        /// Its height.
        height: u64,
    },
}

/// What a PDF carries.
#[derive(Clone, Copy, Debug)]
pub struct About<'a> {
    /// The name of its source file.
    pub file: &'a str,
    /// Its source.
    pub source: &'a str,
    /// The digest of what it was drawn from.
    pub digest: &'a str,
}

/// Gives out numbers of objects.
struct Numbers(i32);

impl Numbers {
    fn next(&mut self) -> Ref {
        self.0 += 1;
        Ref::new(self.0)
    }
}

/// Draws on a page of the picture's size.
///
/// # Errors
/// If the picture has a size that no page can have.
pub fn write(drawing: &Drawing, theme: &Theme, about: &About<'_>) -> Result<Vec<u8>, Error> {
    let size = drawing.scene.size;
    let (width, height) = (size.w * POINTS, size.h * POINTS);
    if !(1.0..=LARGEST).contains(&width) || !(1.0..=LARGEST).contains(&height) {
        return Err(Error::Size { width: width as u64, height: height as u64 });
    }
    let mut numbers = Numbers(0);
    let [catalog, pages, page_id, contents, file, spec, info] = std::array::from_fn(|_| numbers.next());
    // Of each font the part that holds the letters.
    let fonts = &Fonts::holding(&drawing.scene.letters());
    // 1. Strokes, and which letters of which fonts they use.
    let mut page = Page::new(drawing, theme, fonts, height);
    paint::items(&mut page, &drawing.scene.items);
    // 2. The page.
    let mut pdf = Pdf::new();
    pdf.set_version(1, 7);
    let title = drawing.scene.title.as_str();
    let mut root = pdf.catalog(catalog);
    root.pages(pages);
    root.names().embedded_files().names().insert(Str(name_of(about.file).as_bytes()), spec);
    root.insert(Name(b"AF")).array().item(spec);
    root.viewer_preferences().display_doc_title(true);
    root.finish();
    pdf.pages(pages).kids([page_id]).count(1);
    let embedded = Embedded::new(&page.used, &mut numbers);
    let images: Vec<Ref> = page.images.iter().map(|_| numbers.next()).collect();
    let mut written = pdf.page(page_id);
    written.parent(pages).media_box(Rect::new(0.0, 0.0, width as f32, height as f32)).contents(contents);
    let mut resources = written.resources();
    embedded.name_in(&mut resources.fonts());
    if !images.is_empty() {
        let mut named = resources.x_objects();
        for (i, id) in images.iter().enumerate() {
            named.pair(Name(format!("I{i}").as_bytes()), *id);
        }
    }
    resources.finish();
    written.finish();
    pdf.stream(contents, &deflated(&page.content.finish())).filter(Filter::FlateDecode);
    // 3. Fonts and images.
    embedded.write(&mut pdf, fonts);
    for (image, id) in page.images.iter().zip(images) {
        page::write_image(&mut pdf, image, id, numbers.next());
    }
    // 4. The source, and what it is.
    attach(&mut pdf, file, spec, about);
    let producer = format!("bathygram {}", env!("CARGO_PKG_VERSION"));
    pdf.document_info(info).title(TextStr(title)).producer(TextStr(&producer));
    Ok(container::seal_pdf(pdf.finish(), about.digest, about.file))
}

fn name_of(file: &str) -> &str {
    file.rsplit('/').next().unwrap_or(file)
}

/// The source as an attached file (ISO 32000-1, 7.11.4).
fn attach(pdf: &mut Pdf, file: Ref, spec: Ref, about: &About<'_>) {
    let packed = deflated(about.source.as_bytes());
    let mut embedded = pdf.embedded_file(file, &packed);
    embedded.subtype(Name(b"text/plain")).filter(Filter::FlateDecode);
    embedded.params().size(about.source.len() as i32);
    embedded.finish();
    let mut described = pdf.file_spec(spec);
    let name = name_of(about.file);
    described.path(Str(name.as_bytes())).unic_file(TextStr(name)).embedded_file(file);
    described.description(TextStr("The text that this picture was drawn from"));
    described.association_kind(AssociationKind::Source);
}

/// Bytes, compressed (zlib, RFC 1950).
fn deflated(bytes: &[u8]) -> Vec<u8> {
    let mut encoder = ZlibEncoder::new(Vec::new(), Compression::default());
    // Writing into memory does not fail.
    encoder.write_all(bytes).and_then(|()| encoder.finish()).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::pipeline::{DrawOptions, Setting, Studio, draw, read};
    use bathygram_core::source::Source;

    fn pdf(source: &str) -> Vec<u8> {
        let reading = read(Source::new("docs/f.bathy", source), "f", &Setting::default());
        let studio = Studio::new();
        let view = reading.pictures().next().expect("a picture").view();
        let drawing = draw(&studio, &reading, &view, &DrawOptions::default());
        let about = About { file: "docs/f.bathy", source, digest: "sha256:00" };
        write(&drawing, &studio.themes.main, &about).expect("drawn")
    }

    #[test]
    fn the_source_is_attached_and_the_bytes_are_the_same_each_time() {
        let source = "flow f\r\n  \"Grüße\"\n";
        let bytes = pdf(source);
        assert!(bytes.starts_with(b"%PDF-1.7"));
        assert_eq!(pdf(source), bytes);
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
