//! Which element of one version is which of the other: by key first; what is left is matched by likeness, the likest pair
//! first. Likeness counts names, labels, kinds, places, members and common neighbours, and must pass a threshold: one of
//! name, label, members or neighbours is never enough where another one speaks against it.

use crate::model::{Diagram, Element};
use std::collections::{BTreeMap, BTreeSet};

/// Pairs less alike than this are two things.
const LIKE: f64 = 4.0;
/// Beyond so many pairs only equal names and labels are looked at.
const PAIRS: usize = 250_000;

/// Which element of one version is which of the other, by index.
pub(super) struct Matching {
    pub(super) to_new: BTreeMap<usize, usize>,
    pub(super) to_old: BTreeMap<usize, usize>,
}

impl Matching {
    pub(super) fn of(old: &Diagram, new: &Diagram) -> Self {
        let mut matching = Self { to_new: BTreeMap::new(), to_old: BTreeMap::new() };
        let keys: BTreeMap<&str, usize> = old.elements.iter().enumerate().map(|(i, e)| (e.key.as_str(), i)).collect();
        for (n, element) in new.elements.iter().enumerate() {
            if let Some(o) = keys.get(element.key.as_str()) {
                matching.pair(*o, n);
            }
        }
        let sides = [Side::of(old), Side::of(new)];
        // Each pair makes its neighbours more alike.
        while matching.pair_likest(&sides) {}
        matching
    }

    fn pair(&mut self, old: usize, new: usize) {
        self.to_new.insert(old, new);
        self.to_old.insert(new, old);
    }

    /// Pairs what is alike among what is left, the likest first; says whether there was a pair.
    fn pair_likest(&mut self, sides: &[Side<'_>; 2]) -> bool {
        let left = |side: &Side<'_>, paired: &BTreeMap<usize, usize>| -> Vec<usize> {
            (0..side.diagram.elements.len()).filter(|i| !paired.contains_key(i)).collect()
        };
        let (olds, news) = (left(&sides[0], &self.to_new), left(&sides[1], &self.to_old));
        let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
        let is_many = olds.len().saturating_mul(news.len()) > PAIRS;
        for o in &olds {
            for n in &news {
                let likeness = self.likeness(sides, *o, *n, is_many);
                if likeness >= LIKE {
                    pairs.push((likeness, *o, *n));
                }
            }
        }
        pairs.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
        let mut is_any = false;
        for (i, (like, o, n)) in pairs.iter().enumerate() {
            let is_left = |p: &(f64, usize, usize)| !self.to_new.contains_key(&p.1) && !self.to_old.contains_key(&p.2);
            // Two that are equally like the same one are neither.
            let disputes = |p: &(f64, usize, usize)| p.0 == *like && (p.1 == *o) != (p.2 == *n) && is_left(p);
            let from = pairs.partition_point(|p| p.0 > *like);
            let is_disputed = pairs[from..].iter().take_while(|p| p.0 == *like).any(disputes);
            if is_left(&pairs[i]) && !is_disputed {
                self.pair(*o, *n);
                is_any = true;
            }
        }
        is_any
    }

    fn likeness(&self, sides: &[Side<'_>; 2], o: usize, n: usize, is_quick: bool) -> f64 {
        let (a, b) = (&sides[0].diagram.elements[o], &sides[1].diagram.elements[n]);
        if a.kind.is_box() != b.kind.is_box() || a.kind.is_mark() != b.kind.is_mark() {
            return 0.0;
        }
        let (label, other) = (a.shown().text(), b.shown().text());
        let mut like = if a.kind == b.kind { 1.0 } else { 0.0 };
        if !a.name.is_empty() && a.name == b.name {
            like += 3.0;
        }
        if !label.is_empty() && label == other && a.label.is_some() {
            like += 3.0;
        }
        if is_quick {
            return like;
        }
        if label != other {
            like += 2.0 * dice(&words(&label), &words(&other));
        }
        let parent = |e: &Element| e.parent.map(|p| p.index());
        let is_same_place = match (parent(a), parent(b)) {
            (None, None) => true,
            (Some(p), Some(q)) => self.to_new.get(&p) == Some(&q),
            _ => false,
        };
        like += if is_same_place { 0.5 } else { 0.0 };
        let members = |e: &Element| -> BTreeSet<String> {
            e.class.iter().flat_map(|c| c.members().map(|m| m.text.clone()).collect::<Vec<_>>()).collect()
        };
        like += 3.0 * dice(&members(a), &members(b));
        // What a box holds says what it is.
        let held: BTreeSet<usize> = sides[0].held[o].iter().filter_map(|c| self.to_new.get(c).copied()).collect();
        like += 3.0 * shared(&held, &sides[1].held[n]);
        let near: BTreeSet<(usize, usize, &str)> =
            sides[0].near[o].iter().filter_map(|(end, v, verb)| Some((*end, *self.to_new.get(v)?, *verb))).collect();
        // One neighbour says less than several.
        let is_alone = near.len() < 2 && sides[1].near[n].len() < 2;
        like + if is_alone { 1.5 } else { 3.0 } * shared(&near, &sides[1].near[n])
    }
}

/// A version, with what its elements hold and what they are joined with: which end they are, the other one, and the verb.
struct Side<'a> {
    diagram: &'a Diagram,
    held: Vec<BTreeSet<usize>>,
    near: Vec<BTreeSet<(usize, usize, &'static str)>>,
}

impl<'a> Side<'a> {
    fn of(diagram: &'a Diagram) -> Self {
        let mut held = vec![BTreeSet::new(); diagram.elements.len()];
        for (id, element) in diagram.ids() {
            if let Some(parent) = element.parent {
                held[parent.index()].insert(id.index());
            }
        }
        let mut near = vec![BTreeSet::new(); diagram.elements.len()];
        for relation in &diagram.relations {
            near[relation.from.index()].insert((0, relation.to.index(), relation.verb.word()));
            near[relation.to.index()].insert((1, relation.from.index(), relation.verb.word()));
        }
        Self { diagram, held, near }
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
