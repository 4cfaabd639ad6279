//! Classes that inherit from each other in a circle.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, Verb};
use std::collections::BTreeSet;

/// One report for each circle, at the relation that closes it.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Extends, Verb::Implements]);
    let mut told: BTreeSet<ElementId> = BTreeSet::new();
    // Repeatedly remove what inherits from nothing: what is left lies on circles or below them.
    let mut parents: Vec<usize> = diagram.ids().map(|(id, _)| arrows.out(id).len()).collect();
    let mut work: Vec<ElementId> = diagram.ids().map(|(id, _)| id).filter(|id| parents[id.index()] == 0).collect();
    while let Some(id) = work.pop() {
        for child in arrows.back(id) {
            parents[child.index()] -= 1;
            if parents[child.index()] == 0 {
                work.push(*child);
            }
        }
    }
    for relation in diagram.relations.iter().filter(|r| matches!(r.verb, Verb::Extends | Verb::Implements)) {
        let on_circle = parents[relation.from.index()] > 0 && parents[relation.to.index()] > 0;
        if !on_circle || told.contains(&relation.from) {
            continue;
        }
        let above = arrows.reached([relation.to]);
        if above[relation.from.index()] {
            let below = arrows.reaching([relation.from]);
            let circle: Vec<ElementId> =
                diagram.ids().map(|(id, _)| id).filter(|id| above[id.index()] && below[id.index()]).collect();
            let classes = circle.iter().map(|id| diagram.element(*id).called()).collect();
            diags.report(relation.span, Message::InheritanceCycle { classes });
            told.extend(circle);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn inheritance_is_no_circle() {
        assert_eq!(
            lines("classes c\n  A extends B\n  B extends C\n  C extends A\n  D extends A\n", "inheritance-cycle"),
            [2]
        );
        assert_eq!(lines("classes c\n  A extends A\n", "inheritance-cycle"), [2]);
        assert_eq!(lines("classes c\n  A extends B\n  C extends B\n", "inheritance-cycle"), [0_u32; 0]);
    }
}
