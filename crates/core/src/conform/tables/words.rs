//! Differences between tables and a database in sentences, and the keys by which they are accepted.

use super::{Difference, TableConformance, TableDifference};
use crate::conform::deviation::{Accepted, Deviation, Weight};
use crate::model::{Action, Diagram, ElementId, ElementKind, RelationId};
use std::collections::BTreeSet;

/// At most this many tables that are not drawn are named.
const MOST_NAMES: usize = 5;

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

    /// What differs, ready to be reported.
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
