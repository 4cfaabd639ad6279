//! Classes that inherit from each other in a circle.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// One report for each circle, at the relation that closes it.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Extends, Verb::Implements]);
    let circle_of = arrows.components();
    let mut members: BTreeMap<usize, Vec<ElementId>> = BTreeMap::new();
    for (id, _) in diagram.ids() {
        members.entry(circle_of[id.index()]).or_default().push(id);
    }
    let mut shown: BTreeSet<usize> = BTreeSet::new();
    for relation in diagram.relations.iter().filter(|r| matches!(r.verb, Verb::Extends | Verb::Implements)) {
        let circle = circle_of[relation.from.index()];
        if circle == circle_of[relation.to.index()] && shown.insert(circle) {
            let classes = members[&circle].iter().map(|id| diagram.element(*id).called()).collect();
            diags.report(relation.span, Message::InheritanceCycle { classes });
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
