//! Two versions of the elements of a diagram, matched by [`Matching`].

use super::change::{Change, Difference, ElementName, Fate, Field, Subject};
use super::matching::Matching;
use super::steps::Steps;
use super::{members, written};
use crate::model::{Diagram, Element, Properties};
use crate::syntax::Label;

/// A change of an element.
fn change(fate: Fate, [old, new]: [Option<&Element>; 2], differences: Vec<Difference>) -> Option<Change> {
    let element = new.or(old)?;
    let subject = Subject::Element(ElementName::of(element));
    Some(Change { fate, subject, differences, span: element.span, old_span: old.map(|o| o.span) })
}

/// The changes of all elements, in the order of the newer text, those that were removed last.
pub(super) fn compare(old: &Diagram, new: &Diagram, matched: &Matching, steps: &Steps) -> Vec<Change> {
    let mut changes = Vec::new();
    for (n, element) in new.elements.iter().enumerate() {
        let Some(o) = matched.to_old.get(&n) else {
            let place = steps.added.get(&n).cloned().into_iter().collect();
            changes.extend(change(Fate::Added, [None, Some(element)], place));
            continue;
        };
        let before = &old.elements[*o];
        let differences = differences([old, new], [before, element], matched);
        if let Some(fate) = fate(&differences) {
            changes.extend(change(fate, [Some(before), Some(element)], differences));
        }
    }
    let removed = old.elements.iter().enumerate().filter(|(o, _)| !matched.to_new.contains_key(o));
    let place = |o: usize| steps.removed.get(&o).cloned().into_iter().collect();
    changes.extend(removed.filter_map(|(o, element)| change(Fate::Removed, [Some(element), None], place(o))));
    changes
}

/// What happened to an element with these differences, if anything did.
pub(super) fn fate(differences: &[Difference]) -> Option<Fate> {
    let is_moved = differences.iter().any(|d| matches!(d, Difference::Place { .. }));
    if !differences.is_empty() && differences.iter().all(|d| matches!(d, Difference::MemberOrder { .. })) {
        return Some(Fate::Drawn);
    }
    match (super::words::count(differences), is_moved) {
        (0, _) => None,
        (1, true) => Some(Fate::Moved),
        _ => Some(Fate::Changed),
    }
}

/// What differs between two versions of an element.
pub(super) fn differences([old, new]: [&Diagram; 2], [a, b]: [&Element; 2], matched: &Matching) -> Vec<Difference> {
    let mut out = Vec::new();
    // 1. What it is, and where.
    if a.name != b.name {
        out.push(Difference::Renamed { old: ElementName::of(a), new: ElementName::of(b) });
    }
    if a.kind != b.kind {
        out.push(Difference::Kind { old: a.kind, new: b.kind });
    }
    let is_moved = match (a.parent, b.parent) {
        (Some(p), Some(q)) => matched.to_new.get(&p.index()) != Some(&q.index()),
        (None, None) => false,
        _ => true,
    };
    if is_moved {
        let place = |d: &Diagram, e: &Element| e.parent.map(|p| ElementName::of(d.element(p)));
        out.push(Difference::Place { old: place(old, a), new: place(new, b) });
    }
    // 2. What is said of it.
    let text = |label: &Option<Label>| label.as_ref().map(|l| l.text());
    let some = |s: String| (!s.is_empty()).then_some(s);
    let icon = |p: &Properties| p.icon.as_ref().map(|i| i.value.clone());
    let (p, q) = (&a.properties, &b.properties);
    // A label that says what the name says is none.
    let is_shown_alike = a.shown().text() == b.shown().text();
    let [label_then, label_now] = if is_shown_alike { [None, None] } else { [text(&a.label), text(&b.label)] };
    let fields = [
        (Field::Label, label_then, label_now),
        (Field::About, text(&p.about), text(&q.about)),
        (Field::Built, text(&p.built), text(&q.built)),
        (Field::Link, text(&p.link), text(&q.link)),
        (Field::Owner, text(&p.owner), text(&q.owner)),
        (Field::Code, text(&p.code), text(&q.code)),
        (Field::Origin, text(&p.origin), text(&q.origin)),
        (Field::Icon, icon(p), icon(q)),
        (Field::Tags, some(p.tags.join(" ")), some(q.tags.join(" "))),
        (Field::Traits, some(written::traits(&a.traits)), some(written::traits(&b.traits))),
    ];
    out.extend(fields.into_iter().filter_map(|(field, then, now)| Difference::field(field, then, now)));
    // 3. Members, and their order.
    out.extend(members::compare(a, b).into_iter().map(Difference::Member));
    out.extend(super::order::members(a, b));
    out
}
