//! New facts into a text that people have edited. Input: a reading, and the diagram of what was found. Output: [`TextEdit`](crate::source::TextEdit)s, and
//! what they do.
//!
//! Laws: merging the same facts twice changes nothing the second time; whatever was written by hand is still there, byte for
//! byte; without pruning the text means what was in it plus what is new. What is gone is reported, and removed only where
//! somebody asks for that and nothing that was written by hand speaks of it.

mod matching;
mod outcome;
mod prune;
mod writing;

pub use outcome::{Gone, Merged, Refused};

use crate::check::is_error;
use crate::emit::{written_elements, written_relations};
use crate::model::{Diagram, DiagramKind, Document, Element, ElementId, LookRule, Relation, Selector};
use crate::pipeline::Reading;
use crate::source::{SourceId, Span, apply};
use matching::Matched;
use writing::Additions;

/// Merges the first diagram of some facts into a text. `read` reads another text in its place.
///
/// # Errors
/// If the text has errors, or does not say into which of its diagrams.
pub fn merge(
    reading: &Reading, found: &Document, gone: Gone, read: &dyn Fn(String) -> Reading,
) -> Result<Merged, Refused> {
    if reading.has_errors() {
        return Err(Refused::Errors);
    }
    let Some(facts) = found.diagrams.first() else { return Ok(Merged::default()) };
    if !matches!(facts.kind, DiagramKind::Architecture | DiagramKind::Network) {
        return Err(Refused::Kind(facts.kind.word()));
    }
    let own = target(reading, facts)?;
    let matched = Matched::of(own, facts);
    // 1. What there will be: all that is in the text, and what is new.
    let whole = Whole::of(own, facts, &matched);
    let mut merged = Merged::default();
    let mut additions = Additions::of(reading, own);
    // 2. New elements, each with what lies in it.
    for group in whole.new_by_holder() {
        let text = written_elements(&whole.diagram, &group);
        merged.added.extend(group.iter().map(|id| whole.diagram.element(*id).called()));
        additions.elements(whole.diagram.element(group[0]).parent.filter(|holder| !whole.is_new(*holder)), &text);
    }
    // 3. New relations.
    let relations: Vec<&Relation> = whole.relations.iter().collect();
    if !relations.is_empty() {
        let text = written_relations(&whole.diagram, &relations);
        merged.added.extend(text.lines().map(str::to_owned));
        additions.relations(&text);
    }
    // 4. Looks of tags that have none.
    let rules: Vec<&LookRule> = found.looks.iter().filter(|rule| !has_rule(reading, rule)).collect();
    additions.looks(&rules);
    merged.edits = additions.edits();
    // 5. What is gone.
    prune::gone(reading, own, facts, &matched, gone, &mut merged);
    let text = apply(&reading.source, &merged.edits).map_err(|_| Refused::Broken("two edits overlap".to_owned()))?;
    let after = read(text);
    match after.diagnostics.iter().find(|d| is_error(d)) {
        Some(error) => Err(Refused::Broken(error.words(&after.sources()).sentence)),
        None => Ok(merged),
    }
}

/// The diagram of the text that facts go into: of their name, or the only one of their kind.
fn target<'r>(reading: &'r Reading, facts: &Diagram) -> Result<&'r Diagram, Refused> {
    let of_kind: Vec<&Diagram> = reading.document.diagrams.iter().filter(|d| d.kind == facts.kind).collect();
    let named = of_kind.iter().find(|d| d.name == facts.name);
    match (named, of_kind.as_slice()) {
        (Some(named), _) => Ok(named),
        (None, [only]) => Ok(only),
        (None, []) => Err(Refused::Which(format!("the text has no {} that this could go into", facts.kind.word()))),
        (None, several) => {
            let names: Vec<&str> = several.iter().map(|diagram| diagram.name.as_str()).collect();
            let kind = facts.kind.word();
            Err(Refused::Which(format!(
                "several of {kind} could be meant, {}; say which by its name",
                names.join(", ")
            )))
        }
    }
}

/// The diagram as it will be.
struct Whole {
    diagram: Diagram,
    /// How many elements were there.
    known: usize,
    relations: Vec<Relation>,
}

impl Whole {
    fn of(own: &Diagram, facts: &Diagram, matched: &Matched) -> Self {
        let mut diagram = own.clone();
        let known = diagram.elements.len();
        // Numbers of found elements in the whole.
        let mut numbers: Vec<ElementId> = Vec::with_capacity(facts.elements.len());
        for (id, element) in facts.ids() {
            let number = matched.own(id).unwrap_or_else(|| {
                let parent = element.parent.map(|parent| numbers[parent.index()]);
                let name = free_name(&diagram, &element.name);
                let shown = if name.is_empty() { element.shown().text() } else { name.clone() };
                let key = parent.map_or(shown.clone(), |p| format!("{}.{shown}", diagram.element(p).key));
                let span = place(own, diagram.elements.len());
                diagram.elements.push(Element { key, name, parent, span, ..element.clone() });
                ElementId(diagram.elements.len() as u32 - 1)
            });
            numbers.push(number);
        }
        let new = matched.new_relations(own, facts, &numbers);
        let relations = new.into_iter().enumerate().map(|(i, relation)| Relation {
            from: numbers[relation.from.index()],
            to: numbers[relation.to.index()],
            span: place(own, diagram.elements.len() + i),
            written_in: None,
            ..relation.clone()
        });
        let relations = relations.collect();
        Self { diagram, known, relations }
    }

    fn is_new(&self, id: ElementId) -> bool {
        id.index() >= self.known
    }

    /// New elements in what was there, or in nothing; those that lie in the same one together.
    fn new_by_holder(&self) -> Vec<Vec<ElementId>> {
        let mut groups: Vec<Vec<ElementId>> = Vec::new();
        for (id, element) in self.diagram.ids().skip(self.known) {
            if element.parent.is_some_and(|holder| self.is_new(holder)) {
                continue;
            }
            let same = |group: &&mut Vec<ElementId>| self.diagram.element(group[0]).parent == element.parent;
            match groups.iter_mut().find(same) {
                Some(group) => group.push(id),
                None => groups.push(vec![id]),
            }
        }
        groups
    }
}

/// A place of its own behind everything in the text, so that the order of what is new is kept.
fn place(own: &Diagram, number: usize) -> Span {
    debug_assert!(own.span.source.is_root());
    let at = u32::MAX as usize / 2 + number;
    Span::new(SourceId::new(0), at, at)
}

/// A name that nothing else in the diagram has.
fn free_name(diagram: &Diagram, name: &str) -> String {
    let is_taken = |name: &str| diagram.elements.iter().any(|element| element.name == name);
    if name.is_empty() || !is_taken(name) {
        return name.to_owned();
    }
    let numbered = (2..).map(|i| format!("{name}_{i}"));
    numbered.into_iter().find(|name| !is_taken(name)).unwrap_or_default()
}

/// Whether the text has a look for the same.
fn has_rule(reading: &Reading, rule: &LookRule) -> bool {
    let is_same =
        |own: &LookRule| matches!((&own.selector, &rule.selector), (Selector::Tag(a), Selector::Tag(b)) if a == b);
    reading.looks.iter().any(is_same)
}
