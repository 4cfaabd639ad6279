//! What a merge does, or why nothing is merged.

use crate::source::{Span, TextEdit};

/// Whether what is gone is removed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Gone {
    /// It stays, and is reported.
    Stays,
    /// It is removed.
    Pruned,
}

/// What a merge does.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Merged {
    /// How many numbers are brought up to date.
    pub renewed: usize,
    /// The edits, to be made at once.
    pub edits: Vec<TextEdit>,
    /// What is new, as it is written.
    pub added: Vec<String>,
    /// What is in the text and was not found any more, with where it is written.
    pub gone: Vec<(String, Span)>,
    /// Of these, what is removed.
    pub pruned: Vec<String>,
}

/// Why nothing is merged.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// The text has errors.
    #[error("the text has errors; mend them first")]
    Errors,
    /// There is no diagram of that kind, or there are several.
    #[error("{0}")]
    Which(String),
    /// What new things lie in is written in another file.
    #[error("`{0}` is written in another file; merge into that one")]
    Elsewhere(String),
    /// What new things lie in is declared together with others.
    #[error("`{0}` gets something inside, but line {1} declares others with it; give it a line of its own")]
    Together(String, u32),
    /// The text would have errors then.
    #[error("the merged text would have errors: {0}")]
    Broken(String),
}
