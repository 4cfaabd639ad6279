//! The diagram as it will be: all that is in the text, and what is new. What is new stands, in this model only, behind every
//! byte of the text, so that a place tells what a line is: known or new.

use super::matching::Matched;
use super::place::{move_body, moved};
use crate::model::{Content, Diagram, Element, ElementId, Relation, RelationId, Verb};
use crate::source::Unique;
use crate::syntax::Label;
use std::collections::BTreeSet;

/// The diagram as it will be.
pub(super) struct Whole {
    pub(super) diagram: Diagram,
    /// The numbers of found elements here.
    numbers: Vec<ElementId>,
    /// The numbers of found relations here; of those alone that a line says.
    relations: Vec<Option<RelationId>>,
    /// Elements that no line of the text declares.
    new: BTreeSet<ElementId>,
    /// How many relations are in the text.
    known: usize,
    /// The names of its elements.
    names: Unique,
}

impl Whole {
    /// Elements and relations; [`contents`](super::contents) adds what one kind alone holds.
    pub(super) fn of(own: &Diagram, facts: &Diagram, matched: &Matched) -> Self {
        let (diagram, known) = (own.clone(), own.relations.len());
        let mut names = Unique::default();
        own.elements.iter().for_each(|element| _ = names.take(&element.name));
        let mut whole =
            Self { diagram, numbers: Vec::new(), relations: Vec::new(), new: BTreeSet::new(), known, names };
        facts.ids().for_each(|(id, element)| whole.take_element(id, element, matched));
        for (relation, own) in facts.relations.iter().zip(matched.relations(own, facts, &whole.numbers)) {
            let number = own.or_else(|| whole.take_relation(facts, relation));
            whole.relations.push(number);
        }
        whole
    }

    /// The number here of a found element.
    pub(super) fn number(&self, found: ElementId) -> ElementId {
        self.numbers[found.index()]
    }

    /// The numbers here of found elements.
    pub(super) fn numbers(&self, found: &[ElementId]) -> Vec<ElementId> {
        found.iter().map(|id| self.number(*id)).collect()
    }

    /// The number here of a found relation.
    pub(super) fn relation(&self, found: RelationId) -> Option<RelationId> {
        self.relations[found.index()]
    }

    /// Whether an element is not in the text.
    pub(super) fn is_new(&self, id: ElementId) -> bool {
        self.new.contains(&id)
    }

    /// Whether a relation is not in the text.
    pub(super) fn is_new_relation(&self, id: RelationId) -> bool {
        id.index() >= self.known
    }

    /// The relations of the text that were found.
    pub(super) fn found_relations(&self) -> BTreeSet<RelationId> {
        self.relations.iter().flatten().copied().filter(|id| !self.is_new_relation(*id)).collect()
    }

    /// A name that nothing else in the diagram has.
    fn free_name(&mut self, name: &str) -> String {
        match name.is_empty() {
            true => String::new(),
            false => self.names.give(name, |number| format!("{name}_{number}")),
        }
    }

    fn take_element(&mut self, id: ElementId, element: &Element, matched: &Matched) {
        let own = matched.own(id);
        // What the text only mentions is declared now.
        let is_mentioned = |own: &ElementId| self.diagram.element(*own).implicit && !element.implicit;
        if let Some(own) = own.filter(|own| !is_mentioned(own)) {
            self.numbers.push(own);
            return;
        }
        let number = own.unwrap_or(ElementId(self.diagram.elements.len() as u32));
        let parent = element.parent.map(|parent| self.number(parent));
        let known = own.map(|own| self.diagram.element(own).name.clone());
        let name = known.unwrap_or_else(|| self.free_name(&element.name));
        let shown = if name.is_empty() { element.shown().text() } else { name.clone() };
        let key = parent.map_or(shown.clone(), |p| format!("{}.{shown}", self.diagram.element(p).key));
        let label = element.label.as_ref().map(|label| Label { span: moved(label.span), ..label.clone() });
        let mut class = element.class.clone();
        class.iter_mut().for_each(|body| move_body(body));
        let element = Element { key, name, parent, label, class, span: moved(element.span), ..element.clone() };
        match own {
            Some(own) => self.diagram.elements[own.index()] = element,
            None => self.diagram.elements.push(element),
        }
        self.new.insert(number);
        self.numbers.push(number);
    }

    /// Adds a relation that is not in the text, if a line says it.
    fn take_relation(&mut self, facts: &Diagram, relation: &Relation) -> Option<RelationId> {
        let (from, to) = (self.number(relation.from), self.number(relation.to));
        let is_said = match relation.verb {
            // Remarks are edited and removed by hand: they come with what they are about only, and so does what stands beside
            // a step or below an item.
            Verb::Remarks | Verb::Holds | Verb::Aside => self.is_new(to),
            // These follow from the order of steps.
            Verb::Then | Verb::Onward => !matches!(facts.content, Content::Flow(_)),
            _ => true,
        };
        // What a column refers to is said by the column.
        let is_said = is_said && !facts.is_said_by_columns(relation);
        // It stands where it stands in the facts if that is new as well, at the level of the block otherwise.
        let written_in = relation.written_in.map(|id| self.number(id)).filter(|id| self.is_new(*id));
        is_said.then(|| {
            self.diagram.relations.push(Relation {
                from,
                to,
                written_in,
                span: moved(relation.span),
                ..relation.clone()
            });
            RelationId(self.diagram.relations.len() as u32 - 1)
        })
    }
}
