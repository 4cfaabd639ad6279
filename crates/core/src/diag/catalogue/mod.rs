//! The catalogue of sentences: all that the program says about a text, in one place, so that wording is reviewed together.
//! [`Message::into_parts`] is the whole list.

mod form;
mod meaning;
mod order;
mod review;

use super::message::{Code, Message};
use super::nearest::{Suggestion, nearest};
use super::severity::Severity;
use crate::source::Span;
use crate::vocabulary::DIAGRAMS;

/// Says where something else stands: `line 5`.
type Elsewhere<'a> = &'a dyn Fn(Span) -> String;

type Parts = (Code, Severity, String, Option<String>);

impl Message {
    /// The code of a message, and how much it usually weighs.
    pub(super) fn code(&self) -> (Code, Severity) {
        let (code, severity, ..) = self.clone().into_parts(&|_| String::new());
        (code, severity)
    }

    /// Code, severity, sentence, and what to write instead; `at` says where something else stands.
    pub(super) fn into_parts(self, at: Elsewhere<'_>) -> Parts {
        match self {
            Message::UnclosedText { .. }
            | Message::UnevenIndent { .. }
            | Message::IndentedBlock
            | Message::TooDeep { .. }
            | Message::TooManyBlocks { .. }
            | Message::TooManyElements { .. }
            | Message::TooManyLanes { .. }
            | Message::TooManyRelations { .. }
            | Message::TextExpected { .. }
            | Message::NameExpected { .. }
            | Message::DottedName { .. }
            | Message::Expected { .. }
            | Message::BadRange
            | Message::UnclosedTraits
            | Message::Leftover { .. }
            | Message::LineEnds
            | Message::TextTooLong { .. }
            | Message::TooMuchText { .. }
            | Message::TooManyLines { .. }
            | Message::TooManyFindings { .. }
            | Message::EmptyFile => self.of_form(),
            Message::UnknownBlock { .. }
            | Message::UnknownWord { .. }
            | Message::UnknownVerb { .. }
            | Message::UnknownName { .. }
            | Message::AmbiguousName { .. }
            | Message::DeclaredTwice { .. }
            | Message::NameTaken { .. }
            | Message::BadPictureName { .. }
            | Message::UnknownTrait { .. }
            | Message::UnknownColour { .. }
            | Message::UnknownIcon { .. }
            | Message::IconFile { .. }
            | Message::BadValue { .. } => self.of_words(at),
            _ => self.of_meaning(at),
        }
    }
}

fn error(code: Code, message: String, help: impl Into<String>) -> Parts {
    (code, Severity::Error, message, Some(help.into()))
}

fn warning(code: Code, message: String, help: Option<&str>) -> Parts {
    (code, Severity::Warning, message, help.map(str::to_owned))
}

fn meant(suggestion: Suggestion) -> String {
    format!("did you mean `{}`?", suggestion.word)
}

fn list(names: &[String]) -> String {
    let quoted: Vec<String> = names.iter().take(6).map(|n| format!("`{n}`")).collect();
    let more = if names.len() > 6 { format!(" and {} more", names.len() - 6) } else { String::new() };
    quoted.join(", ") + &more
}

/// What a block is called behind an article.
fn block_of(block: &str) -> String {
    match block {
        "classes" | "states" => format!("block of {block}"),
        other => other.to_owned(),
    }
}

fn verb_help(word: &str, verbs: &[&'static str]) -> String {
    if let Some(suggestion) = nearest(word, verbs.iter().copied()) {
        return meant(Suggestion::idea(suggestion));
    }
    let elsewhere: Vec<String> =
        DIAGRAMS.iter().filter(|v| v.verbs.contains(&word)).map(|v| format!("`{}`", v.block)).collect();
    let here: Vec<String> = verbs.iter().map(|v| format!("`{v}`")).collect();
    let place =
        if elsewhere.is_empty() { String::new() } else { format!("it belongs to {}; ", elsewhere.join(" and ")) };
    format!("{place}the verbs here are {}", here.join(", "))
}

/// Quotes that are not straight.
const QUOTES: [&str; 7] = ["\u{201c}", "\u{201d}", "\u{201e}", "\u{2018}", "\u{2019}", "\u{ab}", "\u{bb}"];
const CURLY: &str = "texts stand between straight quotes: `\"…\"`";

fn leftover(found: &str, known: &[&'static str]) -> Parts {
    let message = format!("`{found}` was not expected here");
    let help = match nearest(found, known.iter().copied()) {
        _ if known.contains(&found) => {
            Some(format!("traits in round brackets come last: write `{found} …` before them"))
        }
        _ if QUOTES.contains(&found) => Some(CURLY.to_owned()),
        _ if found == "as" => {
            Some("the label stands right behind the name, as in `actor boss \"The boss\"`".to_owned())
        }
        _ if found == "of" => Some("`of NAME` stands right behind the name, before the title".to_owned()),
        _ if found == "*" || found.chars().all(|c| c.is_ascii_digit()) && !found.is_empty() => {
            Some("a multiplicity stands before the name that it is about, as in `Station owns 1..* Sensor`".to_owned())
        }
        Some(suggestion) => Some(meant(Suggestion::idea(suggestion))),
        None if found.starts_with(['-', '<', '=', '>']) => {
            Some("relations are written with a verb, such as `a uses b`, not with an arrow".to_owned())
        }
        None if known.is_empty() => Some("the line ends with the label and traits in round brackets".to_owned()),
        None => {
            let words: Vec<String> = known.iter().map(|w| format!("`{w}`")).collect();
            let is_word = found.chars().all(|c| c.is_alphanumeric() || c == '_' || c == '-');
            let name = if is_word { "a name of several words goes in backquotes; " } else { "" };
            Some(format!("{name}after the label come {} and traits in round brackets", words.join(", ")))
        }
    };
    ("leftover", Severity::Error, message, help)
}
