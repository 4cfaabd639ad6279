//! What all requests share: the project, the texts that an editor has open, studios for themes, pages and events.

use crate::events::Events;
use crate::export::Export;
use crate::guard::Guard;
use crate::pages::Pages;
use crate::{Editor, Options, files};
use bathygram_core::pipeline::{self, Reading, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_host::{Disk, Edited, Project, Threads};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError, RwLock};

/// This many themes are kept ready.
const STUDIOS: usize = 8;

/// What all requests share.
pub(crate) struct Shared {
    pub(crate) guard: Guard,
    pub(crate) nonce: String,
    pub(crate) events: Events,
    pub(crate) pages: Pages,
    pub(crate) export: Export,
    pub(crate) starters: Vec<(&'static str, &'static str)>,
    pub(crate) only: Vec<PathBuf>,
    pub(crate) editor: Option<Editor>,
    project: RwLock<Arc<Project>>,
    open: RwLock<Arc<BTreeMap<PathBuf, String>>>,
    studios: Mutex<Vec<(String, Arc<Set>)>>,
}

/// A project in a theme, and the studio that draws in it.
pub(crate) struct Set {
    pub(crate) project: Project,
    pub(crate) studio: Studio,
}

impl Shared {
    pub(crate) fn new(options: Options, guard: Guard) -> Self {
        let mut bytes = [0_u8; 12];
        // Whoever has the token has random numbers; a nonce of zeros would only let styles in.
        let _ = getrandom::fill(&mut bytes);
        Self {
            guard,
            nonce: bytes.iter().map(|byte| format!("{byte:02x}")).collect(),
            events: Events::default(),
            pages: Pages::default(),
            export: options.export,
            starters: options.starters,
            editor: options.editor,
            only: options.only.iter().map(|path| std::path::absolute(path).unwrap_or_else(|_| path.clone())).collect(),
            project: RwLock::new(Arc::new(rooted(options.project))),
            open: RwLock::default(),
            studios: Mutex::default(),
        }
    }

    /// The project as it is now.
    pub(crate) fn project(&self) -> Arc<Project> {
        self.project.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Reads the config again, which may have changed; one with an error changes nothing.
    pub(crate) fn reload(&self) {
        let root = self.project().root.clone();
        if !root.join("bathygram.toml").is_file() {
            return;
        }
        if let Ok(project) = Project::find(&root) {
            *self.project.write().unwrap_or_else(PoisonError::into_inner) = Arc::new(rooted(project));
            self.studios.lock().unwrap_or_else(PoisonError::into_inner).clear();
        }
    }

    /// Sets the texts that an editor has open; says whether they are others than before.
    pub(crate) fn set_open(&self, texts: BTreeMap<PathBuf, String>) -> bool {
        let mut open = self.open.write().unwrap_or_else(PoisonError::into_inner);
        let is_new = **open != texts;
        if is_new {
            *open = Arc::new(texts);
        }
        is_new
    }

    /// The texts that an editor has open.
    pub(crate) fn open(&self) -> Arc<BTreeMap<PathBuf, String>> {
        self.open.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// The project in a theme, or in its own.
    ///
    /// # Errors
    /// If there is no such theme.
    pub(crate) fn set(&self, theme: Option<&str>) -> Result<Arc<Set>, String> {
        let key = theme.unwrap_or_default();
        let mut studios = self.studios.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, set)) = studios.iter().find(|(own, _)| own == key) {
            return Ok(set.clone());
        }
        let project = Project::clone(&self.project());
        let project = match theme {
            Some(words) => project.in_themes(words).map_err(|why| why.to_string())?,
            None => project,
        };
        let studio =
            Studio::with_jobs(Box::new(Threads::all())).in_themes(&project.themes).in_language(&project.language);
        let set = Arc::new(Set { project, studio });
        if studios.len() >= STUDIOS {
            studios.remove(0);
        }
        studios.push((key.to_owned(), set.clone()));
        Ok(set)
    }

    /// Reads a text in the place of a file; `None` once `stop` says that nobody waits for it any more.
    pub(crate) fn read_unless(
        &self, project: &Project, file: &str, text: String, stop: &dyn Fn() -> bool,
    ) -> Option<Reading> {
        self.setting(project, file, |setting| {
            pipeline::read_unless(Source::new(file, text), &files::stem(file), setting, stop)
        })
    }

    /// Reads a text in the place of a file.
    pub(crate) fn read(&self, project: &Project, file: &str, text: String) -> Reading {
        self.setting(project, file, |setting| pipeline::read(Source::new(file, text), &files::stem(file), setting))
    }

    /// Reads with the files around a file, as they are in the editor.
    fn setting<T>(&self, project: &Project, file: &str, read: impl FnOnce(&Setting<'_>) -> T) -> T {
        let texts = self.open();
        let open = |path: &Path| texts.get(path).cloned();
        let path = project.root.join(file);
        let world = Edited { disk: Disk::around(project, &path), root: project.root.clone(), open: &open };
        read(&Setting { world: &world, levels: &project.levels, look: &project.look })
    }
}

/// A project whose folder is an absolute path: files are found by their paths below it.
fn rooted(project: Project) -> Project {
    let root = std::path::absolute(&project.root).unwrap_or_else(|_| project.root.clone());
    Project { root, ..project }
}
