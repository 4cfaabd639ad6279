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

    /// For every element, the number of its strongly connected component (Kosaraju and Sharir 1981).
    pub(super) fn components(&self) -> Vec<usize> {
        let count = self.forward.len();
        let mut order = Vec::with_capacity(count);
        let mut seen = vec![false; count];
        for start in 0..count {
            // Each entry is an element and how many of its arrows were followed.
            let mut path = vec![(start, 0)];
            if std::mem::replace(&mut seen[start], true) {
                continue;
            }
            while let Some((at, next)) = path.last_mut() {
                match self.forward[*at].get(*next) {
                    Some(to) => {
                        *next += 1;
                        if !std::mem::replace(&mut seen[to.index()], true) {
                            path.push((to.index(), 0));
                        }
                    }
                    None => {
                        order.push(*at);
                        path.pop();
                    }
                }
            }
        }
        let mut component = vec![usize::MAX; count];
        for (number, start) in order.into_iter().rev().enumerate() {
            let mut work = vec![start];
            while let Some(at) = work.pop() {
                if component[at] == usize::MAX {
                    component[at] = number;
                    work.extend(self.backward[at].iter().map(|id| id.index()));
                }
            }
        }
        component
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
