//! `check`: errors and warnings, and pictures that are out of date.

mod constraints;
mod elsewhere;
mod explain;
mod fix;
mod known;
mod pictures;
mod report;
mod sarif;

use crate::forms;
use crate::named;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::pipeline::Reading;
use bathygram_host::{Printed, Project, Purpose, Record, is_document};
use report::Report;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// Find errors and warnings: language, names, rules for each kind of diagram, pictures that are out of date
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram check\n  bathygram check surge_warning.bathy --json\n  \
    bathygram check --format sarif\n  bathygram check --fix\n  bathygram check --explain dead-end\n\n\
    The form of --json is described in docs/json.md, the rules in docs/rules.md.")]
pub(crate) struct Arguments {
    /// Source files, folders or patterns; all of the project if none is named, `-` for standard input
    files: Vec<PathBuf>,
    /// Form of the answer
    #[arg(long, value_enum, default_value_t = Form::Text)]
    format: Form,
    /// Answer as JSON, the same as --format json
    #[arg(long, conflicts_with = "format")]
    json: bool,
    /// Print the JSON Schema of --json
    #[arg(long, exclusive = true)]
    schema: bool,
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
    if arguments.schema {
        session::answer(&session::schema_of::<report::Json<'_>>())?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    session::only_own(&project, &arguments.files)?;
    let is_piped = session::is_piped(&arguments.files)?;
    // What comes from standard input has no picture.
    let with_pictures = !arguments.no_pictures && !is_piped;
    let is_whole = arguments.files.is_empty() && with_pictures;
    let mut record = is_whole.then(|| Record::open(&project, Purpose::Check)).transpose()?;
    let (paths, is_settled) = match &mut record {
        Some(record) => record.sources(&project)?,
        None => (named::files(&project, &arguments.files, named::Takes::Sources)?, false),
    };
    let names: Vec<String> = paths.iter().map(|p| project.shown(p)).collect();
    let (pictures_known, known, changed) = match &mut record {
        Some(record) => known::unchanged(&project, record, (&paths, &names)),
        None => (Vec::new(), BTreeSet::new(), paths),
    };
    let (mut readings, whole) = session::open_all(&project, &changed, voice);
    if arguments.fix {
        readings = fix::all(&project, readings, voice)?;
    }
    let asked = elsewhere::count(&project, &mut readings)?;
    if with_pictures {
        constraints::add(&project, &mut readings);
    }
    if !arguments.no_pictures {
        letters(&project, &mut readings)?;
    }
    let mut report = Report::new(&project, readings);
    report.pictures = pictures_known;
    report.illustrated = known::illustrated(&project, &changed);
    if with_pictures {
        pictures::compare(&mut report);
    }
    if let Some(record) = record.as_mut().filter(|_| whole) {
        let is_known = names.iter().all(|name| record.is_open(name) || known.contains(name));
        let is_done = is_settled && is_known && record.has_same_others(&project);
        if !is_done {
            known::look_at_folders(&project, &mut report, record, (&names, &known, &changed), (&asked, voice))?;
        }
    }
    report.known = known;
    let form = if arguments.json { Form::Json } else { arguments.format };
    match form {
        Form::Json => session::answer_json(&report.as_json(whole))?,
        Form::Sarif => session::answer_json(&sarif::log(&report))?,
        Form::Text => {
            session::answer(&report.as_text(voice.result_colours(), voice.least()))?;
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
    // Documents count that have pictures, or findings.
    let sources = report.readings.iter().map(|r| r.source.name.as_str()).chain(report.known.iter().map(String::as_str));
    let sources = sources.filter(|name| !is_document(Path::new(name)));
    let drawn = report.pictures.iter().filter(|p| p.line > 0).map(|p| p.file.as_str());
    let faulty = report.readings.iter().filter(|r| !r.diagnostics.is_empty()).map(|r| r.source.name.as_str());
    let names: BTreeSet<&str> = sources.chain(drawn).chain(faulty).collect();
    let files = session::count(names.len(), "file");
    match report.counts() {
        Printed { errors: 0, warnings: 0, .. } => {
            format!("{files} and {}: nothing to complain about", session::count(report.pictures.len(), "picture"))
        }
        counts => format!("{files}: {}", session::counted(counts)),
    }
}
