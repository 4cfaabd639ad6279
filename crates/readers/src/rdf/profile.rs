//! Triples, summed up as they come. Of every node its classes and the sorts of its literals are kept, of every line between two nodes
//! its ends; both as numbers. Where there are too many of either, every second node by its hash is dropped with its lines, and so on:
//! what is left is a fair part of all, whatever the order of the file.

use super::vocabulary::{Class, CountedOn, Property, Range, Vocabulary};
use super::{OWL, Prefixes, RDF, RDFS, is_of_language};
use foldhash::fast::FixedState;
use oxrdf::{NamedOrBlankNode, Term, Triple};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::hash::BuildHasher;

/// This many nodes are remembered, and this many lines between nodes.
// About 150 MB, whatever is read.
const MOST_NODES: usize = 3_000_000;
const MOST_LINES: usize = 6_000_000;
/// This many pairs of a class with one that a property leads to are counted, over all nodes.
// A node in a hundred classes that is joined with another one makes ten thousand of them.
const MOST_PAIRS: usize = 10_000_000;
/// A class or a property has at most this many letters of comment.
const COMMENT: usize = 300;

type Number = u32;
type Maps<K, V> = HashMap<K, V, FixedState>;

/// Things that are few, by their numbers.
struct Numbered<T> {
    all: Vec<T>,
    numbers: Maps<T, Number>,
}

impl<T> Default for Numbered<T> {
    fn default() -> Self {
        Self { all: Vec::new(), numbers: HashMap::with_hasher(FixedState::default()) }
    }
}

impl<T: Clone + Eq + std::hash::Hash> Numbered<T> {
    fn number(&mut self, one: &T) -> Number {
        if let Some(number) = self.numbers.get(one) {
            return *number;
        }
        let number = self.all.len() as Number;
        self.all.push(one.clone());
        self.numbers.insert(one.clone(), number);
        number
    }
}

impl Numbered<String> {
    fn of(&mut self, text: &str) -> Number {
        match self.numbers.get(text) {
            Some(number) => *number,
            None => self.number(&text.to_owned()),
        }
    }
}

/// What is known of a node: its classes, and what literals it has, as numbers of sets.
#[derive(Clone, Copy, Default)]
struct Node {
    hash: u64,
    classes: Number,
    literals: Number,
}

/// A line from one node to another, by the numbers of the property and of the nodes.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
struct Line {
    from: Number,
    property: Number,
    to: Number,
}

/// What a property leads to, by the number of its IRI.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum RangeNumber {
    Datatype(Number),
    Class(Number),
}

/// Literals of one sort: the property, the datatype, and whether there are several.
type Literal = (Number, Number, bool);

/// What is collected of one subject as long as its triples stand together.
#[derive(Default)]
struct Subject {
    hash: u64,
    number: Option<Number>,
    iri: Option<String>,
    classes: Vec<Number>,
    literals: Vec<(Number, Number)>,
    label: Option<String>,
    comment: Option<String>,
}

/// What RDF Schema says of a class or a property.
#[derive(Default)]
struct Declared {
    is_class: bool,
    label: Option<String>,
    comment: Option<String>,
    parents: BTreeSet<String>,
    domains: BTreeSet<String>,
    ranges: BTreeSet<String>,
}

/// All that is known so far.
pub(super) struct Profile {
    pub(super) triples: u64,
    pub(super) prefixes: Prefixes,
    iris: Numbered<String>,
    sets: Numbered<Vec<Number>>,
    signatures: Numbered<Vec<Literal>>,
    nodes: Vec<Node>,
    places: Maps<u64, Number>,
    lines: Vec<Line>,
    /// This many bits of a hash must be 0 for a node to be kept.
    level: u32,
    most: [usize; 2],
    subject: Subject,
    declared: BTreeMap<String, Declared>,
    hasher: FixedState,
    /// Properties and datatypes come again and again.
    last: [(String, Number); 2],
}

impl Default for Profile {
    fn default() -> Self {
        let mut profile = Self {
            triples: 0,
            prefixes: Prefixes::new(),
            iris: Numbered::default(),
            sets: Numbered::default(),
            signatures: Numbered::default(),
            nodes: Vec::new(),
            places: HashMap::with_hasher(FixedState::default()),
            lines: Vec::new(),
            level: 0,
            most: [MOST_NODES, MOST_LINES],
            subject: Subject::default(),
            declared: BTreeMap::new(),
            hasher: FixedState::default(),
            last: Default::default(),
        };
        // Nothing is the first of all sets.
        profile.sets.number(&Vec::new());
        profile.signatures.number(&Vec::new());
        profile
    }
}

impl Profile {
    /// One triple more.
    pub(super) fn take(&mut self, triple: &Triple) {
        self.triples += 1;
        let hash = match &triple.subject {
            NamedOrBlankNode::NamedNode(node) => self.hasher.hash_one(node.as_str()),
            NamedOrBlankNode::BlankNode(node) => self.hasher.hash_one(("_", node.as_str())),
        };
        if hash != self.subject.hash || self.triples == 1 {
            self.flush();
            let iri = match &triple.subject {
                NamedOrBlankNode::NamedNode(node) => Some(node.as_str().to_owned()),
                NamedOrBlankNode::BlankNode(_) => None,
            };
            self.subject = Subject { hash, iri, ..Subject::default() };
            self.subject.number = self.node(hash);
        }
        let predicate = triple.predicate.as_str();
        match &triple.object {
            Term::NamedNode(class) if predicate.strip_prefix(RDF) == Some("type") => {
                let number = self.iris.of(class.as_str());
                self.subject.classes.push(number);
            }
            Term::NamedNode(node) => {
                self.declare(predicate, node.as_str());
                let hash = self.hasher.hash_one(node.as_str());
                self.line(predicate, hash);
            }
            Term::BlankNode(node) => {
                let hash = self.hasher.hash_one(("_", node.as_str()));
                self.line(predicate, hash);
            }
            Term::Literal(literal) => {
                let property = self.known(0, predicate);
                let datatype = self.known(1, literal.datatype().as_str());
                self.subject.literals.push((property, datatype));
                match predicate.strip_prefix(RDFS) {
                    // One in English, or in no language, is preferred.
                    Some("label") if self.subject.label.is_none() || is_plain(literal.language()) => {
                        self.subject.label = Some(literal.value().to_owned());
                    }
                    Some("comment") if self.subject.comment.is_none() || is_plain(literal.language()) => {
                        self.subject.comment = Some(literal.value().chars().take(COMMENT).collect());
                    }
                    _ => {}
                }
            }
        }
    }

    fn known(&mut self, which: usize, text: &str) -> Number {
        if self.last[which].0 == text {
            return self.last[which].1;
        }
        let number = self.iris.of(text);
        self.last[which] = (text.to_owned(), number);
        number
    }

    /// What RDF Schema says of classes and properties.
    fn declare(&mut self, predicate: &str, object: &str) {
        let Some(word) = predicate.strip_prefix(RDFS) else { return };
        let Some(subject) = &self.subject.iri else { return };
        if !matches!(word, "subClassOf" | "domain" | "range") {
            return;
        }
        let declared = self.declared.entry(subject.clone()).or_default();
        match word {
            "subClassOf" => {
                declared.is_class = true;
                declared.parents.insert(object.to_owned());
                self.declared.entry(object.to_owned()).or_default().is_class = true;
            }
            "domain" => _ = declared.domains.insert(object.to_owned()),
            _ => _ = declared.ranges.insert(object.to_owned()),
        }
    }

    fn is_kept(&self, hash: u64) -> bool {
        self.level == 0 || hash.trailing_zeros() >= self.level
    }

    /// The number of a node; nothing if it is none of those that are kept.
    fn node(&mut self, hash: u64) -> Option<Number> {
        if !self.is_kept(hash) {
            return None;
        }
        if let Some(number) = self.places.get(&hash) {
            return Some(*number);
        }
        if self.nodes.len() >= self.most[0] {
            self.thin();
            return self.node(hash);
        }
        let number = self.nodes.len() as Number;
        self.nodes.push(Node { hash, ..Node::default() });
        self.places.insert(hash, number);
        Some(number)
    }

    fn line(&mut self, predicate: &str, hash: u64) {
        let property = self.known(0, predicate);
        if self.lines.len() >= self.most[1] {
            self.thin();
        }
        let Some(to) = self.node(hash) else { return };
        // Taking the other node may have given this one another number.
        let Some(from) = self.subject.number else { return };
        self.lines.push(Line { from, property, to });
    }

    /// Drops every second node.
    fn thin(&mut self) {
        self.level += 1;
        let all = std::mem::take(&mut self.nodes);
        self.places.clear();
        let mut numbers: Vec<Option<Number>> = Vec::with_capacity(all.len());
        for node in all {
            let is_kept = self.is_kept(node.hash);
            numbers.push(is_kept.then_some(self.nodes.len() as Number));
            if is_kept {
                self.places.insert(node.hash, self.nodes.len() as Number);
                self.nodes.push(node);
            }
        }
        let number = |old: Number| numbers[old as usize];
        self.lines.retain_mut(|line| {
            let ends = number(line.from).zip(number(line.to));
            ends.inspect(|(from, to)| (line.from, line.to) = (*from, *to)).is_some()
        });
        self.subject.number = self.subject.number.and_then(number);
    }

    /// Puts what is known of the subject where nodes are kept.
    fn flush(&mut self) {
        let subject = std::mem::take(&mut self.subject);
        self.subject.hash = subject.hash;
        if let Some(iri) = subject.iri.as_ref().filter(|_| !subject.classes.is_empty()) {
            let of = |number: &Number| self.iris.all[*number as usize].as_str();
            let is_class = subject.classes.iter().any(|class| {
                matches!(of(class).strip_prefix(OWL), Some("Class"))
                    || matches!(of(class).strip_prefix(RDFS), Some("Class"))
            });
            let is_property =
                subject.classes.iter().any(|class| is_of_language(of(class)) && of(class).ends_with("Property"));
            if is_class || is_property {
                let declared = self.declared.entry(iri.clone()).or_default();
                declared.is_class |= is_class;
                declared.label = subject.label.or(declared.label.take());
                declared.comment = subject.comment.or(declared.comment.take());
            }
        }
        let Some(number) = subject.number else { return };
        let node = self.nodes[number as usize];
        if !subject.classes.is_empty() {
            let mut set = self.sets.all[node.classes as usize].clone();
            set.extend(subject.classes);
            set.sort_unstable();
            set.dedup();
            self.nodes[number as usize].classes = self.sets.number(&set);
        }
        if !subject.literals.is_empty() {
            let mut known: BTreeMap<(Number, Number), bool> =
                self.signatures.all[node.literals as usize].iter().map(|(p, d, many)| ((*p, *d), *many)).collect();
            for literal in subject.literals {
                known.entry(literal).and_modify(|many| *many = true).or_insert(false);
            }
            let signature: Vec<Literal> = known.into_iter().map(|((p, d), many)| (p, d, many)).collect();
            self.nodes[number as usize].literals = self.signatures.number(&signature);
        }
    }

    /// The classes, when all is read.
    ///
    /// # Errors
    /// If so many classes are joined with so many others that counting them would take too long.
    pub(super) fn finish(mut self) -> Result<Vocabulary, String> {
        self.flush();
        let mut found: BTreeMap<String, Class> = BTreeMap::new();
        let scale = 1_u64 << self.level.min(63);
        // How many nodes have the same classes, and the same literals as well.
        let mut sets: BTreeMap<Number, u64> = BTreeMap::new();
        let mut kinds: BTreeMap<(Number, Number), u64> = BTreeMap::new();
        for node in &self.nodes {
            *sets.entry(node.classes).or_default() += 1;
            *kinds.entry((node.classes, node.literals)).or_default() += 1;
        }
        let subjects: BTreeSet<Number> = self.lines.iter().map(|line| line.from).collect();
        let declared: BTreeSet<u64> = self.declared.keys().map(|iri| self.hasher.hash_one(iri.as_str())).collect();
        let is_subject = |(number, node): &(usize, &Node)| {
            let says = node.literals != 0 || subjects.contains(&(*number as Number));
            says && node.classes == 0 && !declared.contains(&node.hash)
        };
        let unclassed = self.nodes.iter().enumerate().filter(is_subject).count();
        let classes_of = |set: Number| -> Vec<Number> {
            let of = &self.sets.all[set as usize];
            of.iter().copied().filter(|class| !is_of_language(&self.iris.all[*class as usize])).collect()
        };
        let mut instances: BTreeMap<Number, u64> = BTreeMap::new();
        for (set, count) in &sets {
            classes_of(*set).into_iter().for_each(|class| *instances.entry(class).or_default() += count);
        }
        let mut stats: BTreeMap<(Number, Number, Option<RangeNumber>), Stat> = BTreeMap::new();
        let mut pairs = 0;
        // Of the literals of a property whatever their datatypes: how many instances have one, and whether one has several.
        let mut any: BTreeMap<(Number, Number), (u64, bool)> = BTreeMap::new();
        for ((set, literals), count) in &kinds {
            for class in classes_of(*set) {
                let signature = &self.signatures.all[*literals as usize];
                for (property, datatype, many) in signature {
                    let range = Some(RangeNumber::Datatype(*datatype));
                    stats.entry((class, *property, range)).or_default().add(*count, *many, *count);
                }
                for same in signature.chunk_by(|a, b| a.0 == b.0) {
                    let all = any.entry((class, same[0].0)).or_default();
                    all.0 += count;
                    all.1 |= same.len() > 1 || same[0].2;
                }
            }
        }
        self.lines.sort_unstable();
        self.lines.dedup();
        for same in self.lines.chunk_by(|a, b| (a.from, a.property) == (b.from, b.property)) {
            let from = classes_of(self.nodes[same[0].from as usize].classes);
            if from.is_empty() {
                continue;
            }
            let mut ranges: BTreeMap<Option<Number>, u64> = BTreeMap::new();
            for line in same {
                let to = classes_of(self.nodes[line.to as usize].classes);
                match to.is_empty() {
                    true => *ranges.entry(None).or_default() += 1,
                    false => to.into_iter().for_each(|class| *ranges.entry(Some(class)).or_default() += 1),
                }
            }
            pairs += from.len() * ranges.len();
            if pairs > MOST_PAIRS {
                return Err(format!(
                    "its nodes have too many classes each: there are more than {MOST_PAIRS} pairs of classes that a \
                     property joins"
                ));
            }
            for (range, count) in ranges {
                for class in &from {
                    let key = (*class, same[0].property, range.map(RangeNumber::Class));
                    stats.entry(key).or_default().add(1, count > 1, count);
                }
            }
        }
        for (class, count) in &instances {
            let iri = self.iris.all[*class as usize].clone();
            found.insert(iri.clone(), Class { iri, instances: Some(count * scale), ..Class::default() });
        }
        // A part of the lines is left where a part of the nodes is: a line is kept with both of its ends.
        for ((class, property, range), stat) in stats {
            let iri = &self.iris.all[property as usize];
            let Some(of) = found.get_mut(&self.iris.all[class as usize]).filter(|_| !is_of_language(iri)) else {
                continue;
            };
            let iri_of = |number: Number| self.iris.all[number as usize].clone();
            let range = match range {
                Some(RangeNumber::Datatype(number)) => Range::Datatype(iri_of(number)),
                Some(RangeNumber::Class(number)) => Range::Class(iri_of(number)),
                None => Range::Resource,
            };
            let is_literal = matches!(range, Range::Datatype(_));
            let part = if is_literal { scale } else { scale * scale };
            let literals = any.get(&(class, property)).filter(|_| is_literal);
            let (having, is_many) = literals.copied().unwrap_or((stat.subjects, stat.is_many));
            of.properties.push(Property {
                iri: iri.clone(),
                is_in_all: having == instances.get(&class).copied().unwrap_or_default(),
                is_many,
                instances: Some(stat.subjects * part),
                values: Some(stat.values * part),
                range,
            });
        }
        self.declare_all(&mut found);
        let mut classes: Vec<Class> = found.into_values().collect();
        classes
            .iter_mut()
            .for_each(|class| class.properties.sort_by(|a, b| (&a.iri, &a.range).cmp(&(&b.iri, &b.range))));
        Ok(Vocabulary {
            classes,
            prefixes: std::mem::take(&mut self.prefixes),
            triples: Some(self.triples),
            unclassed: unclassed as u64 * scale,
            counted_on: (self.level > 0).then_some(CountedOn::OneIn(scale)),
            ..Vocabulary::default()
        })
    }

    /// Classes and properties that are declared, with what is said of them.
    fn declare_all(&self, found: &mut BTreeMap<String, Class>) {
        for (iri, declared) in self.declared.iter().filter(|(iri, one)| one.is_class && !is_of_language(iri)) {
            let class = found.entry(iri.clone()).or_insert_with(|| Class { iri: iri.clone(), ..Class::default() });
            class.label.clone_from(&declared.label);
            class.comment.clone_from(&declared.comment);
            let parents = declared.parents.iter().filter(|parent| !is_of_language(parent) && *parent != iri);
            class.parents = parents.cloned().collect();
        }
        for (iri, declared) in self.declared.iter().filter(|(_, one)| !one.is_class) {
            for domain in &declared.domains {
                let Some(class) = found.get_mut(domain) else { continue };
                // What was observed says more.
                if class.properties.iter().any(|property| property.iri == *iri) {
                    continue;
                }
                for range in &declared.ranges {
                    let is_datatype = range.starts_with(super::XSD) || *range == format!("{RDFS}Literal");
                    let range = if is_datatype { Range::Datatype(range.clone()) } else { Range::Class(range.clone()) };
                    let iri = iri.clone();
                    class.properties.push(Property {
                        iri,
                        range,
                        instances: None,
                        values: None,
                        is_in_all: false,
                        is_many: true,
                    });
                }
            }
        }
        // A range that is no class here is a resource like others.
        let known: BTreeSet<String> = found.keys().cloned().collect();
        for property in found.values_mut().flat_map(|class| &mut class.properties) {
            if matches!(&property.range, Range::Class(range) if !known.contains(range)) {
                property.range = Range::Resource;
            }
        }
    }
}

/// How many subjects have something, how many values there are, and whether one has several.
#[derive(Default)]
struct Stat {
    subjects: u64,
    values: u64,
    is_many: bool,
}

impl Stat {
    fn add(&mut self, subjects: u64, is_many: bool, values: u64) {
        self.subjects += subjects;
        self.values += values;
        self.is_many |= is_many;
    }
}

fn is_plain(language: Option<&str>) -> bool {
    language.is_none_or(|language| language == "en" || language.starts_with("en-"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use oxttl::TurtleParser;

    fn profile(text: &str, most: [usize; 2]) -> Vocabulary {
        let mut profile = Profile { most, ..Profile::default() };
        TurtleParser::new().for_slice(text.as_bytes()).for_each(|triple| profile.take(&triple.expect("a triple")));
        profile.finish().expect("a vocabulary")
    }

    /// A thousand stations with two sensors each, in the worst order.
    fn many() -> String {
        let mut text = "@prefix : <urn:t:> . @prefix xsd: <http://www.w3.org/2001/XMLSchema#> .\n".to_owned();
        (0..1000).for_each(|i| text += &format!(":p{i} :sensor :q{i}, :r{i} .\n"));
        (0..1000)
            .for_each(|i| text += &format!(":q{i} a :Sensor ; :depth \"1.5\"^^xsd:decimal .\n:r{i} a :Sensor .\n"));
        (0..1000).for_each(|i| text += &format!(":p{i} a :Station ; :name \"P\" .\n"));
        text
    }

    #[test]
    fn a_part_of_the_nodes_tells_of_all() {
        let all = profile(&many(), [1_000_000, 1_000_000]);
        for most in [[400, 100_000], [100_000, 300]] {
            let part = profile(&many(), most);
            assert!(part.counted_on.is_some(), "{most:?}");
            for (a, b) in all.classes.iter().zip(&part.classes) {
                let (of, is) = (a.instances.unwrap_or(0) as f64, b.instances.unwrap_or(0) as f64);
                assert!((of - is).abs() < of * 0.3, "{most:?} {}: {of} {is}", a.iri);
                let shapes = |class: &Class| {
                    class.properties.iter().map(|p| (p.iri.clone(), p.range.clone())).collect::<Vec<_>>()
                };
                assert_eq!(shapes(a), shapes(b), "{most:?}");
            }
        }
        assert_eq!(all.counted_on, None);
        assert_eq!(all.classes.iter().map(|c| c.instances).collect::<Vec<_>>(), [Some(2000), Some(1000)]);
        let told: Vec<String> = all
            .classes
            .iter()
            .flat_map(|c| &c.properties)
            .map(|p| format!("{} {} {}", p.iri, p.multiplicity(), p.instances.unwrap_or(0)))
            .collect();
        assert_eq!(told, ["urn:t:depth 0..1 1000", "urn:t:name 1 1000", "urn:t:sensor 1..* 1000"]);
    }
}
