//! Where lines lead, for the rules: elements as nodes, relations as arrows. Linear in both.

use crate::model::{Diagram, ElementId, Relation, Verb};

/// Arrows of a diagram, forwards and back.
pub(super) struct Arrows {
    forward: Vec<Vec<ElementId>>,
    backward: Vec<Vec<ElementId>>,
}

impl Arrows {
    /// The arrows that some verbs draw.
    pub(super) fn of(diagram: &Diagram, verbs: &[Verb]) -> Self {
        Self::matching(diagram, |r| verbs.contains(&r.verb))
    }

    /// The arrows of some relations.
    pub(super) fn matching(diagram: &Diagram, keep: impl Fn(&Relation) -> bool) -> Self {
        let mut arrows = Self {
            forward: vec![Vec::new(); diagram.elements.len()],
            backward: vec![Vec::new(); diagram.elements.len()],
        };
        for relation in diagram.relations.iter().filter(|r| keep(r)) {
            arrows.forward[relation.from.index()].push(relation.to);
            arrows.backward[relation.to.index()].push(relation.from);
        }
        arrows
    }

    /// What an element leads to.
    pub(super) fn out(&self, id: ElementId) -> &[ElementId] {
        &self.forward[id.index()]
    }

    /// What leads to an element.
    pub(super) fn back(&self, id: ElementId) -> &[ElementId] {
        &self.backward[id.index()]
    }

    /// For every element, whether it is reached from some of them, those included.
    pub(super) fn reached(&self, from: impl IntoIterator<Item = ElementId>) -> Vec<bool> {
        flood(&self.forward, from)
    }

    /// For every element, whether it leads to some of them, those included.
    pub(super) fn reaching(&self, to: impl IntoIterator<Item = ElementId>) -> Vec<bool> {
        flood(&self.backward, to)
    }
}

fn flood(arrows: &[Vec<ElementId>], from: impl IntoIterator<Item = ElementId>) -> Vec<bool> {
    let mut seen = vec![false; arrows.len()];
    let mut work: Vec<ElementId> = from.into_iter().collect();
    while let Some(id) = work.pop() {
        if !std::mem::replace(&mut seen[id.index()], true) {
            work.extend(&arrows[id.index()]);
        }
    }
    seen
}
