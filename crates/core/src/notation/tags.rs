//! The tags of elements and relations: what a drawing says of them to those who read it.

use super::context::Context;
use super::words;
use crate::model::{Element, ElementId, ElementKind, RelationId};
use crate::scene::{Holds, Inside, Tag};

/// What an element with this parent lies in.
fn inside(parent: &Element) -> Inside {
    let key = parent.key.clone();
    if parent.kind == ElementKind::Lane { Inside::Lane(key) } else { Inside::Frame(key) }
}

/// The tag of an element.
pub(super) fn element_tag(context: &Context<'_>, id: ElementId, holds: Holds) -> Tag {
    let diagram = &context.view.diagram;
    let element = diagram.element(id);
    let inside = |parent: ElementId| inside(diagram.element(parent));
    Tag::Element {
        id: element.key.clone(),
        kind: element.kind.word().to_owned(),
        says: element.shown().text().replace('\n', " "),
        inside: element.parent.map_or(Inside::Nothing, inside),
        holds,
        line: context.sources.line(element.span),
        file: context.sources.other_file(element.span).map(Into::into),
        opens: context.view.element(id).opens.clone(),
    }
}

/// The tag of a relation.
pub(super) fn relation_tag(context: &Context<'_>, id: RelationId) -> Tag {
    let diagram = &context.view.diagram;
    let relation = diagram.relation(id);
    Tag::Relation {
        id: relation.key.clone(),
        from: diagram.element(relation.from).key.clone(),
        to: diagram.element(relation.to).key.clone(),
        says: words::clause(diagram, relation, context.language),
        steps: context.view.relation(id).steps.clone(),
        line: context.sources.line(relation.span),
        file: context.sources.other_file(relation.span).map(Into::into),
        lines: context.view.relation(id).spans.iter().map(|span| context.sources.line(*span)).collect(),
    }
}
