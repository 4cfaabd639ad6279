//! What pages hear without asking: that files changed, that an editor's texts did, that a file is to be shown.

use std::sync::mpsc::{Receiver, RecvTimeoutError, SyncSender, sync_channel};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

/// At most this many pages are served.
const PAGES: usize = 32;
/// This many events wait for a page that does not read them; more are dropped with it.
const WAITING: usize = 64;

/// All pages that follow.
#[derive(Default)]
pub(crate) struct Events {
    pages: Mutex<Vec<SyncSender<String>>>,
}

/// What one page hears.
pub(crate) struct Followed(Receiver<String>);

/// That a page hears nothing more: it did not read what it was sent, and others took its place.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Dropped;

impl Events {
    /// Sends it to all pages; those that are gone are forgotten.
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
    ///
    /// # Errors
    /// If the page is told nothing more. Its connection ends, so that it asks again.
    pub(crate) fn next(&self, within: Duration) -> Result<Option<String>, Dropped> {
        match self.0.recv_timeout(within) {
            Ok(event) => Ok(Some(event).filter(|event| !event.is_empty())),
            Err(RecvTimeoutError::Timeout) => Ok(None),
            Err(RecvTimeoutError::Disconnected) => Err(Dropped),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_page_that_reads_nothing_is_dropped_and_learns_it() {
        let (events, moment) = (Events::default(), Duration::from_millis(1));
        let page = events.follow().expect("a first page");
        (0..=WAITING).for_each(|_| events.tell("files"));
        (0..WAITING).for_each(|_| assert_eq!(page.next(moment), Ok(Some("files".to_owned()))));
        assert_eq!(page.next(moment), Err(Dropped));
        assert_eq!(events.follow().expect("it asks anew").next(moment), Ok(None));
    }
}
