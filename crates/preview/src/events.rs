//! What pages are told without asking: that files changed, that an editor's texts did, that a file is to be shown.

use std::sync::mpsc::{Receiver, RecvTimeoutError, SyncSender, sync_channel};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

/// So many pages are told.
const PAGES: usize = 32;
/// So many events wait for a page that does not read them; more are dropped with it.
const WAITING: usize = 64;

/// All pages that follow.
#[derive(Default)]
pub(crate) struct Events {
    pages: Mutex<Vec<SyncSender<String>>>,
}

/// What one page is told.
pub(crate) struct Followed(Receiver<String>);

impl Events {
    /// Tells all pages; those that are gone are forgotten.
    pub(crate) fn tell(&self, event: &str) {
        let mut pages = self.pages.lock().unwrap_or_else(PoisonError::into_inner);
        pages.retain(|page| page.try_send(event.to_owned()).is_ok());
    }

    /// One page more; `None` if there are too many.
    pub(crate) fn follow(&self) -> Option<Followed> {
        let (sender, receiver) = sync_channel(WAITING);
        let mut pages = self.pages.lock().unwrap_or_else(PoisonError::into_inner);
        if pages.len() >= PAGES {
            // Of those that left nobody knows until something is sent: this says nothing to those that are there.
            pages.retain(|page| page.try_send(String::new()).is_ok());
        }
        (pages.len() < PAGES).then(|| {
            pages.push(sender);
            Followed(receiver)
        })
    }
}

impl Followed {
    /// The next event, if one comes in time.
    pub(crate) fn next(&self, within: Duration) -> Option<String> {
        match self.0.recv_timeout(within) {
            Ok(event) if event.is_empty() => None,
            Ok(event) => Some(event),
            Err(RecvTimeoutError::Timeout) => None,
            Err(RecvTimeoutError::Disconnected) => {
                std::thread::sleep(within);
                None
            }
        }
    }
}
