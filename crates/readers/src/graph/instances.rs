//! The graph itself, as a network, as long as it is small.

use super::kinds::Texts;
use crate::facts::{Facts, Link, Thing};
use crate::finding::Seen;
use crate::select::Selection;
use bathygram_core::model::{DiagramKind, ElementKind, Verb};
use std::collections::HashMap;

/// A graph of this many nodes and edges is small.
const SMALL: [usize; 2] = [40, 80];
/// This many nodes and edges are drawn when that is asked for.
pub(super) const MOST: [usize; 2] = [5_000, 20_000];
/// More kinds of edges than these have no tags: there are no more colours.
const TAGGED: usize = 4;

struct Node {
    id: Vec<u8>,
    name: Option<String>,
    kind: Option<String>,
    holder: Option<usize>,
    seen: Seen,
}

struct Edge {
    ends: [usize; 2],
    kind: Option<u32>,
    label: Option<String>,
    is_directed: bool,
    seen: Seen,
}

/// The nodes and edges of a graph, until there are too many.
pub(super) struct Instances {
    nodes: Vec<Node>,
    edges: Vec<Edge>,
    numbers: HashMap<Vec<u8>, usize>,
    most: [usize; 2],
    /// Whether there were more.
    pub(super) is_too_large: bool,
}

impl Instances {
    /// Only a small graph, or a large one if that was asked for.
    pub(super) fn new(is_asked_for: bool) -> Self {
        let most = if is_asked_for { MOST } else { SMALL };
        Self { nodes: Vec::new(), edges: Vec::new(), numbers: HashMap::new(), most, is_too_large: false }
    }

    /// A node with what is known of it.
    pub(super) fn node(
        &mut self, id: &[u8], name: Option<String>, kind: Option<String>, holder: Option<usize>, seen: Seen,
    ) -> Option<usize> {
        let number = self.number(id, seen)?;
        let node = &mut self.nodes[number];
        (node.name, node.kind, node.holder) = (name, kind, holder);
        Some(number)
    }

    fn number(&mut self, id: &[u8], seen: Seen) -> Option<usize> {
        if let Some(number) = self.numbers.get(id) {
            return Some(*number);
        }
        if self.nodes.len() == self.most[0] {
            self.is_too_large = true;
            return None;
        }
        self.nodes.push(Node { id: id.to_vec(), name: None, kind: None, holder: None, seen });
        self.numbers.insert(id.to_vec(), self.nodes.len() - 1);
        Some(self.nodes.len() - 1)
    }

    pub(super) fn edge(
        &mut self, kind: Option<u32>, ends: [&[u8]; 2], label: Option<String>, is_directed: bool, seen: Seen,
    ) {
        let [Some(from), Some(to)] = ends.map(|end| self.number(end, seen.clone())) else { return };
        if self.edges.len() == self.most[1] {
            self.is_too_large = true;
            return;
        }
        self.edges.push(Edge { ends: [from, to], kind, label, is_directed, seen });
    }

    /// The graph as a network.
    pub(super) fn facts(&self, names: &Texts, selection: &Selection) -> Facts {
        let mut facts = Facts::new(DiagramKind::Network);
        let text = |id: &[u8]| crate::text::cell(id).0;
        let called = |node: &Node| node.name.clone().unwrap_or_else(|| text(&node.id));
        let wants =
            |node: &Node| selection.wants(&called(node)) || node.kind.as_deref().is_some_and(|k| selection.wants(k));
        let mut holds = vec![false; self.nodes.len()];
        self.nodes.iter().filter_map(|node| node.holder).for_each(|holder| holds[holder] = true);
        let mut kinds: Vec<String> = Vec::new();
        for kind in self.nodes.iter().filter_map(|node| node.kind.as_deref()).map(tag) {
            if kinds.len() <= TAGGED && !kinds.contains(&kind) {
                kinds.push(kind);
            }
        }
        if (2..=TAGGED).contains(&kinds.len()) {
            facts.coloured = kinds;
        }
        let mut numbers: Vec<Option<usize>> = Vec::new();
        for (i, node) in self.nodes.iter().enumerate() {
            let number = wants(node).then(|| {
                let kind = crate::table::kind_of(node.kind.as_deref()).unwrap_or(ElementKind::Item);
                let mut thing =
                    Thing::new(&text(&node.id), if holds[i] { ElementKind::System } else { kind }, node.seen.clone());
                thing.label = node.name.clone();
                thing.tags.extend(node.kind.as_deref().map(tag).filter(|tag| facts.coloured.contains(tag)));
                thing.holder = node.holder.and_then(|holder| numbers[holder]);
                facts.things.push(thing);
                facts.things.len() - 1
            });
            numbers.push(number);
        }
        let mut kinds: Vec<u32> = self.edges.iter().filter_map(|edge| edge.kind).collect();
        kinds.sort_unstable();
        kinds.dedup();
        let is_tagged = (2..=TAGGED).contains(&kinds.len());
        for edge in &self.edges {
            let [Some(from), Some(to)] = edge.ends.map(|end| numbers[end]) else { continue };
            let verb = if edge.is_directed { Verb::Then } else { Verb::Joins };
            let mut link = Link::new(from, verb, to, edge.seen.clone());
            let kind = edge.kind.map(|kind| names.text(kind));
            link.label = edge.label.clone().or_else(|| kind.filter(|_| !is_tagged).map(str::to_owned));
            link.tags.extend(kind.filter(|_| is_tagged).map(tag));
            facts.links.push(link);
        }
        facts
    }
}

/// A kind as a tag.
fn tag(kind: &str) -> String {
    kind.trim_start_matches(':').to_lowercase().replace(|c: char| !c.is_alphanumeric(), "_")
}
