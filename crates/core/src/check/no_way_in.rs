//! A state that no transition leads to.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, ElementKind, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// States that neither they nor a state inside them is entered. Where nothing says where a machine begins,
/// its first state is taken for the beginning.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Becomes]);
    let mut entered = vec![false; diagram.elements.len()];
    for (id, _) in diagram.ids() {
        // A transition of a state to itself does not enter it.
        if arrows.back(id).iter().any(|from| *from != id) {
            entered[id.index()] = true;
            diagram.ancestors(id).for_each(|a| entered[a.index()] = true);
        }
    }
    let firsts = firsts(diagram);
    for (id, state) in diagram.ids().filter(|(_, e)| e.kind == ElementKind::State) {
        if !entered[id.index()] && !firsts.contains(&id) {
            diags.report(state.span, Message::NoWayIn { state: state.called() });
        }
    }
}

/// The first state of every scope without a `begin`.
fn firsts(diagram: &Diagram) -> BTreeSet<ElementId> {
    let mut first: BTreeMap<Option<ElementId>, Option<ElementId>> = BTreeMap::new();
    for (id, element) in diagram.ids() {
        match element.kind {
            ElementKind::Begin => {
                first.insert(element.parent, None);
            }
            ElementKind::State => {
                first.entry(element.parent).or_insert(Some(id));
            }
            _ => {}
        }
    }
    first.into_values().flatten().collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn every_state_is_entered() {
        let text = "states s\n  begin becomes a\n  a becomes finish on \"x\"\n  state b\n  b becomes a on \"y\"\n";
        assert_eq!(lines(text, "no-way-in"), [4]);
        let text = "states s\n  a becomes b on \"x\"\n  b becomes a on \"y\"\n";
        assert_eq!(lines(text, "no-way-in"), [0_u32; 0]);
    }
}
