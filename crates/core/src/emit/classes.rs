//! Classifiers with their members, packages, relations.

use super::lines::Lines;
use super::outline::Outline;
use super::phrases::{declared, dotted, label, name, properties, traits, value};
use super::picture::is_within;
use super::{nested, sets};
use crate::model::{
    ClassBody, Content, Diagram, Element, ElementId, Member, Reference, Relation, TableConstraint, Verb,
};

/// The lines of a block.
pub(super) fn body(diagram: &Diagram) -> Lines {
    let outline = Outline::of(diagram);
    let mut loose = Lines::default();
    if let Content::Classes(classes) = &diagram.content {
        let below = classes.crows_feet.filter(|span| !is_within(diagram.span, *span));
        below.into_iter().for_each(|span| loose.push(span, "multiplicity crowfoot".to_owned()));
    }
    within(&outline, None, loose)
}

fn within(outline: &Outline<'_>, holder: Option<ElementId>, mut loose: Lines) -> Lines {
    let diagram = outline.diagram;
    let line = |id: ElementId, e: &Element, names: &str| first_line(outline, id, e, names);
    let elements = outline.declarations(outline.children(holder), line, |id| classifier(outline, id));
    if let Some(id) = holder {
        properties(diagram.element(id), &mut loose);
    }
    let written: Vec<&Relation> =
        outline.relations(holder).iter().copied().filter(|r| !is_said_already(outline, r)).collect();
    nested::relations(outline, &written, holder, &mut loose);
    outline.asides(holder, &mut loose);
    loose.among(elements)
}

fn classifier(outline: &Outline<'_>, id: ElementId) -> Lines {
    let mut loose = Lines::default();
    if let Some(body) = &outline.diagram.element(id).class {
        members(body, &mut loose);
    }
    within(outline, Some(id), loose)
}

/// `class Name<T> "Label" extends A implements B of C (traits)`.
fn first_line(outline: &Outline<'_>, id: ElementId, element: &Element, names: &str) -> String {
    let body = element.class.as_deref();
    let parameters = body.and_then(|b| b.parameters.as_ref()).map(|p| format!("<{p}>")).unwrap_or_default();
    let names = format!("{names}{parameters}");
    let mut line = declared(element, element.kind.word(), &names, outline.naming.usual);
    let own = Some(id);
    for (word, verb) in [("extends", Verb::Extends), ("implements", Verb::Implements)] {
        let clauses = outline.relations(own).iter().filter(|r| r.verb == verb && Some(r.from) == own);
        let clauses = clauses.filter(|r| is_within(element.span, r.span));
        let targets: Vec<String> = clauses.map(|r| outline.naming.path(r.to, own)).collect();
        if !targets.is_empty() {
            line += &format!(" {word} {}", sets::folded(targets));
        }
    }
    if let Some(of) = body.and_then(|b| b.instance_of.as_deref()) {
        line += &format!(" of {}", dotted(of, outline.naming.verbs));
    }
    line + &traits(&element.traits)
}

/// Whether a relation is said by a clause, or by a column that refers to another table.
fn is_said_already(outline: &Outline<'_>, relation: &Relation) -> bool {
    let diagram = outline.diagram;
    let from = diagram.element(relation.from);
    if relation.written_in != Some(relation.from) {
        return false;
    }
    if matches!(relation.verb, Verb::Extends | Verb::Implements) && is_within(from.span, relation.span) {
        return true;
    }
    relation.verb == Verb::Knows && diagram.is_said_by_columns(relation)
}

/// Members: those of no section first, then each section with its own.
fn members(body: &ClassBody, lines: &mut Lines) {
    let mut seen = [false; 2];
    let mut has_section = false;
    for compartment in &body.compartments {
        let kind = compartment.members.first().map(|m| usize::from(m.operation));
        let is_plain = compartment.title.is_none() && !has_section && kind.is_some_and(|kind| !seen[kind]);
        if let (true, Some(kind)) = (is_plain, kind) {
            seen[kind] = true;
            compartment.members.iter().for_each(|m| lines.push(m.span, member(m)));
            continue;
        }
        has_section = true;
        let mut inner = Lines::default();
        compartment.members.iter().for_each(|m| inner.push(m.span, member(m)));
        let title = compartment.title.as_ref();
        // A section without a title stands where its first member does.
        let at = title.map(|t| t.span).or(compartment.members.first().map(|m| m.span)).unwrap_or_default();
        lines.push_with(at, format!("section{}", label(title)), inner);
    }
}

/// A member with its traits, or a line about several columns.
fn member(member: &Member) -> String {
    let listed = |names: &[String]| names.iter().map(|column| name(column, &[])).collect::<Vec<_>>().join(", ");
    let bracketed = |words: Vec<String>| match words.is_empty() {
        true => String::new(),
        false => format!(" ({})", words.join(", ")),
    };
    match (&member.constraint, &member.refers) {
        (Some(TableConstraint::Unique(columns)), _) => return format!("unique {}", listed(columns)),
        (Some(TableConstraint::Check(condition)), _) => return format!("check{}", label(Some(condition))),
        (Some(TableConstraint::Refers(columns)), Some(reference)) => {
            let actions = bracketed(reference.written_actions());
            return format!("refers {} to {}{actions}", listed(columns), targets(reference));
        }
        _ => {}
    }
    let flags = [
        (member.is_static, "static"),
        (member.is_abstract, "abstract"),
        (member.key, "key"),
        (member.is_nullable, "null"),
        (member.is_unique, "unique"),
    ];
    let mut words: Vec<String> = flags.iter().filter(|(is, _)| *is).map(|(_, word)| (*word).to_owned()).collect();
    if let Some(reference) = &member.refers {
        words.push(format!("refers {}", value(&targets(reference))));
        words.extend(reference.written_actions());
    }
    format!("{}{}", member.text, bracketed(words))
}

/// What a reference names: columns of its table, or the table alone.
fn targets(reference: &Reference) -> String {
    let table = reference.table.iter().map(|part| name(part, &[])).collect::<Vec<_>>().join(".");
    match &reference.targets[..] {
        [] => table,
        columns => columns.iter().map(|c| format!("{table}.{}", name(c, &[]))).collect::<Vec<_>>().join(", "),
    }
}
