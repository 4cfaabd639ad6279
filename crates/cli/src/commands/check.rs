//! `check`: every mistake and every doubt, and pictures that are out of date.

use crate::outcome::{Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::diag::Diagnostic;
use bathygram_core::pipeline::{self, Reading};
use bathygram_core::svg;
use bathygram_host::{Freshness, Printed, Project, freshness};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;

/// Every mistake and every doubt: language, names, pictures that are out of date
#[derive(clap::Args)]
#[command(
    after_help = "Examples:\n  bathygram check\n  bathygram check surge_warning.bathy --json\n\nThe form of --json is described in docs/json.md."
)]
pub(crate) struct Arguments {
    /// Sources; all of the project if none is named
    files: Vec<PathBuf>,
    /// Answer as JSON
    #[arg(long)]
    json: bool,
    /// Look at the texts only, not at the pictures
    #[arg(long)]
    no_pictures: bool,
}

/// The whole answer.
#[derive(Serialize)]
struct Report {
    version: u32,
    findings: Vec<Finding>,
    pictures: Vec<Picture>,
    errors: usize,
    warnings: usize,
}

#[derive(Serialize)]
struct Finding {
    file: String,
    line: u32,
    column: u32,
    end_line: u32,
    end_column: u32,
    severity: &'static str,
    code: &'static str,
    message: String,
    help: Option<String>,
}

#[derive(Serialize)]
struct Picture {
    name: String,
    file: String,
    line: u32,
    state: &'static str,
}

/// Runs the command.
///
/// # Errors
/// If a file cannot be read.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let project = session::project()?;
    let paths = session::sources(&project, &arguments.files);
    let (readings, whole) = session::open_all(&project, &paths, voice);
    let mut report = Report { version: 1, findings: Vec::new(), pictures: Vec::new(), errors: 0, warnings: 0 };
    let mut text = String::new();
    for reading in &readings {
        let (printed, counts) = voice.printed(reading);
        text.push_str(&printed);
        report.errors += counts.errors;
        report.warnings += counts.warnings;
        report.findings.extend(reading.diagnostics.iter().map(|d| finding(reading, d)));
    }
    for (name, first, second) in taken_twice(&readings) {
        text.push_str(&format!(
            "error[picture-name-taken]: {first} and {second} both have a picture called `{name}`\n\n"
        ));
        report.errors += 1;
    }
    if !arguments.no_pictures {
        pictures(&project, &readings, &mut report, &mut text);
        if arguments.files.is_empty() && whole {
            strays(&project, &readings, &mut report, &mut text)?;
        }
    }
    if arguments.json {
        session::answer(&(serde_json::to_string_pretty(&report)? + "\n"))?;
    } else {
        session::answer(&text)?;
        voice.say(&summary(&report, readings.len()));
    }
    Ok(match (whole, report.errors) {
        (false, _) => Outcome::Incomplete,
        (true, 0) => Outcome::Done,
        _ => Outcome::Denied,
    })
}

fn summary(report: &Report, files: usize) -> String {
    let files = if files == 1 { "1 file".to_owned() } else { format!("{files} files") };
    if report.errors + report.warnings == 0 {
        let pictures = report.pictures.len();
        return format!("{files} and {pictures} pictures: nothing to complain about");
    }
    let printed = Printed { errors: report.errors, warnings: report.warnings };
    format!("{files}: {}", session::counted(printed))
}

fn finding(reading: &Reading, diagnostic: &Diagnostic) -> Finding {
    let (line, column) = reading.source.position(diagnostic.span.start);
    let (end_line, end_column) = reading.source.position(diagnostic.span.end);
    Finding {
        file: reading.source.name.clone(),
        line,
        column,
        end_line,
        end_column,
        severity: diagnostic.severity.word(),
        code: diagnostic.code,
        message: diagnostic.message.clone(),
        help: diagnostic.help.clone(),
    }
}

/// Names of pictures that two files claim.
fn taken_twice(readings: &[Reading]) -> Vec<(String, String, String)> {
    let mut first: BTreeMap<String, &str> = BTreeMap::new();
    let mut twice = Vec::new();
    for reading in readings {
        let file = reading.source.name.as_str();
        for picture in reading.pictures() {
            if let Some(other) = first.insert(picture.name.clone(), file)
                && other != file
            {
                twice.push((picture.name, other.to_owned(), file.to_owned()));
            }
        }
    }
    twice
}

/// Whether the pictures on disk are those of their texts. Files with mistakes have none to compare.
fn pictures(project: &Project, readings: &[Reading], report: &mut Report, text: &mut String) {
    for reading in readings.iter().filter(|r| !r.has_mistakes()) {
        for picture in reading.pictures() {
            let digest = svg::digest(&pipeline::provenance(reading, &picture.name));
            let (file, line) = (reading.source.name.clone(), picture.line);
            let (state, complaint) = match freshness(project, &picture.name, &digest) {
                Freshness::Fresh => ("fresh", None),
                Freshness::OutOfDate => ("out-of-date", Some("is out of date")),
                Freshness::Missing => ("missing", Some("has not been drawn yet")),
            };
            if let Some(complaint) = complaint {
                report.errors += 1;
                let name = &picture.name;
                text.push_str(&format!("error[picture-{state}]: the picture of `{name}` {complaint}\n"));
                text.push_str(&format!(" --> {file}:{line}:1\n  = help: run `bathygram render`\n\n"));
            }
            report.pictures.push(Picture { name: picture.name, file, line, state });
        }
    }
}

/// Pictures that this program drew from a text that is no longer there.
fn strays(project: &Project, readings: &[Reading], report: &mut Report, text: &mut String) -> Result<()> {
    let names: BTreeSet<String> = readings.iter().flat_map(|r| r.pictures().into_iter().map(|p| p.name)).collect();
    // A file with mistakes may hold the text of any picture.
    if readings.iter().any(Reading::has_mistakes) {
        return Ok(());
    }
    let Ok(folder) = std::fs::read_dir(project.pictures()) else { return Ok(()) };
    let mut found: Vec<PathBuf> = folder.flatten().map(|e| e.path()).collect();
    found.sort();
    for path in found {
        let stem = path.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        let is_svg = path.extension().is_some_and(|e| e == "svg");
        if !is_svg || names.contains(&stem) {
            continue;
        }
        let ours = std::fs::read_to_string(&path).is_ok_and(|svg| svg::read_digest(&svg).is_some());
        if ours {
            report.warnings += 1;
            let file = project.shown(&path);
            text.push_str(&format!("warning[picture-stray]: no text has a picture called `{stem}`\n --> {file}\n  = help: remove the file\n\n"));
            report.pictures.push(Picture { name: stem, file, line: 0, state: "stray" });
        }
    }
    Ok(())
}

impl Voice {
    /// The findings in a file as text, for the result of a command.
    fn printed(self, reading: &Reading) -> (String, Printed) {
        bathygram_host::print(&reading.source, &reading.diagnostics, self.result_colours())
    }
}
