//! Members of two versions of a classifier: matched by their text, then by their name.

use super::pairing::take_pairs;
use crate::model::{Element, Member};

/// What happened to a member, each with the word for its sort, such as `attribute`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum MemberChange {
    /// It is new.
    Added(&'static str, String),
    /// It is no longer there.
    Removed(&'static str, String),
    /// It was the first, and is the second.
    Changed(&'static str, String, String),
}

/// The members of two versions of an element, with their places, and which one is which.
struct Paired<'a> {
    /// Those that say the same, now and then.
    same: Vec<(Placed<'a>, Placed<'a>)>,
    /// Those that have the same name, now and then.
    named: Vec<(Placed<'a>, Placed<'a>)>,
    removed: Vec<Placed<'a>>,
    added: Vec<Placed<'a>>,
}

/// A member with its place among all of its element.
type Placed<'a> = (usize, &'a Member);

fn paired<'a>(a: &'a Element, b: &'a Element) -> Paired<'a> {
    let all = |e: &'a Element| -> Vec<Placed<'a>> { e.class.iter().flat_map(|c| c.members()).enumerate().collect() };
    let (mut removed, mut added) = (all(a), all(b));
    let all = |(_, m): Placed<'a>| m.said();
    // The text of a constraint says all of it.
    let named = |(_, m): Placed<'a>| {
        let is_constraint = m.constraint.is_some();
        (m.operation, is_constraint, if is_constraint { m.text.clone() } else { m.name() })
    };
    let same = take_pairs(&mut added, &mut removed, (all, all));
    let named = take_pairs(&mut added, &mut removed, (named, named));
    Paired { same, named, removed, added }
}

/// Compares the members of two versions of an element, whatever their order.
pub(super) fn compare(a: &Element, b: &Element) -> Vec<MemberChange> {
    let Paired { named, removed, added, .. } = paired(a, b);
    let word = |m: &Member| word(m, b);
    let became = named.into_iter().map(|((_, b), (_, a))| MemberChange::Changed(word(b), a.described(), b.described()));
    let removed = removed.iter().map(|(_, m)| MemberChange::Removed(word(m), m.described()));
    let added = added.iter().map(|(_, m)| MemberChange::Added(word(m), m.described()));
    became.chain(removed).chain(added).collect()
}

/// The members that both versions have, in the order of the newer one: their places now and then.
pub(super) fn pairs(a: &Element, b: &Element) -> Vec<(usize, usize)> {
    let Paired { same, named, .. } = paired(a, b);
    let mut pairs: Vec<(usize, usize)> = same.iter().chain(&named).map(|((n, _), (o, _))| (*n, *o)).collect();
    pairs.sort_unstable();
    pairs
}

/// What a member of an element is called.
fn word(member: &Member, of: &Element) -> &'static str {
    match (member.operation, of.kind.word()) {
        _ if member.constraint.is_some() => "constraint",
        (true, _) => "operation",
        (false, "enum") => "value",
        (false, "table") => "column",
        (false, "object") => "slot",
        _ => "attribute",
    }
}
