//! How a command ends. Status: 0 done, 1 the input has errors or a check is denied, 2 called
//! wrongly, 3 something outside failed.

use bathygram_host::{Error, Seen};
use std::path::Path;

/// A command that ran.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outcome {
    /// Everything was as it should be.
    Done,
    /// The input has errors, or a check is denied.
    Denied,
    /// A file could not be read; the others were dealt with.
    Incomplete,
}

/// A command that could not run.
#[derive(Debug)]
pub(crate) enum Failure {
    /// It was called wrongly.
    Usage(String),
    /// Its input has errors.
    Input(String),
    /// Something outside failed.
    Outside(anyhow::Error),
}

impl Failure {
    /// The exit status.
    pub(crate) fn status(&self) -> u8 {
        match self {
            Failure::Input(_) => 1,
            Failure::Usage(_) => 2,
            Failure::Outside(error) if missing(error).is_some() => 2,
            Failure::Outside(_) => 3,
        }
    }
}

/// The file that is not there, where that is what failed: whoever named it called wrongly.
fn missing(error: &anyhow::Error) -> Option<&Path> {
    match error.downcast_ref() {
        Some(Error::Read { path, why }) if why.kind() == std::io::ErrorKind::NotFound => Some(path),
        _ => None,
    }
}

impl std::fmt::Display for Failure {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Failure::Input(message) | Failure::Usage(message) => out.write_str(message),
            Failure::Outside(error) => match missing(error) {
                Some(path) => write!(out, "{} is not there", path.seen()),
                None => write!(out, "{error:#}"),
            },
        }
    }
}

impl<E: Into<anyhow::Error>> From<E> for Failure {
    fn from(error: E) -> Self {
        Failure::Outside(error.into())
    }
}

/// What commands return.
pub(crate) type Result<T = Outcome> = std::result::Result<T, Failure>;
