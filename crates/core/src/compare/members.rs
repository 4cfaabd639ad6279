//! Members of two versions of a classifier: matched by their text, then by their name.

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
    /// Those that say the same.
    same: Vec<(Placed<'a>, Placed<'a>)>,
    /// Those that have the same name.
    named: Vec<(Placed<'a>, Placed<'a>)>,
    removed: Vec<Placed<'a>>,
    added: Vec<Placed<'a>>,
}

/// A member with its place among all of its element.
type Placed<'a> = (usize, &'a Member);

fn paired<'a>(a: &'a Element, b: &'a Element) -> Paired<'a> {
    let all = |e: &'a Element| -> Vec<Placed<'a>> { e.class.iter().flat_map(|c| c.members()).enumerate().collect() };
    let (mut removed, mut added) = (all(a), all(b));
    let same = take_pairs(&mut removed, &mut added, Member::is_same);
    let named = take_pairs(&mut removed, &mut added, |a, b| {
        let sort = |m: &Member| (m.operation, m.constraint.is_some());
        sort(a) == sort(b) && if a.constraint.is_some() { a.text == b.text } else { a.name() == b.name() }
    });
    Paired { same, named, removed, added }
}

/// Compares the members of two versions of an element, whatever their order.
pub(super) fn compare(a: &Element, b: &Element) -> Vec<MemberChange> {
    let Paired { named, removed, added, .. } = paired(a, b);
    let word = |m: &Member| word(m, b);
    let became = named.into_iter().map(|((_, a), (_, b))| MemberChange::Changed(word(b), a.described(), b.described()));
    let removed = removed.iter().map(|(_, m)| MemberChange::Removed(word(m), m.described()));
    let added = added.iter().map(|(_, m)| MemberChange::Added(word(m), m.described()));
    became.chain(removed).chain(added).collect()
}

/// The members that both versions have, in the order of the newer one: their places now and then.
pub(super) fn pairs(a: &Element, b: &Element) -> Vec<(usize, usize)> {
    let Paired { same, named, .. } = paired(a, b);
    let mut pairs: Vec<(usize, usize)> = same.iter().chain(&named).map(|((o, _), (n, _))| (*n, *o)).collect();
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

/// Takes the first pairs that are alike out of both lists.
fn take_pairs<'a>(
    old: &mut Vec<Placed<'a>>, new: &mut Vec<Placed<'a>>, is_pair: impl Fn(&Member, &Member) -> bool,
) -> Vec<(Placed<'a>, Placed<'a>)> {
    let mut pairs = Vec::new();
    old.retain(|a| match new.iter().position(|b| is_pair(a.1, b.1)) {
        Some(at) => {
            pairs.push((*a, new.remove(at)));
            false
        }
        None => true,
    });
    pairs
}
