//! Databases that a user names: how they are reached, and what goes wrong.

#[cfg_attr(not(feature = "databases"), path = "stores/absent.rs")]
mod opened;

use crate::commands::import::open;
use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_readers::database::Catalogue;
use bathygram_readers::rdf::{self, Vocabulary};
use indicatif::ProgressBar;
use std::path::{Path, PathBuf};
use std::sync::mpsc::{RecvTimeoutError, Sender, channel};
use std::thread::JoinHandle;
use std::time::Duration;

/// How a server is reached.
#[derive(clap::Args, Clone, Default)]
pub(crate) struct Access {
    /// The file whose first line is the password
    #[arg(long, value_name = "FILE")]
    pub(crate) password_file: Option<PathBuf>,
    /// How long a server may take to answer
    #[arg(long, value_name = "SECONDS", default_value_t = 30, value_parser = crate::numbers::between(1..=86_400))]
    pub(crate) timeout: u32,
}

/// What is asked of an endpoint.
#[derive(clap::Args, Clone)]
pub(crate) struct Asked {
    /// The named graph of an endpoint that is asked instead of its default one
    #[arg(long, value_name = "IRI")]
    pub(crate) graph: Option<String>,
    /// How many instances of each class an endpoint looks at
    #[arg(long, value_name = "N", default_value_t = 10_000, value_parser = crate::numbers::between(1..=u32::MAX))]
    pub(crate) sample: u32,
}

/// What RDF data is made of: in a file, or at an endpoint.
pub(crate) fn vocabulary(source: &str, only: &[String], how: (&Asked, &Access), voice: Voice) -> Result<Vocabulary> {
    if !source.contains("://") {
        let (path, bytes) = open(Path::new(source), "rdf", voice)?;
        return rdf::read(&path, bytes).map_err(|why| Failure::Usage(why.to_string()));
    }
    let _waiting = Waiting::new(voice);
    opened::vocabulary(source, only, how)
}

/// What a database holds: of a file, or of a server.
pub(crate) fn catalogue(source: &str, shown: (bool, bool), access: &Access, voice: Voice) -> Result<Catalogue> {
    let _waiting = Waiting::new(voice);
    opened::catalogue(source, shown, access)
}

/// A sign of life, once a server has been thinking for a second.
struct Waiting {
    done: Option<Sender<()>>,
    watch: Option<JoinHandle<()>>,
}

impl Waiting {
    fn new(voice: Voice) -> Self {
        if !voice.shows_progress() {
            return Self { done: None, watch: None };
        }
        let (done, is_done) = channel();
        let watch = std::thread::spawn(move || {
            if is_done.recv_timeout(Duration::from_secs(1)) != Err(RecvTimeoutError::Timeout) {
                return;
            }
            let bar = ProgressBar::new_spinner().with_message("waiting for the answer");
            bar.enable_steady_tick(Duration::from_millis(250));
            let _ = is_done.recv();
            bar.finish_and_clear();
        });
        Self { done: Some(done), watch: Some(watch) }
    }
}

impl Drop for Waiting {
    fn drop(&mut self) {
        self.done = None;
        let _ = self.watch.take().map(JoinHandle::join);
    }
}
