//! What something is, as Markdown: its kind, what is said of it, and its relations; or what a word of the language means.

use super::places::{at, diagram};
use super::words::about;
use crate::model::{Diagram, ElementId, Target, Verb};
use crate::pipeline::Reading;
use crate::source::Span;
use crate::syntax::{Label, TokenKind};
use std::fmt::Write;

/// At most this many relations are listed.
// A note beside the text has room for this many.
const LISTED: usize = 12;

/// What something is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hover {
    /// Where it stands.
    pub span: Span,
    /// What it is, as Markdown.
    pub markdown: String,
}

/// What stands at a byte; `None` where nothing means anything.
pub fn hover(reading: &Reading, byte: u32) -> Option<Hover> {
    let found = at(&reading.occurrences, byte);
    let named = found.filter(|o| matches!(o.target, Target::Block(_) | Target::Element(..)));
    if let Some(occurrence) = named {
        let markdown = match occurrence.target {
            Target::Block(block) => match diagram(reading, block) {
                Some(diagram) => of_block(diagram),
                None => format!("**sheet** {}", plain(reading.source.slice(occurrence.span))),
            },
            Target::Element(block, id) => of_element(diagram(reading, block)?, id),
            _ => return None,
        };
        return Some(Hover { span: occurrence.span, markdown });
    }
    let tokens = &reading.tree.tokens;
    let token = tokens.iter().find(|t| t.span.start <= byte && byte < t.span.end && t.kind == TokenKind::Word);
    let word = token.map(|token| (token.span, about(reading.source.slice(token.span))));
    if let Some((span, about)) = word.filter(|(_, about)| !about.is_empty()) {
        return Some(Hover { span, markdown: format!("**{}** {about}", reading.source.slice(span)) });
    }
    let occurrence = found?;
    let Target::Relation(block, id) = occurrence.target else { return None };
    Some(Hover { span: occurrence.span, markdown: sentence(diagram(reading, block)?, id.index()) })
}

fn of_block(diagram: &Diagram) -> String {
    let title = diagram.title.as_ref().map_or(String::new(), |title| format!(" {}", plain(&title.text())));
    let (elements, relations) = (diagram.elements.len(), diagram.relations.len());
    format!("**{}** {}{title}\n\n{elements} elements, {relations} relations", diagram.kind.word(), plain(&diagram.name))
}

fn of_element(diagram: &Diagram, id: ElementId) -> String {
    let element = diagram.element(id);
    let mut out = format!("**{}** {}", element.kind.word(), plain(&element.shown().text()));
    if element.key != element.shown().text() {
        let _ = write!(out, " (`{}`)", element.key.replace('`', "'"));
    }
    let properties = &element.properties;
    let says = [
        ("", &properties.about),
        ("built: ", &properties.built),
        ("owner: ", &properties.owner),
        ("link: ", &properties.link),
        ("code: ", &properties.code),
        ("origin: ", &properties.origin),
    ];
    let says = says.into_iter().filter_map(|(word, label): (_, &Option<Label>)| Some((word, label.as_ref()?)));
    says.for_each(|(word, label)| _ = write!(out, "\n\n{word}{}", plain(&label.text())));
    if !properties.tags.is_empty() {
        let _ = write!(out, "\n\ntags: {}", plain(&properties.tags.join(", ")));
    }
    let touching: Vec<usize> = (0..diagram.relations.len())
        .filter(|i| [diagram.relations[*i].from, diagram.relations[*i].to].contains(&id))
        .collect();
    let listed: Vec<String> = touching.iter().take(LISTED).map(|i| format!("\n- {}", sentence(diagram, *i))).collect();
    if !listed.is_empty() {
        let _ = write!(out, "\n{}", listed.concat());
    }
    if touching.len() > LISTED {
        let _ = write!(out, "\n- and {} more", touching.len() - LISTED);
    }
    out
}

/// What a relation says.
fn sentence(diagram: &Diagram, relation: usize) -> String {
    let relation = &diagram.relations[relation];
    let name = |id| plain(&diagram.element(id).shown().text());
    let label = relation.label.as_ref().map_or(String::new(), |label| format!(": {}", plain(&label.text())));
    match relation.verb {
        Verb::Does => format!("{} does{label}", name(relation.from)),
        verb => format!("{} {} {}{label}", name(relation.from), verb.word(), name(relation.to)),
    }
}

/// A text of the user in Markdown: nothing in it is markup.
fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for letter in text.chars() {
        match letter {
            '\n' => out.push(' '),
            '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '#' | '|' | '&' => out.extend(['\\', letter]),
            other => out.push(other),
        }
    }
    out
}
