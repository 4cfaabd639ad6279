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
    take_pairs(&mut old, &mut new, |a, b| {
        (&a.text, a.is_static, a.is_abstract, a.key, &a.refers)
            == (&b.text, b.is_static, b.is_abstract, b.key, &b.refers)
    });
    let named = take_pairs(&mut old, &mut new, |a, b| a.operation == b.operation && name(a) == name(b));
    let word = |m: &Member| word(m, b);
    let became = named.into_iter().map(|(a, b)| MemberChange::Changed(word(&b), shown(&a), shown(&b)));
    let removed = old.iter().map(|m| MemberChange::Removed(word(m), shown(m)));
    let added = new.iter().map(|m| MemberChange::Added(word(m), shown(m)));
    became.chain(removed).chain(added).collect()
}

/// What a member of an element is called.
fn word(member: &Member, of: &Element) -> &'static str {
    match (member.operation, of.kind.word()) {
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

/// The name in a member's text: what stands before its type or parameters, without its visibility.
fn name(member: &Member) -> &str {
    let text = member.text.trim_start_matches(['+', '-', '#', '~', '/', ' ']);
    text.split([':', '(', '=', ' ']).next().unwrap_or(text)
}

/// As it is reported: with what its drawing says beyond its text.
fn shown(member: &Member) -> String {
    let flags = [(member.is_static, " (static)"), (member.is_abstract, " (abstract)"), (member.key, " (key)")];
    let flags: String = flags.iter().filter(|(is_on, _)| *is_on).map(|(_, word)| *word).collect();
    let refers = member.refers.as_ref().map_or(String::new(), |r| format!(" refers {r}"));
    format!("{}{flags}{refers}", member.text)
}
