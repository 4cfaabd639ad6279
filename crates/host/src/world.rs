//! Files that a text takes from: on disk inside the project folder, or in a revision of git.

use crate::{Error, Git, Project, Version, read_source};
use bathygram_core::source::world::{MAX_BYTES, Unopened, World};
use std::io::Read;
use std::path::PathBuf;

/// The files of a project folder. Symbolic links that lead out of it are not followed.
#[derive(Clone, Debug)]
pub struct Disk {
    root: PathBuf,
}

impl Disk {
    /// The files around a source: those of the project, or of its own folder if it lies elsewhere.
    pub fn around(project: &Project, source: &std::path::Path) -> Self {
        let absolute = |p: &std::path::Path| std::path::absolute(p).unwrap_or_else(|_| p.to_owned());
        let (root, source) = (absolute(&project.root), absolute(source));
        let own = source.parent().map_or_else(|| root.clone(), PathBuf::from);
        Self { root: if source.starts_with(&root) { root } else { own } }
    }
}

impl World for Disk {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        read_source(&self.path(name)?).map_err(|e| match e {
            Error::NotText { line, .. } => Unopened::Unreadable(format!("it is not UTF-8 text, from line {line} on")),
            Error::TooLarge { limit, .. } => Unopened::Unreadable(format!("it is larger than {limit} bytes")),
            other => unreadable(&other),
        })
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        let mut bytes = Vec::new();
        let file = std::fs::File::open(self.path(name)?).map_err(|e| unreadable(&e))?;
        file.take(MAX_BYTES + 1).read_to_end(&mut bytes).map_err(|e| unreadable(&e))?;
        within_limit(bytes)
    }
}

fn unreadable(why: &dyn std::fmt::Display) -> Unopened {
    Unopened::Unreadable(why.to_string())
}

fn within_limit(bytes: Vec<u8>) -> Result<Vec<u8>, Unopened> {
    if bytes.len() as u64 > MAX_BYTES {
        return Err(Unopened::Unreadable(format!("it is larger than {MAX_BYTES} bytes")));
    }
    Ok(bytes)
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
        String::from_utf8(self.bytes(name)?).map_err(|_| unreadable(&"it is not UTF-8 text"))
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        let bytes = self.git.bytes(self.version, &self.folder.join(name)).ok_or(Unopened::Missing)?;
        within_limit(bytes)
    }
}
