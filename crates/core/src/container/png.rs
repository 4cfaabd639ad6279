//! What a PNG carries, in text chunks (W3C PNG specification, 11.3.3.4). The seal's chunk is followed by its checksum, which
//! is zero too while the digest is taken.

use super::carried::Carried;
use super::seal::{Bytes, DIGITS, digest_without, hex};

const DIGEST: &str = "bathygram-digest";
const SOURCE: &str = "bathygram-source";
const SEAL: &str = "bathygram-seal";
pub(super) const BEGIN: &[u8] = b"\x89PNG\r\n\x1a\n";

/// The text chunks that a PNG carries, as keyword and text, the last one unsealed.
pub fn png_texts<'a>(digest: &'a str, source: &'a str, seal: &'a str) -> [(&'static str, &'a str); 3] {
    [(DIGEST, digest), (SOURCE, source), (SEAL, seal)]
}

/// Seals a PNG whose seal is open.
pub fn seal_png(mut png: Vec<u8>) -> Vec<u8> {
    if let Some((begin, at)) = seal_chunk(&png).map(|chunk| (chunk.begin, chunk.text_at)) {
        let seal = hex(&digest_without(&png, at, DIGITS + 4, Bytes::Binary));
        png[at..at + DIGITS].copy_from_slice(seal.as_bytes());
        let sum = checksum(&png, begin, at);
        png[at + DIGITS..at + DIGITS + 4].copy_from_slice(&sum);
    }
    png
}

/// The checksum of the chunk that holds the seal, which ends there.
fn checksum(png: &[u8], begin: usize, seal_at: usize) -> [u8; 4] {
    let mut sum = flate2::Crc::new();
    sum.update(&png[begin..seal_at + DIGITS]);
    sum.sum().to_be_bytes()
}

/// A text chunk of a PNG.
fn text(bytes: &[u8], keyword: &str) -> Option<String> {
    let chunk = chunks(bytes).find(|c| c.keyword == keyword.as_bytes())?;
    String::from_utf8(chunk.text.to_vec()).ok()
}

/// The chunk of a PNG that holds its seal.
fn seal_chunk(bytes: &[u8]) -> Option<Chunk<'_>> {
    chunks(bytes).find(|c| c.keyword == SEAL.as_bytes() && c.text.len() == DIGITS)
}

/// What a PNG carries.
pub(super) fn read(bytes: &[u8]) -> Option<Carried> {
    let is_intact = seal_chunk(bytes).is_some_and(|chunk| {
        let end = chunk.text_at + DIGITS;
        let is_sound = bytes.get(end..end + 4) == Some(&checksum(bytes, chunk.begin, chunk.text_at));
        is_sound && hex(&digest_without(bytes, chunk.text_at, DIGITS + 4, Bytes::Binary)).as_bytes() == chunk.text
    });
    Some(Carried { digest: text(bytes, DIGEST)?, is_intact })
}

/// The source text that a PNG carries.
pub(super) fn source(bytes: &[u8]) -> Option<String> {
    text(bytes, SOURCE)
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
    let mut at = BEGIN.len();
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
