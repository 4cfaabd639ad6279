//! Which element of one version is which of the other, and so what was renamed or moved: by key first; what is left is matched by likeness, the likest pair
//! first. Likeness counts names, labels, kinds, places, members and common neighbours, and must pass a threshold: one of
//! name, label, members or neighbours is never enough where another one speaks against it.

use super::pairing::rare_pairs;
use crate::model::{Diagram, Element};
use std::collections::{BTreeMap, BTreeSet};

/// Pairs less alike than this are two things.
// Less is what any two elements of one kind share.
const LIKE: f64 = 4.0;
/// Beyond this many pairs only equal names and labels are looked at, and those only that few share.
// Likeness looks at the words and the neighbours of both.
const PAIRS: usize = 250_000;

/// Which element of one version is which of the other, by index.
pub(crate) struct Matching {
    pub(crate) to_new: BTreeMap<usize, usize>,
    pub(crate) to_old: BTreeMap<usize, usize>,
}

impl Matching {
    pub(crate) fn of(old: &Diagram, new: &Diagram) -> Self {
        let mut matching = Self { to_new: BTreeMap::new(), to_old: BTreeMap::new() };
        let keys: BTreeMap<&str, usize> = old.elements.iter().enumerate().map(|(i, e)| (e.key.as_str(), i)).collect();
        for (n, element) in new.elements.iter().enumerate() {
            if let Some(o) = keys.get(element.key.as_str()) {
                matching.pair(*o, n);
            }
        }
        matching.pair_alike(&[Side::of(old), Side::of(new)]);
        matching
    }

    fn pair(&mut self, old: usize, new: usize) {
        self.to_new.insert(old, new);
        self.to_old.insert(new, old);
    }

    fn is_left(&self, (_, o, n): &Pair) -> bool {
        !self.to_new.contains_key(o) && !self.to_old.contains_key(n)
    }

    /// Pairs what is alike among what is left, the likest first. Each pair makes its neighbours more alike, so those are
    /// looked at again.
    fn pair_alike(&mut self, sides: &[Side<'_>; 2]) {
        let mut pairs: Vec<Pair> = Vec::new();
        let mut is_quick = true;
        let mut changed = BTreeSet::new();
        loop {
            let left = |side: &Side<'_>, paired: &BTreeMap<usize, usize>| -> Vec<usize> {
                (0..side.diagram.elements.len()).filter(|i| !paired.contains_key(i)).collect()
            };
            let (olds, news) = (left(&sides[0], &self.to_new), left(&sides[1], &self.to_old));
            if olds.len().saturating_mul(news.len()) > PAIRS {
                pairs = self.quick_pairs(sides, &olds, &news);
            } else {
                // What was looked at quickly is looked at again.
                let is_stale = |o: &usize| is_quick || changed.contains(o);
                pairs.retain(|pair| self.is_left(pair) && !is_stale(&pair.1));
                for o in olds.iter().copied().filter(is_stale) {
                    let all = news.iter().map(|n| (self.likeness(sides, o, *n), o, *n));
                    pairs.extend(all.filter(|pair| pair.0 >= LIKE));
                }
                is_quick = false;
            }
            let paired = self.pair_likest(&mut pairs);
            if paired.is_empty() {
                return;
            }
            changed = paired.into_iter().flat_map(|o| sides[0].around(o)).collect();
        }
    }

    /// Pairs by equal names or labels alone.
    fn quick_pairs(&self, sides: &[Side<'_>; 2], olds: &[usize], news: &[usize]) -> Vec<Pair> {
        let named = |which: usize, list: &[usize]| -> Vec<((i32, String), usize)> {
            list.iter().flat_map(|i| sides[which].names(*i).map(|name| (name, *i))).collect()
        };
        let likeness = |(o, n): (usize, usize)| (Self::by_names(sides, o, n), o, n);
        rare_pairs([named(0, olds), named(1, news)]).into_iter().map(likeness).filter(|pair| pair.0 >= LIKE).collect()
    }

    /// Pairs the likest, and gives back the older elements of these pairs.
    fn pair_likest(&mut self, pairs: &mut [Pair]) -> Vec<usize> {
        pairs.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
        let mut paired = Vec::new();
        for equal in pairs.chunk_by(|a, b| a.0 == b.0) {
            let left: Vec<&Pair> = equal.iter().filter(|pair| self.is_left(pair)).collect();
            let (mut olds, mut news) = (BTreeMap::new(), BTreeMap::new());
            for (_, o, n) in &left {
                *olds.entry(*o).or_insert(0) += 1;
                *news.entry(*n).or_insert(0) += 1;
            }
            // Two that are equally like the same one are neither.
            for (_, o, n) in left.into_iter().filter(|(_, o, n)| olds[o] == 1 && news[n] == 1) {
                self.pair(*o, *n);
                paired.push(*o);
            }
        }
        paired
    }

    /// Likeness by kinds, names and labels alone.
    fn by_names(sides: &[Side<'_>; 2], o: usize, n: usize) -> f64 {
        let (a, b) = (&sides[0].diagram.elements[o], &sides[1].diagram.elements[n]);
        if a.kind.is_box() != b.kind.is_box() || a.kind.is_mark() != b.kind.is_mark() {
            return 0.0;
        }
        let (label, other) = (&sides[0].facts[o].label, &sides[1].facts[n].label);
        let mut like = if a.kind == b.kind { 1.0 } else { 0.0 };
        if !a.name.is_empty() && a.name == b.name {
            like += 3.0;
        }
        if !label.is_empty() && label == other && a.label.is_some() {
            like += 3.0;
        }
        like
    }

    fn likeness(&self, sides: &[Side<'_>; 2], o: usize, n: usize) -> f64 {
        let (a, b) = (&sides[0].diagram.elements[o], &sides[1].diagram.elements[n]);
        if a.kind.is_box() != b.kind.is_box() || a.kind.is_mark() != b.kind.is_mark() {
            return 0.0;
        }
        let (then, now) = (&sides[0].facts[o], &sides[1].facts[n]);
        let mut like = Self::by_names(sides, o, n);
        if then.label != now.label {
            like += 2.0 * dice(&then.words, &now.words);
        }
        let parent = |e: &Element| e.parent.map(|p| p.index());
        let is_same_place = match (parent(a), parent(b)) {
            (None, None) => true,
            (Some(p), Some(q)) => self.to_new.get(&p) == Some(&q),
            _ => false,
        };
        like += if is_same_place { 0.5 } else { 0.0 };
        like += 3.0 * dice(&then.members, &now.members);
        // What a box holds says what it is.
        let held: BTreeSet<usize> = then.held.iter().filter_map(|c| self.to_new.get(c).copied()).collect();
        like += 3.0 * shared(&held, &now.held);
        let near: BTreeSet<(usize, usize, &str)> =
            then.near.iter().filter_map(|(end, v, verb)| Some((*end, *self.to_new.get(v)?, *verb))).collect();
        // One neighbour says less than several.
        let is_alone = near.len() < 2 && now.near.len() < 2;
        like + if is_alone { 1.5 } else { 3.0 } * shared(&near, &now.near)
    }
}

/// How alike two elements are, and their numbers in the older and the newer version.
type Pair = (f64, usize, usize);

/// A version, with what is compared of each element.
struct Side<'a> {
    diagram: &'a Diagram,
    facts: Vec<Facts>,
}

/// What is compared of an element.
#[derive(Default)]
struct Facts {
    label: String,
    words: BTreeSet<String>,
    members: BTreeSet<String>,
    /// What it holds.
    held: BTreeSet<usize>,
    /// What it is joined with: which end it is, the other one, and the verb.
    near: BTreeSet<(usize, usize, &'static str)>,
}

impl Facts {
    /// What an element says of itself, before its neighbours are known.
    fn of(element: &Element) -> Self {
        let label = element.shown().text();
        let members = element.class.iter().flat_map(|c| c.members().map(|m| m.text.clone()).collect::<Vec<_>>());
        Self { words: words(&label), members: members.collect(), label, ..Self::default() }
    }
}

impl<'a> Side<'a> {
    /// The name and the label of an element, told apart by their first; those that it has.
    fn names(&self, element: usize) -> impl Iterator<Item = (i32, String)> {
        let (name, label) = (&self.diagram.elements[element].name, &self.facts[element].label);
        [(0, name.clone()), (1, label.clone())].into_iter().filter(|(_, name)| !name.is_empty())
    }

    fn of(diagram: &'a Diagram) -> Self {
        let mut facts: Vec<Facts> = diagram.elements.iter().map(Facts::of).collect();
        for (id, element) in diagram.ids() {
            if let Some(parent) = element.parent {
                facts[parent.index()].held.insert(id.index());
            }
        }
        for relation in &diagram.relations {
            facts[relation.from.index()].near.insert((0, relation.to.index(), relation.verb.word()));
            facts[relation.to.index()].near.insert((1, relation.from.index(), relation.verb.word()));
        }
        Self { diagram, facts }
    }

    /// What is more or less alike once an element has its pair: what holds it, what it holds, and its neighbours.
    fn around(&self, i: usize) -> Vec<usize> {
        let facts = &self.facts[i];
        let near = facts.near.iter().map(|(_, v, _)| *v);
        near.chain(facts.held.iter().copied()).chain(self.diagram.elements[i].parent.map(|p| p.index())).collect()
    }
}

/// The part that two sets share, of the larger one.
fn shared<T: Ord>(a: &BTreeSet<T>, b: &BTreeSet<T>) -> f64 {
    let most = a.len().max(b.len());
    if most == 0 { 0.0 } else { a.intersection(b).count() as f64 / most as f64 }
}

/// The part that two sets share, of both (Dice's coefficient).
fn dice<T: Ord>(a: &BTreeSet<T>, b: &BTreeSet<T>) -> f64 {
    let both = a.len() + b.len();
    if both == 0 { 0.0 } else { 2.0 * a.intersection(b).count() as f64 / both as f64 }
}

fn words(text: &str) -> BTreeSet<String> {
    text.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).map(str::to_lowercase).collect()
}
