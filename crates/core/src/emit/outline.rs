//! Which lines stand in which body: elements by what they lie in, relations and remarks by where they were written.

use super::lines::Lines;
use super::phrases::Naming;
use super::{picture, sets};
use crate::model::{Diagram, Element, ElementId, ElementKind, Relation, Verb};
use crate::source::Span;
use crate::syntax::Label;
use std::collections::HashMap;

/// A diagram, ready to be written body by body.
pub(super) struct Outline<'a> {
    pub(super) diagram: &'a Diagram,
    pub(super) naming: Naming<'a>,
    children: HashMap<Option<ElementId>, Vec<ElementId>>,
    relations: HashMap<Option<ElementId>, Vec<&'a Relation>>,
    remarks: HashMap<Option<ElementId>, Vec<Remark<'a>>>,
}

/// A remark and what it is about.
struct Remark<'a> {
    element: &'a Element,
    targets: Vec<ElementId>,
}

impl<'a> Outline<'a> {
    pub(super) fn of(diagram: &'a Diagram) -> Self {
        let naming = Naming::of(diagram);
        let (children, relations, remarks) = (HashMap::new(), HashMap::new(), HashMap::new());
        let mut outline = Self { diagram, naming, children, relations, remarks };
        // What lies in other files is written there.
        let is_own = |span: Span| span.source == diagram.span.source;
        let is_listed = |e: &Element| !e.implicit && e.kind != ElementKind::Remark && is_own(e.span);
        for (id, element) in diagram.ids().filter(|(_, e)| is_listed(e)) {
            outline.children.entry(element.parent).or_default().push(id);
        }
        let mut targets: HashMap<ElementId, Vec<&Relation>> = HashMap::new();
        for relation in diagram.relations.iter().filter(|r| is_own(r.span)) {
            if relation.verb == Verb::Remarks {
                targets.entry(relation.from).or_default().push(relation);
            } else {
                outline.relations.entry(relation.written_in).or_default().push(relation);
            }
        }
        for (id, element) in diagram.ids().filter(|(_, e)| e.kind == ElementKind::Remark && is_own(e.span)) {
            let about = targets.remove(&id).unwrap_or_default();
            let Some(written_in) = about.first().map(|r| r.written_in) else { continue };
            let targets = about.iter().map(|r| r.to).collect();
            outline.remarks.entry(written_in).or_default().push(Remark { element, targets });
        }
        outline
    }

    /// The elements that lie in another, or at the level of the block.
    pub(super) fn children(&self, holder: Option<ElementId>) -> &[ElementId] {
        self.children.get(&holder).map_or(&[], Vec::as_slice)
    }

    /// The relations that were written in the body of an element, or at the level of the block.
    pub(super) fn relations(&self, holder: Option<ElementId>) -> &[&'a Relation] {
        self.relations.get(&holder).map_or(&[], Vec::as_slice)
    }

    /// Remarks and constraints that were written in a body.
    pub(super) fn asides(&self, holder: Option<ElementId>, lines: &mut Lines) {
        for remark in self.remarks.get(&holder).into_iter().flatten() {
            let line = picture::remark(remark.element, &remark.targets, holder, &self.naming);
            lines.push(remark.element.span, line);
        }
        let (block, picture) = (self.diagram.span, &self.diagram.picture);
        match holder {
            None => picture::lines(block, picture, &self.naming, lines),
            Some(_) => picture::constraints(picture, holder, block, &self.naming, lines),
        }
    }

    /// The lines that declare elements. `line` writes one for an element with the names and the label of its set; `body`
    /// writes what is indented under it.
    pub(super) fn declarations(
        &self, ids: &[ElementId], line: impl Fn(ElementId, &Element, &str) -> String, body: impl Fn(ElementId) -> Lines,
    ) -> Lines {
        let mut bodies: HashMap<ElementId, Lines> = ids.iter().map(|id| (*id, body(*id))).collect();
        let span = |id: &ElementId| self.diagram.element(*id).span;
        let mut lines = Lines::default();
        let groups = sets::grouped(ids, span, |group| self.is_one_set(group, &bodies));
        for group in groups {
            let first = self.diagram.element(group[0]);
            let names = group.iter().map(|id| &self.diagram.element(*id).name).filter(|name| !name.is_empty());
            let names = sets::folded(names.map(|name| super::phrases::name(name, self.naming.verbs)).collect());
            let common = Element { label: common_label(first, group.len()), ..first.clone() };
            let body = bodies.remove(&group[0]).unwrap_or_default();
            lines.push_with(first.span, line(group[0], &common, &names), body);
        }
        lines
    }

    /// Whether elements that were declared in one place still say the same.
    fn is_one_set(&self, group: &[ElementId], bodies: &HashMap<ElementId, Lines>) -> bool {
        let first = self.diagram.element(group[0]);
        let label = |e: &Element| common_label(e, group.len()).map(|l| l.runs);
        let traits = |e: &Element| super::phrases::trait_list(&e.traits);
        let is_alike = |e: &Element| {
            (e.kind, e.parent, traits(e), label(e)) == (first.kind, first.parent, traits(first), label(first))
        };
        let mut members = group.iter().map(|id| self.diagram.element(*id));
        members.all(|e| !e.name.is_empty() && is_alike(e))
            && group.iter().all(|id| bodies.get(id) == bodies.get(&group[0]))
    }
}

/// The label that a set of elements was declared with: "Lamp" where this one is "Lamp 4".
fn common_label(element: &Element, count: usize) -> Option<Label> {
    let mut label = element.label.clone()?;
    let figures = &element.name[element.name.trim_end_matches(|c: char| c.is_ascii_digit()).len()..];
    if let Some(last) = label.runs.last_mut()
        && count > 1
        && let Some(cut) = last.text.strip_suffix(figures).and_then(|t| t.strip_suffix(' '))
    {
        last.text = cut.to_owned();
    }
    Some(label)
}
