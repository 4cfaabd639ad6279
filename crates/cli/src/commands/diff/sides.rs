//! Reading two versions of a project: from git only the files that changed, and those that take from them.

use super::words::{self, Meant};
use crate::outcome::{Failure, Result};
use crate::session;
use bathygram_core::pipeline::Reading;
use bathygram_core::source::conflict::{Choice, conflicts, side};
use bathygram_host::{
    Blob, Changed, Disk, Format, Found, Git, InVersion, MAX_SETTINGS, MAX_SOURCE, Project, Seen, Version, is_document,
    looks_in,
};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// One version of all the files that are compared.
#[derive(Default)]
pub(super) struct Side {
    pub(super) name: String,
    /// The full name of its commit, if it is one.
    pub(super) commit: Option<String>,
    pub(super) readings: Vec<Reading>,
}

impl Side {
    /// The files with errors.
    pub(super) fn faulty(&self) -> BTreeSet<&str> {
        self.readings.iter().filter(|r| r.has_errors()).map(|r| r.source.name.as_str()).collect()
    }
}

/// Two versions.
#[derive(Default)]
pub(super) struct Compared {
    pub(super) from: Side,
    pub(super) to: Side,
    /// Files of the newer version whose merge is not finished.
    pub(super) conflicts: Vec<Conflict>,
    /// Files that could not be read, and why.
    pub(super) unread: Vec<String>,
    /// What the config says otherwise about the looks of all pictures: the key, what it said, and what it says.
    pub(super) looks: Vec<(String, Option<String>, Option<String>)>,
    /// Only pictures of these names, if there are any.
    pub(super) pictures: Vec<String>,
}

/// A file with two sides that are not merged.
pub(super) struct Conflict {
    pub(super) file: String,
    pub(super) ours: Side,
    pub(super) theirs: Side,
}

impl Conflict {
    /// The two sides of a text; `None` if it has no conflict.
    pub(super) fn of_text(project: &Project, path: &Path, text: &str) -> Option<Self> {
        let found = conflicts(text);
        let first = found.first()?;
        let named = |name: &str, usual: &str| if name.is_empty() { usual.to_owned() } else { name.to_owned() };
        let (ours, theirs) = (named(&first.ours, "our side"), named(&first.theirs, "their side"));
        let texts = [Some(side(text, Choice::Ours)), Some(side(text, Choice::Theirs))];
        Self::of_sides(project, path, texts, [ours, theirs])
    }

    /// Two sides of a file; `None` where one is too large, as the file is then.
    fn of_sides(project: &Project, path: &Path, texts: [Option<String>; 2], names: [String; 2]) -> Option<Self> {
        let file = project.shown(path);
        let world = Disk::around(project, path);
        let read = |text| session::read_texts(project, &file, text, &world).ok();
        let [ours, theirs] = texts.map(|text| text.map_or(Some(Vec::new()), read));
        let [name, other] = names;
        let ours = Side { name, commit: None, readings: ours? };
        Some(Self { file, ours, theirs: Side { name: other, commit: None, readings: theirs? } })
    }
}

/// Reads the two versions that the words name.
///
/// # Errors
/// If the words name none, or git fails.
pub(super) fn read(project: &Project, words: &[String], newer: Version) -> Result<Compared> {
    let is_file = |w: &String| Path::new(w).is_file() || w == "-";
    if let [a, b] = words
        && is_file(a)
        && is_file(b)
        && newer != Version::Index
    {
        if a == "-" && b == "-" {
            return Err(Failure::Usage("standard input is one source: name a file beside `-`".into()));
        }
        return of_files(project, [a, b]);
    }
    let folder = std::path::absolute(&project.root)?;
    let git = Git::find(&folder).map_err(|e| anyhow::anyhow!("{e}; `diff OLD-FILE NEW-FILE` needs no repository"))?;
    let Meant { from, to, paths, pictures } = words::read(&git, words, newer)?;
    let repository = Repository::around(project, &git)?;
    let paths = paths.iter().map(|f| repository.inside(f)).collect::<Result<Vec<PathBuf>>>()?;
    let versions = [&from.0, &to.0];
    let mut changed = git.changed(versions)?;
    changed.extend(repository.takers(versions, &changed));
    let is_known = |f: &PathBuf| changed.iter().flat_map(|c| [&c.old, &c.new]).flatten().any(|b| b.path.starts_with(f));
    if let Some(odd) = paths.iter().find(|f| !git.top.join(f).exists() && !is_known(f)) {
        return Err(Failure::Usage(format!("`{}` is no file, here or in what is compared", odd.seen())));
    }
    if let Some(other) = paths.iter().find(|f| !git.is_bare && git.top.join(f).is_file() && !is_source(f)) {
        return Err(Failure::Usage(format!(
            "`{}` holds no diagrams; name sources, documents, folders, or pictures by their names",
            other.seen()
        )));
    }
    let is_named = |path: &Path| paths.is_empty() || paths.iter().any(|f| path.starts_with(f));
    changed.retain(|c| {
        let all = || [&c.old, &c.new].into_iter().flatten();
        all().all(|b| is_source(&b.path)) && all().any(|b| is_named(&b.path) && repository.owns(&b.path))
    });
    let mut compared = Compared { pictures, ..Compared::default() };
    if to.0 == Version::WorkingTree || to.0 == Version::Index {
        compared.conflicts = repository.conflicts(&mut changed, to.0 == Version::WorkingTree);
    }
    if paths.is_empty() && compared.pictures.is_empty() {
        compared.looks = repository.looks(versions);
    }
    compared.from = repository.side(from, Which::Old, &changed, &mut compared.unread)?;
    compared.to = repository.side(to, Which::New, &changed, &mut compared.unread)?;
    repository.check_names(&compared)?;
    Ok(compared)
}

/// What can hold diagrams, by its ending.
fn is_source(path: &Path) -> bool {
    path.extension().is_some_and(|e| e == "bathy") || is_document(path)
}

/// Two files: texts, documents, or pictures, of which the sources are compared.
fn of_files(project: &Project, files: [&String; 2]) -> Result<Compared> {
    let mut compared = Compared::default();
    let mut sides = Vec::new();
    for name in files {
        let path = Path::new(name);
        let readings = if Format::of(path).is_some() {
            let recovered = session::recovered(path)?;
            let file = recovered.file.unwrap_or_else(|| "picture.bathy".to_owned());
            let texts = vec![session::read_text(project, &file, recovered.text, &Disk::around(project, path))];
            let drawn = recovered.name;
            compared.pictures.extend(drawn.filter(|_| texts.iter().all(|t| t.pictures().count() > 1)));
            texts
        } else if name == "-" || is_source(path) || path.extension().is_none_or(|e| e != "svg") {
            session::open_texts(project, path)?
        } else {
            Vec::new()
        };
        sides.push(Side { name: name.clone(), commit: None, readings });
    }
    compared.to = sides.pop().unwrap_or_default();
    compared.from = sides.pop().unwrap_or_default();
    compared.pictures.dedup();
    Ok(compared)
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
    /// The project's folder, relative to the repository.
    folder: PathBuf,
}

impl<'a> Repository<'a> {
    fn around(project: &'a Project, git: &'a Git) -> Result<Self> {
        let root = std::path::absolute(&project.root)?;
        let root = root.canonicalize().unwrap_or(root);
        let folder = root.strip_prefix(git.top.canonicalize()?).map(PathBuf::from).unwrap_or_default();
        Ok(Self { project, git, folder })
    }

    /// A file's path relative to the repository, also of one that is gone.
    fn inside(&self, file: &Path) -> Result<PathBuf> {
        let path = std::path::absolute(file)?;
        let folder = path.parent().unwrap_or(Path::new("/"));
        let full = match path.file_name() {
            Some(name) => folder.canonicalize().unwrap_or(folder.to_owned()).join(name),
            None => path.canonicalize()?,
        };
        let top = self.git.top.canonicalize()?;
        let relative = full
            .strip_prefix(&top)
            .map_err(|_| Failure::Usage(format!("{} is not in the repository {}", file.seen(), top.seen())))?;
        Ok(relative.to_owned())
    }

    /// Whether a file, by its path in the repository, belongs to the project.
    fn owns(&self, path: &Path) -> bool {
        path.starts_with(&self.folder) && (self.git.is_bare || self.project.owns(&self.git.top.join(path)))
    }

    /// What the config, and the files that it names, say otherwise about the looks of all pictures.
    fn looks(&self, versions: [&Version; 2]) -> Vec<(String, Option<String>, Option<String>)> {
        let read = |version: &Version, name: &str| -> Option<String> {
            // A name that leads out of the project is no file of it.
            let path = self.folder.join(name);
            let is_inside = path.components().all(|c| matches!(c, std::path::Component::Normal(_)));
            if !is_inside {
                return None;
            }
            match self.git.bytes(version, &path, MAX_SETTINGS) {
                Found::Bytes(bytes) => String::from_utf8(bytes).ok(),
                Found::TooLarge | Found::Nothing => None,
            }
        };
        let [then, now] = versions.map(|v| looks_in(&read(v, "bathygram.toml").unwrap_or_default()));
        let keys: BTreeSet<&str> = then.keys().chain(now.keys()).copied().collect();
        let mut found = Vec::new();
        for key in keys {
            let (old, new) = (then.get(key), now.get(key));
            if old != new {
                found.push((key.to_owned(), old.cloned(), new.cloned()));
                continue;
            }
            let files = new.into_iter().flat_map(|value| value.split('+')).filter(|word| word.ends_with(".toml"));
            let changed = files.filter(|file| read(versions[0], file) != read(versions[1], file));
            found.extend(changed.map(|file| (file.to_owned(), None, None)));
        }
        found
    }

    /// Files that did not change, but take from files that did, directly or through others.
    fn takers(&self, [from, to]: [&Version; 2], changed: &[Changed]) -> Vec<Changed> {
        let paths = |c: &Changed| [&c.old, &c.new].into_iter().flatten().map(|b| b.path.clone()).collect::<Vec<_>>();
        let mut known: BTreeSet<PathBuf> = changed.iter().flat_map(paths).collect();
        let name = |p: &PathBuf| p.file_name().map(|n| n.to_string_lossy().into_owned());
        // Pictures that texts were drawn into are taken by nobody.
        let pictures = self.folder.join(&self.project.config.pictures);
        let mut names: BTreeSet<String> = known.iter().filter(|p| !p.starts_with(&pictures)).filter_map(name).collect();
        let mut found = Vec::new();
        while !names.is_empty() {
            let asked: Vec<String> = std::mem::take(&mut names).into_iter().collect();
            let there = self.git.files_with(to, &asked).into_iter();
            for path in there.chain(self.git.files_with(from, &asked)) {
                if known.insert(path.clone()) {
                    names.extend(name(&path));
                    let blob = Some(Blob { path, id: None });
                    found.push(Changed { old: blob.clone(), new: blob });
                }
            }
        }
        found
    }

    /// Files whose merge is not finished, taken out of those that changed.
    fn conflicts(&self, changed: &mut Vec<Changed>, is_tree: bool) -> Vec<Conflict> {
        let mut found = Vec::new();
        let unmerged: BTreeSet<PathBuf> = self.git.unmerged().into_iter().collect();
        changed.retain(|c| {
            let Some(blob) = &c.new else { return true };
            let path = self.git.top.join(&blob.path);
            let text = is_tree.then(|| bathygram_host::read_source(&path).ok()).flatten();
            let marked = text.and_then(|text| Conflict::of_text(self.project, &path, &text));
            let conflict = marked.or_else(|| {
                let stage = |n: u8| {
                    let name = format!(":{n}:{}", blob.path.to_string_lossy());
                    match self.git.contents(std::slice::from_ref(&name), MAX_SOURCE).ok()?.remove(&name)? {
                        Found::Bytes(bytes) => String::from_utf8(bytes).ok(),
                        Found::TooLarge | Found::Nothing => None,
                    }
                };
                let names = ["our side".to_owned(), "their side".to_owned()];
                let is_unmerged = unmerged.contains(&blob.path);
                let stages = || [stage(2), stage(3)];
                if is_unmerged { Conflict::of_sides(self.project, &path, stages(), names) } else { None }
            });
            let is_whole = conflict.is_none();
            found.extend(conflict);
            is_whole
        });
        found
    }

    fn side(
        &self, (version, name): (Version, String), which: Which, changed: &[Changed], unread: &mut Vec<String>,
    ) -> Result<Side> {
        let blobs = changed.iter().filter_map(|c| match which {
            Which::Old => c.old.as_ref(),
            Which::New => c.new.as_ref(),
        });
        let blobs: Vec<(&Blob, Option<String>)> = blobs.map(|b| (b, Self::name_of(&version, b))).collect();
        let names: Vec<String> = blobs.iter().filter_map(|(_, name)| name.clone()).collect();
        let contents = if names.is_empty() { Default::default() } else { self.git.contents(&names, MAX_SOURCE)? };
        let world = InVersion { git: self.git, version: &version, folder: self.folder.clone() };
        let mut readings = Vec::new();
        for (blob, blob_name) in blobs {
            let path = self.git.top.join(&blob.path);
            let bytes = match blob_name {
                // Files that a version lacks are simply not there.
                Some(blob_name) => contents.get(&blob_name),
                None if path.is_file() => {
                    match session::open_texts(self.project, &path) {
                        Ok(texts) => readings.extend(texts),
                        Err(why) => unread.push(format!("{name}: {why}")),
                    }
                    continue;
                }
                None => None,
            };
            match bytes {
                None | Some(Found::Nothing) => {}
                Some(Found::TooLarge) => unread.push(format!("{name}: {} is larger than 16 MiB", blob.path.seen())),
                Some(Found::Bytes(bytes)) => match String::from_utf8(bytes.clone()) {
                    Ok(text) => match session::read_texts(self.project, &self.project.shown(&path), text, &world) {
                        Ok(texts) => readings.extend(texts),
                        Err(why) => unread.push(format!("{name}: {why}")),
                    },
                    Err(_) => unread.push(format!("{name}: {} is not UTF-8 text", blob.path.seen())),
                },
            }
        }
        let commit = if let Version::Revision(id) = version { Some(id) } else { None };
        Ok(Side { name, commit, readings })
    }

    /// What git calls the contents of a file; `None` in the working tree.
    fn name_of(version: &Version, blob: &Blob) -> Option<String> {
        let path = blob.path.to_string_lossy();
        match version {
            Version::WorkingTree => None,
            Version::Index => Some(blob.id.clone().unwrap_or_else(|| format!(":{path}"))),
            Version::Revision(id) => Some(blob.id.clone().unwrap_or_else(|| format!("{id}:{path}"))),
        }
    }

    /// Whether each picture that was named is there, changed or not.
    fn check_names(&self, compared: &Compared) -> Result<()> {
        let is_in = |side: &Side, name: &str| side.readings.iter().any(|r| r.pictures().any(|p| p.name == name));
        let conflicts = || compared.conflicts.iter().flat_map(|c| [&c.ours, &c.theirs]);
        let is_there =
            |name: &str| [&compared.from, &compared.to].into_iter().chain(conflicts()).any(|s| is_in(s, name));
        let Some(odd) = compared.pictures.iter().find(|name| !is_there(name)) else { return Ok(()) };
        let paths = self.project.texts()?;
        let unchanged = paths.iter().filter_map(|path| session::open_texts(self.project, path).ok()).flatten();
        let names: BTreeSet<String> =
            unchanged.flat_map(|r| r.pictures().map(|p| p.name.to_owned()).collect::<Vec<_>>()).collect();
        match compared.pictures.iter().find(|name| !is_there(name) && !names.contains(*name)) {
            None => Ok(()),
            Some(_) => Err(Failure::Usage(format!("`{odd}` is no revision, file, folder or picture"))),
        }
    }
}
