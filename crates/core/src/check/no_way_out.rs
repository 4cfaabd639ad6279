//! A state that is never left.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind, Verb};

/// States without a transition of their own, of a state around them, or out of a state inside them.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Becomes]);
    let mut left = vec![false; diagram.elements.len()];
    for (id, _) in diagram.ids() {
        for to in arrows.out(id).iter().filter(|to| **to != id) {
            left[id.index()] = true;
            // Leaving a state for one outside leaves what is around it too.
            let around = diagram.ancestors(id).filter(|a| !diagram.ancestors(*to).any(|b| b == *a));
            around.for_each(|a| left[a.index()] = true);
        }
    }
    for (id, state) in diagram.ids().filter(|(_, e)| e.kind == ElementKind::State) {
        let is_left = left[id.index()] || diagram.ancestors(id).any(|a| left[a.index()]);
        if !is_left {
            diags.report(state.span, Message::NoWayOut { state: state.called() });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn every_state_is_left() {
        let text = "states s\n  begin becomes a\n  a becomes b on \"x\"\n  a becomes finish on \"y\"\n";
        assert_eq!(lines(text, "no-way-out"), [3]);
        let text = "states s\n  state a\n    begin becomes b\n    b becomes c on \"x\"\n  a becomes finish on \"y\"\n";
        assert_eq!(lines(text, "no-way-out"), [0_u32; 0]);
    }
}
