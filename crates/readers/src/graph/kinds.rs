//! What kinds of nodes and edges there are, with their properties, the types of these, how often they occur, and how many there
//! are of each at the ends of an edge. Memory grows with kinds and with nodes, not with edges: of nodes that only edges name,
//! a bounded number is remembered.

use super::types::Stat;
use crate::facts::{Facts, Link, Member, Thing};
use crate::finding::Seen;
use crate::select::Selection;
use crate::text::counted;
use bathygram_core::model::{DiagramKind, ElementKind, Verb};
use std::collections::{HashMap, HashSet};

/// This many nodes are remembered that only edges name.
// If none of these has two edges of a kind, most likely none has.
const REMEMBERED: usize = 65_536;
/// There may be this many kinds.
// More are no kinds: a column with names was taken for one.
pub(super) const MOST_KINDS: usize = 500;

/// This many are looked through before they are looked up.
const FEW: usize = 8;

/// The number of a kind, a property or a node.
pub(super) type Number = u32;

/// Texts by their numbers.
#[derive(Default)]
pub(super) struct Texts {
    all: Vec<String>,
    numbers: HashMap<Box<[u8]>, Number>,
}

impl Texts {
    pub(super) fn number(&mut self, bytes: &[u8]) -> Number {
        // Most graphs have few kinds, and comparing these is quicker than hashing.
        if let Some(at) = self.all.iter().take(FEW).position(|text| text.as_bytes() == bytes) {
            return at as Number;
        }
        if let Some(number) = self.numbers.get(bytes) {
            return *number;
        }
        self.all.push(crate::text::cell(bytes).0);
        self.numbers.insert(bytes.into(), self.all.len() as Number - 1);
        self.all.len() as Number - 1
    }

    pub(super) fn text(&self, number: Number) -> &str {
        &self.all[number as usize]
    }

    pub(super) fn len(&self) -> usize {
        self.all.len()
    }
}

/// A kind of node.
struct NodeKind {
    name: Number,
    count: u64,
    stats: Vec<Stat>,
    seen: Seen,
}

/// A kind of edge between two kinds of nodes.
struct EdgeKind {
    name: Number,
    ends: [Number; 2],
    count: u64,
    stats: Vec<Stat>,
    /// How many edges leave, and how many reach, one node.
    degrees: [Degrees; 2],
    is_directed: bool,
    seen: Seen,
}

/// How many edges of a kind a node has.
#[derive(Default)]
struct Degrees {
    /// By the numbers of known nodes: 0, 1, or several.
    known: Vec<u8>,
    /// Nodes that only edges name.
    named: HashSet<u64>,
    is_many: bool,
}

impl Degrees {
    fn count(&mut self, node: Option<Number>, hash: impl FnOnce() -> u64) {
        match node {
            Some(node) => {
                let node = node as usize;
                if self.known.len() <= node {
                    self.known.resize(node + 1, 0);
                }
                self.is_many |= self.known[node] > 0;
                self.known[node] = 1;
            }
            None if self.is_many => {}
            None if self.named.len() < REMEMBERED => self.is_many |= !self.named.insert(hash()),
            None => self.is_many |= self.named.contains(&hash()),
        }
        if self.is_many && !self.named.is_empty() {
            self.named = HashSet::new();
        }
    }

    /// The multiplicity, for this many nodes of the kind at this end.
    fn multiplicity(&self, nodes: u64) -> &'static str {
        let has_all = nodes > 0 && self.known.iter().filter(|count| **count > 0).count() as u64 == nodes;
        match (has_all, self.is_many) {
            (true, false) => "1",
            (true, true) => "1..*",
            (false, false) => "0..1",
            (false, true) => "0..*",
        }
    }
}

/// All kinds.
#[derive(Default)]
pub(super) struct Kinds {
    pub(super) names: Texts,
    pub(super) properties: Texts,
    nodes: Vec<NodeKind>,
    edges: Vec<EdgeKind>,
    node_numbers: HashMap<Number, Number>,
    edge_numbers: HashMap<(Number, [Number; 2]), Number>,
    /// The numbers and the kinds of nodes that are listed.
    listed: HashMap<Box<[u8]>, (Number, Number)>,
    unnamed: Option<Number>,
}

impl Kinds {
    /// A node of some kind: what is known of its kind's properties. `None` if it is listed already.
    pub(super) fn node(&mut self, id: &[u8], kind: &[u8], seen: impl FnOnce() -> Seen) -> Option<&mut Vec<Stat>> {
        let name = self.names.number(kind);
        let number = self.node_kind(name, seen);
        let next = self.listed.len() as Number;
        if self.listed.insert(id.into(), (next, number)).is_some() {
            return None;
        }
        let kind = &mut self.nodes[number as usize];
        kind.count += 1;
        Some(&mut kind.stats)
    }

    /// Whether a node is listed.
    pub(super) fn is_listed(&self, id: &[u8]) -> bool {
        self.listed.contains_key(id)
    }

    /// Whether any node is listed.
    pub(super) fn has_listed(&self) -> bool {
        !self.listed.is_empty()
    }

    fn node_kind(&mut self, name: Number, seen: impl FnOnce() -> Seen) -> Number {
        let next = self.nodes.len() as Number;
        let number = *self.node_numbers.entry(name).or_insert(next);
        if number == next {
            self.nodes.push(NodeKind { name, count: 0, stats: Vec::new(), seen: seen() });
        }
        number
    }

    /// An edge of some kind between two nodes, which may be of kinds that only the edge tells.
    pub(super) fn edge(
        &mut self, kind: Number, ends: [&[u8]; 2], told: [Option<&[u8]>; 2], is_directed: bool, seen: impl Fn() -> Seen,
    ) -> &mut Vec<Stat> {
        let listed = ends.map(|end| if self.listed.is_empty() { None } else { self.listed.get(end).copied() });
        let mut kinds = [0; 2];
        for side in 0..2 {
            kinds[side] = match listed[side] {
                Some((_, kind)) => kind,
                None => match told[side] {
                    Some(told) => {
                        let name = self.names.number(told);
                        self.node_kind(name, &seen)
                    }
                    None => self.unnamed(&seen),
                },
            };
        }
        let key = (kind, kinds);
        let is_it = |edge: &EdgeKind| (edge.name, edge.ends) == key;
        let number = self.edges.iter().take(FEW).position(is_it).map(|at| at as Number).unwrap_or_else(|| {
            let next = self.edges.len() as Number;
            let number = *self.edge_numbers.entry(key).or_insert(next);
            if number == next {
                let (degrees, stats) = (Default::default(), Vec::new());
                self.edges.push(EdgeKind {
                    name: kind,
                    ends: kinds,
                    count: 0,
                    stats,
                    degrees,
                    is_directed,
                    seen: seen(),
                });
            }
            number
        });
        let edge = &mut self.edges[number as usize];
        edge.count += 1;
        for side in 0..2 {
            edge.degrees[side].count(listed[side].map(|(node, _)| node), || hash(ends[side]));
        }
        &mut edge.stats
    }

    /// The kind of nodes of which nobody says what they are.
    fn unnamed(&mut self, seen: impl FnOnce() -> Seen) -> Number {
        if let Some(number) = self.unnamed {
            return number;
        }
        let name = self.names.number(b"node");
        let number = self.node_kind(name, seen);
        self.unnamed = Some(number);
        number
    }

    /// How many kinds of nodes there are.
    pub(super) fn node_kinds(&self) -> usize {
        self.nodes.len()
    }

    /// How many kinds of edges there are.
    pub(super) fn edge_kinds(&self) -> usize {
        self.edges.len()
    }

    /// How many nodes and edges there are.
    pub(super) fn counts(&self) -> [u64; 2] {
        [self.nodes.iter().map(|kind| kind.count).sum(), self.edges.iter().map(|kind| kind.count).sum()]
    }

    /// Kinds as classes: edges with properties stand between the nodes as records of their own.
    pub(super) fn facts(&self, selection: &Selection) -> Facts {
        let mut facts = Facts::new(DiagramKind::Classes);
        let mut numbers: Vec<Option<usize>> = Vec::new();
        for kind in &self.nodes {
            let name = self.names.text(kind.name);
            let number = selection.wants(name).then(|| {
                let mut thing = Thing::new(name, ElementKind::Class, kind.seen.clone());
                thing.members = self.members(&kind.stats, kind.count);
                thing.keyword = (kind.count > 0).then(|| counted(kind.count, "node"));
                facts.things.push(thing);
                facts.things.len() - 1
            });
            numbers.push(number);
        }
        for edge in &self.edges {
            let [Some(from), Some(to)] = edge.ends.map(|end| numbers[end as usize]) else { continue };
            self.edge_facts(edge, from, to, &mut facts);
        }
        let [nodes, edges] = self.counts();
        let nodes = if nodes > 0 { format!("{} and ", counted(nodes, "node")) } else { String::new() };
        facts.caption = Some(format!("{nodes}{}", counted(edges, "edge")));
        facts
    }

    fn edge_facts(&self, edge: &EdgeKind, from: usize, to: usize, facts: &mut Facts) {
        let name = self.names.text(edge.name);
        let nodes = edge.ends.map(|end| self.nodes[end as usize].count);
        // At the end of an edge stands how many of these one at the other end has.
        let many = [0, 1].map(|side| Some(edge.degrees[side].multiplicity(nodes[side]).to_owned()));
        let members = self.members(&edge.stats, edge.count);
        if members.is_empty() {
            let verb = if edge.is_directed { Verb::Knows } else { Verb::Joins };
            let mut link = Link::new(from, verb, to, edge.seen.clone());
            link.label = Some(format!("{name}, {}", edge.count));
            let [out, into] = many;
            (link.ends[1].multiplicity, link.ends[0].multiplicity) = (out, into);
            facts.links.push(link);
            return;
        }
        let origin = format!("{} {name} {}", facts.things[from].origin, facts.things[to].origin);
        let mut record = Thing::new(&origin, ElementKind::Record, edge.seen.clone());
        record.label = Some(name.to_owned());
        record.members = members;
        record.keyword = Some(counted(edge.count, "edge"));
        facts.things.push(record);
        let record = facts.things.len() - 1;
        let one = || Some("1".to_owned());
        let [out, into] = many;
        let mut first = Link::new(from, Verb::Knows, record, edge.seen.clone());
        (first.ends[0].multiplicity, first.ends[1].multiplicity) = (one(), out);
        let mut second = Link::new(record, Verb::Knows, to, edge.seen.clone());
        (second.ends[0].multiplicity, second.ends[1].multiplicity) = (into, one());
        facts.links.extend([first, second]);
    }

    /// Properties with their types; those that not all have may be missing.
    fn members(&self, stats: &[Stat], count: u64) -> Vec<Member> {
        let has = stats.iter().enumerate().filter(|(_, stat)| stat.count > 0);
        has.map(|(i, stat)| {
            let optional = if stat.count < count { " [0..1]" } else { "" };
            let name = property_name(self.properties.text(i as Number));
            Member { text: format!("{name}: {}{optional}", stat.word()), ..Member::default() }
        })
        .collect()
    }
}

/// A property as a member is named: one word.
fn property_name(text: &str) -> String {
    let name: String = text.trim().chars().map(|c| if c.is_alphanumeric() || c == '-' { c } else { '_' }).collect();
    if name.starts_with(|c: char| c.is_alphabetic() || c == '_') { name } else { format!("_{name}") }
}

/// A hash of bytes (FNV-1a, 64 bits).
fn hash(bytes: &[u8]) -> u64 {
    bytes.iter().fold(0xcbf2_9ce4_8422_2325, |hash, byte| (hash ^ u64::from(*byte)).wrapping_mul(0x0100_0000_01b3))
}
