//! A model spread over several files: `from "gateway.bathy"` inside an architecture puts the architecture of that file there.
//! Its elements are declared where the line stands; what it only mentions is what bears that name in the whole model, or
//! comes into being at block level. What is wrong with a part in this place is reported at the line.

use super::build::{Build, Draft};
use super::names::{Lookup, report_ambiguous};
use super::{Content, Diagram, DiagramKind, Element, ElementId, Part, Relation, WrittenConstraint};
use crate::diag::{Diagnostics, Message};
use crate::source::Span;
use crate::source::world::name_of;
use crate::syntax::{Cursor, Path};

/// A part whose elements are declared, and whose relations are not yet there.
pub(super) struct Taken<'a> {
    part: &'a Diagram,
    /// The numbers of its elements here; `None` for what it only mentions.
    numbers: Vec<Option<ElementId>>,
    inside: Option<ElementId>,
    span: Span,
}

/// Reads the line, and declares the elements of the part.
pub(super) fn declare<'a>(
    build: &mut Build<'a>, cursor: &mut Cursor<'a>, inside: Option<ElementId>, diags: &mut Diagnostics,
) -> Option<Taken<'a>> {
    cursor.leaf("`from`", diags);
    cursor.word();
    let label = cursor.expect_label("from", diags)?;
    cursor.finish(&[], diags);
    let (span, path) = (label.span, label.text());
    if let Content::Architecture(parts) = &mut build.diagram.content {
        parts.push(Part { path: label, inside });
    }
    // A path that leads nowhere was reported when the files were read.
    let file = name_of(&build.source.name, &path)?;
    let imports = build.imports?;
    let is_read = imports.sources.iter().any(|s| s.name == file);
    let parts = imports.diagrams().zip(&imports.files);
    let models: Vec<&Diagram> =
        parts.filter(|(d, f)| **f == file && d.kind == DiagramKind::Architecture).map(|(d, _)| d).collect();
    let [part] = models.as_slice() else {
        if is_read {
            diags.report(span, Message::PartOfWhat { path, count: models.len() });
        }
        return None;
    };
    let mut numbers: Vec<Option<ElementId>> = Vec::with_capacity(part.elements.len());
    for element in &part.elements {
        let parent = element.parent.and_then(|p| numbers[p.index()]).or(inside);
        numbers.push(if element.implicit { None } else { place(build, element, parent, span, diags) });
    }
    Some(Taken { part, numbers, inside, span })
}

/// Declares one element of a part.
fn place(
    build: &mut Build<'_>, element: &Element, parent: Option<ElementId>, span: Span, diags: &mut Diagnostics,
) -> Option<ElementId> {
    let first = if element.name.is_empty() { None } else { build.declared_before(&element.name, parent) };
    if let Some(first) = first {
        diags.report(span, Message::DeclaredTwice { name: element.name.clone(), first });
        return None;
    }
    let (label, traits) = (element.label.clone(), element.traits.clone());
    let draft = Draft { label, parent, traits, ..Draft::bare(element.kind, &element.name, span) };
    let id = build.add(draft, diags)?;
    let made = &mut build.diagram.elements[id.index()];
    made.span = element.span;
    made.properties = element.properties.clone();
    Some(id)
}

/// Adds the relations of a part, now that all elements of the model are declared.
pub(super) fn relate(build: &mut Build<'_>, taken: Taken<'_>, diags: &mut Diagnostics) {
    let Taken { part, mut numbers, inside, span } = taken;
    for (element, number) in part.elements.iter().zip(&mut numbers).filter(|(e, _)| e.implicit) {
        let path = Path::plain(&element.name, span);
        *number = match build.names.find(&build.diagram, &path, inside) {
            Lookup::Found(found) => Some(found),
            Lookup::Missing => {
                let draft = Draft { implicit: true, ..Draft::bare(element.kind, &element.name, span) };
                build.add(draft, diags)
            }
            Lookup::Ambiguous(found) => {
                report_ambiguous(&build.diagram, &path, &found, diags);
                None
            }
        };
    }
    for relation in &part.relations {
        let (Some(from), Some(to)) = (numbers[relation.from.index()], numbers[relation.to.index()]) else { continue };
        if build.reports_own_container(from, to, span, diags) {
            continue;
        }
        let id = build.relate(from, to, relation.verb, span);
        let made = &mut build.diagram.relations[id.index()];
        let key = std::mem::take(&mut made.key);
        *made = Relation { key, from, to, written_in: inside, ..relation.clone() };
    }
    let constraints = part.picture.constraints.iter();
    let constraints = constraints.filter_map(|written| {
        let constraint = written.constraint.renumbered(|id| numbers[id.index()])?;
        Some(WrittenConstraint { constraint, written_in: inside, span: written.span })
    });
    build.diagram.picture.constraints.extend(constraints);
}
