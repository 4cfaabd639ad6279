//! What each word of a text is, so that an editor can colour it by what it means and not by how it is spelled.

use crate::model::{Role, Target};
use crate::pipeline::Reading;
use crate::source::Span;
use crate::syntax::TokenKind;
use crate::vocabulary::{BLOCKS, DIAGRAMS, PICTURE, SHEET, TraitWord, Vocabulary};
use std::ops::Range;

/// What a word is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum TokenClass {
    /// A word that begins a block or a line.
    Keyword,
    /// A kind of element.
    Kind,
    /// A verb.
    Verb,
    /// A property, a clause or a trait.
    Property,
    /// The name of a block.
    Block,
    /// The name of an element.
    Element,
    /// A text in quotes.
    Text,
    /// A number.
    Number,
    /// A comment.
    Comment,
}

/// A word, and what it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WordClass {
    /// Where it stands.
    pub span: Span,
    /// What it is.
    pub class: TokenClass,
    /// Whether it is declared there.
    pub is_declared: bool,
}

/// The words of a source in their order, those left out that mean nothing of their own.
pub fn word_classes(reading: &Reading) -> Vec<WordClass> {
    word_classes_in(reading, 0..reading.source.text.len() as u32)
}

/// The same of a part of it, which begins with the first line of a block.
pub fn word_classes_in(reading: &Reading, part: Range<u32>) -> Vec<WordClass> {
    let mut names = reading.occurrences.iter().filter(|o| matches!(o.target, Target::Block(_) | Target::Element(..)));
    let mut next = names.next();
    let mut found = Vec::new();
    let mut block: Option<&Vocabulary> = None;
    let mut is_at_start = true;
    let first = reading.tree.tokens.partition_point(|token| token.span.end <= part.start);
    for token in reading.tree.tokens[first..].iter().take_while(|token| token.span.start < part.end) {
        let text = reading.source.slice(token.span);
        let mut push = |class, is_declared| found.push(WordClass { span: token.span, class, is_declared });
        while next.is_some_and(|o| o.span.end <= token.span.start) {
            next = names.next();
        }
        let name = next.filter(|o| o.span.start <= token.span.start && token.span.end <= o.span.end);
        let is_first_of_file_line = is_at_start && reading.source.line_start(token.span.start) == token.span.start;
        match token.kind {
            TokenKind::Newline => is_at_start = true,
            TokenKind::Space => {}
            TokenKind::Comment => push(TokenClass::Comment, false),
            TokenKind::Text | TokenKind::TextBlock => push(TokenClass::Text, false),
            TokenKind::Word if is_first_of_file_line && BLOCKS.contains(&text) => {
                block = DIAGRAMS.into_iter().chain([&SHEET]).find(|v| v.block == text);
                push(TokenClass::Keyword, false);
            }
            TokenKind::Word | TokenKind::Quoted => {
                match name {
                    Some(o) => {
                        let is_block = matches!(o.target, Target::Block(_));
                        push(if is_block { TokenClass::Block } else { TokenClass::Element }, o.role == Role::Declared);
                    }
                    None => word(text, block, is_at_start).into_iter().for_each(|class| push(class, false)),
                }
                is_at_start = false;
            }
            _ => is_at_start = false,
        }
    }
    found
}

fn word(text: &str, block: Option<&Vocabulary>, is_at_start: bool) -> Option<TokenClass> {
    let has = |words: fn(&Vocabulary) -> &'static [&'static str]| block.is_some_and(|v| words(v).contains(&text));
    if text.starts_with(|c: char| c.is_ascii_digit()) {
        return Some(TokenClass::Number);
    }
    match () {
        () if has(|v| v.verbs) => Some(TokenClass::Verb),
        () if is_at_start && has(|v| v.kinds) => Some(TokenClass::Kind),
        () if is_at_start && (has(|v| v.keywords) || PICTURE.contains(&text)) => Some(TokenClass::Keyword),
        () if has(|v| v.properties) || has(|v| v.clauses) || TraitWord::from_word(text).is_some() => {
            Some(TokenClass::Property)
        }
        () => None,
    }
}
