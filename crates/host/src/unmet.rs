//! What the layouts of pictures could not keep, by the digest of each picture: found again without laying out. It lies with
//! the build record, and holds nothing that cannot be found out again.

use crate::record_folder::{Mark, UNMET, folder, made_mark, mark, recorded};
use crate::{Project, write_whole};
use bathygram_core::model::Unmet;
use bathygram_core::source::{SourceId, Span};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Counts up when the form of the file, or what a layout keeps, changes.
const FORM: u32 = 3;
/// This many pictures are remembered.
// The file is read as a whole before each check.
const MOST: usize = 20_000;
/// The words that ask something of a layout.
const WORDS: [&str; 6] = ["row", "order", "place", "pin", "heading", "arrange"];

/// Source, first byte, one past the last, word, and what it contradicts.
type Stored = (u32, u32, u32, String, Option<String>);

/// What is remembered, by digest.
#[derive(Debug, Default, Deserialize, Serialize)]
pub struct UnmetCache {
    form: u32,
    /// Where it was made, as the build record says it.
    mark: Option<Mark>,
    pictures: BTreeMap<String, Vec<Stored>>,
    #[serde(skip)]
    is_changed: bool,
}

impl UnmetCache {
    /// Opens what a project remembers; a file that is damaged, or of another form, is empty.
    pub fn open(project: &Project) -> Self {
        let read = recorded(project, UNMET).and_then(|bytes| serde_json::from_slice::<Self>(&bytes).ok());
        let is_own = |r: &Self| r.form == FORM && r.mark.is_some() && r.mark == mark(project);
        read.filter(is_own).unwrap_or(Self { form: FORM, ..Self::default() })
    }

    /// What the layout of the picture with a digest did not keep; `None` if that is not known.
    pub fn get(&self, digest: &str) -> Option<Vec<Unmet>> {
        let stored = self.pictures.get(digest)?;
        stored.iter().map(unmet).collect()
    }

    /// Notes what the layout of a picture did not keep.
    pub fn put(&mut self, digest: &str, unmet: &[Unmet]) {
        let one = |u: &Unmet| (u.span.source.number(), u.span.start, u.span.end, u.word.to_owned(), u.against.clone());
        if self.pictures.len() >= MOST {
            self.pictures.clear();
        }
        self.pictures.insert(digest.to_owned(), unmet.iter().map(one).collect());
        self.is_changed = true;
    }

    /// Writes what is remembered, if that changed. Where the project cannot be written nothing is.
    pub fn save(&mut self, project: &Project) {
        if !self.is_changed {
            return;
        }
        let Ok(folder) = folder(project) else { return };
        self.mark = made_mark(project);
        if let Ok(bytes) = serde_json::to_vec(self) {
            let _ = write_whole(&folder.join(UNMET), &bytes);
        }
    }
}

/// A stored constraint; nothing if its word is none of today's.
fn unmet((source, start, end, word, against): &Stored) -> Option<Unmet> {
    let word = WORDS.into_iter().find(|w| w == word)?;
    let span = Span::new(SourceId::new(*source as usize), *start as usize, *end as usize);
    Some(Unmet { span, word, against: against.clone() })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_found_is_found_again() {
        let folder = tempfile::tempdir().expect("a folder");
        let project = Project::find(folder.path()).expect("a project");
        let unmet =
            [Unmet { span: Span::new(SourceId::new(2), 5, 9), word: "row", against: Some("pin a 0 0".to_owned()) }];
        let mut cache = UnmetCache::open(&project);
        assert_eq!(cache.get("sha256:0"), None);
        cache.put("sha256:0", &unmet);
        cache.put("sha256:1", &[]);
        cache.save(&project);
        let again = UnmetCache::open(&project);
        assert_eq!(again.get("sha256:0").as_deref(), Some(&unmet[..]));
        assert_eq!(again.get("sha256:1").as_deref(), Some(&[][..]));
        std::fs::write(project.root.join(".bathygram").join(UNMET), "{").expect("written");
        assert_eq!(UnmetCache::open(&project).get("sha256:0"), None);
    }
}
