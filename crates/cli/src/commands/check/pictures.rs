//! Whether the pictures on disk are those of their texts.

use super::report::{Finding, Picture, Report};
use bathygram_core::container;
use bathygram_core::diag::{RuleLevel as Level, Severity};
use bathygram_core::pipeline::Reading;
use bathygram_host::{Freshness, Stray, freshness, strays as strays_of};
use std::collections::{BTreeMap, BTreeSet};

impl Report<'_> {
    /// Adds a finding about a picture, with the weight that its rule has in the project.
    fn find(&mut self, code: &'static str, place: (String, u32), message: String, help: &str) {
        let severity = match self.project.levels.level(code) {
            Level::Off => return,
            Level::Warning => Severity::Warning,
            Level::Error => Severity::Error,
        };
        self.about_pictures.push(Finding::about(code, severity, place, message, help.to_owned()));
    }
}

/// Compares the pictures on disk with their texts. Files with errors have none to compare.
pub(super) fn compare(report: &mut Report<'_>) {
    let mut first: BTreeMap<String, String> = BTreeMap::new();
    let mut found = Vec::new();
    for reading in &report.readings {
        let file = &reading.source.name;
        for picture in reading.pictures() {
            let line = reading.source.line(picture.span.start);
            if let Some(other) = first.insert(picture.name.to_owned(), file.clone())
                && other != *file
            {
                let message = format!("{other} and {file} both have a picture called `{}`", picture.name);
                found.push(("picture-name-taken", (file.clone(), line), message, "rename one of the two blocks"));
            }
            if reading.has_errors() {
                continue;
            }
            let digest = container::digest(&reading.provenance(picture.name));
            let name = picture.name;
            let state = match freshness(report.project, name, &digest) {
                Freshness::Fresh => "fresh",
                Freshness::OutOfDate => {
                    let message = format!("the picture of `{name}` is out of date");
                    found.push(("picture-out-of-date", (file.clone(), line), message, "run `bathygram render`"));
                    "out-of-date"
                }
                Freshness::Edited => {
                    let message = format!("the picture of `{name}` was changed since it was drawn");
                    let help = "change the text, and run `bathygram render`";
                    found.push(("picture-edited", (file.clone(), line), message, help));
                    "edited"
                }
                Freshness::Missing => {
                    let message = format!("the picture of `{name}` has not been drawn yet");
                    found.push(("picture-missing", (file.clone(), line), message, "run `bathygram render`"));
                    "missing"
                }
            };
            report.pictures.push(Picture { name: name.to_owned(), file: file.clone(), line, state });
        }
    }
    for (code, place, message, help) in found {
        report.find(code, place, message, help);
    }
}

/// Looks for pictures that this program drew from a text that is no longer there.
pub(super) fn strays(report: &mut Report<'_>) {
    let names: BTreeSet<String> =
        report.readings.iter().flat_map(|r| r.pictures().map(|v| v.name.to_owned())).collect();
    // A file with errors may hold the text of any picture.
    if report.readings.iter().any(Reading::has_errors) {
        return;
    }
    for Stray { path, is_intact } in strays_of(report.project, &names) {
        let file = report.project.shown(&path);
        let name = path.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        let message = format!("no text has a picture called `{name}`");
        let help = match is_intact {
            true => "run `bathygram render`, which removes it",
            false => "remove the file; it was changed since it was drawn, so `bathygram render` leaves it",
        };
        report.find("picture-stray", (file.clone(), 0), message, help);
        report.pictures.push(Picture { name, file, line: 0, state: "stray" });
    }
}
