//! Printing diagnostics the way compilers do: place, excerpt, underline, sentence, help.

use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use bathygram_core::diag::{Diagnostic, Severity};
use bathygram_core::source::Source;
use std::collections::BTreeMap;

/// Whether colours are used.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Colours {
    /// Yes.
    On,
    /// No.
    Off,
}

impl Colours {
    /// A text in a colour, by its number of ECMA-48 (SGR); plain where there are no colours.
    pub fn paint(self, code: &str, text: &str) -> String {
        match self {
            Colours::On => format!("\u{1b}[{code}m{text}\u{1b}[0m"),
            Colours::Off => text.to_owned(),
        }
    }
}

/// How much was printed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Printed {
    /// Mistakes.
    pub errors: usize,
    /// Doubts.
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
}

/// At most this many findings of one file are shown.
const SHOWN: usize = 50;
/// Files with longer lines or more text get no excerpt.
const LONGEST_LINE: usize = 2_000;

/// The findings in a file, as text for a terminal, and how many they are.
pub fn print(source: &Source, diagnostics: &[Diagnostic], shown: Shown<'_>) -> (String, Printed) {
    let mut printed = Printed::default();
    let mut out = String::new();
    let mut hidden: BTreeMap<&str, usize> = BTreeMap::new();
    for (i, diagnostic) in diagnostics.iter().enumerate() {
        match diagnostic.severity {
            Severity::Error => printed.errors += 1,
            Severity::Warning => printed.warnings += 1,
        }
        if i < SHOWN.min(shown.limit) {
            out.push_str(&one(source, diagnostic, shown));
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

fn one(source: &Source, diagnostic: &Diagnostic, Shown { name, colours, .. }: Shown<'_>) -> String {
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
        let help = diagnostic.help.as_ref().map_or(String::new(), |h| format!("\n  help: {h}"));
        let word = diagnostic.severity.word();
        return format!("{word}[{}]: {}\n --> {}:{line}:{column}{help}", diagnostic.code, diagnostic.message, name);
    }
    let level = match diagnostic.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    // A finding may stand behind the excerpt: at the end of the file, or on a carriage return.
    let from = (diagnostic.span.start as usize - start).min(excerpt.len());
    let span = from..(end - start).min(excerpt.len()).max(from);
    let snippet =
        Snippet::source(excerpt).path(name).line_start(line as usize).annotation(AnnotationKind::Primary.span(span));
    let title = level.primary_title(diagnostic.message.as_str()).id(diagnostic.code);
    let mut group = title.element(snippet);
    if let Some(help) = &diagnostic.help {
        group = group.element(Level::HELP.message(help.as_str()));
    }
    let report: &[Group<'_>] = &[group];
    let renderer = if colours == Colours::On { Renderer::styled() } else { Renderer::plain() };
    renderer.render(report)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::source::Span;

    #[test]
    fn the_place_and_the_help_are_told() {
        let source = Source::new("a.bathy", "flow x\n  Größe gatway\n");
        let at = source.text.find("gatway").expect("there");
        let diagnostic = Diagnostic {
            code: "unknown-name",
            severity: Severity::Error,
            span: Span::new(at, at + 6),
            message: "no element `gatway`".into(),
            help: Some("did you mean `gateway`?".into()),
        };
        let (text, printed) = print(&source, &[diagnostic], Shown { name: "a.bathy", limit: 9, colours: Colours::Off });
        assert!(text.contains("error[unknown-name]: no element `gatway`"), "{text}");
        assert!(text.contains("a.bathy:2:9"), "{text}");
        assert!(text.contains("^^^^^^") && text.contains("help: did you mean `gateway`?"), "{text}");
        assert_eq!(printed, Printed { errors: 1, warnings: 0, shown: 1 });
    }
}
