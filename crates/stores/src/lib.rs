//! Databases and triple stores, asked what they hold. Input: a file, or the address of a server that the user named. Output: what
//! their catalogues say, in the terms of [`bathygram_readers`].
//!
//! Guarantees: nothing is written, not even beside a file; only catalogues and aggregates are asked for, never rows; every
//! question has a time limit; no message holds a password.

mod error;
pub mod postgres;
mod secret;
pub mod sparql;
pub mod sqlite;

pub use error::StoreError;
pub use secret::Secret;

use std::time::Duration;

/// What is asked of a database.
#[derive(Clone, Copy, Debug)]
pub struct Request {
    /// Whether views are wanted, too.
    pub views: bool,
    /// Whether numbers of rows are wanted.
    pub rows: bool,
    /// How long the answer may take.
    pub limit: Duration,
}
