//! What a finished picture file carries, whatever its form: the digest of its texts, its source, and a seal, which tells
//! whether somebody changed the file since it was drawn.
//!
//! The seal is the SHA-256 of the file with the seal itself written as zeros; line ends of SVG do not count, since git may
//! turn them. In SVG it is an attribute of the metadata, in PNG a text chunk that is followed by its checksum, which is
//! zero too while the digest is taken; in PDF it stands in a comment behind the end, with the digest, and the source is an
//! attached file (ISO 32000-1, 7.11.4).

use crate::svg::{escape, inflated, read_attribute, read_source, unescape, value};
use sha2::{Digest, Sha256};
use std::fmt::Write;

/// How many digits a seal has.
const DIGITS: usize = 64;
/// The text chunks of a PNG.
const PNG_DIGEST: &str = "bathygram-digest";
const PNG_SOURCE: &str = "bathygram-source";
const PNG_SEAL: &str = "bathygram-seal";
/// What a PDF begins with, and the comment behind its end.
const PDF_BEGIN: &[u8] = b"%PDF-";
const PDF_COMMENT: &str = "%bathygram";
const PNG_BEGIN: &[u8] = b"\x89PNG\r\n\x1a\n";

/// What a picture carries.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Carried {
    /// The digest of what it was drawn from, as [`digest`](crate::svg::digest) gives it.
    pub digest: String,
    /// Whether it is as it was drawn.
    pub is_intact: bool,
}

/// The seal before it is known.
pub fn open_seal() -> String {
    "0".repeat(DIGITS)
}

/// The text chunks that a PNG carries, as keyword and text, the last one unsealed.
pub fn png_texts<'a>(digest: &'a str, source: &'a str, seal: &'a str) -> [(&'static str, &'a str); 3] {
    [(PNG_DIGEST, digest), (PNG_SOURCE, source), (PNG_SEAL, seal)]
}

/// Seals an SVG whose seal is open.
pub fn seal_svg(mut svg: String) -> String {
    if let Some(at) = svg_seal(&svg) {
        let seal = hex(&digest_without(svg.as_bytes(), at, DIGITS, true));
        svg.replace_range(at..at + DIGITS, &seal);
    }
    svg
}

/// Seals a PNG whose seal is open.
pub fn seal_png(mut png: Vec<u8>) -> Vec<u8> {
    if let Some((begin, at)) = png_seal(&png).map(|chunk| (chunk.begin, chunk.text_at)) {
        let seal = hex(&digest_without(&png, at, DIGITS + 4, false));
        png[at..at + DIGITS].copy_from_slice(seal.as_bytes());
        let mut checksum = flate2::Crc::new();
        checksum.update(&png[begin..at + DIGITS]);
        png[at + DIGITS..at + DIGITS + 4].copy_from_slice(&checksum.sum().to_be_bytes());
    }
    png
}

/// Adds to a PDF the comment that says what it was drawn from, and seals it.
pub fn seal_pdf(mut pdf: Vec<u8>, digest: &str, file: &str) -> Vec<u8> {
    if !pdf.ends_with(b"\n") {
        pdf.push(b'\n');
    }
    let file = escape(file);
    pdf.extend(format!("{PDF_COMMENT} digest=\"{digest}\" file=\"{file}\" seal=\"").bytes());
    let seal = hex(&Sha256::digest(&pdf));
    pdf.extend(format!("{seal}\"\n").bytes());
    pdf
}

/// The last line of a PDF that this program drew.
fn pdf_comment(bytes: &[u8]) -> Option<&str> {
    let end = bytes.strip_suffix(b"\n")?;
    let at = end.iter().rposition(|b| *b == b'\n')? + 1;
    let line = std::str::from_utf8(&end[at..]).ok()?;
    line.starts_with(PDF_COMMENT).then_some(line)
}

fn read_pdf(bytes: &[u8]) -> Option<Carried> {
    let line = pdf_comment(bytes)?;
    let seal = value(line, "seal").filter(|s| s.len() == DIGITS);
    let is_intact = seal.is_some_and(|seal| {
        let before = &bytes[..seal.as_ptr() as usize - bytes.as_ptr() as usize];
        hex(&Sha256::digest(before)) == seal
    });
    Some(Carried { digest: value(line, "digest")?.to_owned(), is_intact })
}

/// The first file that is attached to a PDF, as text.
fn attached(pdf: &[u8]) -> Option<String> {
    let find =
        |what: &[u8], from: usize| pdf.get(from..)?.windows(what.len()).position(|w| w == what).map(|at| from + at);
    let at = find(b"/EmbeddedFile", 0).filter(|at| !pdf[at + 13..].starts_with(b"s"))?;
    let begin = pdf[..at].windows(4).rposition(|w| w == b" obj")?;
    let stream = find(b"stream", at)?;
    let about = String::from_utf8_lossy(&pdf[begin..stream]).into_owned();
    let length: usize = about.split("/Length ").nth(1)?.split(|c: char| !c.is_ascii_digit()).next()?.parse().ok()?;
    let body = stream + 6 + if pdf.get(stream + 6) == Some(&b'\r') { 2 } else { 1 };
    let packed = pdf.get(body..body.checked_add(length)?)?;
    if about.contains("/FlateDecode") { inflated(packed) } else { String::from_utf8(packed.to_vec()).ok() }
}

/// The form that the bytes of a picture are in.
enum Form<'a> {
    Svg(&'a str),
    Png,
    Pdf,
}

fn form(bytes: &[u8]) -> Option<Form<'_>> {
    if bytes.starts_with(PDF_BEGIN) {
        return Some(Form::Pdf);
    }
    if bytes.starts_with(PNG_BEGIN) {
        return Some(Form::Png);
    }
    std::str::from_utf8(bytes).ok().map(Form::Svg)
}

/// What the bytes of a picture carry; `None` if this program did not draw it.
pub fn read(bytes: &[u8]) -> Option<Carried> {
    match form(bytes)? {
        Form::Svg(svg) => read_svg(svg),
        Form::Png => read_png(bytes),
        Form::Pdf => read_pdf(bytes),
    }
}

/// The source text that the bytes of a picture carry; `None` if another picture of its stack carries it, or it is damaged.
pub fn source(bytes: &[u8]) -> Option<String> {
    match form(bytes)? {
        Form::Svg(svg) => read_source(svg),
        Form::Png => png_text(bytes, PNG_SOURCE),
        Form::Pdf => pdf_comment(bytes).and_then(|_| attached(bytes)),
    }
}

/// The file beside a picture that carries its source instead.
pub fn text_in(bytes: &[u8]) -> Option<String> {
    svg_attribute(bytes, "text-in")
}

/// The name of the file, in its project, that a picture was drawn from; a PNG does not tell.
pub fn file(bytes: &[u8]) -> Option<String> {
    match form(bytes)? {
        Form::Svg(_) => svg_attribute(bytes, "file"),
        Form::Png => None,
        Form::Pdf => value(pdf_comment(bytes)?, "file").map(unescape),
    }
}

/// The name that an SVG was drawn under: its file is called so unless somebody wanted it otherwise.
pub fn name(bytes: &[u8]) -> Option<String> {
    svg_attribute(bytes, "name")
}

fn svg_attribute(bytes: &[u8], name: &str) -> Option<String> {
    match form(bytes)? {
        Form::Svg(svg) => read_attribute(svg, name).map(unescape),
        Form::Png | Form::Pdf => None,
    }
}

/// What a drawing shows, in words: its description.
pub fn description(svg: &str) -> Option<String> {
    Some(unescape(svg.split_once("<desc id=\"desc\">")?.1.split_once("</desc>")?.0))
}

/// The title of a drawing.
pub fn title(svg: &str) -> Option<String> {
    Some(unescape(svg.split_once("<title id=\"title\">")?.1.split_once("</title>")?.0))
}

fn read_svg(svg: &str) -> Option<Carried> {
    let digest = read_attribute(svg, "digest")?.to_owned();
    let is_intact = svg_seal(svg).is_some_and(|at| {
        let seal = hex(&digest_without(svg.as_bytes(), at, DIGITS, true));
        svg.get(at..at + DIGITS) == Some(&seal)
    });
    Some(Carried { digest, is_intact })
}

fn png_text(bytes: &[u8], keyword: &str) -> Option<String> {
    let chunk = chunks(bytes).find(|c| c.keyword == keyword.as_bytes())?;
    String::from_utf8(chunk.text.to_vec()).ok()
}

/// The chunk of a PNG that holds its seal.
fn png_seal(bytes: &[u8]) -> Option<Chunk<'_>> {
    chunks(bytes).find(|c| c.keyword == PNG_SEAL.as_bytes() && c.text.len() == DIGITS)
}

fn read_png(bytes: &[u8]) -> Option<Carried> {
    let is_intact = png_seal(bytes)
        .is_some_and(|chunk| hex(&digest_without(bytes, chunk.text_at, DIGITS + 4, false)).as_bytes() == chunk.text);
    Some(Carried { digest: png_text(bytes, PNG_DIGEST)?, is_intact })
}

/// Where the seal of an SVG begins.
fn svg_seal(svg: &str) -> Option<usize> {
    let seal = read_attribute(svg, "seal").filter(|s| s.len() == DIGITS)?;
    Some(seal.as_ptr() as usize - svg.as_ptr() as usize)
}

/// The digest of bytes in which so many are taken as zeros: the digits `0` of text, and bytes of value 0 behind them.
fn digest_without(bytes: &[u8], at: usize, count: usize, is_text: bool) -> [u8; 32] {
    let mut hash = Sha256::new();
    let mut add = |part: &[u8]| {
        // The files that we write have no carriage returns.
        if is_text && part.contains(&b'\r') {
            part.split(|b| *b == b'\r').for_each(|piece| hash.update(piece));
        } else {
            hash.update(part);
        }
    };
    add(&bytes[..at]);
    add(&[b'0'; DIGITS]);
    add(&[0; 4][..count - DIGITS]);
    add(&bytes[at + count..]);
    hash.finalize().into()
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().fold(String::new(), |mut out, byte| {
        let _ = write!(out, "{byte:02x}");
        out
    })
}

/// An international text chunk, uncompressed.
struct Chunk<'a> {
    keyword: &'a [u8],
    text: &'a [u8],
    /// Where the chunk's type stands, and its text.
    begin: usize,
    text_at: usize,
}

/// The text chunks of a PNG (W3C PNG specification, 11.3.3.4), as far as it is whole.
fn chunks(png: &[u8]) -> impl Iterator<Item = Chunk<'_>> {
    let mut at = PNG_BEGIN.len();
    let all = std::iter::from_fn(move || {
        let length = u32::from_be_bytes(png.get(at..at + 4)?.try_into().ok()?) as usize;
        let begin = at + 4;
        let end = begin.checked_add(4)?.checked_add(length)?;
        let body = png.get(begin..end)?;
        png.get(end..end.checked_add(4)?)?;
        at = end + 4;
        Some((begin, body))
    });
    all.filter_map(|(begin, body)| {
        let rest = body.strip_prefix(b"iTXt")?;
        let end = rest.iter().position(|b| *b == 0)?;
        // Behind the keyword: compression flag and method, language, translated keyword.
        let is_plain = rest.get(end + 1..end + 3)? == [0, 0];
        let language = end + 3 + rest.get(end + 3..)?.iter().position(|b| *b == 0)? + 1;
        let text = language + rest.get(language..)?.iter().position(|b| *b == 0)? + 1;
        is_plain.then(|| Chunk { keyword: &rest[..end], text: &rest[text..], begin, text_at: begin + 4 + text })
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::{Setting, Studio, draw, read as read_text};
    use crate::source::Source;

    const TEXT: &str = "flow f\n  \"Read the gauge\"\n";

    fn svg() -> String {
        let reading = read_text(Source::new("f.bathy", TEXT), "f", &Setting::default());
        draw(&Studio::new(), &reading, &reading.pictures()[0])
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
        let mut encoder = png::Encoder::new(&mut bytes, 1, 1);
        let seal = open_seal();
        for (keyword, text) in png_texts("sha256:00", TEXT, &seal) {
            encoder.add_itxt_chunk(keyword.to_owned(), text.to_owned()).expect("added");
        }
        encoder.write_header().and_then(|mut w| w.write_image_data(&[7])).expect("written");
        let sealed = seal_png(bytes);
        let carried = read(&sealed).expect("ours");
        assert_eq!((carried.digest.as_str(), source(&sealed).as_deref()), ("sha256:00", Some(TEXT)));
        assert!(carried.is_intact);
        let mut reader = png::Decoder::new(std::io::Cursor::new(&sealed)).read_info().expect("checksums are right");
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
