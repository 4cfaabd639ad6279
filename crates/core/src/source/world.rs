//! What the core asks the outside for: the texts of other files. Input: a name inside the project.
//! Output: its text, or why there is none. Guarantees: a name handed to a [`World`] never leaves the
//! project folder; links on disk are the World's own affair.

use super::{SourceId, is_invisible};
use std::any::Any;
use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

/// The outside, as far as a text may name it.
pub trait World {
    /// The text of a file, by its name relative to the project folder, with `/` as separator.
    ///
    /// # Errors
    /// If there is no such file, or it must not be read.
    fn text(&self, name: &str) -> Result<String, Unopened>;

    /// The bytes of a file that is no text, by its name; at most [`MAX_BYTES`].
    ///
    /// # Errors
    /// If there is no such file, it is larger, or it must not be read. A world that has only texts has none.
    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        let _ = name;
        Err(Unopened::Missing)
    }

    /// Where it is kept what was read of a file, for other texts of a run that take from it; nowhere by default.
    fn kept(&self) -> Option<&Kept> {
        None
    }
}

/// What was read of files, by their names and numbers, for whoever reads them next. What it is belongs to a later stage, which alone
/// knows its type.
#[derive(Debug, Default)]
pub struct Kept(Mutex<BTreeMap<(String, SourceId), Arc<dyn Any + Send + Sync>>>);

impl Kept {
    /// What is kept of a file.
    pub fn get<T: Any + Send + Sync>(&self, name: &str, id: SourceId) -> Option<Arc<T>> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.get(&(name.to_owned(), id)).cloned()?.downcast().ok()
    }

    /// Keeps something of a file.
    pub fn put<T: Any + Send + Sync>(&self, name: &str, id: SourceId, what: Arc<T>) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.insert((name.to_owned(), id), what);
    }
}

/// A file that is no text may have this many bytes.
// Pictograms and icons: what is larger is a photograph.
pub const MAX_BYTES: u64 = 1024 * 1024;

/// Why a file was not opened.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Unopened {
    /// There is no such file.
    Missing,
    /// It lies outside the project folder.
    Outside,
    /// It is there and cannot be read; the reason.
    Unreadable(String),
}

/// A world without other files.
#[derive(Clone, Copy, Debug, Default)]
pub struct Alone;

impl World for Alone {
    fn text(&self, _: &str) -> Result<String, Unopened> {
        Err(Unopened::Missing)
    }
}

/// The name of the file that `path` means in the file `from`; `None` if it leads out of the project.
pub fn name_of(from: &str, path: &str) -> Option<String> {
    if path.is_empty() || path.starts_with('/') || path.contains(['\\', ':', '\0']) {
        return None;
    }
    let mut steps: Vec<&str> = from.split('/').collect();
    steps.pop();
    for step in path.split('/') {
        match step {
            "" | "." => {}
            ".." => {
                steps.pop()?;
            }
            other => steps.push(other),
        }
    }
    Some(steps.join("/"))
}

/// A picture's name has at most this many bytes: endings and suffixes of temporary files have room beside it.
const LONGEST_NAME: usize = 200;

/// Names of devices that Windows finds in every folder, whatever their endings; `COM1` and the like are told by their digit.
const DEVICES: [&str; 6] = ["con", "prn", "aux", "nul", "conin$", "conout$"];

/// Whether a name from a source can be that of one file in a folder: no path, not hidden, and nothing that a file
/// system or a terminal takes as something else.
pub fn is_file_name(name: &str) -> bool {
    let is_plain = |c: char| {
        !c.is_control() && !is_invisible(c) && !matches!(c, '/' | '\\' | ':' | '<' | '>' | '"' | '|' | '?' | '*')
    };
    let is_plain = !name.starts_with('.') && !name.ends_with(['.', ' ']) && name.chars().all(is_plain);
    !name.is_empty() && name.len() <= LONGEST_NAME && is_plain && !is_device(name)
}

fn is_device(name: &str) -> bool {
    let stem = name.split('.').next().unwrap_or(name).trim_end().to_lowercase();
    let numbered = ["com", "lpt"].iter().find_map(|port| stem.strip_prefix(port));
    let is_digit = |rest: &str| matches!(rest.chars().collect::<Vec<_>>()[..], ['0'..='9' | '¹' | '²' | '³']);
    DEVICES.contains(&stem.as_str()) || numbered.is_some_and(is_digit)
}

/// What file systems that do not tell capitals from small letters make of a name: two names with the same one are one file there.
pub fn folded(name: &str) -> String {
    name.to_lowercase()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_files_are_no_paths() {
        for name in ["surge", "core.gateway", "hafen-süd", "two words", "-", "console", "com", "com10", "a.con"] {
            assert!(is_file_name(name), "{name}");
        }
        let long = "x".repeat(LONGEST_NAME + 1);
        for name in [
            "",
            "..",
            "../x",
            "/abs",
            "a/b",
            "a\\b",
            "c:x",
            ".hidden",
            "a\0b",
            "a\nb",
            &long,
            "con",
            "CON",
            "Aux.x",
            "com1",
            "LPT\u{b9}",
            "a.",
            "a ",
            "a?",
            "a\u{202e}b",
        ] {
            assert!(!is_file_name(name), "{name:?}");
        }
    }

    #[test]
    fn names_stay_inside_the_project() {
        assert_eq!(name_of("docs/a.bathy", "b.bathy").as_deref(), Some("docs/b.bathy"));
        assert_eq!(name_of("docs/a.bathy", "../look/./b.bathy").as_deref(), Some("look/b.bathy"));
        for path in ["../../b.bathy", "/etc/passwd", "C:/b.bathy", "..\\b.bathy", "", "x/../../../b"] {
            assert_eq!(name_of("docs/a.bathy", path), None, "{path}");
        }
    }
}
