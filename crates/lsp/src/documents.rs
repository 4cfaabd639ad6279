//! The texts that a client has open, read together with what is on disk.

use crate::convert;
use crate::text::Encoding;
use bathygram_core::pipeline::{self, Reading, Setting};
use bathygram_core::source::Source;
use bathygram_core::source::world::{Unopened, World};
use bathygram_host::{Disk, Project, read_source};
use lsp_types::{TextDocumentContentChangeEvent, Uri};
use std::cell::RefCell;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::rc::Rc;

/// A text that is open.
struct Opened {
    uri: Uri,
    version: i32,
    text: String,
}

/// The texts that are open, by their paths, and the folders of the client.
pub(crate) struct Documents {
    open: BTreeMap<PathBuf, Opened>,
    folders: Vec<PathBuf>,
    /// Where files belong that are in none of them.
    outside: PathBuf,
    /// What was read since the last change.
    read: RefCell<BTreeMap<PathBuf, Rc<Reading>>>,
}

impl Documents {
    pub(crate) fn new(folders: Vec<PathBuf>, outside: PathBuf) -> Self {
        Self { open: BTreeMap::new(), folders, outside, read: RefCell::default() }
    }

    pub(crate) fn open(&mut self, uri: &Uri, version: i32, text: String) {
        if let Some(path) = convert::path(uri) {
            self.open.insert(path, Opened { uri: uri.clone(), version, text });
        }
        self.read.borrow_mut().clear();
    }

    /// Changes a text: pieces of it, one after the other, or all of it.
    pub(crate) fn change(
        &mut self, uri: &Uri, version: i32, changes: Vec<TextDocumentContentChangeEvent>, encoding: Encoding,
    ) {
        let opened = convert::path(uri).and_then(|path| self.open.get_mut(&path));
        let Some(opened) = opened else { return };
        opened.version = version;
        for change in changes {
            match change.range {
                None => opened.text = change.text,
                Some(range) => {
                    let start = encoding.byte(&opened.text, range.start);
                    let end = encoding.byte(&opened.text, range.end).max(start);
                    opened.text.replace_range(start..end, &change.text);
                }
            }
        }
        self.read.borrow_mut().clear();
    }

    pub(crate) fn close(&mut self, uri: &Uri) {
        convert::path(uri).iter().for_each(|path| _ = self.open.remove(path));
        self.read.borrow_mut().clear();
    }

    pub(crate) fn folders(&mut self, added: &[PathBuf], removed: &[PathBuf]) {
        self.folders.retain(|folder| !removed.contains(folder));
        self.folders.extend(added.iter().cloned());
    }

    /// The texts that are open, with their versions.
    pub(crate) fn opened(&self) -> Vec<(Uri, i32)> {
        self.open.values().map(|opened| (opened.uri.clone(), opened.version)).collect()
    }

    /// A file, read: as it is open, else as it is on disk.
    pub(crate) fn reading(&self, path: &Path) -> Option<Rc<Reading>> {
        if let Some(known) = self.read.borrow().get(path) {
            return Some(known.clone());
        }
        let project = self.project(path);
        let text = match self.open.get(path) {
            Some(opened) => opened.text.clone(),
            None => read_source(path).ok()?,
        };
        let name = project.shown(path);
        let stem = path.file_stem().map_or_else(|| "diagram".to_owned(), |stem| stem.to_string_lossy().into_owned());
        let world = Edited { disk: Disk::around(&project, path), documents: self, root: project.root.clone() };
        let setting = Setting { world: &world, levels: &project.levels, look: &project.look };
        let reading = Rc::new(pipeline::read(Source::new(name, text), &stem, &setting));
        self.read.borrow_mut().insert(path.to_owned(), reading.clone());
        Some(reading)
    }

    /// The project around a file; one whose config has an error is as one without.
    fn project(&self, path: &Path) -> Project {
        let folder = path.parent().unwrap_or(&self.outside);
        let around = self.folders.iter().find(|own| folder.starts_with(own)).map_or(folder, PathBuf::as_path);
        let found = Project::find(folder).ok().filter(|project| project.root.join("bathygram.toml").is_file());
        found.unwrap_or_else(|| Project::without_config(around))
    }

    /// Every file of the project around a file, read, that file first.
    pub(crate) fn around(&self, path: &Path) -> Vec<(PathBuf, Rc<Reading>)> {
        let mut paths = vec![path.to_owned()];
        let project = self.project(path);
        let others = project.sources().into_iter().chain(self.open.keys().cloned());
        for other in others.map(|other| std::path::absolute(&other).unwrap_or(other)) {
            if !paths.contains(&other) && other.starts_with(&project.root) {
                paths.push(other);
            }
        }
        paths.into_iter().filter_map(|path| Some((path.clone(), self.reading(&path)?))).collect()
    }

    /// Every file of all folders, read.
    pub(crate) fn all(&self) -> Vec<(PathBuf, Rc<Reading>)> {
        let starts = self.folders.iter().map(|folder| folder.join("a")).chain(self.open.keys().cloned());
        // Texts of one project have the same files around them.
        let starts: BTreeMap<PathBuf, PathBuf> = starts.map(|start| (self.project(&start).root, start)).collect();
        starts.values().flat_map(|start| self.around(start)).collect::<BTreeMap<_, _>>().into_iter().collect()
    }

    /// The path of a file by its name in the project of another.
    pub(crate) fn path_of(&self, name: &str, beside: &Path) -> PathBuf {
        self.project(beside).root.join(name)
    }
}

/// The files of a project as they are open, else as they are on disk.
struct Edited<'a> {
    disk: Disk,
    documents: &'a Documents,
    root: PathBuf,
}

impl World for Edited<'_> {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        match self.documents.open.get(&self.root.join(name)) {
            Some(opened) => Ok(opened.text.clone()),
            None => self.disk.text(name),
        }
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        self.disk.bytes(name)
    }
}
