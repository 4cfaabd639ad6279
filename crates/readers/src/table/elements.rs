//! Elements in a table, one a row: an inventory, or a list of parts with what they lie in.

use super::headings::{Headings, Is, Role, icon};
use super::rows::Row;
use super::things::Things;
use super::{Form, Options};
use crate::facts::{Facts, Said, Thing};
use crate::finding::{Finding, Level, Seen};
use bathygram_core::model::{DiagramKind, ElementKind};
use std::collections::BTreeMap;

/// An element of the table.
pub(super) struct Listed {
    pub(super) name: String,
    pub(super) label: Option<String>,
    pub(super) kind: Option<String>,
    parent: Option<(String, Seen)>,
    pub(super) rack: Option<String>,
    pub(super) site: Option<String>,
    pub(super) said: Said,
    pub(super) tags: Vec<String>,
    pub(super) seen: Seen,
}

/// All elements, by their folded names.
#[derive(Default)]
pub(super) struct Elements {
    order: Vec<String>,
    listed: BTreeMap<String, Listed>,
}

/// A name without what people spell differently: capitals, spaces, dashes.
pub(super) fn folded(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

impl Elements {
    pub(super) fn is_empty(&self) -> bool {
        self.listed.is_empty()
    }

    /// An element by its name.
    pub(super) fn get(&self, name: &str) -> Option<&Listed> {
        self.listed.get(&folded(name))
    }

    /// All of them, in the order of the table.
    pub(super) fn all(&self) -> impl Iterator<Item = &Listed> {
        self.order.iter().filter_map(|key| self.listed.get(key))
    }

    /// Takes up a row.
    pub(super) fn add(&mut self, headings: &Headings, row: &Row, findings: &mut Vec<Finding>) {
        let cell = |is: Is| headings.cell(row, Role::Element(is)).map(str::to_owned);
        let Some(name) = cell(Is::Name) else {
            let says = format!("this row names nothing: {}", row.shown());
            findings.push(Finding::new("name-missing", Level::Warning, row.seen.clone(), says));
            return;
        };
        let place = |is: Is| headings.column(Role::Element(is)).map_or_else(|| row.seen.clone(), |at| row.place(at));
        if let Some(first) = self.get(&name) {
            let says = format!("`{name}` is listed twice; first in {}", first.seen);
            findings.push(Finding::new("listed-twice", Level::Warning, place(Is::Name), says));
            return;
        }
        let tags = cell(Is::Tag).map(|text| tags(&text)).unwrap_or_default();
        let parent = cell(Is::Parent).map(|parent| (parent, place(Is::Parent)));
        let said = Said { about: cell(Is::About), built: cell(Is::Built), owner: cell(Is::Owner) };
        let listed = Listed {
            label: cell(Is::Label),
            kind: cell(Is::Kind),
            parent,
            rack: cell(Is::Rack),
            site: cell(Is::Site),
            said,
            tags,
            seen: place(Is::Name),
            name: name.clone(),
        };
        self.order.push(folded(&name));
        self.listed.insert(folded(&name), listed);
    }

    /// The elements as an architecture.
    pub(super) fn facts(&self, options: &Options) -> Facts {
        let mut findings = Vec::new();
        let mut builder = Builder { elements: self, things: Things::default() };
        for listed in self.all().filter(|listed| options.selection.wants(&listed.name)) {
            builder.place(listed, &mut Vec::new(), &mut findings);
        }
        let mut facts = Facts { things: builder.things.all, findings, ..Facts::new(DiagramKind::Architecture) };
        if options.form == Form::Tree {
            facts.kind = DiagramKind::Tree;
            // What a tree is of has no kinds, and what hangs below something is no group.
            for thing in &mut facts.things {
                (thing.kind, thing.is_named, thing.icon) = (ElementKind::Item, true, None);
            }
        }
        facts
    }
}

/// Several tags in one cell.
pub(super) fn tags(text: &str) -> Vec<String> {
    let parts = text.split([',', ';', '/', '|']).map(str::trim).filter(|part| !part.is_empty());
    parts.map(|part| part.replace(' ', "_").to_lowercase()).collect()
}

struct Builder<'a> {
    elements: &'a Elements,
    things: Things,
}

impl Builder<'_> {
    /// The number of an element, behind what it lies in.
    fn place(&mut self, listed: &Listed, above: &mut Vec<String>, findings: &mut Vec<Finding>) -> usize {
        let key = folded(&listed.name);
        if let Some(number) = self.things.number(&key) {
            return number;
        }
        above.push(key.clone());
        let holder = match &listed.parent {
            Some((parent, seen)) => self.holder(parent, seen, above, findings),
            None => self.things.boxes(listed.site.as_deref(), listed.rack.as_deref(), &listed.seen),
        };
        above.pop();
        let mut thing = Thing::new(&listed.name, kind(listed.kind.as_deref()), listed.seen.clone());
        thing.holder = holder;
        thing.label = listed.label.clone();
        thing.icon = listed.kind.as_deref().and_then(icon);
        thing.said = listed.said.clone();
        thing.tags = listed.tags.clone();
        self.things.add(key, thing)
    }

    fn holder(
        &mut self, parent: &str, seen: &Seen, above: &mut Vec<String>, findings: &mut Vec<Finding>,
    ) -> Option<usize> {
        let elements = self.elements;
        let Some(listed) = elements.get(parent) else {
            let says = format!("`{parent}` is listed nowhere; a group of this name stands for it");
            findings.push(Finding::new("parent-missing", Level::Note, seen.clone(), says));
            return Some(self.things.group(None, parent, seen));
        };
        if above.contains(&folded(parent)) {
            let says = format!("`{parent}` lies in itself, by way of others");
            findings.push(Finding::new("in-a-circle", Level::Warning, seen.clone(), says));
            return None;
        }
        Some(self.place(listed, above, findings))
    }
}

/// The kind of an element of an architecture.
fn kind(word: Option<&str>) -> ElementKind {
    kind_of(word).unwrap_or(ElementKind::System)
}

/// The kind of an element by its word, if the language has one.
pub(crate) fn kind_of(word: Option<&str>) -> Option<ElementKind> {
    let word = word.map(str::to_lowercase).unwrap_or_default();
    let known = ["actor", "system", "service", "store", "queue", "device", "part", "zone", "host", "group"];
    Some(match word.as_str() {
        "database" | "db" | "storage" | "table" => ElementKind::Store,
        "person" | "user" | "role" | "team" => ElementKind::Actor,
        "application" | "app" | "product" | "platform" => ElementKind::System,
        "component" | "module" | "library" | "package" => ElementKind::Part,
        "topic" | "bus" | "stream" | "broker" => ElementKind::Queue,
        "server" | "machine" | "vm" | "node" => ElementKind::Host,
        word if known.contains(&word) => return ElementKind::from_word(word),
        _ => return None,
    })
}
