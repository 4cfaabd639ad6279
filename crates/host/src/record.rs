//! The build record: what each picture of a project was made from, so that a build in which nothing changed need not read
//! anything. It lies in `.bathygram/`, which git ignores, and holds nothing that cannot be found out again.
//!
//! Contents count, by SHA-256. A file whose size, time, and place on disk are those that were recorded is taken as
//! unchanged, as git does it, unless it was written so shortly before the record that a later change could have the same
//! time.
//!
//! It is a cache, and what is in it may come from anybody: a repository or an archive can bring a folder like it along. It counts only
//! where it was made, which the [`Mark`] of its folder says, and no name in it leads out of the project.

use crate::files::{link_below, read_bounded};
use crate::project::{CONFIG, Walked};
use crate::record_folder::{Mark, folder, made_mark, mark, node, recorded, refuse_links};
use crate::{Error, Format, MAX_PICTURE, MAX_SETTINGS, PictureOf, Project, write_whole};
use bathygram_core::jobs::{Jobs, map};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, BTreeSet};
use std::fs::Metadata;
use std::path::{Component, Path, PathBuf};
use std::time::{Duration, SystemTime, UNIX_EPOCH};

/// Counts up when the record's form changes.
// An older record is then read as none, and everything is drawn once.
const FORM: u32 = 3;
/// Files that were written within this much time before the record are read again.
const RACY: Duration = Duration::from_millis(20);

/// What is recorded.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Purpose {
    /// What was drawn.
    #[default]
    Build,
    /// What was checked, and had nothing to be found.
    Check,
}

impl Purpose {
    pub(crate) fn file(self) -> &'static str {
        match self {
            Self::Build => "record.json",
            Self::Check => "checked.json",
        }
    }
}

/// What was built, or checked.
#[derive(Debug, Default, Deserialize, Serialize)]
pub struct Record {
    form: u32,
    /// The program's version.
    program: String,
    /// The digest of the config.
    config: String,
    /// Where it was made.
    mark: Option<Mark>,
    /// The names of pictures that were drawn here, also before the config was another one.
    #[serde(default)]
    drawn: BTreeSet<String>,
    /// When it was written, in ns since 1970.
    written: u64,
    /// By the source's name.
    sources: BTreeMap<String, Entry>,
    /// Folders in which sources were looked for, and what git is told to ignore there: what was found is found again as long
    /// as none of them changed.
    places: Vec<Place>,
    /// Sources in which something was found: they are read each time.
    #[serde(default)]
    open: BTreeMap<String, Stamp>,
    /// Files that the project's pictures were copied to, or that were drawn into other folders.
    #[serde(default)]
    copies: BTreeMap<String, Stamp>,
    #[serde(skip)]
    purpose: Purpose,
    #[serde(skip)]
    is_changed: bool,
    /// Whether only names of pictures changed.
    #[serde(skip)]
    has_new_names: bool,
    /// When this build began.
    #[serde(skip)]
    begun: u64,
}

/// What was made from one source.
#[derive(Clone, Debug, Deserialize, Serialize)]
pub struct Entry {
    text: Stamp,
    /// The other files that it takes from, by their names.
    uses: BTreeMap<String, Stamp>,
    /// The names of its pictures, the lines in which they begin, and their files: forms and contents.
    pictures: BTreeMap<String, (u32, BTreeMap<Format, Stamp>)>,
}

impl Entry {
    /// The names of its pictures, and the lines in which they begin.
    pub fn pictures(&self) -> impl Iterator<Item = (&str, u32)> {
        self.pictures.iter().map(|(name, (line, _))| (name.as_str(), *line))
    }
}

/// What was made from a source.
#[derive(Clone, Debug)]
pub struct Made<'a> {
    /// The source.
    pub name: &'a str,
    /// The other files that it takes from.
    pub uses: Vec<&'a str>,
    /// The names of its pictures, and the lines in which they begin.
    pub pictures: Vec<(&'a str, u32)>,
}

/// A file as it was; written as four values, since there are many.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(from = "(u64, u64, u64, String)", into = "(u64, u64, u64, String)")]
pub(crate) struct Stamp {
    size: u64,
    /// When it was last written, in ns since 1970.
    time: u64,
    /// Its number on the disk.
    node: u64,
    /// SHA-256 of its bytes.
    digest: String,
}

impl From<(u64, u64, u64, String)> for Stamp {
    fn from((size, time, node, digest): (u64, u64, u64, String)) -> Self {
        Self { size, time, node, digest }
    }
}

impl From<Stamp> for (u64, u64, u64, String) {
    fn from(stamp: Stamp) -> Self {
        (stamp.size, stamp.time, stamp.node, stamp.digest)
    }
}

/// A folder, or a file that says what is ignored, with its time in ns since 1970 and its size; both 0 where it is not.
type Place = (PathBuf, u64, u64);

fn place(path: PathBuf) -> Place {
    let about = std::fs::metadata(&path).map_or((0, 0), |about| (about.modified().map_or(0, nanoseconds), about.len()));
    (path, about.0, about.1)
}

/// Why a source must be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Reason {
    /// It was never built here.
    New,
    /// Its text changed.
    Text,
    /// A file that it takes from changed.
    Used,
    /// A picture is missing.
    Missing,
    /// A picture is not as it was drawn.
    Edited,
}

/// Whether a name leads to a file below the project.
fn is_name_inside(name: &str) -> bool {
    !name.is_empty() && Path::new(name).components().all(|part| matches!(part, Component::Normal(_)))
}

/// Where git finds what to ignore, outside a folder: above it, in the repository, and for all of a user's repositories.
fn ignore_files_around(root: &Path) -> Vec<PathBuf> {
    let above = root.ancestors().skip(1).flat_map(|f| [".gitignore", ".ignore"].map(|name| f.join(name)));
    let own = root.ancestors().map(|f| f.join(".git/info/exclude"));
    let config = std::env::var_os("XDG_CONFIG_HOME").map(PathBuf::from);
    let config = config.or_else(|| Some(PathBuf::from(std::env::var_os("HOME")?).join(".config")));
    let home = std::env::var_os("HOME").map(|home| PathBuf::from(home).join(".gitconfig"));
    above.chain(own).chain(config.map(|c| c.join("git/ignore"))).chain(home).collect()
}

impl Record {
    /// Opens the record of a project; one that is damaged, of another program or config, or made elsewhere, is empty.
    ///
    /// # Errors
    /// If its folder is a link.
    pub fn open(project: &Project, purpose: Purpose) -> Result<Self, Error> {
        refuse_links(project)?;
        let config = read_bounded(&project.root.join(CONFIG), MAX_SETTINGS).unwrap_or_default();
        let own = Self {
            form: FORM,
            program: env!("CARGO_PKG_VERSION").to_owned(),
            mark: mark(project),
            // Themes may be files of their own.
            config: digest(&[&config[..], project.look.as_bytes()].concat()),
            is_changed: true,
            ..Self::default()
        };
        let read = recorded(project, purpose.file()).and_then(|bytes| serde_json::from_slice::<Self>(&bytes).ok());
        let read =
            read.filter(|r| (r.form, r.mark) == (own.form, own.mark) && r.mark.is_some() && r.is_inside(project));
        let is_same = |r: &Self| (&r.program, &r.config) == (&own.program, &own.config);
        let record = match read {
            Some(read) if is_same(&read) => read,
            // What was drawn here was drawn here, whatever the config said.
            Some(read) => Self { drawn: read.drawn, ..own },
            None => own,
        };
        Ok(Self { begun: nanoseconds(SystemTime::now()), purpose, ..record })
    }

    /// Whether a picture of this name was drawn here, by this program.
    pub fn has_drawn(&self, name: &str) -> bool {
        self.drawn.contains(name)
    }

    /// Notes names of pictures that were drawn here.
    pub fn note_drawn<'n>(&mut self, names: impl IntoIterator<Item = &'n str>) {
        for name in names {
            self.has_new_names |= self.drawn.insert(name.to_owned());
        }
    }

    /// Forgets the names of pictures that are gone.
    pub fn forget_drawn(&mut self, names: &BTreeSet<String>) {
        let before = self.drawn.len();
        self.drawn.retain(|name| !names.contains(name));
        self.has_new_names |= self.drawn.len() != before;
    }

    /// Whether every name in it is that of something in the project, or of a file that says there what git ignores.
    fn is_inside(&self, project: &Project) -> bool {
        let used = self.sources.values().flat_map(|entry| entry.uses.keys());
        let mut names = self.sources.keys().chain(used).chain(self.open.keys()).chain(self.copies.keys());
        if !names.all(|name| is_name_inside(name)) {
            return false;
        }
        let folders: BTreeSet<&Path> =
            self.sources.keys().chain(self.open.keys()).filter_map(|name| Path::new(name).parent()).collect();
        let around = ignore_files_around(&project.root);
        folders.iter().all(|folder| link_below(&project.root, &project.root.join(folder)).is_none())
            && self.places.iter().all(|p| p.0.starts_with(&project.root) || around.contains(&p.0))
    }

    /// The sources and the documents of a project, and whether its folders are as they were when the record was written: no
    /// folder is read that did not change.
    ///
    /// # Errors
    /// If a file that says what git ignores cannot be read.
    pub fn sources(&mut self, project: &Project) -> Result<(Vec<PathBuf>, bool), Error> {
        let is_settled =
            |p: &Place| p.1.saturating_add(RACY.as_nanos() as u64) < self.written && place(p.0.clone()) == *p;
        if !self.places.is_empty() && self.places.iter().all(is_settled) {
            let names: BTreeSet<&String> = self.sources.keys().chain(self.open.keys()).collect();
            return Ok((names.into_iter().map(|name| project.root.join(name)).collect(), true));
        }
        let Walked { mut sources, documents, folders, .. } = project.walk()?;
        self.places =
            folders.iter().flat_map(|f| [f.clone(), f.join(".gitignore"), f.join(".ignore")]).map(place).collect();
        self.places.extend(ignore_files_around(&project.root).into_iter().map(place));
        self.is_changed = true;
        sources.extend(documents);
        Ok((sources, false))
    }

    /// Whether the copies of pictures, and the sources in which something was found, are as they were noted.
    pub fn has_same_others(&self, project: &Project) -> bool {
        let is_same = |(name, stamp): (&String, &Stamp)| {
            matches!(stamp.compare(&project.root.join(name), self.written), Seen::Same)
        };
        self.copies.iter().chain(&self.open).all(is_same)
    }

    /// Whether something was found in a source when it was last looked at.
    pub fn is_open(&self, name: &str) -> bool {
        self.open.contains_key(name)
    }

    /// Notes the sources in which something was found.
    pub fn note_open<'n>(&mut self, project: &Project, names: impl IntoIterator<Item = &'n str>) {
        let stamp = |name: &str| Some((name.to_owned(), self.settled(&project.root.join(name))?));
        let open: Option<BTreeMap<String, Stamp>> = names.into_iter().map(stamp).collect();
        match open {
            Some(open) => self.open = open,
            // One that was just written may change at the same time again.
            None => self.forget_places(),
        }
        self.is_changed = true;
    }

    /// Notes files that pictures were copied to, by their names in the project.
    pub fn note_copies(&mut self, project: &Project, names: &[String]) {
        let stamp = |name: &String| Some((name.clone(), self.settled(&project.root.join(name))?));
        let copies: Option<BTreeMap<String, Stamp>> = names.iter().map(stamp).collect();
        match copies {
            Some(copies) => self.copies = copies,
            // One that was just written may change at the same time again.
            None => self.forget_places(),
        }
        self.is_changed = true;
    }

    /// What is known of sources, or why they must be read, in their order. Files that have new times but the same contents
    /// are noted.
    pub fn look(&mut self, project: &Project, names: &[String], jobs: &dyn Jobs) -> Vec<Result<&Entry, Reason>> {
        let looked = map(jobs, names.len(), &|i| self.see(project, &names[i]));
        let mut states = Vec::with_capacity(names.len());
        for (name, seen) in names.iter().zip(looked) {
            states.push(seen.map(|touched| {
                self.is_changed |= touched.is_some();
                touched.map(|entry| self.sources.insert(name.clone(), entry));
            }));
        }
        let sources = &self.sources;
        names
            .iter()
            .zip(states)
            .map(|(name, state)| state.and_then(|()| sources.get(name).ok_or(Reason::New)))
            .collect()
    }

    /// Compares what was made from a source with what is there; gives back what is to be noted, if that is anything.
    fn see(&self, project: &Project, name: &str) -> Result<Option<Entry>, Reason> {
        let entry = self.sources.get(name).ok_or(Reason::New)?;
        let mut touched = Touched { written: self.written, stamps: Vec::new() };
        if touched.is_same(&project.root.join(name), &entry.text) != Some(true) {
            return Err(Reason::Text);
        }
        let mut is_used = |(used, stamp): (&String, _)| touched.is_same(&project.root.join(used), stamp) == Some(true);
        if !entry.uses.iter().all(&mut is_used) {
            return Err(Reason::Used);
        }
        for (picture, (_, files)) in &entry.pictures {
            for (format, path) in (PictureOf { source: name, name: picture }).files(project) {
                let stamp = files.get(&format).ok_or(Reason::Missing)?;
                touched.is_same(&path, stamp).ok_or(Reason::Missing)?.then_some(()).ok_or(Reason::Edited)?;
            }
        }
        if touched.stamps.is_empty() {
            return Ok(None);
        }
        let files = |files: &BTreeMap<Format, Stamp>| files.iter().map(|(f, s)| (*f, touched.renewed(s))).collect();
        Ok(Some(Entry {
            text: touched.renewed(&entry.text),
            uses: entry.uses.iter().map(|(n, s)| (n.clone(), touched.renewed(s))).collect(),
            pictures: entry.pictures.iter().map(|(n, (line, f))| (n.clone(), (*line, files(f)))).collect(),
        }))
    }

    /// Notes what was made from sources: the files that they take from, and their pictures, all of which are there. What was
    /// written since the build began may have been written after it was read, and is not noted.
    pub fn note(&mut self, project: &Project, made: &[Made<'_>], jobs: &dyn Jobs) {
        let entries = map(jobs, made.len(), &|i| self.entry(project, &made[i]));
        for (made, entry) in made.iter().zip(entries) {
            match entry {
                Some(entry) => drop(self.sources.insert(made.name.to_owned(), entry)),
                None => self.forget(made.name),
            }
        }
        self.is_changed |= !made.is_empty();
    }

    fn entry(&self, project: &Project, made: &Made<'_>) -> Option<Entry> {
        let settled = |name: &str| self.settled(&project.root.join(name));
        let uses: Option<_> = made.uses.iter().map(|u| Some(((*u).to_owned(), settled(u)?))).collect();
        Some(Entry {
            text: settled(made.name)?,
            uses: uses?,
            pictures: made
                .pictures
                .iter()
                .map(|(p, line)| ((*p).to_owned(), (*line, stamps(project, made.name, p))))
                .collect(),
        })
    }

    /// The stamp of a file that was last written well before this run: a later change has another time.
    fn settled(&self, path: &Path) -> Option<Stamp> {
        Stamp::of(path).filter(|s| s.time.saturating_add(RACY.as_nanos() as u64) < self.begun)
    }

    /// Forgets all sources but these.
    pub fn retain(&mut self, is_there: impl Fn(&str) -> bool) {
        let before = self.sources.len();
        self.sources.retain(|name, _| is_there(name));
        self.is_changed |= self.sources.len() != before;
    }

    /// Whether all of these sources are known.
    pub fn knows(&self, names: &[String]) -> bool {
        names.iter().all(|name| self.sources.contains_key(name) || self.open.contains_key(name))
    }

    /// Forgets a source.
    pub fn forget(&mut self, name: &str) {
        self.is_changed |= self.sources.remove(name).is_some();
    }

    /// Takes note that pictures were written or removed: their folder is read again next time.
    pub fn forget_places(&mut self) {
        self.is_changed |= !self.places.is_empty();
        self.places.clear();
    }

    /// Writes the record if it changed. Where the project cannot be written there is none: the next build reads more.
    pub fn save(&mut self, project: &Project) {
        if !self.is_changed && !self.has_new_names {
            return;
        }
        // Names say nothing about when files were looked at.
        if self.is_changed {
            self.written = nanoseconds(SystemTime::now());
        }
        let Ok(folder) = folder(project) else { return };
        self.mark = made_mark(project);
        if let Ok(bytes) = serde_json::to_vec(&self) {
            let _ = write_whole(&folder.join(self.purpose.file()), &bytes);
        }
    }
}

/// The stamps of a picture's files.
fn stamps(project: &Project, source: &str, name: &str) -> BTreeMap<Format, Stamp> {
    let all = PictureOf { source, name }.files(project).into_iter();
    all.filter_map(|(format, path)| Some((format, Stamp::of(&path)?))).collect()
}

/// Files with another time and the same content: their stamps are renewed, so that they are not read again.
struct Touched<'r> {
    /// When the record was written.
    written: u64,
    stamps: Vec<(&'r Stamp, Stamp)>,
}

impl<'r> Touched<'r> {
    /// Whether a file is as its stamp says; nothing if it is gone.
    fn is_same(&mut self, path: &Path, stamp: &'r Stamp) -> Option<bool> {
        match Stamp::compare(stamp, path, self.written) {
            Seen::Same => Some(true),
            Seen::Touched(new) => {
                self.stamps.push((stamp, new));
                Some(true)
            }
            Seen::Other => Some(false),
            Seen::Gone => None,
        }
    }

    /// The stamp as it is today.
    fn renewed(&self, old: &Stamp) -> Stamp {
        self.stamps.iter().find(|(s, _)| std::ptr::eq(*s, old)).map_or_else(|| old.clone(), |t| t.1.clone())
    }
}

/// A file against its stamp.
pub(crate) enum Seen {
    Same,
    /// The same contents with another time.
    Touched(Stamp),
    Other,
    Gone,
}

impl Stamp {
    fn of(path: &Path) -> Option<Self> {
        let about = std::fs::metadata(path).ok()?;
        let bytes = read_bounded(path, MAX_PICTURE).ok()?;
        Some(Self { digest: digest(&bytes), ..Self::about(&about) })
    }

    /// The stamp of a file that was just written with these bytes.
    pub(crate) fn with_content(path: &Path, bytes: &[u8]) -> Option<Self> {
        Some(Self { digest: digest(bytes), ..Self::about(&std::fs::symlink_metadata(path).ok()?) })
    }

    fn about(about: &Metadata) -> Self {
        let time = about.modified().map_or(0, nanoseconds);
        Self { size: about.len(), time, node: node(about), digest: String::new() }
    }

    /// `written` is when the record was.
    pub(crate) fn compare(&self, path: &Path, written: u64) -> Seen {
        let Ok(about) = std::fs::symlink_metadata(path) else { return Seen::Gone };
        let now = Self::about(&about);
        let is_same = (now.size, now.time, now.node) == (self.size, self.time, self.node);
        if is_same && now.time.saturating_add(RACY.as_nanos() as u64) < written {
            return Seen::Same;
        }
        match Self::of(path) {
            Some(now) if now.digest == self.digest => Seen::Touched(now),
            Some(_) => Seen::Other,
            None => Seen::Gone,
        }
    }
}

pub(crate) fn nanoseconds(time: SystemTime) -> u64 {
    time.duration_since(UNIX_EPOCH).map_or(0, |d| u64::try_from(d.as_nanos()).unwrap_or(u64::MAX))
}

/// What tells the content of a file from others: SHA-256, in hexadecimal digits.
pub fn digest(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record_folder::{FOLDER, Lock};
    use bathygram_core::jobs::OneByOne;

    fn project() -> (tempfile::TempDir, Project) {
        let folder = tempfile::tempdir().expect("a folder");
        let project = Project::find(folder.path()).expect("a project");
        std::fs::create_dir(project.pictures()).expect("made");
        for (name, text) in [("a.bathy", "flow a"), ("b.bathy", "look"), ("pictures/a.svg", "<svg/>")] {
            std::fs::write(project.root.join(name), text).expect("written");
        }
        (folder, project)
    }

    fn noted(project: &Project) -> Record {
        std::thread::sleep(2 * RACY);
        let mut record = Record::open(project, Purpose::Build).expect("opened");
        let made = Made { name: "a.bathy", uses: vec!["b.bathy"], pictures: vec![("a", 1)] };
        record.note(project, &[made], &OneByOne);
        record.save(project);
        Record::open(project, Purpose::Build).expect("opened")
    }

    fn look(record: &mut Record, project: &Project) -> Result<String, Reason> {
        let mut seen = record.look(project, &["a.bathy".to_owned()], &OneByOne);
        seen.remove(0).map(|entry| entry.pictures().map(|p| p.0).collect())
    }

    #[test]
    fn what_changed_is_seen_by_contents() {
        let (_folder, project) = project();
        let write = |name: &str, text: &str| std::fs::write(project.root.join(name), text).expect("written");
        assert_eq!(look(&mut Record::open(&project, Purpose::Build).expect("opened"), &project), Err(Reason::New));
        assert_eq!(look(&mut noted(&project), &project), Ok("a".to_owned()));
        // Written again with the same size, at once: the times may be the same.
        let mut record = noted(&project);
        write("a.bathy", "flow b");
        assert_eq!(look(&mut record, &project), Err(Reason::Text));
        write("a.bathy", "flow a");
        assert!(look(&mut record, &project).is_ok(), "the same contents with another time");
        write("b.bathy", "kool");
        assert_eq!(look(&mut record, &project), Err(Reason::Used));
        write("b.bathy", "look");
        write("pictures/a.svg", "<gvs/>");
        assert_eq!(look(&mut record, &project), Err(Reason::Edited));
        std::fs::remove_file(project.pictures().join("a.svg")).expect("removed");
        assert_eq!(look(&mut record, &project), Err(Reason::Missing));
        std::fs::write(project.root.join("bathygram.toml"), "keep = true\n").expect("written");
        assert_eq!(
            look(&mut Record::open(&project, Purpose::Build).expect("opened"), &project),
            Err(Reason::New),
            "another config"
        );
    }

    #[test]
    fn a_damaged_record_is_no_record() {
        let (_folder, project) = project();
        noted(&project);
        let path = project.root.join(FOLDER).join("record.json");
        let whole = std::fs::read(&path).expect("there");
        for part in [&whole[..whole.len() / 2], b"[]", b""] {
            std::fs::write(&path, part).expect("written");
            assert_eq!(look(&mut Record::open(&project, Purpose::Build).expect("opened"), &project), Err(Reason::New));
        }
    }

    #[test]
    fn one_build_at_a_time() {
        let (_folder, project) = project();
        let take = |patience| Lock::take(&project, Duration::from_millis(patience), || {});
        let first = take(0).expect("free");
        assert!(matches!(take(50), Err(Error::Busy { .. })));
        let (told, hears) = std::sync::mpsc::channel();
        std::thread::scope(|scope| {
            let second = scope.spawn(|| {
                Lock::take(&project, Duration::from_secs(60), move || told.send(()).expect("heard"))
                    .map(|l| l.is_some())
            });
            hears.recv().expect("the second one waits");
            drop(first);
            assert!(second.join().expect("ended").expect("free again"));
        });
        let ignored = std::fs::read_to_string(project.root.join(".bathygram/.gitignore")).expect("there");
        assert_eq!(ignored, "*\n");
    }
}
