//! A bar that appears when reading takes longer than a second.

use crate::session::Voice;
use indicatif::{ProgressBar, ProgressStyle};
use std::fs::File;
use std::io::Read;
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
