//! Tokens to a tree of lines. Input: tokens. Output: [`Tree`]: every token, and the lines nested by
//! indentation. Guarantees: no token is lost (comments and blank lines stay in the token list),
//! a line continued after a comma is one line, nesting is cut at [`MAX_DEPTH`] with a diagnostic.

use super::lexer::{Token, TokenKind, tokens};
use crate::diag::{Certainty, Diagnostics, Fix, Message};
use crate::source::conflict::{Conflict, conflicts, without_marks};
use crate::source::{Source, Span, TextEdit};
use std::borrow::Cow;

/// Lines may be nested this deep.
// Reading goes down with the lines; this bounds the stack. Nobody reads twenty levels of indentation.
pub const MAX_DEPTH: usize = 100;

/// The number of a line in its tree.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct LineId(pub u32);

/// One line that says something.
#[derive(Clone, Debug)]
pub struct Line {
    /// Its words: indices into the tree's tokens, without spaces and comments.
    pub words: Vec<u32>,
    /// From its first to its last word.
    pub span: Span,
    /// Its line number, from 1.
    pub number: u32,
    /// What is indented under it.
    pub children: Vec<LineId>,
}

/// All lines of a source, nested.
#[derive(Clone, Debug)]
pub struct Tree {
    /// Every token of the source.
    pub tokens: Vec<Token>,
    /// All lines, in source order.
    pub lines: Vec<Line>,
    /// The lines in the first column.
    pub roots: Vec<LineId>,
}

impl Tree {
    /// The line with this number in the tree.
    pub fn line(&self, id: LineId) -> &Line {
        &self.lines[id.0 as usize]
    }

    /// The line whose words are around a byte, or end there.
    pub fn line_at(&self, byte: u32) -> Option<LineId> {
        let at = self.lines.partition_point(|line| line.span.start <= byte).checked_sub(1)?;
        (byte <= self.lines[at].span.end).then_some(LineId(at as u32))
    }

    /// The first line of the block that begins at a byte.
    pub fn block_at(&self, byte: u32) -> Option<LineId> {
        self.roots.iter().copied().find(|id| self.line(*id).span.start == byte)
    }

    /// What a line begins with.
    pub fn indent<'s>(&self, source: &'s Source, id: LineId) -> &'s str {
        source.slice(self.before(source, id))
    }

    /// What lines under another one begin with: as those that are there.
    pub fn inner_indent(&self, source: &Source, id: LineId) -> String {
        match self.line(id).children.first() {
            Some(first) => self.indent(source, *first).to_owned(),
            None => format!("{}  ", self.indent(source, id)),
        }
    }

    /// The byte behind a line and all that is indented under it, comments at their ends included, before the line break.
    pub fn end(&self, source: &Source, id: LineId) -> u32 {
        let (mut last, mut end) = (id, 0);
        loop {
            let line = self.line(last);
            end = end.max(line.span.end);
            match line.children.last() {
                Some(child) => last = *child,
                None => return source.line_end(end),
            }
        }
    }

    /// A line and all that is indented under it, whole: with its indentation and its line break, if it has one.
    pub fn whole(&self, source: &Source, id: LineId) -> Span {
        let end = self.end(source, id);
        let rest = &source.text[end as usize..];
        let line_break = if rest.starts_with("\r\n") { 2 } else { u32::from(!rest.is_empty()) };
        Span { start: source.line_start(self.line(id).span.start), end: end + line_break, ..self.line(id).span }
    }

    /// The space before a line.
    fn before(&self, source: &Source, id: LineId) -> Span {
        let line = self.line(id);
        Span { start: source.line_start(line.span.start), end: line.span.start, ..line.span }
    }
}

/// Reads a source into its tree of lines.
pub fn parse(source: &Source, diags: &mut Diagnostics) -> Tree {
    let text = without_marks(&source.text);
    let tokens = match &text {
        Cow::Borrowed(_) => tokens(source, diags),
        Cow::Owned(text) => {
            report_conflicts(source, diags);
            tokens(&Source::numbered(source.id, source.name.as_str(), text.as_str()), diags)
        }
    };
    let (open, lines, roots, indents) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let mut builder = Builder { source, open, lines, roots, indents, too_deep: false };
    let mut at = 0;
    while at < tokens.len() {
        at = builder.line(&tokens, at, diags);
    }
    let indents = std::mem::take(&mut builder.indents);
    let tree = Tree { lines: builder.lines, roots: builder.roots, tokens };
    let misplaced: Vec<LineId> = indents.iter().map(|i| i.line).collect();
    for indent in indents {
        let fix = tree.indented(source, &indent, &misplaced);
        diags.report_with(tree.line(indent.line).span, indent.message, fix);
    }
    tree
}

/// A text with conflicts is read as the side above says.
fn report_conflicts(source: &Source, diags: &mut Diagnostics) {
    for Conflict { mark, ours, theirs } in conflicts(&source.text) {
        diags.report(source.span(mark.start, mark.end), Message::MergeConflict { ours, theirs });
    }
}

/// A line whose indentation is wrong.
struct Indent {
    line: LineId,
    /// Its width, and what it should be, in columns.
    found: usize,
    wanted: usize,
    message: Message,
}

impl Tree {
    /// Indents a line rightly, and what is indented under it as much further as it is.
    fn indented(&self, source: &Source, indent: &Indent, misplaced: &[LineId]) -> Option<Fix> {
        let mut work = vec![indent.line];
        let mut edits = Vec::new();
        let mut certainty = Certainty::Certain;
        while let Some(id) = work.pop() {
            // Two corrections of one line would be in each other's way.
            if id != indent.line && misplaced.binary_search(&id).is_ok() {
                certainty = Certainty::Likely;
            }
            let line = self.line(id);
            let before = self.before(source, id);
            let width = indent_width(source.slice(before));
            let wanted = (width + indent.wanted).checked_sub(indent.found)?;
            edits.push(TextEdit::new(before, " ".repeat(wanted)));
            work.extend(line.children.iter().copied());
        }
        let title = format!("indent it by {}", indent.wanted);
        Some(Fix { title, edits, certainty })
    }
}

struct Builder<'a> {
    source: &'a Source,
    /// Open lines: width of the indentation, and the line.
    open: Vec<(usize, LineId)>,
    lines: Vec<Line>,
    roots: Vec<LineId>,
    /// Lines whose indentation is wrong, in their order.
    indents: Vec<Indent>,
    too_deep: bool,
}

impl Builder<'_> {
    /// Notes that the next line is indented wrongly.
    fn misplaced(&mut self, found: usize, wanted: usize, message: Message) {
        self.indents.push(Indent { line: LineId(self.lines.len() as u32), found, wanted, message });
    }

    /// Reads one line that starts at token `at`; returns where the next one starts.
    fn line(&mut self, tokens: &[Token], mut at: usize, diags: &mut Diagnostics) -> usize {
        let mut indent = 0;
        if tokens[at].kind == TokenKind::Space {
            indent = indent_width(self.source.slice(tokens[at].span));
            at += 1;
        }
        let mut words: Vec<u32> = Vec::new();
        while let Some(token) = tokens.get(at) {
            at += 1;
            match token.kind {
                TokenKind::Newline if self.continues(tokens, &words) => {}
                TokenKind::Newline => break,
                TokenKind::Space | TokenKind::Comment => {}
                _ => words.push(at as u32 - 1),
            }
        }
        if let (Some(first), Some(last)) = (words.first(), words.last()) {
            let span = tokens[*first as usize].span.to(tokens[*last as usize].span);
            let number = self.source.line(span.start);
            self.place(indent, Line { words, span, number, children: Vec::new() }, diags);
        }
        at
    }

    fn continues(&self, tokens: &[Token], words: &[u32]) -> bool {
        words.last().is_some_and(|w| self.source.slice(tokens[*w as usize].span) == ",")
    }

    fn place(&mut self, indent: usize, line: Line, diags: &mut Diagnostics) {
        let mut closed = None;
        while self.open.last().is_some_and(|(width, _)| *width >= indent) {
            closed = self.open.pop();
        }
        if let Some((width, _)) = closed
            && width != indent
        {
            let message = Message::UnevenIndent { found: indent, expected: width };
            self.misplaced(indent, width, message);
        }
        if self.open.is_empty() && indent > 0 && closed.is_none() {
            self.misplaced(indent, 0, Message::IndentedBlock);
        }
        let id = LineId(self.lines.len() as u32);
        if self.open.len() >= MAX_DEPTH {
            if !std::mem::replace(&mut self.too_deep, true) {
                diags.report(line.span, Message::TooDeep { limit: MAX_DEPTH });
            }
            self.open.truncate(MAX_DEPTH);
            let parent = self.open[MAX_DEPTH - 1].1;
            self.lines[parent.0 as usize].children.push(id);
        } else {
            match self.open.last() {
                Some((_, parent)) => self.lines[parent.0 as usize].children.push(id),
                None => self.roots.push(id),
            }
            self.open.push((indent, id));
        }
        self.lines.push(line);
    }
}

/// Columns of an indentation: a tab counts as four.
pub(crate) fn indent_width(space: &str) -> usize {
    space.chars().map(|c| if c == '\t' { 4 } else { usize::from(c == ' ') }).sum()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn outline(text: &str) -> (String, usize) {
        let source = Source::new("t", text);
        let mut diags = Diagnostics::default();
        let tree = parse(&source, &mut diags);
        let mut out = String::new();
        let mut work: Vec<(usize, LineId)> = tree.roots.iter().rev().map(|id| (0, *id)).collect();
        while let Some((depth, id)) = work.pop() {
            let line = tree.line(id);
            out += &format!("{}{};", ".".repeat(depth), source.slice(line.span));
            work.extend(line.children.iter().rev().map(|c| (depth + 1, *c)));
        }
        (out, diags.into_sorted().len())
    }

    #[test]
    fn lines_are_found_and_whole() {
        let source = Source::new("t", "a\n  b // c\r\n    d\n\ne");
        let tree = parse(&source, &mut Diagnostics::default());
        let found = |byte: u32| tree.line_at(byte).map(|id| source.slice(tree.line(id).span));
        assert_eq!(
            [0, 1, 2, 4, 5, 6, 19].map(found),
            [Some("a"), Some("a"), None, Some("b"), Some("b"), None, Some("e")]
        );
        let [a, b, e] = [0, 4, 19].map(|byte| tree.line_at(byte).expect("a line"));
        assert_eq!(source.slice(tree.whole(&source, b)), "  b // c\r\n    d\n");
        assert_eq!((source.slice(tree.whole(&source, e)), tree.indent(&source, b)), ("e", "  "));
        assert_eq!((tree.inner_indent(&source, a), tree.inner_indent(&source, e)), ("  ".to_owned(), "  ".to_owned()));
        assert_eq!((tree.block_at(19), tree.block_at(4)), (Some(e), None));
    }

    #[test]
    fn nests_by_indentation_of_any_width() {
        assert_eq!(outline("a\n  b\n    c\n  d\ne").0, "a;.b;..c;.d;e;");
        assert_eq!(outline("a\n\tb\n\t\tc\n\td").0, "a;.b;..c;.d;");
        assert_eq!(outline("a\n\n  // only a comment\n  b").0, "a;.b;");
    }

    #[test]
    fn a_comma_continues_the_line() {
        assert_eq!(outline("row a,\n    b\nc"), ("row a,\n    b;c;".into(), 0));
    }

    #[test]
    fn uneven_indentation_is_reported_and_read() {
        assert_eq!(outline("a\n    b\n  c"), ("a;.b;.c;".into(), 1));
    }

    #[test]
    fn nesting_has_a_limit() {
        let text: String = (0..10_000).map(|i| format!("{}x\n", " ".repeat(i))).collect();
        assert_eq!(outline(&text).1, 1);
    }
}
