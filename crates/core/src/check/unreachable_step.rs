//! A step that no way leads to.

use super::graph::Arrows;
use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, ElementKind, Verb};

/// What is not reached from the beginning; where there is none, from the first step.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let arrows = Arrows::of(diagram, &[Verb::Then, Verb::Onward, Verb::Aside]);
    let is_step = |kind: ElementKind| !kind.is_box() && kind != ElementKind::Remark;
    let steps: Vec<ElementId> = diagram.ids().filter(|(_, e)| is_step(e.kind)).map(|(id, _)| id).collect();
    let begins = steps.iter().copied().filter(|id| diagram.element(*id).kind == ElementKind::Begin);
    let reached = arrows.reached(begins.chain(steps.first().copied()));
    for id in steps.iter().filter(|id| !reached[id.index()]) {
        let element = diagram.element(*id);
        // One report for a stretch: at its head, to which nothing leads at all.
        let is_head = arrows.back(*id).is_empty();
        let off_page = element.kind == ElementKind::Connector;
        if is_head && !off_page && element.kind != ElementKind::Bar {
            diags.report(element.span, Message::UnreachableStep { step: element.called() });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn what_follows_a_finish_is_not_reached() {
        let text = "flow f\n  begin \"a\"\n  finish \"b\"\n  \"c\"\n  \"d\"\n  finish \"e\"\n";
        assert_eq!(lines(text, "unreachable-step"), [4]);
    }

    #[test]
    fn steps_reached_by_go_or_then_are_fine() {
        let text = "flow f\n  begin \"a\"\n  go \"c\"\n  \"c\"\n  finish \"e\"\n";
        assert_eq!(lines(text, "unreachable-step"), [0_u32; 0]);
    }
}
