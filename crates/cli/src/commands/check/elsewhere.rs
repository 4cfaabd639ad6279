//! Sheets in other files: what no picture of a file shows may be shown by one of another file.

use crate::outcome::Result;
use crate::session;
use bathygram_core::diag::Diagnostic;
use bathygram_core::pipeline::{self, Reading};
use bathygram_host::Project;
use std::collections::BTreeSet;
use std::path::PathBuf;

/// Counts sheets in other files of the project among those that show what a model holds; gives back the files for which that was
/// asked.
///
/// # Errors
/// If the project cannot be walked.
pub(super) fn count(project: &Project, readings: &mut [Reading]) -> Result<BTreeSet<String>> {
    const CODE: &str = "shown-nowhere";
    let is_asked = |reading: &Reading| reading.diagnostics.iter().any(|d| d.code == CODE);
    let asked: BTreeSet<String> = readings.iter().filter(|r| is_asked(r)).map(|r| r.source.name.clone()).collect();
    if asked.is_empty() {
        return Ok(asked);
    }
    let names: BTreeSet<String> = readings.iter().map(|r| r.source.name.clone()).collect();
    let unread: Vec<PathBuf> =
        project.texts()?.into_iter().filter(|path| !names.contains(&project.shown(path))).collect();
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
    Ok(asked)
}
