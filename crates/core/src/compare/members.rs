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

/// Compares the members of two versions of an element; their order means nothing.
pub(super) fn compare(a: &Element, b: &Element) -> Vec<MemberChange> {
    let all = |e: &Element| -> Vec<Member> {
        e.class.iter().flat_map(|c| c.members().cloned().collect::<Vec<_>>()).collect()
    };
    let (mut old, mut new) = (all(a), all(b));
    take_pairs(&mut old, &mut new, Member::is_same);
    let named = take_pairs(&mut old, &mut new, |a, b| {
        let sort = |m: &Member| (m.operation, m.constraint.is_some());
        sort(a) == sort(b) && if a.constraint.is_some() { a.text == b.text } else { a.name() == b.name() }
    });
    let word = |m: &Member| word(m, b);
    let became = named.into_iter().map(|(a, b)| MemberChange::Changed(word(&b), a.described(), b.described()));
    let removed = old.iter().map(|m| MemberChange::Removed(word(m), m.described()));
    let added = new.iter().map(|m| MemberChange::Added(word(m), m.described()));
    became.chain(removed).chain(added).collect()
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
fn take_pairs(
    old: &mut Vec<Member>, new: &mut Vec<Member>, is_pair: impl Fn(&Member, &Member) -> bool,
) -> Vec<(Member, Member)> {
    let mut pairs = Vec::new();
    old.retain(|a| match new.iter().position(|b| is_pair(a, b)) {
        Some(at) => {
            pairs.push((a.clone(), new.remove(at)));
            false
        }
        None => true,
    });
    pairs
}
