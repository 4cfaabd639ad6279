//! The tables as a database has them, for the picture of the differences.

use super::{Difference, TableConformance, columns, members, plain_all};
use crate::conform::actual::remove;
use crate::conform::classes::{plain, without};
use crate::model::{ClassBody, Diagram, Element, ElementId, Member, Relation, RelationId, Verb, reference_ends};
use crate::source::Span;
use crate::syntax::Label;
use std::collections::BTreeSet;

/// The tables as the database has them: without what is not there, with columns and references that nobody drew. Compared with the
/// design, it gives the picture of the differences.
pub fn actual_tables(design: &Diagram, conformance: &TableConformance) -> Diagram {
    let mut out = design.clone();
    let mut absent: BTreeSet<ElementId> = BTreeSet::new();
    let mut gone: BTreeSet<RelationId> = BTreeSet::new();
    let of_reference = |element: ElementId, columns: &[String]| {
        let said = members(design.element(element))
            .find(|member| member.refers.as_ref().is_some_and(|reference| reference.columns == columns));
        let relations = (0..).map(RelationId).zip(&design.relations);
        let mut own = relations.filter(|(_, relation)| Some(relation.span) == said.map(|member| member.span));
        own.next().map(|(id, _)| id)
    };
    for difference in &conformance.differences {
        let Some(id) = difference.element else { continue };
        match &difference.what {
            Difference::Absent => _ = absent.insert(id),
            Difference::LineAbsent(relation) => _ = gone.insert(*relation),
            Difference::Multiplicity(relation, of) => {
                for (side, of) in of.iter().enumerate() {
                    let mut end = (*out.relations[relation.index()].ends[side]).clone();
                    end.multiplicity = Some(of.clone());
                    out.relations[relation.index()].ends[side] = end.into();
                }
            }
            Difference::ReferenceAbsent(columns, _) => {
                gone.extend(of_reference(id, columns));
                let body = out.elements[id.index()].class.iter_mut();
                for member in body.flat_map(|body| &mut body.compartments).flat_map(|part| &mut part.members) {
                    if member.span == difference.span && member.constraint.is_none() {
                        member.refers = None;
                    }
                }
            }
            _ => {
                let Some(found) = conformance.pairs.get(&id) else { continue };
                let Some(body) = &mut out.elements[id.index()].class else { continue };
                as_there(body, found, &difference.what, difference.span);
            }
        }
    }
    let ends = (0..).map(RelationId).zip(&design.relations);
    let ends = ends.filter(|(_, relation)| absent.contains(&relation.from) || absent.contains(&relation.to));
    gone.extend(ends.map(|(id, _)| id));
    remove(&mut out, &gone);
    for difference in &conformance.differences {
        if let (Some(from), Difference::ReferenceSurprise(columns, to)) = (difference.element, &difference.what) {
            let Some((to, _)) = design.ids().find(|(_, element)| element.called() == *to) else { continue };
            let mut relation = Relation::between(from, to, Verb::Knows, design.span);
            relation.label = Some(Label::plain(columns.join(", "), design.span));
            let body = conformance.pairs.get(&from).and_then(|found| found.class.as_ref());
            relation.ends = body.map(|body| reference_ends(body, columns)).unwrap_or_default().map(Into::into);
            relation.key = format!("found {}", out.relations.len());
            out.relations.push(relation);
        }
    }
    without(out, &absent)
}

/// Makes a table what it is in the database, in one respect.
fn as_there(body: &mut ClassBody, found: &Element, what: &Difference, span: Span) {
    let of_found = |name: &String| columns(found).find(|member| plain(&member.name()) == plain(name)).cloned();
    match what {
        Difference::ColumnAbsent(_) | Difference::NoCheck(_) => {
            body.compartments.iter_mut().for_each(|part| part.members.retain(|member| member.span != span));
        }
        Difference::ColumnSurprise(name) => {
            let Some(member) = of_found(name) else { return };
            if body.compartments.is_empty() {
                body.compartments.push(crate::model::Compartment { title: None, members: Vec::new() });
            }
            body.compartments[0].members.push(Member { refers: None, ..member });
        }
        Difference::Type(name, _) | Difference::Nullable(name, _) | Difference::Default(name, _) => {
            let Some(other) = of_found(name) else { return };
            for member in body.compartments.iter_mut().flat_map(|part| &mut part.members) {
                if member.constraint.is_none() && plain(&member.name()) == plain(name) {
                    member.text.clone_from(&other.text);
                    member.is_nullable = other.is_nullable;
                }
            }
        }
        Difference::Key(of) => {
            let of = plain_all(of);
            for member in body.compartments.iter_mut().flat_map(|part| &mut part.members) {
                member.key = member.constraint.is_none() && of.contains(&plain(&member.name()));
            }
        }
        Difference::NotUnique(of) => {
            for part in &mut body.compartments {
                part.members.retain(|member| member.span != span || member.constraint.is_none());
                let own = part.members.iter_mut().filter(|member| member.span == span && of == &[member.name()]);
                own.for_each(|member| member.is_unique = false);
            }
        }
        Difference::Unique(of) => {
            let of = plain_all(of);
            for member in body.compartments.iter_mut().flat_map(|part| &mut part.members) {
                member.is_unique |= of == [plain(&member.name())] && member.constraint.is_none();
            }
        }
        _ => {}
    }
}
