//! Reading two versions of a project: from git only the files that changed, and those that take from them.

use crate::outcome::{Failure, Result};
use crate::session;
use bathygram_core::pipeline::Reading;
use bathygram_host::{Blob, Changed, Git, InVersion, Project, Version};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// One version of all the files that are compared.
pub(super) struct Side {
    pub(super) name: String,
    pub(super) readings: Vec<Reading>,
}

/// Two versions.
pub(super) struct Compared {
    pub(super) from: Side,
    pub(super) to: Side,
}

/// Reads the two versions that the words name.
///
/// # Errors
/// If the words name none, or git fails.
pub(super) fn read(project: &Project, words: &[String], newer: Version) -> Result<Compared> {
    let is_index = newer == Version::Index;
    let is_file = |w: &String| Path::new(w).is_file();
    if let [a, b] = words
        && is_file(a)
        && is_file(b)
        && !is_index
    {
        return Ok(Compared { from: of_file(project, a)?, to: of_file(project, b)? });
    }
    let folder = std::path::absolute(&project.root)?;
    let git = Git::find(&folder).map_err(|e| anyhow::anyhow!("{e}; `diff OLD-FILE NEW-FILE` needs no repository"))?;
    let split = words.iter().position(|w| is_file(w) || is_source(w)).unwrap_or(words.len());
    let (versions, files) = words.split_at(split);
    if let Some(odd) = files.iter().find(|f| !is_file(f) && !is_source(f)) {
        return Err(Failure::Usage(format!("`{odd}` is no file; revisions come before files")));
    }
    let (from, to) = match versions {
        [] => (git.head(), newer),
        [from] => (git.revision(from)?, newer),
        [_, _] if is_index => {
            return Err(Failure::Usage("--index is the newer version; name one revision at most".into()));
        }
        [from, to] => (git.revision(from)?, git.revision(to)?),
        _ => return Err(Failure::Usage("at most two revisions can be compared".into())),
    };
    let names = [
        versions.first().map_or("HEAD", String::as_str),
        match (versions, is_index) {
            ([_, to], _) => to,
            (_, true) => "the index",
            _ => "the working tree",
        },
    ];
    let repository = Repository::around(project, &git)?;
    let files = files.iter().map(|f| repository.inside(f)).collect::<Result<Vec<PathBuf>>>()?;
    let mut changed = git.changed([&from, &to], &repository.root, &files)?;
    let is_known = |f: &&PathBuf| changed.iter().flat_map(|c| [&c.old, &c.new]).flatten().any(|b| b.path == **f);
    if let Some(odd) = files.iter().find(|f| !git.top.join(f).is_file() && !is_known(f)) {
        return Err(Failure::Usage(format!("`{}` is no file, here or in what is compared", odd.display())));
    }
    if files.is_empty() {
        changed.extend(repository.takers([&from, &to], &changed));
    }
    let [from, to] = [(&from, names[0], Which::Old), (&to, names[1], Which::New)]
        .map(|(version, name, which)| repository.side(version, name, which, &changed));
    Ok(Compared { from: from?, to: to? })
}

/// A source that may be gone.
fn is_source(word: &str) -> bool {
    Path::new(word).extension().is_some_and(|e| e == "bathy")
}

fn of_file(project: &Project, name: &str) -> Result<Side> {
    Ok(Side { name: name.to_owned(), readings: vec![session::open(project, Path::new(name))?] })
}

#[derive(Clone, Copy)]
enum Which {
    Old,
    New,
}

/// A project in its repository.
struct Repository<'a> {
    project: &'a Project,
    git: &'a Git,
    /// The project's folder, links followed.
    root: PathBuf,
    /// The same, relative to the repository.
    folder: PathBuf,
}

impl<'a> Repository<'a> {
    fn around(project: &'a Project, git: &'a Git) -> Result<Self> {
        let root = std::path::absolute(&project.root)?;
        let root = root.canonicalize().unwrap_or(root);
        let folder = root.strip_prefix(git.top.canonicalize()?).map(PathBuf::from).unwrap_or_default();
        Ok(Self { project, git, root, folder })
    }

    /// A file's path relative to the repository, also of one that is gone.
    fn inside(&self, file: &String) -> Result<PathBuf> {
        let path = std::path::absolute(file)?;
        let folder = path.parent().unwrap_or(Path::new("/"));
        let full = folder.canonicalize().unwrap_or(folder.to_owned()).join(path.file_name().unwrap_or_default());
        let top = self.git.top.canonicalize()?;
        let relative = full
            .strip_prefix(&top)
            .map_err(|_| Failure::Usage(format!("{file} is not in the repository {}", top.display())))?;
        Ok(relative.to_owned())
    }

    /// Files that did not change, but take from files that did.
    fn takers(&self, [from, to]: [&Version; 2], changed: &[Changed]) -> Vec<Changed> {
        let paths = |c: &Changed| [&c.old, &c.new].into_iter().flatten().map(|b| b.path.clone()).collect::<Vec<_>>();
        let known: BTreeSet<PathBuf> = changed.iter().flat_map(paths).collect();
        let name = |p: &PathBuf| p.file_name().map(|n| n.to_string_lossy().into_owned());
        let names: Vec<String> = known.iter().filter_map(name).collect();
        if names.is_empty() {
            return Vec::new();
        }
        let there = self.git.files_with(to, &names).into_iter();
        let found: BTreeSet<PathBuf> = there.chain(self.git.files_with(from, &names)).collect();
        let is_new = |p: &PathBuf| !known.contains(p) && p.starts_with(&self.folder);
        let blob = |path: &PathBuf| Some(Blob { path: path.clone(), id: None });
        found.iter().filter(|p| is_new(p)).map(|p| Changed { old: blob(p), new: blob(p) }).collect()
    }

    fn side(&self, version: &Version, name: &str, which: Which, changed: &[Changed]) -> Result<Side> {
        let blobs = changed.iter().filter_map(|c| match which {
            Which::Old => c.old.as_ref(),
            Which::New => c.new.as_ref(),
        });
        let blobs: Vec<(&Blob, Option<String>)> = blobs.map(|b| (b, self.name_of(version, b))).collect();
        let names: Vec<String> = blobs.iter().filter_map(|(_, name)| name.clone()).collect();
        let contents = if names.is_empty() { Default::default() } else { self.git.contents(&names)? };
        let world = InVersion { git: self.git, version, folder: self.folder.clone() };
        let mut readings = Vec::new();
        for (blob, name) in blobs {
            let path = self.git.top.join(&blob.path);
            let text = match name {
                // Files that a version lacks are simply not there.
                Some(name) => contents.get(&name).map(|bytes| String::from_utf8(bytes.clone())),
                None if path.is_file() => {
                    readings.push(session::open(self.project, &path)?);
                    continue;
                }
                None => None,
            };
            let Some(text) = text else { continue };
            let text = text.map_err(|_| anyhow::anyhow!("{} is not UTF-8 text there", blob.path.display()))?;
            readings.push(session::read_text(self.project, &self.project.shown(&path), text, &world));
        }
        Ok(Side { name: name.to_owned(), readings })
    }

    /// What git calls the contents of a file; `None` in the working tree.
    fn name_of(&self, version: &Version, blob: &Blob) -> Option<String> {
        let path = blob.path.to_string_lossy();
        match version {
            Version::WorkingTree => None,
            Version::Index => Some(blob.id.clone().unwrap_or_else(|| format!(":{path}"))),
            Version::Revision(id) => Some(blob.id.clone().unwrap_or_else(|| format!("{id}:{path}"))),
        }
    }
}
