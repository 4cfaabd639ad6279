//! Trees: what hangs below an item stands under it.

use super::lines::Lines;
use super::outline::Outline;
use super::phrases::{clause, declared, properties, traits};
use crate::model::{Diagram, ElementId, Relation, Verb};
use std::collections::HashMap;

/// The lines of a block.
pub(super) fn body(diagram: &Diagram) -> Lines {
    let outline = Outline::of(diagram);
    let mut above: HashMap<ElementId, &Relation> = HashMap::new();
    let mut below: HashMap<Option<ElementId>, Vec<ElementId>> = HashMap::new();
    for relation in diagram.relations.iter().filter(|r| r.verb == Verb::Holds) {
        above.insert(relation.to, relation);
    }
    for id in outline.children(None) {
        below.entry(above.get(id).map(|r| r.from)).or_default().push(*id);
    }
    Branches { outline: &outline, above, below }.under(None)
}

struct Branches<'a> {
    outline: &'a Outline<'a>,
    /// The line to what an item hangs below.
    above: HashMap<ElementId, &'a Relation>,
    below: HashMap<Option<ElementId>, Vec<ElementId>>,
}

impl Branches<'_> {
    fn under(&self, holder: Option<ElementId>) -> Lines {
        let ids = self.below.get(&holder).map_or(&[][..], Vec::as_slice);
        let diagram = self.outline.diagram;
        let when = |id: ElementId| clause("when", self.above.get(&id).and_then(|r| r.label.as_ref()));
        let mut items = Lines::default();
        for id in ids {
            let element = diagram.element(*id);
            let naming = &self.outline.naming;
            let line = declared(element, element.kind.word(), &naming.own(element), naming.usual);
            items.push_with(
                element.span,
                format!("{line}{}{}", when(*id), traits(&element.traits)),
                self.under(Some(*id)),
            );
        }
        let mut loose = Lines::default();
        if let Some(id) = holder {
            properties(diagram.element(id), &mut loose);
        }
        self.outline.asides(holder, &mut loose);
        loose.among(items)
    }
}
