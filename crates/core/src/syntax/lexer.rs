//! Text to tokens. Input: a source text. Output: tokens that cover every byte of it, in order.
//! Guarantees: no byte is lost, linear time, no recursion. Unclosed texts are reported, and end at
//! the line's end.

use crate::diag::{Certainty, Diagnostics, Fix, Message};
use crate::source::{Source, Span, TextEdit};

/// What a token is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TokenKind {
    /// Spaces and tabs.
    Space,
    /// One line break.
    Newline,
    /// `//` to the line's end.
    Comment,
    /// Letters, digits, `_`, `-`.
    Word,
    /// A name in backquotes.
    Quoted,
    /// `"…"`.
    Text,
    /// `"""…"""`.
    TextBlock,
    /// `..`.
    Range,
    /// Any other single character.
    Mark,
}

impl TokenKind {
    /// Whether it is a text between quotes.
    fn is_text(self) -> bool {
        matches!(self, Self::Text | Self::TextBlock)
    }
}

/// A token and its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Token {
    /// What it is.
    pub kind: TokenKind,
    /// Where it stands.
    pub span: Span,
}

fn is_word(c: char) -> bool {
    c.is_alphanumeric() || c == '_' || c == '-'
}

/// Whether a letter is a space between words; other white space of Unicode is a mark like any other.
pub(crate) fn is_space(c: char) -> bool {
    matches!(c, ' ' | '\t' | '\r' | '\u{a0}' | '\u{feff}')
}

/// The first carriage return without a line feed behind it: nobody sees whether a line ends there.
pub fn lone_return(text: &str) -> Option<usize> {
    text.match_indices('\r').map(|(at, _)| at).find(|at| text.as_bytes().get(at + 1) != Some(&b'\n'))
}

/// Cuts a text into tokens.
pub(super) fn tokens(source: &Source, diags: &mut Diagnostics) -> Vec<Token> {
    let text = source.text.as_str();
    if let Some(at) = lone_return(text) {
        diags.report(source.span(at, at + 1), Message::LineEnds);
    }
    let limit = end_of_read(text);
    let end = limit.as_ref().map_or(text.len(), |(end, _)| *end);
    if let Some((end, message)) = limit {
        diags.report(source.span(end, end), message);
    }
    let mut found = Vec::with_capacity(end / 4);
    for (kind, at, length) in Cut::new(&text[..end]) {
        let span = source.span(at, at + length);
        report_unclosed(&text[at..at + length], kind, span, diags);
        if kind.is_text() && length > MAX_TEXT {
            diags.report(source.span(at, at + 1), Message::TextTooLong { limit: MAX_TEXT });
        }
        found.push(Token { kind, span });
    }
    if end < text.len() {
        // Nothing is lost: what is not read is one token.
        found.push(Token { kind: TokenKind::Comment, span: source.span(end, text.len()) });
    }
    found
}

/// A text cut into tokens: the kind of each, where it begins, and its length.
struct Cut<'a> {
    text: &'a str,
    at: usize,
    before: Before,
}

impl<'a> Cut<'a> {
    fn new(text: &'a str) -> Self {
        Self { text, at: 0, before: Before::Space }
    }
}

impl Iterator for Cut<'_> {
    type Item = (TokenKind, usize, usize);

    fn next(&mut self) -> Option<Self::Item> {
        let (rest, at) = (&self.text[self.at..], self.at);
        let (kind, length) = next(rest, rest.chars().next()?, self.before);
        let is_space = matches!(kind, TokenKind::Space | TokenKind::Newline);
        self.before = if is_space { Before::Space } else { Before::Word };
        self.at += length;
        Some((kind, at, length))
    }
}

/// A text between quotes may have this many bytes.
// Some two hundred pages. One of megabytes is measured for as many seconds, and nobody reads it.
const MAX_TEXT: usize = 256 * 1024;

/// All texts between quotes of a file together may have this many bytes.
// Each of them is measured, drawn and packed, in every form of the picture.
const MAX_TEXTS: usize = 8 * 1024 * 1024;

/// A file may have this many lines.
// Whoever draws so much has a program write it; what has more lines is another kind of file.
pub(super) const MAX_LINES: usize = 1_000_000;

/// Where the part of a text ends that is read, and which limit it meets; `None` if all of it is.
fn end_of_read(text: &str) -> Option<(usize, Message)> {
    // Most texts have fewer bytes.
    let line = (text.len() > MAX_LINES).then(|| text.match_indices('\n').nth(MAX_LINES - 1)).flatten();
    let line = line.map(|(at, _)| at + 1).filter(|end| *end < text.len());
    let too_much = (text.len() > MAX_TEXTS).then(|| end_of_texts(text)).flatten();
    match (line, too_much) {
        (Some(line), too_much) if too_much.is_none_or(|end| line <= end) => {
            Some((line, Message::TooManyLines { limit: MAX_LINES }))
        }
        (_, too_much) => too_much.map(|end| (end, Message::TooMuchText { limit: MAX_TEXTS })),
    }
}

/// Where the line begins whose texts are more than a file may have.
fn end_of_texts(text: &str) -> Option<usize> {
    let mut all = 0;
    let (_, at, _) = Cut::new(text).filter(|(kind, ..)| kind.is_text()).find(|(.., length)| {
        all += length;
        all > MAX_TEXTS
    })?;
    Some(text[..at].rfind('\n').map_or(0, |end| end + 1))
}

/// Whether all of a text is read.
pub fn is_read_whole(text: &str) -> bool {
    end_of_read(text).is_none()
}

/// What stands before a token: two strokes begin a comment after a space only.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Before {
    Space,
    Word,
}

fn next(rest: &str, first: char, before: Before) -> (TokenKind, usize) {
    let line_end = || row_length(rest);
    match first {
        '\n' => (TokenKind::Newline, 1),
        c if is_space(c) => (TokenKind::Space, run_length(rest, is_space)),
        '/' if before == Before::Space && rest.starts_with("//") => (TokenKind::Comment, line_end()),
        '"' if rest.starts_with("\"\"\"") => {
            let end = rest[3..].find("\"\"\"").map(|i| i + 6);
            (TokenKind::TextBlock, end.unwrap_or(line_end()))
        }
        '"' => (TokenKind::Text, text_length(rest)),
        '`' => {
            let end = rest[1..].find(['`', '\n']).map_or(rest.len(), |i| i + 1);
            let is_closed = rest[end..].starts_with('`');
            (TokenKind::Quoted, if is_closed { end + 1 } else { without_return(&rest[..end]) })
        }
        '.' if rest.starts_with("..") => (TokenKind::Range, 2),
        c if is_word(c) => (TokenKind::Word, run_length(rest, is_word)),
        c => (TokenKind::Mark, c.len_utf8()),
    }
}

/// Length of the letters of one sort at the beginning of a text.
fn run_length(rest: &str, keep: fn(char) -> bool) -> usize {
    // Most letters are bytes of their own, and need no decoding.
    let plain = rest.bytes().position(|b| !b.is_ascii() || !keep(char::from(b))).unwrap_or(rest.len());
    let behind = &rest[plain..];
    if behind.bytes().next().is_none_or(|b| b.is_ascii()) {
        return plain;
    }
    plain + behind.find(|c| !keep(c)).unwrap_or(behind.len())
}

/// Length of what is left of a row, its line break left out.
fn row_length(rest: &str) -> usize {
    without_return(&rest[..rest.find('\n').unwrap_or(rest.len())])
}

/// Length of a row without carriage returns at its end.
fn without_return(row: &str) -> usize {
    row.trim_end_matches('\r').len()
}

/// Length of a text in quotes, its quotes included; it ends at the line's end at the latest.
fn text_length(rest: &str) -> usize {
    let mut escaped = false;
    // All that counts here is a byte of its own.
    for (i, b) in rest.bytes().enumerate().skip(1) {
        match b {
            b'\n' => return without_return(&rest[..i]),
            _ if escaped => escaped = false,
            b'\\' => escaped = true,
            b'"' => return i + 1,
            _ => {}
        }
    }
    without_return(rest)
}

fn report_unclosed(token: &str, kind: TokenKind, span: Span, diags: &mut Diagnostics) {
    let closed = match kind {
        TokenKind::Text => token.len() > 1 && token.ends_with('"') && !ends_escaped(token),
        TokenKind::TextBlock => token.len() >= 6 && token.ends_with("\"\"\""),
        TokenKind::Quoted => token.len() > 1 && token.ends_with('`'),
        _ => true,
    };
    if !closed {
        let mark = match kind {
            TokenKind::TextBlock => "\"\"\"",
            TokenKind::Quoted => "`",
            _ => "\"",
        };
        // A comment or another quote behind it leaves open where the text ends.
        let is_plain = kind != TokenKind::TextBlock && !token.contains("//") && !token.ends_with('\\');
        let end = Span { start: span.end, ..span };
        let fix = Fix {
            title: format!("close it by `{mark}`"),
            edits: vec![TextEdit::new(end, mark)],
            certainty: Certainty::Certain,
        };
        diags.report_with(span, Message::UnclosedText { mark }, is_plain.then_some(fix));
    }
}

fn ends_escaped(token: &str) -> bool {
    let body = &token[..token.len() - 1];
    (body.len() - body.trim_end_matches('\\').len()) % 2 == 1
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn kinds(text: &str) -> Vec<TokenKind> {
        tokens(&Source::new("t", text), &mut Diagnostics::default()).iter().map(|t| t.kind).collect()
    }

    #[test]
    fn cuts_a_statement() {
        use TokenKind::*;
        assert_eq!(kinds("a sends b \"x\\\"y\" // z"), [Word, Space, Word, Space, Word, Space, Text, Space, Comment]);
        assert_eq!(kinds("lamp1..lamp4"), [Word, Range, Word]);
        assert_eq!(kinds("\"a // b\""), [Text]);
        assert_eq!(kinds("http://x"), [Word, Mark, Mark, Mark, Word]);
    }

    #[test]
    fn reports_unclosed_texts_and_goes_on() {
        let mut diags = Diagnostics::default();
        let found = tokens(&Source::new("t", "a \"open\nb `x\nc \"esc\\\""), &mut diags);
        assert_eq!(diags.into_sorted().len(), 3);
        assert_eq!(found.iter().filter(|t| t.kind == TokenKind::Newline).count(), 2);
    }

    proptest! {
        #[test]
        fn no_byte_is_lost(text in "[ a-z\"`\\\\./,\n(ü]{0,60}") {
            let mut at = 0;
            for token in tokens(&Source::new("t", text.as_str()), &mut Diagnostics::default()) {
                prop_assert_eq!(token.span.start as usize, at);
                at = token.span.end as usize;
            }
            prop_assert_eq!(at, text.len());
        }
    }
}
