//! What a finished picture file carries, whatever its form: the digest of its texts, its source, and a seal, which tells
//! whether somebody changed the file since it was drawn.
//!
//! The seal is the SHA-256 of the file with the seal itself written as zeros; line ends of SVG do not count, since git may
//! turn them. In SVG it is an attribute of the metadata, in PNG a text chunk that is followed by its checksum, which is
//! zero too while the digest is taken; in PDF it stands in a comment behind the end, with the digest, and the source is an
//! attached file (ISO 32000-1, 7.11.4).

mod carried;
mod digest;
mod inflate;
mod json;
mod pdf;
mod png;
mod seal;
mod svg;

pub use carried::Carried;
pub use digest::{Packed, Provenance, digest, digest_of_all};
pub use json::seal_json;
pub use pdf::seal_pdf;
pub use png::{png_texts, seal_png};
pub use seal::open_seal;
pub use svg::{description, metadata, read_digest, read_places, read_source, sealed, title};
pub(crate) use svg::{seal as seal_svg, write_metadata};

use crate::markup::unescape;

/// The form that the bytes of a picture are in.
enum Form<'a> {
    /// Also a page with an SVG in it, and GraphML, which carries the same.
    Svg(&'a str),
    Png,
    Pdf,
    Json(&'a str),
}

fn form(bytes: &[u8]) -> Option<Form<'_>> {
    if bytes.starts_with(pdf::BEGIN) {
        return Some(Form::Pdf);
    }
    if bytes.starts_with(png::BEGIN) {
        return Some(Form::Png);
    }
    let text = std::str::from_utf8(bytes).ok()?;
    // Line ends may have been turned.
    let is_json = text.starts_with('{') && text.replacen('\r', "", 1).as_bytes().starts_with(json::BEGIN);
    Some(if is_json { Form::Json(text) } else { Form::Svg(text) })
}

/// What the bytes of a picture carry; `None` if this program did not draw it.
pub fn read(bytes: &[u8]) -> Option<Carried> {
    match form(bytes)? {
        Form::Svg(svg) => svg::read(svg),
        Form::Png => png::read(bytes),
        Form::Pdf => pdf::read(bytes),
        Form::Json(json) => json::read(json),
    }
}

/// The source text that the bytes of a picture carry; `None` if another picture of its stack carries it, or it is damaged.
pub fn source(bytes: &[u8]) -> Option<String> {
    match form(bytes)? {
        Form::Svg(svg) => read_source(svg),
        Form::Png => png::source(bytes),
        Form::Pdf => pdf::source(bytes),
        Form::Json(_) => None,
    }
}

/// The file beside a picture that carries its source instead.
pub fn text_in(bytes: &[u8]) -> Option<String> {
    svg_attribute(bytes, "text-in")
}

/// The name of the file, in its project, that a picture was drawn from; PNG and JSON do not tell.
pub fn file(bytes: &[u8]) -> Option<String> {
    match form(bytes)? {
        Form::Svg(_) => svg_attribute(bytes, "file"),
        Form::Png | Form::Json(_) => None,
        Form::Pdf => pdf::file(bytes),
    }
}

/// The name that an SVG was drawn under: its file is called so unless somebody wanted it otherwise.
pub fn name(bytes: &[u8]) -> Option<String> {
    svg_attribute(bytes, "name")
}

fn svg_attribute(bytes: &[u8], name: &str) -> Option<String> {
    match form(bytes)? {
        Form::Svg(svg) => svg::read_attribute(svg, name).map(unescape),
        Form::Png | Form::Pdf | Form::Json(_) => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::{DrawOptions, Setting, Studio, draw, read as read_text};
    use crate::source::Source;

    const TEXT: &str = "flow f\n  \"Read the gauge\"\n";

    fn svg() -> String {
        let reading = read_text(Source::new("f.bathy", TEXT), "f", &Setting::default());
        {
            let (studio, view) = (Studio::new(), reading.pictures().next().expect("a picture").view());
            studio.svg(&draw(&studio, &reading, &view, &DrawOptions::default()), &reading.provenance("f"))
        }
    }

    #[test]
    fn what_was_drawn_is_intact_and_what_was_changed_is_not() {
        let svg = svg();
        let carried = read(svg.as_bytes()).expect("ours");
        assert!(carried.is_intact && carried.digest.starts_with("sha256:"));
        assert_eq!(source(svg.as_bytes()).as_deref(), Some(TEXT));
        assert_eq!(name(svg.as_bytes()).as_deref(), Some("f"));
        assert_eq!((file(svg.as_bytes()).as_deref(), text_in(svg.as_bytes())), (Some("f.bathy"), None));
        let turned = svg.replace('\n', "\r\n");
        assert!(read(turned.as_bytes()).expect("ours").is_intact, "line ends do not count");
        let edited = svg.replacen("gauge", "buoy!", 1);
        assert!(!read(edited.as_bytes()).expect("ours").is_intact);
        assert_eq!(read(b"<svg/>"), None);
        assert_eq!(read(b"\xff\xfe"), None);
    }

    #[test]
    fn pngs_are_sealed_and_keep_their_checksums() {
        let mut bytes = Vec::new();
        let mut encoder = ::png::Encoder::new(&mut bytes, 1, 1);
        let seal = open_seal();
        for (keyword, text) in png_texts("sha256:00", TEXT, &seal) {
            encoder.add_itxt_chunk(keyword.to_owned(), text.to_owned()).expect("added");
        }
        encoder.write_header().and_then(|mut w| w.write_image_data(&[7])).expect("written");
        let sealed = seal_png(bytes);
        let carried = read(&sealed).expect("ours");
        assert_eq!((carried.digest.as_str(), source(&sealed).as_deref()), ("sha256:00", Some(TEXT)));
        assert!(carried.is_intact);
        let mut reader = ::png::Decoder::new(std::io::Cursor::new(&sealed)).read_info().expect("checksums are right");
        let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
        reader.next_frame(&mut pixels).expect("pixels");
        assert_eq!(pixels, [7]);
        for at in [sealed.len() - 20, 30] {
            let mut edited = sealed.clone();
            edited[at] ^= 1;
            assert!(read(&edited).is_none_or(|c| !c.is_intact), "byte {at}");
        }
        // Cut off anywhere, it is read without harm.
        (0..sealed.len()).for_each(|end| drop(read(&sealed[..end])));
    }
}
