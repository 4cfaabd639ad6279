//! Which diagram or sheet of one version is which of the other: by name, then, among those of one kind that have no pair, by what
//! they hold.

use crate::model::Diagram;
use std::collections::{BTreeMap, BTreeSet};

/// Diagrams that share less of what they hold are two.
// At half, most of the picture is another one.
const LIKE: f64 = 0.5;

/// Pairs two lists of one sort by their names, those of several with one name in their order. What is left is paired by likeness, which is between 0 and 1, the likest first. Output: for every one of `new`, its place in `old`.
pub(super) fn paired<T>(
    old: &[&T], new: &[&T], name: impl Fn(&T) -> String, likeness: impl Fn(&T, &T) -> f64,
) -> Vec<Option<usize>> {
    let (then, now) = (counted(old, &name), counted(new, &name));
    let by_name: BTreeMap<&(String, usize), usize> = then.iter().zip(0..).collect();
    let mut pairs: Vec<Option<usize>> = now.iter().map(|name| by_name.get(name).copied()).collect();
    let kept: BTreeSet<usize> = pairs.iter().flatten().copied().collect();
    let left: Vec<usize> = (0..old.len()).filter(|i| !kept.contains(i)).collect();
    let mut alike: Vec<(f64, usize, usize)> = Vec::new();
    for (n, _) in pairs.iter().enumerate().filter(|(_, pair)| pair.is_none()) {
        alike.extend(left.iter().map(|o| (likeness(old[*o], new[n]), *o, n)).filter(|pair| pair.0 >= LIKE));
    }
    alike.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let mut taken = BTreeSet::new();
    for (_, o, n) in alike {
        if pairs[n].is_none() && taken.insert(o) {
            pairs[n] = Some(o);
        }
    }
    pairs
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

/// How much two diagrams share, between 0 and 1: the title, elements by what they show, relations by verb and either end.
pub(super) fn likeness(a: &Diagram, b: &Diagram) -> f64 {
    if a.kind != b.kind {
        return 0.0;
    }
    let (then, now) = (contents(a), contents(b));
    let shared: usize = then.iter().map(|(what, count)| now.get(what).map_or(0, |other| *count.min(other))).sum();
    let all = then.values().sum::<usize>() + now.values().sum::<usize>();
    if all == 0 { 0.0 } else { 2.0 * shared as f64 / all as f64 }
}

/// What a diagram holds, each with its count.
fn contents(diagram: &Diagram) -> BTreeMap<String, usize> {
    let shown = |e: &crate::model::Element| format!("{} {} {}", e.kind.word(), e.name, e.shown().text());
    let elements = diagram.elements.iter().map(shown);
    let relations = diagram.relations.iter().flat_map(|r| {
        let end = |id| diagram.element(id).shown().text();
        [format!("{} {}", end(r.from), r.verb.word()), format!("{} {}", r.verb.word(), end(r.to))]
    });
    let title = diagram.title.iter().map(|title| format!("title {}", title.text()));
    let mut counts = BTreeMap::new();
    for what in elements.chain(relations).chain(title) {
        *counts.entry(what).or_insert(0) += 1;
    }
    counts
}
