//! Markdown and plain text as nested items: headings, bullets, numbers, paragraphs. What is indented below an item, or numbered
//! below it (`2.1` below `2`), lies in it.

use pulldown_cmark::{Event, Parser};

/// Items may be nested this deep; deeper ones stand with those above them.
const DEEPEST: usize = 20;

/// An item with what lies in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Item {
    /// The line on which it begins, from 1.
    pub(super) line: u32,
    /// Its text in one line, without the marks of Markdown.
    pub(super) text: String,
    pub(super) kind: Kind,
    pub(super) children: Vec<Item>,
}

/// How an item is marked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    /// A heading of a level.
    Heading(usize),
    /// A number, such as `2.1`, without its last point.
    Number(String),
    Bullet,
    Paragraph,
}

/// A line that begins an item.
struct Begun {
    line: u32,
    depth: Depth,
    kind: Kind,
    text: String,
}

/// How deep an item is: by its indentation, or by its number.
#[derive(Clone, Copy, PartialEq, Eq)]
struct Depth {
    indent: usize,
    points: usize,
}

/// Reads a text as items.
pub(super) fn items(text: &str) -> Vec<Item> {
    let mut begun: Vec<Begun> = Vec::new();
    let (mut was_empty, mut is_fenced) = (true, false);
    for (i, row) in text.lines().enumerate() {
        let line = i as u32 + 1;
        let trimmed = row.trim();
        if trimmed.starts_with("```") || trimmed.starts_with("~~~") {
            is_fenced = !is_fenced;
            continue;
        }
        let is_rule = trimmed.len() > 2 && trimmed.chars().all(|c| c == '-' || c == '=' || c == '*');
        if is_fenced || trimmed.is_empty() || is_rule {
            was_empty = true;
            continue;
        }
        let indent = row.chars().take_while(|c| c.is_whitespace()).map(|c| if c == '\t' { 4 } else { 1 }).sum();
        let trimmed = trimmed.trim_start_matches(['>', ' ']);
        match marked(trimmed) {
            Some((kind, rest)) => {
                let points = if let Kind::Number(number) = &kind { number.matches('.').count() } else { 0 };
                begun.push(Begun { line, depth: Depth { indent, points }, kind, text: rest.to_owned() });
            }
            None => match begun.last_mut() {
                // What goes on in the next line: a line that ends with a sentence is a thing of its own.
                Some(last) if !was_empty && !is_heading(last) && !last.text.ends_with(['.', '?', '!', ':']) => {
                    last.text += &format!(" {trimmed}");
                }
                _ => {
                    let depth = Depth { indent, points: 0 };
                    begun.push(Begun { line, depth, kind: Kind::Paragraph, text: trimmed.to_owned() });
                }
            },
        }
        was_empty = false;
    }
    nested(begun)
}

fn is_heading(begun: &Begun) -> bool {
    matches!(begun.kind, Kind::Heading(_))
}

/// The mark at the beginning of a line, and the rest.
fn marked(line: &str) -> Option<(Kind, &str)> {
    let hashes = line.chars().take_while(|c| *c == '#').count();
    if (1..=6).contains(&hashes) && line[hashes..].starts_with(' ') {
        return Some((Kind::Heading(hashes), line[hashes..].trim_matches(['#', ' '])));
    }
    let (first, rest) = line.split_once(char::is_whitespace)?;
    let rest = rest.trim_start();
    if ["-", "*", "+", "•", "–", "·", "◦"].contains(&first) {
        let rest = ["[ ] ", "[x] ", "[X] "].iter().find_map(|mark| rest.strip_prefix(mark)).unwrap_or(rest);
        return Some((Kind::Bullet, rest));
    }
    let inner = first.strip_prefix('(').unwrap_or(first);
    let number = inner.trim_end_matches(['.', ')', ':']);
    let is_closed = number.len() < inner.len();
    let is_figures = number.split('.').all(|part| !part.is_empty() && part.chars().all(|c| c.is_ascii_digit()));
    let is_letter = number.len() == 1 && number.chars().all(|c| c.is_ascii_lowercase());
    let is_roman = number.len() < 6 && !number.is_empty() && number.chars().all(|c| "ivx".contains(c));
    // A number alone, such as a year, is part of a sentence.
    let is_number = is_figures && (is_closed || number.contains('.')) && number.len() < 12;
    let is_mark = is_number || is_closed && (is_letter || is_roman);
    is_mark.then(|| (Kind::Number(number.to_owned()), rest))
}

/// Items in each other, by how deep they are.
fn nested(begun: Vec<Begun>) -> Vec<Item> {
    let mut roots: Vec<Item> = Vec::new();
    // The depths of the items around the next one.
    let mut around: Vec<Depth> = Vec::new();
    for Begun { line, depth, kind, text } in begun {
        let is_inside = |outer: &Depth| depth.indent > outer.indent || depth.points > outer.points && depth.points > 0;
        let is_loose = matches!(kind, Kind::Heading(_)) || kind == Kind::Paragraph && depth.indent == 0;
        while around.last().is_some_and(|outer| is_loose || !is_inside(outer)) || around.len() >= DEEPEST {
            around.pop();
        }
        let is_heading = matches!(kind, Kind::Heading(_));
        put(&mut roots, around.len(), Item { line, text: plain(&text), kind, children: Vec::new() });
        if !is_heading {
            around.push(depth);
        }
    }
    roots
}

/// Puts an item this many levels below the last one.
fn put(siblings: &mut Vec<Item>, level: usize, item: Item) {
    match siblings.last_mut() {
        Some(last) if level > 0 => put(&mut last.children, level - 1, item),
        _ => siblings.push(item),
    }
}

/// A text without the marks of Markdown (CommonMark 0.31).
fn plain(text: &str) -> String {
    let mut out = String::new();
    for event in Parser::new(text) {
        match event {
            Event::Text(text) | Event::Code(text) => out += &text,
            Event::SoftBreak | Event::HardBreak => out.push(' '),
            _ => {}
        }
    }
    // What would be a block of its own is a text here.
    let out = if out.is_empty() { text.to_owned() } else { out };
    out.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shown(items: &[Item], depth: usize) -> String {
        let one = |item: &Item| {
            format!("{}{} {}\n{}", "  ".repeat(depth), item.line, item.text, shown(&item.children, depth + 1))
        };
        items.iter().map(one).collect()
    }

    #[test]
    fn lists_are_nested_as_they_are_written() {
        let text = "# Work\n\nIntro goes\non here.\n\n1. **One**\n   - a `b`\n     more\n   - c\n2) Two [link](x.md)\n\n2.1 Inner\n2.2 Other\n3. Three\n   a) x\n   b) y\n\n    - [ ] deep\n\nIn 2026 it ends.\n";
        assert_eq!(
            shown(&items(text), 0),
            "1 Work\n3 Intro goes on here.\n6 One\n  7 a b more\n  9 c\n10 Two link\n  12 Inner\n  13 Other\n14 Three\n  15 x\n  16 y\n    18 deep\n20 In 2026 it ends.\n"
        );
        assert_eq!(items("```\n1. code\n```\n---\n"), []);
    }
}
