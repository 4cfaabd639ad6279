//! What a PDF carries: digest and seal in a comment behind its end, and the source as an attached file (ISO 32000-1,
//! 7.11.4).

use super::carried::Carried;
use super::inflate::inflated;
use super::seal::{DIGITS, hex};
use super::svg::value;
use crate::markup::{escape, unescape};
use crate::vocabulary::BLOCKS;
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

/// What a PDF carries. One that another program saved again has lost its comment, and is ours by the text in it.
pub(super) fn read(bytes: &[u8]) -> Option<Carried> {
    let Some(line) = comment(bytes) else {
        return source(bytes).map(|_| Carried { digest: String::new(), is_intact: false });
    };
    let seal = value(line, "seal").filter(|s| s.len() == DIGITS);
    let is_intact = seal.is_some_and(|seal| {
        let before = &bytes[..seal.as_ptr() as usize - bytes.as_ptr() as usize];
        hex(&Sha256::digest(before)) == seal
    });
    Some(Carried { digest: value(line, "digest")?.to_owned(), is_intact })
}

/// Where a word stands first in some bytes.
fn find(bytes: &[u8], word: &[u8]) -> Option<usize> {
    bytes.windows(word.len()).position(|w| w == word)
}

/// The files that are attached to a PDF, as texts. Streams stand in the file itself, whatever else is packed (7.5.7).
fn attached(pdf: &[u8]) -> impl Iterator<Item = String> {
    let mut rest = pdf;
    std::iter::from_fn(move || {
        loop {
            // The dictionary of a stream stands before it, behind `obj`.
            let at = find(rest, b"stream")?;
            let before = &rest[..at];
            let begin = before.windows(3).rposition(|w| w == b"obj").unwrap_or(0);
            let about = String::from_utf8_lossy(&before[begin..]).into_owned();
            let body = at + 6 + if rest.get(at + 6) == Some(&b'\r') { 2 } else { 1 };
            let behind = rest.get(body..)?;
            let said = about.split("/Length ").nth(1).and_then(direct_length).filter(|length| *length <= behind.len());
            let length = said.or_else(|| find(behind, b"endstream"))?;
            rest = &behind[length..];
            rest = &rest[find(rest, b"endstream").map_or(rest.len(), |at| at + 9)..];
            // The catalogue has a list of them by the same word with an `s`.
            if !about.replace("/EmbeddedFiles", "").contains("/EmbeddedFile") {
                continue;
            }
            let packed = &behind[..length];
            let text = match about.contains("/FlateDecode") {
                true => inflated(packed),
                false if said.is_none() => String::from_utf8(packed.trim_ascii_end().to_vec()).ok(),
                false => String::from_utf8(packed.to_vec()).ok(),
            };
            if text.is_some() {
                return text;
            }
        }
    })
}

/// A length that is said in the dictionary itself, and not in an object of its own, as in `12 0 R`.
fn direct_length(text: &str) -> Option<usize> {
    let mut words = text.trim_start().split(|c: char| c.is_whitespace() || matches!(c, '/' | '>'));
    let length = words.next()?.parse().ok()?;
    let is_reference = text.split_whitespace().nth(2).is_some_and(|word| word.starts_with('R'));
    (!is_reference).then_some(length)
}

/// The source text that a PDF carries. Others may attach files, too: without the comment only what begins a block is a source.
pub(super) fn source(bytes: &[u8]) -> Option<String> {
    let begins_block = |line: &str| line.split_whitespace().next().is_some_and(|word| BLOCKS.contains(&word));
    let is_source = |text: &String| text.lines().any(|line| !line.starts_with(' ') && begins_block(line));
    let is_known = comment(bytes).is_some();
    attached(bytes).find(|text| is_known || is_source(text))
}

/// The name of the file that it was drawn from.
pub(super) fn file(bytes: &[u8]) -> Option<String> {
    value(comment(bytes)?, "file").map(unescape)
}
