//! How much findings weigh.

/// How much a diagnostic weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// The picture can be drawn, a reviewer would ask.
    Warning,
    /// The text has no full meaning.
    Error,
}

impl Severity {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Severity::Warning => "warning",
            Severity::Error => "error",
        }
    }
}

/// How much a rule weighs, as a project may say.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum RuleLevel {
    /// It is not looked at.
    Off,
    /// What breaks it is a warning.
    Warning,
    /// What breaks it is denied.
    Error,
}
