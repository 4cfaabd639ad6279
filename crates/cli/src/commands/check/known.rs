//! What was checked before, and need not be read again: files in which nothing was found, with their pictures.

use super::pictures;
use super::report::{Picture, Report};
use crate::commands::render::made;
use crate::outcome::Result;
use crate::session::{self, Voice};
use bathygram_core::pipeline::Reading;
use bathygram_host::{PictureOf, Project, Record, Threads, is_document};
use std::collections::BTreeSet;
use std::path::PathBuf;

/// The pictures of files in which nothing was found and that did not change since, the names of these files, and the files that are
/// to be read.
pub(super) fn unchanged(
    project: &Project, record: &mut Record, (paths, names): (&[PathBuf], &[String]),
) -> (Vec<Picture>, BTreeSet<String>, Vec<PathBuf>) {
    let (mut pictures, mut known, mut changed) = (Vec::new(), BTreeSet::new(), Vec::new());
    for ((path, name), state) in paths.iter().zip(names).zip(record.look(project, names, &Threads::all())) {
        let Ok(entry) = state else {
            changed.push(path.clone());
            continue;
        };
        known.insert(name.clone());
        pictures.extend(entry.pictures().map(|(picture, line)| {
            let files = PictureOf { source: name, name: picture }.files(project).into_iter();
            let picture_files = files.map(|(_, path)| project.shown(&path)).collect();
            Picture { name: picture.to_owned(), file: name.clone(), line, state: "fresh", picture_files }
        }));
    }
    (pictures, known, changed)
}

/// The blocks of documents whose pictures stand there.
pub(super) fn illustrated(project: &Project, paths: &[PathBuf]) -> BTreeSet<(String, u32)> {
    let documents = paths.iter().filter(|p| is_document(p));
    let of = |path: &PathBuf| {
        let name = project.shown(path);
        session::illustrated(path).into_iter().map(move |line| (name.clone(), line))
    };
    documents.flat_map(of).collect()
}

/// Looks for pictures without a text, and for copies; notes which files had nothing to be found.
///
/// What is clean for what stands in other files, `asked`, is looked at each time.
///
/// # Errors
/// If the project cannot be walked.
pub(super) fn look_at_folders(
    project: &Project, report: &mut Report<'_>, record: &mut Record,
    (names, known, changed): (&[String], &BTreeSet<String>, &[PathBuf]), (asked, voice): (&BTreeSet<String>, Voice),
) -> Result<()> {
    pictures::strays(report);
    // Copies can be of any text.
    let unread: Vec<PathBuf> = known.iter().map(|n| project.root.join(n)).collect();
    let (others, _) = session::open_all(project, &unread, voice);
    let own = report.readings.len();
    report.readings.extend(others);
    let copies = pictures::copies(report)?;
    report.readings.truncate(own);
    let faulty: BTreeSet<String> = report.findings().into_iter().map(|f| f.file).chain(asked.iter().cloned()).collect();
    let blank: Vec<String> = changed.iter().map(|p| project.shown(p)).filter(|name| !faulty.contains(name)).collect();
    let readings: Vec<&Reading> = report.readings.iter().filter(|r| !faulty.contains(&r.source.name)).collect();
    record.note(project, &made(&readings, &blank, Some(&report.illustrated)), &Threads::all());
    faulty.iter().for_each(|name| record.forget(name));
    let there: BTreeSet<&str> = names.iter().map(String::as_str).collect();
    record.retain(|name| there.contains(name));
    record.note_copies(project, &copies);
    let (open, others): (Vec<&String>, Vec<&String>) = faulty.iter().partition(|file| there.contains(file.as_str()));
    record.note_open(project, open.into_iter().map(String::as_str));
    if !others.is_empty() || !record.knows(names) {
        record.forget_places();
    }
    record.save(project);
    Ok(())
}
