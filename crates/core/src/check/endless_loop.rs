//! Steps that lead to each other and nowhere else: whoever comes there goes round for ever.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, ElementKind, Verb};
use std::collections::BTreeMap;

/// Strongly connected steps that no arrow leaves, and of which none ends the flow.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Then, Verb::Onward]);
    let components = arrows.components();
    let mut loops: BTreeMap<usize, Vec<ElementId>> = BTreeMap::new();
    for (id, _) in diagram.ids() {
        loops.entry(components[id.index()]).or_default().push(id);
    }
    for (component, steps) in loops {
        let stays = |id: &ElementId| arrows.out(*id).iter().all(|to| components[to.index()] == component);
        let is_loop = steps.len() > 1 || steps.iter().any(|id| arrows.out(*id).contains(id));
        let ends = |id: &ElementId| matches!(diagram.element(*id).kind, ElementKind::Finish | ElementKind::Connector);
        if is_loop && steps.iter().all(stays) && !steps.iter().any(ends) {
            let names = steps.iter().map(|id| diagram.element(*id).called()).collect();
            diags.report(diagram.element(steps[0]).span, Message::EndlessLoop { steps: names });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn a_loop_has_a_way_out() {
        let text = "flow f\n  begin \"a\"\n  step read \"Read\"\n  \"Store\"\n  go read\n";
        assert_eq!(lines(text, "endless-loop"), [3]);
        let out = "flow f\n  begin \"a\"\n  step read \"Read\"\n  decide \"More?\"\n    when \"yes\"\n      go read\n    or \"no\"\n      finish \"Done\"\n";
        assert_eq!(lines(out, "endless-loop"), [0_u32; 0]);
    }
}
