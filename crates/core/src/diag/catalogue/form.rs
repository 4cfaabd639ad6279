//! Sentences about form, words and names.

use super::{CURLY, Elsewhere, Parts, QUOTES, block_of, error, leftover, list, meant, verb_help};
use crate::diag::message::{Message, WordHelp};
use crate::diag::severity::Severity;

impl Message {
    /// Errors of form: quotes, indentation, brackets.
    pub(super) fn of_form(self) -> Parts {
        match self {
            Message::TooManyFindings { errors, warnings } => {
                let sentence = format!("{} more are only counted", findings(errors, warnings));
                let help = Some("correct the first ones, and check again".to_owned());
                let severity = if errors > 0 { Severity::Error } else { Severity::Warning };
                ("too-many-findings", severity, sentence, help)
            }
            Message::TooManyLines { limit } => error(
                "too-many-lines",
                format!("a file may have {limit} lines, and this one has more: the rest is not read"),
                "divide it into several files",
            ),
            Message::TooMuchText { limit } => error(
                "too-much-text",
                format!(
                    "the texts of a file may have {limit} bytes together, and these have more: the rest is not read"
                ),
                "divide it into several files",
            ),
            Message::TextTooLong { limit } => error(
                "text-too-long",
                format!("a text may have {limit} bytes, and this one has more"),
                "say less, or divide it into several texts",
            ),
            Message::LineEnds => error(
                "line-ends",
                "a carriage return stands here without a line feed, which ends no line".to_owned(),
                "save the file with line ends of LF, or of CR and LF",
            ),
            Message::UnclosedText { mark } => error(
                "unclosed-text",
                format!("this text is opened by {mark} and never closed"),
                format!("write {mark} where it ends"),
            ),
            Message::UnevenIndent { found, expected } => error(
                "uneven-indent",
                format!("this line is indented by {found}, which matches no line above it"),
                format!("indent it by {expected}, like its neighbours, or by two more than the line it belongs to"),
            ),
            Message::IndentedBlock => {
                error("indented-block", "a file begins in the first column".into(), "remove the spaces in front")
            }
            Message::TooDeep { limit } => error(
                "too-deep",
                format!("lines are nested more than {limit} deep here"),
                "divide the diagram into several",
            ),
            Message::TooManyBlocks { limit } => error(
                "too-many-blocks",
                format!(
                    "a file of this size holds at most {limit} diagrams and sheets; from here on they are left out"
                ),
                "divide the file into several",
            ),
            Message::TooManyElements { limit } => error(
                "too-many-elements",
                format!("a diagram holds at most {limit} elements"),
                "divide the diagram into several",
            ),
            Message::TooManyLanes { limit } => error(
                "too-many-lanes",
                format!("a flow of this size holds at most {limit} lanes"),
                "divide the flow into several",
            ),
            Message::TooManyRelations { limit } => error(
                "too-many-relations",
                format!("a diagram holds at most {limit} relations and messages; from here on they are left out"),
                "divide the diagram into several, or write smaller sets",
            ),
            Message::TextExpected { after, found } => error(
                "text-expected",
                if found.is_empty() {
                    format!("a text in quotes is missing after `{after}`")
                } else {
                    format!("`{after}` is followed by a text in quotes, not by `{found}`")
                },
                format!("write `{after} \"…\"`"),
            ),
            Message::NameExpected { after, found } => error(
                "name-expected",
                if found.is_empty() {
                    format!("a name is missing after `{after}`")
                } else if after.is_empty() {
                    format!("a name is expected here, not `{found}`")
                } else {
                    format!("`{after}` is followed by a name, not by `{found}`")
                },
                match found.as_str() {
                    quote if QUOTES.contains(&quote) => CURLY,
                    _ => "names are letters, digits, `_` and `-`; any other name goes in `backquotes`",
                },
            ),
            Message::DottedName { name, last, first } => error(
                "name-expected",
                format!("`{name}` is the name of `{last}` inside `{first}`, and cannot be declared so"),
                format!(
                    "declare `{last}` in the body of `{first}`, or write the whole as a name of its own: `` `{name}` ``"
                ),
            ),
            Message::Expected { what, after } => {
                error("word-expected", format!("`{what}` is missing after {after}"), format!("write `{what}` here"))
            }
            Message::BadRange => error(
                "bad-range",
                "a range goes from a lower to a higher figure of the same name".into(),
                "write it like `lamp1..lamp4`",
            ),
            Message::UnclosedTraits => error(
                "unclosed-traits",
                "this bracket is opened and never closed".into(),
                "write `)` after the last trait",
            ),
            Message::Leftover { found, known } => leftover(&found, &known),
            _ => error(
                "empty-file",
                "this file says nothing".into(),
                "begin with a block, such as `sequence name \"Title\"`, `classes`, `flow` or `architecture`",
            ),
        }
    }

    /// Words and names that are not known.
    pub(super) fn of_words(self, at: Elsewhere<'_>) -> Parts {
        match self {
            Message::UnknownBlock { word, suggestion } => (
                "unknown-block",
                Severity::Error,
                format!("no kind of block is called `{word}`"),
                Some(if word == "theme" {
                    "a theme is chosen with `theme = \"…\"` in bathygram.toml, or with `--theme`; colours of single elements \
                     stand in a `look` block"
                        .to_owned()
                } else {
                    suggestion.map_or_else(
                    || "a file holds `sequence`, `classes`, `flow`, `states`, `architecture`, `network`, `tree`, `sheet`, \
                         `look` and `from` blocks"
                            .into(),
                    meant,
                )
                }),
            ),
            Message::UnknownWord { word, block, help } => (
                "unknown-word",
                Severity::Error,
                format!("`{word}` means nothing at the start of a line in this {}", block_of(block)),
                match help {
                    WordHelp::Ours(ours) => Some(match (ours.strip_prefix("nothing: "), ours.strip_prefix("say: ")) {
                        (Some(why), _) => format!("remove it: {why}"),
                        (_, Some(sentence)) => sentence.to_owned(),
                        // One that ends in words has its own backquotes.
                        _ if ours.matches('`').count() % 2 == 1 => format!("here that is written `{ours}"),
                        _ => format!("here that is written `{ours}`"),
                    }),
                    WordHelp::Meant(meant_word) => Some(meant(meant_word)),
                    WordHelp::None => None,
                },
            ),
            Message::UnknownVerb { word, block, verbs } => (
                "unknown-verb",
                Severity::Error,
                format!(
                    "`{word}` is no verb of {} {}",
                    if block == "architecture" { "an" } else { "a" },
                    block_of(block)
                ),
                Some(verb_help(&word, verbs)),
            ),
            Message::UnknownName { name, suggestion } => {
                ("unknown-name", Severity::Error, format!("no element `{name}`"), suggestion.map(meant))
            }
            Message::AmbiguousName { name, candidates } => error(
                "ambiguous-name",
                format!("`{name}` may mean any of {}", list(&candidates)),
                "write the path of the one that is meant",
            ),
            Message::DeclaredTwice { name, first } => error(
                "declared-twice",
                format!("`{name}` is declared in {} already", at(first)),
                "give one of them another name",
            ),
            Message::NameTaken { name } => error(
                "name-taken",
                format!("another block of this file is called `{name}`, so their pictures would be one file"),
                "give this block a name of its own",
            ),
            Message::BadPictureName { name } => error(
                "bad-picture-name",
                format!("`{name}` cannot name a picture file"),
                "use letters, digits, `_` and `-`",
            ),
            Message::UnknownTrait { word, suggestion } => {
                ("unknown-trait", Severity::Error, format!("no trait is called `{word}`"), suggestion.map(meant))
            }
            Message::UnknownIcon { word, suggestion } => {
                (
                    "unknown-icon",
                    Severity::Error,
                    format!("no pictogram is called `{word}`"),
                    Some(suggestion.map_or_else(
                        || "`bathygram icons` lists them, `bathygram icons WORD` finds some".into(),
                        meant,
                    )),
                )
            }
            Message::IconFile { path, fault } => (
                "icon-file",
                Severity::Error,
                format!("`{path}` {fault}"),
                Some(
                    "draw it with paths and plain colours, in an SVG of at most 64 KiB or a PNG of at most 256 KiB"
                        .into(),
                ),
            ),
            Message::UnknownColour { word, suggestion } => (
                "unknown-colour",
                Severity::Error,
                format!("no colour is called `{word}`"),
                Some(suggestion.map_or_else(
                    || {
                        "colours are coral, ochre, sand, kelp, lagoon, azure, heather, shell, basalt, or `#rrggbb`"
                            .into()
                    },
                    meant,
                )),
            ),
            Message::BadValue { word, of, values } => error(
                "bad-value",
                if word.is_empty() {
                    format!("`{of}` needs a value")
                } else {
                    format!("`{word}` is no value of `{of}`")
                },
                format!("write {values}"),
            ),
            other => other.of_meaning(at),
        }
    }
}

/// So many errors and warnings, in words.
fn findings(errors: usize, warnings: usize) -> String {
    match (errors, warnings) {
        (errors, 0) => format!("{errors} errors"),
        (0, warnings) => format!("{warnings} warnings"),
        (errors, warnings) => format!("{errors} errors and {warnings} warnings"),
    }
}
