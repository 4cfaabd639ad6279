//! What one picture shows: a diagram of what is seen, and what only a picture knows of it.

use crate::model::{Diagram, ElementId, RelationId};
use crate::source::Span;

/// What one picture shows. Its elements and relations have numbers of their own.
#[derive(Clone, Debug)]
pub struct View {
    /// What is seen.
    pub diagram: Diagram,
    /// For each element, what only this picture knows of it.
    pub elements: Vec<ElementView>,
    /// The same for each relation.
    pub relations: Vec<RelationView>,
    /// Whether descriptions are drawn.
    pub tell: bool,
}

/// What one picture knows of an element.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ElementView {
    /// Whether it is only around what the picture is about, and is drawn in a quieter tone.
    pub context: bool,
    /// Whether something inside it is not shown.
    pub has_more: bool,
    /// The picture that it leads to, by name, in a stack of pictures.
    pub opens: Option<String>,
}

/// What one picture knows of a relation.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct RelationView {
    /// Where all relations that it stands for were written, if they are several.
    pub spans: Vec<Span>,
    /// The keys of the relations it stands for, if it was lifted or merged.
    pub stands_for: Vec<String>,
    /// Its places, from 1, among the steps of a scenario that the picture shows.
    pub steps: Vec<u32>,
}

impl View {
    /// All of a diagram.
    pub fn of(diagram: Diagram) -> Self {
        let elements = vec![ElementView::default(); diagram.elements.len()];
        let relations = vec![RelationView::default(); diagram.relations.len()];
        Self { diagram, elements, relations, tell: false }
    }

    /// What the picture knows of an element.
    pub fn element(&self, id: ElementId) -> &ElementView {
        &self.elements[id.index()]
    }

    /// What the picture knows of a relation.
    pub fn relation(&self, id: RelationId) -> &RelationView {
        &self.relations[id.index()]
    }

    /// Its name, which is that of the picture.
    pub fn name(&self) -> &str {
        &self.diagram.name
    }
}
