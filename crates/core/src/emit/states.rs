//! States inside states, what they do, and transitions where they were written.

use super::lines::Lines;
use super::outline::Outline;
use super::phrases::{clause, declared, label, properties, traits};
use super::picture::is_within;
use super::sets;
use crate::model::{Behaviour, Content, Diagram, Element, ElementId, ElementKind, Occasion, Relation, Transition};
use std::collections::HashMap;

/// The lines of a block.
pub(super) fn body(diagram: &Diagram) -> Lines {
    let Content::States(all) = &diagram.content else { return Lines::default() };
    let mut behaviours: Behaviours<'_> = HashMap::new();
    all.iter().for_each(|b| behaviours.entry(b.state).or_default().push(b));
    within(&Outline::of(diagram), &behaviours, None)
}

/// What each state does while it lasts.
type Behaviours<'a> = HashMap<ElementId, Vec<&'a Behaviour>>;

fn within(outline: &Outline<'_>, by_state: &Behaviours<'_>, holder: Option<ElementId>) -> Lines {
    let diagram = outline.diagram;
    let declared_here: Vec<ElementId> =
        outline.children(holder).iter().copied().filter(|id| !is_mentioned_only(outline, *id)).collect();
    let kind = |e: &Element| if e.kind == ElementKind::Bar { "together" } else { e.kind.word() };
    let line = |_: ElementId, e: &Element, names: &str| {
        format!("{}{}", declared(e, kind(e), names, outline.naming.usual), traits(&e.traits))
    };
    let elements = outline.declarations(&declared_here, line, |id| within(outline, by_state, Some(id)));
    let mut loose = Lines::default();
    if let Some(id) = holder {
        properties(diagram.element(id), &mut loose);
        by_state.get(&id).into_iter().flatten().for_each(|b| behaviour(b, &mut loose));
    }
    transitions(outline, outline.relations(holder), holder, &mut loose);
    outline.asides(holder, &mut loose);
    loose.among(elements)
}

/// Whether a pseudo-state comes into being where a transition names it.
fn is_mentioned_only(outline: &Outline<'_>, id: ElementId) -> bool {
    let element = outline.diagram.element(id);
    let is_bare = element.name.is_empty() && element.label.is_none() && element.traits.is_empty();
    match element.kind {
        ElementKind::Begin | ElementKind::Finish => is_bare,
        // One that is declared stands in a line of its own.
        ElementKind::History => {
            let names_it = |r: &&Relation| r.from == id || r.to == id;
            let relations = outline.diagram.relations.iter();
            is_bare && relations.filter(names_it).any(|r| is_within(r.span, element.span))
        }
        _ => false,
    }
}

fn behaviour(behaviour: &Behaviour, lines: &mut Lines) {
    let line = match &behaviour.occasion {
        Occasion::Arriving(what) => format!("arriving{}", clause("do", Some(what))),
        Occasion::Staying(what) => format!("staying{}", clause("do", Some(what))),
        Occasion::Leaving(what) => format!("leaving{}", clause("do", Some(what))),
        Occasion::Internal(transition) => clauses(transition).trim_start().to_owned(),
    };
    lines.push(behaviour.span, line);
}

/// `on "…" when "…" do "…"`, after a label if there is one.
fn clauses(transition: &Transition) -> String {
    let Transition { label: own, trigger, guard, effect } = transition;
    let (on, when) = (clause("on", trigger.as_ref()), clause("when", guard.as_ref()));
    format!("{}{on}{when}{}", label(own.as_ref()), clause("do", effect.as_ref()))
}

fn transitions(outline: &Outline<'_>, relations: &[&Relation], written_in: Option<ElementId>, lines: &mut Lines) {
    for group in sets::grouped(relations, |r| r.span, |group| sides(outline, group, written_in).is_some()) {
        let Some((from, to)) = sides(outline, group, written_in) else { continue };
        let first = group[0];
        let from = if is_bare(first, written_in) { String::new() } else { format!("{} ", sets::folded(from)) };
        let said = match &first.transition {
            Some(transition) => clauses(transition),
            None => label(first.label.as_ref()),
        };
        lines.push(first.span, format!("{from}becomes {}{said}{}", sets::folded(to), traits(&first.traits)));
    }
}

/// Whether a transition is of the state in whose body it was written.
fn is_bare(relation: &Relation, written_in: Option<ElementId>) -> bool {
    Some(relation.from) == written_in
}

/// The two sides of transitions that one line holds; `None` if no line does.
fn sides(
    outline: &Outline<'_>, group: &[&Relation], written_in: Option<ElementId>,
) -> Option<(Vec<String>, Vec<String>)> {
    let said = |r: &Relation| (r.transition.as_deref().map(clauses), traits(&r.traits));
    if group.iter().any(|r| said(r) != said(group[0])) {
        return None;
    }
    // A state's own transitions speak of what lies beside it.
    let scope = match written_in {
        Some(id) if is_bare(group[0], written_in) => outline.diagram.element(id).parent,
        other => other,
    };
    let pairs: Vec<(String, String)> =
        group.iter().map(|r| (state(outline, r.from, scope), state(outline, r.to, scope))).collect();
    sets::product(&pairs)
}

/// A state as it is named in a scope: the beginning and the end of the scope itself need no path.
fn state(outline: &Outline<'_>, id: ElementId, scope: Option<ElementId>) -> String {
    let element = outline.diagram.element(id);
    let is_pseudo = matches!(element.kind, ElementKind::Begin | ElementKind::Finish | ElementKind::History);
    if !is_pseudo || !element.name.is_empty() {
        return outline.naming.path(id, scope);
    }
    match element.parent.filter(|_| element.parent != scope) {
        Some(owner) => format!("{}.{}", outline.naming.path(owner, scope), element.kind.word()),
        None => element.kind.word().to_owned(),
    }
}
