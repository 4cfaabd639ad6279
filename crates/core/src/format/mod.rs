//! Tree to canonical text. Input: a source. Output: the one form of it: two spaces for each level, one
//! space between words, at most one empty line, pins last and sorted, what follows a bare `in NAME` under it.
//! Guarantees: no word and no comment is lost, the meaning stays, formatting twice changes nothing more, linear
//! time. Lines with errors keep their words too.

mod changes;
mod gather;
mod line;
mod member;

pub use changes::{LineChange, line_changes};

use crate::diag::Diagnostics;
use crate::source::Source;
use crate::source::conflict::conflicts;
use crate::syntax::{LineId, TokenKind, Tree, indent_width, is_read_whole, lone_return, parse};
use crate::vocabulary::BLOCKS;
use line::word;

/// The canonical form of a text. One with merge conflicts is given back as it is.
pub fn format(source: &Source) -> String {
    // Lines of two sides have no one form.
    let is_odd = lone_return(&source.text).is_some() || !is_read_whole(&source.text);
    if is_odd || !conflicts(&source.text).is_empty() {
        return source.text.clone();
    }
    let (text, has_moved) = once(source);
    // Comments between lines that were moved have other neighbours now.
    if has_moved { once(&Source::new(source.name.as_str(), text)).0 } else { text }
}

/// Formats a text, and says whether lines were moved.
fn once(source: &Source) -> (String, bool) {
    let mut tree = parse(source, &mut Diagnostics::default());
    gather::gather(source, &mut tree);
    let pieces = Pieces::cut(source, &tree);
    let out = String::with_capacity(source.text.len() + source.text.len() / 8);
    let mut writer = Writer { source, tree: &tree, pieces: &pieces, out, has_moved: false };
    for root in &tree.roots {
        writer.line(*root, 0, Place { is_first: false, block: None, in_class: false });
    }
    writer.comments(&pieces.tail, BodyPlace::Later, 0);
    (writer.out, writer.has_moved)
}

/// What stands between lines: comments on rows of their own, and whether an empty row was there.
struct Between {
    comments: Vec<Comment>,
    /// Whether an empty row stands right before what follows.
    gap: bool,
}

/// A comment on a row of its own.
struct Comment {
    token: u32,
    /// Whether an empty row stands before it.
    gap: bool,
    /// How deep it belongs.
    depth: usize,
}

/// The tokens of a tree, cut into what precedes each line.
struct Pieces {
    /// By line: what stands before it.
    before: Vec<Between>,
    /// By line: one past its last token, its line break included.
    ends: Vec<u32>,
    /// What stands after the last line.
    tail: Between,
    /// Whether a text block is never closed; then a comment that moves might close it.
    has_open_text: bool,
}

impl Pieces {
    fn cut(source: &Source, tree: &Tree) -> Self {
        let depths = depths(tree);
        let mut before = Vec::with_capacity(tree.lines.len());
        let mut ends = Vec::with_capacity(tree.lines.len());
        // The line above and what it lies in: their columns and depths, outermost first.
        let mut open: Vec<(usize, usize)> = Vec::new();
        let mut at = 0;
        for (line, depth) in tree.lines.iter().zip(depths) {
            let first = line.words[0];
            let column = column(source, tree, first);
            before.push(between(source, tree, at..first, (column, depth), &open));
            while open.last().is_some_and(|(_, d)| *d >= depth) {
                open.pop();
            }
            open.push((column, depth));
            let last = line.words[line.words.len() - 1];
            let rest = &tree.tokens[last as usize + 1..];
            let row = rest.iter().position(|t| t.kind == TokenKind::Newline).unwrap_or(rest.len());
            ends.push(last + 1 + row as u32);
            at = last + 2 + row as u32;
        }
        let end = tree.tokens.len() as u32;
        let tail = between(source, tree, at.min(end)..end, (0, 0), &open);
        let mut blocks = tree.tokens.iter().filter(|t| t.kind == TokenKind::TextBlock).map(|t| source.slice(t.span));
        // Six: a block that is nothing but its first marks ends with three quotes, too.
        let has_open_text = blocks.any(|written| written.len() < 6 || !written.ends_with("\"\"\""));
        Self { before, ends, tail, has_open_text }
    }
}

/// How deep each line is nested.
fn depths(tree: &Tree) -> Vec<usize> {
    let mut depths = vec![0; tree.lines.len()];
    // Children come after their parents.
    for (i, line) in tree.lines.iter().enumerate() {
        for child in &line.children {
            depths[child.0 as usize] = depths[i] + 1;
        }
    }
    depths
}

/// The width of the indentation before a token that begins a row.
fn column(source: &Source, tree: &Tree, token: u32) -> usize {
    let before = token.checked_sub(1).map(|t| tree.tokens[t as usize]);
    before.filter(|t| t.kind == TokenKind::Space).map_or(0, |t| indent_width(source.slice(t.span)))
}

/// Comments and empty rows among some tokens. What follows has a column and a depth; `open` are the lines
/// around what came before. A comment that is indented deeper than what follows belongs to what came
/// before it.
fn between(
    source: &Source, tree: &Tree, tokens: std::ops::Range<u32>, next: (usize, usize), open: &[(usize, usize)],
) -> Between {
    let mut comments = Vec::new();
    let mut is_empty_row = true;
    let mut gap = false;
    for at in tokens {
        match tree.tokens[at as usize].kind {
            TokenKind::Newline => {
                gap |= std::mem::replace(&mut is_empty_row, true);
            }
            TokenKind::Comment => {
                let column = column(source, tree, at);
                let depth = match open.iter().rev().find(|(c, _)| *c <= column) {
                    _ if column <= next.0 => next.1,
                    Some((c, depth)) if *c < column && Some(&(*c, *depth)) == open.last() => depth + 1,
                    // Between two levels, or at one: the level that lies to its left.
                    Some((_, depth)) => (*depth).max(next.1),
                    None => next.1,
                };
                comments.push(Comment { token: at, gap: std::mem::take(&mut gap), depth });
                is_empty_row = false;
            }
            _ => {}
        }
    }
    Between { comments, gap }
}

/// Where in a body something stands.
#[derive(Clone, Copy, PartialEq, Eq)]
enum BodyPlace {
    First,
    Later,
}

/// Where a line stands.
#[derive(Clone, Copy)]
struct Place {
    /// Whether it is the first in its body.
    is_first: bool,
    /// The word of the block around it.
    block: Option<&'static str>,
    /// Whether it stands in the body of a classifier.
    in_class: bool,
}

struct Writer<'a> {
    source: &'a Source,
    tree: &'a Tree,
    pieces: &'a Pieces,
    out: String,
    has_moved: bool,
}

impl<'a> Writer<'a> {
    /// Writes a line with what belongs to it. Nesting has a limit, so recursion has too.
    fn line(&mut self, id: LineId, depth: usize, place: Place) {
        let before = &self.pieces.before[id.0 as usize];
        let had_comments =
            self.comments(before, if place.is_first { BodyPlace::First } else { BodyPlace::Later }, depth);
        // Blocks have an empty row between them; comments right above one belong to it.
        let opens_body = place.is_first && before.comments.is_empty();
        let wants_gap = (before.gap && !opens_body) || (depth == 0 && !had_comments);
        if wants_gap && !self.out.is_empty() {
            self.out.push('\n');
        }
        let line = self.tree.line(id);
        let first = self.source.slice(self.tree.tokens[line.words[0] as usize].span);
        let block = place.block.or_else(|| BLOCKS.iter().find(|b| **b == first).copied());
        let form = match place.block {
            Some("look") if depth == 1 => line::Form::Rule,
            _ if place.in_class && member::is_member(self.source, self.tree, line) => line::Form::Member,
            _ => line::Form::Words,
        };
        let end = self.pieces.ends[id.0 as usize];
        line::write(&mut self.out, self.source, self.tree, line, line::Setting { depth, form, end });
        self.out.push('\n');
        let in_class = block == Some("classes") && depth > 0 && first != "group";
        let children = match self.pieces.has_open_text {
            true => line.children.clone(),
            false => ordered(self.source, self.tree, &line.children, depth),
        };
        self.has_moved |= children != line.children;
        for (i, child) in children.iter().enumerate() {
            self.line(*child, depth + 1, Place { is_first: i == 0, block, in_class });
        }
    }

    /// Writes comments on rows of their own, before a line of some depth; says whether the last of them
    /// stands right above it, at its depth.
    fn comments(&mut self, between: &Between, place: BodyPlace, depth: usize) -> bool {
        let mut own = false;
        for (i, comment) in between.comments.iter().enumerate() {
            let opens_body = place == BodyPlace::First && i == 0;
            // The first comment that belongs to a block stands apart from the block above.
            let parts = comment.depth == 0 && depth == 0 && !own;
            if ((comment.gap && !opens_body) || parts) && !self.out.is_empty() {
                self.out.push('\n');
            }
            own |= comment.depth == depth;
            self.indent(comment.depth);
            line::comment(&mut self.out, self.source.slice(self.tree.tokens[comment.token as usize].span));
            self.out.push('\n');
        }
        own
    }

    fn indent(&mut self, depth: usize) {
        self.out.extend(std::iter::repeat_n("  ", depth));
    }
}

/// The lines of a body; in a block, pins come last and are sorted.
fn ordered(source: &Source, tree: &Tree, lines: &[LineId], depth: usize) -> Vec<LineId> {
    let mut ordered = lines.to_vec();
    let is_pin = |id: &LineId| depth == 0 && is_pin(source, tree, *id);
    if ordered.iter().any(is_pin) {
        ordered.sort_by(|a, b| match (is_pin(a), is_pin(b)) {
            (true, true) => word(source, tree, *a, 1).cmp(word(source, tree, *b, 1)),
            (a, b) => a.cmp(&b),
        });
    }
    ordered
}

/// Whether a line is `pin a 120 40`, and neither a statement nor an element that is called so. Lines with texts stay: a
/// quote that moves may close another one.
fn is_pin(source: &Source, tree: &Tree, line: LineId) -> bool {
    let words = &tree.line(line).words;
    let is_figure = |n| word(source, tree, line, n).trim_start_matches('-').starts_with(|c: char| c.is_ascii_digit());
    let is_text =
        |w: &u32| matches!(tree.tokens[*w as usize].kind, TokenKind::Text | TokenKind::TextBlock | TokenKind::Quoted);
    word(source, tree, line, 0) == "pin" && (2..=words.len()).any(is_figure) && !words.iter().any(is_text)
}
