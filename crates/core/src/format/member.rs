//! Members of classifiers, in UML's textual form: `+ name: Type [0..1] = default {modifiers} (traits)`.

use crate::model::member as reading;
use crate::source::Source;
use crate::syntax::{Line, Tree};

/// Whether a line in the body of a classifier is a member, read as one from its first to its last word.
pub(super) fn is_member(source: &Source, tree: &Tree, line: &Line) -> bool {
    let text = text_of(source, tree, line);
    reading::is_member(text) && reading::cut_comment(text).len() == text.len()
}

/// The canonical text of a member.
pub(super) fn canonical(source: &Source, tree: &Tree, line: &Line) -> String {
    reading::canonical(text_of(source, tree, line))
}

fn text_of<'a>(source: &'a Source, tree: &Tree, line: &Line) -> &'a str {
    let last = tree.tokens[line.words[line.words.len() - 1] as usize];
    &source.text[line.span.start as usize..last.span.end as usize]
}
