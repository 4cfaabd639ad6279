//! Everything that was found, and its forms for people and for programs.

use bathygram_core::diag::{Diagnostic, Severity, Words};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::Source;
use bathygram_host::{Colours, FileFindings, Printed, Project, Shown, by_file, print};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeSet;
use std::fmt::Write;

/// At most this many findings are shown; the rest is counted.
// A file of another language has an error in every line.
const SHOWN: usize = 200;

/// What was found.
pub(super) struct Report<'a> {
    pub(super) project: &'a Project,
    /// What was read, with what was found in it.
    pub(super) readings: Vec<Reading>,
    /// What was found about pictures.
    pub(super) about_pictures: Vec<Finding>,
    /// The pictures that were looked at.
    pub(super) pictures: Vec<Picture>,
    /// Blocks of documents whose pictures stand there: the document, and how many lines stand before the block.
    pub(super) illustrated: BTreeSet<(String, u32)>,
    /// The files that were not read, since nothing was found in them before and nothing changed.
    pub(super) known: BTreeSet<String>,
}

/// One finding.
#[derive(Clone, Serialize, JsonSchema)]
pub(super) struct Finding {
    /// Relative to the project, with `/`.
    pub(super) file: String,
    /// From 1, or 0 for a file as a whole.
    pub(super) line: u32,
    /// From 1, in characters; 0 for a file as a whole.
    pub(super) column: u32,
    /// The line of its end.
    pub(super) end_line: u32,
    /// Behind its last character.
    pub(super) end_column: u32,
    /// `error` or `warning`.
    pub(super) severity: &'static str,
    /// The error or the rule; docs/rules.md has a page for each.
    pub(super) code: &'static str,
    /// A sentence.
    pub(super) message: String,
    /// What to write instead.
    pub(super) help: Option<String>,
}

/// One picture that was looked at.
#[derive(Serialize, JsonSchema)]
pub(super) struct Picture {
    /// Its name.
    pub(super) name: String,
    /// The file of its text, relative to the project; of a stray, the picture itself.
    pub(super) file: String,
    /// The line in which its text begins; 0 for strays.
    pub(super) line: u32,
    /// `fresh`, `out-of-date`, `edited` (changed since it was drawn), `missing`, or `stray` (no text has this picture).
    pub(super) state: &'static str,
    /// The files of the picture that are there, relative to the project.
    #[serde(serialize_with = "with_forms", rename = "pictures")]
    #[schemars(with = "Vec<PictureFile>")]
    pub(super) picture_files: Vec<String>,
}

/// A file of a picture.
#[derive(Serialize, JsonSchema)]
struct PictureFile {
    /// Relative to the project.
    file: String,
    /// `svg`, `png`, `pdf`, `html`, `json` or `graphml`.
    format: &'static str,
}

fn with_forms<S: serde::Serializer>(files: &[String], out: S) -> Result<S::Ok, S::Error> {
    out.collect_seq(files.iter().map(|file| PictureFile { file: file.clone(), format: super::pictures::form(file) }))
}

/// Everything that was found.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "bathygram check --json")]
pub(super) struct Json<'r> {
    /// 1; it grows when a field changes its meaning or goes.
    version: u32,
    /// File by file, in the order of the text; then those about pictures.
    findings: Vec<Finding>,
    /// One for each picture that was looked at.
    pictures: &'r [Picture],
    /// How many errors were found; with any the exit status is 1.
    errors: usize,
    /// How many warnings were found.
    warnings: usize,
    /// Whether there are errors, or files that could not be read.
    has_errors: bool,
}

impl<'a> Report<'a> {
    pub(super) fn new(project: &'a Project, readings: Vec<Reading>) -> Self {
        let (about_pictures, pictures, illustrated) = (Vec::new(), Vec::new(), BTreeSet::new());
        Self { project, readings, about_pictures, pictures, illustrated, known: BTreeSet::new() }
    }

    /// What was found in texts, by files.
    pub(super) fn files(&self) -> Vec<FileFindings<'_>> {
        by_file(self.readings.iter().map(|r| (r, &r.diagnostics[..])))
    }

    /// All findings, those in texts first.
    pub(super) fn findings(&self) -> Vec<Finding> {
        let files = self.files();
        let in_texts = files.iter().flat_map(|f| f.found.iter().map(|(d, words)| finding(f.source, d, words)));
        in_texts.chain(self.about_pictures.iter().cloned()).collect()
    }

    pub(super) fn counts(&self) -> Printed {
        let mut counts = Printed::default();
        let files = self.files();
        let severities = files.iter().flat_map(|f| f.found.iter().map(|(d, _)| d.severity.word()));
        for severity in severities.chain(self.about_pictures.iter().map(|f| f.severity)) {
            match severity {
                "error" => counts.errors += 1,
                _ => counts.warnings += 1,
            }
        }
        counts
    }

    pub(super) fn as_json(&self, whole: bool) -> Json<'_> {
        let Printed { errors, warnings, .. } = self.counts();
        let has_errors = errors > 0 || !whole;
        Json { version: 1, findings: self.findings(), pictures: &self.pictures, errors, warnings, has_errors }
    }

    pub(super) fn as_text(&self, colours: Colours, least: Severity) -> String {
        let mut out = String::new();
        let mut left = SHOWN;
        for file in self.files() {
            let name = self.project.from_here(&file.source.name);
            let (text, printed) = print(&file, Shown { name: &name, limit: left, colours, least });
            left = left.saturating_sub(printed.shown);
            out.push_str(&text);
        }
        let is_shown = |finding: &&Finding| least == Severity::Warning || finding.severity == "error";
        let about_pictures: Vec<&Finding> = self.about_pictures.iter().filter(is_shown).collect();
        for finding in about_pictures.iter().take(left) {
            let Finding { severity, code, message, .. } = finding;
            let _ = writeln!(out, "{severity}[{code}]: {message}");
            let name = self.project.from_here(&finding.file);
            let place = if finding.line > 0 { format!("{name}:{}:{}", finding.line, finding.column) } else { name };
            let _ = writeln!(out, " --> {place}");
            if let Some(help) = &finding.help {
                let _ = writeln!(out, "  = help: {help}");
            }
            out.push('\n');
        }
        if about_pictures.len() > left {
            let more = about_pictures.len() - left;
            let _ = writeln!(out, "{more} more findings about pictures are not shown\n");
        }
        out
    }
}

fn finding(source: &Source, diagnostic: &Diagnostic, words: &Words) -> Finding {
    let (line, column) = source.position(diagnostic.span.start);
    let (end_line, end_column) = source.position(diagnostic.span.end);
    Finding {
        file: source.name.clone(),
        line,
        column,
        end_line,
        end_column,
        severity: diagnostic.severity.word(),
        code: diagnostic.code,
        message: words.sentence.clone(),
        help: words.help.clone(),
    }
}

impl Finding {
    /// A finding about a picture whose text begins in a line of a file; line 0 is a file as a whole.
    pub(super) fn about(
        code: &'static str, severity: Severity, (file, line): (String, u32), message: String, help: String,
    ) -> Self {
        let column = u32::from(line > 0);
        let severity = severity.word();
        Self { file, line, column, end_line: line, end_column: column, severity, code, message, help: Some(help) }
    }
}
