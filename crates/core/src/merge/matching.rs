//! Which found element is which of the text: by its origin, by its path, by likeness.

use crate::compare::Matching;
use crate::model::{Diagram, Element, ElementId, Relation, Verb};
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
        let origins: BTreeMap<String, usize> =
            own.elements.iter().enumerate().filter_map(|(i, e)| Some((origin(e)?, i))).collect();
        let keys: BTreeMap<&str, usize> = own.elements.iter().enumerate().map(|(i, e)| (e.key.as_str(), i)).collect();
        let mut pair = |found: usize, own: usize, taken: &mut BTreeSet<usize>| {
            if taken.insert(own) {
                matched.own.insert(found, own);
            }
        };
        // 1. By what they were imported from.
        for (i, element) in facts.elements.iter().enumerate() {
            if let Some(at) = origin(element).and_then(|origin| origins.get(&origin)) {
                pair(i, *at, &mut taken);
            }
        }
        // 2. By their paths, where the other one says nothing else about where it comes from.
        let is_free = |at: &usize| origin(&own.elements[*at]).is_none();
        for (i, element) in
            facts.elements.iter().enumerate().filter(|(i, _)| !matched.own.contains_key(i)).collect::<Vec<_>>()
        {
            let at = keys.get(element.key.as_str()).copied().filter(is_free);
            if let Some(at) = at.filter(|at| !taken.contains(at)) {
                taken.insert(at);
                matched.own.insert(i, at);
            }
        }
        // 3. By likeness, as versions are compared.
        let alike = Matching::of(own, facts);
        for i in 0..facts.elements.len() {
            let at = alike.to_old.get(&i).copied().filter(is_free).filter(|at| !taken.contains(at));
            if let (false, Some(at)) = (matched.own.contains_key(&i), at) {
                taken.insert(at);
                matched.own.insert(i, at);
            }
        }
        matched
    }

    /// The element of the text that a found one is.
    pub(super) fn own(&self, found: ElementId) -> Option<ElementId> {
        self.own.get(&found.index()).map(|at| ElementId(*at as u32))
    }

    /// The found relations that are not in the text. `numbers` are those of found elements in the whole.
    pub(super) fn new_relations<'f>(
        &self, own: &Diagram, facts: &'f Diagram, numbers: &[ElementId],
    ) -> Vec<&'f Relation> {
        let mut known: BTreeMap<Ends, usize> = BTreeMap::new();
        own.relations.iter().for_each(|r| *known.entry(ends(r, r.from, r.to)).or_default() += 1);
        let is_new = |relation: &&Relation| {
            let ends = ends(relation, numbers[relation.from.index()], numbers[relation.to.index()]);
            match known.get_mut(&ends).filter(|count| **count > 0) {
                Some(count) => {
                    *count -= 1;
                    false
                }
                None => true,
            }
        };
        facts.relations.iter().filter(is_new).collect()
    }

    /// The relations of the text between what was imported that were not found.
    pub(super) fn lost_relations(&self, own: &Diagram, facts: &Diagram) -> Vec<usize> {
        let mut found: BTreeMap<Ends, usize> = BTreeMap::new();
        for relation in &facts.relations {
            if let (Some(from), Some(to)) = (self.own(relation.from), self.own(relation.to)) {
                *found.entry(ends(relation, from, to)).or_default() += 1;
            }
        }
        let is_imported = |id: ElementId| origin(own.element(id)).is_some();
        let is_lost = |relation: &Relation| {
            is_imported(relation.from) && is_imported(relation.to) && {
                let ends = ends(relation, relation.from, relation.to);
                match found.get_mut(&ends).filter(|count| **count > 0) {
                    Some(count) => {
                        *count -= 1;
                        false
                    }
                    None => true,
                }
            }
        };
        let mut is_lost = is_lost;
        let all = own.relations.iter().enumerate().filter(|(_, r)| r.span.source.is_root() && r.verb != Verb::Remarks);
        all.filter(|(_, relation)| is_lost(relation)).map(|(i, _)| i).collect()
    }
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
