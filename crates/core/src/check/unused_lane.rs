//! A lane in which nothing happens.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind};

/// Lanes without a step.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let holds = diagram.holds();
    for (id, lane) in diagram.ids().filter(|(_, e)| e.kind == ElementKind::Lane) {
        if !holds[id.index()] {
            diags.report(lane.span, Message::UnusedLane { lane: lane.called() });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn every_lane_is_used() {
        let text = "flow f\n  lane a \"A\"\n  lane b \"B\"\n  in a\n    begin \"x\"\n    finish \"y\"\n";
        assert_eq!(lines(text, "unused-lane"), [3]);
        assert_eq!(lines(&text.replace("\"y\"", "\"y\" in b"), "unused-lane"), [0_u32; 0]);
    }
}
