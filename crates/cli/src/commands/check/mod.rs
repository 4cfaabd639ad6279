//! `check`: Every error and every warning, and pictures that are out of date.

mod constraints;
mod explain;
mod fix;
mod pictures;
mod report;
mod sarif;

use crate::commands::render::made;
use crate::forms;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::diag::Diagnostic;
use bathygram_core::pipeline::{self, Reading};
use bathygram_host::{PictureOf, Printed, Project, Purpose, Record, Threads, is_document, read_source};
use bathygram_outputs::markdown;
use report::Report;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

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
    let is_piped = arguments.files.iter().any(|f| f == Path::new("-"));
    if is_piped && arguments.files.len() > 1 {
        return Err(Failure::Usage("`-` stands alone: standard input is the only source then".into()));
    }
    // What comes from standard input has no picture.
    let with_pictures = !arguments.no_pictures && !is_piped;
    let is_whole = arguments.files.is_empty() && with_pictures;
    let mut record = is_whole.then(|| Record::open(&project, Purpose::Check));
    let (paths, is_settled) = match &mut record {
        Some(record) => record.sources(&project),
        None => (session::sources(&project, &arguments.files), false),
    };
    let names: Vec<String> = paths.iter().map(|p| project.shown(p)).collect();
    let (known, changed) = match &mut record {
        Some(record) => unchanged(&project, record, (&paths, &names)),
        None => (Vec::new(), paths.clone()),
    };
    let (mut readings, whole) = session::open_all(&project, &changed, voice);
    if arguments.fix {
        readings = fix::all(&project, readings, voice)?;
    }
    sheets_elsewhere(&project, &mut readings);
    if with_pictures {
        constraints::add(&project, &mut readings);
    }
    if !arguments.no_pictures {
        letters(&project, &mut readings)?;
    }
    let mut report = Report::new(&project, readings);
    report.known = names.len() - changed.len();
    report.pictures = known;
    report.illustrated = illustrated(&project, &changed);
    if with_pictures {
        pictures::compare(&mut report);
    }
    if let Some(record) = record.as_mut().filter(|_| whole) {
        let is_known = names.iter().zip(&paths).all(|(name, path)| record.is_open(name) || !changed.contains(path));
        let is_done = is_settled && is_known && record.has_same_others(&project);
        if !is_done {
            look_at_folders(&project, &mut report, record, (&names, &changed), voice);
        }
    }
    let form = if arguments.json { Form::Json } else { arguments.format };
    match form {
        Form::Json => session::answer(&(serde_json::to_string_pretty(&report.as_json(whole))? + "\n"))?,
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

/// The pictures of files in which nothing was found and that did not change since, and the files that are to be read.
fn unchanged(
    project: &Project, record: &mut Record, (paths, names): (&[PathBuf], &[String]),
) -> (Vec<report::Picture>, Vec<PathBuf>) {
    let (mut known, mut changed) = (Vec::new(), Vec::new());
    for ((path, name), state) in paths.iter().zip(names).zip(record.look(project, names, &Threads::all())) {
        let Ok(entry) = state else {
            changed.push(path.clone());
            continue;
        };
        known.extend(entry.pictures().map(|(picture, line)| {
            let files = PictureOf { source: name, name: picture }.files(project).into_iter();
            let picture_files = files.map(|(_, path)| project.shown(&path)).collect();
            report::Picture { name: picture.to_owned(), file: name.clone(), line, state: "fresh", picture_files }
        }));
    }
    (known, changed)
}

/// Counts sheets in other files of the project among those that show what a model holds.
fn sheets_elsewhere(project: &Project, readings: &mut [Reading]) {
    const CODE: &str = "shown-nowhere";
    let is_asked = |reading: &Reading| reading.diagnostics.iter().any(|d| d.code == CODE);
    if !readings.iter().any(is_asked) {
        return;
    }
    let names: BTreeSet<String> = readings.iter().map(|r| r.source.name.clone()).collect();
    let unread = project.sources().into_iter().chain(project.documents());
    let unread: Vec<PathBuf> = unread.filter(|path| !names.contains(&project.shown(path))).collect();
    // What cannot be read has no sheets.
    let others: Vec<Reading> =
        unread.iter().filter_map(|path| session::open_texts(project, path).ok()).flatten().collect();
    let found: Vec<Option<Vec<Diagnostic>>> = readings
        .iter()
        .map(|reading| {
            let beside = readings.iter().chain(&others).collect::<Vec<_>>();
            is_asked(reading).then(|| pipeline::shown_nowhere(reading, &beside))
        })
        .collect();
    for (reading, found) in readings.iter_mut().zip(found) {
        if let Some(found) = found {
            reading.diagnostics.retain(|d| d.code != CODE);
            reading.add_findings(found);
        }
    }
}

/// The blocks of documents whose pictures stand there.
fn illustrated(project: &Project, paths: &[PathBuf]) -> BTreeSet<(String, u32)> {
    let documents = paths.iter().filter(|p| is_document(p));
    let of = |path: &PathBuf| {
        let blocks = markdown::blocks(&read_source(path).unwrap_or_default());
        let name = project.shown(path);
        blocks
            .into_iter()
            .filter(markdown::Block::is_illustrated)
            .map(move |b| (name.clone(), b.line - 1))
            .collect::<Vec<_>>()
    };
    documents.flat_map(of).collect()
}

/// Looks for pictures without a text, and for copies; notes which files had nothing to be found.
fn look_at_folders(
    project: &Project, report: &mut Report<'_>, record: &mut Record, (names, changed): (&[String], &[PathBuf]),
    voice: Voice,
) {
    pictures::strays(report);
    // Copies can be of any text.
    let unread: Vec<PathBuf> = names.iter().map(|n| project.root.join(n)).filter(|p| !changed.contains(p)).collect();
    let (others, _) = session::open_all(project, &unread, voice);
    let own = report.readings.len();
    report.readings.extend(others);
    let copies = pictures::copies(report);
    report.readings.truncate(own);
    let faulty: BTreeSet<String> = report.findings().into_iter().map(|f| f.file).collect();
    let blank: Vec<String> = changed.iter().map(|p| project.shown(p)).filter(|name| !faulty.contains(name)).collect();
    let readings: Vec<&Reading> = report.readings.iter().filter(|r| !faulty.contains(&r.source.name)).collect();
    record.note(project, &made(&readings, &blank, Some(&report.illustrated)), &Threads::all());
    faulty.iter().for_each(|name| record.forget(name));
    record.retain(|name| names.iter().any(|n| n == name));
    record.note_copies(project, &copies);
    let (open, others): (Vec<&String>, Vec<&String>) = faulty.iter().partition(|file| names.contains(file));
    record.note_open(project, open.into_iter().map(String::as_str));
    if !others.is_empty() || !record.knows(names) {
        record.forget_places();
    }
    record.save(project);
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
    let names: BTreeSet<&str> = report.readings.iter().map(|r| r.source.name.as_str()).collect();
    let files = session::count(names.len() + report.known, "file");
    match report.counts() {
        Printed { errors: 0, warnings: 0, .. } => {
            format!("{files} and {}: nothing to complain about", session::count(report.pictures.len(), "picture"))
        }
        counts => format!("{files}: {}", session::counted(counts)),
    }
}
