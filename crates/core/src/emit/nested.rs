//! Architectures and networks: elements inside elements, and relations where they were written.

use super::lines::Lines;
use super::outline::Outline;
use super::phrases::{clause, declared, end, label, properties, text, traits};
use super::sets;
use crate::model::{Content, Diagram, ElementId, EndText, Relation, Verb};

/// The lines of a block.
pub(super) fn body(diagram: &Diagram) -> Lines {
    within(&Outline::of(diagram), None)
}

/// The lines that declare some elements, with what lies in them.
pub(super) fn elements(outline: &Outline<'_>, ids: &[ElementId]) -> Lines {
    let usual = outline.naming.usual;
    let line = |_: ElementId, e: &crate::model::Element, names: &str| {
        format!("{}{}", declared(e, e.kind.word(), names, usual), traits(&e.traits))
    };
    outline.declarations(ids, line, |id| within(outline, Some(id)))
}

fn within(outline: &Outline<'_>, holder: Option<ElementId>) -> Lines {
    let diagram = outline.diagram;
    let elements = elements(outline, outline.children(holder));
    let mut loose = Lines::default();
    if let Some(id) = holder {
        properties(diagram.element(id), &mut loose);
    }
    if let Content::Architecture(parts) = &diagram.content {
        for part in parts.iter().filter(|part| part.inside == holder) {
            loose.push(part.path.span, format!("from {}", text(&part.path)));
        }
    }
    relations(outline, outline.relations(holder), holder, &mut loose);
    outline.asides(holder, &mut loose);
    loose.among(elements)
}

/// Statements, those on sets in one line.
pub(super) fn relations(
    outline: &Outline<'_>, relations: &[&Relation], written_in: Option<ElementId>, lines: &mut Lines,
) {
    for group in sets::grouped(relations, |r| r.span, |group| sides(outline, group, written_in).is_some()) {
        let Some((from, to)) = sides(outline, group, written_in) else { continue };
        let relation = group[0];
        // In the body of its only subject a statement begins with its verb.
        let is_bare = group.iter().all(|r| Some(r.from) == written_in && *r.ends[0] == EndText::default());
        let subject = if is_bare { String::new() } else { format!("{} ", sets::folded(from)) };
        let (verb, to) = (relation.verb.word(), sets::folded(to));
        let said = format!("{}{}", label(relation.label.as_ref()), clause("over", relation.over.as_ref()));
        lines.push(relation.span, format!("{subject}{verb} {to}{said}{}", traits(&relation.traits)));
    }
}

/// Subjects and objects of relations that one line holds; `None` if no line does.
fn sides(
    outline: &Outline<'_>, group: &[&Relation], written_in: Option<ElementId>,
) -> Option<(Vec<String>, Vec<String>)> {
    let first = group[0];
    let said = |r: &Relation| (r.verb, r.label.as_ref().map(text), r.over.as_ref().map(text), traits(&r.traits));
    if group.iter().any(|r| said(r) != said(first)) {
        return None;
    }
    let written = |id: ElementId, text: &EndText| end(outline.naming.path(id, written_in), text);
    let pairs: Vec<(String, String)> =
        group.iter().map(|r| (written(r.from, &r.ends[0]), written(r.to, &r.ends[1]))).collect();
    // Lines without direction join two of one set once.
    if first.verb == Verb::Joins && group.len() > 1 { None } else { sets::product(&pairs) }
}
