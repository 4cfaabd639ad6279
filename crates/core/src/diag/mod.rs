//! Diagnostics as values. Input: findings of any stage. Output: [`Diagnostic`]s that terminals,
//! editors and pages render alike. Guarantees: stable codes, one sentence each, a place in a source.
//! Printing is left to the host.

mod catalogue;
mod nearest;

pub use catalogue::{Code, MISTAKES, Message, WordHelp};
pub use nearest::nearest;

use crate::source::Span;

/// How much a diagnostic weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// A doubt: the picture can be drawn, a reviewer would ask.
    Warning,
    /// A mistake: the text has no full meaning.
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
pub enum Level {
    /// It is not looked at.
    Off,
    /// What breaks it is a doubt.
    Warning,
    /// What breaks it is denied.
    Error,
}

/// One finding in one source.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Diagnostic {
    /// The stable code of the rule.
    pub code: Code,
    /// How much it weighs.
    pub severity: Severity,
    /// Where it stands.
    pub span: Span,
    /// A plain sentence: what is wrong.
    pub message: String,
    /// What to write instead, where one is likely.
    pub help: Option<String>,
}

/// All findings so far; every stage adds to it and goes on.
#[derive(Clone, Debug, Default)]
pub struct Diagnostics {
    items: Vec<Diagnostic>,
}

impl From<Vec<Diagnostic>> for Diagnostics {
    fn from(items: Vec<Diagnostic>) -> Self {
        Self { items }
    }
}

impl Diagnostics {
    /// Adds a finding from the catalogue at a place.
    pub fn report(&mut self, span: Span, message: Message) {
        let (code, severity, message, help) = message.into_parts();
        debug_assert!(crate::diag::MISTAKES.contains(&code) || severity == Severity::Warning, "{code} has no page");
        self.items.push(Diagnostic { code, severity, span, message, help });
    }

    /// The findings, in the order of their places, without repetitions.
    pub fn into_sorted(mut self) -> Vec<Diagnostic> {
        self.items.sort_by_key(|d| (d.span, d.code));
        self.items.dedup();
        self.items
    }
}
