//! A folder of source files on disk: what is in it, but for what git ignores.

use crate::Error;
use crate::project::check_ignore_files;
use std::collections::HashSet;
use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};

/// Larger files are no source code; they are not read.
const LARGEST: u64 = 8 << 20;
/// More files than these are no tree that somebody means.
const MOST_FILES: usize = 2_000_000;

/// A folder with all its files.
#[derive(Clone, Debug)]
pub struct SourceTree {
    root: PathBuf,
    /// Its name; that of the folder.
    pub name: String,
    /// The paths of its files, relative to it, with `/`, in order.
    pub files: Vec<String>,
    /// Files and folders that git ignores, as far as they are seen beside others.
    pub ignored: usize,
    /// Files whose names are no UTF-8, or have a line break in them: nothing can be said of them.
    pub unnamed: usize,
}

impl SourceTree {
    /// Walks a folder. Links are not followed.
    ///
    /// # Errors
    /// If it is no folder, holds more than 2 million files, or a file in it says what git ignores and cannot be read.
    pub fn walk(root: &Path) -> Result<Self, Error> {
        let none = |_| Error::NotAFolder { path: root.to_owned() };
        // `.` and `..` have no name of their own.
        let named = std::fs::canonicalize(root).map_err(none)?;
        if !named.is_dir() {
            return Err(Error::NotAFolder { path: root.to_owned() });
        }
        let name = named.file_name().map_or("code".into(), |name| name.to_string_lossy().into_owned());
        root.ancestors().chain(named.ancestors()).try_for_each(check_ignore_files)?;
        let mut out = Self { root: root.to_owned(), name, files: Vec::new(), ignored: 0, unnamed: 0 };
        let mut folders: Vec<PathBuf> = Vec::new();
        let mut walked: HashSet<PathBuf> = HashSet::new();
        let odd = Arc::new(Mutex::new(None));
        let noted = Arc::clone(&odd);
        let mut walk = ignore::WalkBuilder::new(root);
        walk.require_git(false).follow_links(false).filter_entry(move |entry| {
            let is_folder = entry.file_type().is_some_and(|kind| kind.is_dir());
            let found = if is_folder { check_ignore_files(entry.path()).err() } else { None };
            let is_walked = found.is_none();
            if let (Some(found), Ok(mut noted)) = (found, noted.lock()) {
                *noted = Some(found);
            }
            is_walked
        });
        for entry in walk.build().flatten() {
            let is_folder = entry.file_type().is_some_and(|kind| kind.is_dir());
            let is_file = entry.file_type().is_some_and(|kind| kind.is_file());
            if is_file {
                match plain(entry.path().strip_prefix(root).unwrap_or(entry.path())) {
                    Some(path) => out.files.push(path),
                    None => out.unnamed += 1,
                }
                if out.files.len() > MOST_FILES {
                    return Err(Error::TooManyFiles { path: root.to_owned(), most: MOST_FILES });
                }
            }
            walked.insert(entry.path().to_owned());
            if is_folder {
                folders.push(entry.into_path());
            }
        }
        if let Some(odd) = odd.lock().ok().and_then(|mut odd| odd.take()) {
            return Err(odd);
        }
        out.files.sort();
        out.ignored = folders.iter().map(|folder| ignored_in(folder, &walked)).sum();
        Ok(out)
    }

    /// The bytes of a file, by its number.
    ///
    /// # Errors
    /// If it cannot be read, or is too large: why.
    pub fn read(&self, number: usize) -> Result<Vec<u8>, String> {
        let path = self.root.join(&self.files[number]);
        let file = File::open(&path).map_err(|why| why.to_string())?;
        let about = file.metadata().map_err(|why| why.to_string())?;
        // What was a file may be a pipe by now.
        if !about.is_file() {
            return Err("it is no regular file".to_owned());
        }
        if about.len() > LARGEST {
            return Err(format!("it is larger than {} MB", LARGEST >> 20));
        }
        let mut bytes = Vec::with_capacity(about.len() as usize);
        file.take(LARGEST + 1).read_to_end(&mut bytes).map_err(|why| why.to_string())?;
        Ok(bytes)
    }

    /// The path of a file of the tree, as it can be opened from the working folder.
    pub fn shown(&self, path: &str) -> String {
        let shown = self.root.join(path);
        let shown = shown.strip_prefix(".").unwrap_or(&shown);
        shown.to_string_lossy().into_owned()
    }
}

/// A path with `/` between its parts; nothing if it cannot be shown in a line.
fn plain(path: &Path) -> Option<String> {
    let parts: Option<Vec<&str>> = path.components().map(|part| part.as_os_str().to_str()).collect();
    Some(parts?.join("/")).filter(|path| !path.contains(char::is_control))
}

/// What stands in a folder and was not walked: git ignores it. Hidden files are not counted.
fn ignored_in(folder: &Path, walked: &HashSet<PathBuf>) -> usize {
    let Ok(entries) = std::fs::read_dir(folder) else { return 0 };
    let names = entries.flatten().filter(|entry| !entry.file_name().to_string_lossy().starts_with('.'));
    names.filter(|entry| !walked.contains(&entry.path())).count()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_folder_is_walked_without_what_git_ignores() {
        let folder = tempfile::tempdir().expect("a folder");
        let write = |path: &str| {
            let path = folder.path().join(path);
            std::fs::create_dir_all(path.parent().expect("a folder around")).expect("folders");
            std::fs::write(path, "x").expect("a file");
        };
        ["b.rs", "a/c.rs", "built/d.rs", "a/line\nbreak.rs", ".hidden/e.rs"].into_iter().for_each(write);
        std::fs::write(folder.path().join(".gitignore"), "built\n").expect("a file");
        let tree = SourceTree::walk(folder.path()).expect("a tree");
        assert_eq!(tree.files, ["a/c.rs", "b.rs"]);
        assert_eq!((tree.ignored, tree.unnamed), (1, 1));
        assert_eq!(tree.read(1), Ok(b"x".to_vec()));
        assert!(SourceTree::walk(&folder.path().join("b.rs")).is_err());
    }

    #[cfg(unix)]
    #[test]
    fn links_in_a_circle_end() {
        let folder = tempfile::tempdir().expect("a folder");
        std::os::unix::fs::symlink(folder.path(), folder.path().join("again")).expect("a link");
        std::fs::write(folder.path().join("a.rs"), "").expect("a file");
        assert_eq!(SourceTree::walk(folder.path()).expect("a tree").files, ["a.rs"]);
    }
}
