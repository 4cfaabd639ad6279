//! What is doubtful in a source: as text, JSON or SARIF.

use crate::outcome::Result;
use crate::sarif;
use crate::session::Voice;
use bathygram_readers::{Finding, Level, Seen};
use serde_json::{Value, json};
use std::collections::BTreeSet;
use std::io::Write;

/// How findings are written.
#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
pub(super) enum Form {
    /// A line each
    Text,
    /// A list
    Json,
    /// A SARIF log
    Sarif,
}

/// At most this many other places of a finding are named in a line.
const MOST_PLACES: usize = 3;

/// Writes findings to standard error.
pub(super) fn write(findings: &[Finding], form: Form, voice: Voice) -> Result<()> {
    match form {
        Form::Text => findings.iter().for_each(|finding| voice.say(&line(finding))),
        // A program reads these, however quiet the run is.
        Form::Json => writeln!(std::io::stderr(), "{:#}", json!(findings))?,
        Form::Sarif => writeln!(std::io::stderr(), "{:#}", log(findings))?,
    }
    Ok(())
}

fn line(finding: &Finding) -> String {
    let also = match &finding.others[..] {
        [] => String::new(),
        others if others.len() > MOST_PLACES => {
            let shown: Vec<String> = others[..MOST_PLACES].iter().map(Seen::to_string).collect();
            format!(" (also {}, …)", shown.join(", "))
        }
        others => format!(" (also {})", others.iter().map(Seen::to_string).collect::<Vec<_>>().join(", ")),
    };
    format!("{}: {} [{}]: {}{also}", finding.seen, word(finding.level), finding.code, finding.says)
}

fn word(level: Level) -> &'static str {
    match level {
        Level::Warning => "warning",
        Level::Note => "note",
    }
}

/// The log of one import (OASIS, Static Analysis Results Interchange Format 2.1.0).
fn log(findings: &[Finding]) -> Value {
    let codes: BTreeSet<&str> = findings.iter().map(|finding| finding.code).collect();
    let rules: Vec<Value> = codes.iter().map(|code| json!({ "id": code })).collect();
    let results: Vec<Value> = findings.iter().map(result).collect();
    sarif::log(rules, results)
}

fn result(finding: &Finding) -> Value {
    let mut result = json!({
        "ruleId": finding.code,
        "level": word(finding.level),
        "message": { "text": finding.says },
        "locations": [location(&finding.seen)],
    });
    if !finding.others.is_empty() {
        result["relatedLocations"] = finding.others.iter().map(location).collect();
    }
    result
}

fn location(Seen { file, sheet, line, column }: &Seen) -> Value {
    // A row of a sheet is no line of a text; it is named instead.
    let mut location = sarif::location(file, Some(*line).filter(|line| sheet.is_none() && *line > 0));
    let named = sheet.as_ref().map(|sheet| {
        let cell = column.map_or(String::new(), |column| format!(", column {column}"));
        json!([{ "fullyQualifiedName": format!("{sheet}, row {line}{cell}"), "kind": "member" }])
    });
    named.into_iter().for_each(|named| location["logicalLocations"] = named);
    location
}
