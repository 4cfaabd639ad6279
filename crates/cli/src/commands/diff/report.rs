//! Changes in words: for a terminal, and as Markdown for a review.

use super::listed::{Listed, ListedChange};
use bathygram_core::compare::{Fate, Phrase};
use bathygram_host::{Colours, Project};
use bathygram_outputs::markdown::{as_code, escaped};
use std::collections::BTreeMap;
use std::fmt::Write;

/// The sign of a fate, its colour on a terminal, and its word.
fn sign(fate: Fate) -> (&'static str, &'static str, &'static str) {
    match fate {
        Fate::Added => ("+", "34", "new"),
        Fate::Removed => ("-", "31", "gone"),
        Fate::Changed => ("~", "33", "changed"),
        Fate::Moved => (">", "35", "moved"),
        Fate::Drawn => ("=", "36", "drawn differently"),
    }
}

/// The changes in words, a diagram at a time; paths lead from the working folder.
pub(super) fn text(project: &Project, changes: &[Listed], colours: Colours) -> String {
    let mut out = String::new();
    for diagram in changes {
        let file = diagram.file.as_ref().or(diagram.old_file.as_ref());
        let file = file.map_or(String::new(), |file| project.from_here(file));
        let _ = writeln!(out, "{}", colours.paint("1", &format!("{} ({file})", diagram.diagram)));
        for change @ ListedChange { fate, says, .. } in &diagram.changes {
            let (sign, code, _) = sign(*fate);
            let place = place(change);
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

fn place(change: &ListedChange) -> String {
    match change.fate {
        Fate::Removed => format!("was in line {}", change.line),
        _ => format!("line {}", change.line),
    }
}

/// What a review in Markdown leads to, and how long it may be.
pub(super) struct Review<'a> {
    /// What pictures' addresses begin with; without it none is shown.
    pub(super) pictures: Option<&'a str>,
    /// What files' addresses begin with; without it lines are not linked.
    pub(super) sources: Option<&'a str>,
    /// At most this many characters.
    pub(super) limit: usize,
}

/// A comparison under its heading.
pub(super) struct Part<'a> {
    /// In Markdown.
    pub(super) heading: String,
    pub(super) changes: &'a [Listed],
    /// The names of the pictures that were written, with their files' names.
    pub(super) pictures: Vec<(String, String)>,
}

/// The changes as Markdown (CommonMark): a summary, then a diagram at a time, as many as there is room for.
pub(super) fn markdown(parts: &[Part<'_>], notes: &[String], review: &Review<'_>) -> String {
    let mut out = String::new();
    let (mut left_out, mut is_full) = (0, false);
    for part in parts {
        let _ = writeln!(out, "## {}\n\n{}\n", part.heading, summary(part.changes));
        for diagram in part.changes {
            let written = one(diagram, part, review);
            // Room for the line that says what is left out.
            is_full |= out.chars().count() + written.chars().count() + 80 > review.limit;
            if is_full {
                left_out += 1;
            } else {
                out += &written;
            }
        }
    }
    if left_out > 0 {
        let _ = writeln!(out, "… and {left_out} more: run `bathygram diff` for all of them.\n");
    }
    for note in notes {
        let _ = writeln!(out, "{}\n", escaped(note));
    }
    out.pop();
    out
}

/// One diagram.
fn one(diagram: &Listed, part: &Part<'_>, review: &Review<'_>) -> String {
    let file = diagram.file.as_ref().or(diagram.old_file.as_ref()).map_or("", String::as_str);
    let mut out = format!("### {}\n\n", escaped(&diagram.diagram));
    if !file.is_empty() {
        let _ = writeln!(out, "{}\n", link(review.sources, file, None, &as_code(file)));
    }
    for change in &diagram.changes {
        let (_, _, word) = sign(change.fate);
        for (i, sentence) in change.phrases.iter().enumerate() {
            let place = place(change);
            let line = if change.fate == Fate::Removed { None } else { Some(change.line) };
            let place = if i > 0 {
                String::new()
            } else {
                format!(" ({})", link(review.sources.filter(|_| line.is_some()), &change.file, line, &place))
            };
            let _ = writeln!(out, "- **{word}**: {}{place}", sentence_of(sentence));
        }
    }
    if let Some(prefix) = review.pictures {
        for (_, file) in part.pictures.iter().filter(|p| p.0 == diagram.diagram) {
            let _ =
                writeln!(out, "\n![What changed in {}](<{}>)", escaped(&diagram.diagram), address(prefix, file, None));
        }
    }
    out.push('\n');
    out
}

/// A text that leads to a line of a file, if it is known where files are.
fn link(prefix: Option<&str>, file: &str, line: Option<u32>, text: &str) -> String {
    match prefix {
        Some(prefix) => format!("[{text}](<{}>)", address(prefix, file, line)),
        None => text.to_owned(),
    }
}

fn address(prefix: &str, file: &str, line: Option<u32>) -> String {
    let anchor = line.map_or(String::new(), |line| format!("#L{line}"));
    let prefix: String = prefix.chars().filter(|c| !matches!(c, '<' | '>' | '\\' | '\n')).collect();
    format!("{}/{}{anchor}", prefix.trim_end_matches('/'), crate::sarif::uri(file))
}

/// A sentence whose names are code, and whose words are nothing but words.
fn sentence_of(sentence: &[Phrase]) -> String {
    let part = |phrase: &Phrase| match phrase {
        Phrase::Words(words) => escaped(words),
        Phrase::Code(code) => as_code(code),
    };
    sentence.iter().map(part).collect()
}

/// How much changed: `2 diagrams changed: 3 new, 1 gone`.
fn summary(changes: &[Listed]) -> String {
    if changes.is_empty() {
        return "No diagram changed.".to_owned();
    }
    let mut counts: BTreeMap<Fate, usize> = BTreeMap::new();
    changes.iter().flat_map(|d| &d.changes).for_each(|c| *counts.entry(c.fate).or_default() += 1);
    let counts: Vec<String> = counts.iter().map(|(fate, n)| format!("{n} {}", sign(*fate).2)).collect();
    format!("**{} changed**: {}.", crate::session::count(changes.len(), "diagram"), counts.join(", "))
}
