//! Waiting for changes in a project. Folders are watched, not files: programs that save by renaming would lose a watched
//! file.

use crate::{Error, Project, is_document};
use notify::event::{AccessKind, EventKind};
use notify::{RecursiveMode, Watcher};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::Duration;

/// After a change, this much silence is waited for: one save is several events.
const SILENCE: Duration = Duration::from_millis(60);
/// But no longer than this many times.
// A program that writes all the time must not keep pictures from being drawn.
const PATIENCE: usize = 20;

/// Watches a project as long as it lives.
pub struct Watch {
    events: Receiver<notify::Result<notify::Event>>,
    _watcher: notify::RecommendedWatcher,
}

impl Watch {
    /// Begins to watch.
    ///
    /// # Errors
    /// If the system cannot watch the folder.
    pub fn begin(project: &Project) -> Result<Self, Error> {
        let failed = |why: notify::Error| Error::Watch { root: project.root.clone(), why: why.to_string() };
        let (sender, events) = channel();
        let mut watcher = notify::recommended_watcher(sender).map_err(failed)?;
        watcher.watch(&project.root, RecursiveMode::Recursive).map_err(failed)?;
        Ok(Self { events, _watcher: watcher })
    }

    /// Waits until something changes that pictures may be made from; says whether anything more can come.
    pub fn wait(&self, project: &Project) -> bool {
        // Pictures, the record and git's own files change while pictures are made.
        let own = [project.pictures(), project.root.join(".bathygram"), project.root.join(".git")];
        loop {
            match self.events.recv() {
                Ok(Ok(event)) if is_change(&event, &own) => break,
                // Events were lost: anything may have changed.
                Ok(Err(_)) => break,
                Ok(Ok(_)) => {}
                Err(_) => return false,
            }
        }
        for _ in 0..PATIENCE {
            if matches!(self.events.recv_timeout(SILENCE), Err(RecvTimeoutError::Timeout)) {
                break;
            }
        }
        true
    }
}

/// Whether a file may go into pictures. In folders of our own only texts do.
fn is_input(path: &Path, own: &[PathBuf]) -> bool {
    let is_text = path.extension().is_some_and(|e| e == "bathy") || is_document(path);
    let is_other = path.extension().is_some_and(|e| e == "toml" || e == "svg" || e == "png");
    is_text || is_other && !own.iter().any(|o| path.starts_with(o))
}

/// Whether an event can change a picture.
fn is_change(event: &notify::Event, own: &[PathBuf]) -> bool {
    let is_read = matches!(event.kind, EventKind::Access(kind) if !matches!(kind, AccessKind::Close(_)));
    // What is renamed as a whole folder has no ending.
    let is_folder = matches!(event.kind, EventKind::Create(_) | EventKind::Remove(_) | EventKind::Modify(_));
    let is_moved = |p: &Path| is_folder && p.extension().is_none() && !own.iter().any(|o| p.starts_with(o));
    !is_read && event.paths.iter().any(|p| is_input(p, own) || is_moved(p))
}
