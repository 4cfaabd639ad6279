//! What happens in a sequence, in order, between the lines that declare its parties.

use super::lines::Lines;
use super::outline::Outline;
use super::phrases::{clause, declared, dotted, label, properties, text, traits};
use super::picture::is_within;
use super::sets;
use crate::model::{Diagram, Element, ElementId, ElementKind, Event, Operand, Operator, Relation, Verb};
use crate::source::Span;
use crate::syntax::Label;

/// The lines of a block.
pub(super) fn body(diagram: &Diagram) -> Lines {
    let outline = Outline::of(diagram);
    let mut loose = parties(&outline, None);
    outline.asides(None, &mut loose);
    let events = Happening { outline: &outline }.events(diagram.events(), Workers::default());
    loose.among(events)
}

fn parties(outline: &Outline<'_>, holder: Option<ElementId>) -> Lines {
    let diagram = outline.diagram;
    let is_party = |id: &ElementId| !matches!(diagram.element(*id).kind, ElementKind::Lost | ElementKind::Found);
    let ids: Vec<ElementId> = outline.children(holder).iter().copied().filter(is_party).collect();
    let takes = diagram.interaction().is_some_and(|i| i.of.is_some());
    let line = |_: ElementId, e: &Element, names: &str| {
        let own = if takes { own_words(e) } else { e.clone() };
        format!("{}{}", declared(&own, e.kind.word(), names, outline.naming.usual), traits(&own.traits))
    };
    let own = |id: ElementId| if takes { Lines::default() } else { party_properties(outline, id) };
    outline.declarations(&ids, line, |id| if is_group(outline, id) { parties(outline, Some(id)) } else { own(id) })
}

/// A party with what its own line says of it; the rest is its architecture's, and written there.
fn own_words(element: &Element) -> Element {
    let is_own = |span: Span| is_within(element.span, span);
    let label = element.label.clone().filter(|l| is_own(l.span));
    let traits = element.traits.iter().filter(|t| is_own(t.word.span)).cloned().collect();
    Element { label, traits, ..element.clone() }
}

fn is_group(outline: &Outline<'_>, id: ElementId) -> bool {
    outline.diagram.element(id).kind == ElementKind::Group
}

/// The properties of a party, which stand below its line.
fn party_properties(outline: &Outline<'_>, id: ElementId) -> Lines {
    let mut lines = Lines::default();
    properties(outline.diagram.element(id), &mut lines);
    lines.in_order()
}

/// Who works at a place of the text, and for whom.
#[derive(Clone, Copy, Default)]
struct Workers {
    worker: Option<ElementId>,
    caller: Option<ElementId>,
}

struct Happening<'a> {
    outline: &'a Outline<'a>,
}

impl Happening<'_> {
    fn events(&self, events: &[Event], workers: Workers) -> Lines {
        let mut lines = Lines::default();
        let span = |event: &Event| self.span(event);
        for group in sets::grouped(events, span, |group| self.sides(group).is_some()) {
            match (&group[0], self.sides(group)) {
                (Event::Message { .. }, Some(sides)) => self.message(&group[0], sides, workers, &mut lines),
                (event, _) => self.event(event, workers, &mut lines),
            }
        }
        lines
    }

    fn span(&self, event: &Event) -> Span {
        match event {
            Event::Message { relation, .. } => self.outline.diagram.relation(*relation).span,
            Event::Fragment { span, .. }
            | Event::Reference { span, .. }
            | Event::Phase { span, .. }
            | Event::Pause { span, .. }
            | Event::Remark { span, .. } => *span,
        }
    }

    fn relation(&self, event: &Event) -> Option<&Relation> {
        if let Event::Message { relation, .. } = event { Some(self.outline.diagram.relation(*relation)) } else { None }
    }

    fn party(&self, id: ElementId) -> String {
        let kind = self.outline.diagram.element(id).kind;
        match kind {
            ElementKind::Lost | ElementKind::Found => kind.word().to_owned(),
            _ => self.outline.naming.path(id, None),
        }
    }

    /// The two sides of messages that one line holds; `None` if no line does.
    fn sides(&self, group: &[Event]) -> Option<(Vec<String>, Vec<String>)> {
        let relations: Vec<&Relation> = group.iter().map(|event| self.relation(event)).collect::<Option<_>>()?;
        let pairs: Vec<(String, String)> = relations.iter().map(|r| (self.party(r.from), self.party(r.to))).collect();
        // What one does itself has no object.
        if relations[0].verb == Verb::Does {
            return Some(pairs.into_iter().unzip());
        }
        sets::product(&pairs)
    }

    fn message(&self, event: &Event, sides: (Vec<String>, Vec<String>), workers: Workers, lines: &mut Lines) {
        let Event::Message { relation, body, returning, guard, within } = event else { return };
        let relation = self.outline.diagram.relation(*relation);
        let (from, to) = sides;
        let is_bare = from.len() == 1 && Some(relation.from) == workers.worker;
        let subject = if is_bare { String::new() } else { format!("{} ", sets::folded(from)) };
        let answers_caller = relation.verb == Verb::Answers && to.len() == 1 && Some(relation.to) == workers.caller;
        let object = match relation.verb {
            Verb::Does => String::new(),
            _ if answers_caller => String::new(),
            _ => format!(" {}", sets::folded(to)),
        };
        let said = [
            label(relation.label.as_ref()),
            clause("when", guard.as_ref()),
            clause("within", within.as_ref()),
            clause("returning", returning.as_ref()),
            traits(&relation.traits),
        ];
        let inner = Workers { worker: Some(relation.to), caller: Some(relation.from) };
        let line = format!("{subject}{}{object}{}", relation.verb.word(), said.concat());
        lines.push_with(relation.span, line, self.events(body, inner));
    }

    fn event(&self, event: &Event, workers: Workers, lines: &mut Lines) {
        let span = self.span(event);
        match event {
            Event::Message { .. } => {}
            Event::Fragment { operator, operands, .. } => self.fragment(*operator, operands, workers, lines),
            Event::Reference { sequence, label: shown, across, .. } => {
                let across =
                    if across.is_empty() { String::new() } else { format!(" across {}", self.parties(across)) };
                let is_usual = shown.text() == sequence.value.replace('_', " ");
                let shown = if is_usual { String::new() } else { label(Some(shown)) };
                let path = dotted(&sequence.value, self.outline.naming.verbs);
                lines.push(span, format!("see {path}{across}{shown}"));
            }
            Event::Phase { label: shown, .. } => lines.push(span, format!("phase {}", text(shown))),
            Event::Pause { label: shown, .. } => lines.push(span, format!("pause{}", label(shown.as_ref()))),
            Event::Remark { across, label: shown, left, .. } => {
                let on = match across.as_slice() {
                    [only] if Some(*only) == workers.worker => String::new(),
                    [only] => format!(" on {}", self.party(*only)),
                    several => format!(" across {}", self.parties(several)),
                };
                let left = if *left { " (left)" } else { "" };
                lines.push(span, format!("remark{on} {}{left}", text(shown)));
            }
        }
    }

    fn parties(&self, ids: &[ElementId]) -> String {
        sets::folded(ids.iter().map(|id| self.party(*id)).collect())
    }

    fn fragment(&self, operator: Operator, operands: &[Operand], workers: Workers, lines: &mut Lines) {
        for (i, operand) in operands.iter().enumerate() {
            let guard = operand.guard.as_ref();
            let is_otherwise = guard.is_some_and(|g| g.text() == "otherwise");
            let opening = match (operator, i) {
                (Operator::Opt | Operator::Alt, _) if is_otherwise => "otherwise".to_owned(),
                (Operator::Opt | Operator::Alt, 0) => opened("when", guard),
                (Operator::Opt | Operator::Alt, _) => opened("or", guard),
                (Operator::Par, 0) => opened("together", guard),
                (Operator::Par, _) => opened("and", guard),
                (Operator::Loop, _) => opened("repeat", guard),
                (Operator::Break, _) => opened("leave when", guard),
                (Operator::Critical, _) => opened("undivided", guard),
                (Operator::Strict, _) => opened("in order", guard),
                (Operator::Neg, _) => opened("never", guard),
            };
            lines.push_with(operand.span, opening, self.events(&operand.items, workers));
        }
    }
}

fn opened(word: &str, guard: Option<&Label>) -> String {
    format!("{word}{}", label(guard))
}
