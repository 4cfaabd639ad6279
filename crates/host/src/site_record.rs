//! What a site was made from, file by file, so that only what changed is made again, and only what was made here is removed. It
//! is a cache like the [build record](crate::Record), and counts only where it was made.

use crate::files::{link_below, read_bounded};
use crate::record::{Seen, Stamp, nanoseconds};
use crate::record_folder::{Mark, SITE, folder, made_mark, mark, recorded, refuse_links};
use crate::{Error, MAX_PICTURE, Project, write_whole};
use bathygram_core::container;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Component, Path, PathBuf};
use std::time::SystemTime;

/// Counts up when the record's form changes.
const FORM: u32 = 1;

/// The file by which a folder says that it holds a site. Nothing in such a folder belongs to a project.
pub const SITE_MARK: &str = "bathygram-site.txt";
/// What stands in it.
pub const SITE_MARK_TEXT: &str =
    "`bathygram site` makes the pages in this folder, and makes them again: change the project, not the pages.\n";
/// By this a page says what made it.
const GENERATOR: &str = "<meta name=\"generator\" content=\"Bathygram\">";
/// It stands among this many first bytes.
const HEAD: usize = 2048;

/// What is known of the files of a site.
#[derive(Debug, Default, Deserialize, Serialize)]
pub struct SiteRecord {
    form: u32,
    /// Where it was made.
    mark: Option<Mark>,
    /// The folder of the site.
    out: PathBuf,
    /// When it was written, in ns since 1970.
    written: u64,
    /// For each file what it was made from, and how it was.
    files: BTreeMap<String, (String, Stamp)>,
}

impl SiteRecord {
    /// Opens what is known of a site in a folder; nothing if it was made elsewhere.
    ///
    /// # Errors
    /// If the record's folder is a link.
    pub fn open(project: &Project, out: &Path) -> Result<Self, Error> {
        refuse_links(project)?;
        let out = std::path::absolute(out).unwrap_or_else(|_| out.to_owned());
        let own = Self { form: FORM, mark: mark(project), out, ..Self::default() };
        let read = recorded(project, SITE).and_then(|bytes| serde_json::from_slice::<Self>(&bytes).ok());
        let is_plain = |name: &String| {
            !name.is_empty() && Path::new(name).components().all(|part| matches!(part, Component::Normal(_)))
        };
        let read = read.filter(|r| (r.form, r.mark, &r.out) == (own.form, own.mark, &own.out) && r.mark.is_some());
        Ok(read.filter(|r| r.files.keys().all(is_plain)).unwrap_or(own))
    }

    /// Whether a file is there as it was made from the same.
    pub fn is_fresh(&self, file: &str, inputs: &str) -> bool {
        self.files.get(file).is_some_and(|(made_from, _)| made_from == inputs) && self.is_as_made(file)
    }

    /// Whether a file was made here, and nobody changed it.
    fn is_as_made(&self, file: &str) -> bool {
        let path = self.out.join(file);
        let state = self.files.get(file).map(|(_, stamp)| stamp.compare(&path, self.written));
        matches!(state, Some(Seen::Same | Seen::Touched(_)))
    }

    /// Writes a file of the site, whole or not at all.
    ///
    /// # Errors
    /// If a link or a file of somebody else is in the way, or it cannot be written.
    pub fn write(&self, file: &str, bytes: &[u8], overwrite: crate::Overwrite) -> Result<bool, Error> {
        let path = self.out.join(file);
        if overwrite == crate::Overwrite::Own && !self.is_as_made(file) && is_foreign(&self.out, file) {
            return Err(Error::Foreign { path });
        }
        crate::write_inside(&self.out, &path, bytes)
    }

    /// Notes that a file was made of something.
    pub fn note(&mut self, file: &str, inputs: &str, bytes: &[u8]) {
        match Stamp::with_content(&self.out.join(file), bytes) {
            Some(stamp) => drop(self.files.insert(file.to_owned(), (inputs.to_owned(), stamp))),
            None => drop(self.files.remove(file)),
        }
    }

    /// Removes the files that were made here, are as they were made, and are no files of the site any more; gives back their
    /// names. Others are forgotten.
    ///
    /// # Errors
    /// If one cannot be removed.
    pub fn clear(&mut self, files: &BTreeSet<&str>) -> Result<Vec<String>, Error> {
        let gone: Vec<String> = self.files.keys().filter(|file| !files.contains(file.as_str())).cloned().collect();
        let mut removed = Vec::new();
        for file in gone {
            let path = self.out.join(&file);
            if self.is_as_made(&file) && link_below(&self.out, &path).is_none() {
                crate::remove_inside(&self.out, &path)?;
                // A folder goes with the last file in it.
                let folders = path.ancestors().skip(1).take_while(|folder| *folder != self.out);
                let _ = folders.take_while(|folder| std::fs::remove_dir(folder).is_ok()).count();
                removed.push(file.clone());
            }
            self.files.remove(&file);
        }
        Ok(removed)
    }

    /// Writes the record. Where the project cannot be written there is none: the next site is made from scratch.
    pub fn save(&mut self, project: &Project) {
        self.written = nanoseconds(SystemTime::now());
        let Ok(folder) = folder(project) else { return };
        self.mark = made_mark(project);
        if let Ok(bytes) = serde_json::to_vec(&self) {
            let _ = write_whole(&folder.join(SITE), &bytes);
        }
    }
}

/// Whether a file is there that no run of this program made: it does not say so, and does not lie among what one made.
fn is_foreign(out: &Path, file: &str) -> bool {
    let path = out.join(file);
    let bytes = match read_bounded(&path, MAX_PICTURE) {
        Ok(bytes) => bytes,
        Err(Error::Read { why, .. }) => return why.kind() == std::io::ErrorKind::PermissionDenied,
        Err(_) => return true,
    };
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(HEAD)]);
    let is_marked = || std::fs::read(out.join(SITE_MARK)).is_ok_and(|mark| mark == SITE_MARK_TEXT.as_bytes());
    let says_so = match file.rsplit_once('.').map(|(_, ending)| ending) {
        Some("html") => head.contains(GENERATOR),
        Some("svg") => container::read(&bytes).is_some(),
        _ if file == SITE_MARK => bytes == SITE_MARK_TEXT.as_bytes(),
        _ => file.starts_with("assets/") && is_marked(),
    };
    !bytes.is_empty() && !says_so
}
