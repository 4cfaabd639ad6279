//! New members of classifiers, and what states do, beside what is in the text.

use super::place::{moved, place_in_facts};
use super::whole::Whole;
use crate::model::{Behaviour, ClassBody, Compartment, Diagram, ElementId, Member, Occasion};
use crate::syntax::Label;
use std::collections::{BTreeMap, BTreeSet};

/// Adds the members that classifiers of the text do not have yet: by their names, operations by their parameters, too.
pub(super) fn take(whole: &mut Whole, facts: &Diagram) {
    for (id, element) in facts.ids() {
        let number = whole.number(id);
        if whole.is_new(number) {
            continue;
        }
        let Some(found) = &element.class else { continue };
        let own = whole.diagram.elements[number.index()].class.get_or_insert_default();
        let known: BTreeSet<String> = own.members().map(Member::signature).collect();
        for member in found.members().filter(|member| !known.contains(&member.signature())) {
            let member = Member { span: moved(member.span), ..member.clone() };
            put(own, member);
        }
    }
    rename_references(whole, facts);
}

/// New columns refer to tables by the names that these have in the text.
fn rename_references(whole: &mut Whole, facts: &Diagram) {
    let found: BTreeMap<&str, ElementId> = facts.ids().map(|(id, element)| (element.name.as_str(), id)).collect();
    let names: BTreeMap<&str, String> = found
        .into_iter()
        .map(|(name, id)| (name, whole.diagram.element(whole.number(id)).name.clone()))
        .filter(|(found, own)| found != own && !own.is_empty())
        .collect();
    let bodies = whole.diagram.elements.iter_mut().filter_map(|element| element.class.as_mut());
    let members = bodies.flat_map(|body| &mut body.compartments).flat_map(|part| &mut part.members);
    for member in members.filter(|member| place_in_facts(member.span).is_some()) {
        let Some(reference) = &mut member.refers else { continue };
        if let Some(name) = reference.table.last().and_then(|name| names.get(name.as_str())) {
            reference.table = vec![name.clone()];
        }
    }
}

/// Puts a member behind the last one of its sort, or before the first named section.
fn put(body: &mut ClassBody, member: Member) {
    let is_alike = |c: &Compartment| c.members.last().is_some_and(|last| last.operation == member.operation);
    let of_its_sort = body.compartments.iter_mut().filter(|c| c.title.is_none()).rfind(|c| is_alike(c));
    if let Some(compartment) = of_its_sort {
        compartment.members.push(member);
        return;
    }
    let at = body.compartments.iter().position(|c| c.title.is_some()).unwrap_or(body.compartments.len());
    body.compartments.insert(at, Compartment { title: None, members: vec![member] });
}

/// Adds what states do that the text does not say yet: by the state, the occasion, and what sets it off.
pub(super) fn take_behaviours(whole: &mut Whole, found: &[Behaviour]) {
    let mut known: BTreeSet<(usize, String)> = BTreeSet::new();
    let crate::model::Content::States(own) = &whole.diagram.content else { return };
    known.extend(own.iter().map(|behaviour| (behaviour.state.index(), occasion(&behaviour.occasion))));
    let mut new = Vec::new();
    for behaviour in found {
        let state = whole.number(behaviour.state);
        if known.insert((state.index(), occasion(&behaviour.occasion))) {
            new.push(Behaviour { state, span: moved(behaviour.span), ..behaviour.clone() });
        }
    }
    if let crate::model::Content::States(own) = &mut whole.diagram.content {
        own.extend(new);
    }
}

/// What tells an occasion from others of its state, whatever is done then.
fn occasion(occasion: &Occasion) -> String {
    match occasion {
        Occasion::Arriving(_) => "arriving".to_owned(),
        Occasion::Staying(_) => "staying".to_owned(),
        Occasion::Leaving(_) => "leaving".to_owned(),
        Occasion::Internal(transition) => {
            let text = |label: &Option<Label>| label.as_ref().map(Label::text).unwrap_or_default();
            format!("on {} when {}", text(&transition.trigger), text(&transition.guard))
        }
    }
}
