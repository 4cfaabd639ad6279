//! What is read of a picture, whatever its form.

/// What a picture carries.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Carried {
    /// The digest of what it was drawn from, as [`digest`](crate::container::digest) gives it.
    pub digest: String,
    /// Whether it is as it was drawn.
    pub is_intact: bool,
}
