//! What the site command did, as JSON.

use super::Made;
use crate::outcome::Result;
use crate::session;
use bathygram_host::{Printed, Project};
use bathygram_site::{Loose, Why};
use schemars::JsonSchema;
use serde::Serialize;
use std::path::Path;

/// What was written.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "bathygram site --json")]
pub(super) struct Report {
    /// 1; it grows when a field changes its meaning or goes.
    version: u32,
    /// The folder of the site, relative to the project where it lies in it.
    folder: String,
    /// The files that were written, relative to the folder.
    written: Vec<String>,
    /// How many files were up to date.
    up_to_date: usize,
    /// Files that are no part of the site any more, and that were removed; relative to the folder.
    removed: Vec<String>,
    /// Links and images of documents that the site has nothing for.
    loose: Vec<LooseLink>,
    /// How many errors were found in source files; with any the exit status is 1.
    errors: usize,
}

/// A link or an image of a document that the site has nothing for.
#[derive(Serialize, JsonSchema)]
struct LooseLink {
    /// The document, relative to the project.
    file: String,
    /// The line.
    line: usize,
    /// What is written there.
    target: String,
    /// `no file`, `no heading`, `outside`, or `foreign image`.
    why: &'static str,
}

impl Report {
    pub(super) fn of(project: &Project, out: &Path, made: &Made, loose: &[Loose], printed: Printed) -> Self {
        let why = |why: Why| match why {
            Why::NoFile => "no file",
            Why::NoHeading => "no heading",
            Why::Outside => "outside",
            Why::ForeignImage => "foreign image",
        };
        let loose = loose.iter().map(|l| LooseLink {
            file: l.file.clone(),
            line: l.line,
            target: l.target.clone(),
            why: why(l.why),
        });
        Self {
            version: 1,
            folder: project.shown(out),
            written: made.written.clone(),
            up_to_date: made.up_to_date,
            removed: made.removed.clone(),
            loose: loose.collect(),
            errors: printed.errors,
        }
    }

    pub(super) fn as_json(&self) -> Result<String> {
        Ok(serde_json::to_string_pretty(self)? + "\n")
    }
}

/// The JSON Schema of the report.
pub(super) fn schema() -> String {
    session::schema_of::<Report>()
}
