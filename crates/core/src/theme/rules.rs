//! Which rules are about which elements. Input: the rules of a file in order. Output: for an element or a
//! relation, the rules about it, the more particular ones later. Guarantees: asking costs what is found, not
//! how many rules there are.

use crate::model::{Document, Element, ElementKind, LookRule, Relation, Selector, Verb};
use std::collections::{HashMap, HashSet};

/// Rules by what they are about.
pub(super) struct Rules<'a> {
    all: &'a [LookRule],
    kinds: HashMap<ElementKind, Vec<usize>>,
    verbs: HashMap<Verb, Vec<usize>>,
    tags: HashMap<&'a str, Vec<usize>>,
    names: HashMap<&'a str, Vec<usize>>,
    picture: Vec<usize>,
}

impl<'a> Rules<'a> {
    pub(super) fn new(all: &'a [LookRule]) -> Self {
        let (kinds, verbs) = (HashMap::new(), HashMap::new());
        let (tags, names) = (HashMap::new(), HashMap::new());
        let mut rules = Self { all, kinds, verbs, tags, names, picture: Vec::new() };
        for (i, rule) in all.iter().enumerate() {
            match &rule.selector {
                Selector::Kind(kind) => rules.kinds.entry(*kind).or_default().push(i),
                Selector::Verb(verb) => rules.verbs.entry(*verb).or_default().push(i),
                Selector::Tag(tag) => rules.tags.entry(tag).or_default().push(i),
                Selector::Name(name) => rules.names.entry(name).or_default().push(i),
                Selector::Picture => rules.picture.push(i),
            }
        }
        rules
    }

    /// The rules about an element: by kind, then by tag, then by name.
    pub(super) fn of_element(&self, element: &Element) -> Vec<&'a LookRule> {
        let by_kind = self.kinds.get(&element.kind).cloned().unwrap_or_default();
        let tags = element.properties.tags.iter().map(String::as_str);
        let names = [element.name.as_str(), element.key.as_str()];
        self.rules([by_kind, self.found(&self.tags, tags), self.found(&self.names, names)])
    }

    /// The rules about a relation: by verb, then by tag.
    pub(super) fn of_relation(&self, relation: &Relation) -> Vec<&'a LookRule> {
        let by_verb = self.verbs.get(&relation.verb).cloned().unwrap_or_default();
        self.rules([by_verb, self.found(&self.tags, relation.tags()), Vec::new()])
    }

    /// The rules about the ground of the picture.
    pub(super) fn of_picture(&self) -> Vec<&'a LookRule> {
        self.rules([self.picture.clone(), Vec::new(), Vec::new()])
    }

    /// The rules about any of some words, in their order, each once.
    fn found<'w>(&self, index: &HashMap<&'a str, Vec<usize>>, words: impl IntoIterator<Item = &'w str>) -> Vec<usize> {
        let mut found: Vec<usize> = words.into_iter().filter_map(|w| index.get(w)).flatten().copied().collect();
        found.sort_unstable();
        found.dedup();
        found
    }

    fn rules(&self, levels: [Vec<usize>; 3]) -> Vec<&'a LookRule> {
        levels.into_iter().flatten().map(|i| &self.all[i]).collect()
    }
}

/// What there is in a document, for rules to be about.
pub(super) struct There<'a> {
    kinds: HashSet<ElementKind>,
    verbs: HashSet<Verb>,
    tags: HashSet<&'a str>,
    names: HashSet<&'a str>,
}

impl<'a> There<'a> {
    pub(super) fn new(document: &'a Document) -> Self {
        let sheets = document.sheets.iter().filter_map(|s| document.diagram(&s.of));
        let (kinds, verbs) = (HashSet::new(), HashSet::new());
        let mut there = Self { kinds, verbs, tags: HashSet::new(), names: HashSet::new() };
        for diagram in document.diagrams.iter().chain(sheets) {
            for element in &diagram.elements {
                there.kinds.insert(element.kind);
                there.names.extend([element.name.as_str(), element.key.as_str()]);
                there.tags.extend(element.properties.tags.iter().map(String::as_str));
            }
            for relation in &diagram.relations {
                there.verbs.insert(relation.verb);
                there.tags.extend(relation.tags());
            }
        }
        there
    }

    /// Whether a rule is about anything.
    pub(super) fn matches(&self, selector: &Selector) -> bool {
        match selector {
            Selector::Kind(kind) => self.kinds.contains(kind),
            Selector::Verb(verb) => self.verbs.contains(verb),
            Selector::Tag(tag) => self.tags.contains(tag.as_str()),
            Selector::Name(name) => self.names.contains(name.as_str()),
            Selector::Picture => true,
        }
    }
}
