//! Which found element is which of the text: by its origin, by its path, by likeness.

use super::pairing;
use crate::compare::Matching;
use crate::model::{Diagram, DiagramKind, Element, ElementId, Relation, RelationId, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// Pairs of found elements and those of the text.
pub(super) struct Matched {
    own: BTreeMap<usize, usize>,
}

/// What an element was imported from.
pub(super) fn origin(element: &Element) -> Option<String> {
    element.properties.origin.as_ref().map(|label| label.text())
}

impl Matched {
    pub(super) fn of(own: &Diagram, facts: &Diagram) -> Self {
        let mut matched = Self { own: BTreeMap::new() };
        let mut taken: BTreeSet<usize> = BTreeSet::new();
        // Neither the found one nor that of the text is paired twice.
        let mut pair = |found: usize, at: usize| {
            if !matched.own.contains_key(&found) && taken.insert(at) {
                matched.own.insert(found, at);
            }
        };
        let origins: BTreeMap<String, usize> =
            own.elements.iter().enumerate().filter_map(|(i, e)| Some((origin(e)?, i))).collect();
        let keys: BTreeMap<&str, usize> = own.elements.iter().enumerate().map(|(i, e)| (e.key.as_str(), i)).collect();
        // 1. By what they were imported from.
        for (i, element) in facts.elements.iter().enumerate() {
            if let Some(at) = origin(element).and_then(|origin| origins.get(&origin)) {
                pair(i, *at);
            }
        }
        // 2. By their paths, where the other one says nothing else about where it comes from.
        let is_free = |at: &usize| origin(&own.elements[*at]).is_none();
        for (i, element) in facts.elements.iter().enumerate() {
            if let Some(at) = keys.get(element.key.as_str()).copied().filter(is_free) {
                pair(i, at);
            }
        }
        // 3. By likeness, as versions are compared.
        let alike = Matching::of(own, facts);
        for i in 0..facts.elements.len() {
            if let Some(at) = alike.to_old.get(&i).copied().filter(is_free) {
                pair(i, at);
            }
        }
        matched
    }

    /// The element of the text that a found one is.
    pub(super) fn own(&self, found: ElementId) -> Option<ElementId> {
        self.own.get(&found.index()).map(|at| ElementId(*at as u32))
    }

    /// The relations of the text that found ones are. `numbers` are those of found elements in the whole. Those with equal labels
    /// are taken first.
    pub(super) fn relations(&self, own: &Diagram, facts: &Diagram, numbers: &[ElementId]) -> Vec<Option<RelationId>> {
        if own.kind == DiagramKind::Sequence {
            return pairing::pairs(own, facts, numbers);
        }
        let mut known: BTreeMap<Ends, Vec<RelationId>> = BTreeMap::new();
        for (i, relation) in own.relations.iter().enumerate().rev() {
            let id = RelationId(i as u32);
            known.entry(ends(relation, relation.from, relation.to)).or_default().push(id);
        }
        let found = |r: &Relation| ends(r, numbers[r.from.index()], numbers[r.to.index()]);
        let mut pairs = vec![None; facts.relations.len()];
        for with_label in [true, false] {
            for (pair, relation) in pairs.iter_mut().zip(&facts.relations).filter(|(pair, _)| pair.is_none()) {
                let Some(ids) = known.get_mut(&found(relation)) else { continue };
                let is_it = |id: &RelationId| !with_label || said(own.relation(*id)) == said(relation);
                *pair = ids.iter().rposition(is_it).map(|at| ids.remove(at));
            }
        }
        pairs
    }
}

/// The relations of the text between what was imported that are not among those that were found.
pub(super) fn lost_relations(own: &Diagram, found: &BTreeSet<RelationId>) -> Vec<usize> {
    let is_imported = |id: ElementId| origin(own.element(id)).is_some();
    // What follows from the order of lines is no line of its own.
    let is_line = |r: &Relation| {
        let follows = matches!(r.verb, Verb::Remarks | Verb::Holds | Verb::Aside | Verb::Onward);
        r.span.source.is_root() && !follows && own.kind != DiagramKind::Flow && !own.is_said_by_columns(r)
    };
    let is_lost = |(i, r): &(usize, &Relation)| {
        is_line(r) && is_imported(r.from) && is_imported(r.to) && !found.contains(&RelationId(*i as u32))
    };
    own.relations.iter().enumerate().filter(is_lost).map(|(i, _)| i).collect()
}

/// What people change about a relation: its label, or what sets a transition off.
fn said(relation: &Relation) -> [Option<String>; 3] {
    let transition = relation.transition.as_deref();
    let [trigger, guard] = [transition.and_then(|t| t.trigger.as_ref()), transition.and_then(|t| t.guard.as_ref())];
    [relation.label.as_ref(), trigger, guard].map(|label| label.map(|label| label.text()))
}

/// What tells a relation from others, whatever its label: its verb, its ends and their ports.
type Ends = (&'static str, [(ElementId, Option<String>); 2]);

fn ends(relation: &Relation, from: ElementId, to: ElementId) -> Ends {
    let port = |i: usize| relation.ends[i].port.clone();
    let mut both = [(from, port(0)), (to, port(1))];
    // Lines without direction are the same from both sides.
    if relation.verb == Verb::Joins {
        both.sort();
    }
    (relation.verb.word(), both)
}
