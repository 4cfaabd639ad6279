//! A picture to hand on: as a link that holds it, and as lines for Markdown and HTML with words for those who cannot see it.

use crate::html::escaped;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use bathygram_core::markup;

/// An alternative text in Markdown has at most this many letters.
// It stands in the middle of what people read and edit.
const SHORT: usize = 200;

/// A picture to hand on.
#[derive(Clone, Copy, Debug)]
pub struct Shared<'a> {
    /// The picture.
    pub svg: &'a str,
    /// Its title.
    pub title: &'a str,
    /// What it shows, in words.
    pub description: &'a str,
    /// Its width and height in px.
    pub size: (f64, f64),
}

/// A link that holds the picture: a page that unpacks it, for the address line of a browser. It asks nothing of any server.
pub fn link(shared: Shared<'_>) -> String {
    let packed = miniz_oxide::deflate::compress_to_vec(shared.svg.as_bytes(), 9);
    let packed = STANDARD.encode(packed);
    let title = escaped(shared.title);
    // The stream API of browsers unpacks it (Compression Standard, WHATWG).
    let page = format!(
        "<!DOCTYPE html><meta charset=utf-8><title>{title}</title><body style=margin:0><script>\
         (async p=>{{let b=Uint8Array.from(atob(p),c=>c.charCodeAt(0)),\
         s=new Blob([b]).stream().pipeThrough(new DecompressionStream('deflate-raw'));\
         document.body.innerHTML=await new Response(s).text()}})('{packed}')</script>"
    );
    format!("data:text/html;charset=utf-8,{}", encoded(&page))
}

/// Text in an address: what would end it or mean something else is written as its bytes (RFC 3986).
fn encoded(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + text.len() / 8);
    for byte in text.bytes() {
        match byte {
            b'A'..=b'Z' | b'a'..=b'z' | b'0'..=b'9' => out.push(char::from(byte)),
            b'-' | b'_' | b'.' | b'~' | b'!' | b'*' | b'(' | b')' | b';' | b',' | b'/' | b'?' | b':' | b'@' | b'=' => {
                out.push(char::from(byte));
            }
            byte => out.push_str(&format!("%{byte:02X}")),
        }
    }
    out
}

/// The picture as the address of an image.
pub fn image(shared: Shared<'_>) -> String {
    format!("data:image/svg+xml;base64,{}", STANDARD.encode(shared.svg))
}

/// A line of Markdown that shows the picture at an address.
pub fn markdown(shared: Shared<'_>, address: &str) -> String {
    let words = short(&format!("{}. {}", shared.title, shared.description));
    let mut escaped = String::new();
    for letter in words.chars() {
        if matches!(letter, '\\' | '[' | ']' | '<' | '>' | '`' | '*' | '_' | '!' | '&') {
            escaped.push('\\');
        }
        escaped.push(letter);
    }
    format!("![{escaped}]({address})\n")
}

/// Whole sentences, as far as they have room.
fn short(words: &str) -> String {
    if words.chars().count() <= SHORT {
        return words.to_owned();
    }
    let cut: String = words.chars().take(SHORT).collect();
    let end = cut.rfind(['.', ';']).filter(|end| *end > 0);
    end.map_or_else(|| format!("{}…", cut.trim_end()), |end| format!("{}.", &cut[..end]))
}

/// Lines of HTML that show the picture at an address, as a figure with its title.
pub fn html(shared: Shared<'_>, address: &str) -> String {
    let [title, words] = [shared.title, shared.description].map(markup::escape);
    let (width, height) = shared.size;
    let address = markup::escape(address);
    format!(
        "<figure>\n  <img src=\"{address}\" width=\"{width}\" height=\"{height}\" alt=\"{words}\">\n  \
         <figcaption>{title}</figcaption>\n</figure>\n"
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    const SHARED: Shared<'_> = Shared {
        svg: "<svg/>",
        title: "A [bay] <b>",
        description: "Flow chart with \"2\" steps. A leads to B.",
        size: (10.0, 20.0),
    };

    #[test]
    fn lines_hold_nothing_but_text() {
        let line = markdown(SHARED, "pictures/bay.svg");
        assert_eq!(line, "![A \\[bay\\] \\<b\\>. Flow chart with \"2\" steps. A leads to B.](pictures/bay.svg)\n");
        let lines = html(SHARED, "a.svg?\"x\"");
        assert!(lines.contains("alt=\"Flow chart with &quot;2&quot; steps. A leads to B.\""), "{lines}");
        assert!(
            lines.contains("<figcaption>A [bay] &lt;b&gt;</figcaption>")
                && lines.contains("src=\"a.svg?&quot;x&quot;\"")
        );
        assert_eq!(short(&"Long. ".repeat(100)).chars().count(), 197);
        assert_eq!(image(SHARED), "data:image/svg+xml;base64,PHN2Zy8+");
    }

    #[test]
    fn a_link_has_no_letter_that_ends_it() {
        let link = link(SHARED);
        assert!(link.starts_with("data:text/html;charset=utf-8,") && !link.contains([' ', '"', '<', '#', '\n', '\'']));
    }
}
