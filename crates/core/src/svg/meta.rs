//! The source inside the picture, last in the file: compressed, with its digest and the tool's
//! version. No time stamp and no path of a machine.

use crate::source::Source;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use flate2::Compression;
use sha2::{Digest, Sha256};
use std::fmt::Write as _;
use std::io::{Read, Write as _};

/// Where a drawing comes from.
#[derive(Clone, Copy, Debug)]
pub struct Provenance<'a> {
    /// The source file's name, relative to the project.
    pub file: &'a str,
    /// The diagram's or sheet's name.
    pub name: &'a str,
    /// The source text.
    pub source: &'a str,
    /// The texts of other files that it takes from.
    pub imports: &'a [Source],
    /// The digest of the earlier picture whose places were kept. It is told, and not part of the digest: a picture is
    /// fresh when its text is.
    pub earlier: Option<&'a str>,
}

/// A source text is at most this long when it is read back, in bytes.
const MAX_SOURCE: u64 = 64 * 1024 * 1024;

/// What a picture depends on, as one figure: the text and those it takes from, which diagram of it, and
/// the tool's version.
pub fn digest(provenance: &Provenance<'_>) -> String {
    let mut hash = Sha256::new();
    let imports = provenance.imports.iter().flat_map(|s| [s.name.as_str(), s.text.as_str()]);
    let own = [env!("CARGO_PKG_VERSION"), provenance.file, provenance.name, provenance.source];
    for part in own.into_iter().chain(imports) {
        hash.update((part.len() as u64).to_le_bytes());
        hash.update(part);
    }
    let mut out = String::from("sha256:");
    for byte in hash.finalize() {
        let _ = write!(out, "{byte:02x}");
    }
    out
}

/// Writes the metadata: the source, and the places of everything.
pub(super) fn write(out: &mut String, provenance: &Provenance<'_>, places: &str) {
    let earlier = provenance.earlier.map_or(String::new(), |d| format!(" earlier=\"{}\"", super::escape(d)));
    let _ = write!(
        out,
        "<metadata><source xmlns=\"urn:bathygram:source:1\" tool=\"bathygram {}\" file=\"{}\" name=\"{}\" digest=\"{}\"\
         {earlier} encoding=\"zlib+base64\">{}</source>",
        env!("CARGO_PKG_VERSION"),
        super::escape(provenance.file),
        super::escape(provenance.name),
        digest(provenance),
        packed(provenance.source)
    );
    if !places.is_empty() {
        let _ =
            write!(out, "<places xmlns=\"urn:bathygram:places:1\" packing=\"zlib+base64\">{}</places>", packed(places));
    }
    out.push_str("</metadata>\n");
}

fn packed(text: &str) -> String {
    let mut encoder = flate2::write::ZlibEncoder::new(Vec::new(), Compression::best());
    let packed = encoder.write_all(text.as_bytes()).and_then(|()| encoder.finish()).unwrap_or_default();
    STANDARD.encode(packed)
}

/// The places that a picture carries, as the notation wrote them.
pub fn read_places(svg: &str) -> Option<String> {
    let tail = &svg[svg.rfind("<metadata>")?..];
    unpacked(&tail[tail.find("packing=\"zlib+base64\">")? + 22..])
}

/// The text that is packed up to the next tag.
fn unpacked(rest: &str) -> Option<String> {
    let packed = STANDARD.decode(rest.split('<').next()?).ok()?;
    let mut text = String::new();
    flate2::read::ZlibDecoder::new(packed.as_slice()).take(MAX_SOURCE).read_to_string(&mut text).ok()?;
    Some(text)
}

/// The digest that a picture carries.
pub fn read_digest(svg: &str) -> Option<&str> {
    let tail = &svg[svg.rfind("<metadata>")?..];
    let rest = &tail[tail.find("digest=\"")? + 8..];
    rest.split('"').next()
}

/// The source text that a picture carries.
pub fn read_source(svg: &str) -> Option<String> {
    let tail = &svg[svg.rfind("<metadata>")?..];
    unpacked(&tail[tail.find("encoding=\"zlib+base64\">")? + 23..])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_source_comes_back() {
        let provenance = Provenance {
            file: "a \"b\".bathy",
            name: "x",
            source: "flow x\n  \"Grüße </metadata>\"\n",
            imports: &[],
            earlier: None,
        };
        let mut out = String::new();
        write(&mut out, &provenance, "n 1 2 3 4 a");
        assert_eq!(read_places(&out).as_deref(), Some("n 1 2 3 4 a"));
        assert_eq!(read_source(&out).as_deref(), Some(provenance.source));
        assert_eq!(read_digest(&out), Some(digest(&provenance).as_str()));
        let other = Provenance { name: "y", ..provenance };
        assert_ne!(digest(&other), digest(&provenance));
    }
}
