//! Diagrams in Markdown (CommonMark): fenced blocks whose info string begins with `bathygram`, and the pictures that are
//! kept with them between markers. Only what stands between markers is ever changed, byte for byte: line ends, lists and
//! quotes around a block stay as they are.

use pulldown_cmark::{CodeBlockKind, Event, Parser, Tag, TagEnd};
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

/// The blocks of a document, in their order.
pub fn blocks(text: &str) -> Vec<Block> {
    let mut found: Vec<(Range<usize>, String)> = Vec::new();
    let mut is_ours = false;
    for (event, range) in Parser::new(text).into_offset_iter() {
        match event {
            Event::Start(Tag::CodeBlock(CodeBlockKind::Fenced(info))) => {
                is_ours = info.split_whitespace().next() == Some(WORD);
                found.extend(is_ours.then(|| (range, String::new())));
            }
            Event::Text(part) if is_ours => found.iter_mut().last().into_iter().for_each(|(_, body)| *body += &part),
            Event::End(TagEnd::CodeBlock) => is_ours = false,
            _ => {}
        }
    }
    found.into_iter().map(|(range, body)| block(text, range, body)).collect()
}

fn block(text: &str, range: Range<usize>, body: String) -> Block {
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
    let is_closed = is_fence && last_line > start;
    let mut block = Block {
        text: body,
        line: text[..start].matches('\n').count() as u32 + 2,
        is_folded: false,
        is_closed,
        fence: start..end,
        region: None,
        prefix,
    };
    if let Some(region) = folded(text, &block) {
        (block.region, block.is_folded) = (Some(region), true);
    } else {
        block.region = shown(text, &block);
    }
    block
}

/// A line without what stands before it in its list or quote.
fn bare<'a>(line: &'a str, prefix: &str) -> &'a str {
    let line = line.trim_end_matches(['\n', '\r']);
    // Blank lines end before the prefix does.
    line.strip_prefix(prefix).or_else(|| line.strip_prefix(prefix.trim_end())).unwrap_or(line).trim()
}

/// The marked region below a block.
fn shown(text: &str, block: &Block) -> Option<Range<usize>> {
    let mut at = block.fence.end;
    let mut lines = text[at..].split_inclusive('\n');
    let first = lines.next()?;
    if bare(first, &block.prefix) != SHOWN {
        return None;
    }
    at += first.len();
    for line in lines {
        at += line.len();
        match bare(line, &block.prefix) {
            END => return Some(block.fence.end..at),
            SHOWN | FOLDED => return None,
            _ => {}
        }
    }
    None
}

/// The marked region around a block that is folded away.
fn folded(text: &str, block: &Block) -> Option<Range<usize>> {
    let mut from = block.fence.start;
    let mut is_open = false;
    loop {
        let start = text[..from.checked_sub(1)?].rfind('\n').map_or(0, |at| at + 1);
        let line = bare(&text[start..from], &block.prefix);
        from = start;
        match line {
            UNFOLD => is_open = true,
            FOLDED if is_open => break,
            "" => {}
            _ if is_open && line.starts_with("![") => {}
            _ => return None,
        }
    }
    let mut to = block.fence.end;
    let mut is_over = false;
    for line in text[to..].split_inclusive('\n') {
        to += line.len();
        match bare(line, &block.prefix) {
            CLOSE => is_over = true,
            END if is_over => return Some(from..to),
            "" => {}
            _ => return None,
        }
    }
    None
}

/// The document with these pictures: `images` of each block, in the order of [`blocks`]; nothing changes at blocks for which
/// there are `None`.
pub fn illustrated(text: &str, blocks: &[Block], images: &[Option<Vec<Image>>], sources: Sources) -> String {
    let mut out = String::with_capacity(text.len() + 256 * blocks.len());
    let mut done = 0;
    for (block, images) in blocks.iter().zip(images) {
        let Some(images) = images.as_ref().filter(|_| block.is_closed) else { continue };
        let fence = &text[block.fence.clone()];
        let end = if fence.ends_with("\r\n") || text.contains("\r\n") && !fence.contains('\n') { "\r\n" } else { "\n" };
        let is_folded = match sources {
            Sources::AsTheyAre => block.is_folded,
            Sources::Folded => true,
            Sources::Shown => false,
        };
        // A block whose fence stands behind a bullet cannot be enclosed.
        let is_folded = is_folded && fence.starts_with(&block.prefix);
        let whole = match &block.region {
            Some(region) => region.start.min(block.fence.start)..region.end.max(block.fence.end),
            None => block.fence.clone(),
        };
        let images: Vec<String> = images.iter().map(Image::to_string).collect();
        let images = images.iter().map(String::as_str);
        let (above, below): (Vec<&str>, Vec<&str>) = match is_folded {
            true => ([FOLDED].into_iter().chain(images).chain(["", UNFOLD, ""]).collect(), vec!["", CLOSE, END]),
            false => (Vec::new(), [SHOWN].into_iter().chain(images).chain([END]).collect()),
        };
        let line = |part: &str| prefixed(&block.prefix, part) + end;
        out.push_str(&text[done..whole.start]);
        out.extend(above.into_iter().map(line));
        out.push_str(fence);
        if !fence.ends_with('\n') {
            out.push_str(end);
        }
        out.extend(below.into_iter().map(line));
        done = whole.end;
    }
    out.push_str(&text[done..]);
    out
}

/// A line behind its prefix; of a blank line the prefix ends early.
fn prefixed(prefix: &str, line: &str) -> String {
    if line.is_empty() { prefix.trim_end().to_owned() } else { format!("{prefix}{line}") }
}

impl std::fmt::Display for Image {
    /// As Markdown.
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let mut words = String::new();
        for c in self.alternative.split_whitespace().collect::<Vec<_>>().join(" ").chars() {
            if c.is_ascii_punctuation() && "\\[]<>*_`&".contains(c) {
                words.push('\\');
            }
            words.push(c);
        }
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
