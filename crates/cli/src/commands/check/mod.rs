//! `check`: Every error and every warning, and pictures that are out of date.

mod constraints;
mod explain;
mod fix;
mod pictures;
mod report;
mod sarif;

use crate::forms;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::pipeline::Reading;
use bathygram_host::{Printed, Project};
use report::Report;
use std::path::PathBuf;

/// Every error and every warning: language, names, rules for each kind of diagram, pictures that are out
/// of date
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram check\n  bathygram check surge_warning.bathy --json\n  \
    bathygram check --format sarif\n  bathygram check --fix\n  bathygram check --explain dead-end\n\n\
    The form of --json is described in docs/json.md, the rules in docs/rules.md.")]
pub(crate) struct Arguments {
    /// Sources; all of the project if none is named
    files: Vec<PathBuf>,
    /// Form of the answer
    #[arg(long, value_enum, default_value_t = Form::Text)]
    format: Form,
    /// Answer as JSON, the same as --format json
    #[arg(long, conflicts_with = "format")]
    json: bool,
    /// Look at the texts only, not at the pictures
    #[arg(long)]
    no_pictures: bool,
    /// Make the corrections that are certain: the one correct spelling, an indentation, a closing quote
    #[arg(long)]
    fix: bool,
    /// Explain a rule or an error by its code; without a code, list them all
    #[arg(long, value_name = "CODE", num_args = 0..=1, default_missing_value = "", conflicts_with_all = ["files", "json", "format"])]
    explain: Option<String>,
}

#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Form {
    /// For people
    Text,
    /// For programs
    Json,
    /// For code scanners: SARIF 2.1.0
    Sarif,
}

/// Runs the command.
///
/// # Errors
/// If a file cannot be read, or there is no rule with the code to explain.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if let Some(code) = &arguments.explain {
        session::answer(&explain::page(code).map_err(Failure::Usage)?)?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    let paths = session::sources(&project, &arguments.files);
    let (mut readings, whole) = session::open_all(&project, &paths, voice);
    if arguments.fix {
        readings = fix::all(&project, readings, voice)?;
    }
    if !arguments.no_pictures {
        constraints::add(&project, &mut readings);
        letters(&project, &mut readings)?;
    }
    let mut report = Report::new(&project, readings);
    if !arguments.no_pictures {
        pictures::compare(&mut report);
        if arguments.files.is_empty() && whole {
            pictures::strays(&mut report);
        }
    }
    let form = if arguments.json { Form::Json } else { arguments.format };
    match form {
        Form::Json => session::answer(&(serde_json::to_string_pretty(&report.as_json())? + "\n"))?,
        Form::Sarif => session::answer(&(serde_json::to_string_pretty(&sarif::log(&report))? + "\n"))?,
        Form::Text => {
            session::answer(&report.as_text(voice.result_colours()))?;
            if whole {
                voice.say(&summary(&report));
            } else if !report.readings.is_empty() {
                voice.say(&format!("{} in what could be read", summary(&report)));
            }
        }
    }
    Ok(match (whole, report.counts().errors) {
        (false, _) => Outcome::Incomplete,
        (true, 0) => Outcome::Done,
        _ => Outcome::Denied,
    })
}

/// Adds to each reading which of its letters no font has, unless no form of the project's pictures needs one.
fn letters(project: &Project, readings: &mut [Reading]) -> Result<()> {
    if project.config.formats.as_ref().is_some_and(|formats| !formats.iter().copied().any(forms::shows_boxes)) {
        return Ok(());
    }
    let found = forms::missing_letters(project, &*readings)?;
    readings.iter_mut().zip(found).for_each(|(reading, found)| reading.add_findings(found));
    Ok(())
}

fn summary(report: &Report<'_>) -> String {
    let files = session::count(report.readings.len(), "file");
    match report.counts() {
        Printed { errors: 0, warnings: 0, .. } => {
            format!("{files} and {}: nothing to complain about", session::count(report.pictures.len(), "picture"))
        }
        counts => format!("{files}: {}", session::counted(counts)),
    }
}
