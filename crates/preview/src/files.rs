//! The sources of the project: which there are, their texts, and writing them.

use crate::shared::Shared;
use bathygram_core::source::world::{is_file_name, name_of};
use bathygram_host::{Project, digest, read_source, write_whole};
use serde::{Deserialize, Serialize};
use std::path::PathBuf;

/// What the page shows in its list.
#[derive(Serialize)]
pub(crate) struct Listed {
    /// The name of the project's folder.
    project: String,
    themes: Vec<&'static str>,
    /// The theme of the project, as its config names it.
    theme: String,
    starters: Vec<(&'static str, &'static str)>,
    files: Vec<ListedFile>,
}

#[derive(Serialize)]
struct ListedFile {
    file: String,
    pictures: Vec<ListedPicture>,
    errors: usize,
}

/// A picture of a file.
#[derive(Serialize)]
pub(crate) struct ListedPicture {
    name: String,
    title: String,
    kind: &'static str,
    /// The line in which it begins, from 1.
    line: u32,
}

/// All sources with their pictures.
pub(crate) fn listed(shared: &Shared) -> Listed {
    let project = shared.project();
    let files = sources(shared, &project).into_iter().filter_map(|path| {
        let file = project.shown(&path);
        let text = current(shared, &project, &file).ok()?.text;
        let reading = shared.read(&project, &file, text);
        let errors = reading.diagnostics.iter().filter(|d| bathygram_core::check::is_error(d)).count();
        Some(ListedFile { pictures: pictures(&reading), file, errors })
    });
    let files = files.collect();
    let name = project.root.file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned());
    let theme = project.config.theme.clone().unwrap_or_else(|| "shoal".to_owned());
    Listed {
        project: name,
        themes: bathygram_core::theme::built_in().collect(),
        theme,
        starters: shared.starters.clone(),
        files,
    }
}

/// The pictures of a text.
pub(crate) fn pictures(reading: &bathygram_core::pipeline::Reading) -> Vec<ListedPicture> {
    let all = reading.pictures().map(|picture| {
        let diagram = picture.view().diagram;
        let title = diagram.title.as_ref().map_or_else(|| picture.name.to_owned(), |label| label.text());
        let line = reading.source.line(picture.span.start);
        ListedPicture { name: picture.name.to_owned(), title, kind: picture.diagram().kind.word(), line }
    });
    all.collect()
}

fn sources(shared: &Shared, project: &Project) -> Vec<PathBuf> {
    // The list is empty where the project cannot be walked: every other answer of the server says why.
    if shared.only.is_empty() { project.sources().unwrap_or_default() } else { shared.only.clone() }
}

/// A text as somebody edits it elsewhere, or as it is on disk.
#[derive(Serialize)]
pub(crate) struct Current {
    /// With `\n` at the ends of lines.
    pub(crate) text: String,
    /// What tells this text from another.
    pub(crate) base: String,
    /// Whether an editor has it open: it is saved there.
    pub(crate) is_open: bool,
}

/// The text of a file.
///
/// # Errors
/// If it is no source of the project, or cannot be read.
pub(crate) fn current(shared: &Shared, project: &Project, file: &str) -> Result<Current, String> {
    let path = path_of(project, file)?;
    if let Some(text) = shared.open().get(&path) {
        return Ok(Current { base: digest(text.as_bytes()), text: plain(text), is_open: true });
    }
    let text = read_source(&path).map_err(|why| why.to_string())?;
    Ok(Current { base: digest(text.as_bytes()), text: plain(&text), is_open: false })
}

/// A text to be saved.
#[derive(Deserialize)]
pub(crate) struct Saved {
    file: String,
    text: String,
    /// The text that it was made from; `None` for a new file.
    base: Option<String>,
}

/// What became of it.
#[derive(Serialize)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Outcome {
    /// It was written; its base from now on.
    Saved(String),
    /// The file is another one by now: its text, and what tells it from others.
    Changed(Current),
    /// An editor has it open, and its text is another one.
    Open(Current),
    /// An editor has it open, and was given the text.
    Handed,
}

/// Saves a text, whole or not at all, and only if the file is still the one that it was made from.
///
/// # Errors
/// If the file is no source of the project, or cannot be written.
pub(crate) fn save(shared: &Shared, saved: &Saved) -> Result<Outcome, String> {
    let project = shared.project();
    let path = path_of(&project, &saved.file)?;
    if let Some(open) = shared.open().get(&path) {
        return match shared.editor.as_ref().filter(|_| Some(digest(open.as_bytes())) == saved.base) {
            Some(editor) => {
                editor(&path, open, &with_line_breaks(open, &saved.text));
                Ok(Outcome::Handed)
            }
            None => Ok(Outcome::Open(current(shared, &project, &saved.file)?)),
        };
    }
    let there = path.is_file().then(|| read_source(&path).map_err(|why| why.to_string())).transpose()?;
    let is_same = there.as_deref().map(|text| digest(text.as_bytes())) == saved.base;
    if let Some(there) = there.as_deref().filter(|_| !is_same) {
        let current = Current { text: plain(there), base: digest(there.as_bytes()), is_open: false };
        return Ok(Outcome::Changed(current));
    }
    // A file that somebody removed meanwhile is written again.
    let text = there.map_or_else(|| saved.text.clone(), |there| with_line_breaks(&there, &saved.text));
    write_whole(&path, text.as_bytes()).map_err(|why| why.to_string())?;
    shared.events.tell("files");
    Ok(Outcome::Saved(digest(text.as_bytes())))
}

/// The file of a name, below the project's folder and behind no link that leads out of it.
fn path_of(project: &Project, file: &str) -> Result<PathBuf, String> {
    let is_inside = name_of("", file).as_deref() == Some(file);
    let is_named = file.split('/').all(is_file_name);
    if !is_inside || !is_named || !file.ends_with(".bathy") {
        return Err(format!("`{file}` is no source of this project; its name ends in .bathy"));
    }
    let path = project.root.join(file);
    let folder = path.parent().unwrap_or(&project.root);
    if project.leads_out(&path) || project.leads_out(folder) || path.is_symlink() && !path.exists() {
        return Err(format!("`{file}` leads out of the project's folder"));
    }
    Ok(path)
}

/// The name of a file without its ending.
pub(crate) fn stem(file: &str) -> String {
    let name = file.rsplit('/').next().unwrap_or(file);
    name.strip_suffix(".bathy").unwrap_or(name).to_owned()
}

/// With `\n` at the ends of lines, as editors in pages have them.
fn plain(text: &str) -> String {
    text.replace("\r\n", "\n").replace('\r', "\n")
}

/// A text with the line breaks of the one that it was made from: lines that are the same at its beginning and at its end stay as
/// they are, others get what most lines have.
fn with_line_breaks(before: &str, text: &str) -> String {
    if !before.contains('\r') {
        return text.to_owned();
    }
    let old: Vec<&str> = before.split_inclusive('\n').collect();
    let new: Vec<&str> = text.split_inclusive('\n').collect();
    let is_same = |a: &&str, b: &&str| plain(a) == **b;
    let first = old.iter().zip(&new).take_while(|(a, b)| is_same(a, b)).count();
    let rest = old.len().min(new.len()) - first;
    let last = old.iter().rev().zip(new.iter().rev()).take(rest).take_while(|(a, b)| is_same(a, b)).count();
    let windows = old.iter().filter(|line| line.ends_with("\r\n")).count();
    let line_break = if 2 * windows > old.len() { "\r\n" } else { "\n" };
    let between = new[first..new.len() - last].iter().map(|line| line.replace('\n', line_break));
    let kept = |lines: &[&str]| lines.concat();
    kept(&old[..first]) + &between.collect::<String>() + &kept(&old[old.len() - last..])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_that_nobody_touched_keep_their_ends() {
        let mixed = "a\r\nb\nc\r\nd\r\n";
        assert_eq!(with_line_breaks(mixed, "a\nb\nnew\nc\nd\n"), "a\r\nb\nnew\r\nc\r\nd\r\n");
        assert_eq!(with_line_breaks(mixed, "a\nb\nc\nd\n"), mixed);
        assert_eq!(with_line_breaks("a\nb\n", "a\nx\n"), "a\nx\n");
        assert_eq!(with_line_breaks(mixed, ""), "");
    }

    #[test]
    fn only_sources_of_the_project_have_a_path() {
        let folder = tempfile::tempdir().expect("a folder");
        let project = Project::without_config(folder.path());
        for file in
            ["../a.bathy", "/etc/a.bathy", "a.toml", "x/../a.bathy", ".git/a.bathy", "a\\b.bathy", "a.bathy/", ""]
        {
            assert!(path_of(&project, file).is_err(), "{file}");
        }
        assert!(path_of(&project, "a.bathy").is_ok());
        assert!(path_of(&project, "deep/er/a b.bathy").is_ok());
    }

    #[cfg(unix)]
    #[test]
    fn links_lead_nowhere() {
        let (folder, outside) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
        let project = Project::without_config(folder.path());
        std::os::unix::fs::symlink(outside.path(), folder.path().join("deep")).expect("a link");
        std::os::unix::fs::symlink(outside.path().join("no.bathy"), folder.path().join("b.bathy")).expect("a link");
        assert!(path_of(&project, "deep/a.bathy").is_err());
        assert!(path_of(&project, "b.bathy").is_err());
    }
}
