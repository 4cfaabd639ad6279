//! The source inside the picture, last in the file: compressed, with its digest and the tool's
//! version. No time stamp and no path of a machine.

use crate::source::Source;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use flate2::Compression;
use sha2::{Digest, Sha256};
use std::fmt::Write as _;
use std::io::{Read, Write as _};
use std::sync::OnceLock;

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
    /// The project's own pictograms that it may show, with what they hold; empty without any.
    pub icons: &'a str,
    /// The digest of the earlier picture whose places were kept. It is told, and not part of the digest: a picture is
    /// fresh when its text is.
    pub earlier: Option<&'a str>,
    /// What all drawings of the same texts carry.
    pub carried: &'a Carried,
    /// The picture beside this one that carries the text, where that is long and this is one of many.
    pub text_in: Option<&'a str>,
}

/// What all drawings of the same texts carry, made once.
#[derive(Clone, Debug, Default)]
pub struct Carried {
    packed: OnceLock<String>,
    digest: OnceLock<[u8; 32]>,
}

/// A text longer than this, packed, is carried by one picture of a stack only, in bytes.
const LONG: usize = 24 * 1024;

/// A text longer than this is packed in less time, in bytes.
const LARGE: usize = 128 * 1024;

/// A source text is at most this long when it is read back, in bytes.
const MAX_SOURCE: u64 = 64 * 1024 * 1024;

/// What a picture depends on, as one figure: the text and those it takes from, which diagram of it, and
/// the tool's version.
pub fn digest(provenance: &Provenance<'_>) -> String {
    let texts = provenance.carried.digest.get_or_init(|| {
        let imports = provenance.imports.iter().flat_map(|s| [s.name.as_bytes(), s.text.as_bytes()]);
        let icons = Some(provenance.icons.as_bytes()).filter(|i| !i.is_empty());
        hash(std::iter::once(provenance.source.as_bytes()).chain(imports).chain(icons))
    });
    let own = [env!("CARGO_PKG_VERSION"), provenance.file, provenance.name].map(str::as_bytes);
    let mut out = String::from("sha256:");
    for byte in hash(own.into_iter().chain([&texts[..]])) {
        let _ = write!(out, "{byte:02x}");
    }
    out
}

/// The hash of parts, none of which runs into the next.
fn hash<'a>(parts: impl Iterator<Item = &'a [u8]>) -> [u8; 32] {
    let mut hash = Sha256::new();
    for part in parts {
        hash.update((part.len() as u64).to_le_bytes());
        hash.update(part);
    }
    hash.finalize().into()
}

/// Writes the metadata: the source, and the places of everything.
pub(super) fn write(out: &mut String, provenance: &Provenance<'_>, places: &str) {
    let earlier = provenance.earlier.map_or(String::new(), |d| format!(" earlier=\"{}\"", super::escape(d)));
    let source = provenance.carried.packed.get_or_init(|| packed(provenance.source));
    let text_in = provenance.text_in.filter(|_| source.len() > LONG);
    let (source, elsewhere) = match text_in {
        Some(picture) => ("", format!(" text-in=\"{}.svg\"", super::as_link(picture))),
        None => (source.as_str(), String::new()),
    };
    let _ = write!(
        out,
        "<metadata><source xmlns=\"urn:bathygram:source:1\" tool=\"bathygram {}\" file=\"{}\" name=\"{}\" digest=\"{}\" seal=\"{}\"\
         {earlier}{elsewhere} encoding=\"zlib+base64\">{source}</source>",
        env!("CARGO_PKG_VERSION"),
        super::escape(provenance.file),
        super::escape(provenance.name),
        digest(provenance),
        crate::picture::open_seal()
    );
    if !places.is_empty() {
        let _ =
            write!(out, "<places xmlns=\"urn:bathygram:places:1\" packing=\"zlib+base64\">{}</places>", packed(places));
    }
    out.push_str("</metadata>\n");
}

fn packed(text: &str) -> String {
    // The last tenth of a long text's size is not worth the time it takes.
    let level = if text.len() > LARGE { Compression::new(4) } else { Compression::best() };
    let mut encoder = flate2::write::ZlibEncoder::new(Vec::new(), level);
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
    inflated(&STANDARD.decode(rest.split('<').next()?).ok()?)
}

/// A text out of its packed bytes, up to a limit.
pub(crate) fn inflated(packed: &[u8]) -> Option<String> {
    let mut text = String::new();
    flate2::read::ZlibDecoder::new(packed).take(MAX_SOURCE).read_to_string(&mut text).ok()?;
    Some(text)
}

/// The digest that a picture carries.
pub fn read_digest(svg: &str) -> Option<&str> {
    read_attribute(svg, "digest")
}

/// An attribute of the source that a picture carries, as it is written.
pub(crate) fn read_attribute<'a>(svg: &'a str, name: &str) -> Option<&'a str> {
    let tail = &svg[svg.rfind("<metadata><source ")?..];
    value(&tail[..tail.find("encoding=")?], name)
}

/// A value between double quotes behind its name, as it is written.
pub(crate) fn value<'a>(text: &'a str, name: &str) -> Option<&'a str> {
    let at = text.find(&format!(" {name}=\""))? + name.len() + 3;
    text[at..].split('"').next()
}

/// The source text that a picture carries; `None` if there is none, or another picture of its stack carries it.
pub fn read_source(svg: &str) -> Option<String> {
    let tail = &svg[svg.rfind("<metadata>")?..];
    let packed = &tail[tail.find("encoding=\"zlib+base64\">")? + 23..];
    if packed.starts_with('<') { None } else { unpacked(packed) }
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
            icons: "",
            earlier: None,
            carried: &Carried::default(),
            text_in: None,
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
