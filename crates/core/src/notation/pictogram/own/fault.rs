//! Why a file is no pictogram.

/// Why a file is no pictogram.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum IconFault {
    /// It is larger than it may be, in bytes.
    TooLarge(usize),
    /// It holds something that does not belong into a picture.
    Unsafe(String),
    /// It cannot be read; why.
    Broken(String),
}

impl IconFault {
    /// A file that cannot be read, with the reason of another reader.
    pub(super) fn broken(why: impl std::fmt::Display) -> Self {
        Self::Broken(why.to_string())
    }
}
