//! A state that no transition leads to.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, ElementKind, Verb};

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
    for (id, state) in diagram.ids().filter(|(_, e)| e.kind == ElementKind::State) {
        if !entered[id.index()] && !begins(diagram, id) {
            diags.report(state.span, Message::NoWayIn { state: state.called() });
        }
    }
}

/// Whether a state is the first of a scope without a `begin`.
fn begins(diagram: &Diagram, id: ElementId) -> bool {
    let scope = diagram.element(id).parent;
    let here = |kind| diagram.ids().find(|(_, e)| e.parent == scope && e.kind == kind).map(|(id, _)| id);
    let has_begin = here(ElementKind::Begin).is_some();
    let first = here(ElementKind::State);
    !has_begin && first == Some(id)
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
