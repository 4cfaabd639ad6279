//! Looks that change nothing where they stand: a relation has no inside, a frame has no other shape.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, DiagramKind, Document, Element, ElementId, ElementKind, Relation, Selector};
use crate::syntax::Trait;

/// Reports traits of elements and relations of a diagram that change nothing, where they were written in this file.
pub fn check_effects(document: &Document, diagram: &Diagram, diags: &mut Diagnostics) {
    let model = Model::new(document, diagram);
    for (id, element) in diagram.ids().filter(|(_, e)| e.span.source.is_root()) {
        element.traits.iter().for_each(|t| report(t, model.idle_on_element(t, id, element), diags));
    }
    for relation in diagram.relations.iter().filter(|r| r.span.source.is_root()) {
        relation.traits.iter().for_each(|t| report(t, idle_on_relation(t), diags));
    }
}

/// Reports traits of rules that change nothing of all that the rule is about.
pub fn check_rule_effects(document: &Document, diags: &mut Diagnostics) {
    let sheets = document.sheets.iter().filter_map(|s| document.diagram(&s.of));
    let models: Vec<Model<'_>> = document.diagrams.iter().chain(sheets).map(|d| Model::new(document, d)).collect();
    for rule in document.looks.iter().filter(|rule| rule.selector != Selector::Picture) {
        for t in &rule.traits {
            let all = || models.iter().flat_map(|model| model.idle(t, &rule.selector));
            // What the rule is about, and why the trait changes nothing there.
            if all().all(|why| why.is_some()) {
                report(t, all().next().flatten(), diags);
            }
        }
    }
}

fn report(t: &Trait, why: Option<&'static str>, diags: &mut Diagnostics) {
    if let Some(why) = why {
        diags.report(t.span(), Message::NoEffect { look: t.word.value.clone(), why });
    }
}

/// A diagram, and which of its elements hold others in every picture.
struct Model<'a> {
    diagram: &'a Diagram,
    holds: Vec<bool>,
}

impl<'a> Model<'a> {
    fn new(document: &Document, diagram: &'a Diagram) -> Self {
        let mut holds = diagram.holds();
        // A sheet may close them, and so may a stack of pictures.
        if document.sheets.iter().any(|sheet| sheet.of == diagram.name) {
            diagram.ids().filter(|(_, e)| !e.kind.is_box()).for_each(|(id, _)| holds[id.index()] = false);
        }
        Self { diagram, holds }
    }

    /// For all that a selector is about, why a trait changes nothing there; `None` where it does.
    fn idle(&self, t: &Trait, selector: &Selector) -> Vec<Option<&'static str>> {
        let is_meant = |e: &Element| match selector {
            Selector::Tag(tag) => e.properties.tags.contains(tag),
            Selector::Kind(kind) => e.kind == *kind,
            Selector::Name(name) => e.name == *name || e.key == *name,
            Selector::Verb(_) | Selector::Picture => false,
        };
        let is_meant_relation = |r: &Relation| match selector {
            Selector::Tag(tag) => r.tags().any(|own| own == tag),
            Selector::Verb(verb) => r.verb == *verb,
            Selector::Kind(_) | Selector::Name(_) | Selector::Picture => false,
        };
        let elements = self.diagram.ids().filter(|(_, e)| is_meant(e)).map(|(id, e)| self.idle_on_element(t, id, e));
        let relations = self.diagram.relations.iter().filter(|r| is_meant_relation(r)).map(|_| idle_on_relation(t));
        elements.chain(relations).collect()
    }

    fn idle_on_element(&self, t: &Trait, id: ElementId, element: &Element) -> Option<&'static str> {
        let holds = self.holds[id.index()] || element.kind.is_box();
        match (t.word.value.as_str(), element.kind, self.diagram.kind) {
            ("fill" | "line" | "shape" | "icon", ElementKind::Region, _) => {
                Some("a region has neither an outline nor a ground of its own")
            }
            ("shape", ..) if holds => Some("what holds others is a frame"),
            ("shape", _, DiagramKind::Classes) => Some("a classifier is a box"),
            ("shape" | "icon", ElementKind::Remark, _) => Some("a remark is a sheet of paper"),
            ("icon", kind, _) if kind.is_box() => Some("a box has no pictogram"),
            ("icon", _, DiagramKind::Flow | DiagramKind::States | DiagramKind::Tree | DiagramKind::Classes) => {
                Some("only elements of architectures, networks and sequences have a pictogram")
            }
            _ => None,
        }
    }
}

fn idle_on_relation(t: &Trait) -> Option<&'static str> {
    match t.word.value.as_str() {
        "fill" => Some("a line has no inside; `line` gives it a colour"),
        "shape" => Some("a line has no shape"),
        "icon" => Some("a line has no pictogram"),
        _ => None,
    }
}
