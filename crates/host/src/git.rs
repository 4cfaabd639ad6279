//! git, through its program: it honours the user's configuration.

use crate::Error;
use std::path::{Path, PathBuf};
use std::process::Command;

/// A repository.
#[derive(Clone, Debug)]
pub struct Git {
    /// Its top folder.
    pub top: PathBuf,
}

/// Where a version of a file comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Version {
    /// The working tree.
    WorkingTree,
    /// A revision.
    Revision(String),
}

impl Git {
    /// The repository around a folder.
    ///
    /// # Errors
    /// If there is none, or git is not installed.
    pub fn find(folder: &Path) -> Result<Self, Error> {
        let top = run(folder, &["rev-parse", "--show-toplevel"])?;
        let top = String::from_utf8_lossy(&top);
        Ok(Self { top: PathBuf::from(top.trim_end_matches('\n')) })
    }

    /// The full name of a revision.
    ///
    /// # Errors
    /// If there is no such revision.
    pub fn revision(&self, name: &str) -> Result<String, Error> {
        let commit = format!("{name}^{{commit}}");
        let out = run(&self.top, &["rev-parse", "--verify", "--quiet", "--end-of-options", &commit])
            .map_err(|_| Error::Git(format!("no revision is called `{name}`")))?;
        Ok(String::from_utf8_lossy(&out).trim().to_owned())
    }

    /// The files of a revision below a folder that end in `.bathy`, relative to the top.
    ///
    /// # Errors
    /// If git fails.
    pub fn files(&self, revision: &str, below: &Path) -> Result<Vec<PathBuf>, Error> {
        let below = below.strip_prefix(&self.top).unwrap_or(Path::new(""));
        let below = if below.as_os_str().is_empty() { ".".to_owned() } else { below.to_string_lossy().into_owned() };
        let out = run(&self.top, &["ls-tree", "-r", "-z", "--name-only", revision, "--", &below])?;
        let paths = out.split(|b| *b == 0).filter(|p| p.ends_with(b".bathy"));
        Ok(paths.map(|p| PathBuf::from(String::from_utf8_lossy(p).into_owned())).collect())
    }

    /// The text of a file in a revision; `None` if it was not there.
    ///
    /// # Errors
    /// If it is not UTF-8.
    pub fn text(&self, revision: &str, path: &Path) -> Result<Option<String>, Error> {
        let Some(bytes) = self.bytes(revision, path) else { return Ok(None) };
        let text = String::from_utf8(bytes).map(Some);
        text.map_err(|_| Error::Git(format!("{} is not UTF-8 text in {revision}", path.display())))
    }

    /// The bytes of a file in a revision; `None` if it was not there.
    pub fn bytes(&self, revision: &str, path: &Path) -> Option<Vec<u8>> {
        let name = format!("{revision}:{}", path.to_string_lossy());
        run(&self.top, &["show", "--end-of-options", &name]).ok()
    }
}

fn run(folder: &Path, arguments: &[&str]) -> Result<Vec<u8>, Error> {
    let out = Command::new("git")
        .arg("-C")
        .arg(folder)
        .args(arguments)
        .output()
        .map_err(|e| Error::Git(format!("cannot be started: {e}")))?;
    if out.status.success() {
        Ok(out.stdout)
    } else {
        let message = String::from_utf8_lossy(&out.stderr);
        let first = message.lines().next().unwrap_or("failed");
        Err(Error::Git(first.trim_start_matches("fatal: ").to_owned()))
    }
}
