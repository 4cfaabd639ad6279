//! Differences in words, as JSON, as SARIF, and as Markdown for a review.

use crate::outcome::Result;
use crate::sarif as logs;
use bathygram_core::conform::{Conformance, Difference, Weight};
use bathygram_core::markup::as_link;
use bathygram_core::model::Diagram;
use bathygram_core::pipeline::Reading;
use bathygram_host::{Colours, Project};
use schemars::JsonSchema;
use serde::Serialize;
use serde_json::json;
use std::collections::BTreeSet;
use std::fmt::Write;

/// Forms of the answer.
#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
pub(super) enum Form {
    /// A line each
    Text,
    /// Described by a schema
    Json,
    /// A SARIF log
    Sarif,
    /// For a review
    Markdown,
}

/// One sequence and how it agrees.
pub(super) struct Compared<'r> {
    pub(super) reading: &'r Reading,
    pub(super) design: &'r Diagram,
    pub(super) of: Conformance,
}

/// One difference, as it is written.
#[derive(Serialize, JsonSchema)]
struct Written<'a> {
    /// What kind of difference it is.
    code: &'static str,
    /// `warning` for a difference, `note` for what was not seen.
    level: &'static str,
    /// What differs.
    message: String,
    /// The file of the diagram.
    file: String,
    /// The line there, from 1.
    line: u32,
    /// Where it was seen first in the traces, as `file:line`.
    seen: Option<&'a str>,
}

/// One sequence, as it is written.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "A sequence against traces")]
struct WrittenSequence<'a> {
    sequence: &'a str,
    file: String,
    /// How many traces are of it, and how many of something else.
    traces: usize,
    others: usize,
    /// How many messages happen as they are drawn.
    agreements: usize,
    differences: Vec<Written<'a>>,
}

impl Compared<'_> {
    fn written(&self, project: &Project) -> WrittenSequence<'_> {
        let file = project.from_here(&self.reading.source.name);
        let one = |difference| self.difference(difference, project);
        WrittenSequence {
            sequence: &self.design.name,
            traces: self.of.traces,
            others: self.of.others,
            agreements: self.of.agreements.len(),
            differences: self.of.differences.iter().map(one).collect(),
            file,
        }
    }

    fn difference<'d>(&self, difference: &'d Difference, project: &Project) -> Written<'d> {
        let span = difference.span(self.design).unwrap_or(self.design.span);
        let sources = self.reading.sources();
        let name = sources.get(span.source).map_or(self.reading.source.name.as_str(), |source| source.name.as_str());
        Written {
            code: difference.code(),
            level: level(difference),
            message: difference.sentence(self.design, &self.of),
            file: project.from_here(name),
            line: sources.line(span),
            seen: difference.place(),
        }
    }
}

fn level(difference: &Difference) -> &'static str {
    match difference.weight() {
        Weight::Difference => "warning",
        Weight::Note => "note",
    }
}

/// A line each: `file:line: warning [code]: sentence`.
pub(super) fn text(project: &Project, compared: &[Compared<'_>], colours: Colours) -> String {
    let mut out = String::new();
    for sequence in compared.iter().map(|c| c.written(project)) {
        for Written { code, level, message, file, line, seen } in &sequence.differences {
            let level = colours.paint(if *level == "note" { "36" } else { "33" }, level);
            let seen = seen.map(|seen| format!(" ({seen})")).unwrap_or_default();
            let _ = writeln!(out, "{file}:{line}: {level} [{code}]: {message}{seen}");
        }
    }
    out
}

/// As JSON.
///
/// # Errors
/// If it cannot be written as JSON.
pub(super) fn json(project: &Project, compared: &[Compared<'_>]) -> Result<String> {
    let all: Vec<WrittenSequence<'_>> = compared.iter().map(|c| c.written(project)).collect();
    Ok(serde_json::to_string_pretty(&all)? + "\n")
}

/// The JSON Schema of [`json()`].
pub(super) fn schema() -> String {
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    format!("{:#}\n", settings.into_generator().into_root_schema_for::<Vec<WrittenSequence<'_>>>().to_value())
}

/// As a SARIF log.
pub(super) fn sarif(project: &Project, compared: &[Compared<'_>]) -> String {
    let all: Vec<WrittenSequence<'_>> = compared.iter().map(|c| c.written(project)).collect();
    let differences: Vec<&Written<'_>> = all.iter().flat_map(|sequence| &sequence.differences).collect();
    let codes: BTreeSet<&str> = differences.iter().map(|difference| difference.code).collect();
    let rules = codes.iter().map(|code| json!({ "id": code })).collect();
    let results = differences.iter().map(|difference| {
        json!({
            "ruleId": difference.code,
            "level": difference.level,
            "message": { "text": difference.message },
            "locations": [{ "physicalLocation": {
                "artifactLocation": { "uri": as_link(&difference.file) },
                "region": { "startLine": difference.line },
            } }],
        })
    });
    format!("{:#}\n", logs::log(rules, results.collect()))
}

/// As Markdown (CommonMark).
pub(super) fn markdown(project: &Project, compared: &[Compared<'_>]) -> String {
    let mut out = String::new();
    for sequence in compared.iter().map(|c| c.written(project)) {
        let _ = writeln!(out, "## `{}` against {} traces\n", sequence.sequence.replace('`', "'"), sequence.traces);
        if sequence.differences.is_empty() {
            out.push_str("No difference.\n");
        }
        for Written { code, level, message, file, line, seen } in &sequence.differences {
            let seen = seen.map(|seen| format!("; seen at {}", escaped(seen))).unwrap_or_default();
            let sign = if *level == "note" { "note" } else { code };
            let _ = writeln!(out, "- **{sign}**: {} ({}:{line}{seen})", escaped(message), escaped(file));
        }
        out.push('\n');
    }
    out.pop();
    out
}

/// A text as it is: signs of Markdown are escaped, but for those around names.
fn escaped(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        if matches!(c, '\\' | '*' | '_' | '[' | ']' | '<' | '>' | '#' | '|' | '!' | '&' | '@') {
            out.push('\\');
        }
        out.push(c);
    }
    out
}
