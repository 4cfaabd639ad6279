//! Flows, passage by passage, with the lanes that they enter.

use super::lines::Lines;
use super::outline::Outline;
use super::phrases::{declared, label, properties, text, traits};
use crate::model::{Arrow, Branch, Content, Diagram, Element, ElementId, ElementKind, Opening, Passage, Verb};
use std::collections::{HashMap, HashSet};

/// The lines of a block.
pub(super) fn body(diagram: &Diagram) -> Lines {
    let outline = Outline::of(diagram);
    let mut asides: HashMap<ElementId, Vec<ElementId>> = HashMap::new();
    for relation in diagram.relations.iter().filter(|r| r.verb == Verb::Aside) {
        asides.entry(relation.from).or_default().push(relation.to);
    }
    let mut loose = Lines::default();
    outline.asides(None, &mut loose);
    let Content::Flow(procedure) = &diagram.content else { return loose };
    let mut shown = HashSet::new();
    containers(&procedure.passages, &mut shown);
    let telling = Telling { outline: &outline, asides, shown };
    let passages = telling.passages(&procedure.passages, None);
    for arrow in &procedure.arrows {
        let (from, to) = (outline.naming.paths(&arrow.from, None), outline.naming.paths(&arrow.to, None));
        let said = format!("{}{}", label(arrow.label.as_ref()), traits(&arrow.traits));
        loose.push(arrow.span, format!("{from} then {to}{said}"));
    }
    loose.among(passages)
}

struct Telling<'a> {
    outline: &'a Outline<'a>,
    /// What stands beside each step.
    asides: HashMap<ElementId, Vec<ElementId>>,
    /// Lanes and groups that are declared between steps; the others stand in the one around them.
    shown: HashSet<ElementId>,
}

/// Lanes and groups that are declared between steps.
fn containers(passages: &[Passage], shown: &mut HashSet<ElementId>) {
    for passage in passages {
        match passage {
            Passage::Container(id) => _ = shown.insert(*id),
            Passage::Decide(_, branches) | Passage::Together(branches) => {
                branches.iter().for_each(|branch| containers(&branch.body, shown));
            }
            Passage::Repeat { body, .. } | Passage::Within { body, .. } => containers(body, shown),
            Passage::Step(_) | Passage::Go(_) => {}
        }
    }
}

impl Telling<'_> {
    /// Passages in order; `place` is the lane or the group that they stand in.
    fn passages(&self, passages: &[Passage], place: Option<ElementId>) -> Lines {
        let diagram = self.outline.diagram;
        let mut lines = Lines::default();
        for passage in passages {
            match passage {
                Passage::Step(id) => {
                    let line = self.element(*id, place, ElementKind::Step);
                    lines.push_with(diagram.element(*id).span, line, self.details(*id));
                }
                Passage::Container(id) => self.container(*id, place, &mut lines),
                Passage::Within { place: inner, span, body } => {
                    let line = format!("in {}", self.outline.naming.path(*inner, None));
                    lines.push_with(*span, line, self.passages(body, Some(*inner)));
                }
                Passage::Decide(id, branches) => {
                    let line = self.element(*id, place, ElementKind::Step);
                    let inside = diagram.element(*id).parent;
                    let mut fixed = Lines::default();
                    for (i, branch) in branches.iter().enumerate() {
                        self.branch(opening(branch, i), branch, inside, &mut fixed);
                    }
                    lines.push_with(diagram.element(*id).span, line, self.details(*id).among(fixed));
                }
                Passage::Together(parts) => {
                    for (i, part) in parts.iter().enumerate() {
                        let word = if i == 0 { "together" } else { "and" };
                        self.branch(format!("{word}{}", label(part.label.as_ref())), part, place, &mut lines);
                    }
                }
                Passage::Repeat { first, body } => {
                    let element = diagram.element(*first);
                    let said = element.label.as_ref().map(text).unwrap_or_else(|| "\"\"".to_owned());
                    let line = format!("repeat {said}{}{}", self.elsewhere(element, place), traits(&element.traits));
                    lines.push_with(element.span, line, self.passages(body, element.parent));
                }
                Passage::Go(Arrow { to, label: said, span, .. }) => {
                    let to = self.outline.naming.paths(to, None);
                    lines.push(*span, format!("go {to}{}", label(said.as_ref())));
                }
            }
        }
        lines
    }

    fn branch(&self, opening: String, branch: &Branch, place: Option<ElementId>, lines: &mut Lines) {
        lines.push_with(branch.span, opening, self.passages(&branch.body, place));
    }

    /// The line of an element that stands in `place`, or elsewhere.
    fn element(&self, id: ElementId, place: Option<ElementId>, usual: ElementKind) -> String {
        let element = self.outline.diagram.element(id);
        let elsewhere = self.elsewhere(element, place);
        format!(
            "{}{elsewhere}{}",
            declared(element, element.kind.word(), &self.outline.naming.own(element), usual),
            traits(&element.traits)
        )
    }

    /// `in NAME` for what does not stand where its line does.
    fn elsewhere(&self, element: &Element, place: Option<ElementId>) -> String {
        let elsewhere = element.parent.filter(|_| element.parent != place);
        elsewhere.map(|id| format!(" in {}", self.outline.naming.path(id, None))).unwrap_or_default()
    }

    /// What is indented under a step.
    fn details(&self, id: ElementId) -> Lines {
        let diagram = self.outline.diagram;
        let mut lines = Lines::default();
        properties(diagram.element(id), &mut lines);
        self.outline.asides(Some(id), &mut lines);
        let place = diagram.element(id).parent;
        for aside in self.asides.get(&id).into_iter().flatten() {
            let line = format!("aside {}", self.element(*aside, place, ElementKind::Group));
            lines.push(diagram.element(*aside).span, line);
        }
        lines.in_order()
    }

    fn container(&self, id: ElementId, place: Option<ElementId>, lines: &mut Lines) {
        let element = self.outline.diagram.element(id);
        let around = if element.kind == ElementKind::Lane { None } else { place };
        let line = self.element(id, around, ElementKind::Step);
        let mut inner = Lines::default();
        for child in self.outline.children(Some(id)) {
            let kind = self.outline.diagram.element(*child).kind;
            if matches!(kind, ElementKind::Lane | ElementKind::Group) && !self.shown.contains(child) {
                self.container(*child, Some(id), &mut inner);
            }
        }
        properties(element, &mut inner);
        self.outline.asides(Some(id), &mut inner);
        lines.push_with(element.span, line, inner.in_order());
    }
}

/// How a branch of a decision begins.
fn opening(branch: &Branch, number: usize) -> String {
    let is_bare = branch.label.as_ref().is_some_and(|l| l.text() == "otherwise");
    match branch.opening {
        Opening::Otherwise if is_bare => "otherwise".to_owned(),
        Opening::Otherwise => format!("otherwise{}", label(branch.label.as_ref())),
        Opening::Labelled if number == 0 => format!("when{}", label(branch.label.as_ref())),
        Opening::Labelled => format!("or{}", label(branch.label.as_ref())),
    }
}
