//! Tables against a database: tables, columns, their types, what may be missing, what identifies and what is unique, references, and
//! the values of enumerations.
//!
//! A table is known by its `origin`, or by its name, whatever signs and capitals are in it. A drawing may leave things out: tables
//! that are not drawn are a note; columns that are not drawn differ only where the table is drawn with columns beyond its keys and
//! references; defaults, conditions and what happens on changes differ only where they are drawn.

pub(super) mod actual;
mod types;
mod words;

use super::classes::plain;
use crate::model::{
    Action, Diagram, Element, ElementId, ElementKind, Member, Reference, Relation, RelationId, TableConstraint, Verb,
};
use crate::source::Span;
use crate::vocabulary::TraitWord;
use std::collections::{BTreeMap, BTreeSet};
use types::{bare, column_parts, is_same_count, is_same_type};

/// Tables as a database has them.
#[derive(Clone, Debug)]
pub struct Schema {
    /// All its tables and enumerations, with all columns. The origin of each is its schema and its name.
    pub diagram: Diagram,
    /// The database, as people name it.
    pub source: String,
}

/// How tables and a database agree.
#[derive(Clone, Debug, Default)]
pub struct TableConformance {
    /// How many tables and enumerations are there as they are drawn.
    pub agreements: usize,
    /// What differs.
    pub differences: Vec<TableDifference>,
    /// The database.
    source: String,
    /// Drawn tables with those of the database, for the picture.
    pairs: BTreeMap<ElementId, Element>,
}

/// One difference between tables and a database.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TableDifference {
    /// The table or enumeration; nothing for what is not drawn.
    pub element: Option<ElementId>,
    /// Where it stands in the diagram.
    pub span: Span,
    /// What differs.
    pub what: Difference,
}

/// What differs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Difference {
    /// The table is not in the database.
    Absent,
    /// The table does not have the column, or the enumeration the value.
    ColumnAbsent(String),
    /// The table has a column, or the enumeration a value, that is not drawn.
    ColumnSurprise(String),
    /// The column has another type there.
    Type(String, String),
    /// The column may be missing there, or may not.
    Nullable(String, bool),
    /// Another default.
    Default(String, Option<String>),
    /// Other columns identify a row there.
    Key(Vec<String>),
    /// Nothing there keeps rows apart by these columns.
    NotUnique(Vec<String>),
    /// Rows are kept apart by these columns there, which is not drawn.
    Unique(Vec<String>),
    /// The condition is not there.
    NoCheck(String),
    /// The reference is not there: its columns, and what it refers to.
    ReferenceAbsent(Vec<String>, String),
    /// A reference is there that is not drawn.
    ReferenceSurprise(Vec<String>, String),
    /// Something else happens there when the other row is deleted or gets another key.
    Action(Vec<String>, &'static str, Option<Action>),
    /// A line between tables that do not refer to each other there.
    LineAbsent(RelationId),
    /// Another number at an end of a line.
    Multiplicity(RelationId, [String; 2]),
    /// Tables that are there and not drawn.
    Undrawn(Vec<String>),
}

/// Compares tables with a database; nothing for a diagram without tables.
pub fn tables(design: &Diagram, schema: &Schema) -> Option<TableConformance> {
    let has_table = design.elements.iter().any(|element| element.kind == ElementKind::Table);
    has_table.then(|| {
        let compared = Compared::of(design, schema);
        let mut out = TableConformance { source: schema.source.clone(), ..TableConformance::default() };
        for (id, element) in design.ids().filter(|(_, element)| is_expected(element)) {
            match compared.to_actual.get(&id) {
                None => out.differences.push(TableDifference {
                    element: Some(id),
                    span: element.span,
                    what: Difference::Absent,
                }),
                Some(found) => {
                    let before = out.differences.len();
                    compared.table(id, *found, &mut out.differences);
                    out.agreements += usize::from(out.differences.len() == before);
                    out.pairs.insert(id, schema.diagram.element(*found).clone());
                }
            }
        }
        compared.lines(&mut out.differences);
        compared.undrawn(&mut out.differences);
        out
    })
}

fn is_stored(kind: ElementKind) -> bool {
    matches!(kind, ElementKind::Table | ElementKind::Enum)
}

fn is_expected(element: &Element) -> bool {
    is_stored(element.kind) && !element.implicit && !element.has(TraitWord::External)
}

fn members(element: &Element) -> impl Iterator<Item = &Member> {
    element.class.iter().flat_map(|body| body.members())
}

fn columns(element: &Element) -> impl Iterator<Item = &Member> {
    members(element).filter(|member| member.constraint.is_none() && !member.operation)
}

/// What a body refers to, with the places where that is said.
fn references(element: &Element) -> impl Iterator<Item = (&Reference, Span)> {
    members(element).filter_map(|member| Some((member.refers.as_ref()?, member.span)))
}

/// Names without what is written in several ways, in their order.
fn plain_all(names: &[String]) -> Vec<String> {
    names.iter().map(|name| plain(name)).collect()
}

fn sorted(names: &[String]) -> Vec<String> {
    let mut names = plain_all(names);
    names.sort();
    names
}

/// The columns that keep rows apart: all sets of them but the key.
fn uniques(element: &Element) -> Vec<(Vec<String>, Span)> {
    let unique = |member: &Member| match &member.constraint {
        Some(TableConstraint::Unique(columns)) => Some(columns.clone()),
        _ => member.is_unique.then(|| vec![member.name()]),
    };
    members(element).filter_map(|member| Some((unique(member)?, member.span))).collect()
}

struct Compared<'a> {
    design: &'a Diagram,
    actual: &'a Diagram,
    to_actual: BTreeMap<ElementId, ElementId>,
    to_design: BTreeMap<ElementId, ElementId>,
    /// Tables by their names, in the design and in the database.
    names: [BTreeMap<&'a str, ElementId>; 2],
    /// Tables of the design between which somebody drew a line.
    lined: BTreeSet<(ElementId, ElementId)>,
}

impl<'a> Compared<'a> {
    fn of(design: &'a Diagram, schema: &'a Schema) -> Self {
        let actual = &schema.diagram;
        let origin = |element: &Element| element.properties.origin.as_ref().map(|text| text.text());
        let mut by_origin: BTreeMap<String, ElementId> = BTreeMap::new();
        let mut by_name: BTreeMap<String, Vec<ElementId>> = BTreeMap::new();
        for (id, element) in actual.ids().filter(|(_, element)| is_stored(element.kind)) {
            by_origin.extend(origin(element).map(|origin| (origin, id)));
            by_name.entry(plain(&element.shown().text())).or_default().push(id);
        }
        let names = [design, actual].map(|diagram| {
            diagram.ids().filter(|(_, e)| is_stored(e.kind)).map(|(id, element)| (element.name.as_str(), id)).collect()
        });
        let lined =
            design.relations.iter().filter(|relation| is_association(relation) && !design.is_said_by_columns(relation));
        let lined = lined.flat_map(|relation| [(relation.from, relation.to), (relation.to, relation.from)]).collect();
        let mut own = Self { design, actual, to_actual: BTreeMap::new(), to_design: BTreeMap::new(), names, lined };
        let package = |diagram: &Diagram, id: ElementId| {
            diagram.element(id).parent.map(|parent| plain(&diagram.element(parent).shown().text()))
        };
        // What says where it is from, first: its table is nobody else's.
        for is_by_origin in [true, false] {
            for (id, element) in design.ids().filter(|(_, element)| is_stored(element.kind)) {
                if own.to_actual.contains_key(&id) {
                    continue;
                }
                let found = match is_by_origin {
                    true => origin(element).and_then(|origin| by_origin.get(&origin)).copied(),
                    false => {
                        let alike = by_name.get(&plain(&element.name));
                        let alike = alike.or_else(|| by_name.get(&plain(&element.shown().text())));
                        let free = alike.into_iter().flatten().copied();
                        let free: Vec<ElementId> = free.filter(|found| !own.to_design.contains_key(found)).collect();
                        let is_near = |found: &&ElementId| package(actual, **found) == package(design, id);
                        free.iter().find(is_near).or(free.first()).copied()
                    }
                };
                if let Some(found) = found.filter(|found| !own.to_design.contains_key(found)) {
                    own.to_actual.insert(id, found);
                    own.to_design.insert(found, id);
                }
            }
        }
        own
    }

    /// What differs in one table or enumeration.
    fn table(&self, id: ElementId, found: ElementId, out: &mut Vec<TableDifference>) {
        let (drawn, actual) = (self.design.element(id), self.actual.element(found));
        let mut push = |span: Span, what| out.push(TableDifference { element: Some(id), span, what });
        let there: BTreeMap<String, &Member> = columns(actual).map(|member| (plain(&member.name()), member)).collect();
        let here: BTreeSet<String> = columns(drawn).map(|member| plain(&member.name())).collect();
        for member in columns(drawn) {
            let name = member.name();
            let Some(other) = there.get(&plain(&name)) else {
                push(member.span, Difference::ColumnAbsent(name));
                continue;
            };
            let ((of, default), (is, set)) = (column_parts(member.column().1), column_parts(other.column().1));
            if !of.is_empty() && !is.is_empty() && !is_same_type(&of, &is) {
                push(member.span, Difference::Type(name.clone(), is));
            }
            // What is part of the key is there, whatever else is said.
            if member.is_nullable != other.is_nullable && !member.key && !other.key {
                push(member.span, Difference::Nullable(name.clone(), other.is_nullable));
            }
            if default.is_some() && default.as_deref().map(bare) != set.as_deref().map(bare) {
                push(member.span, Difference::Default(name, set));
            }
        }
        let keys_only = columns(drawn).all(|member| member.key || member.refers.is_some());
        if !keys_only || drawn.kind == ElementKind::Enum && !here.is_empty() {
            let new = columns(actual).filter(|member| !here.contains(&plain(&member.name())));
            new.for_each(|member| push(drawn.span, Difference::ColumnSurprise(member.name())));
        }
        if drawn.kind == ElementKind::Enum || here.is_empty() {
            return;
        }
        let key = |element: &Element| columns(element).filter(|m| m.key).map(Member::name).collect::<Vec<_>>();
        let (drawn_key, actual_key) = (key(drawn), key(actual));
        if sorted(&drawn_key) != sorted(&actual_key) {
            push(drawn.span, Difference::Key(actual_key.clone()));
        }
        let is_kept_apart = |columns: &[String], by: &[(Vec<String>, Span)], key: &[String]| {
            let wanted = sorted(columns);
            by.iter().any(|(unique, _)| sorted(unique) == wanted) || sorted(key) == wanted
        };
        let (drawn_uniques, actual_uniques) = (uniques(drawn), uniques(actual));
        for (columns, span) in &drawn_uniques {
            if !is_kept_apart(columns, &actual_uniques, &actual_key) {
                push(*span, Difference::NotUnique(columns.clone()));
            }
        }
        for (columns, _) in &actual_uniques {
            let is_drawn = columns.iter().all(|column| here.contains(&plain(column)));
            if is_drawn && !is_kept_apart(columns, &drawn_uniques, &drawn_key) {
                push(drawn.span, Difference::Unique(columns.clone()));
            }
        }
        let checks = |element: &Element| {
            let conditions = members(element).filter_map(|member| match &member.constraint {
                Some(TableConstraint::Check(condition)) => Some((condition.text(), member.span)),
                _ => None,
            });
            conditions.collect::<Vec<_>>()
        };
        let there: BTreeSet<String> = checks(actual).iter().map(|(condition, _)| bare(condition)).collect();
        for (condition, span) in checks(drawn) {
            if !there.contains(&bare(&condition)) {
                push(span, Difference::NoCheck(condition));
            }
        }
        self.references(id, actual, &mut push);
    }

    fn references(&self, id: ElementId, actual: &Element, push: &mut impl FnMut(Span, Difference)) {
        let drawn = self.design.element(id);
        // A reference is reported by its columns and by its table, as the database has it.
        let [in_design, in_actual] = &self.names;
        let of_design = |reference: &Reference| {
            let table = in_design.get(reference.table.last()?.as_str())?;
            Some((plain_all(&reference.columns), self.to_actual.get(table).copied()?))
        };
        let of_actual = |reference: &Reference| {
            Some((plain_all(&reference.columns), *in_actual.get(reference.table.last()?.as_str())?))
        };
        let there: BTreeMap<(Vec<String>, ElementId), &Reference> =
            references(actual).filter_map(|(reference, _)| Some((of_actual(reference)?, reference))).collect();
        let mut told: BTreeSet<(Vec<String>, ElementId)> = BTreeSet::new();
        for (reference, span) in references(drawn) {
            let key = of_design(reference);
            let Some(found) = key.as_ref().and_then(|key| there.get(key)) else {
                push(span, Difference::ReferenceAbsent(reference.columns.clone(), reference.to_string()));
                continue;
            };
            told.extend(key);
            let actions =
                [("delete", reference.on_delete, found.on_delete), ("update", reference.on_update, found.on_update)];
            for (event, of, is) in actions {
                if of.is_some() && of != is {
                    push(span, Difference::Action(reference.columns.clone(), event, is));
                }
            }
        }
        let here: BTreeSet<String> = columns(drawn).map(|member| plain(&member.name())).collect();
        for (key, reference) in &there {
            let Some(target) = self.to_design.get(&key.1) else { continue };
            // Columns that are not drawn are reported already, or left out on purpose.
            let is_drawn = key.0.iter().all(|column| here.contains(column));
            if is_drawn && !told.contains(key) && !self.lined.contains(&(id, *target)) {
                let name = self.design.element(*target).called();
                push(drawn.span, Difference::ReferenceSurprise(reference.columns.clone(), name));
            }
        }
    }

    /// Lines that were drawn by hand, without a column that says them.
    fn lines(&self, out: &mut Vec<TableDifference>) {
        for (number, relation) in (0..).map(RelationId).zip(&self.design.relations) {
            let ends = [relation.from, relation.to].map(|id| self.to_actual.get(&id).copied());
            let [Some(from), Some(to)] = ends else { continue };
            let is_of_tables = [from, to].iter().all(|id| self.actual.element(*id).kind == ElementKind::Table);
            if !is_association(relation) || !is_of_tables || self.design.is_said_by_columns(relation) {
                continue;
            }
            let mut push = |what| out.push(TableDifference { element: Some(relation.from), span: relation.span, what });
            let found: Vec<&Relation> = self
                .actual
                .relations
                .iter()
                .filter(|other| is_association(other))
                .filter(|other| [(from, to), (to, from)].contains(&(other.from, other.to)))
                .collect();
            if found.is_empty() {
                push(Difference::LineAbsent(number));
                continue;
            }
            let count = |relation: &Relation, is_turned: bool| {
                let [a, b] = [0, 1].map(|side| relation.ends[side].multiplicity.clone().unwrap_or_default());
                if is_turned { [b, a] } else { [a, b] }
            };
            let drawn = count(relation, false);
            let fits = |other: &&&Relation| {
                let is = count(other, other.from == to && from != to);
                drawn.iter().zip(&is).all(|(drawn, is)| drawn.is_empty() || is_same_count(drawn, is))
            };
            if !found.iter().any(|other| fits(&other)) {
                push(Difference::Multiplicity(number, count(found[0], found[0].from == to && from != to)));
            }
        }
    }

    /// Tables that are there and not drawn, in the schemas of those that are.
    fn undrawn(&self, out: &mut Vec<TableDifference>) {
        let package = |id: ElementId| self.actual.element(id).parent;
        let packages: BTreeSet<Option<ElementId>> = self.to_design.keys().map(|id| package(*id)).collect();
        // A view is drawn where somebody wants to see it.
        let is_view = |element: &Element| {
            element.class.iter().any(|body| body.keyword.as_ref().is_some_and(|keyword| keyword.ends_with("view")))
        };
        let all = self.actual.ids().filter(|(id, element)| {
            !is_view(element)
                && element.kind == ElementKind::Table
                && !self.to_design.contains_key(id)
                && packages.contains(&package(*id))
        });
        let names: Vec<String> = all.map(|(_, element)| origin_or_name(element)).collect();
        if !names.is_empty() {
            out.push(TableDifference { element: None, span: self.design.span, what: Difference::Undrawn(names) });
        }
    }
}

fn origin_or_name(element: &Element) -> String {
    element.properties.origin.as_ref().map_or_else(|| element.shown().text(), |origin| origin.text())
}

fn is_association(relation: &Relation) -> bool {
    matches!(relation.verb, Verb::Owns | Verb::Shares | Verb::Knows | Verb::Joins)
}
