//! Sheets of what is too large for one drawing: tables that belong together, by how they are linked. Input: facts. Output: an
//! overview, and sheets of at most this many tables that each of them can be read.
//!
//! Two clusters with the most links between them, for their sizes, are put together first; what nearly everything refers to pulls
//! nothing together. What is linked with nothing stands with others of its package. Cost: links, times the logarithm of their number.

use crate::facts::{Facts, ProposedSheet};
use crate::names::Names;
use bathygram_core::model::{ElementKind, ShownMembers};
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

/// From this many tables on, one drawing is too large.
const MANY: usize = 30;
/// A sheet has at most this many tables.
// More do not stand on a page at a size that can be read.
const MOST: usize = 12;
/// Sheets with more columns show keys only.
const MOST_COLUMNS: usize = 110;
/// What this many tables are linked with holds none of them together.
const HUB: usize = 12;

impl Facts {
    /// Proposes sheets, where one drawing would be too large.
    pub fn propose_sheets(&mut self) {
        let shown: Vec<usize> = (0..self.things.len()).filter(|i| !self.things[*i].kind.is_box()).collect();
        if shown.len() <= MANY {
            return;
        }
        let mut names = Names::default();
        names.give(&self.name);
        let overview = self.overview(&shown, &mut names);
        let mut sheets = vec![overview];
        let degrees = self.degrees();
        for cluster in self.clusters(&shown, &degrees) {
            sheets.push(self.sheet(cluster, &degrees, &mut names));
        }
        self.sheets = sheets;
    }

    /// How many others each thing is linked with.
    fn degrees(&self) -> Vec<usize> {
        let mut others: Vec<BTreeSet<usize>> = vec![BTreeSet::new(); self.things.len()];
        for link in self.links.iter().filter(|link| link.from != link.to) {
            others[link.from].insert(link.to);
            others[link.to].insert(link.from);
        }
        others.iter().map(BTreeSet::len).collect()
    }

    /// The packages as closed boxes; without packages, what most others are linked with.
    fn overview(&self, shown: &[usize], names: &mut Names) -> ProposedSheet {
        let closes: Vec<usize> = (0..self.things.len()).filter(|i| self.things[*i].kind.is_box()).collect();
        let name = names.give(&format!("{}_overview", self.name));
        if !closes.is_empty() {
            let title = format!("{}, package by package", self.title);
            return ProposedSheet { name, title, shows: Vec::new(), closes, members: ShownMembers::None };
        }
        let degrees = self.degrees();
        let mut first: Vec<usize> = shown.iter().copied().filter(|i| degrees[*i] > 0).collect();
        first.sort_by_key(|i| (std::cmp::Reverse(degrees[*i]), *i));
        first.truncate(MOST);
        let first = if first.is_empty() { shown[..MOST.min(shown.len())].to_vec() } else { first };
        let title = format!("{}: what most others are linked with", self.title);
        ProposedSheet { name, title, shows: first, closes, members: ShownMembers::Keys }
    }

    fn sheet(&self, mut cluster: Vec<usize>, degrees: &[usize], names: &mut Names) -> ProposedSheet {
        cluster.sort_unstable();
        let is_table = |i: &usize| self.things[*i].kind != ElementKind::Enum;
        let tables: Vec<usize> = cluster.iter().copied().filter(is_table).collect();
        let order = |i: &&usize| (std::cmp::Reverse(degrees[**i]), **i);
        let middle =
            tables.iter().chain(&cluster).min_by_key(|i| (!is_table(i), order(i))).copied().unwrap_or_default();
        let middle = &self.things[middle];
        let name = names.give(&format!("{}_{}", self.name, middle.called.as_ref().unwrap_or(&middle.origin)));
        let title = match cluster.len() {
            1 => middle.shown().to_owned(),
            _ => format!("Around {}", middle.shown()),
        };
        let columns: usize = cluster.iter().map(|i| self.things[*i].members.len()).sum();
        let members = if columns > MOST_COLUMNS { ShownMembers::Keys } else { ShownMembers::All };
        ProposedSheet { name, title, shows: cluster, closes: Vec::new(), members }
    }

    /// What belongs together: every thing in one cluster, in the order of their first things.
    fn clusters(&self, shown: &[usize], degrees: &[usize]) -> Vec<Vec<usize>> {
        let mut forest = Forest::of(self.things.len());
        let is_hub = |i: usize| degrees[i] >= HUB;
        let mut between: BTreeMap<(usize, usize), f64> = BTreeMap::new();
        for link in self.links.iter().filter(|link| link.from != link.to) {
            let pair = (link.from.min(link.to), link.from.max(link.to));
            // Links within a package hold more than those between two.
            let is_within = self.things[link.from].holder == self.things[link.to].holder;
            let weight = if is_within { 2.0 } else { 1.0 };
            let weight = if is_hub(link.from) || is_hub(link.to) { weight / 8.0 } else { weight };
            *between.entry(pair).or_default() += weight;
        }
        forest.join(&between);
        let mut clusters: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
        shown.iter().for_each(|i| clusters.entry(forest.root(*i)).or_default().push(*i));
        // Small ones stand together, package by package.
        let mut clusters: Vec<Vec<usize>> = clusters.into_values().collect();
        clusters.sort_by_key(|cluster| (self.things[cluster[0]].holder, cluster[0]));
        let mut out: Vec<Vec<usize>> = Vec::new();
        for cluster in clusters {
            let holder = self.things[cluster[0]].holder;
            let is_small = |cluster: &Vec<usize>| cluster.len() <= MOST / 3;
            let home = out.iter_mut().rev().find(|home| {
                self.things[home[0]].holder == holder
                    && home.len() + cluster.len() <= MOST
                    && is_small(&cluster)
                    && (is_small(home) || cluster.len() == 1)
            });
            match home {
                Some(home) => home.extend(cluster),
                None => out.push(cluster),
            }
        }
        out
    }
}

/// Clusters that grow together.
struct Forest {
    parents: Vec<usize>,
    sizes: Vec<usize>,
}

impl Forest {
    fn of(count: usize) -> Self {
        Self { parents: (0..count).collect(), sizes: vec![1; count] }
    }

    fn root(&mut self, mut at: usize) -> usize {
        while self.parents[at] != at {
            self.parents[at] = self.parents[self.parents[at]];
            at = self.parents[at];
        }
        at
    }

    /// Puts together what is linked most for its size, as long as it stays small enough.
    fn join(&mut self, between: &BTreeMap<(usize, usize), f64>) {
        let mut near: Vec<BTreeMap<usize, f64>> = vec![BTreeMap::new(); self.parents.len()];
        let mut queue: BinaryHeap<(u64, std::cmp::Reverse<(usize, usize)>)> = BinaryHeap::new();
        // Weights are small sums of eighths: as whole numbers they order the same everywhere.
        let rank = |weight: f64, a: usize, b: usize| (weight * 1_000_000.0 / (a * b) as f64) as u64;
        for ((a, b), weight) in between {
            near[*a].insert(*b, *weight);
            near[*b].insert(*a, *weight);
            queue.push((rank(*weight, 1, 1), std::cmp::Reverse((*a, *b))));
        }
        while let Some((was, std::cmp::Reverse((a, b)))) = queue.pop() {
            if self.parents[a] != a || self.parents[b] != b {
                continue;
            }
            let Some(weight) = near[a].get(&b).copied() else { continue };
            // What was put in when one of them was smaller is out of date.
            if rank(weight, self.sizes[a], self.sizes[b]) != was || self.sizes[a] + self.sizes[b] > MOST {
                continue;
            }
            self.parents[b] = a;
            self.sizes[a] += self.sizes[b];
            for (other, weight) in std::mem::take(&mut near[b]) {
                near[other].remove(&b);
                if other != a {
                    *near[a].entry(other).or_default() += weight;
                    *near[other].entry(a).or_default() += weight;
                }
            }
            for (other, weight) in &near[a] {
                let pair = (a.min(*other), a.max(*other));
                queue.push((rank(*weight, self.sizes[a], self.sizes[*other]), std::cmp::Reverse(pair)));
            }
        }
    }
}
