//! A bar that appears when reading takes longer than a second: of one file, or of many.

use crate::session::Voice;
use bathygram_host::SourceTree;
use bathygram_readers::code::Tree;
use indicatif::{ProgressBar, ProgressStyle};
use std::fs::File;
use std::io::Read;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

/// A file that is being read.
pub(super) struct Watched {
    file: File,
    start: Instant,
    read: u64,
    bar: Option<ProgressBar>,
    is_shown: bool,
}

impl Watched {
    pub(super) fn new(file: File, voice: Voice) -> Self {
        Self { file, start: Instant::now(), read: 0, bar: None, is_shown: voice.shows_progress() }
    }
}

impl Read for Watched {
    fn read(&mut self, out: &mut [u8]) -> std::io::Result<usize> {
        let n = self.file.read(out)?;
        self.read += n as u64;
        if self.is_shown && self.start.elapsed() > Duration::from_secs(1) {
            let file = &self.file;
            let bar = self.bar.get_or_insert_with(|| {
                let bar = ProgressBar::new(file.metadata().map_or(0, |about| about.len()));
                let style = ProgressStyle::with_template("{bytes} of {total_bytes} read, {eta} left {wide_bar}");
                if let Ok(style) = style { bar.with_style(style) } else { bar }
            });
            bar.set_position(self.read);
        }
        Ok(n)
    }
}

impl Drop for Watched {
    fn drop(&mut self) {
        if let Some(bar) = &self.bar {
            bar.finish_and_clear();
        }
    }
}

/// A folder of source files that are being read, by several threads.
pub(crate) struct WatchedTree {
    pub(crate) tree: SourceTree,
    start: Instant,
    read: AtomicU64,
    is_shown: bool,
    bar: Mutex<Option<ProgressBar>>,
}

impl WatchedTree {
    pub(crate) fn new(tree: SourceTree, voice: Voice) -> Self {
        let (read, bar) = (AtomicU64::new(0), Mutex::new(None));
        Self { tree, start: Instant::now(), read, is_shown: voice.shows_progress(), bar }
    }
}

impl Tree for WatchedTree {
    fn files(&self) -> &[String] {
        &self.tree.files
    }

    fn read(&self, file: usize) -> Result<Vec<u8>, String> {
        let read = self.read.fetch_add(1, Ordering::Relaxed);
        if self.is_shown && read.is_multiple_of(64) && self.start.elapsed() > Duration::from_secs(1) {
            let mut bar = self.bar.lock().unwrap_or_else(PoisonError::into_inner);
            let bar = bar.get_or_insert_with(|| {
                let bar = ProgressBar::new(self.tree.files.len() as u64);
                let style = ProgressStyle::with_template("{pos} of {len} files looked at {wide_bar}");
                if let Ok(style) = style { bar.with_style(style) } else { bar }
            });
            // The place in the list of files tells more than how many were source code.
            bar.set_position(bar.position().max(file as u64));
        }
        self.tree.read(file)
    }

    fn name(&self) -> &str {
        &self.tree.name
    }

    fn shown(&self, path: &str) -> String {
        self.tree.shown(path)
    }
}

impl Drop for WatchedTree {
    fn drop(&mut self) {
        if let Some(bar) = self.bar.get_mut().unwrap_or_else(PoisonError::into_inner) {
            bar.finish_and_clear();
        }
    }
}
