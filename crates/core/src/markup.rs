//! Text as markup holds it: XML, HTML, and links in them.

use std::fmt::Write;

/// Text as XML, and HTML, hold it, in attributes between double quotes too; characters that XML forbids become the
/// replacement character.
pub fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\n' | '\t' => out.push(' '),
            c if c.is_control() || matches!(c, '\u{fffe}' | '\u{ffff}') => out.push('\u{fffd}'),
            c => out.push(c),
        }
    }
    out
}

/// A text with at most this many characters; where more are left out, `…` says so.
pub fn shortened(text: &str, most: usize) -> std::borrow::Cow<'_, str> {
    match text.char_indices().nth(most) {
        None => text.into(),
        Some(_) => {
            let end = text.char_indices().nth(most.saturating_sub(1)).map_or(0, |(at, _)| at);
            format!("{}\u{2026}", text[..end].trim_end()).into()
        }
    }
}

/// The text that [`escape`] wrote.
pub fn unescape(written: &str) -> String {
    let references = [("&lt;", "<"), ("&gt;", ">"), ("&quot;", "\""), ("&amp;", "&")];
    references.iter().fold(written.to_owned(), |text, (from, to)| text.replace(from, to))
}

/// A file's name as a link to it from its own folder.
pub fn as_link(file: &str) -> String {
    let mut out = String::new();
    for byte in file.bytes() {
        if byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'-' | b'.') {
            out.push(char::from(byte));
        } else {
            let _ = write!(out, "%{byte:02X}");
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_texts_are_cut_where_that_is_seen() {
        assert_eq!(shortened("süd", 3), "süd");
        assert_eq!(shortened("süd west", 5), "süd\u{2026}");
        assert_eq!(shortened("südwest", 4), "süd\u{2026}");
    }

    #[test]
    fn links_hold_nothing_but_plain_letters() {
        assert_eq!(as_link("hafen-süd\"."), "hafen-s%C3%BCd%22.");
    }

    #[test]
    fn nothing_escapes_into_markup() {
        assert_eq!(escape("<script a=\"&\">\u{0}\n"), "&lt;script a=&quot;&amp;&quot;&gt;\u{fffd} ");
    }
}
