//! A member that a classifier has already.

use crate::diag::{Diagnostics, Message};
use crate::model::Diagram;
use crate::source::Span;
use std::collections::BTreeMap;

/// Members with the same name, operations with the same name and parameters.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    for element in &diagram.elements {
        let mut seen: BTreeMap<String, Span> = BTreeMap::new();
        let compartments = element.class.iter().flat_map(|body| &body.compartments);
        for member in compartments.flat_map(|c| &c.members) {
            let signature = member.signature();
            if let Some(first) = seen.get(&signature) {
                let (name, first) = (signature, *first);
                diags.report(member.span, Message::DuplicateMember { name, class: element.called(), first });
            } else {
                seen.insert(signature, member.span);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn members_are_named_once() {
        let text =
            "classes c\n  class A\n    + x: Int\n    - x : Text\n    f(a: Int)\n    f(a: Text)\n    f(b: Int): Int\n";
        assert_eq!(lines(text, "duplicate-member"), [4, 7]);
    }
}
