//! What a PDF carries: digest and seal in a comment behind its end, and the source as an attached file (ISO 32000-1,
//! 7.11.4).

use super::carried::Carried;
use super::inflate::inflated;
use super::seal::{DIGITS, hex};
use super::svg::value;
use crate::markup::{escape, unescape};
use sha2::{Digest, Sha256};

/// What a PDF begins with, and the comment behind its end.
pub(super) const BEGIN: &[u8] = b"%PDF-";
const COMMENT: &str = "%bathygram";

/// Adds to a PDF the comment that says what it was drawn from, and seals it.
pub fn seal_pdf(mut pdf: Vec<u8>, digest: &str, file: &str) -> Vec<u8> {
    if !pdf.ends_with(b"\n") {
        pdf.push(b'\n');
    }
    let file = escape(file);
    pdf.extend(format!("{COMMENT} digest=\"{digest}\" file=\"{file}\" seal=\"").bytes());
    let seal = hex(&Sha256::digest(&pdf));
    pdf.extend(format!("{seal}\"\n").bytes());
    pdf
}

/// The last line of a PDF that this program drew.
fn comment(bytes: &[u8]) -> Option<&str> {
    let end = bytes.strip_suffix(b"\n")?;
    let at = end.iter().rposition(|b| *b == b'\n')? + 1;
    let line = std::str::from_utf8(&end[at..]).ok()?;
    line.starts_with(COMMENT).then_some(line)
}

/// What a PDF carries.
pub(super) fn read(bytes: &[u8]) -> Option<Carried> {
    let line = comment(bytes)?;
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
    // The catalogue has a list of them by the same word with an `s`.
    let mut at = find(b"/EmbeddedFile", 0)?;
    while pdf[at + 13..].starts_with(b"s") {
        at = find(b"/EmbeddedFile", at + 13)?;
    }
    let begin = pdf[..at].windows(4).rposition(|w| w == b" obj")?;
    let stream = find(b"stream", at)?;
    let about = String::from_utf8_lossy(&pdf[begin..stream]).into_owned();
    let length: usize = about.split("/Length ").nth(1)?.split(|c: char| !c.is_ascii_digit()).next()?.parse().ok()?;
    let body = stream + 6 + if pdf.get(stream + 6) == Some(&b'\r') { 2 } else { 1 };
    let packed = pdf.get(body..body.checked_add(length)?)?;
    if about.contains("/FlateDecode") { inflated(packed) } else { String::from_utf8(packed.to_vec()).ok() }
}

/// The source text that a PDF carries.
pub(super) fn source(bytes: &[u8]) -> Option<String> {
    comment(bytes).and_then(|_| attached(bytes))
}

/// The name of the file that it was drawn from.
pub(super) fn file(bytes: &[u8]) -> Option<String> {
    value(comment(bytes)?, "file").map(unescape)
}
