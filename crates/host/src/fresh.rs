//! Whether pictures on disk are those of their texts, by digest.

use crate::files::{link_below, picture_file};
use crate::{Error, Format, MAX_PICTURE, Project, read_bounded};
use bathygram_core::container;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// The state of one picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Freshness {
    /// It shows what its text says.
    Fresh,
    /// Its text has changed since.
    OutOfDate,
    /// It was changed since it was drawn.
    Edited,
    /// There is no such file.
    Missing,
    /// There is a file that this program did not draw.
    Foreign,
}

/// A picture of a source, or of a document, by their names.
#[derive(Clone, Copy, Debug)]
pub struct PictureOf<'a> {
    /// The source's name in its project.
    pub source: &'a str,
    /// The picture's name.
    pub name: &'a str,
}

impl PictureOf<'_> {
    /// Its files, one for each form.
    pub fn files(self, project: &Project) -> Vec<(Format, PathBuf)> {
        self.in_forms(project, project.forms_of(self.source))
    }

    /// Its files in forms that the project does not ask for, those that are there.
    pub fn other_files(self, project: &Project) -> Vec<(Format, PathBuf)> {
        let asked = project.forms_of(self.source);
        let others: Vec<Format> = Format::ALL.into_iter().filter(|f| !asked.contains(f)).collect();
        self.in_forms(project, &others).into_iter().filter(|(_, path)| path.is_file() && !path.is_symlink()).collect()
    }

    fn in_forms(self, project: &Project, forms: &[Format]) -> Vec<(Format, PathBuf)> {
        let folder = project.pictures_of(self.source);
        // A name that no file can have has no files; it is reported where it is written.
        let file = |format: &Format| Some((*format, picture_file(&folder, self.name, *format).ok()?));
        forms.iter().filter_map(file).collect()
    }

    /// Compares it with the digest of its text. Of several forms, the worst counts.
    pub fn freshness(self, project: &Project, digest: &str) -> Freshness {
        let states = self.files(project).into_iter().map(|(_, path)| freshness_of(&path, digest));
        states.max().unwrap_or(Freshness::Missing)
    }
}

/// Compares one file with the digest of its text.
pub fn freshness_of(path: &Path, digest: &str) -> Freshness {
    let bytes = match read_bounded(path, MAX_PICTURE) {
        Ok(bytes) => bytes,
        // It is there, and cannot be what was drawn.
        Err(Error::TooLarge { .. } | Error::NotRegular { .. } | Error::Folder { .. }) => return Freshness::Foreign,
        Err(_) => return Freshness::Missing,
    };
    match container::read(&bytes) {
        Some(carried) if !carried.is_intact => Freshness::Edited,
        Some(carried) if carried.digest == digest => Freshness::Fresh,
        Some(_) => Freshness::OutOfDate,
        None if bytes.is_empty() => Freshness::OutOfDate,
        None => Freshness::Foreign,
    }
}

/// A picture that no text has any more.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stray {
    /// Its file.
    pub path: PathBuf,
    /// Whether it is as it was drawn.
    pub is_intact: bool,
}

/// The pictures in the project's folder that this program drew and that have none of these names. Pictures in folders of
/// their own, and those that were given another name than their own, were asked for by arguments and are left alone, as are
/// those drawn for a document that is there.
pub fn strays(project: &Project, names: &BTreeSet<String>) -> Vec<Stray> {
    // What lies behind a link is somebody else's.
    if link_below(&project.root, &project.pictures()).is_some() {
        return Vec::new();
    }
    let Ok(folder) = std::fs::read_dir(project.pictures()) else { return Vec::new() };
    let mut found: Vec<PathBuf> = folder.flatten().map(|e| e.path()).collect();
    found.sort();
    let is_picture = |p: &Path| Format::of(p).is_some();
    let is_known = |p: &Path| p.file_stem().is_some_and(|s| names.contains(s.to_string_lossy().as_ref()));
    let unknown = found.into_iter().filter(|p| is_picture(p) && !is_known(p) && !p.is_symlink());
    let strays = unknown.filter_map(|path| {
        let bytes = read_bounded(&path, MAX_PICTURE).ok()?;
        let is_intact = container::read(&bytes)?.is_intact;
        let stem = path.file_stem()?.to_string_lossy().into_owned();
        if container::name(&bytes).is_some_and(|name| name != stem) {
            return None;
        }
        let document = container::file(&bytes).filter(|f| !f.ends_with(".bathy"));
        document.is_none_or(|d| !project.root.join(d).is_file()).then_some(Stray { path, is_intact })
    });
    strays.collect()
}
