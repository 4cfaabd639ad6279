//! Orders that are drawn: lanes, parties, what lies beside each other, members. What is out of the common order of two versions is
//! the fewest whose move explains it.

use super::change::{Change, Difference, ElementName, Fate, Subject};
use super::matching::Matching;
use super::members;
use super::relations::{self, Paired};
use super::words::{called, code};
use crate::model::{Diagram, DiagramKind, Element, ElementKind};
use crate::source::increasing::kept;
use std::collections::BTreeMap;

/// Those that are out of the common order, in their order now: each with the one before which it stands now, `None` if it is
/// last. Input: all that both versions have, in the order of the newer one, each with its place in the older one.
fn moved<T: Copy>(now: &[(T, usize)]) -> Vec<(T, Option<T>)> {
    let kept = kept(&now.iter().map(|n| n.1).collect::<Vec<_>>());
    let mut next = None;
    let mut moved = Vec::new();
    for (one, kept) in now.iter().zip(&kept).rev() {
        if *kept {
            next = Some(one.0);
        } else {
            moved.push((one.0, next));
        }
    }
    moved.reverse();
    moved
}

/// Elements that stand in another order beside each other.
pub(super) fn compare(old: &Diagram, new: &Diagram, matched: &Matching, which: Orders) -> Vec<Change> {
    let mut beside: BTreeMap<Option<usize>, Vec<(usize, usize)>> = BTreeMap::new();
    for (n, element) in new.elements.iter().enumerate() {
        let Some(o) = matched.to_old.get(&n) else { continue };
        let place = element.parent.map(|p| p.index());
        let was = old.elements[*o].parent.and_then(|p| matched.to_new.get(&p.index()).copied());
        // Parties that nobody declared stand in the order of messages, which are reported.
        let is_declared = !(element.implicit && old.elements[*o].implicit);
        if place == was && (which == Orders::All || is_declared && is_in_order(new.kind, element)) {
            beside.entry(place).or_default().push((n, *o));
        }
    }
    let mut changes = Vec::new();
    for (n, before) in beside.values().flat_map(|list| moved(list)) {
        let element = &new.elements[n];
        let before = before.map(|b| called(&ElementName::of(&new.elements[b])));
        let subject = Subject::Element(ElementName::of(element));
        changes.push(Change {
            fate: Fate::Drawn,
            subject,
            differences: vec![Difference::Order { before }],
            span: element.span,
            old_span: matched.to_old.get(&n).map(|o| old.elements[*o].span),
        });
    }
    changes.sort_by_key(|c| (c.span.source, c.span.start));
    changes
}

/// Relations that are written in another order.
pub(super) fn of_relations(old: &Diagram, new: &Diagram, paired: &Paired) -> Vec<Change> {
    let pairs: Vec<(usize, usize)> = paired.pairs.iter().map(|(o, n)| (*n, *o)).collect();
    let change = |n: usize, differences| relations::change(Fate::Drawn, new, &new.relations[n], differences);
    let name = |n: usize| code(&change(n, Vec::new()).what());
    let moved = moved(&pairs).into_iter();
    let was = |n: usize| paired.old_of(n).map(|o| old.relations[o].span);
    moved
        .map(|(n, before)| {
            let change = change(n, vec![Difference::Order { before: before.map(name) }]);
            Change { old_span: was(n), ..change }
        })
        .collect()
}

/// Which orders are compared.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Orders {
    /// Those that every picture shows.
    Shown,
    /// Also those that a layout may follow.
    All,
}

/// Whether the order of elements like this is always seen.
fn is_in_order(kind: DiagramKind, element: &Element) -> bool {
    matches!(kind, DiagramKind::Sequence | DiagramKind::Tree) || element.kind == ElementKind::Lane
}

/// Members that stand in another order in their classifier: what each is called, and before which one it stands now.
pub(super) fn members(a: &Element, b: &Element) -> Vec<Difference> {
    let pairs = members::pairs(a, b);
    let moved = moved(&pairs.iter().map(|(n, o)| (*n, *o)).collect::<Vec<_>>());
    let all: Vec<_> = b.class.iter().flat_map(|c| c.members()).collect();
    let name = |n: usize| all.get(n).map_or(String::new(), |m| m.described());
    moved.into_iter().map(|(n, before)| Difference::MemberOrder { member: name(n), before: before.map(name) }).collect()
}
