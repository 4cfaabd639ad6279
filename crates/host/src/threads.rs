//! Independent work on as many threads as there are cores.

use bathygram_core::jobs::Jobs;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Runs work on this many threads, the calling one included.
#[derive(Clone, Copy, Debug)]
pub struct Threads(usize);

impl Threads {
    /// One for each core.
    pub fn all() -> Self {
        static CORES: OnceLock<usize> = OnceLock::new();
        Self(*CORES.get_or_init(|| std::thread::available_parallelism().map_or(1, usize::from)))
    }

    /// Those that nobody uses while this many pieces of work run at once.
    pub fn beside(self, pieces: usize) -> Self {
        Self((self.0 / pieces.max(1)).max(1))
    }
}

impl Jobs for Threads {
    fn run(&self, count: usize, work: &(dyn Fn(usize) + Sync)) {
        let next = AtomicUsize::new(0);
        let pull = || pull(&next, count, work);
        std::thread::scope(|scope| {
            for _ in 1..self.0.min(count) {
                scope.spawn(pull);
            }
            pull();
        });
    }
}

/// Does the next job that nobody has taken, until all are taken.
fn pull(next: &AtomicUsize, count: usize, work: &(dyn Fn(usize) + Sync)) {
    while let Some(i) = Some(next.fetch_add(1, Ordering::Relaxed)).filter(|i| *i < count) {
        work(i);
    }
}
