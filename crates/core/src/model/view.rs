//! Sheets: one of several drawings of an architecture. Input: a diagram and a [`Sheet`]. Output: the
//! diagram that the sheet shows. What is hidden inside a closed element is lifted: its relations
//! become relations of the nearest visible element around it, and several become one.

use super::{Diagram, Element, ElementId, Relation, Sheet};
use crate::syntax::Label;
use std::collections::{BTreeMap, BTreeSet};

/// The diagram that a sheet shows.
pub fn lift(diagram: &Diagram, sheet: &Sheet) -> Diagram {
    let visible = visible(diagram, sheet);
    let mut out = Diagram::new(diagram.kind, &sheet.name, sheet.title.clone(), sheet.line);
    out.caption = sheet.caption.clone();
    out.heading = sheet.heading.or(diagram.heading);
    out.tell = sheet.tell;
    let mut numbers: BTreeMap<ElementId, ElementId> = BTreeMap::new();
    for (id, element) in diagram.ids().filter(|(id, _)| visible.contains(id)) {
        let parent = diagram.ancestors(id).find(|p| visible.contains(p));
        numbers.insert(id, ElementId(out.elements.len() as u32));
        let parent = parent.and_then(|p| numbers.get(&p).copied());
        out.elements.push(Element { parent, ..element.clone() });
    }
    let shown = |id: ElementId| {
        let near = std::iter::once(id).chain(diagram.ancestors(id)).find(|i| visible.contains(i));
        near.and_then(|i| numbers.get(&i).copied())
    };
    out.relations = relations(diagram, shown);
    // What was lifted to a container of its other end is inside that one: nothing is left to draw.
    let relations = std::mem::take(&mut out.relations);
    let holds = |a: ElementId, b: ElementId| out.ancestors(b).any(|p| p == a);
    out.relations = relations.into_iter().filter(|r| !holds(r.from, r.to) && !holds(r.to, r.from)).collect();
    out
}

/// The elements that a sheet shows.
fn visible(diagram: &Diagram, sheet: &Sheet) -> BTreeSet<ElementId> {
    let mut open: BTreeSet<ElementId> = BTreeSet::new();
    for id in &sheet.open {
        open.insert(*id);
        open.extend(diagram.ancestors(*id));
    }
    let boxed = |id: ElementId| diagram.element(id).kind == super::ElementKind::Group;
    let level = |id: ElementId| diagram.ancestors(id).filter(|p| !boxed(*p)).count() as u32;
    let levels = sheet.depth.unwrap_or(if sheet.open.is_empty() && sheet.focus.is_empty() { u32::MAX } else { 1 });
    let is_open =
        |id: ElementId| !sheet.close.contains(&id) && (boxed(id) || open.contains(&id) || level(id) + 1 < levels);
    let mut shown: BTreeSet<ElementId> =
        diagram.ids().map(|(id, _)| id).filter(|id| diagram.ancestors(*id).all(is_open)).collect();
    for id in &sheet.show {
        shown.insert(*id);
    }
    if !sheet.focus.is_empty() {
        shown = in_focus(diagram, sheet, &shown);
    }
    for id in &sheet.hide {
        shown.retain(|s| s != id && !diagram.ancestors(*s).any(|a| a == *id));
    }
    shown
}

/// The elements in focus, what they touch within their distance, and what is around those.
fn in_focus(diagram: &Diagram, sheet: &Sheet, shown: &BTreeSet<ElementId>) -> BTreeSet<ElementId> {
    let lifted = |id: ElementId| std::iter::once(id).chain(diagram.ancestors(id)).find(|i| shown.contains(i));
    let mut kept = BTreeSet::new();
    for (focus, distance) in &sheet.focus {
        let mut reached: BTreeSet<ElementId> = BTreeSet::from([*focus]);
        reached.extend(diagram.ids().map(|(id, _)| id).filter(|id| diagram.ancestors(*id).any(|a| a == *focus)));
        for _ in 0..*distance {
            let ends: Vec<(Option<ElementId>, Option<ElementId>)> =
                diagram.relations.iter().map(|r| (lifted(r.from), lifted(r.to))).collect();
            let inside = |id: &Option<ElementId>| id.is_some_and(|i| reached.contains(&i));
            let next: Vec<ElementId> =
                ends.iter().filter(|(a, b)| inside(a) || inside(b)).flat_map(|(a, b)| [*a, *b]).flatten().collect();
            reached.extend(next);
        }
        kept.extend(reached);
    }
    let around: Vec<ElementId> = kept.iter().flat_map(|id| diagram.ancestors(*id)).collect();
    kept.extend(around);
    shown.intersection(&kept).copied().collect()
}

/// Lifts relations to visible ends and merges those that then say the same.
fn relations(diagram: &Diagram, shown: impl Fn(ElementId) -> Option<ElementId>) -> Vec<Relation> {
    let mut out: Vec<Relation> = Vec::new();
    let mut merged: BTreeMap<(ElementId, ElementId), (usize, Vec<&Relation>)> = BTreeMap::new();
    for relation in diagram.relations.iter().filter(|r| r.verb != super::Verb::NeverUses) {
        let (Some(from), Some(to)) = (shown(relation.from), shown(relation.to)) else { continue };
        let direct = is_shown_itself(diagram, relation, &shown);
        if from == to && !(direct && relation.from == relation.to) {
            continue;
        }
        if let Some((_, parts)) = merged.get_mut(&(from, to)) {
            parts.push(relation);
            continue;
        }
        merged.insert((from, to), (out.len(), vec![relation]));
        out.push(Relation { from, to, ..relation.clone() });
    }
    for (at, parts) in merged.into_values() {
        if parts.len() > 1 {
            merge(&mut out[at], &parts);
        }
    }
    out
}

fn is_shown_itself(diagram: &Diagram, relation: &Relation, shown: &impl Fn(ElementId) -> Option<ElementId>) -> bool {
    let itself = |id: ElementId| {
        let parent = diagram.element(id).parent;
        shown(id).is_some() && (parent.is_none() || shown(id) != parent.and_then(shown))
    };
    itself(relation.from) && itself(relation.to)
}

/// One line for several relations says all their labels if there are two, else how many they are.
fn merge(relation: &mut Relation, parts: &[&Relation]) {
    relation.lines = parts.iter().map(|r| r.line).collect();
    let mut texts: Vec<String> = Vec::new();
    for label in parts.iter().filter_map(|r| r.label.as_ref()) {
        let text = label.text();
        if !texts.contains(&text) {
            texts.push(text);
        }
    }
    let text = match texts.as_slice() {
        [] => format!("{} relations", parts.len()),
        [one] => one.clone(),
        [one, two] => format!("{one}, {two}"),
        [first, rest @ ..] => format!("{first} and {} more", rest.len()),
    };
    relation.label = Some(Label::plain(text, relation.span));
    if parts.iter().any(|p| p.over != relation.over) {
        relation.over = None;
    }
}
