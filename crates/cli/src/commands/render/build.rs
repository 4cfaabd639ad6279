//! The project's own pictures: only what changed is read and drawn, and pictures whose text is gone are removed.

use super::{Arguments, Faulty, draw, jobs, no_source, outcome, report, reported, reported_letters, reported_unmet};
use crate::named;
use crate::outcome::{Failure, Result};
use crate::session::{self, Voice};
use bathygram_core::container;
use bathygram_core::pipeline::Reading;
use bathygram_host::Threads;
use bathygram_host::{
    Lock, Made, PATIENCE, Project, Purpose, Reason, Record, Room, UnmetCache, clear_unfinished, is_document,
    remove_inside, strays,
};
use jobs::{Job, Why};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// What is known without reading.
#[derive(Default)]
struct Known {
    /// Pictures that are up to date, by their files without endings, with their sources.
    pictures: BTreeMap<PathBuf, String>,
    /// The sources that must be read.
    changed: Vec<PathBuf>,
}

/// Builds the sources named, or all of a project.
///
/// # Errors
/// If another build runs, two pictures have one name, or a picture cannot be written.
pub(super) fn run(project: &Project, arguments: &Arguments, voice: Voice) -> Result {
    let is_whole = arguments.files.is_empty();
    let lock =
        Lock::take(project, PATIENCE, || voice.say("another `bathygram render` is at work here; this one waits"))?;
    let mut record = Record::open(project, Purpose::Build)?;
    let (sources, is_settled) = match is_whole {
        true => record.sources(project)?,
        false => (named::files(project, &arguments.files, named::Takes::Sources)?, false),
    };
    // 1. What changed, and what it says.
    let names: Vec<String> = sources.iter().map(|p| project.shown(p)).collect();
    let known = known(project, &mut record, (&sources, &names), arguments.all, voice);
    let blocks = if is_whole { session::Blocks::Illustrated } else { session::Blocks::All };
    let (readings, is_read) = session::open_chosen(project, &known.changed, blocks, voice);
    let mut printed = reported(project, &readings, voice);
    let good: Vec<&Reading> = readings.iter().filter(|r| !r.has_errors()).collect();
    // 2. Its pictures.
    let (jobs, fresh) = jobs::of_texts(project, arguments, &good, &known.pictures, false)?;
    jobs.iter().for_each(|j| voice.detail(&format!("{}: {}", j.picture.name, j.why.word())));
    let room = Room { below: Some(&project.root), overwrite: arguments.overwrite()? };
    let drawn = draw::all(project, &jobs, arguments.finishing.finish(), room, voice);
    let (written, failure) = sorted(&jobs, &drawn);
    let done: Vec<(&Reading, &draw::Done)> =
        jobs.iter().zip(&drawn).filter_map(|(job, done)| Some((job.reading, done.as_ref().ok()?))).collect();
    printed.add(reported_unmet(project, &done, voice));
    let drawn_of: Vec<&Reading> =
        good.iter().copied().filter(|r| jobs.iter().any(|job| std::ptr::eq(job.reading, *r))).collect();
    printed.add(reported_letters(project, &drawn_of, &jobs::formats(project, arguments), voice)?);
    remember(project, &jobs, &drawn);
    // 3. Pictures that no text has any more, if all texts are known.
    let is_known = is_whole && is_read && printed.errors == 0;
    let is_unfinished = !(is_settled && known.changed.is_empty());
    if lock.is_some() && is_unfinished {
        clear_unfinished(&project.root, &project.pictures());
    }
    let removed = if is_known && is_unfinished {
        remove_strays(project, &good, &known, (&mut record, voice))?
    } else {
        Vec::new()
    };
    // 4. The record.
    let faulty: BTreeSet<&str> = readings.iter().filter(|r| r.has_errors()).map(|r| r.source.name.as_str()).collect();
    let is_whole_text = |name: &str| !written.failed.contains(name) && !faulty.contains(name);
    let whole: Vec<&Reading> = good.iter().copied().filter(|r| is_whole_text(&r.source.name)).collect();
    let blank = known.changed.iter().map(|path| project.shown(path)).filter(|name| is_document(Path::new(name)));
    let blank: Vec<String> = blank.filter(|name| is_whole_text(name)).collect();
    record.note(project, &made(&whole, &blank, None), &Threads::all());
    record.note_drawn(jobs.iter().zip(&drawn).filter(|(_, done)| done.is_ok()).map(|(job, _)| job.picture.name));
    faulty.iter().for_each(|name| record.forget(name));
    if is_known && is_unfinished {
        let names: BTreeSet<&str> = names.iter().map(String::as_str).collect();
        record.retain(|name| names.contains(name));
    }
    // A source that is not noted must be found again.
    if !jobs.is_empty() || !removed.is_empty() || !is_known || !record.knows(&names) {
        record.forget_places();
    }
    record.save(project);
    drop(lock);
    // 5. What was done.
    let has_source = sources.iter().any(|path| !is_document(path)) || fresh + known.pictures.len() + jobs.len() > 0;
    if !has_source && readings.is_empty() && removed.is_empty() {
        return Err(no_source(project));
    }
    if arguments.json {
        let drawn = jobs.iter().zip(&drawn).filter(|(_, done)| done.is_ok());
        let report = report::Report {
            pictures: drawn.flat_map(|(job, _)| report::of_job(project, job)).collect(),
            up_to_date: fresh + known.pictures.len(),
            removed: removed.iter().map(|path| project.shown(path)).collect(),
            ..report::Report::default()
        };
        session::answer(&report.counted(printed, is_read)?)?;
    } else {
        session::answer(&session::listed(project, &written.paths))?;
    }
    if let Some(failure) = failure {
        return Err(Failure::Outside(anyhow::anyhow!(failure)));
    }
    voice.say(&summary(&jobs, fresh + known.pictures.len(), removed.len()));
    Ok(outcome(is_read, printed, Faulty::Left, voice))
}

fn known(
    project: &Project, record: &mut Record, (sources, names): (&[PathBuf], &[String]), all: bool, voice: Voice,
) -> Known {
    let mut known = Known::default();
    for ((path, name), state) in sources.iter().zip(names).zip(record.look(project, names, &Threads::all())) {
        match state {
            Ok(entry) if !all => {
                let folder = project.pictures_of(name);
                known.pictures.extend(entry.pictures().map(|(picture, _)| (folder.join(picture), name.clone())));
            }
            Ok(_) => known.changed.push(path.clone()),
            Err(reason) => {
                voice.detail(&format!("{name} is read: {}", why(reason)));
                known.changed.push(path.clone());
            }
        }
    }
    known
}

fn why(reason: Reason) -> &'static str {
    match reason {
        Reason::New => "it is not in the record",
        Reason::Text => "its source changed",
        Reason::Used => "a file that it takes from changed",
        Reason::Missing => "a picture is missing",
        Reason::Edited => "a picture is not as it was drawn",
    }
}

/// Remembers what the layouts could not keep, for checks.
fn remember(project: &Project, jobs: &[Job<'_>], drawn: &[Result<draw::Done>]) {
    let asked = jobs.iter().zip(drawn).filter(|(job, _)| job.picture.has_constraints());
    let mut asked = asked.filter_map(|(job, done)| Some((job, done.as_ref().ok().filter(|d| d.is_drawn)?))).peekable();
    if asked.peek().is_none() {
        return;
    }
    let mut cache = UnmetCache::open(project);
    for (job, done) in asked {
        cache.put(&container::digest(&job.reading.provenance(job.picture.name)), &done.unmet);
    }
    cache.save(project);
}

/// What was written.
#[derive(Default)]
struct Written {
    paths: Vec<PathBuf>,
    /// Sources with a picture that could not be written.
    failed: BTreeSet<String>,
}

fn sorted(jobs: &[Job<'_>], drawn: &[Result<draw::Done>]) -> (Written, Option<String>) {
    let mut written = Written::default();
    let mut failure = None;
    for (job, result) in jobs.iter().zip(drawn) {
        match result {
            Ok(done) => written.paths.extend(done.paths.iter().cloned()),
            Err(why) => {
                written.failed.insert(job.reading.source.name.clone());
                failure = failure.or_else(|| Some(why.to_string()));
            }
        }
    }
    (written, failure)
}

/// What was made, a file at a time: a document may hold several texts, or none, which is `blank`.
pub(crate) fn made<'a>(
    readings: &[&'a Reading], blank: &'a [String], illustrated: Option<&BTreeSet<(String, u32)>>,
) -> Vec<Made<'a>> {
    let mut all: BTreeMap<&str, Made<'a>> = BTreeMap::new();
    let empty = |name: &'a str| Made { name, uses: Vec::new(), pictures: Vec::new() };
    blank.iter().for_each(|name| drop(all.insert(name, empty(name))));
    for reading in readings {
        let name = reading.source.name.as_str();
        let made = all.entry(name).or_insert_with(|| empty(name));
        let imports = reading.document.imports.sources.iter().map(|s| s.name.as_str());
        made.uses.extend(imports.chain(reading.icons.own_files()));
        made.uses.sort_unstable();
        made.uses.dedup();
        // Of a document only the blocks whose pictures stand there have any.
        let is_shown = |all: &BTreeSet<(String, u32)>| all.contains(&(name.to_owned(), reading.source.place().lines));
        if is_document(Path::new(name)) && !illustrated.is_none_or(is_shown) {
            continue;
        }
        made.pictures.extend(reading.pictures().map(|v| (v.name, reading.source.line(v.span.start))));
    }
    all.into_values().collect()
}

/// Removes pictures that no text has: those that say that this program drew them, and of which the record says that it was here.
/// Edited ones stay.
fn remove_strays(
    project: &Project, good: &[&Reading], known: &Known, (record, voice): (&mut Record, Voice),
) -> Result<Vec<PathBuf>> {
    let own = good.iter().filter(|r| !is_document(Path::new(&r.source.name)));
    let drawn = own.flat_map(|r| r.pictures()).map(|v| v.name.to_owned());
    let known = known.pictures.iter().filter(|(_, source)| !is_document(Path::new(source)));
    let known = known.filter_map(|(path, _)| Some(path.file_name()?.to_string_lossy().into_owned()));
    let names: BTreeSet<String> = known.chain(drawn).collect();
    let mut removed = Vec::new();
    for stray in strays(project, &names) {
        let shown = project.shown(&stray.path);
        let stem = stray.path.file_stem().unwrap_or_default().to_string_lossy();
        if stray.is_intact && record.has_drawn(&stem) {
            remove_inside(&project.root, &stray.path)?;
            voice.say(&format!("{shown} removed: no source has this picture"));
            removed.push(stray.path);
        } else if stray.is_intact {
            voice.say(&format!("{shown} stays: no source has this picture, but it was not drawn here"));
        } else {
            voice.say(&format!("{shown} stays: no source has this picture, but it was edited by hand"));
        }
    }
    let gone = removed.iter().filter_map(|path| Some(path.file_stem()?.to_string_lossy().into_owned())).collect();
    record.forget_drawn(&gone);
    Ok(removed)
}

fn summary(jobs: &[Job<'_>], fresh: usize, removed: usize) -> String {
    let mut parts = Vec::new();
    if !jobs.is_empty() {
        let mut reasons: BTreeMap<Why, usize> = BTreeMap::new();
        jobs.iter().for_each(|j| *reasons.entry(j.why).or_default() += 1);
        reasons.remove(&Why::Asked);
        let shown: Vec<String> = reasons.iter().map(|(why, count)| format!("{count} {}", why.word())).collect();
        let shown = if shown.is_empty() { String::new() } else { format!(" ({})", shown.join(", ")) };
        parts.push(format!("{} written{shown}", session::count(jobs.len(), "picture")));
    }
    if fresh > 0 {
        parts.push(if jobs.is_empty() {
            format!("{} up to date", session::count(fresh, "picture"))
        } else {
            format!("{fresh} up to date")
        });
    }
    if removed > 0 {
        parts.push(format!("{removed} removed"));
    }
    if parts.is_empty() { "nothing to draw".to_owned() } else { parts.join(", ") }
}
