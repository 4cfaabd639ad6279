//! The catalogue of a database as classes: tables with their columns, keys, references, uniqueness, conditions; schemas as packages;
//! enumerated types. Input: a [`Catalogue`], read by whoever can reach the database. Output: [`Facts`].

mod catalogue;
mod guess;

pub use catalogue::{Catalogue, Column, Enumeration, Qualified, Reference, Table};

use crate::facts::{Constraint, Facts, Link, Member, Refers, Thing};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::select::Selection;
use crate::text::add;
use bathygram_core::emit::written_column;
use bathygram_core::model::{DiagramKind, ElementKind, ShownMembers, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// What is wanted of a catalogue.
#[derive(Clone, Debug)]
pub struct Options {
    /// Tables, by their names or their schemas' and their own.
    pub selection: Selection,
    /// Which columns are taken over.
    pub members: ShownMembers,
    /// Whether references that are not declared are drawn.
    pub guess: bool,
}

/// What a catalogue says, as facts.
///
/// # Errors
/// If there is no table in it, or none that is asked for.
pub fn facts(mut catalogue: Catalogue, options: &Options) -> Result<Facts, Broken> {
    let seen = Seen { file: catalogue.source.as_str().into(), ..Seen::default() };
    let broken = |why: &str| Broken { seen: seen.clone(), why: why.to_owned() };
    if catalogue.tables.is_empty() {
        return Err(broken("there is no table in this database that this user can see"));
    }
    let folded = catalogue.fold();
    catalogue.tables.sort_by(|a, b| a.name.cmp(&b.name));
    let guesses = guess::guesses(&catalogue);
    let count = catalogue.tables.len();
    let mut drawing = Drawing { facts: Facts::new(DiagramKind::Classes), seen, numbers: BTreeMap::new(), options };
    drawing.facts.counts.rows = count as u64;
    for one in folded {
        let parts = match one.count {
            1 => "a table that is a partition of it or inherits from it is part of it here".to_owned(),
            count => format!("{count} tables that are partitions of it or inherit from it are part of it here"),
        };
        drawing.find("folded", Level::Note, format!("{}: {parts}", one.into.text()));
    }
    for one in guesses {
        let own = &catalogue.tables[one.table];
        let from = format!("{}.{}", own.name.text(), one.reference.columns[0]);
        let to = format!("{}.{}", one.reference.table.text(), one.reference.targets[0]);
        let hint = if options.guess { "it is drawn" } else { "`--guess` draws it" };
        drawing.find(
            "undeclared-reference",
            Level::Note,
            format!("{from} most likely refers to {to}, which is not declared; {hint}"),
        );
        if options.guess {
            let table = &mut catalogue.tables[one.table];
            let column = table.columns.iter_mut().find(|column| column.name == one.reference.columns[0]);
            column.into_iter().for_each(|column| add(&mut column.comment, "the reference is a guess from its name"));
            table.references.push(one.reference);
        }
    }
    let wanted: Vec<&Table> = catalogue.tables.iter().filter(|table| options.wants(&table.name)).collect();
    if wanted.is_empty() {
        return Err(drawing.broken(match count {
            1 => "its one table is not what is asked for; `--only` takes the names of tables".to_owned(),
            count => format!(
                "none of its {count} tables is what is asked for; `--only` takes names such as `station` or `shore.*`"
            ),
        }));
    }
    drawing.draw(&catalogue, &wanted);
    drawing.facts.call(&options.selection, &catalogue.name);
    Ok(drawing.facts)
}

impl Options {
    fn wants(&self, name: &Qualified) -> bool {
        let Selection { only, without, .. } = &self.selection;
        let matches =
            |patterns: &[String]| Selection::any(patterns, &name.name) || Selection::any(patterns, &name.text());
        (only.is_empty() || matches(only)) && !matches(without)
    }

    fn shows(&self, is_key_or_reference: bool) -> bool {
        match self.members {
            ShownMembers::None => false,
            ShownMembers::Keys => is_key_or_reference,
            _ => true,
        }
    }
}

/// All tables by their names.
type Tables<'a> = BTreeMap<&'a Qualified, &'a Table>;

struct Drawing<'a> {
    facts: Facts,
    seen: Seen,
    numbers: BTreeMap<Qualified, usize>,
    options: &'a Options,
}

impl Drawing<'_> {
    fn broken(&self, why: String) -> Broken {
        Broken { seen: self.seen.clone(), why }
    }

    fn find(&mut self, code: &'static str, level: Level, says: String) {
        self.facts.findings.push(Finding::new(code, level, self.seen.clone(), says));
    }

    fn draw(&mut self, catalogue: &Catalogue, wanted: &[&Table]) {
        let used: BTreeSet<&Qualified> =
            wanted.iter().flat_map(|table| &table.columns).filter_map(|column| column.enumeration.as_ref()).collect();
        let enumerations: Vec<&Enumeration> =
            catalogue.enumerations.iter().filter(|one| used.contains(&one.name)).collect();
        let names = wanted.iter().map(|table| &table.name).chain(enumerations.iter().map(|one| &one.name));
        let names: Vec<&Qualified> = names.collect();
        let schemas: BTreeSet<&Option<String>> = names.iter().map(|name| &name.schema).collect();
        let mut packages: BTreeMap<&Option<String>, usize> = BTreeMap::new();
        if schemas.len() > 1 {
            for schema in schemas {
                let label = schema.as_deref().unwrap_or_default();
                packages.insert(schema, self.facts.things.len());
                self.facts.things.push(Thing::new(label, ElementKind::Group, self.seen.clone()));
            }
        }
        let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
        names.iter().for_each(|name| *counts.entry(&name.name).or_default() += 1);
        let thing = |name: &Qualified, kind: ElementKind| Thing {
            // What two schemas have is told apart by the schema.
            called: Some(match (&name.schema, counts.get(name.name.as_str())) {
                (Some(schema), Some(2..)) => format!("{schema}_{}", name.name),
                _ => name.name.clone(),
            }),
            label: Some(name.name.clone()),
            holder: packages.get(&name.schema).copied(),
            ..Thing::new(&name.text(), kind, self.seen.clone())
        };
        let mut things = Vec::new();
        for table in wanted {
            let mut one = thing(&table.name, ElementKind::Table);
            one.keyword = keyword(table);
            one.said.about = table.comment.clone();
            things.push((&table.name, one));
        }
        for enumeration in &enumerations {
            let mut one = thing(&enumeration.name, ElementKind::Enum);
            one.said.about = enumeration.comment.clone();
            let value = |value: &String| Member { text: written_column(value), ..Member::default() };
            one.members = enumeration.values.iter().map(value).collect();
            things.push((&enumeration.name, one));
        }
        for (name, one) in things {
            self.numbers.insert(name.clone(), self.facts.things.len());
            self.facts.things.push(one);
        }
        let all: Tables<'_> = catalogue.tables.iter().map(|table| (&table.name, table)).collect();
        wanted.iter().for_each(|table| self.table(&all, table));
    }

    fn table(&mut self, all: &Tables<'_>, table: &Table) {
        let Some(own) = self.numbers.get(&table.name).copied() else { return };
        if table.key.is_empty() && table.sort.is_none() {
            self.find("no-key", Level::Note, format!("{} has no primary key", table.name.text()));
        }
        let is_reference = |name: &String| table.references.iter().any(|reference| reference.columns.contains(name));
        let shows =
            |column: &&Column| self.options.shows(table.key.contains(&column.name) || is_reference(&column.name));
        let shown: Vec<&Column> = table.columns.iter().filter(shows).collect();
        let column = |column: &&Column| {
            let key = table.key.contains(&column.name);
            Member {
                text: column_text(column),
                key,
                is_unique: table.uniques.contains(&vec![column.name.clone()]),
                is_nullable: column.is_nullable && !key,
                comment: column.comment.as_deref().map(one_line),
                ..Member::default()
            }
        };
        let mut members: Vec<Member> = shown.iter().map(column).collect();
        if self.options.members == ShownMembers::All {
            let several = table.uniques.iter().filter(|columns| columns.len() > 1);
            let constraint = |constraint| Member { constraint: Some(constraint), ..Member::default() };
            members.extend(several.map(|columns| constraint(Constraint::Unique(columns.clone()))));
            members.extend(table.checks.iter().map(|check| constraint(Constraint::Check(one_line(check)))));
        }
        self.references(all, table, (own, &shown), &mut members);
        let used: BTreeSet<&Qualified> =
            table.columns.iter().filter_map(|column| column.enumeration.as_ref()).collect();
        for to in used.into_iter().filter_map(|name| self.numbers.get(name)) {
            self.facts.links.push(Link::new(own, Verb::Uses, *to, self.seen.clone()));
        }
        self.facts.things[own].members = members;
    }

    /// References, each said by its column or by a line of its own.
    fn references(
        &mut self, all: &Tables<'_>, table: &Table, (own, shown): (usize, &[&Column]), members: &mut Vec<Member>,
    ) {
        let mut counts: BTreeMap<&Qualified, usize> = BTreeMap::new();
        table.references.iter().for_each(|reference| *counts.entry(&reference.table).or_default() += 1);
        for reference in &table.references {
            let target = all.get(&reference.table);
            let text = reference.columns.join(", ");
            let Some(target) = target else {
                let (own, other) = (table.name.text(), reference.table.text());
                self.find(
                    "dangling-reference",
                    Level::Warning,
                    format!("{own}.{text} refers to {other}, which is not there"),
                );
                continue;
            };
            let targets = if reference.targets.is_empty() { &target.key } else { &reference.targets };
            let Some(to) = self.numbers.get(&reference.table).copied() else {
                // What is left out of the drawing is written beside the column.
                let at = shown.iter().position(|column| column.name == reference.columns[0]);
                if let Some(member) = at.map(|at| &mut members[at]) {
                    member.refer_outside(&format!("{}.{}", reference.table.text(), targets.join(", ")));
                }
                continue;
            };
            let refers =
                Refers { to, columns: targets.clone(), on_delete: reference.on_delete, on_update: reference.on_update };
            let mut link = Link::new(own, Verb::Knows, to, self.seen.clone());
            let lacks = |name: &String| {
                table.column(name).is_some_and(|column| column.is_nullable && !table.key.contains(name))
            };
            let is_optional = reference.columns.iter().any(lacks);
            let many = if table.identifies(&reference.columns) { "0..1" } else { "0..*" };
            let one = if is_optional { "0..1" } else { "1" };
            link.ends[0].multiplicity = Some(many.to_owned());
            link.ends[1].multiplicity = Some(one.to_owned());
            link.label = counts.get(&reference.table).filter(|count| **count > 1).map(|_| text.clone());
            link.member = self.place(reference, refers, shown, members);
            self.facts.links.push(link);
        }
    }

    /// Where a reference is said: at its column, or in a line of its own.
    fn place(
        &self, reference: &Reference, refers: Refers, shown: &[&Column], members: &mut Vec<Member>,
    ) -> Option<usize> {
        let places: Option<Vec<usize>> =
            reference.columns.iter().map(|name| shown.iter().position(|column| column.name == *name)).collect();
        let places = places?;
        if let [only] = places[..]
            && members[only].refers.is_none()
        {
            members[only].refers = Some(refers);
            return Some(only);
        }
        members.push(Member {
            constraint: Some(Constraint::Refers(reference.columns.clone())),
            refers: Some(refers),
            ..Member::default()
        });
        Some(members.len() - 1)
    }
}

/// What is said above the name of a table that is no plain one, or whose rows were counted.
fn keyword(table: &Table) -> Option<String> {
    let rows = table.rows.map(|rows| format!("about {} {}", rows, if rows == 1 { "row" } else { "rows" }));
    match (table.sort, rows) {
        (None, None) => None,
        (sort, None) => sort.map(str::to_owned),
        (sort, Some(rows)) => Some(format!("{}, {rows}", sort.unwrap_or("table"))),
    }
}

/// `name: type = default {modifier}`.
fn column_text(column: &Column) -> String {
    let mut text = written_column(&column.name);
    let of = one_line(&column.of).replace(" (", "(");
    if !of.is_empty() {
        text += &format!(": {}", plain(&of, &[':', '=', '{', '}', '/']));
    }
    if let Some(default) = &column.default {
        text += &format!(" = {}", plain(&one_line(default), &['{', '}']));
    }
    if let Some(made) = column.made {
        text += &format!(" {{{made}}}");
    }
    text
}

/// A type or a value as it can stand in a line: in quotes if it could be read as something else.
fn plain(text: &str, odd: &[char]) -> String {
    let depth = text.chars().try_fold(0_i32, |depth, c| match c {
        '(' | '[' => Some(depth + 1),
        ')' | ']' if depth > 0 => Some(depth - 1),
        ')' | ']' => None,
        _ => Some(depth),
    });
    let is_even = |mark: char| text.matches(mark).count().is_multiple_of(2);
    let is_closed = depth == Some(0) && is_even('\'') && is_even('"');
    let outside: String = text.split('\'').step_by(2).collect();
    if is_closed && !outside.contains(odd) && !text.contains(['"', '`']) && !text.contains("//") {
        return text.to_owned();
    }
    format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""))
}

/// A text without breaks.
fn one_line(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}
