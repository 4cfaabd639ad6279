//! Corrections of findings, as edits.

use super::message::{Message, WordHelp};
use super::nearest::suggest;
use crate::source::{Span, TextEdit};

/// How sure a correction is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Certainty {
    /// It may be what was meant; a person chooses.
    Likely,
    /// There is one correct spelling, indentation or quote: it can be made without asking.
    Certain,
}

/// A correction.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fix {
    /// What it does, as a verb and its object: ``write `gateway` ``.
    pub title: String,
    /// The edits that make it.
    pub edits: Vec<TextEdit>,
    /// How sure it is.
    pub certainty: Certainty,
}

impl Fix {
    /// Replaces a piece.
    pub fn replacing(span: Span, text: &str, certainty: Certainty) -> Self {
        Self { title: format!("write `{text}`"), edits: vec![TextEdit::new(span, text)], certainty }
    }
}

/// The correction that follows from a message and its place alone: another spelling.
pub(super) fn of_message(message: &Message, span: Span) -> Option<Fix> {
    let verb = |word: &str, verbs: &[&'static str]| suggest(word, verbs.iter().copied());
    let suggestion = match message {
        Message::UnknownBlock { suggestion, .. }
        | Message::UnknownTrait { suggestion, .. }
        | Message::UnknownColour { suggestion, .. }
        | Message::UnknownIcon { suggestion, .. }
        | Message::UnknownRule { suggestion, .. } => suggestion.clone()?,
        // A path is more than its last name, and a range stands for several.
        Message::UnknownName { name, suggestion } if !name.contains('.') && name.len() == span.range().len() => {
            suggestion.clone()?
        }
        Message::UnknownVerb { word, verbs, .. } => verb(word, verbs)?,
        Message::UnknownWord { help: WordHelp::Meant(suggestion), .. } => suggestion.clone(),
        _ => return None,
    };
    // What is suggested may be a form to fill in, such as `from "path"`.
    let is_word = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '"' | ' ');
    let certainty = if suggestion.is_only { Certainty::Certain } else { Certainty::Likely };
    suggestion.word.chars().all(is_word).then(|| Fix::replacing(span, &suggestion.word, certainty))
}
