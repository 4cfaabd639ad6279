//! What leads to an element and from it, and what it is a kind of: the hierarchies of calls and of types.

use super::places::{Meant, Part, at, diagram};
use crate::model::{BlockId, Diagram, ElementId, Target, Verb};
use crate::pipeline::Reading;
use crate::source::Span;

/// An element in a hierarchy.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Node {
    /// What it is called.
    pub name: String,
    /// Its kind, and its label where that says more.
    pub detail: String,
    /// Where it is declared, or named first.
    pub span: Span,
    /// What tells it from others.
    pub meant: Meant,
}

/// An element, and where the relations to it are written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Neighbour {
    /// The element.
    pub node: Node,
    /// Where each relation is written.
    pub spans: Vec<Span>,
}

/// Which way relations are followed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Towards {
    /// To what leads to the element.
    Callers,
    /// To what it leads to.
    Called,
    /// To what it is a kind of.
    Supertypes,
    /// To what is a kind of it.
    Subtypes,
}

/// The element at a byte.
pub fn node(reading: &Reading, byte: u32) -> Option<Node> {
    let Target::Element(block, id) = at(&reading.occurrences, byte)?.target else { return None };
    node_of(reading, diagram(reading, block)?, id)
}

/// Whether the element at a byte may be a kind of another, and others of it.
pub fn has_types(reading: &Reading, byte: u32) -> bool {
    let found = at(&reading.occurrences, byte).map(|o| o.target);
    let Some(Target::Element(block, id)) = found else { return false };
    let is_type = |d: &Diagram| d.relations.iter().any(|r| is_kind(r.verb) && (r.from == id || r.to == id));
    diagram(reading, block).is_some_and(is_type)
}

/// The neighbours of an element, in the order of the text.
pub fn neighbours(reading: &Reading, meant: &Meant, towards: Towards) -> Vec<Neighbour> {
    let all = reading.document.diagrams.iter();
    let is_its = |d: &&Diagram| {
        let file = reading.sources().get(d.span.source).map(|source| source.name.as_str());
        d.span.start == meant.block && file == Some(meant.file.as_str())
    };
    let Some(diagram) = all.chain(reading.document.imports.diagrams()).find(is_its) else { return Vec::new() };
    let Part::Element(key) = &meant.part else { return Vec::new() };
    let Some((own, _)) = diagram.ids().find(|(_, element)| element.key == *key) else { return Vec::new() };
    let mut found: Vec<(ElementId, Vec<Span>)> = Vec::new();
    for relation in &diagram.relations {
        let (near, far) = match towards {
            Towards::Callers | Towards::Subtypes => (relation.to, relation.from),
            Towards::Called | Towards::Supertypes => (relation.from, relation.to),
        };
        let is_of_kind = is_kind(relation.verb) == matches!(towards, Towards::Supertypes | Towards::Subtypes);
        if near != own || !is_of_kind || relation.verb == Verb::Remarks {
            continue;
        }
        match found.iter_mut().find(|(id, _)| *id == far) {
            Some((_, spans)) => spans.push(relation.span),
            None => found.push((far, vec![relation.span])),
        }
    }
    let neighbour = |(id, spans)| Some(Neighbour { node: node_of(reading, diagram, id)?, spans });
    found.into_iter().filter_map(neighbour).collect()
}

/// Whether a relation says that one thing is a kind of another.
fn is_kind(verb: Verb) -> bool {
    matches!(verb, Verb::Extends | Verb::Implements)
}

fn node_of(reading: &Reading, diagram: &Diagram, id: ElementId) -> Option<Node> {
    let element = diagram.element(id);
    let block = BlockId::of(diagram);
    let file = reading.sources().get(block.source)?.name.clone();
    let shown = element.shown().text().replace('\n', " ");
    let name = element.called();
    let detail =
        if shown == name { element.kind.word().to_owned() } else { format!("{} {shown}", element.kind.word()) };
    let meant = Meant { file, block: block.start, part: Part::Element(element.key.clone()) };
    Some(Node { name, detail, span: element.span, meant })
}
