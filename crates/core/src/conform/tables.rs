//! Tables against a database: tables, columns, their types, what may be missing, what identifies and what is unique, references, and
//! the values of enumerations.
//!
//! A table is known by its `origin`, or by its name, whatever signs and capitals are in it. A drawing may leave things out: tables
//! that are not drawn are a note; columns that are not drawn differ only where the table is drawn with columns beyond its keys and
//! references; defaults, conditions and what happens on changes differ only where they are drawn.

use super::actual::remove;
use super::classes::{plain, without};
use super::deviation::{Accepted, Deviation, Weight};
use crate::model::{
    Action, ClassBody, Diagram, Element, ElementId, ElementKind, Member, Reference, Relation, RelationId,
    TableConstraint, Verb, reference_ends,
};
use crate::source::Span;
use crate::syntax::Label;
use crate::vocabulary::TraitWord;
use std::collections::{BTreeMap, BTreeSet};

/// Tables that are not drawn are named up to so many.
const MOST_NAMES: usize = 5;

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
        let lined = design.relations.iter().filter(|relation| is_association(relation) && !is_said(design, relation));
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
        // A reference is told by its columns and by its table, as the database has it.
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
            // Columns that are not drawn are told already, or left out on purpose.
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
            if !is_association(relation) || !is_of_tables || is_said(self.design, relation) {
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

/// Whether columns say a relation.
fn is_said(diagram: &Diagram, relation: &Relation) -> bool {
    references(diagram.element(relation.from)).any(|(_, span)| span == relation.span)
}

fn is_association(relation: &Relation) -> bool {
    matches!(relation.verb, Verb::Owns | Verb::Shares | Verb::Knows | Verb::Joins)
}

/// Whether two numbers say the same: `*` is `0..*`.
fn is_same_count(a: &str, b: &str) -> bool {
    let full = |count: &str| match count.split_once("..") {
        Some((low, high)) => (low.trim().to_owned(), high.trim().to_owned()),
        None if count == "*" => ("0".to_owned(), "*".to_owned()),
        None => (count.to_owned(), count.to_owned()),
    };
    let ((low, high), (other_low, other_high)) = (full(a), full(b));
    // At least one of many is drawn where a database cannot say so.
    let is_low = low == other_low || low == "1" && other_low == "0" && high != "1";
    is_low && high == other_high
}

/// The type and the default in what stands behind the colon of a column; modifiers are left out.
fn column_parts(rest: &str) -> (String, Option<String>) {
    let (mut depth, mut quote) = (0_u32, None);
    let mut cut = rest.len();
    let mut equals = None;
    for (at, c) in rest.char_indices() {
        match (quote, c) {
            (Some(mark), c) if mark == c => quote = None,
            (Some(_), _) => {}
            (None, '\'' | '"') => quote = Some(c),
            (None, '(' | '[') => depth += 1,
            (None, ')' | ']') => depth = depth.saturating_sub(1),
            (None, '=') if depth == 0 && equals.is_none() => equals = Some(at),
            (None, '{') if depth == 0 => {
                cut = at;
                break;
            }
            _ => {}
        }
    }
    let of = rest[..equals.unwrap_or(cut)].trim();
    let default = equals.map(|at| rest[at + 1..cut].trim());
    // A value in double quotes is one that could not stand bare.
    let unquoted = |text: &str| {
        let inner = text.strip_prefix('"').and_then(|text| text.strip_suffix('"'));
        inner.map_or_else(|| text.to_owned(), |inner| inner.replace("\\\"", "\"").replace("\\\\", "\\"))
    };
    (unquoted(of), default.map(unquoted))
}

/// Types that have several names (SQL:2016, 6.1, and what databases add), by the name that stands for all of them here.
const ALIASES: [(&str, &[&str]); 12] = [
    ("integer", &["int", "int4", "serial", "serial4"]),
    ("bigint", &["int8", "bigserial", "serial8"]),
    ("smallint", &["int2", "smallserial", "serial2"]),
    ("numeric", &["decimal", "dec"]),
    ("real", &["float4"]),
    ("double precision", &["float8", "double", "float"]),
    ("boolean", &["bool"]),
    ("character varying", &["varchar", "nvarchar"]),
    ("character", &["char", "nchar", "bpchar"]),
    ("timestamp with time zone", &["timestamptz"]),
    ("timestamp without time zone", &["timestamp"]),
    ("time without time zone", &["time"]),
];

/// Whether two types are the same: in other capitals, under another name, without the size that only one of them says.
fn is_same_type(a: &str, b: &str) -> bool {
    let split = |text: &str| -> (String, Option<String>, bool) {
        let text = text.to_lowercase();
        let is_list = text.ends_with("[]") || text.ends_with("[0..*]") || text.ends_with("[*]");
        let text = text.split('[').next().unwrap_or_default().trim().to_owned();
        let (base, size) = match (text.find('('), text.find(')')) {
            (Some(open), Some(close)) if open < close => {
                let size: String = text[open + 1..close].chars().filter(|c| !c.is_whitespace()).collect();
                (format!("{}{}", &text[..open], &text[close + 1..]), Some(size))
            }
            _ => (text, None),
        };
        let base = base.split_whitespace().collect::<Vec<_>>().join(" ");
        // A schema in front says where the type is, not what it is.
        let base = base.rsplit('.').next().unwrap_or_default().replace('"', "");
        let known = ALIASES.iter().find(|(name, others)| base == *name || others.contains(&base.as_str()));
        (known.map_or(base, |(name, _)| (*name).to_owned()), size, is_list)
    };
    let (a, b) = (split(a), split(b));
    let is_sized = |size: &Option<String>, other: &Option<String>| size.is_none() || other.is_none() || size == other;
    a.0 == b.0 && a.2 == b.2 && is_sized(&a.1, &b.1)
}

/// A condition or a value without spaces, capitals, and outer brackets.
fn bare(text: &str) -> String {
    let text: String = text.chars().filter(|c| !c.is_whitespace()).collect::<String>().to_lowercase();
    let inner = text.strip_prefix('(').and_then(|text| text.strip_suffix(')'));
    let is_closed = |inner: &str| {
        let depth = inner.chars().try_fold(0_i32, |depth, c| match c {
            '(' => Some(depth + 1),
            ')' if depth == 0 => None,
            ')' => Some(depth - 1),
            _ => Some(depth),
        });
        depth == Some(0)
    };
    inner.filter(|inner| is_closed(inner)).map(str::to_owned).unwrap_or(text)
}

impl TableConformance {
    /// How many tables and enumerations are there, whatever they hold.
    pub fn found(&self) -> usize {
        self.pairs.len()
    }

    /// Leaves out what is accepted, by its keys; gives the keys that were found.
    pub fn accept(&mut self, design: &Diagram, accepted: &BTreeSet<String>) -> BTreeSet<String> {
        let mut accepted = Accepted::new(accepted);
        self.differences.retain_mut(|difference| {
            if let Difference::Undrawn(names) = &mut difference.what {
                names.retain(|name| !accepted.has(format!("undrawn {name}")));
                return !names.is_empty();
            }
            !accepted.has(difference.keys(design).remove(0))
        });
        accepted.found
    }

    /// What differs, ready to be told.
    pub fn deviations(&self, design: &Diagram) -> Vec<Deviation> {
        let mut out: Vec<Deviation> = self.differences.iter().map(|one| one.deviation(design, &self.source)).collect();
        out.sort_by_key(|one| (one.weight, one.span.start));
        out
    }
}

impl TableDifference {
    fn deviation(&self, design: &Diagram, source: &str) -> Deviation {
        let table = self.element.map(|id| format!("`{}`", design.element(id).called())).unwrap_or_default();
        let is_enum = self.element.is_some_and(|id| design.element(id).kind == ElementKind::Enum);
        let column = |name: &String| match is_enum {
            true => format!("the value `{name}` of {table}"),
            false => format!("`{name}` of {table}"),
        };
        let listed = |names: &[String]| names.iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ");
        let line = |id: RelationId| {
            let relation = design.relation(id);
            let called = |id: ElementId| format!("`{}`", design.element(id).called());
            format!("{} {} {}", called(relation.from), relation.verb.word(), called(relation.to))
        };
        let (code, says) = match &self.what {
            Difference::Absent => ("absent", format!("{table} is not in the database")),
            Difference::ColumnAbsent(name) => ("member-absent", format!("{} is not in the database", column(name))),
            Difference::ColumnSurprise(name) => {
                ("member-surprise", format!("{} is in the database; the diagram does not show it", column(name)))
            }
            Difference::Type(name, of) => ("type", format!("{} is of type `{of}` in the database", column(name))),
            Difference::Nullable(name, true) => {
                ("nullable", format!("{} may be missing in the database", column(name)))
            }
            Difference::Nullable(name, false) => {
                ("nullable", format!("{} may not be missing in the database", column(name)))
            }
            Difference::Default(name, Some(of)) => {
                ("default", format!("{} is `{of}` by default in the database", column(name)))
            }
            Difference::Default(name, None) => ("default", format!("{} has no default in the database", column(name))),
            Difference::Key(of) if of.is_empty() => ("key", format!("{table} has no primary key in the database")),
            Difference::Key(of) => ("key", format!("the primary key of {table} is {} in the database", listed(of))),
            Difference::NotUnique(of) => {
                ("unique", format!("nothing in the database makes {} unique in {table}", listed(of)))
            }
            Difference::Unique(of) => (
                "unique-undrawn",
                format!("the database makes {} unique in {table}; the diagram does not say so", listed(of)),
            ),
            Difference::NoCheck(condition) => {
                ("check", format!("the database does not check `{condition}` in {table}"))
            }
            Difference::ReferenceAbsent(of, to) => {
                ("absent", format!("{} of {table}: the database declares no reference to `{to}`", listed(of)))
            }
            Difference::ReferenceSurprise(of, to) => (
                "surprise",
                format!("{} of {table} refers to `{to}` in the database; the diagram does not say so", listed(of)),
            ),
            Difference::Action(of, event, is) => {
                let is = is.map_or("no action", Action::words);
                ("action", format!("{} of {table}: on {event} the database does `{is}`", listed(of)))
            }
            Difference::LineAbsent(id) => {
                ("absent", format!("{}: neither table refers to the other in the database", line(*id)))
            }
            Difference::Multiplicity(id, [a, b]) => {
                ("multiplicity", format!("{}: there are {a} and {b} in the database", line(*id)))
            }
            Difference::Undrawn(names) => {
                let shown = listed(&names[..names.len().min(MOST_NAMES)]);
                let more = names.len().saturating_sub(MOST_NAMES);
                let more = if more > 0 { format!(" and {more} more") } else { String::new() };
                ("undrawn", format!("in the database and not drawn: {shown}{more}"))
            }
        };
        let is_note = matches!(self.what, Difference::Undrawn(_) | Difference::Unique(_));
        let weight = if is_note { Weight::Note } else { Weight::Difference };
        let places = vec![source.to_owned()];
        Deviation { code, weight, span: self.span, says, places, keys: self.keys(design) }
    }

    fn keys(&self, design: &Diagram) -> Vec<String> {
        let table = self.element.map(|id| design.element(id).key.clone()).unwrap_or_default();
        let line = |id: RelationId| design.relation(id).key.clone();
        let key = match &self.what {
            Difference::Absent => format!("absent {table}"),
            Difference::ColumnAbsent(name) => format!("member-absent {table}: {name}"),
            Difference::ColumnSurprise(name) => format!("member-surprise {table}: {name}"),
            Difference::Type(name, of) => format!("type {table}: {name}: {of}"),
            Difference::Nullable(name, is) => format!("nullable {table}: {name}: {is}"),
            Difference::Default(name, of) => format!("default {table}: {name}: {}", of.as_deref().unwrap_or_default()),
            Difference::Key(of) => format!("key {table}: {}", of.join(", ")),
            Difference::NotUnique(of) => format!("unique {table}: {}", of.join(", ")),
            Difference::Unique(of) => format!("unique-undrawn {table}: {}", of.join(", ")),
            Difference::NoCheck(condition) => format!("check {table}: {condition}"),
            Difference::ReferenceAbsent(of, to) => format!("absent {table}: {} refers {to}", of.join(", ")),
            Difference::ReferenceSurprise(of, to) => format!("surprise {table}: {} refers {to}", of.join(", ")),
            Difference::Action(of, event, is) => {
                format!("action {table}: {} on {event}: {}", of.join(", "), is.map_or("no action", Action::words))
            }
            Difference::LineAbsent(id) => format!("absent {}", line(*id)),
            Difference::Multiplicity(id, [a, b]) => format!("multiplicity {}: {a} {b}", line(*id)),
            Difference::Undrawn(names) => return names.iter().map(|name| format!("undrawn {name}")).collect(),
        };
        vec![key]
    }
}

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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn types_have_several_names() {
        for (a, b) in [
            ("int", "INTEGER"),
            ("varchar(20)", "character varying(20)"),
            ("varchar", "character varying(20)"),
            ("decimal(6, 3)", "numeric(6,3)"),
            ("timestamptz", "timestamp with time zone"),
            ("timestamp(3) with time zone", "timestamptz"),
            ("text[]", "TEXT[]"),
            ("shore.level", "level"),
        ] {
            assert!(is_same_type(a, b), "{a} {b}");
        }
        for (a, b) in [("int", "bigint"), ("numeric(6,3)", "numeric(6,2)"), ("text", "text[]"), ("date", "timestamp")] {
            assert!(!is_same_type(a, b), "{a} {b}");
        }
    }

    #[test]
    fn columns_are_taken_apart() {
        let parts = |text: &str| column_parts(Member::plain(text.to_owned(), Span::default()).column().1);
        assert_eq!(parts("a: numeric(6,3) = (1 + 2) {generated}"), ("numeric(6,3)".into(), Some("(1 + 2)".into())));
        assert_eq!(parts("`a: b`: text = 'x = {y}'"), ("text".into(), Some("'x = {y}'".into())));
        assert_eq!(parts("a: text = \"'a \\\"b'\""), ("text".into(), Some("'a \"b'".into())));
        assert_eq!(parts("a"), (String::new(), None));
    }

    #[test]
    fn numbers_are_compared_as_a_database_can_tell_them() {
        assert!(is_same_count("*", "0..*") && is_same_count("1..*", "0..*") && is_same_count("1", "1..1"));
        assert!(!is_same_count("1", "0..1") && !is_same_count("0..1", "0..*"));
    }

    #[test]
    fn conditions_are_compared_without_their_form() {
        assert_eq!(bare("(Level > 0)"), bare("level>0"));
        assert_ne!(bare("(a) or (b)"), bare("a) or (b"));
    }
}
