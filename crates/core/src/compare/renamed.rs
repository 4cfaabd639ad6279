//! Which diagram or sheet of one version is which of the other: by name, then, among those of one kind that have no pair, by what
//! they hold.

use super::pairing::rare_pairs;
use crate::model::Diagram;
use std::collections::{BTreeMap, BTreeSet};

/// Diagrams that share less of what they hold are two.
// At half, most of the picture is another one.
const LIKE: f64 = 0.5;

/// Beyond this many pairs only those are looked at that share something that few have.
const PAIRS: usize = 10_000;

/// What something holds, each with its count.
pub(super) type Contents = BTreeMap<String, usize>;

/// Pairs two lists of one sort by their names, those of several with one name in their order. What is left is paired by what it
/// holds, the likest first. Output: for every one of `new`, its place in `old`.
pub(super) fn paired<T>(
    old: &[&T], new: &[&T], name: impl Fn(&T) -> String, contents: impl Fn(&T) -> Contents,
) -> Vec<Option<usize>> {
    let (then, now) = (counted(old, &name), counted(new, &name));
    let by_name: BTreeMap<&(String, usize), usize> = then.iter().zip(0..).collect();
    let mut pairs: Vec<Option<usize>> = now.iter().map(|name| by_name.get(name).copied()).collect();
    let kept: BTreeSet<usize> = pairs.iter().flatten().copied().collect();
    let held = |list: &[&T], left: Vec<usize>| left.into_iter().map(|i| (i, contents(list[i]))).collect::<Vec<_>>();
    let olds = held(old, (0..old.len()).filter(|o| !kept.contains(o)).collect());
    let news = held(new, (0..new.len()).filter(|n| pairs[*n].is_none()).collect());
    let candidates = candidates(&olds, &news).into_iter();
    let pair = |(o, n): (usize, usize)| (likeness(&olds[o].1, &news[n].1), olds[o].0, news[n].0);
    let mut alike: Vec<(f64, usize, usize)> = candidates.map(pair).filter(|pair| pair.0 >= LIKE).collect();
    alike.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let mut taken = BTreeSet::new();
    for (_, o, n) in alike {
        if pairs[n].is_none() && taken.insert(o) {
            pairs[n] = Some(o);
        }
    }
    pairs
}

/// Which of two lists may be alike, by their places.
fn candidates<'c>(olds: &'c [(usize, Contents)], news: &'c [(usize, Contents)]) -> BTreeSet<(usize, usize)> {
    if olds.len().saturating_mul(news.len()) <= PAIRS {
        return (0..olds.len()).flat_map(|o| (0..news.len()).map(move |n| (o, n))).collect();
    }
    let keys = |list: &'c [(usize, Contents)]| {
        list.iter().enumerate().flat_map(|(i, (_, contents))| contents.keys().map(move |what| (what.as_str(), i)))
    };
    rare_pairs([keys(olds), keys(news)])
}

/// The names of a list, each with how many before it have the same: two blocks of one name are an error, and yet two.
fn counted<T>(list: &[&T], name: impl Fn(&T) -> String) -> Vec<(String, usize)> {
    let mut counts: BTreeMap<String, usize> = BTreeMap::new();
    let mut next = |name: String| {
        let count = counts.entry(name.clone()).or_default();
        *count += 1;
        (name, *count)
    };
    list.iter().map(|t| next(name(t))).collect()
}

/// How much of two that they hold is the same, between 0 and 1.
fn likeness(then: &Contents, now: &Contents) -> f64 {
    let shared: usize = then.iter().map(|(what, count)| now.get(what).map_or(0, |other| *count.min(other))).sum();
    let all = then.values().sum::<usize>() + now.values().sum::<usize>();
    if all == 0 { 0.0 } else { 2.0 * shared as f64 / all as f64 }
}

/// What a diagram holds: the title, elements by what they show, relations by verb and either end. Two of different kinds share
/// nothing.
pub(super) fn contents(diagram: &Diagram) -> Contents {
    let shown = |e: &crate::model::Element| format!("{} {} {}", e.kind.word(), e.name, e.shown().text());
    let elements = diagram.elements.iter().map(shown);
    let relations = diagram.relations.iter().flat_map(|r| {
        let end = |id| diagram.element(id).shown().text();
        [format!("{} {}", end(r.from), r.verb.word()), format!("{} {}", r.verb.word(), end(r.to))]
    });
    let title = diagram.title.iter().map(|title| format!("title {}", title.text()));
    let mut counts = Contents::new();
    for what in elements.chain(relations).chain(title) {
        *counts.entry(format!("{} {what}", diagram.kind.word())).or_insert(0) += 1;
    }
    counts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thousands_are_paired_by_what_few_of_them_hold() {
        let list = |prefix: &str| (0..3_000).map(|i| format!("{prefix}{i}")).collect::<Vec<String>>();
        let (old, new) = (list("a"), list("b"));
        let (olds, news): (Vec<&String>, Vec<&String>) = (old.iter().collect(), new.iter().rev().collect());
        let contents = |name: &String| Contents::from([("all of them".to_owned(), 1), (name[1..].to_owned(), 1)]);
        let pairs = paired(&olds, &news, String::clone, contents);
        assert!(pairs.iter().enumerate().all(|(n, o)| *o == Some(2_999 - n)), "{pairs:?}");
    }
}
