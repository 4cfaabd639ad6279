//! Databases that a user names: how they are reached, and what goes wrong.

use crate::commands::import::open;
use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_readers::database::Catalogue;
use bathygram_readers::rdf::{self, Vocabulary};
use bathygram_stores::sparql::{self, Endpoint};
use bathygram_stores::{Request, Secret, StoreError, postgres, sqlite};
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

impl Access {
    /// The password, if there is a file for it.
    pub(crate) fn password(&self) -> Result<Option<Secret>> {
        self.password_file.as_deref().map(Secret::from_file).transpose().map_err(refused)
    }

    /// How long an answer may take.
    pub(crate) fn limit(&self) -> Duration {
        Duration::from_secs(u64::from(self.timeout.max(1)))
    }
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
pub(crate) fn vocabulary(
    source: &str, only: &[String], (asked, access): (&Asked, &Access), voice: Voice,
) -> Result<Vocabulary> {
    if !sparql::is_address(source) {
        if let Some((scheme, _)) = source.split_once("://") {
            let says = format!(
                "`{scheme}` is no address of an endpoint; name a file, or an endpoint as `https://host/sparql`"
            );
            return Err(Failure::Usage(says));
        }
        let (path, bytes) = open(Path::new(source), "rdf", voice)?;
        return rdf::read(&path, bytes).map_err(|why| Failure::Usage(why.to_string()));
    }
    let password = access.password()?.or_else(|| std::env::var("BATHYGRAM_PASSWORD").ok().map(Secret::new));
    let _waiting = Waiting::new(voice);
    let mut endpoint = Endpoint::new(source, password, access.limit(), asked.sample).map_err(refused)?;
    endpoint.graph.clone_from(&asked.graph);
    sparql::read(&endpoint, only).map_err(refused)
}

/// A store that gave no answer, as the command's own failure.
pub(crate) fn refused(why: StoreError) -> Failure {
    match why {
        StoreError::Named(says) => Failure::Usage(says),
        StoreError::Refused(says) => Failure::Outside(anyhow::Error::msg(says)),
    }
}

/// What a database holds: of a file, or of a server.
pub(crate) fn catalogue(source: &str, (views, rows): (bool, bool), access: &Access, voice: Voice) -> Result<Catalogue> {
    let request = Request { views, rows, limit: access.limit() };
    let _waiting = Waiting::new(voice);
    if postgres::is_address(source) {
        let address = postgres::Address::parse(source, |name| std::env::var(name).ok()).map_err(refused)?;
        return postgres::read(&address, access.password()?, &request).map_err(refused);
    }
    if let Some((scheme, _)) = source.split_once("://") {
        return Err(Failure::Usage(format!(
            "`{scheme}` is no database that can be read; name an SQLite file, or a server as `postgresql://user@host/database`"
        )));
    }
    sqlite::read(Path::new(source), &request).map_err(refused)
}

/// A sign of life, once a server has been thinking for a second.
pub(crate) struct Waiting {
    done: Option<Sender<()>>,
    watch: Option<JoinHandle<()>>,
}

impl Waiting {
    pub(crate) fn new(voice: Voice) -> Self {
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
