//! Files that a text takes from: on disk inside the project folder, or in a revision of git.

use crate::files::read_bounded;
use crate::git::Found;
use crate::{Error, Git, MAX_SOURCE, Project, Version, read_source};
use bathygram_core::source::world::{Kept, MAX_BYTES, Unopened, World};
use std::path::PathBuf;
use std::sync::Arc;

/// The files of a project folder. Symbolic links that lead out of it are not followed.
#[derive(Clone, Debug)]
pub struct Disk {
    root: PathBuf,
    kept: Arc<Kept>,
}

impl Disk {
    /// The files around a source: those of the project, or of its own folder if it lies elsewhere.
    pub fn around(project: &Project, source: &std::path::Path) -> Self {
        let absolute = |p: &std::path::Path| std::path::absolute(p).unwrap_or_else(|_| p.to_owned());
        let (root, source) = (absolute(&project.root), absolute(source));
        let own = source.parent().map_or_else(|| root.clone(), PathBuf::from);
        Self { root: if source.starts_with(&root) { root } else { own }, kept: Arc::clone(&project.kept) }
    }
}

impl World for Disk {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        read_source(&self.path(name)?).map_err(unopened)
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        read_bounded(&self.path(name)?, MAX_BYTES).map_err(unopened)
    }

    fn kept(&self) -> Option<&Kept> {
        Some(&self.kept)
    }
}

/// Why a file that a text names is not read; the text says which.
fn unopened(why: Error) -> Unopened {
    match why {
        Error::NotText { line, .. } => unreadable(&format_args!("it is not UTF-8 text, from line {line} on")),
        Error::TooLarge { limit, .. } => unreadable(&format_args!("it is larger than {} MiB", limit >> 20)),
        other => unreadable(&other),
    }
}

fn unreadable(why: &dyn std::fmt::Display) -> Unopened {
    Unopened::Unreadable(why.to_string())
}

impl Disk {
    /// The path of a file inside the project, links followed.
    fn path(&self, name: &str) -> Result<PathBuf, Unopened> {
        let root = self.root.canonicalize().map_err(|e| unreadable(&e))?;
        let path = match self.root.join(name).canonicalize() {
            Ok(path) => path,
            Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Err(Unopened::Missing),
            Err(e) => return Err(unreadable(&e)),
        };
        if !path.starts_with(&root) {
            return Err(Unopened::Outside);
        }
        if !path.is_file() {
            return Err(Unopened::Unreadable("it is not a file".to_owned()));
        }
        Ok(path)
    }
}

/// The files of a project as somebody edits them, else as they are on disk.
pub struct Edited<'a> {
    /// The files on disk.
    pub disk: Disk,
    /// The project's folder.
    pub root: PathBuf,
    /// The text of a file that is being edited.
    pub open: &'a dyn Fn(&std::path::Path) -> Option<String>,
}

impl World for Edited<'_> {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        match (self.open)(&self.root.join(name)) {
            Some(text) => Ok(text),
            None => self.disk.text(name),
        }
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        self.disk.bytes(name)
    }
}

/// The files of a project in a version that git knows.
#[derive(Clone, Debug)]
pub struct InVersion<'a> {
    /// The repository.
    pub git: &'a Git,
    /// The version.
    pub version: &'a Version,
    /// The project's folder, relative to the repository's top.
    pub folder: PathBuf,
}

impl World for InVersion<'_> {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        String::from_utf8(self.contents(name, MAX_SOURCE)?).map_err(|_| unreadable(&"it is not UTF-8 text"))
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        self.contents(name, MAX_BYTES)
    }
}

impl InVersion<'_> {
    fn contents(&self, name: &str, limit: u64) -> Result<Vec<u8>, Unopened> {
        match self.git.bytes(self.version, &self.folder.join(name), limit) {
            Found::Bytes(bytes) => Ok(bytes),
            Found::TooLarge => Err(Unopened::Unreadable("it is too large".to_owned())),
            Found::Nothing => Err(Unopened::Missing),
        }
    }
}
