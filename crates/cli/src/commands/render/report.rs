//! What was rendered, as JSON.

use super::jobs::Job;
use crate::outcome::Result;
use crate::session;
use bathygram_host::{Format, Printed, Project};
use schemars::JsonSchema;
use serde::Serialize;
use std::path::Path;

/// What was rendered.
#[derive(Default, Serialize, JsonSchema)]
#[schemars(title = "bathygram render --json")]
pub(super) struct Report {
    /// 1; it grows when a field changes its meaning or goes.
    pub(super) version: u32,
    /// The files that were written, one for each picture and form.
    pub(super) pictures: Vec<Written>,
    /// How many pictures were up to date.
    pub(super) up_to_date: usize,
    /// Pictures that no text has any more, and that were removed; relative to the project.
    pub(super) removed: Vec<String>,
    /// How many errors were found; with any the exit status is 1.
    pub(super) errors: usize,
    /// How many warnings were found.
    pub(super) warnings: usize,
    /// Whether there are errors, or files that could not be read.
    pub(super) has_errors: bool,
}

/// A file that was written.
#[derive(Serialize, JsonSchema)]
pub(super) struct Written {
    /// The picture's name; the first one's, where a file holds several.
    name: String,
    /// The file of its text, relative to the project.
    file: String,
    /// The line in which its text begins.
    line: u32,
    /// The file of the picture, relative to the project where it lies in it.
    picture: String,
    /// `svg`, `png`, `pdf`, `html`, `json` or `graphml`.
    format: &'static str,
    /// Why it was drawn: `new`, `changed`, `edited by hand` or `asked for`.
    why: &'static str,
}

/// The JSON Schema of the report.
pub(super) fn schema() -> String {
    session::schema_of::<Report>()
}

/// The files of a picture.
pub(super) fn of_job(project: &Project, job: &Job<'_>) -> Vec<Written> {
    job.paths.iter().map(|(format, path)| written(project, job, *format, path)).collect()
}

/// The file that several pictures share.
pub(super) fn shared(project: &Project, jobs: &[Job<'_>], format: Format, path: &Path) -> Vec<Written> {
    jobs.first().map(|job| written(project, job, format, path)).into_iter().collect()
}

fn written(project: &Project, job: &Job<'_>, format: Format, path: &Path) -> Written {
    let source = &job.reading.source;
    let picture = if project.owns(path) { project.shown(path) } else { path.to_string_lossy().replace('\\', "/") };
    Written {
        name: job.picture.name.to_owned(),
        file: source.name.clone(),
        line: source.line(job.picture.span.start),
        picture,
        format: format.ending(),
        why: job.why.word(),
    }
}

impl Report {
    /// The answer, with what was found.
    ///
    /// # Errors
    /// If it cannot be written as JSON.
    pub(super) fn counted(self, Printed { errors, warnings, .. }: Printed, whole: bool) -> Result<String> {
        let report = Self { version: 1, errors, warnings, has_errors: errors > 0 || !whole, ..self };
        Ok(serde_json::to_string_pretty(&report)? + "\n")
    }
}
