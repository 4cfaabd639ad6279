//! Findings, and the list that every stage adds to.

use super::fix::{self, Fix};
use super::message::{Code, ERRORS, Message};
use super::severity::Severity;
use crate::source::{Sources, Span, visible_cut};

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
        // Names and labels may hold anything, and be of any length.
        let seen = |text: String| visible_cut(&text).into_owned();
        Words { sentence: seen(sentence), help: help.map(seen) }
    }
}

/// All findings so far; every stage adds to it and goes on.
#[derive(Clone, Debug, Default)]
pub struct Diagnostics {
    items: Vec<Diagnostic>,
    /// How many there are of each severity: errors, warnings.
    counts: [usize; 2],
    /// Where the first one is that is only counted.
    uncounted: Option<Span>,
}

/// At most this many findings of a severity are kept of one text; more are counted.
// A text of some megabytes that is none of ours has an error in every line.
const MOST: usize = 5_000;

impl From<Vec<Diagnostic>> for Diagnostics {
    fn from(items: Vec<Diagnostic>) -> Self {
        let counts = [Severity::Error, Severity::Warning].map(|s| items.iter().filter(|d| d.severity == s).count());
        Self { items, counts, uncounted: None }
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
        let count = &mut self.counts[usize::from(severity == Severity::Warning)];
        *count += 1;
        if *count > MOST {
            self.uncounted.get_or_insert(span);
            return;
        }
        debug_assert!(ERRORS.contains(&code) || severity == Severity::Warning, "{code} has no page");
        self.items.push(Diagnostic { code, severity, span, message, fixes: fix.into_iter().collect() });
    }

    /// The findings, in the order of their places, without repetitions.
    pub fn into_sorted(mut self) -> Vec<Diagnostic> {
        if let Some(span) = self.uncounted.take() {
            let [errors, warnings] = self.counts.map(|count| count.saturating_sub(MOST));
            self.counts = [0; 2];
            self.report(span, Message::TooManyFindings { errors, warnings });
        }
        self.items.sort_by_key(|d| (d.span, d.code));
        self.items.dedup();
        self.items
    }
}
