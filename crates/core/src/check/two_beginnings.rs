//! A flow that begins twice.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind};

/// Every `begin` after the first.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut begins = diagram.elements.iter().filter(|e| e.kind == ElementKind::Begin);
    let Some(first) = begins.next() else { return };
    for other in begins {
        diags.report(other.span, Message::TwoBeginnings { first: first.span });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn one_beginning_is_enough() {
        assert_eq!(lines("flow f\n  begin \"a\"\n  begin \"b\"\n  finish \"c\"\n", "two-beginnings"), [3]);
        assert_eq!(lines("flow f\n  begin \"a\"\n  finish \"c\"\n", "two-beginnings"), [0_u32; 0]);
    }
}
