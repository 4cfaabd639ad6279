//! A flow without a beginning: what sets it off is not said.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind};

/// A flow with steps and no `begin`.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let is_step = |kind: ElementKind| !kind.is_box() && kind != ElementKind::Remark;
    let mut steps = diagram.elements.iter().filter(|e| is_step(e.kind)).peekable();
    // A connector takes up a flow that begins on another page.
    let begins = |kind| matches!(kind, ElementKind::Begin | ElementKind::Connector);
    if steps.peek().is_some() && !steps.any(|e| begins(e.kind)) {
        diags.report(diagram.span, Message::NoBeginning { flow: diagram.name.clone() });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn a_flow_says_what_sets_it_off() {
        assert_eq!(lines("flow f\n  \"a\"\n  finish \"b\"\n", "no-beginning"), [1]);
        assert_eq!(lines("flow f\n  begin \"a\"\n  finish \"b\"\n", "no-beginning"), [0_u32; 0]);
    }
}
