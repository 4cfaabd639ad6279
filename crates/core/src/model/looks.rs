//! Style rules. Input: a `look` block. Output: [`LookRule`]s in order.

use super::{ElementKind, Verb};
use crate::diag::{Diagnostics, Message};
use crate::source::Source;
use crate::syntax::{Line, Trait, Tree};

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
}

/// One rule: a selector and the traits it gives.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LookRule {
    /// What it is about.
    pub selector: Selector,
    /// What it gives.
    pub traits: Vec<Trait>,
}

/// Reads one `look` block.
pub(super) fn read(source: &Source, tree: &Tree, block: &Line, diags: &mut Diagnostics) -> Vec<LookRule> {
    block.children.iter().filter_map(|id| rule(source, tree.line(*id), diags)).collect()
}

/// Reads `selector: trait value, trait value`.
///
/// A rule's traits have no brackets, so the line is cut at its colon and read by hand.
fn rule(source: &Source, line: &Line, diags: &mut Diagnostics) -> Option<LookRule> {
    let written = source.slice(line.span);
    let comment = written.find(" //").unwrap_or(written.len());
    let Some((head, body)) = written[..comment].split_once(':') else {
        diags.report(line.span, Message::LookNeedsColon);
        return None;
    };
    let mut words = head.split_whitespace();
    let selector = match (words.next(), words.next()) {
        (Some("tag"), Some(name)) => Selector::Tag(name.to_owned()),
        (Some(word), None) => match (ElementKind::from_word(word), Verb::from_word(word)) {
            (Some(kind), _) => Selector::Kind(kind),
            (_, Some(verb)) => Selector::Verb(verb),
            _ => Selector::Name(word.trim_matches('`').to_owned()),
        },
        _ => {
            diags.report(line.span, Message::LookNeedsColon);
            return None;
        }
    };
    let base = line.span.start as usize + head.len() + 1;
    let mut traits = Vec::new();
    for part in body.split(',') {
        let spanned = |word: &str| {
            let at = base + (word.as_ptr() as usize - body.as_ptr() as usize);
            crate::source::Spanned { value: word.to_owned(), span: crate::source::Span::new(at, at + word.len()) }
        };
        let mut words = part.split_whitespace();
        if let Some(word) = words.next() {
            traits.push(Trait { word: spanned(word), values: words.map(spanned).collect() });
        }
    }
    Some(LookRule { selector, traits })
}
