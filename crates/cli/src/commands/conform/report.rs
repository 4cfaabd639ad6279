//! Differences in words, as JSON, as SARIF, and as Markdown for a review.

use super::compared::{Actual, Compared};
use crate::outcome::{Failure, Result};
use crate::sarif as logs;
use crate::session;
use bathygram_core::conform::{Deviation, Realm, Weight};
use bathygram_core::source::{visible, visible_cut};
use bathygram_host::{Colours, Project, RuleLevel};
use bathygram_outputs::markdown as marks;
use schemars::JsonSchema;
use serde::Serialize;
use serde_json::json;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;

/// At most this many places are named in one line.
const MOST_PLACES: usize = 3;

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

/// How much a difference weighs in this project.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Level {
    /// The command ends with 1.
    Error,
    /// It is reported.
    Warning,
    /// It is reported as a note.
    Note,
}

/// How much differences weigh, by their codes.
pub(super) struct Levels(BTreeMap<String, RuleLevel>);

/// All codes.
const CODES: [&str; 21] = [
    "absent",
    "action",
    "check",
    "default",
    "forbidden",
    "key",
    "member-absent",
    "member-surprise",
    "multiplicity",
    "no-code",
    "nullable",
    "order",
    "repeated",
    "surprise",
    "type",
    "uncovered",
    "undrawn",
    "unique",
    "unique-undrawn",
    "unobserved",
    "untaken",
];

impl Levels {
    /// Those of a project.
    ///
    /// # Errors
    /// If its config names what is no code.
    pub(super) fn of(project: &Project) -> Result<Self> {
        let levels = &project.config.conform.levels;
        match levels.keys().find(|code| !CODES.contains(&code.as_str())) {
            Some(wrong) => {
                let codes = CODES.join(", ");
                Err(Failure::Usage(format!("bathygram.toml: no difference is called `{wrong}`; there are {codes}")))
            }
            None => Ok(Self(levels.clone())),
        }
    }

    /// How much a deviation weighs; nothing if it is not reported.
    pub(super) fn of_deviation(&self, deviation: &Deviation) -> Option<Level> {
        match (self.0.get(deviation.code), deviation.weight) {
            (Some(RuleLevel::Off), _) => None,
            (Some(RuleLevel::Warning), _) => Some(Level::Warning),
            (Some(RuleLevel::Error), _) | (None, Weight::Difference) => Some(Level::Error),
            (None, Weight::Note) => Some(Level::Note),
        }
    }
}

impl Level {
    fn word(self) -> &'static str {
        match self {
            Level::Error => "error",
            Level::Warning => "warning",
            Level::Note => "note",
        }
    }
}

/// One difference, as it is written.
#[derive(Serialize, JsonSchema)]
struct WrittenDifference {
    /// What kind of difference it is.
    code: &'static str,
    /// `error` if the command ends with 1 for it, `warning`, or `note`.
    level: &'static str,
    /// What differs.
    message: String,
    /// The file of the diagram.
    file: String,
    /// The line there, from 1.
    line: u32,
    /// Where it was seen, as `file:line`: in the code, or in the traces; the first places if there are many. The database, if it was
    /// seen there.
    seen: Vec<String>,
}

/// One diagram, as it is written.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "A diagram against reality")]
pub(super) struct WrittenDiagram<'a> {
    /// Its name.
    diagram: &'a str,
    /// Its kind.
    kind: &'static str,
    file: String,
    /// What it was compared with: `code`, `traces`, `database` or `data`.
    against: &'static str,
    /// How many traces are of it; source files that it stands for; classifiers or tables that are there.
    seen: usize,
    /// How many traces are of something else.
    others: usize,
    /// How many messages, relations, classifiers or tables are as they are drawn.
    agreements: usize,
    differences: Vec<WrittenDifference>,
}

/// A diagram with what differs, as it is written.
pub(super) fn written<'a>(compared: &'a Compared<'_>, project: &Project, levels: &Levels) -> WrittenDiagram<'a> {
    let all = compared.deviations().into_iter();
    let all = all.filter_map(|one| Some((levels.of_deviation(&one)?, one)));
    let sources = compared.reading.sources();
    let own = &compared.reading.source.name;
    let differences = all.map(|(level, one)| {
        let name = sources.get(one.span.source).map_or(own.as_str(), |source| source.name.as_str());
        let (file, line) = (project.from_here(name), sources.line(one.span));
        WrittenDifference { code: one.code, level: level.word(), message: one.says, file, line, seen: one.places }
    });
    let (against, seen, others, agreements) = match &compared.actual {
        Actual::Traces(of, _) => ("traces", of.traces, of.others, of.agreements.len()),
        Actual::Code(of) => ("code", of.covered, 0, of.agreements.len()),
        Actual::Classes(of) => (if of.realm == Realm::Data { "data" } else { "code" }, of.agreements, 0, of.agreements),
        Actual::Tables(of) => ("database", of.found(), 0, of.agreements),
    };
    WrittenDiagram {
        diagram: &compared.design.name,
        kind: compared.design.kind.word(),
        file: project.from_here(own),
        against,
        seen,
        others,
        agreements,
        differences: differences.collect(),
    }
}

/// Places in one line: the first ones.
fn places(seen: &[String], most: usize) -> String {
    let shown = seen.iter().take(most).cloned().collect::<Vec<_>>().join(", ");
    if seen.len() > most { format!("{shown}, …") } else { shown }
}

/// A line each: `file:line: error [code]: sentence (places)`.
pub(super) fn text(written: &[WrittenDiagram<'_>], colours: Colours) -> String {
    let mut out = String::new();
    for WrittenDifference { code, level, message, file, line, seen } in written.iter().flat_map(|one| &one.differences)
    {
        let colour = match *level {
            "error" => "31",
            "warning" => "33",
            _ => "36",
        };
        let level = colours.paint(colour, level);
        let seen = if seen.is_empty() { String::new() } else { format!(" ({})", places(seen, MOST_PLACES)) };
        let _ = writeln!(out, "{}:{line}: {level} [{code}]: {}{}", visible(file), visible_cut(message), visible(&seen));
    }
    out
}

/// As JSON.
///
/// # Errors
/// If it cannot be written as JSON.
pub(super) fn json(written: &[WrittenDiagram<'_>]) -> Result<String> {
    Ok(serde_json::to_string_pretty(written)? + "\n")
}

/// The JSON Schema of [`json()`].
pub(super) fn schema() -> String {
    session::schema_of::<Vec<WrittenDiagram<'_>>>()
}

/// As a SARIF log: what was seen in the code stands at its place there, too.
pub(super) fn sarif(project: &Project, written: &[WrittenDiagram<'_>]) -> String {
    let base = logs::base(project);
    let differences: Vec<&WrittenDifference> = written.iter().flat_map(|one| &one.differences).collect();
    let codes: BTreeSet<&str> = differences.iter().map(|difference| difference.code).collect();
    let rules = codes.iter().map(|code| json!({ "id": code })).collect();
    let results = differences.iter().map(|difference| {
        let mut result = json!({
            "ruleId": difference.code,
            "level": difference.level,
            "message": { "text": difference.message },
            "locations": [logs::location(&format!("{base}{}", difference.file), Some(difference.line))],
        });
        let seen = difference.seen.iter().filter_map(|place| {
            let (file, line) = place.rsplit_once(':')?;
            Some(logs::location(&format!("{base}{file}"), Some(line.parse().ok()?)))
        });
        let seen: Vec<_> = seen.collect();
        if !seen.is_empty() {
            result["relatedLocations"] = json!(seen);
        }
        result
    });
    format!("{:#}\n", logs::log(rules, results.collect()))
}

/// As Markdown (CommonMark).
pub(super) fn markdown(written: &[WrittenDiagram<'_>]) -> String {
    let mut out = String::new();
    for one in written {
        let what = match (one.against, one.seen) {
            ("traces", 1) => "1 trace".to_owned(),
            ("traces", count) => format!("{count} traces"),
            ("database", _) => "the database".to_owned(),
            ("data", _) => "the data".to_owned(),
            _ if one.kind == "classes" => "code".to_owned(),
            (_, 1) => "1 source file".to_owned(),
            (_, count) => format!("{count} source files"),
        };
        let _ = writeln!(out, "## {} against {what}\n", marks::as_code(one.diagram));
        if one.differences.is_empty() {
            out.push_str("No difference.\n");
        }
        for WrittenDifference { code, level, message, file, line, seen } in &one.differences {
            let seen = match seen.is_empty() {
                true => String::new(),
                false => format!("; seen at {}", escaped(&places(seen, MOST_PLACES))),
            };
            let sign = if *level == "note" { "note" } else { code };
            let _ = writeln!(out, "- **{sign}**: {} ({}:{line}{seen})", escaped(message), escaped(file));
        }
        out.push('\n');
    }
    out.pop();
    out
}

/// A sentence as it is, in Markdown: names between backquotes are code, all else is words.
fn escaped(text: &str) -> String {
    let text = visible_cut(text);
    let parts: Vec<&str> = text.split('`').collect();
    if parts.len().is_multiple_of(2) {
        return marks::escaped(&text);
    }
    let part = |(i, part): (usize, &&str)| if i % 2 == 0 { marks::escaped(part) } else { marks::as_code(part) };
    parts.iter().enumerate().map(part).collect()
}
