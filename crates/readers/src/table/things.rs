//! The things of a table, and the boxes around them: sites, and the racks in these.

use super::elements::folded;
use crate::facts::Thing;
use crate::finding::Seen;
use bathygram_core::model::ElementKind;
use std::collections::BTreeMap;

/// The things that a table has so far; what holds others comes before them.
#[derive(Default)]
pub(super) struct Things {
    pub(super) all: Vec<Thing>,
    /// Things by the folded names of what they stand for.
    numbers: BTreeMap<String, usize>,
    groups: BTreeMap<(Option<usize>, String), usize>,
}

impl Things {
    /// The number of the thing that stands for a folded name.
    pub(super) fn number(&self, key: &str) -> Option<usize> {
        self.numbers.get(key).copied()
    }

    /// Takes up a thing, and says its number.
    pub(super) fn add(&mut self, key: String, thing: Thing) -> usize {
        let number = self.all.len();
        self.all.push(thing);
        self.numbers.insert(key, number);
        number
    }

    /// The innermost box of what has a site and a rack.
    pub(super) fn boxes(&mut self, site: Option<&str>, rack: Option<&str>, seen: &Seen) -> Option<usize> {
        let site = site.map(|site| self.group(None, site, seen));
        // A rack that is only a number needs a word.
        let named = |rack: &str| match rack.chars().all(|c| c.is_ascii_digit()) {
            true => format!("Rack {rack}"),
            false => rack.to_owned(),
        };
        rack.map(|rack| self.group(site, &named(rack), seen)).or(site)
    }

    /// The box of a label inside another one.
    pub(super) fn group(&mut self, holder: Option<usize>, label: &str, seen: &Seen) -> usize {
        let key = (holder, folded(label));
        if let Some(number) = self.groups.get(&key) {
            return *number;
        }
        let mut thing = Thing::new(label, ElementKind::Group, seen.clone());
        thing.holder = holder;
        self.all.push(thing);
        self.groups.insert(key, self.all.len() - 1);
        self.all.len() - 1
    }
}
