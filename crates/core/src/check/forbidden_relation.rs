//! A relation that `never uses` forbids, between the two or anything inside them.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, ElementId, Relation, Verb};

/// Every relation that breaks a rule of the architecture.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    for rule in diagram.relations.iter().filter(|r| r.verb == Verb::NeverUses) {
        for relation in breaking(diagram, rule) {
            let key = |id: ElementId| diagram.element(id).called();
            let reason = rule.label.as_ref().map(|l| l.text());
            let (from, to, line) = (key(rule.from), key(rule.to), rule.line);
            diags.report(relation.span, Message::ForbiddenRelation { from, to, line, reason });
        }
    }
}

/// Whether something breaks a rule: then it is drawn.
pub fn broken(diagram: &Diagram, rule: &Relation) -> bool {
    breaking(diagram, rule).next().is_some()
}

fn breaking<'a>(diagram: &'a Diagram, rule: &'a Relation) -> impl Iterator<Item = &'a Relation> {
    let within = |id: ElementId, outer: ElementId| id == outer || diagram.ancestors(id).any(|a| a == outer);
    let is_use = |r: &&Relation| matches!(r.verb, Verb::Uses | Verb::Calls | Verb::Sends | Verb::Reads | Verb::Writes);
    diagram.relations.iter().filter(is_use).filter(move |r| within(r.from, rule.from) && within(r.to, rule.to))
}

#[cfg(test)]
mod tests {
    use crate::check::support::lines;

    #[test]
    fn never_means_never_for_parts_too() {
        let text = "architecture a\n  system x\n    part p\n  system y\n    part q\n  x never uses y \"why\"\n  p reads q \"all\"\n  q sends p \"back\"\n";
        assert_eq!(lines(text, "forbidden-relation"), [7]);
    }
}
