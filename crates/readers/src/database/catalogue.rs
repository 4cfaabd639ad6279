//! What the catalogue of a database says, whatever database it is.

use crate::text::add;
use bathygram_core::model::Action;
use std::collections::BTreeMap;

/// Tables, types and what is said of them.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Catalogue {
    /// The database as people name it: a file, or a server and a database. There is no password in it.
    pub source: String,
    /// What a picture of it is called, if nobody says otherwise.
    pub name: String,
    /// Tables and views.
    pub tables: Vec<Table>,
    /// Types whose values are listed.
    pub enumerations: Vec<Enumeration>,
}

/// The name of a table or a type, in a schema if the database has these.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Qualified {
    /// The schema.
    pub schema: Option<String>,
    /// The name in it.
    pub name: String,
}

/// A table or a view.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Table {
    /// Its name.
    pub name: Qualified,
    /// `view` and the like, for what is no plain table.
    pub sort: Option<&'static str>,
    /// What is said of it.
    pub comment: Option<String>,
    /// Its columns, in order.
    pub columns: Vec<Column>,
    /// The names of the columns that identify a row.
    pub key: Vec<String>,
    /// Columns in which no two rows have the same.
    pub uniques: Vec<Vec<String>>,
    /// What it refers to.
    pub references: Vec<Reference>,
    /// What holds for every row.
    pub checks: Vec<String>,
    /// About how many rows it has, if that was asked for and is known.
    pub rows: Option<u64>,
    /// The tables whose rows are rows of this one: partitions, and what inherits from it.
    pub parents: Vec<Qualified>,
}

/// A column.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Column {
    /// Its name.
    pub name: String,
    /// Its type, as the database writes it; may be empty.
    pub of: String,
    /// The enumeration that this type is, or is a list of.
    pub enumeration: Option<Qualified>,
    /// Whether it may be missing.
    pub is_nullable: bool,
    /// What it is if nothing is said, or what it is computed from.
    pub default: Option<String>,
    /// Where its values come from: `identity`, `serial` or `generated`.
    pub made: Option<&'static str>,
    /// What is said of it.
    pub comment: Option<String>,
}

/// A reference from some columns to a row of a table.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Reference {
    /// Its own columns.
    pub columns: Vec<String>,
    /// The table.
    pub table: Qualified,
    /// The columns there; its key if there are none.
    pub targets: Vec<String>,
    /// What happens when that row is deleted.
    pub on_delete: Option<Action>,
    /// What happens when its key changes.
    pub on_update: Option<Action>,
}

/// A type whose values are listed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Enumeration {
    /// Its name.
    pub name: Qualified,
    /// Its values, in order.
    pub values: Vec<String>,
    /// What is said of it.
    pub comment: Option<String>,
}

impl Qualified {
    /// A name in a schema.
    pub fn new(schema: Option<&str>, name: &str) -> Self {
        Self { schema: schema.map(str::to_owned), name: name.to_owned() }
    }

    /// As SQL writes it: in double quotes what would not be read as a name otherwise.
    pub fn text(&self) -> String {
        let part = |text: &String| {
            let is_plain = !text.is_empty() && !text.contains(['.', '"', '\n']);
            if is_plain { text.clone() } else { format!("\"{}\"", text.replace('"', "\"\"")) }
        };
        self.schema.iter().chain([&self.name]).map(part).collect::<Vec<_>>().join(".")
    }
}

impl Table {
    /// A column by its name.
    pub fn column(&self, name: &str) -> Option<&Column> {
        self.columns.iter().find(|column| column.name == name)
    }

    /// Whether rows with the same in these columns are the same row.
    pub fn identifies(&self, columns: &[String]) -> bool {
        let keys = std::iter::once(&self.key).chain(&self.uniques).filter(|key| !key.is_empty());
        keys.into_iter().any(|key| key.iter().all(|column| columns.contains(column)))
    }
}

/// A table into which others were folded, and how many.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Folded {
    pub(super) into: Qualified,
    pub(super) count: usize,
}

impl Catalogue {
    /// Puts partitions, and tables that inherit from another one, into that one: their rows are its rows. Columns that only they have
    /// become columns that may be missing.
    pub(super) fn fold(&mut self) -> Vec<Folded> {
        let places: BTreeMap<Qualified, usize> =
            self.tables.iter().enumerate().map(|(i, table)| (table.name.clone(), i)).collect();
        // Up to the outermost; whoever inherits from several goes into the first.
        let parent = |at: usize| self.tables[at].parents.iter().find_map(|parent| places.get(parent)).copied();
        let outermost = |at: usize| {
            let up = std::iter::successors(Some(at), |at| parent(*at)).take(self.tables.len() + 1);
            up.last().unwrap_or(at)
        };
        let homes: Vec<usize> = (0..self.tables.len()).map(outermost).collect();
        let moved: BTreeMap<Qualified, Qualified> = homes
            .iter()
            .enumerate()
            .filter(|(at, home)| at != *home)
            .map(|(at, home)| (self.tables[at].name.clone(), self.tables[*home].name.clone()))
            .collect();
        let mut counts: BTreeMap<usize, usize> = BTreeMap::new();
        let all = self.tables.clone();
        for (at, home) in homes.iter().enumerate().filter(|(at, home)| at != *home) {
            *counts.entry(*home).or_default() += 1;
            let (child, parent) = (&all[at], &mut self.tables[*home]);
            parent.rows = match (parent.rows, child.rows) {
                (Some(own), Some(more)) => Some(own + more),
                (own, more) => own.or(more),
            };
            let new: Vec<&Column> = child.columns.iter().filter(|c| parent.column(&c.name).is_none()).collect();
            for reference in &child.references {
                let is_new = |column: &String| new.iter().any(|one| one.name == *column);
                if reference.columns.iter().any(is_new) && !parent.references.contains(reference) {
                    parent.references.push(reference.clone());
                }
            }
            let new = new.into_iter().map(|column| {
                let mut column = Column { is_nullable: true, ..column.clone() };
                add(&mut column.comment, &format!("only in {}", child.name.text()));
                column
            });
            parent.columns.extend(new);
        }
        for reference in self.tables.iter_mut().flat_map(|table| &mut table.references) {
            if let Some(home) = moved.get(&reference.table) {
                reference.table = home.clone();
            }
        }
        let folded = counts.iter().map(|(home, count)| Folded { into: self.tables[*home].name.clone(), count: *count });
        let folded = folded.collect();
        self.tables.retain(|table| !moved.contains_key(&table.name));
        folded
    }
}
