//! A class that extends an interface, where it implements one.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementKind, Verb};

/// `extends` from a class to an interface.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    for relation in diagram.relations.iter().filter(|r| r.verb == Verb::Extends) {
        let (class, interface) = (diagram.element(relation.from), diagram.element(relation.to));
        if interface.kind == ElementKind::Interface && class.kind != ElementKind::Interface {
            let (class, interface) = (class.called(), interface.called());
            diags.report(relation.span, Message::ExtendsInterface { class, interface });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn classes_implement_interfaces() {
        let text = "classes c\n  interface I\n  interface J extends I\n  class A extends I\n  class B implements I\n";
        assert_eq!(lines(text, "extends-interface"), [4]);
    }
}
