//! Findings, and the list that every stage adds to.

use super::fix::{self, Fix};
use super::message::{Code, ERRORS, Message};
use super::severity::Severity;
use crate::source::{Sources, Span};

/// One finding in one source.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Diagnostic {
    /// The stable code of the rule.
    pub code: Code,
    /// How much it weighs.
    pub severity: Severity,
    /// Where it stands.
    pub span: Span,
    /// What is wrong.
    pub message: Message,
    /// Corrections, the likeliest first.
    pub fixes: Vec<Fix>,
}

/// A finding in words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Words {
    /// A plain sentence: what is wrong.
    pub sentence: String,
    /// What to write instead, where one thing is likely.
    pub help: Option<String>,
}

impl Diagnostic {
    /// The finding in words; `sources` are those of its reading.
    pub fn words(&self, sources: &Sources<'_>) -> Words {
        let (_, _, sentence, help) = self.message.clone().into_parts(&|span| sources.elsewhere(span, self.span.source));
        Words { sentence, help }
    }
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
    /// Adds a finding from the catalogue at a place, with the correction that follows from it.
    pub fn report(&mut self, span: Span, message: Message) {
        let fix = fix::of_message(&message, span);
        self.report_with(span, message, fix);
    }

    /// Adds a finding with a correction of its own.
    pub fn report_with(&mut self, span: Span, message: Message, fix: Option<Fix>) {
        let (code, severity) = message.code();
        debug_assert!(ERRORS.contains(&code) || severity == Severity::Warning, "{code} has no page");
        self.items.push(Diagnostic { code, severity, span, message, fixes: fix.into_iter().collect() });
    }

    /// The findings, in the order of their places, without repetitions.
    pub fn into_sorted(mut self) -> Vec<Diagnostic> {
        self.items.sort_by_key(|d| (d.span, d.code));
        self.items.dedup();
        self.items
    }
}
