//! What an SVG carries: the source inside the picture, last in the file, compressed, with its digest, its seal and the tool's
//! version; and the places of everything. No time stamp and no path of a machine.

use super::carried::Carried;
use super::digest::{Provenance, digest};
use super::inflate::{packed, unpacked};
use super::seal::{Bytes, DIGITS, digest_without, hex, open_seal};
use crate::markup::{as_link, escape, unescape};
use std::fmt::Write;

/// A text longer than this, packed, is carried by one picture of a stack only, in bytes.
// A stack of a large model would carry its text a thousand times.
const LONG: usize = 24 * 1024;

/// Writes the metadata: the source, and the places of everything.
///
/// Returns where the open seal begins.
pub(crate) fn write_metadata(out: &mut String, provenance: &Provenance<'_>, places: &str) -> usize {
    let earlier = provenance.earlier.map_or(String::new(), |d| format!(" earlier=\"{}\"", escape(d)));
    let source = provenance.packed.source.get_or_init(|| packed(provenance.source));
    let text_in = provenance.text_in.filter(|_| source.len() > LONG);
    let (source, elsewhere) = match text_in {
        Some(picture) => ("", format!(" text-in=\"{}.svg\"", as_link(picture))),
        None => (source.as_str(), String::new()),
    };
    let _ = write!(
        out,
        "<metadata><source xmlns=\"urn:bathygram:source:1\" tool=\"bathygram {}\" file=\"{}\" name=\"{}\" digest=\"{}\" seal=\"",
        env!("CARGO_PKG_VERSION"),
        escape(provenance.file),
        escape(provenance.name),
        digest(provenance)
    );
    let seal_at = out.len();
    let _ = write!(out, "{}\"{earlier}{elsewhere} encoding=\"zlib+base64\">{source}</source>", open_seal());
    if !places.is_empty() {
        let _ =
            write!(out, "<places xmlns=\"urn:bathygram:places:1\" packing=\"zlib+base64\">{}</places>", packed(places));
    }
    out.push_str("</metadata>\n");
    seal_at
}

/// The same as a text of its own, for forms that are no SVG; its seal is open.
pub fn metadata(provenance: &Provenance<'_>, places: &str) -> String {
    let mut out = String::new();
    write_metadata(&mut out, provenance, places);
    out
}

/// The places that a picture carries, as the notation wrote them.
pub fn read_places(svg: &str) -> Option<String> {
    let tail = &svg[svg.rfind("<metadata>")?..];
    unpacked(&tail[tail.find("packing=\"zlib+base64\">")? + 22..])
}

/// The digest that a picture carries.
pub fn read_digest(svg: &str) -> Option<&str> {
    read_attribute(svg, "digest")
}

/// An attribute of the source that a picture carries, as it is written.
pub(super) fn read_attribute<'a>(svg: &'a str, name: &str) -> Option<&'a str> {
    let own = svg.rfind("<metadata><source ").and_then(|at| {
        let tail = &svg[at..];
        value(&tail[..tail.find("encoding=")?], name)
    });
    own.or_else(|| Saved::find(svg)?.attribute(name))
}

/// A value between double quotes behind its name, as it is written.
pub(super) fn value<'a>(text: &'a str, name: &str) -> Option<&'a str> {
    let at = text.find(&format!(" {name}=\""))? + name.len() + 3;
    text[at..].split('"').next()
}

/// The source text that a picture carries; `None` if there is none, or another picture of its stack carries it.
pub fn read_source(svg: &str) -> Option<String> {
    let own = svg.rfind("<metadata>").and_then(|at| {
        let tail = &svg[at..];
        let packed = &tail[tail.find("encoding=\"zlib+base64\">")? + 23..];
        if packed.starts_with('<') { None } else { unpacked(packed) }
    });
    own.or_else(|| Saved::find(svg)?.source())
}

/// The namespace of the source.
const NAMESPACE: &str = "urn:bathygram:source:1";

/// The source in a picture that another program saved again: with other spaces, quotes, prefixes, or order.
struct Saved<'a> {
    /// What stands in the opening tag behind its name.
    attributes: &'a str,
    content: &'a str,
}

impl<'a> Saved<'a> {
    /// Finds the element by its namespace, wherever that is declared.
    fn find(text: &'a str) -> Option<Self> {
        let at = text.rfind(NAMESPACE)?;
        // Behind `xmlns="` the element is called `source`, behind `xmlns:p="` it is called `p:source`.
        let before = text[..at].strip_suffix(['"', '\''])?.trim_end().strip_suffix('=')?.trim_end();
        let word = &before[before.rfind(|c: char| c.is_whitespace() || c == '<').map_or(0, |i| i + 1)..];
        let name = match word.strip_prefix("xmlns")? {
            "" => "source".to_owned(),
            prefix => format!("{}:source", prefix.strip_prefix(':')?),
        };
        let tag = format!("<{name}");
        let mut tags = text.rmatch_indices(&tag).map(|(at, tag)| &text[at + tag.len()..]);
        let rest = tags.find(|rest| rest.starts_with(|c: char| c.is_whitespace()))?;
        let mut quote = None;
        let end = rest.char_indices().find(|(_, c)| {
            match quote {
                Some(open) if open == *c => quote = None,
                None if matches!(c, '"' | '\'') => quote = Some(*c),
                _ => {}
            }
            *c == '>' && quote.is_none()
        });
        let (attributes, content) = rest.split_at(end?.0);
        let is_empty = attributes.ends_with('/');
        let content = if is_empty { "" } else { content[1..].split('<').next()? };
        Some(Self { attributes, content })
    }

    /// The value of an attribute, as it is written.
    fn attribute(&self, name: &str) -> Option<&'a str> {
        let mut rest = self.attributes;
        while let Some((word, behind)) = rest.split_once('=') {
            let behind = behind.trim_start();
            let quote = behind.chars().next().filter(|c| matches!(c, '"' | '\''))?;
            let (value, next) = behind[1..].split_once(quote)?;
            if word.trim() == name {
                return Some(value);
            }
            rest = next;
        }
        None
    }

    fn source(&self) -> Option<String> {
        let packed: String = self.content.chars().filter(|c| !c.is_whitespace()).collect();
        if packed.is_empty() { None } else { unpacked(&packed) }
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

/// What an SVG carries.
pub(super) fn read(svg: &str) -> Option<Carried> {
    let digest = read_attribute(svg, "digest")?.to_owned();
    let is_intact = seal_of(svg).is_some_and(|at| {
        let seal = hex(&digest_without(svg.as_bytes(), at, DIGITS, Bytes::Text));
        svg.get(at..at + DIGITS) == Some(&seal)
    });
    Some(Carried { digest, is_intact })
}

/// Where the seal of an SVG begins.
fn seal_of(svg: &str) -> Option<usize> {
    let seal = read_attribute(svg, "seal").filter(|s| s.len() == DIGITS)?;
    Some(seal.as_ptr() as usize - svg.as_ptr() as usize)
}

/// Seals an SVG whose open seal begins at a byte.
pub(crate) fn seal(mut svg: String, at: usize) -> String {
    let seal = hex(&digest_without(svg.as_bytes(), at, DIGITS, Bytes::Text));
    svg.replace_range(at..at + DIGITS, &seal);
    svg
}

/// Seals a text that holds a picture, such as a page, as a whole.
pub fn sealed(mut text: String) -> String {
    if let Some(at) = seal_of(&text) {
        text.replace_range(at..at + DIGITS, &open_seal());
        return seal(text, at);
    }
    text
}

#[cfg(test)]
mod tests {
    use super::super::digest::Packed;
    use super::*;

    #[test]
    fn the_source_comes_back() {
        let provenance = Provenance {
            file: "a \"b\".bathy",
            name: "x",
            source: "flow x\n  \"Grüße </metadata>\"\n",
            imports: &[],
            icons: "",
            look: "",
            earlier: None,
            packed: &Packed::default(),
            text_in: None,
        };
        let mut out = String::new();
        write_metadata(&mut out, &provenance, "n 1 2 3 4 a");
        assert_eq!(read_places(&out).as_deref(), Some("n 1 2 3 4 a"));
        assert_eq!(read_source(&out).as_deref(), Some(provenance.source));
        assert_eq!(read_digest(&out), Some(digest(&provenance).as_str()));
        let other = Provenance { name: "y", ..provenance };
        assert_ne!(digest(&other), digest(&provenance));
        // As other programs save it again.
        let packed = out.split("zlib+base64\">").nth(1).and_then(|p| p.split('<').next()).expect("the source");
        let broken: String =
            packed.as_bytes().chunks(20).map(|c| format!("\n    {}", String::from_utf8_lossy(c))).collect();
        let digest = digest(&provenance);
        for saved in [
            format!(
                "<svg>\n  <metadata>\n    <source\n       digest='{digest}'\n       name = 'x' xmlns = 'urn:bathygram:source:1'\n       encoding='zlib+base64'>{broken}\n    </source>\n  </metadata>\n</svg>"
            ),
            format!(
                "<s:svg xmlns:s=\"http://www.w3.org/2000/svg\" xmlns:ns1=\"urn:bathygram:source:1\"><s:metadata><ns1:source tool=\"a > b\" digest=\"{digest}\" name=\"x\">{packed}</ns1:source></s:metadata></s:svg>"
            ),
        ] {
            assert_eq!(read_source(&saved).as_deref(), Some(provenance.source), "{saved}");
            assert_eq!((read_digest(&saved), read_attribute(&saved, "name")), (Some(digest.as_str()), Some("x")));
            assert!(!read(&saved).expect("ours").is_intact, "it is not as it was drawn");
        }
        for other in [
            "<svg/>",
            "urn:bathygram:source:1",
            "<a xmlns=\"urn:bathygram:source:1",
            "<source xmlns='urn:bathygram:source:1'/>",
        ] {
            assert_eq!(read_source(other), None, "{other}");
        }
    }
}
