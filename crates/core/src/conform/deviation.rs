//! One place where intention and reality differ, ready to be reported.

use crate::source::Span;
use std::collections::BTreeSet;

/// How much a deviation weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Weight {
    /// Diagram and reality contradict each other.
    Difference,
    /// Nothing contradicts, but something was not seen, or nobody says anything of it.
    Note,
}

/// One place where intention and reality differ.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Deviation {
    /// What kind of deviation it is.
    pub code: &'static str,
    /// How much that weighs by itself.
    pub weight: Weight,
    /// Where it stands in the diagram.
    pub span: Span,
    /// What differs, in a sentence.
    pub says: String,
    /// Where it was seen, as `file:line`.
    pub places: Vec<String>,
    /// What it is known by, whatever lines move and however often it was seen: a line for each part that may be accepted.
    pub keys: Vec<String>,
}

/// Keys that are accepted, and those of them that occur.
pub(super) struct Accepted<'a> {
    keys: &'a BTreeSet<String>,
    pub(super) found: BTreeSet<String>,
}

impl<'a> Accepted<'a> {
    pub(super) fn new(keys: &'a BTreeSet<String>) -> Self {
        Self { keys, found: BTreeSet::new() }
    }

    /// Whether a key is accepted; it occurs then.
    pub(super) fn has(&mut self, key: String) -> bool {
        let is = self.keys.contains(&key);
        self.found.extend(is.then_some(key));
        is
    }
}
