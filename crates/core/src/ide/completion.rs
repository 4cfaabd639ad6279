//! What may be written at a place.

use super::words::about;
use crate::model::{Arrangement, Diagram, DiagramKind, ElementKind, Heading, Routing, ShownMembers, Verb};
use crate::notation::pictogram;
use crate::pipeline::Reading;
use crate::source::{Span, TextEdit};
use crate::syntax::{Line, Token, TokenKind};
use crate::theme::{Hue, SHAPES};
use crate::vocabulary::{BLOCKS, DIAGRAMS, EndMark, SHEET, TraitWord, Vocabulary};
use std::collections::{BTreeSet, HashMap};

/// What a completion is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum CompletionKind {
    /// The name of an element or a block.
    Name,
    /// A verb.
    Verb,
    /// A kind of element.
    Kind,
    /// Another word of the language.
    Keyword,
    /// A trait.
    Trait,
    /// A value: a colour, a shape, a pictogram.
    Value,
}

/// Something that may be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Completion {
    /// What is written.
    pub label: String,
    /// What it is.
    pub kind: CompletionKind,
    /// What it means, in a few words.
    pub about: String,
    /// The edit that writes it, in place of what was begun.
    pub edit: TextEdit,
}

/// What may be written at a byte, names first, each list in its own order.
pub fn completions(reading: &Reading, byte: u32) -> Vec<Completion> {
    let Some(spot) = Spot::at(reading, byte) else { return Vec::new() };
    let mut found = Vec::new();
    spot.offer(&mut found);
    let begun = reading.source.slice(spot.begun).to_lowercase();
    let mut seen = BTreeSet::new();
    let mut completions: Vec<Completion> = found
        .into_iter()
        .filter(|(label, ..)| label.to_lowercase().starts_with(&begun) && seen.insert(label.clone()))
        .map(|(label, kind, about)| Completion { edit: TextEdit::new(spot.begun, label.clone()), label, kind, about })
        .collect();
    completions.sort_by_key(|completion| completion.kind);
    completions
}

/// Label, kind, and what it means.
type Offer = (String, CompletionKind, String);

/// A place in a line.
struct Spot<'a> {
    reading: &'a Reading,
    /// What was begun: a word up to the place.
    begun: Span,
    /// The words and marks of the line before that.
    before: Vec<&'a str>,
    /// The first words of the block around it; empty where a block may begin.
    block: Vec<&'a str>,
}

impl<'a> Spot<'a> {
    fn at(reading: &'a Reading, byte: u32) -> Option<Self> {
        let source = &reading.source;
        let byte = byte.min(source.text.len() as u32);
        if !source.text.is_char_boundary(byte as usize) {
            return None;
        }
        let start = source.line_start(byte);
        let tokens =
            |from: u32, to: u32| reading.tree.tokens.iter().filter(move |t| t.span.start >= from && t.span.start < to);
        let last: Option<&Token> = reading.tree.tokens.iter().rfind(|t| t.span.start < byte);
        let is_inside = |t: &Token| match t.kind {
            TokenKind::Comment => byte <= t.span.end,
            TokenKind::Text | TokenKind::TextBlock => byte < t.span.end || !source.slice(t.span).ends_with('"'),
            _ => false,
        };
        if last.is_some_and(is_inside) {
            return None;
        }
        let line = &source.text[start as usize..byte as usize];
        let is_part = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.');
        let begun = line.len() - line.trim_end_matches(is_part).len();
        let begun = Span { start: byte - begun as u32, end: byte, ..Span::default() };
        let is_word = |t: &&Token| !matches!(t.kind, TokenKind::Space | TokenKind::Newline | TokenKind::Comment);
        let before = tokens(start, begun.start).filter(is_word).map(|t| source.slice(t.span)).collect();
        let is_indented = line.starts_with([' ', '\t']);
        let roots = reading.tree.roots.iter().map(|id| reading.tree.line(*id));
        let root: Option<&Line> = roots.take_while(|root| root.span.start < start).last().filter(|_| is_indented);
        let words =
            |root: &Line| root.words.iter().map(|i| source.slice(reading.tree.tokens[*i as usize].span)).collect();
        let block = root.map(words).unwrap_or_default();
        Some(Self { reading, begun, before, block })
    }

    fn offer(&self, found: &mut Vec<Offer>) {
        let opened =
            self.before.iter().filter(|w| **w == "(").count() > self.before.iter().filter(|w| **w == ")").count();
        match (self.block.first(), self.before.as_slice()) {
            (None, []) => found.extend(BLOCKS.iter().map(|word| keyword(word))),
            (None, ["sheet", .., "of"]) => {
                found.extend(self.blocks(&[DiagramKind::Architecture, DiagramKind::Classes]))
            }
            (None, _) => {}
            (Some(&"look"), before) => self.rule(before, found),
            (Some(_), before) if opened => self.traits(before, &TraitWord::ALL.iter().collect::<Vec<_>>(), found),
            (Some(&"sheet"), before) => self.line(before, &SHEET, found),
            (Some(block), before) => {
                let vocabulary = DIAGRAMS.into_iter().find(|v| v.block == *block);
                vocabulary.into_iter().for_each(|vocabulary| self.line(before, vocabulary, found));
            }
        }
    }

    /// A line of a diagram or a sheet.
    fn line(&self, before: &[&str], vocabulary: &Vocabulary, found: &mut Vec<Offer>) {
        let values =
            |words: Vec<&'static str>| words.into_iter().map(|word| offer(word, CompletionKind::Value, about(word)));
        match before {
            [] => {
                found.extend(self.names());
                let kind = |word: &str| match word {
                    w if vocabulary.verbs.contains(&w) => CompletionKind::Verb,
                    w if vocabulary.kinds.contains(&w) => CompletionKind::Kind,
                    _ => CompletionKind::Keyword,
                };
                found.extend(vocabulary.starters().map(|word| offer(word, kind(word), about(word))));
            }
            ["heading"] => found.extend(values(Heading::ALL.iter().map(|h| h.word()).collect())),
            ["arrange"] => found.extend(values(Arrangement::ALL.iter().map(|a| a.word()).collect())),
            ["route"] => found.extend(values(Routing::ALL.iter().map(|r| r.word()).collect())),
            ["members"] => found.extend(values(ShownMembers::ALL.iter().map(|m| m.word()).collect())),
            ["by"] => found.push(keyword("hosts")),
            ["follow"] => found.extend(self.blocks(&[DiagramKind::Sequence])),
            ["icon"] => found.extend(pictograms()),
            ["tag", ..] => found.extend(self.tags()),
            ["place", _] => found.extend(["left of", "right of", "above", "below"].map(keyword)),
            ["row" | "order" | "pin" | "place" | "open" | "close" | "focus" | "show" | "hide" | "go" | "in", ..] => {
                found.extend(self.names());
            }
            [kind, ..] if vocabulary.kinds.contains(kind) && !vocabulary.verbs.contains(kind) => {
                found.extend(vocabulary.clauses.iter().map(|word| keyword(word)));
            }
            [.., verb] if vocabulary.verbs.contains(verb) || matches!(*verb, "," | "never") => {
                found.extend(self.names())
            }
            [_] => found.extend(vocabulary.verbs.iter().map(|word| offer(word, CompletionKind::Verb, about(word)))),
            [.., "."] => found.extend(self.names()),
            _ => found.extend(vocabulary.clauses.iter().map(|word| keyword(word))),
        }
    }

    /// A rule of a look.
    fn rule(&self, before: &[&str], found: &mut Vec<Offer>) {
        match before {
            [] => {
                found.extend(["tag", "picture"].map(keyword));
                let kinds = ElementKind::ALL.iter().map(|kind| offer(kind.word(), CompletionKind::Kind, kind.about()));
                let verbs = Verb::ALL.iter().map(|verb| offer(verb.word(), CompletionKind::Verb, verb.about()));
                found.extend(kinds.chain(verbs));
            }
            ["tag"] => found.extend(self.tags()),
            before if before.contains(&":") => {
                let looks: Vec<&TraitWord> = TraitWord::ALL.iter().filter(|word| word.is_look()).collect();
                self.traits(before, &looks, found);
            }
            _ => {}
        }
    }

    /// A trait, or the value of one.
    fn traits(&self, before: &[&str], words: &[&TraitWord], found: &mut Vec<Offer>) {
        let value = |word: &str| offer(word, CompletionKind::Value, "");
        let said =
            before.iter().rposition(|word| matches!(*word, "(" | "," | ":")).map_or(before, |at| &before[at + 1..]);
        match said.first().and_then(|word| TraitWord::from_word(word)) {
            None => {
                found.extend(words.iter().map(|word| offer(word.word(), CompletionKind::Trait, word.about())));
            }
            Some(TraitWord::Shape) => found.extend(SHAPES.iter().map(|(word, _)| value(word))),
            Some(TraitWord::Icon) => found.extend(pictograms()),
            Some(TraitWord::Tag) => found.extend(self.tags()),
            Some(TraitWord::End) => found.extend(EndMark::ALL.iter().map(|mark| value(mark.word()))),
            Some(word @ (TraitWord::Fill | TraitWord::Line | TraitWord::Text)) => {
                found.extend(Hue::all().map(|hue| value(hue.name())));
                if word == TraitWord::Line {
                    found.extend(["dashed", "dotted", "solid", "thick", "thin"].map(value));
                }
            }
            Some(_) => {}
        }
    }

    /// The diagrams that the line may name.
    fn diagrams(&self) -> impl Iterator<Item = &'a Diagram> {
        let document = &self.reading.document;
        document.diagrams.iter().chain(document.imports.diagrams())
    }

    /// The names of diagrams of some kinds.
    fn blocks(&self, kinds: &[DiagramKind]) -> Vec<Offer> {
        let fitting = self.diagrams().filter(|diagram| kinds.contains(&diagram.kind));
        fitting.map(|d| (d.name.clone(), CompletionKind::Name, d.kind.word().to_owned())).collect()
    }

    /// The diagram of the block: its own, or that which a sheet is of.
    fn diagram(&self) -> Option<&'a Diagram> {
        let start = self.reading.source.line_start(self.begun.start);
        match self.block.iter().position(|word| *word == "of") {
            Some(of) => self.diagrams().find(|diagram| Some(&diagram.name.as_str()) == self.block.get(of + 1)),
            None => self.reading.document.diagrams.iter().rfind(|diagram| diagram.span.start < start),
        }
    }

    /// The names of elements: short where only one is called so, else with what they lie in.
    fn names(&self) -> Vec<Offer> {
        let Some(diagram) = self.diagram() else { return Vec::new() };
        let is_path = self.reading.source.slice(self.begun).contains('.');
        let mut counts: HashMap<&str, usize> = HashMap::new();
        diagram.elements.iter().for_each(|element| *counts.entry(&element.name).or_default() += 1);
        let named = diagram.elements.iter().filter(|element| !element.name.is_empty());
        // What is being written is no name yet.
        let named = named.filter(|element| element.span.start != self.begun.start);
        let offer = |element: &crate::model::Element| {
            let is_single = counts.get(element.name.as_str()) == Some(&1);
            let label = if is_path || !is_single { &element.key } else { &element.name };
            let shown = element.shown().text();
            let about = if shown == *label { String::new() } else { format!(", {shown}") };
            (label.clone(), CompletionKind::Name, format!("{}{about}", element.kind.word()))
        };
        named.map(offer).collect()
    }

    /// The tags that are given already.
    fn tags(&self) -> Vec<Offer> {
        let elements = self.diagrams().flat_map(|d| &d.elements).flat_map(|e| &e.properties.tags).map(String::as_str);
        let relations = self.diagrams().flat_map(|d| &d.relations).flat_map(|r| r.tags());
        let tags: BTreeSet<&str> = elements.chain(relations).collect();
        tags.into_iter().map(|tag| (tag.to_owned(), CompletionKind::Value, "a tag".to_owned())).collect()
    }
}

fn offer(word: &str, kind: CompletionKind, about: &str) -> Offer {
    (word.to_owned(), kind, about.to_owned())
}

fn keyword(word: &str) -> Offer {
    offer(word, CompletionKind::Keyword, about(word.split(' ').next().unwrap_or(word)))
}

fn pictograms() -> impl Iterator<Item = Offer> {
    pictogram::all().map(|entry| offer(entry.name, CompletionKind::Value, entry.category))
}
