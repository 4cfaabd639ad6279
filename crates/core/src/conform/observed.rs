//! What really happened, as it was observed: calls between parties, in time.

/// One run of something, from its first call to its last.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Trace {
    /// Its identifier.
    pub id: String,
    /// Its calls, by when they began.
    pub calls: Vec<Call>,
}

/// One call or one sending.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Call {
    /// The party that calls; nothing if that is not known.
    pub from: Option<String>,
    /// The party that is called.
    pub to: String,
    /// What is called.
    pub label: String,
    /// Whether nobody waits for an answer.
    pub is_sent: bool,
    /// Where it stands, as `file:line`.
    pub place: String,
}
