//! Pages: one file each, with everything they need.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use bathygram_core::markup;
use std::fmt::Write;

/// How all pages look.
const STYLE: &str = "\
body { margin: 32px auto; max-width: 1200px; padding: 0 24px; font: 16px/1.5 'Fira Sans', system-ui, sans-serif;\
 color: #17293a; background: #fcfdfe; }\n\
h1 { font-size: 24px; }\nh2 { font-size: 20px; margin: 32px 0 8px; }\n\
code { font: 0.92em 'Fira Mono', ui-monospace, monospace; background: #e8f1f7; padding: 0 4px; border-radius: 3px; }\n";

/// A page. `style` and `script` are the program's own; `body` is HTML.
pub fn page(title: &str, style: &str, body: &str, script: &str) -> String {
    let title = escaped(title);
    format!(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{title}</title>\n\
         <style>\n{STYLE}{style}</style>\n</head>\n<body>\n<main>\n{body}</main>\n<script>\n{script}</script>\n</body>\n</html>\n"
    )
}

/// A drawing as an image: nothing in it can act on the page.
pub fn image(svg: &str, alternative: &str) -> String {
    format!("<img alt=\"{}\" src=\"{}\">", escaped(alternative), data_uri(svg))
}

/// A drawing as an address that holds it.
pub fn data_uri(svg: &str) -> String {
    format!("data:image/svg+xml;base64,{}", STANDARD.encode(svg))
}

/// Text as HTML.
pub fn escaped(text: &str) -> String {
    markup::escape(text).replace('\'', "&#39;")
}

/// The same of several lines: their ends stay.
pub fn escaped_lines(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + text.len() / 8);
    for (i, line) in text.split('\n').enumerate() {
        if i > 0 {
            out.push('\n');
        }
        out.push_str(&escaped(line.strip_suffix('\r').unwrap_or(line)));
    }
    out
}

/// The same, with what stands in backquotes as code.
pub fn with_code(text: &str) -> String {
    let mut out = String::new();
    for (i, part) in text.split('`').enumerate() {
        let part = escaped(part);
        let _ = if i % 2 == 1 { write!(out, "<code>{part}</code>") } else { write!(out, "{part}") };
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_in_a_text_becomes_a_tag() {
        assert_eq!(escaped("<a href=\"x\">&'"), "&lt;a href=&quot;x&quot;&gt;&amp;&#39;");
        assert_eq!(with_code("`a<b` is new"), "<code>a&lt;b</code> is new");
        assert!(
            image("<svg/>", "\"><script>")
                .starts_with("<img alt=\"&quot;&gt;&lt;script&gt;\" src=\"data:image/svg+xml;base64,")
        );
    }
}
