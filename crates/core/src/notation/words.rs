//! A picture in words, for those who cannot see it.

use crate::language::Language;
use crate::markup::shortened;
use crate::model::{Diagram, Element, Relation, Verb};
use crate::views::View;

/// At most this many relations are listed.
// It is read aloud; beyond forty nobody remembers the first.
const LISTED: usize = 40;
/// A name or a label in a sentence has at most this many characters.
// A label of a megabyte would be said again with every relation of its element.
const LONGEST: usize = 200;

/// A view in sentences: what kind, how many elements, what relates to what.
pub fn describe(view: &View, language: &Language) -> String {
    let diagram = &view.diagram;
    let kind = diagram.kind.word();
    let count = diagram.elements.iter().filter(|e| !e.kind.is_mark()).count();
    let is_told = |r: &&Relation| !matches!(r.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses);
    let told: Vec<&Relation> = diagram.relations.iter().filter(is_told).collect();
    let parts = language.count("picture", &format!("{kind}_parts"), count);
    let relations = language.count("picture", "relations", told.len());
    let first = language.fill("picture", kind, &[("parts", &parts), ("relations", &relations)]);
    let sentences: Vec<String> = told.iter().take(LISTED).map(|r| sentence(diagram, r, language)).collect();
    let left = told.len().saturating_sub(LISTED);
    let tail = if left > 0 { format!("; {}", more(left, language)) } else { String::new() };
    let listed = if sentences.is_empty() { String::new() } else { format!(" {}{tail}.", sentences.join("; ")) };
    format!("{first}.{listed}{}", lifted(view, language))
}

fn more(n: usize, language: &Language) -> String {
    language.fill("picture", "more", &[("n", &n.to_string())])
}

/// What a relation says, as `Gateway calls Store (levels)`.
pub fn sentence(diagram: &Diagram, relation: &Relation, language: &Language) -> String {
    let label = relation.label.as_ref().or(relation.start.as_ref());
    let label = label.map_or(String::new(), |l| format!(" ({})", shortened(&l.text().replace('\n', " "), LONGEST)));
    format!("{}{label}", clause(diagram, relation, language))
}

/// The same without its label.
pub(super) fn clause(diagram: &Diagram, relation: &Relation, language: &Language) -> String {
    let [from, to] = [relation.from, relation.to].map(|end| name(diagram.element(end), language));
    says(relation.verb, [&from, &to], language)
}

/// What the answer to a message says, without its label.
pub(super) fn reply(diagram: &Diagram, message: &Relation, language: &Language) -> String {
    let [from, to] = [message.to, message.from].map(|end| name(diagram.element(end), language));
    says(Verb::Answers, [&from, &to], language)
}

/// What a verb says of its subject and its object, by what these are called.
pub fn says(own: Verb, [from, to]: [&str; 2], language: &Language) -> String {
    language.fill("relation", verb(own), &[("from", from), ("to", to)])
}

/// The key of what a verb says.
pub(super) fn verb(verb: Verb) -> &'static str {
    match verb {
        Verb::Then | Verb::Onward | Verb::Holds => "leads",
        Verb::NeverUses => "never",
        other => other.word(),
    }
}

/// What an element shows in one line, or its kind where it shows nothing.
pub fn name(element: &Element, language: &Language) -> String {
    let shown = element.shown().text().replace('\n', " ");
    match shown.is_empty() {
        true => language.say("kind", element.kind.word()).to_owned(),
        false => shortened(&shown, LONGEST).into_owned(),
    }
}

/// What was lifted: which relations, by the names in the text, stand behind a line of the drawing.
fn lifted(view: &View, language: &Language) -> String {
    let mut left = LISTED;
    let mut sentences = Vec::new();
    let relations = view.diagram.relations.iter().zip(&view.relations);
    for (relation, own) in relations.filter(|(_, own)| !own.stands_for.is_empty()) {
        let shown = own.stands_for.len().min(left);
        left -= shown;
        let mut listed = own.stands_for[..shown].join(", ");
        let rest = own.stands_for.len() - shown;
        listed += &match (rest, shown) {
            (0, _) => String::new(),
            (_, 0) => language.count("picture", "relations", rest),
            _ => format!(", {}", more(rest, language)),
        };
        sentences.push(language.fill("picture", "stands_for", &[("line", &relation.key), ("relations", &listed)]));
    }
    let head = language.say("picture", "lifted");
    if sentences.is_empty() { String::new() } else { format!(" {head}: {}.", sentences.join("; ")) }
}
