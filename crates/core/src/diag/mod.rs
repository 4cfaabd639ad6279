//! Diagnostics as values. Input: findings of any stage. Output: [`Diagnostic`]s that terminals,
//! editors and pages render alike. Guarantees: stable codes, one sentence each, a place in a source, corrections as edits.
//! Printing is left to the host.

mod catalogue;
mod diagnostic;
mod fix;
mod message;
mod nearest;
mod severity;

pub use diagnostic::{Diagnostic, Diagnostics, Words};
pub use fix::{Certainty, Fix};
pub use message::{Code, ERRORS, Message, WordHelp};
pub use nearest::{Suggestion, nearest, suggest};
pub use severity::{RuleLevel, Severity};
