//! A picture in words, for those who cannot see it.

use crate::model::{Diagram, DiagramKind, Verb};
use crate::views::View;

/// At most this many relations are told.
const TOLD: usize = 40;

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
    let told: Vec<&crate::model::Relation> =
        diagram.relations.iter().filter(|r| !matches!(r.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses)).collect();
    let name = |id| {
        let element = diagram.element(id);
        let shown = element.shown().text().replace('\n', " ");
        if shown.is_empty() { element.kind.word().to_owned() } else { shown }
    };
    let sentences: Vec<String> = told
        .iter()
        .take(TOLD)
        .map(|r| {
            let label = r
                .label
                .as_ref()
                .or(r.start.as_ref())
                .map_or(String::new(), |l| format!(" ({})", l.text().replace('\n', " ")));
            let verb = match r.verb {
                Verb::Then | Verb::Onward | Verb::Holds => "leads to",
                other => other.word(),
            };
            if r.verb == Verb::Does {
                format!("{} does{label}", name(r.from))
            } else {
                format!("{} {verb} {}{label}", name(r.from), name(r.to))
            }
        })
        .collect();
    let more = told.len().saturating_sub(TOLD);
    let tail = if more > 0 { format!("; and {more} more") } else { String::new() };
    let told = if sentences.is_empty() { String::new() } else { format!(" {}{tail}.", sentences.join("; ")) };
    let relations = told_count(diagram);
    let plural = if relations == 1 { "" } else { "s" };
    format!("{what} with {count} {elements} and {relations} relation{plural}.{told}{}", lifted(view))
}

/// What was lifted: which relations, by the names in the text, stand behind a line of the drawing.
fn lifted(view: &View) -> String {
    let mut left = TOLD;
    let mut sentences = Vec::new();
    let relations = view.diagram.relations.iter().zip(&view.relations);
    for (relation, own) in relations.filter(|(_, own)| !own.stands_for.is_empty()) {
        let shown = own.stands_for.len().min(left);
        left -= shown;
        let mut told = own.stands_for[..shown].join(", ");
        let more = own.stands_for.len() - shown;
        if more > 0 {
            let and = if shown > 0 { ", and " } else { "" };
            told += &format!("{and}{more}{} relations", if shown > 0 { " more" } else { "" });
        }
        sentences.push(format!("{} stands for {told}", relation.key));
    }
    if sentences.is_empty() { String::new() } else { format!(" Lifted: {}.", sentences.join("; ")) }
}

fn told_count(diagram: &Diagram) -> usize {
    diagram.relations.iter().filter(|r| !matches!(r.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses)).count()
}
