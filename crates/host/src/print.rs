//! Printing diagnostics the way compilers do: place, excerpt, underline, sentence, help.

use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use bathygram_core::diag::{Diagnostic, Severity, Words};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::{Source, Sources, is_invisible, visible};
use std::collections::{BTreeMap, BTreeSet};

/// Whether colours are used.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Colours {
    /// Yes.
    On,
    /// No.
    Off,
}

impl Colours {
    /// A text in a colour, by its number of ECMA-48 (SGR); plain where there are no colours. What acts on a terminal is written out.
    pub fn paint(self, code: &str, text: &str) -> String {
        match self {
            Colours::On => format!("\u{1b}[{code}m{}\u{1b}[0m", visible(text)),
            Colours::Off => visible(text).into_owned(),
        }
    }
}

/// How much was printed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Printed {
    /// Errors.
    pub errors: usize,
    /// Warnings.
    pub warnings: usize,
    /// How many of them were shown in full.
    pub shown: usize,
}

impl Printed {
    /// Adds another count.
    pub fn add(&mut self, other: Printed) {
        self.errors += other.errors;
        self.warnings += other.warnings;
        self.shown += other.shown;
    }
}

/// How findings are shown.
#[derive(Clone, Copy, Debug)]
pub struct Shown<'a> {
    /// The file's name, as a terminal can open it.
    pub name: &'a str,
    /// At most this many are shown, and at most 50; the rest is counted.
    pub limit: usize,
    /// Whether in colours.
    pub colours: Colours,
    /// The least that is shown: what weighs less is only counted.
    pub least: Severity,
}

/// At most this many findings of one file are shown.
// Whoever writes a file corrects its first errors and asks again.
const SHOWN: usize = 50;
/// Files with longer lines or more text get no excerpt.
// The excerpt would be longer than a screen.
const LONGEST_LINE: usize = 2_000;

/// What was found in one file.
#[derive(Clone, Debug)]
pub struct FileFindings<'a> {
    /// The file.
    pub source: &'a Source,
    /// Its findings, with their words.
    pub found: Vec<(&'a Diagnostic, Words)>,
}

impl<'a> FileFindings<'a> {
    /// Findings that all stand in one text.
    pub fn of(source: &'a Source, found: &'a [Diagnostic]) -> Self {
        let sources = Sources::new([source]);
        Self { source, found: found.iter().map(|d| (d, d.words(&sources))).collect() }
    }
}

/// What was found in some readings, by the files in which it stands: a file that several take from shows its findings once.
pub fn by_file<'a>(found: impl IntoIterator<Item = (&'a Reading, &'a [Diagnostic])>) -> Vec<FileFindings<'a>> {
    let mut files: Vec<FileFindings<'a>> = Vec::new();
    // A file may hold several texts.
    let mut places: BTreeMap<(&str, u32), usize> = BTreeMap::new();
    let mut seen = BTreeSet::new();
    for (reading, diagnostics) in found {
        let sources = reading.sources();
        for diagnostic in diagnostics {
            let source = sources.get(diagnostic.span.source).unwrap_or(&reading.source);
            let words = diagnostic.words(&sources);
            let range = diagnostic.span.range();
            let text = (source.name.as_str(), source.place().lines);
            if !seen.insert((text, range.start, range.end, diagnostic.code, words.sentence.clone())) {
                continue;
            }
            let at = *places.entry(text).or_insert_with(|| {
                files.push(FileFindings { source, found: Vec::new() });
                files.len() - 1
            });
            files[at].found.push((diagnostic, words));
        }
    }
    files
}

/// The findings in a file, as text for a terminal, and how many they are.
pub fn print(findings: &FileFindings<'_>, shown: Shown<'_>) -> (String, Printed) {
    let shown = Shown { name: &visible(shown.name), ..shown };
    let mut printed = Printed::default();
    let mut out = String::new();
    let mut hidden: BTreeMap<&str, usize> = BTreeMap::new();
    let mut i = 0;
    for (diagnostic, words) in &findings.found {
        match diagnostic.severity {
            Severity::Error => printed.errors += 1,
            Severity::Warning => printed.warnings += 1,
        }
        if shown.least == Severity::Error && diagnostic.severity != Severity::Error {
            continue;
        }
        i += 1;
        if i <= SHOWN.min(shown.limit) {
            out.push_str(&one(findings.source, diagnostic, words, shown));
            out.push_str("\n\n");
            printed.shown += 1;
        } else {
            *hidden.entry(diagnostic.code).or_insert(0) += 1;
        }
    }
    if !hidden.is_empty() {
        let count: usize = hidden.values().sum();
        let kinds: Vec<String> = hidden.iter().map(|(code, n)| format!("{n} {code}")).collect();
        out.push_str(&format!("{}: {count} more findings are not shown: {}\n\n", shown.name, kinds.join(", ")));
    }
    (out, printed)
}

fn one(source: &Source, diagnostic: &Diagnostic, words: &Words, Shown { name, colours, .. }: Shown<'_>) -> String {
    let (line, column) = source.position(diagnostic.span.start);
    // The excerpt is cut to its lines, so that one finding costs the same in small and large files.
    let text = &source.text;
    let start = text[..diagnostic.span.start as usize].rfind('\n').map_or(0, |i| i + 1);
    let mut end = diagnostic.span.end.max(diagnostic.span.start) as usize;
    if let Some(newline) = text[diagnostic.span.start as usize..end].find('\n') {
        end = diagnostic.span.start as usize + newline;
    }
    let stop = text[end..].find('\n').map_or(text.len(), |i| end + i);
    let excerpt = text[start..stop].trim_end_matches('\r');
    if excerpt.len() > LONGEST_LINE {
        let help = words.help.as_ref().map_or(String::new(), |h| format!("\n  help: {h}"));
        let word = diagnostic.severity.word();
        return format!("{word}[{}]: {}\n --> {}:{line}:{column}{help}", diagnostic.code, words.sentence, name);
    }
    let level = match diagnostic.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    // A finding may stand behind the excerpt: at the end of the file, or on a carriage return.
    let from = (diagnostic.span.start as usize - start).min(excerpt.len());
    let span = from..(end - start).min(excerpt.len()).max(from);
    // What a document puts before each line of a block counts for columns.
    let columns = source.place().columns as usize;
    let excerpt = &format!("{}{}", " ".repeat(columns), shaped(excerpt));
    let span = span.start + columns..span.end + columns;
    let snippet =
        Snippet::source(excerpt).path(name).line_start(line as usize).annotation(AnnotationKind::Primary.span(span));
    let title = level.primary_title(words.sentence.as_str()).id(diagnostic.code);
    let mut group = title.element(snippet);
    if let Some(help) = &words.help {
        group = group.element(Level::HELP.message(help.as_str()));
    }
    let report: &[Group<'_>] = &[group];
    let renderer = if colours == Colours::On { Renderer::styled() } else { Renderer::plain() };
    renderer.render(report)
}

/// An excerpt with something in the place of each character that has no shape, of as many bytes: what is underlined stays so. Controls
/// of ASCII get their signs when the excerpt is rendered.
fn shaped(excerpt: &str) -> String {
    let mut out = String::with_capacity(excerpt.len());
    for c in excerpt.chars() {
        match c.len_utf8() {
            2 if c.is_control() || is_invisible(c) => out.push('\u{b7}'),
            3 if is_invisible(c) => out.push('\u{fffd}'),
            4 if is_invisible(c) => out.push_str("\u{fffd} "),
            _ => out.push(c),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::pipeline::{Setting, read};

    #[test]
    fn the_place_and_the_help_are_printed() {
        let text = "architecture x\n  service gateway \"Größe\"\n  gateway uses gatway\n";
        let reading = read(Source::new("a.bathy", text), "a", &Setting::default());
        let files = by_file([(&reading, &reading.diagnostics[..]), (&reading, &reading.diagnostics[..])]);
        assert_eq!(files.len(), 1, "a file tells its findings once");
        let (text, printed) =
            print(&files[0], Shown { name: "a.bathy", limit: 9, colours: Colours::Off, least: Severity::Warning });
        assert!(text.contains("error[unknown-name]: no element `gatway`"), "{text}");
        assert!(text.contains("a.bathy:3:16"), "{text}");
        assert!(text.contains("^^^^^^") && text.contains("help: did you mean `gateway`?"), "{text}");
        assert_eq!((printed.errors, printed.warnings, printed.shown), (1, 0, 1));
    }
}
