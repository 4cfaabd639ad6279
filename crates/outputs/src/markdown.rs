//! Diagrams in Markdown (CommonMark): fenced blocks whose info string begins with `bathygram`, and the pictures that are
//! kept with them between markers. Only what stands between markers is ever changed, byte for byte: line ends, lists and
//! quotes around a block stay as they are.

use bathygram_core::source::visible;
use pulldown_cmark::{CodeBlockKind, Event, Parser, Tag, TagEnd};
use std::collections::BTreeSet;
use std::ops::Range;

/// The first word of an info string.
const WORD: &str = "bathygram";
/// The marked region below a block, and the one around a block that is folded away.
const SHOWN: &str = "<!-- bathygram: drawn from the block above -->";
const FOLDED: &str = "<!-- bathygram: drawn from the block folded below -->";
const END: &str = "<!-- bathygram: end -->";
const UNFOLD: &str = "<details><summary>Source of the picture</summary>";
const CLOSE: &str = "</details>";

/// One block.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Block {
    /// Its text, without what lists and quotes put before each line.
    pub text: String,
    /// The line in which the text begins, from 1.
    pub line: u32,
    /// How many characters stand before each of its lines in the document: those of lists and quotes.
    pub column: u32,
    /// Whether its source is folded away.
    pub is_folded: bool,
    /// Whether the fence is closed.
    pub is_closed: bool,
    /// The bytes of the fence, whole lines.
    fence: Range<usize>,
    /// The bytes of its marked region, whole lines: below the fence, or around it.
    region: Option<Range<usize>>,
    /// What lists and quotes put before its lines.
    prefix: String,
}

/// A picture of a block.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Image {
    /// Its path, relative to the document.
    pub path: String,
    /// What it shows, in words.
    pub alternative: String,
}

/// How sources are kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sources {
    /// As they are.
    AsTheyAre,
    /// Folded away below the picture.
    Folded,
    /// Above the picture.
    Shown,
}

/// A byte order mark.
const MARK: &str = "\u{feff}";

/// A document without the byte order mark before it, and how many bytes that has.
fn without_mark(text: &str) -> (&str, usize) {
    text.strip_prefix(MARK).map_or((text, 0), |rest| (rest, MARK.len()))
}

/// Whether an info string is that of a block with a diagram.
pub fn is_ours(info: &str) -> bool {
    info.split_whitespace().next() == Some(WORD)
}

/// A document without what was drawn into it: blocks stand there unfolded, and alone.
#[derive(Clone, Debug)]
pub struct Undrawn {
    /// Its text.
    pub text: String,
    /// Where each piece of it begins: here, and in the document.
    pieces: Vec<(usize, usize)>,
}

impl Undrawn {
    /// Takes what was drawn out of a document.
    pub fn of(document: &str) -> Self {
        let mut kept: Vec<Range<usize>> = Vec::new();
        let mut at = 0;
        for block in &blocks(document) {
            let Some(region) = block.region.clone().filter(|region| region.start >= at) else { continue };
            kept.push(at..region.start);
            kept.extend(block.is_folded.then(|| block.fence.clone()));
            at = region.end;
        }
        kept.push(at..document.len());
        let (mut text, mut pieces) = (String::with_capacity(document.len()), Vec::new());
        for piece in kept {
            pieces.push((text.len(), piece.start));
            text.push_str(&document[piece]);
        }
        Self { text, pieces }
    }

    /// The byte of the document at a byte of the text.
    pub fn origin(&self, byte: usize) -> usize {
        let piece = self.pieces.partition_point(|(here, _)| *here <= byte).saturating_sub(1);
        let (here, there) = self.pieces[piece];
        there + byte - here
    }
}

/// The blocks of a document, in their order.
pub fn blocks(text: &str) -> Vec<Block> {
    let (bare, shift) = without_mark(text);
    let mut found: Vec<(Range<usize>, String)> = Vec::new();
    let mut is_own = false;
    for (event, range) in Parser::new(bare).into_offset_iter() {
        let range = range.start + shift..range.end + shift;
        match event {
            Event::Start(Tag::CodeBlock(CodeBlockKind::Fenced(info))) => {
                is_own = is_ours(&info);
                found.extend(is_own.then(|| (range, String::new())));
            }
            Event::Text(part) if is_own => found.iter_mut().last().into_iter().for_each(|(_, body)| *body += &part),
            Event::End(TagEnd::CodeBlock) => is_own = false,
            _ => {}
        }
    }
    // Lines are counted on from block to block.
    let (mut at, mut lines) = (0, 0);
    let mut counted = |(range, body): (Range<usize>, String)| {
        lines += text[at..range.start].matches('\n').count() as u32;
        at = range.start;
        block(text, range, body, lines)
    };
    let mut blocks: Vec<Block> = found.into_iter().map(&mut counted).collect();
    // They follow each other, and none lies in another.
    let regions = regions(text);
    for i in 0..blocks.len() {
        let next = blocks.get(i + 1).map_or(text.len(), |b| b.fence.start);
        let fence = blocks[i].fence.clone();
        let before = regions.partition_point(|r| r.range.start < fence.start);
        let around = regions[..before].last().filter(|r| r.is_folded && fence.end < r.range.end);
        let behind = &regions[regions.partition_point(|r| r.range.start < fence.end)..];
        let below = || behind.iter().take_while(|r| r.range.end <= next).find(|r| !r.is_folded);
        let own = around.or_else(below);
        (blocks[i].region, blocks[i].is_folded) = (own.map(|r| r.range.clone()), own.is_some_and(|r| r.is_folded));
    }
    blocks
}

/// What stands between marks.
#[derive(Debug)]
struct Region {
    /// Its bytes, whole lines.
    range: Range<usize>,
    is_folded: bool,
}

/// All that stands between marks, in order. Marks in code are none.
fn regions(text: &str) -> Vec<Region> {
    let (bare, shift) = without_mark(text);
    let mut regions: Vec<Region> = Vec::new();
    let mut open: Option<(usize, bool)> = None;
    // The line of the last mark: a line is looked through once, however many marks it has.
    let mut line = 0..0;
    for (event, range) in Parser::new(bare).into_offset_iter() {
        let (Event::Html(_) | Event::InlineHtml(_)) = event else { continue };
        // One event may hold several lines.
        let mut at = range.start + shift;
        for part in bare[range].split_inclusive('\n') {
            let from = at;
            at += part.len();
            let part = part.trim_end_matches(['\n', '\r']);
            let is_folded = part.ends_with(FOLDED);
            let begins = is_folded || part.ends_with(SHOWN);
            if !begins && !part.ends_with(END) {
                continue;
            }
            if !line.contains(&from) {
                let start = text[..from].rfind('\n').map_or(0, |at| at + 1);
                line = start..text[from..].find('\n').map_or(text.len(), |n| from + n + 1);
            }
            if begins {
                open = Some((line.start, is_folded));
            } else if let Some((start, is_folded)) = open.take()
                && regions.last().is_none_or(|last| last.range.end <= start)
            {
                regions.push(Region { range: start..line.end, is_folded });
            }
        }
    }
    regions
}

/// What stands between marks of blocks that are gone: nothing but what is written there. Their bytes, whole lines.
fn orphans(text: &str, blocks: &[Block]) -> Vec<Range<usize>> {
    let is_own = |line: &str| {
        // Quotes begin their lines so, and marks end so.
        let line = line.trim_matches(['>', ' ', '\t', '\n', '\r']);
        line.is_empty()
            || [SHOWN, FOLDED, END, UNFOLD, CLOSE].iter().any(|mark| mark.trim_end_matches('>') == line)
            || line.starts_with("![") && line.ends_with(")")
    };
    let taken: BTreeSet<usize> = blocks.iter().filter_map(|b| Some(b.region.as_ref()?.start)).collect();
    let is_taken = |region: &Region| taken.contains(&region.range.start);
    let holds_block = |region: &Region| {
        let next = blocks.partition_point(|b| b.fence.start < region.range.start);
        blocks.get(next).is_some_and(|b| b.fence.start < region.range.end)
    };
    let left = regions(text).into_iter().filter(|r| !is_taken(r) && !holds_block(r));
    left.map(|r| r.range).filter(|r| text[r.clone()].lines().all(is_own)).collect()
}

/// A block in some bytes; `lines` stand before it.
fn block(text: &str, range: Range<usize>, body: String, lines: u32) -> Block {
    let start = text[..range.start].rfind('\n').map_or(0, |at| at + 1);
    let last = text[..range.end].trim_end_matches(['\n', '\r']).len();
    let last_line = text[..last].rfind('\n').map_or(0, |at| at + 1);
    let end = text[last..].find('\n').map_or(text.len(), |at| last + at + 1);
    // The closing fence says what stands before each line; the opening one may stand behind a bullet.
    let line = text[last_line..end].trim_end_matches(['\n', '\r']);
    let at = line.find(['`', '~']).unwrap_or(line.len());
    let prefix = line[..at].to_owned();
    let fence = line[at..].trim_end();
    let opening = text[range.start..].trim_start_matches([' ', '\t']);
    let kind = opening.chars().next().unwrap_or('`');
    let length = opening.chars().take_while(|c| *c == kind).count();
    let is_fence = !fence.is_empty() && fence.chars().all(|c| c == kind) && fence.len() >= length;
    // A fence that was meant to close is missing if the block holds marks, or another one.
    let is_swallowed = |line: &str| {
        let line = line.trim();
        [SHOWN, FOLDED, END].contains(&line)
            || line.strip_prefix("```").is_some_and(|rest| rest.trim_start().starts_with(WORD))
    };
    let is_closed = is_fence && last_line > start && !body.lines().any(is_swallowed);
    Block {
        text: body,
        line: lines + 2,
        column: prefix.chars().count() as u32,
        is_folded: false,
        is_closed,
        fence: start..end,
        region: None,
        prefix,
    }
}

/// The document with these pictures: `images` of each block, in the order of [`blocks`]; nothing changes at blocks for which
/// there are `None`. What stands between marks whose block is gone goes, unless somebody wrote something else there.
pub fn illustrated(text: &str, blocks: &[Block], images: &[Option<Vec<Image>>], sources: Sources) -> String {
    // What an open fence swallows may come back.
    let is_whole = blocks.iter().all(|block| block.is_closed);
    let orphans = if is_whole { orphans(text, blocks) } else { Vec::new() };
    let mut edits: Vec<(Range<usize>, String)> = orphans.into_iter().map(|r| (r, String::new())).collect();
    for (block, images) in blocks.iter().zip(images) {
        if let Some(images) = images.as_ref().filter(|_| block.is_closed) {
            edits.extend(block.edits(text, images, sources));
        }
    }
    replaced(text, edits)
}

/// A text with some ranges of bytes replaced.
fn replaced(text: &str, mut edits: Vec<(Range<usize>, String)>) -> String {
    edits.sort_by_key(|(range, _)| (range.start, range.end));
    let mut out = String::with_capacity(text.len() + 256 * edits.len());
    let mut done = 0;
    for (range, new) in edits.into_iter().filter(|(range, _)| range.end <= text.len()) {
        // Two never meet; if they did, the first one would count.
        if range.start < done {
            continue;
        }
        out.push_str(&text[done..range.start]);
        out.push_str(&new);
        done = range.end;
    }
    out.push_str(&text[done..]);
    out
}

impl Block {
    /// Whether its picture stands in the document.
    pub fn is_illustrated(&self) -> bool {
        self.region.is_some()
    }

    /// How its lines end.
    fn line_end(&self, text: &str) -> &'static str {
        let fence = &text[self.fence.clone()];
        if fence.ends_with("\r\n") || !fence.contains('\n') && text.contains("\r\n") { "\r\n" } else { "\n" }
    }

    /// What is to be written for its pictures, in place of what.
    fn edits(&self, text: &str, images: &[Image], sources: Sources) -> Vec<(Range<usize>, String)> {
        let fence = &text[self.fence.clone()];
        let end = self.line_end(text);
        let is_folded = match sources {
            Sources::AsTheyAre => self.is_folded,
            Sources::Folded => true,
            Sources::Shown => false,
        };
        // A block whose fence stands behind a bullet cannot be enclosed.
        let is_folded = is_folded && fence.starts_with(&self.prefix);
        let images: Vec<String> = images.iter().map(Image::to_string).collect();
        let images = images.iter().map(String::as_str);
        let lines =
            |parts: Vec<&str>| parts.into_iter().map(|part| prefixed(&self.prefix, part) + end).collect::<String>();
        let shown = || lines([SHOWN].into_iter().chain(images.clone()).chain([END]).collect());
        let fence_line = if fence.ends_with('\n') { fence.to_owned() } else { format!("{fence}{end}") };
        let folded = || {
            let above = lines([FOLDED].into_iter().chain(images.clone()).chain(["", UNFOLD, ""]).collect());
            // What a fold holds ends at an empty line.
            above + &fence_line + &lines(vec!["", CLOSE, "", END])
        };
        match (&self.region, is_folded) {
            (Some(region), true) if self.is_folded => vec![(region.clone(), folded())],
            (Some(region), false) if self.is_folded => vec![(region.clone(), fence_line.clone() + &shown())],
            (Some(region), true) => vec![(self.fence.clone(), folded()), (region.clone(), String::new())],
            // Where the marks stand they stay, also behind words of the author's.
            (Some(region), false) => vec![(region.clone(), shown())],
            (None, true) => vec![(self.fence.clone(), folded())],
            (None, false) => vec![(self.fence.clone(), fence_line.clone() + &shown())],
        }
    }
}

/// The document with other texts in some blocks, in the order of [`blocks`]. A block whose lines do not all begin as its fence does
/// stays as it is.
pub fn rewritten(text: &str, blocks: &[Block], texts: &[Option<String>]) -> String {
    let edit = |(block, new): (&Block, &Option<String>)| {
        let new = new.as_ref().filter(|_| block.is_closed)?;
        let end = block.line_end(text);
        let fence = &text[block.fence.clone()];
        let first = block.fence.start + fence.find('\n')? + 1;
        let body = fence.trim_end_matches(['\n', '\r']);
        let last = block.fence.start + body.rfind('\n')? + 1;
        let (first, last) = (first.min(last), last);
        let old: Vec<&str> = text[first..last].lines().collect();
        let bare = |line: &str| {
            line.strip_prefix(&block.prefix).or_else(|| line.strip_prefix(block.prefix.trim_end())).map(str::to_owned)
        };
        let own: Option<Vec<String>> = old.iter().map(|line| bare(line)).collect();
        let is_plain = own.is_some_and(|own| own.iter().map(|l| l.trim_end_matches('\r')).eq(block.text.lines()));
        is_plain.then(|| (first..last, new.lines().map(|line| prefixed(&block.prefix, line) + end).collect::<String>()))
    };
    replaced(text, blocks.iter().zip(texts).filter_map(edit).collect())
}

/// A text that Markdown shows as it is, in one line; nobody is mentioned by it, and no number becomes a reference.
pub fn escaped(text: &str) -> String {
    let mut out = String::new();
    for c in visible(text).chars() {
        match c {
            c if "\\`*_{}[]<>#|~&@!$^".contains(c) => {
                out.extend(['\\', c]);
                if matches!(c, '@' | '#' | '!') {
                    // No space, and no part of a name.
                    out.push('\u{2060}');
                }
            }
            c => out.push(c),
        }
    }
    out
}

/// A text as code, in one line, whatever backquotes it holds.
pub fn as_code(text: &str) -> String {
    let text = visible(text);
    if text.trim().is_empty() {
        return escaped(&text);
    }
    let longest = text.split(|c| c != '`').map(str::len).max().unwrap_or(0);
    let fence = "`".repeat(longest + 1);
    // A backquote or a space at an end needs a space beside it, which Markdown takes away.
    let is_bare = |c: char| c == '`' || c == ' ';
    let gap = if text.starts_with(is_bare) || text.ends_with(is_bare) { " " } else { "" };
    format!("{fence}{gap}{text}{gap}{fence}")
}

/// A line behind its prefix; of a blank line the prefix ends early.
fn prefixed(prefix: &str, line: &str) -> String {
    if line.is_empty() { prefix.trim_end().to_owned() } else { format!("{prefix}{line}") }
}

impl std::fmt::Display for Image {
    /// As Markdown.
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let words = visible(&self.alternative).split_whitespace().collect::<Vec<_>>().join(" ");
        let words: String = words
            .chars()
            .flat_map(|c| ['\\', c].into_iter().skip(usize::from(!"\\[]<>*_`&~|@#!$^".contains(c))))
            .collect();
        let path: String =
            self.path.chars().flat_map(|c| ['\\', c].into_iter().skip(usize::from(!"<>\\".contains(c)))).collect();
        write!(out, "![{words}](<{path}>)")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn image(name: &str) -> Option<Vec<Image>> {
        Some(vec![Image { path: format!("pictures/{name}.svg"), alternative: "A [flow] of\nthree".to_owned() }])
    }

    fn once(text: &str, sources: Sources) -> String {
        let blocks = blocks(text);
        let images: Vec<_> = (0..blocks.len()).map(|i| image(&format!("p{i}"))).collect();
        illustrated(text, &blocks, &images, sources)
    }

    const PLAIN: &str = "# Tide\n\n```bathygram\nflow f\n  \"a\"\n```\n\nMore.\n";

    #[test]
    fn a_byte_of_an_undrawn_document_is_found_again() {
        let written = "one\n\n```bathygram\nflow a\n```\n\ntwo\n";
        let image = || Some(vec![Image { path: "a.svg".into(), alternative: "A".into() }]);
        for sources in [Sources::Shown, Sources::Folded] {
            let document = illustrated(written, &blocks(written), &[image()], sources);
            let undrawn = Undrawn::of(&document);
            assert!(
                !undrawn.text.contains("a.svg") && undrawn.text.contains("```bathygram\nflow a\n```\n"),
                "{document}"
            );
            for word in ["one", "flow a", "two"] {
                let at = undrawn.text.find(word).expect(word);
                assert!(document[undrawn.origin(at)..].starts_with(word), "{word} in {document}");
            }
        }
    }

    #[test]
    fn pictures_stand_below_their_blocks() {
        let drawn = once(PLAIN, Sources::AsTheyAre);
        let region = format!("{SHOWN}\n![A \\[flow\\] of three](<pictures/p0.svg>)\n{END}\n");
        assert_eq!(drawn, PLAIN.replace("```\n\nMore", &format!("```\n{region}\nMore")));
        assert_eq!(once(&drawn, Sources::AsTheyAre), drawn, "twice is once");
        assert_eq!(blocks(&drawn)[0].text, "flow f\n  \"a\"\n");
        assert_eq!(blocks(&drawn)[0].line, 4);
    }

    #[test]
    fn sources_fold_and_unfold_without_loss() {
        let drawn = once(PLAIN, Sources::AsTheyAre);
        let folded = once(&drawn, Sources::Folded);
        assert!(folded.contains(UNFOLD) && folded.contains(FOLDED) && !folded.contains(SHOWN), "{folded}");
        assert_eq!(once(&folded, Sources::AsTheyAre), folded, "it stays folded");
        assert_eq!(once(PLAIN, Sources::Folded), folded);
        assert_eq!(once(&folded, Sources::Shown), drawn);
        assert_eq!(blocks(&folded)[0].text, blocks(PLAIN)[0].text);
        // What is drawn is an image and a fold to every reader of CommonMark.
        let events: Vec<String> = Parser::new(&folded).map(|e| format!("{e:?}")).collect();
        assert!(
            events.iter().any(|e| e.contains("Image")) && events.iter().any(|e| e.contains("CodeBlock")),
            "{events:?}"
        );
    }

    #[test]
    fn lists_quotes_and_line_ends_stay() {
        let nested = "1. One\n   - Two\n\n     ~~~~ bathygram surge\n     flow f\n       \"a\"\n     ~~~~\n\n     Still two.\n\n> Quoted\n>\n> ```bathygram\n> flow g\n>   \"b\"\n> ```\n> On.\n\n- ```bathygram\n  flow h\n    \"c\"\n  ```\n";
        for text in [nested.to_owned(), nested.replace('\n', "\r\n")] {
            for sources in [Sources::AsTheyAre, Sources::Folded] {
                let drawn = once(&text, sources);
                let found = blocks(&drawn);
                assert_eq!(
                    found.iter().map(|b| b.text.replace('\r', "")).collect::<Vec<_>>(),
                    ["flow f\n  \"a\"\n", "flow g\n  \"b\"\n", "flow h\n  \"c\"\n"]
                );
                assert_eq!(once(&drawn, sources), drawn, "twice is once");
                assert_eq!(drawn.contains("\r\n"), text.contains("\r\n"));
                assert_eq!(drawn.matches('\n').count() == drawn.matches("\r\n").count(), text.contains("\r\n"));
                // Nothing outside of the marks changed.
                assert_eq!(without_marks(&drawn), without_marks(&text));
                let images = Parser::new(&drawn).filter(|e| matches!(e, Event::Start(Tag::Image { .. }))).count();
                assert_eq!(images, 3, "{drawn}");
            }
        }
    }

    /// The lines that are neither marks nor between them, blank lines left out.
    fn without_marks(text: &str) -> Vec<&str> {
        let is_ours = |l: &str| [SHOWN, FOLDED, END, UNFOLD, CLOSE, "!["].iter().any(|m| l.contains(m));
        let is_blank = |l: &str| l.trim_matches(['>', ' ', '\r']).is_empty();
        text.lines().filter(|l| !is_ours(l) && !is_blank(l)).collect()
    }

    #[test]
    fn marks_of_blocks_that_are_gone_go() {
        let two = format!("{PLAIN}\n{}", PLAIN.replace("flow f", "flow g"));
        for sources in [Sources::AsTheyAre, Sources::Folded] {
            let drawn = once(&two, sources);
            let fence = "```bathygram\nflow g\n  \"a\"\n```\n";
            let left = drawn.replace(fence, "");
            assert_ne!(left, drawn);
            let again = once(&left, sources);
            assert_eq!(without_marks(&again), without_marks(&two.replace(fence, "")), "{again}");
            assert_eq!((again.matches(END).count(), again.matches("![").count()), (1, 1), "{again}");
            // What somebody wrote between the marks stays.
            let edited = left.replacen("p1.svg>)", "p1.svg>)\nSee above.", 1);
            assert!(once(&edited, sources).contains("See above."), "{edited}");
        }
    }

    #[test]
    fn words_between_a_block_and_its_picture_stay_there() {
        let drawn = once(PLAIN, Sources::AsTheyAre);
        let between = drawn.replace(SHOWN, &format!("\nAs the buoy sees it:\n\n{SHOWN}"));
        assert_eq!(once(&between, Sources::AsTheyAre), between);
        let folded = once(&between, Sources::Folded);
        assert_eq!((folded.matches(END).count(), folded.contains("As the buoy sees it:")), (1, true), "{folded}");
    }

    #[test]
    fn what_follows_at_once_is_read_as_ever() {
        let text = "```bathygram\nflow f\n  \"a\"\n```\n*More* words.\n";
        for sources in [Sources::AsTheyAre, Sources::Folded] {
            let drawn = once(text, sources);
            let is_read = Parser::new(&drawn).any(|e| matches!(e, Event::Start(Tag::Emphasis)));
            assert!(is_read, "{drawn}");
            assert_eq!(once(&drawn, sources), drawn);
        }
    }

    #[test]
    fn a_byte_order_mark_and_marks_in_code_are_nothing() {
        let text = format!("\u{feff}{}", &PLAIN[PLAIN.find("```").unwrap_or(0)..]);
        let found = blocks(&text);
        assert_eq!((found.len(), found[0].line), (1, 2));
        let drawn = once(&text, Sources::AsTheyAre);
        assert!(drawn.starts_with("\u{feff}```bathygram\n") && drawn.contains(END));
        assert_eq!(once(&drawn, Sources::AsTheyAre), drawn);
        let shown = format!("    {SHOWN}\n    ![a](<b>)\n    {END}\n\n```text\n{SHOWN}\n{END}\n```\n");
        assert_eq!(once(&shown, Sources::AsTheyAre), shown);
    }

    #[test]
    fn texts_of_blocks_can_be_written_again() {
        let text = "> - Quoted\n>\n>   ```bathygram\n>   flow f\n>     \"a\"\n>\n>     \"b\"\n>   ```\n> On.\n\n```bathygram\n```\n";
        let found = blocks(text);
        assert_eq!(found[0].text, "flow f\n  \"a\"\n\n  \"b\"\n");
        let same: Vec<Option<String>> = found.iter().map(|b| Some(b.text.clone())).collect();
        assert_eq!(rewritten(text, &found, &same), text);
        let other = rewritten(text, &found, &[Some("flow g\n\n  \"c\"\n".to_owned()), Some("flow h\n".to_owned())]);
        assert_eq!(blocks(&other)[0].text, "flow g\n\n  \"c\"\n", "{other}");
        assert_eq!(blocks(&other)[1].text, "flow h\n", "{other}");
        assert!(other.contains(">   flow g\n>\n>     \"c\"\n>   ```\n> On."), "{other}");
    }

    #[test]
    fn texts_are_shown_as_they_are() {
        let text = "a `b` *c* @keeper #12 <b> [x](y) | ~d~ _e_ \\ & !z\n# no";
        let mut shown = String::new();
        for event in Parser::new(&escaped(text)) {
            match event {
                Event::Text(part) => shown += &part,
                Event::Start(Tag::Paragraph) | Event::End(TagEnd::Paragraph) => {}
                other => panic!("{other:?}"),
            }
        }
        assert_eq!(shown.replace('\u{2060}', ""), text.replace('\n', " "));
        assert!(shown.contains("@\u{2060}keeper") && shown.contains("#\u{2060}12"), "nobody is mentioned");
        for code in ["a", "`", "``a`", " a ", "a`b``c"] {
            let events: Vec<Event<'_>> = Parser::new(Box::leak(as_code(code).into_boxed_str())).collect();
            assert!(matches!(&events[1], Event::Code(text) if text.as_ref() == code), "{code}: {events:?}");
        }
    }

    #[test]
    fn other_blocks_and_open_ones_are_left_alone() {
        for text in ["```rust\nfn main() {}\n```\n", "    ```bathygram\n    x\n    ```\n", "`bathygram`\n", ""] {
            assert_eq!(once(text, Sources::Folded), text);
        }
        let open = "```bathygram\nflow f\n  \"a\"\n";
        assert!(!blocks(open)[0].is_closed);
        assert_eq!(once(open, Sources::AsTheyAre), open);
        let last = "```bathygram\nflow f\n```";
        assert!(once(last, Sources::AsTheyAre).starts_with("```bathygram\nflow f\n```\n<!--"));
        let blocks = blocks(PLAIN);
        assert_eq!(illustrated(PLAIN, &blocks, &[None], Sources::AsTheyAre), PLAIN, "a block with errors");
    }
}
