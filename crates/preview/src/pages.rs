//! What is remembered of each page: which text is its newest, and where its picture has its elements. Bounded, however long
//! somebody types.

use bathygram_core::scene::Places;
use std::collections::VecDeque;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// This many pages are remembered.
const PAGES: usize = 32;

/// All pages, the one that asked last at the end.
#[derive(Default)]
pub(crate) struct Pages(Mutex<VecDeque<(String, Arc<Page>)>>);

/// One page.
#[derive(Default)]
pub(crate) struct Page {
    newest: AtomicU64,
    shown: Mutex<Option<Shown>>,
}

/// The picture that a page shows.
struct Shown {
    /// Of which file it is, its name, and its theme.
    what: String,
    places: Arc<Places>,
}

impl Pages {
    /// The page with this name.
    pub(crate) fn page(&self, name: &str) -> Arc<Page> {
        let mut pages = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let known = pages.iter().position(|(own, _)| own == name).and_then(|at| pages.remove(at));
        let (name, page) = known.unwrap_or_else(|| (name.to_owned(), Arc::default()));
        pages.push_back((name, page.clone()));
        while pages.len() > PAGES {
            pages.pop_front();
        }
        page
    }
}

impl Page {
    /// Says that a text is on its way to be drawn; says whether there is no newer one.
    pub(crate) fn begin(&self, number: u64) -> bool {
        self.newest.fetch_max(number, Ordering::AcqRel) <= number
    }

    /// Whether a newer text came meanwhile.
    pub(crate) fn is_old(&self, number: u64) -> bool {
        self.newest.load(Ordering::Acquire) > number
    }

    /// Where the picture that the page shows has its elements, if it is this one.
    pub(crate) fn places(&self, what: &str) -> Option<Arc<Places>> {
        let shown = self.shown.lock().unwrap_or_else(PoisonError::into_inner);
        shown.as_ref().filter(|shown| shown.what == what).map(|shown| shown.places.clone())
    }

    /// Notes what the page shows.
    pub(crate) fn show(&self, what: String, places: Places) {
        let shown = Shown { what, places: Arc::new(places) };
        *self.shown.lock().unwrap_or_else(PoisonError::into_inner) = Some(shown);
    }
}
