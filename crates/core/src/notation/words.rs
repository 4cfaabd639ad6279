//! A picture in words, for those who cannot see it.

use crate::model::{Diagram, DiagramKind, Element, Relation, Verb};
use crate::views::View;

/// At most this many relations are reported.
// It is read aloud; beyond forty nobody remembers the first.
const LISTED: usize = 40;

/// What kind, how many elements, what relates to what.
pub(super) fn describe(view: &View) -> String {
    let diagram = &view.diagram;
    let (what, elements) = match diagram.kind {
        DiagramKind::Sequence => ("Sequence diagram", "parties"),
        DiagramKind::Classes => ("Class diagram", "classifiers"),
        DiagramKind::Flow => ("Flow chart", "steps"),
        DiagramKind::States => ("State machine", "states"),
        DiagramKind::Architecture => ("Architecture diagram", "elements"),
        DiagramKind::Network => ("Network", "elements"),
        DiagramKind::Tree => ("Tree", "items"),
    };
    let count = diagram.elements.iter().filter(|e| !e.kind.is_mark()).count();
    let listed: Vec<&crate::model::Relation> =
        diagram.relations.iter().filter(|r| !matches!(r.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses)).collect();
    let sentences: Vec<String> = listed.iter().take(LISTED).map(|r| sentence(diagram, r)).collect();
    let more = listed.len().saturating_sub(LISTED);
    let tail = if more > 0 { format!("; and {more} more") } else { String::new() };
    let listed = if sentences.is_empty() { String::new() } else { format!(" {}{tail}.", sentences.join("; ")) };
    let relations = counted_relations(diagram);
    let plural = if relations == 1 { "" } else { "s" };
    format!("{what} with {count} {elements} and {relations} relation{plural}.{listed}{}", lifted(view))
}

/// What a relation says, as `Gateway calls Store (levels)`.
fn sentence(diagram: &Diagram, relation: &Relation) -> String {
    let label = relation.label.as_ref().or(relation.start.as_ref());
    let label = label.map_or(String::new(), |l| format!(" ({})", l.text().replace('\n', " ")));
    format!("{}{label}", clause(diagram, relation))
}

/// The same without its label.
pub(super) fn clause(diagram: &Diagram, relation: &Relation) -> String {
    let (from, to) = (name(diagram.element(relation.from)), name(diagram.element(relation.to)));
    match relation.verb {
        Verb::Does => format!("{from} does"),
        Verb::Then | Verb::Onward | Verb::Holds => format!("{from} leads to {to}"),
        verb => format!("{from} {} {to}", verb.word()),
    }
}

/// What the answer to a message says, without its label.
pub(super) fn reply(diagram: &Diagram, message: &Relation) -> String {
    format!("{} answers {}", name(diagram.element(message.to)), name(diagram.element(message.from)))
}

/// What an element shows, or its kind where it shows nothing.
fn name(element: &Element) -> String {
    let shown = element.shown().text().replace('\n', " ");
    if shown.is_empty() { element.kind.word().to_owned() } else { shown }
}

/// What was lifted: which relations, by the names in the text, stand behind a line of the drawing.
fn lifted(view: &View) -> String {
    let mut left = LISTED;
    let mut sentences = Vec::new();
    let relations = view.diagram.relations.iter().zip(&view.relations);
    for (relation, own) in relations.filter(|(_, own)| !own.stands_for.is_empty()) {
        let shown = own.stands_for.len().min(left);
        left -= shown;
        let mut listed = own.stands_for[..shown].join(", ");
        let more = own.stands_for.len() - shown;
        if more > 0 {
            let and = if shown > 0 { ", and " } else { "" };
            listed += &format!("{and}{more}{} relations", if shown > 0 { " more" } else { "" });
        }
        sentences.push(format!("{} stands for {listed}", relation.key));
    }
    if sentences.is_empty() { String::new() } else { format!(" Lifted: {}.", sentences.join("; ")) }
}

fn counted_relations(diagram: &Diagram) -> usize {
    diagram.relations.iter().filter(|r| !matches!(r.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses)).count()
}
