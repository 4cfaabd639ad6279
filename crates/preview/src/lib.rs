//! The preview: a server on this machine alone, and the page that shows a picture beside its text and follows both.
//!
//! Input: a [`Project`] and how pictures become files. Output: an address. Guarantees: nobody is answered who does not know the
//! token in the address, or comes from another page; only sources of the project are written, whole or not at all, and never over a
//! text that changed meanwhile; however much is typed, no more memory is taken.

mod answers;
mod assist;
mod compare;
mod depths;
mod draw;
mod events;
mod export;
mod files;
mod guard;
mod http;
mod nudges;
mod pages;
mod positions;
mod shared;

pub use export::Export;

use bathygram_host::{Error, Project, Watch};
use guard::Guard;
use shared::Shared;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

/// This many requests are answered at the same time; more are asked to come again.
// Each page holds one open for events, and asks a few things at once.
const AT_ONCE: usize = 64;

/// What a preview shows.
pub struct Options {
    /// The project.
    pub project: Project,
    /// Only these of its sources; all of them if there are none.
    pub only: Vec<PathBuf>,
    /// How pictures become files.
    pub export: Export,
    /// The kinds of diagrams, each with a text to begin with, in which NAME and TITLE are to be filled in.
    pub starters: Vec<(&'static str, &'static str)>,
    /// The port of the address; 0 for any that is free.
    pub port: u16,
    /// Where changes of a text go that an editor has open; without it, such texts are only shown.
    pub editor: Option<Editor>,
}

/// Hands a changed text to the editor that has it open: its path, its text so far, and the new one.
pub type Editor = Box<dyn Fn(&Path, &str, &str) + Send + Sync>;

/// A preview that is being served.
pub struct Preview {
    shared: Arc<Shared>,
    server: Arc<tiny_http::Server>,
    address: String,
}

/// Why no preview can be served.
#[derive(Debug)]
pub enum Failed {
    /// The port is taken, or the machine does not let anybody listen.
    Port(String),
    /// The machine has no random numbers: without them, anybody could guess the address.
    Token,
    /// The project's folder cannot be watched.
    Watch(Error),
}

impl std::fmt::Display for Failed {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Failed::Port(why) => write!(out, "the preview cannot listen: {why}"),
            Failed::Token => out.write_str("the preview needs random numbers of the system, and there are none"),
            Failed::Watch(why) => why.fmt(out),
        }
    }
}

impl std::error::Error for Failed {}

impl Preview {
    /// Begins to serve.
    ///
    /// # Errors
    /// If nothing can be served.
    pub fn start(options: Options) -> Result<Self, Failed> {
        let server = tiny_http::Server::http(("127.0.0.1", options.port)).map_err(|e| Failed::Port(e.to_string()))?;
        let server = Arc::new(server);
        let port = server.server_addr().to_ip().map_or(options.port, |address| address.port());
        let guard = Guard::new(port).ok_or(Failed::Token)?;
        let address = guard.address();
        let watch = Watch::begin(&options.project).map_err(Failed::Watch)?;
        let shared = Arc::new(Shared::new(options, guard));
        let watched = shared.clone();
        std::thread::spawn(move || {
            while watch.wait(&watched.project()) {
                watched.reload();
                watched.events.tell("files");
            }
        });
        Ok(Self { shared, server, address })
    }

    /// Where the page is.
    pub fn address(&self) -> &str {
        &self.address
    }

    /// Answers requests until [`Preview::stop`] is called.
    pub fn serve(&self) {
        let busy = Arc::new(AtomicUsize::new(0));
        for request in self.server.incoming_requests() {
            if busy.fetch_add(1, Ordering::AcqRel) >= AT_ONCE {
                busy.fetch_sub(1, Ordering::AcqRel);
                http::refuse(request, 503, "too much at once; try again");
                continue;
            }
            let (shared, busy) = (self.shared.clone(), busy.clone());
            // A slow drawing must not keep others from their answers.
            std::thread::spawn(move || {
                let _free = Free(busy);
                http::answer(&shared, request);
            });
        }
    }

    /// Ends [`Preview::serve`].
    pub fn stop(&self) {
        self.server.unblock();
    }

    /// Says that an editor has these texts open; pages follow them, whatever is on disk.
    pub fn show_texts(&self, texts: BTreeMap<PathBuf, String>) {
        if self.shared.set_open(texts) {
            self.shared.events.tell("texts");
        }
    }

    /// Lets pages show a file.
    pub fn show_file(&self, path: &Path) {
        let name = self.shared.project().shown(path);
        self.shared.events.tell(&format!("show {name}"));
    }
}

/// Frees the place of a request, whatever became of it.
struct Free(Arc<AtomicUsize>);

impl Drop for Free {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::AcqRel);
    }
}
