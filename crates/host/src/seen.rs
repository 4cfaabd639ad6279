//! Paths as people see them.

use bathygram_core::source::visible;
use std::path::{Path, PathBuf};

/// What can be shown in a message, whatever is in it.
pub trait Seen {
    /// It in one line; what acts on a terminal is written out.
    fn seen(&self) -> String;
}

impl Seen for Path {
    fn seen(&self) -> String {
        visible(&self.to_string_lossy()).into_owned()
    }
}

impl Seen for PathBuf {
    fn seen(&self) -> String {
        self.as_path().seen()
    }
}
