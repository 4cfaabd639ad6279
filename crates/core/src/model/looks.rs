//! Style rules. Input: a `look` block. Output: [`LookRule`]s in order.

use super::{ElementKind, Verb};
use crate::diag::{Diagnostics, Message};
use crate::source::{Source, Span};
use crate::syntax::{Cursor, Line, Path, Trait, Tree};

/// What a rule is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Selector {
    /// Everything with this tag.
    Tag(String),
    /// Every element of a kind.
    Kind(ElementKind),
    /// Every relation with a verb.
    Verb(Verb),
    /// One element, by name.
    Name(String),
    /// The ground of the picture.
    Picture,
}

impl std::fmt::Display for Selector {
    /// As it is written.
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Selector::Tag(tag) => write!(out, "tag {tag}"),
            Selector::Kind(kind) => out.write_str(kind.word()),
            Selector::Verb(verb) => out.write_str(verb.word()),
            Selector::Name(name) => out.write_str(name),
            Selector::Picture => out.write_str("picture"),
        }
    }
}

/// One rule: a selector and the traits it gives.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LookRule {
    /// What it is about.
    pub selector: Selector,
    /// What it gives.
    pub traits: Vec<Trait>,
    /// Where its selector was written.
    pub span: Span,
}

/// Reads one `look` block.
pub(super) fn read(source: &Source, tree: &Tree, block: &Line, diags: &mut Diagnostics) -> Vec<LookRule> {
    let mut rules = Vec::new();
    for id in &block.children {
        let cursor = Cursor::new(source, tree, tree.line(*id));
        cursor.leaf("a rule", diags);
        rules.extend(rule(cursor, diags));
    }
    rules
}

/// Reads `selector: trait value, trait value`.
fn rule(mut cursor: Cursor<'_>, diags: &mut Diagnostics) -> Option<LookRule> {
    let span = cursor.line_span();
    // `tag: …` is a rule about something called `tag`.
    let is_tag = cursor.eat_before_name("tag");
    let path = cursor.path();
    let Some(path) = path.filter(|_| cursor.eat_colon()) else {
        diags.report(span, Message::LookNeedsColon);
        return None;
    };
    let selector = if is_tag { Selector::Tag(path.text()) } else { selector(&path) };
    let traits = cursor.open_traits(diags);
    Some(LookRule { selector, traits, span: path.span })
}

fn selector(path: &Path) -> Selector {
    let word = path.text();
    let is_plain = path.names.iter().all(|n| !n.quoted && !n.by_label);
    match (ElementKind::from_word(&word), Verb::from_word(&word)) {
        (Some(kind), _) if is_plain => Selector::Kind(kind),
        (_, Some(verb)) if is_plain => Selector::Verb(verb),
        _ if is_plain && word == "picture" => Selector::Picture,
        _ => Selector::Name(word),
    }
}
