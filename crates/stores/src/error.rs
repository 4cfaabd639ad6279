//! Why a store gives no answer.

/// A store that cannot be read, with what to do.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum StoreError {
    /// It was named wrongly, or is no such store.
    #[error("{0}")]
    Named(String),
    /// It does not answer, or refuses to.
    #[error("{0}")]
    Refused(String),
}
