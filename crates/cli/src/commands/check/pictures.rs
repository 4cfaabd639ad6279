//! Whether the pictures on disk are those of their texts.

use super::report::{Finding, Picture, Report};
use crate::outcome::Result;
use bathygram_core::container;
use bathygram_core::diag::{RuleLevel as Level, Severity};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::world::folded;
use bathygram_host::{
    Format, Freshness, MAX_PICTURE, PictureOf, Stray, freshness_of, is_document, read_bounded, strays as strays_of,
};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

impl Report<'_> {
    /// Adds a finding about a picture, with the weight that its rule has in the project.
    fn find(&mut self, code: &'static str, place: (String, u32), message: String, help: String) {
        let severity = match self.project.levels.level(code) {
            Level::Off => return,
            Level::Warning => Severity::Warning,
            Level::Error => Severity::Error,
        };
        self.about_pictures.push(Finding::about(code, severity, place, message, help));
    }
}

/// A finding that is not weighed yet: its rule, its place, what is wrong, and what helps.
type Found = (&'static str, (String, u32), String, String);

/// Compares the pictures on disk with their texts. Files with errors have none to compare, and so have blocks of documents that
/// are not illustrated.
pub(super) fn compare(report: &mut Report<'_>) {
    let mut first: BTreeMap<PathBuf, (String, u32, String)> = BTreeMap::new();
    for picture in &report.pictures {
        let path = report.project.pictures_of(&picture.file).join(folded(&picture.name));
        first.insert(path, (picture.file.clone(), picture.line, picture.name.clone()));
    }
    let mut found: Vec<Found> = Vec::new();
    for reading in &report.readings {
        let file = &reading.source.name;
        let is_shown =
            !is_document(Path::new(file)) || report.illustrated.contains(&(file.clone(), reading.source.place().lines));
        for picture in reading.pictures().filter(|_| is_shown) {
            let name = picture.name;
            let place = (file.clone(), reading.source.line(picture.span.start));
            let path = report.project.pictures_of(file).join(folded(name));
            if let Some((other, line, called)) = first.insert(path, (file.clone(), place.1, name.to_owned())) {
                let message = match other == *file {
                    _ if called != *name => {
                        format!("`{called}` of {other} and `{name}` differ only in capitals: one file on some machines")
                    }
                    true => format!("the block in line {line} has a picture called `{name}`, too"),
                    false => format!("{other} and {file} both have a picture called `{name}`"),
                };
                found.push(("picture-name-taken", place.clone(), message, "rename one of the two blocks".to_owned()));
            }
            if reading.has_errors() {
                continue;
            }
            let own = PictureOf { source: file, name };
            let digest = container::digest(&reading.provenance(name));
            let state = own.freshness(report.project, &digest);
            found.extend(match state == Freshness::OutOfDate && has_other_line_ends(report, reading, own) {
                true => Some(of_line_ends(own, place.clone())),
                false => of_state(state, own, place.clone()),
            });
            found.extend(of_other_forms(report, own, &digest, &place));
            let files = own.files(report.project).into_iter();
            let files = files.filter(|(_, path)| path.is_file()).map(|(_, path)| report.project.shown(&path));
            let (file, line) = place;
            let name = name.to_owned();
            report.pictures.push(Picture { name, file, line, state: word(state), picture_files: files.collect() });
        }
    }
    for (code, place, message, help) in found {
        report.find(code, place, message, help);
    }
}

fn word(state: Freshness) -> &'static str {
    match state {
        Freshness::Fresh => "fresh",
        Freshness::OutOfDate => "out-of-date",
        Freshness::Edited => "edited",
        Freshness::Missing => "missing",
        Freshness::Foreign => "foreign",
    }
}

/// The command that draws a picture again.
fn drawing(source: &str) -> String {
    match is_document(Path::new(source)) {
        true => format!("`bathygram illustrate {source}`"),
        false => "`bathygram render`".to_owned(),
    }
}

fn of_state(state: Freshness, PictureOf { source, name }: PictureOf<'_>, place: (String, u32)) -> Option<Found> {
    let run = drawing(source);
    let (code, message, help) = match state {
        Freshness::Fresh => return None,
        Freshness::OutOfDate => {
            ("picture-out-of-date", format!("the picture of `{name}` is out of date"), format!("run {run}"))
        }
        Freshness::Foreign => (
            "picture-foreign",
            format!("another file has the place of the picture of `{name}`: this program did not draw it"),
            "remove the file, or give the picture another name".to_owned(),
        ),
        Freshness::Edited => (
            "picture-edited",
            format!("the picture of `{name}` was changed since it was drawn"),
            format!("change the source, and run {run}"),
        ),
        Freshness::Missing => {
            ("picture-missing", format!("the picture of `{name}` has not been drawn yet"), format!("run {run}"))
        }
    };
    Some((code, place, message, help))
}

/// Whether a text differs from the one that its picture was drawn from in nothing but its line ends.
fn has_other_line_ends(report: &Report<'_>, reading: &Reading, own: PictureOf<'_>) -> bool {
    let text = &reading.source.text;
    let plain = |text: &str| text.replace("\r\n", "\n");
    let drawn = own
        .files(report.project)
        .into_iter()
        .find_map(|(_, path)| container::source(&read_bounded(&path, MAX_PICTURE).ok()?));
    drawn.is_some_and(|drawn| drawn != *text && plain(&drawn) == plain(text))
}

fn of_line_ends(PictureOf { name, .. }: PictureOf<'_>, place: (String, u32)) -> Found {
    let message = format!(
        "the picture of `{name}` was drawn from this source with other line ends: git turned them, or an editor did"
    );
    let help =
        "run `bathygram init`, which adds `eol=lf` to .gitattributes, commit that, and clone the project again; if \
                an editor did, save the text with the line ends that it had"
            .to_owned();
    ("picture-out-of-date", place, message, help)
}

/// Pictures beside it in forms that the project does not ask for: nothing draws them again.
fn of_other_forms(report: &Report<'_>, own: PictureOf<'_>, digest: &str, place: &(String, u32)) -> Vec<Found> {
    let is_stale = |path: &Path| {
        let bytes = read_bounded(path, MAX_PICTURE).unwrap_or_default();
        container::read(&bytes).is_some() && freshness_of(path, digest) == Freshness::OutOfDate
    };
    let others = own.other_files(report.project).into_iter().filter(|(_, path)| is_stale(path));
    others
        .map(|(form, path)| {
            let (name, ending) = (own.name, form.ending());
            let file = report.project.from_here(&report.project.shown(&path));
            let message = format!(
                "the picture of `{name}` as {ending} is out of date, and the project does not ask for {ending}"
            );
            let help = format!(
                "draw it with `bathygram render --format {ending}`, add \"{ending}\" to `formats`, or remove {file}"
            );
            ("picture-out-of-date", place.clone(), message, help)
        })
        .collect()
}

/// Looks for pictures that this program drew from a text that is no longer there.
pub(super) fn strays(report: &mut Report<'_>) {
    // A file with errors may hold the text of any picture.
    if report.readings.iter().any(Reading::has_errors) {
        return;
    }
    let own = report.pictures.iter().filter(|p| !is_document(Path::new(&p.file))).map(|p| p.name.clone());
    let names: BTreeSet<String> = own.collect();
    for Stray { path, is_intact } in strays_of(report.project, &names) {
        let file = report.project.shown(&path);
        let name = path.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        let message = format!("no source has a picture called `{name}`");
        let help = match is_intact {
            true => "remove the file; `bathygram render` does, if it drew it here",
            false => "remove the file; it was changed since it was drawn, so `bathygram render` leaves it",
        };
        report.find("picture-stray", (file.clone(), 0), message, help.to_owned());
        let picture_files = vec![file.clone()];
        report.pictures.push(Picture { name, file, line: 0, state: "stray", picture_files });
    }
}

/// Looks for copies of pictures, and pictures in other folders, whose text is another one now. Gives back the files that are
/// copies, by their names in the project.
///
/// # Errors
/// If the project cannot be walked.
pub(super) fn copies(report: &mut Report<'_>) -> Result<Vec<String>> {
    let known: BTreeSet<PathBuf> = report
        .pictures
        .iter()
        .map(|p| PictureOf { source: &p.file, name: &p.name })
        .flat_map(|own| own.files(report.project).into_iter().chain(own.other_files(report.project)))
        .map(|(_, path)| path)
        .collect();
    let mut texts: BTreeMap<&str, Vec<&Reading>> = BTreeMap::new();
    report.readings.iter().for_each(|r| texts.entry(&r.source.name).or_default().push(r));
    let (mut copies, mut found): (Vec<String>, Vec<Found>) = (Vec::new(), Vec::new());
    for path in report.project.picture_files()?.into_iter().filter(|p| !known.contains(p) && !p.is_symlink()) {
        let Ok(bytes) = read_bounded(&path, MAX_PICTURE) else { continue };
        let (Some(carried), Some(source)) = (container::read(&bytes), container::file(&bytes)) else { continue };
        let shown = report.project.shown(&path);
        copies.push(shown.clone());
        let Some(readings) = texts.get(source.as_str()) else { continue };
        let name = container::name(&bytes);
        let is_current = |r: &&Reading| {
            name.as_ref().is_some_and(|name| container::digest(&r.provenance(name)) == carried.digest)
                // Another theme, or other letters, make another digest of the same text.
                || container::source(&bytes).is_none_or(|text| text == r.source.text)
        };
        if !readings.iter().any(is_current) && !readings.iter().any(|r| r.has_errors()) {
            let what = name.map_or_else(|| format!("a picture of {source}"), |name| format!("the picture of `{name}`"));
            let message = format!("{shown} shows {what} as it was: {source} says something else now");
            let help = "draw it again, copy it again, or remove it".to_owned();
            found.push(("picture-out-of-date", (shown, 0), message, help));
        }
    }
    for (code, place, message, help) in found {
        report.find(code, place, message, help);
    }
    Ok(copies)
}

/// The form of a picture file, as its ending says.
pub(super) fn form(file: &str) -> &'static str {
    Format::of(Path::new(file)).map_or("", Format::ending)
}
