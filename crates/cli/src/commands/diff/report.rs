//! Changes in words: for a terminal, and as Markdown for a review.

use super::drawn::Picture;
use super::listed::{Listed, ListedChange};
use super::sides::{Compared, Side};
use bathygram_core::compare::Fate;
use bathygram_host::Colours;
use std::collections::BTreeMap;
use std::fmt::Write;

/// The sign of a fate, its colour on a terminal, and its word.
fn sign(fate: Fate) -> (&'static str, &'static str, &'static str) {
    match fate {
        Fate::Added => ("+", "34", "new"),
        Fate::Removed => ("-", "31", "gone"),
        Fate::Changed => ("~", "33", "changed"),
        Fate::Moved => (">", "35", "moved"),
    }
}

/// Where each diagram stands: the newer version's file wins.
pub(super) fn files_of(sides: [&Side; 2]) -> BTreeMap<String, String> {
    let mut files = BTreeMap::new();
    for reading in sides.iter().flat_map(|s| &s.readings) {
        let document = &reading.document;
        let names = document.diagrams.iter().map(|d| &d.name).chain(document.sheets.iter().map(|s| &s.name));
        for name in names {
            files.insert(name.clone(), reading.source.name.clone());
        }
    }
    files
}

/// The changes in words, a diagram at a time.
pub(super) fn text(changes: &[Listed], files: &BTreeMap<String, String>, colours: Colours) -> String {
    let mut out = String::new();
    for diagram in changes {
        let file = files.get(&diagram.diagram).map_or("", String::as_str);
        let _ = writeln!(out, "{}", colours.paint("1", &format!("{} ({file})", diagram.diagram)));
        for ListedChange { fate, says, line, .. } in &diagram.changes {
            let (sign, code, _) = sign(*fate);
            let place = if *fate == Fate::Removed { format!("was in line {line}") } else { format!("line {line}") };
            for (i, sentence) in says.iter().enumerate() {
                let place =
                    if i == 0 { format!("  {}", colours.paint("2", &format!("({place})"))) } else { String::new() };
                let _ = writeln!(out, "  {} {sentence}{place}", colours.paint(code, sign));
            }
        }
        out.push('\n');
    }
    out
}

/// The changes as Markdown (CommonMark), with the pictures of them that were written.
pub(super) fn markdown(
    compared: &Compared, changes: &[Listed], files: &BTreeMap<String, String>, pictures: &[Picture],
) -> String {
    let mut out = format!("## Diagrams: {} to {}\n\n", escaped(&compared.from.name), escaped(&compared.to.name));
    if changes.is_empty() {
        out.push_str("No diagram changed.\n");
        return out;
    }
    for diagram in changes {
        let file = files.get(&diagram.diagram).map_or("", String::as_str);
        let _ = writeln!(out, "### {}\n\n{}\n", escaped(&diagram.diagram), escaped(file));
        for change in &diagram.changes {
            let (_, _, word) = sign(change.fate);
            for sentence in &change.says {
                let _ = writeln!(out, "- **{word}**: {}", escaped(sentence));
            }
        }
        for picture in pictures.iter().filter(|p| p.name == diagram.diagram) {
            let path = picture.path.to_string_lossy().replace('\\', "/");
            let _ = writeln!(out, "\n![What changed in {}](<{path}>)", escaped(&diagram.diagram));
        }
        out.push('\n');
    }
    out.pop();
    out
}

/// A text that Markdown shows as it is; what stands in backquotes is shown so already.
pub(super) fn escaped(text: &str) -> String {
    let mut out = String::new();
    let mut is_code = false;
    for c in text.chars() {
        is_code ^= c == '`';
        if !is_code && c.is_ascii_punctuation() && "\\*_[]<>&#|~".contains(c) {
            out.push('\\');
        }
        out.push(if c == '\n' { ' ' } else { c });
    }
    out
}
