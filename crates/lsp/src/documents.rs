//! The texts that a client has open, read together with what is on disk.

use crate::convert;
use crate::pieces::{self, Piece};
use crate::text::Encoding;
use bathygram_core::pipeline::{self, Setting};
use bathygram_core::source::Source;
use bathygram_host::{Disk, Edited, Project, is_document, read_source};
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
    read: RefCell<BTreeMap<PathBuf, Vec<Piece>>>,
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

    /// The texts of a file, read: as it is open, else as it is on disk. A source is one; a Markdown document has blocks.
    pub(crate) fn pieces(&self, path: &Path) -> Option<Vec<Piece>> {
        self.pieces_unless(path, &|| false)
    }

    /// The same, until `stop` says that nobody waits for it any more.
    pub(crate) fn pieces_unless(&self, path: &Path, stop: &dyn Fn() -> bool) -> Option<Vec<Piece>> {
        if let Some(known) = self.read.borrow().get(path) {
            return Some(known.clone());
        }
        let project = self.project(path);
        let text = match self.open.get(path) {
            Some(opened) => opened.text.clone(),
            None => read_source(path).ok()?,
        };
        let name = project.shown(path);
        let open = |path: &Path| self.open.get(path).map(|opened| opened.text.clone());
        let world = Edited { disk: Disk::around(&project, path), root: project.root.clone(), open: &open };
        let setting = Setting { world: &world, levels: &project.levels, look: &project.look };
        let found = if is_document(path) {
            let blocks = pieces::blocks(path, &text).into_iter();
            let read = |block: pieces::Unread| {
                // Each block is a text of its own: what is meant in one is not meant in another.
                let source = Source::new(format!("{name}:{}", block.stem), block.text);
                let reading = pipeline::read_unless(source, &block.stem, &setting, stop)?;
                Some(Piece::block(path.to_owned(), reading, block.place))
            };
            blocks.map(read).collect::<Option<Vec<Piece>>>()?
        } else {
            let stem =
                path.file_stem().map_or_else(|| "diagram".to_owned(), |stem| stem.to_string_lossy().into_owned());
            let reading = pipeline::read_unless(Source::new(name, text), &stem, &setting, stop)?;
            vec![Piece::whole(path.to_owned(), Rc::new(reading))]
        };
        self.read.borrow_mut().insert(path.to_owned(), found.clone());
        Some(found)
    }

    /// The project around a file; one whose config has an error is as one without.
    pub(crate) fn project(&self, path: &Path) -> Project {
        let folder = path.parent().unwrap_or(&self.outside);
        let around = self.folders.iter().find(|own| folder.starts_with(own)).map_or(folder, PathBuf::as_path);
        let found = Project::find(folder).ok().filter(|project| project.root.join("bathygram.toml").is_file());
        found.unwrap_or_else(|| Project::without_config(around))
    }

    /// Every text of the project around a file, read, those of that file first. Documents are among them while they are open.
    pub(crate) fn around(&self, path: &Path) -> Vec<Piece> {
        let mut paths = vec![path.to_owned()];
        let project = self.project(path);
        // Where the project cannot be walked there is the file alone: an editor goes on.
        let others = project.sources().unwrap_or_default().into_iter().chain(self.open.keys().cloned());
        for other in others.map(|other| std::path::absolute(&other).unwrap_or(other)) {
            if !paths.contains(&other) && other.starts_with(&project.root) {
                paths.push(other);
            }
        }
        paths.into_iter().filter_map(|path| self.pieces(&path)).flatten().collect()
    }

    /// Every text of all folders, read.
    pub(crate) fn all(&self) -> Vec<Piece> {
        let starts = self.folders.iter().map(|folder| folder.join("a")).chain(self.open.keys().cloned());
        // Texts of one project have the same files around them.
        let starts: BTreeMap<PathBuf, PathBuf> = starts.map(|start| (self.project(&start).root, start)).collect();
        let mut found: BTreeMap<(PathBuf, String), Piece> = BTreeMap::new();
        for piece in starts.values().flat_map(|start| self.around(start)) {
            found.insert((piece.path.clone(), piece.reading.source.name.clone()), piece);
        }
        found.into_values().collect()
    }

    /// The sources that are open, with their texts.
    pub(crate) fn open_sources(&self) -> BTreeMap<PathBuf, String> {
        let sources = self.open.iter().filter(|(path, _)| !is_document(path));
        sources.map(|(path, opened)| (path.clone(), opened.text.clone())).collect()
    }

    /// The path of a file by its name in the project of another.
    pub(crate) fn path_of(&self, name: &str, beside: &Path) -> PathBuf {
        self.project(beside).root.join(name)
    }
}
