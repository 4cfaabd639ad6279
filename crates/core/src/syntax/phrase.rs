//! The phrases a line is made of: names, paths, sets, ends, clauses, traits.

use super::text::Label;
use crate::source::{Span, Spanned};
use crate::vocabulary::TraitWord;

/// One name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Name {
    /// The name itself, without backquotes or quotes.
    pub text: String,
    /// Where it stands.
    pub span: Span,
    /// Whether it was written as a `"label"`.
    pub by_label: bool,
    /// Whether it was written in backquotes.
    pub quoted: bool,
}

/// Names joined by dots.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Path {
    /// At least one name.
    pub names: Vec<Name>,
    /// Where it stands.
    pub span: Span,
}

impl Path {
    /// A path of one name.
    pub fn plain(name: &str, span: Span) -> Self {
        Self { names: vec![Name { text: name.to_owned(), span, by_label: false, quoted: false }], span }
    }

    /// The path as written, joined by dots.
    pub fn text(&self) -> String {
        let names: Vec<&str> = self.names.iter().map(|n| n.text.as_str()).collect();
        names.join(".")
    }
}

/// One end of a statement: `[multiplicity] name [at port] [as role]`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct End {
    /// How many, as written.
    pub multiplicity: Option<Spanned<String>>,
    /// The element.
    pub path: Path,
    /// The port, from `at`.
    pub port: Option<Spanned<String>>,
    /// The role, from `as`.
    pub role: Option<Spanned<String>>,
}

/// One or more ends.
pub type Set = Vec<End>;

/// A clause after the label.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Clause {
    /// Its word.
    pub word: Spanned<String>,
    /// Its value: a text, or names.
    pub value: Value,
}

/// What a clause or a trait says.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Value {
    /// Nothing but its word.
    None,
    /// A text in quotes.
    Text(Label),
    /// Names.
    Names(Vec<Path>),
}

/// `word value …` in round brackets.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Trait {
    /// Its word.
    pub word: Spanned<String>,
    /// Its values, as written.
    pub values: Vec<Spanned<String>>,
}

impl Trait {
    /// A trait that stands in no text.
    pub(crate) fn of(word: &str, values: &[&str]) -> Self {
        let spanned = |value: &str| Spanned { value: value.to_owned(), span: Span::default() };
        Self { word: spanned(word), values: values.iter().map(|v| spanned(v)).collect() }
    }

    /// What it says; `None` for a word that is none of the language's.
    pub fn meaning(&self) -> Option<TraitWord> {
        TraitWord::from_word(&self.word.value)
    }

    /// Whether it is this word with this value alone.
    pub fn is(&self, word: &str, value: &str) -> bool {
        self.word.value == word && self.values.len() == 1 && self.values[0].value == value
    }

    /// From the word to the last value.
    pub fn span(&self) -> Span {
        self.values.last().map_or(self.word.span, |v| self.word.span.to(v.span))
    }
}

/// The tail of a declaration or statement.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Clauses {
    /// The label, if there is one.
    pub label: Option<Label>,
    /// Clauses in order.
    pub clauses: Vec<Clause>,
    /// Traits in order.
    pub traits: Vec<Trait>,
}

impl Clauses {
    /// The text of a clause.
    pub fn text(&self, word: &str) -> Option<&Label> {
        self.clauses.iter().find(|c| c.word.value == word).and_then(|c| match &c.value {
            Value::Text(label) => Some(label),
            _ => None,
        })
    }

    /// The names of every clause with this word.
    pub fn names<'a>(&'a self, word: &'a str) -> impl Iterator<Item = &'a Path> {
        self.clauses.iter().filter(move |c| c.word.value == word).flat_map(|c| match &c.value {
            Value::Names(paths) => paths.as_slice(),
            _ => &[],
        })
    }

    /// Whether a trait without values is there.
    pub fn has(&self, word: &str) -> bool {
        self.traits.iter().any(|t| t.word.value == word)
    }
}
