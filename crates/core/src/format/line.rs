//! One line: its words with one space between those that do not touch, its comments, and the rows that a
//! comma makes.

use super::member;
use crate::source::Source;
use crate::syntax::{Line, LineId, Token, TokenKind, Tree, block_lines};

/// What kind of line it is to the formatter.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Form {
    /// Words with spaces between them.
    Words,
    /// A member of a classifier.
    Member,
    /// A rule of a look.
    Rule,
}

/// Where a line stands in the text that is written.
#[derive(Clone, Copy)]
pub(super) struct Setting {
    /// How deep it is nested.
    pub(super) depth: usize,
    /// What kind of line it is.
    pub(super) form: Form,
    /// One past its last token.
    pub(super) end: u32,
}

/// Writes a line from its first word on, without the line break after it.
pub(super) fn write(out: &mut String, source: &Source, tree: &Tree, line: &Line, setting: Setting) {
    let Setting { depth, form, end } = setting;
    indent(out, depth);
    if form == Form::Member {
        out.push_str(&member::canonical(source, tree, line));
        let after = line.words[line.words.len() - 1] + 1;
        for token in tree.tokens[after as usize..end as usize].iter().filter(|t| t.kind == TokenKind::Comment) {
            out.push(' ');
            comment(out, source.slice(token.span));
        }
        return;
    }
    let mut row =
        Row { source, depth, before: None, touches: false, starts: true, brackets: 0, heads_rule: form == Form::Rule };
    let mut comment_pending = false;
    for at in line.words[0]..end {
        let token = tree.tokens[at as usize];
        let written = source.slice(token.span);
        match token.kind {
            TokenKind::Space => row.touches = false,
            TokenKind::Newline => {
                // A comma goes on in the next row; empty rows are left out.
                let has_more = tree.tokens[at as usize + 1..end as usize].iter().any(|t| !is_blank(t));
                if has_more && !row.starts {
                    out.push('\n');
                    indent(out, depth + 2);
                    row.starts = true;
                }
                comment_pending = false;
            }
            TokenKind::Comment => {
                if comment_pending || !row.starts {
                    out.push(' ');
                }
                comment(out, written);
                comment_pending = true;
                row.starts = false;
            }
            _ => {
                row.word(out, token, next_touching(tree, source, at, end));
            }
        }
    }
}

fn is_word(token: Token) -> bool {
    matches!(token.kind, TokenKind::Word | TokenKind::Quoted | TokenKind::Text | TokenKind::TextBlock)
}

fn is_blank(token: &Token) -> bool {
    matches!(token.kind, TokenKind::Space | TokenKind::Newline)
}

/// The text of the token after this one, if it touches it.
fn next_touching<'a>(tree: &Tree, source: &'a Source, at: u32, end: u32) -> &'a str {
    let next = tree.tokens.get(at as usize + 1).filter(|_| at + 1 < end);
    next.filter(|t| !is_blank(t)).map_or("", |t| source.slice(t.span))
}

/// A row that is being written.
struct Row<'a> {
    source: &'a Source,
    depth: usize,
    /// The word written last.
    before: Option<Token>,
    /// Whether nothing stands between it and the next one.
    touches: bool,
    /// Whether nothing was written in this row.
    starts: bool,
    /// How many brackets are open.
    brackets: usize,
    /// Whether the first colon ends the selector of a rule.
    heads_rule: bool,
}

impl Row<'_> {
    fn word(&mut self, out: &mut String, token: Token, next: &str) {
        let written = self.source.slice(token.span);
        let before = self.before.map_or("", |t| self.source.slice(t.span));
        // Two strokes after a space would be a comment.
        let is_stroke = written == "/" && next == "/";
        let is_mark = token.kind == TokenKind::Mark;
        let follows_mark = self.before.is_some_and(|t| t.kind == TokenKind::Mark);
        let wants_space = match written {
            // A dot that touches what follows leads to it.
            "," | ")" if is_mark => follows_mark && before == "." && !self.touches,
            ":" if is_mark && self.heads_rule => false,
            _ if follows_mark && before == ":" && std::mem::take(&mut self.heads_rule) => true,
            _ if follows_mark && before == "(" => false,
            // Outside of brackets, words that touch are two words all the same.
            "(" if is_mark && self.brackets == 0 && self.before.is_some_and(is_word) => true,
            _ if !is_mark && is_word(token) && self.before.is_some_and(is_word) => true,
            _ if follows_mark && before == "," => !is_stroke || !self.touches,
            _ => !self.touches,
        };
        if wants_space && !self.starts {
            out.push(' ');
        }
        if token.kind == TokenKind::TextBlock {
            text_block(out, written, self.depth);
        } else {
            out.push_str(written);
        }
        match written {
            "(" if is_mark => self.brackets += 1,
            ")" if is_mark => self.brackets = self.brackets.saturating_sub(1),
            _ => {}
        }
        (self.before, self.touches, self.starts) = (Some(token), true, false);
    }
}

fn indent(out: &mut String, depth: usize) {
    out.extend(std::iter::repeat_n("  ", depth));
}

/// A comment with one space after its strokes.
pub(super) fn comment(out: &mut String, written: &str) {
    let strokes = written.len() - written.trim_start_matches('/').len();
    let text = written[strokes..].trim();
    out.push_str(&written[..strokes]);
    if !text.is_empty() {
        out.push(' ');
        out.push_str(text);
    }
}

/// A text block: its lines one level deeper than the line it belongs to.
fn text_block(out: &mut String, written: &str, depth: usize) {
    let Some(body) = written.strip_prefix("\"\"\"").and_then(|b| b.strip_suffix("\"\"\"")) else {
        // It was never closed, and ends with its row.
        out.push_str(written.trim_end());
        return;
    };
    out.push_str("\"\"\"\n");
    for line in block_lines(body) {
        if !line.is_empty() {
            indent(out, depth + 1);
            out.push_str(line);
        }
        out.push('\n');
    }
    indent(out, depth);
    out.push_str("\"\"\"");
}

/// A word of a line; nothing behind its end.
pub(super) fn word<'s>(source: &'s Source, tree: &Tree, line: LineId, n: usize) -> &'s str {
    tree.line(line).words.get(n).map_or("", |w| source.slice(tree.tokens[*w as usize].span))
}
