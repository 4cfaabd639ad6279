//! Passwords: from the environment or from a file, never from the command line, and in no message.

use crate::StoreError;
use std::fmt;
use std::path::Path;

/// A password.
#[derive(Clone, PartialEq, Eq)]
pub struct Secret(String);

impl fmt::Debug for Secret {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str("Secret")
    }
}

impl Secret {
    /// A password that is known.
    pub fn new(text: String) -> Self {
        Self(text)
    }

    /// The first line of a file.
    ///
    /// # Errors
    /// If the file cannot be read, or is empty.
    pub fn from_file(path: &Path) -> Result<Self, StoreError> {
        let cannot = |why: String| StoreError::Named(format!("the password file {} {why}", path.display()));
        let text = std::fs::read_to_string(path).map_err(|why| cannot(format!("cannot be read: {why}")))?;
        let line = text.lines().next().unwrap_or_default();
        if line.is_empty() {
            return Err(cannot("is empty; its first line is the password".to_owned()));
        }
        Ok(Self(line.to_owned()))
    }

    /// It, for whoever sends it.
    pub(crate) fn reveal(&self) -> &str {
        &self.0
    }
}
