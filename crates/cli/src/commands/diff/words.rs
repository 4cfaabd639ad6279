//! What the words behind `diff` mean: versions, then files, folders and pictures.

use crate::outcome::{Failure, Result};
use bathygram_host::{Git, Version};
use std::path::{Path, PathBuf};

/// Two versions, with their names, and what of them is compared.
pub(super) struct Meant {
    pub(super) from: (Version, String),
    pub(super) to: (Version, String),
    /// Files and folders; with `pictures`, all of the project if there are none.
    pub(super) paths: Vec<PathBuf>,
    /// Names of pictures.
    pub(super) pictures: Vec<String>,
}

/// Reads the words.
///
/// # Errors
/// If there is no such revision, or they name more than two.
pub(super) fn read(git: &Git, words: &[String], newer: Version) -> Result<Meant> {
    let mut versions: Vec<&String> = Vec::new();
    let mut range = None;
    let (mut paths, mut pictures) = (Vec::new(), Vec::new());
    for word in words {
        let is_first = paths.is_empty() && pictures.is_empty();
        let is_path = !git.is_bare && Path::new(word).exists() || is_text(word);
        if is_path {
            paths.push(PathBuf::from(word));
        } else if is_first && let Some(found) = Range::of(word) {
            if range.is_some() || !versions.is_empty() {
                return Err(Failure::Usage(format!(
                    "`{word}` names two revisions already; nothing else may stand before it"
                )));
            }
            range = Some(found);
        } else if git.has_revision(word) {
            if !is_first {
                return Err(Failure::Usage(format!(
                    "`{word}` is a revision; revisions come before files and pictures"
                )));
            }
            if range.is_some() {
                return Err(Failure::Usage(format!("`{word}` is one revision too many: two are named already")));
            }
            versions.push(word);
        } else if is_first && is_spelled_as_revision(word) {
            // Says why there is none.
            git.revision(word).map_err(|e| Failure::Usage(e.to_string()))?;
        } else {
            pictures.push(word.clone());
        }
    }
    let is_index = newer == Version::Index;
    let older = |name: &str| -> Result<(Version, String)> { Ok((revision(git, name)?, name.to_owned())) };
    let newer = match newer {
        Version::Index => (newer, "the index".to_owned()),
        _ if git.is_bare => (git.head(), "HEAD".to_owned()),
        _ => (newer, "the working tree".to_owned()),
    };
    if is_index && (versions.len() > 1 || range.is_some()) {
        return Err(Failure::Usage("--index is the newer version; name one revision at most".into()));
    }
    let (from, to) = match (range, versions.as_slice()) {
        (Some(range), _) => range.versions(git)?,
        (None, []) => ((git.head(), "HEAD".to_owned()), newer),
        (None, [from]) => (older(from)?, newer),
        (None, [from, to]) => (older(from)?, older(to)?),
        _ => return Err(Failure::Usage("at most two revisions can be compared".into())),
    };
    Ok(Meant { from, to, paths, pictures })
}

fn revision(git: &Git, name: &str) -> Result<Version> {
    git.revision(name).map_err(|e| Failure::Usage(e.to_string()))
}

/// A text that may be gone.
fn is_text(word: &str) -> bool {
    Path::new(word).extension().is_some_and(|e| e == "bathy" || e == "md" || e == "markdown")
}

/// Whether a word that is no revision was meant as one: names of pictures have no such letters.
fn is_spelled_as_revision(word: &str) -> bool {
    word.contains(['~', '^', '@', ':', '/', '\\'])
}

/// `A..B`, or `A...B`, as git means them.
struct Range<'w> {
    from: &'w str,
    to: &'w str,
    is_from_base: bool,
}

impl<'w> Range<'w> {
    fn of(word: &'w str) -> Option<Self> {
        let (at, dots) = match (word.find("..."), word.find("..")) {
            (Some(at), _) => (at, 3),
            (None, Some(at)) => (at, 2),
            (None, None) => return None,
        };
        let or_head = |name: &'w str| if name.is_empty() { "HEAD" } else { name };
        Some(Self { from: or_head(&word[..at]), to: or_head(&word[at + dots..]), is_from_base: dots == 3 })
    }

    fn versions(&self, git: &Git) -> Result<((Version, String), (Version, String))> {
        let Self { from, to, is_from_base } = self;
        let newer = (revision(git, to)?, (*to).to_owned());
        if *is_from_base {
            let base = git.merge_base(from, to).map_err(|e| Failure::Usage(e.to_string()))?;
            return Ok(((base, format!("the merge base of {from} and {to}")), newer));
        }
        Ok(((revision(git, from)?, (*from).to_owned()), newer))
    }
}
