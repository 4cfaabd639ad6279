//! The order in each layer: as few crossings as possible. Sweeps by barycentres, groups kept whole
//! and in one order through all layers (after Forster, "Applying crossing reduction strategies to
//! layered compound graphs", 2002), then exchanges of neighbours.
//!
//! Several deterministic starts; the source order is one of them and wins ties.

mod crossings;
mod local;

use super::layers::{ItemKind, Layers, Sweep};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::precedence;
use std::collections::BTreeMap;

/// What a line through the side of a group costs, in crossings.
// More than any line crosses in a picture that people draw, so that the order within groups never pays with a frame.
const BORDER: i64 = 24;
/// Up to this many items everything is tried.
// Several starts with all improvements are paid only where the picture is small.
const FULL_EFFORT: usize = 1_500;
/// Up to this many items layers are settled.
const SOME_EFFORT: usize = 12_000;
/// Above this many items, most of them places where lines pass, two sweeps are made: nobody follows a line there.
const LARGE: usize = 120_000;
/// Shuffled starts are tried until this many pairs were compared.
// A budget in steps, not in time: the same input gives the same picture on every machine.
const STEPS: usize = 125_000;
/// Or until this many of them brought nothing.
const IDLE: usize = 14;

/// Orders all layers.
pub(super) fn reduce(layers: &mut Layers, graph: &Graph) {
    let size = layers.items.len();
    let mut ordering = Ordering::new(layers, graph);
    ordering.start_from_source();
    ordering.spread_turns();
    let source = ordering.layers.layers.clone();
    ordering.start_from_walk();
    let walk = ordering.layers.layers.clone();
    let mut search = Search::new(&mut ordering);
    for start in if size <= FULL_EFFORT { vec![source, walk] } else { vec![walk] } {
        search.ordering.layers.layers = start;
        search.ordering.refresh_all();
        search.attempt();
    }
    search.finish();
}

/// Looks for a better order than the one that [`reduce`] has left.
pub(super) fn refine(layers: &mut Layers, graph: &Graph) {
    if layers.items.len() > FULL_EFFORT {
        return;
    }
    let mut ordering = Ordering::new(layers, graph);
    ordering.refresh_all();
    let crossings = ordering.crossings();
    let mut search = Search::new(&mut ordering);
    search.best = Some((crossings, search.ordering.snapshot()));
    let (mut round, mut idle) = (0, 0);
    while crossings > 0 && search.ordering.steps < STEPS && idle < IDLE && search.least() > 0 {
        search.ordering.start_shuffled(round);
        idle = if search.attempt() { 0 } else { idle + 1 };
        round += 1;
    }
    search.finish();
    ordering.exchange_groups();
}

/// The best order so far.
struct Search<'o, 'a> {
    ordering: &'o mut Ordering<'a>,
    best: Option<(i64, Snapshot)>,
}

impl<'o, 'a> Search<'o, 'a> {
    fn new(ordering: &'o mut Ordering<'a>) -> Self {
        Self { ordering, best: None }
    }

    fn least(&self) -> i64 {
        self.best.as_ref().map_or(i64::MAX, |b| b.0)
    }

    /// Improves the order that is there; says whether it became better than the best so far.
    fn attempt(&mut self) -> bool {
        self.ordering.improve();
        let crossings = self.ordering.crossings();
        let is_better = crossings < self.least();
        if is_better {
            self.best = Some((crossings, self.ordering.snapshot()));
        }
        is_better
    }

    fn finish(self) {
        if let Some((_, snapshot)) = self.best {
            self.ordering.restore(snapshot);
        }
    }
}

/// All that an order is made of.
struct Snapshot {
    layers: Vec<Vec<usize>>,
    sides: Vec<(Vec<usize>, Vec<usize>)>,
    group_place: Vec<usize>,
    states: Vec<u64>,
}

struct Ordering<'a> {
    layers: &'a mut Layers,
    lanes: Vec<bool>,
    /// The place of each item in its layer.
    pos: Vec<usize>,
    /// For each layer, its groups with their first and last places, by their numbers.
    extents: Vec<Vec<(usize, (usize, usize))>>,
    /// A number for the order of each layer: another order has another number.
    states: Vec<u64>,
    /// The last number given.
    last_state: u64,
    /// For each layer, its state and those of its neighbours when it was settled last.
    settled: Vec<[u64; 3]>,
    /// For each layer, the crossings between it and the one above, and the states in which they were counted.
    counted: Vec<(u64, u64, i64)>,
    /// The group around each group.
    parents: Vec<Option<usize>>,
    /// Whether sibling groups follow `group_place`.
    groups_fixed: bool,
    /// Pairs compared so far.
    steps: usize,
    /// Room for the sort keys of units.
    keys: Vec<Option<f64>>,
    /// Units and groups that come before others, by constraint.
    unit_before: Vec<(usize, usize)>,
    group_before: Vec<(usize, usize)>,
}

/// A child of a group in one layer: a unit, or a group with its units.
struct Child {
    group: Option<usize>,
    units: Vec<usize>,
    key: Option<f64>,
}

impl<'a> Ordering<'a> {
    fn new(layers: &'a mut Layers, graph: &Graph) -> Self {
        let count = layers.layers.len();
        let lanes: Vec<bool> = graph.groups.iter().map(|g| g.lane).collect();
        Self {
            pos: vec![0; layers.items.len()],
            extents: vec![Vec::new(); count],
            states: vec![0; count],
            last_state: 0,
            settled: vec![[0; 3]; count],
            counted: vec![(0, 0, 0); count],
            groups_fixed: true,
            parents: graph.groups.iter().map(|g| g.parent).collect(),
            steps: 0,
            keys: vec![None; layers.units.len()],
            lanes,
            unit_before: Vec::new(),
            group_before: Vec::new(),
            layers,
        }
        .with_constraints(graph)
    }

    /// Constraints between things of one layer, and between groups that lie in the same one. A node and a group, or members of
    /// different groups, are kept in order by what holds them.
    fn with_constraints(mut self, graph: &Graph) -> Self {
        for (a, b) in precedence::pairs(graph) {
            let paths = [a, b].map(|end| {
                let mut path: Vec<Anchor> = graph.groups_around(end).map(Anchor::Group).collect();
                if path.first() != Some(&end) {
                    path.insert(0, end);
                }
                path.reverse();
                path
            });
            // Where their paths part, both are children of one group.
            let apart = paths[0].iter().zip(&paths[1]).find(|(x, y)| x != y);
            match apart {
                Some((Anchor::Group(g), Anchor::Group(h))) => self.group_before.push((*g, *h)),
                Some((Anchor::Node(v), Anchor::Node(w))) => {
                    let unit = |v: usize| self.layers.items[self.layers.node_item[v]].unit;
                    self.unit_before.push((unit(*v), unit(*w)));
                }
                _ => {}
            }
        }
        self
    }

    /// Moves what a constraint wants later behind what it wants earlier.
    fn keep_constraints(&self, children: &mut Vec<Child>) {
        if self.unit_before.is_empty() && self.group_before.is_empty() {
            return;
        }
        let key = |c: &Child| match (c.group, &c.units[..]) {
            (Some(g), _) => Some((true, g)),
            (None, [unit]) => Some((false, *unit)),
            (None, _) => None,
        };
        let numbers: BTreeMap<(bool, usize), usize> =
            children.iter().zip(0..).filter_map(|(c, number)| Some((key(c)?, number))).collect();
        let both = |is_group: bool, (a, b): (usize, usize)| {
            numbers.get(&(is_group, a)).copied().zip(numbers.get(&(is_group, b)).copied())
        };
        let units = self.unit_before.iter().filter_map(|pair| both(false, *pair));
        let own: Vec<(usize, usize)> =
            units.chain(self.group_before.iter().filter_map(|pair| both(true, *pair))).collect();
        let (mut order, mut place): (Vec<usize>, Vec<usize>) = (0..children.len()).map(|i| (i, i)).unzip();
        for _ in 0..children.len() {
            let wrong = own.iter().find(|(a, b)| place[*a] > place[*b]);
            let Some((first, second)) = wrong.map(|(a, b)| (place[*a], place[*b])) else { break };
            order[second..=first].rotate_right(1);
            (second..=first).for_each(|at| place[order[at]] = at);
        }
        let mut taken: Vec<Option<Child>> = std::mem::take(children).into_iter().map(Some).collect();
        children.extend(order.into_iter().filter_map(|i| taken[i].take()));
    }

    fn snapshot(&self) -> Snapshot {
        Snapshot {
            layers: self.layers.layers.clone(),
            sides: self.layers.units.iter().map(|u| (u.left.clone(), u.right.clone())).collect(),
            group_place: self.layers.group_place.clone(),
            states: self.states.clone(),
        }
    }

    fn restore(&mut self, snapshot: Snapshot) {
        self.layers.layers = snapshot.layers;
        for (unit, (left, right)) in self.layers.units.iter_mut().zip(snapshot.sides) {
            unit.left = left;
            unit.right = right;
        }
        self.layers.group_place = snapshot.group_place;
        for (layer, state) in snapshot.states.into_iter().enumerate() {
            if self.states[layer] != state {
                self.refresh(layer);
                self.states[layer] = state;
            }
        }
    }

    /// Puts units into a layer, in their order.
    fn set_layer(&mut self, layer: usize, units: Vec<usize>) {
        if self.layers.layers[layer] != units || self.states[layer] == 0 {
            self.layers.layers[layer] = units;
            self.refresh(layer);
        }
    }

    /// Recounts the places in a layer, after its order has changed.
    fn refresh(&mut self, layer: usize) {
        let mut at = 0;
        let mut extents = std::mem::take(&mut self.extents[layer]);
        extents.clear();
        for &u in &self.layers.layers[layer] {
            let unit = &self.layers.units[u];
            let first = at;
            for item in unit.items() {
                self.pos[item] = at;
                at += 1;
            }
            extents.extend(unit.groups.iter().map(|g| (*g, (first, at - 1))));
        }
        // The first place comes first, the last one last.
        extents.sort_unstable();
        extents.dedup_by(|next, one| {
            let same = next.0 == one.0;
            if same {
                one.1.1 = next.1.1;
            }
            same
        });
        self.extents[layer] = extents;
        self.last_state += 1;
        self.states[layer] = self.last_state;
    }

    /// The first and the last place of a group in a layer.
    fn extent(&self, layer: usize, group: usize) -> Option<(usize, usize)> {
        let extents = &self.extents[layer];
        extents.binary_search_by_key(&group, |e| e.0).ok().map(|i| extents[i].1)
    }

    fn refresh_all(&mut self) {
        for layer in 0..self.layers.layers.len() {
            self.refresh(layer);
        }
    }

    /// Units in the order in which the source made them, groups gathered.
    fn start_from_source(&mut self) {
        for layer in 0..self.layers.layers.len() {
            let mut units = self.layers.layers[layer].clone();
            units.sort_by_key(|u| self.source_key(*u));
            let arranged = self.arrange(units, 0, &|_| None);
            self.set_layer(layer, arranged);
        }
    }

    /// Nodes stand in source order, dummies by the node their edge leaves.
    fn source_key(&self, unit: usize) -> (usize, usize) {
        let core = self.layers.units[unit].core;
        match self.layers.items[core].edge {
            Some(edge) => (self.layers.chains[edge].items.first().copied().unwrap_or(core), core),
            None => (core, 0),
        }
    }

    /// Units in the order in which a depth-first walk from the top meets them.
    fn start_from_walk(&mut self) {
        let count = self.layers.units.len();
        let mut seen = vec![false; count];
        let mut order: Vec<Vec<usize>> = vec![Vec::new(); self.layers.layers.len()];
        let mut starts: Vec<usize> = (0..count).collect();
        starts.sort_by_key(|u| {
            let core = self.layers.units[*u].core;
            (!self.layers.items[core].up.is_empty(), self.layers.items[core].layer, core)
        });
        for start in starts {
            let mut stack = vec![start];
            while let Some(u) = stack.pop() {
                if std::mem::replace(&mut seen[u], true) {
                    continue;
                }
                let unit = &self.layers.units[u];
                order[self.layers.items[unit.core].layer].push(u);
                let links = unit.items().flat_map(|i| self.layers.items[i].down.iter());
                let next: Vec<usize> = links.map(|l| self.layers.items[self.layers.links[*l].lower].unit).collect();
                stack.extend(next.into_iter().rev().filter(|n| !seen[*n]));
            }
        }
        for (layer, units) in order.into_iter().enumerate() {
            let arranged = self.arrange(units, 0, &|_| None);
            self.set_layer(layer, arranged);
        }
    }

    /// Units in an order that is arbitrary, and the same every time.
    fn start_shuffled(&mut self, round: u64) {
        let mut state = round.wrapping_mul(0x9e37_79b9_7f4a_7c15).wrapping_add(0x2545_f491_4f6c_dd1d);
        for layer in 0..self.layers.layers.len() {
            let mut units = self.layers.layers[layer].clone();
            for i in (1..units.len()).rev() {
                // Multiplier of Knuth's MMIX generator; the upper bits are good enough for a shuffle.
                state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
                units.swap(i, (state >> 33) as usize % (i + 1));
            }
            let arranged = self.arrange(units, 0, &|_| None);
            self.set_layer(layer, arranged);
        }
    }

    /// Turns go to the side where their line goes on, at most as many to one side as to the other.
    fn spread_turns(&mut self) {
        for u in 0..self.layers.units.len() {
            let unit = &self.layers.units[u];
            let is_turn = |i: &usize| self.layers.items[*i].kind == ItemKind::Turn;
            let turns: Vec<usize> = unit.right.iter().copied().filter(is_turn).collect();
            let beside: Vec<usize> = unit.right.iter().copied().filter(|i| !is_turn(i)).collect();
            let (mut left, mut right) = (unit.left.clone(), Vec::new());
            for (i, turn) in turns.iter().enumerate() {
                let leaves = !self.layers.items[*turn].down.is_empty();
                let to_right = !unit.right_taken && (leaves == (i % 2 == 0));
                if to_right { right.push(*turn) } else { left.push(*turn) }
            }
            right.extend(beside);
            self.layers.units[u].left = left;
            self.layers.units[u].right = right;
        }
    }

    /// Orders the children of a group by their keys; those without a key keep their places.
    fn arrange(&self, units: Vec<usize>, depth: usize, key: &dyn Fn(usize) -> Option<f64>) -> Vec<usize> {
        let mut children: Vec<Child> = Vec::with_capacity(units.len().min(16));
        let mut child_of = BTreeMap::new();
        for u in units {
            let Some(g) = self.layers.units[u].groups.get(depth) else {
                children.push(Child { group: None, units: vec![u], key: key(u) });
                continue;
            };
            // Groups are gathered already, but for the first time.
            if let Some(last) = children.last_mut().filter(|c| c.group == Some(*g)) {
                last.units.push(u);
                continue;
            }
            let at = *child_of.entry(*g).or_insert(children.len());
            if at == children.len() {
                children.push(Child { group: Some(*g), units: Vec::new(), key: None });
            }
            children[at].units.push(u);
        }
        for child in children.iter_mut().filter(|c| c.group.is_some()) {
            let keys = child.units.iter().filter_map(|u| key(*u));
            let (sum, count) = keys.fold((0.0, 0), |(sum, count), k| (sum + k, count + 1));
            child.key = (count > 0).then(|| sum / f64::from(count));
            child.units = self.arrange(std::mem::take(&mut child.units), depth + 1, key);
        }
        sort_keyed(&mut children);
        self.order_groups(&mut children);
        self.keep_constraints(&mut children);
        // A title leads its group.
        children.sort_by_key(|c| c.group.is_some() || !self.is_title(c.units[0]));
        children.into_iter().flat_map(|c| c.units).collect()
    }

    fn is_title(&self, unit: usize) -> bool {
        matches!(self.layers.items[self.layers.units[unit].core].kind, ItemKind::Title(_))
    }

    /// Gives the places that groups hold among their siblings to them in their common order.
    fn order_groups(&self, children: &mut [Child]) {
        let places: Vec<usize> = (0..children.len()).filter(|i| children[*i].group.is_some()).collect();
        let fixed = |c: &Child| c.group.is_some_and(|g| self.groups_fixed || self.lanes[g]);
        if places.len() < 2 || !places.iter().all(|i| fixed(&children[*i])) {
            return;
        }
        let mut wanted = places.clone();
        wanted.sort_by_key(|i| children[*i].group.map(|g| self.layers.group_place[g]));
        let empty = || Child { group: None, units: Vec::new(), key: None };
        let mut taken: Vec<Child> = wanted.iter().map(|i| std::mem::replace(&mut children[*i], empty())).collect();
        for place in places.into_iter().rev() {
            if let Some(child) = taken.pop() {
                children[place] = child;
            }
        }
    }

    /// The mean place of a unit's neighbours in the layer above or below.
    fn barycentre(&self, unit: usize, sweep: Sweep) -> Option<f64> {
        let (mut sum, mut weight) = (0.0, 0.0);
        for item in self.layers.units[unit].items() {
            let item = &self.layers.items[item];
            for link in if sweep == Sweep::Down { &item.up } else { &item.down } {
                let link = &self.layers.links[*link];
                let other = if sweep == Sweep::Down { link.upper } else { link.lower };
                sum += self.pos[other] as f64;
                weight += 1.0;
            }
        }
        (weight > 0.0).then(|| sum / weight)
    }

    fn sweep(&mut self, sweep: Sweep) {
        for layer in sweep.layers(self.layers.layers.len()) {
            let units = self.layers.layers[layer].clone();
            let mut keys = std::mem::take(&mut self.keys);
            units.iter().for_each(|u| keys[*u] = self.barycentre(*u, sweep));
            let arranged = self.arrange(units, 0, &|u| keys[u]);
            self.keys = keys;
            self.set_layer(layer, arranged);
        }
    }

    fn improve(&mut self) {
        let size = self.layers.items.len();
        let sweeps = match size {
            0..=FULL_EFFORT => 10,
            _ if size <= LARGE => 4,
            _ => 2,
        };
        let has_groups = self.layers.spans.len() > 1;
        if has_groups {
            // Groups find their order freely first, then keep the one they had on average.
            self.groups_fixed = false;
            for i in 0..4 {
                self.sweep(Sweep::numbered(i));
            }
            self.settle_groups();
            self.groups_fixed = true;
        }
        let mut best = (self.crossings(), self.snapshot());
        let mut idle = 0;
        for i in 0..sweeps {
            self.sweep(Sweep::numbered(i));
            if size <= SOME_EFFORT {
                self.settle();
                self.flip_turns();
            }
            let crossings = self.crossings();
            idle += 1;
            if crossings < best.0 {
                best = (crossings, self.snapshot());
                idle = 0;
            }
            if best.0 == 0 || idle > 3 {
                break;
            }
        }
        self.restore(best.1);
    }

    /// Sorts sibling groups by their mean relative places.
    fn settle_groups(&mut self) {
        let count = self.layers.group_place.len();
        let mut sum = vec![(0.0, 0.0); count];
        for (layer, extents) in self.extents.iter().enumerate() {
            let width = self.layers.layers[layer].len().max(1) as f64;
            for (g, (first, last)) in extents {
                sum[*g].0 += (first + last) as f64 / 2.0 / width;
                sum[*g].1 += 1.0;
            }
        }
        let mean = |g: usize| sum[g].0 / f64::max(sum[g].1, 1.0);
        let mut order: Vec<usize> = (0..count).collect();
        order.sort_by(|a, b| if self.lanes[*a] && self.lanes[*b] { a.cmp(b) } else { mean(*a).total_cmp(&mean(*b)) });
        for (place, g) in order.into_iter().enumerate() {
            self.layers.group_place[g] = place;
        }
        for _ in 0..self.group_before.len() {
            for (g, h) in &self.group_before {
                if self.layers.group_place[*g] > self.layers.group_place[*h] {
                    self.layers.group_place.swap(*g, *h);
                }
            }
        }
        // Lanes keep the order of the source whatever their mean places are.
        let lanes: Vec<usize> = (0..count).filter(|g| self.lanes[*g]).collect();
        let mut places: Vec<usize> = lanes.iter().map(|g| self.layers.group_place[*g]).collect();
        places.sort_unstable();
        for (g, place) in lanes.into_iter().zip(places) {
            self.layers.group_place[g] = place;
        }
        for layer in 0..self.layers.layers.len() {
            let units = self.layers.layers[layer].clone();
            self.groups_fixed = true;
            let arranged = self.arrange(units, 0, &|_| None);
            self.set_layer(layer, arranged);
        }
    }

    /// Tries other orders of groups: each pair of groups exchanged, kept if that crosses less.
    fn exchange_groups(&mut self) {
        let count = self.layers.group_place.len();
        let mut least = self.crossings();
        let until = self.steps + STEPS;
        for a in 0..count {
            for b in a + 1..count {
                let wished = self.group_before.iter().any(|(g, h)| [a, b].contains(g) || [a, b].contains(h));
                let siblings = self.parents[a] == self.parents[b] && !wished;
                if least == 0 || self.steps > until || !siblings || (self.lanes[a] || self.lanes[b]) {
                    continue;
                }
                let before = self.snapshot();
                self.layers.group_place.swap(a, b);
                for layer in 0..self.layers.layers.len() {
                    let units = self.layers.layers[layer].clone();
                    let arranged = self.arrange(units, 0, &|_| None);
                    self.set_layer(layer, arranged);
                }
                for i in 0..4 {
                    self.sweep(Sweep::numbered(i));
                    self.settle();
                }
                let crossings = self.crossings();
                if crossings < least {
                    least = crossings;
                } else {
                    self.restore(before);
                }
            }
        }
    }
}

/// Sorts those with a key into the places that those with a key hold; stable.
fn sort_keyed(children: &mut Vec<Child>) {
    let places: Vec<usize> = (0..children.len()).filter(|i| children[*i].key.is_some()).collect();
    if places.windows(2).all(|p| children[p[0]].key <= children[p[1]].key) {
        return;
    }
    let mut order = places.clone();
    order.sort_by(|a, b| {
        let key = |i: &usize| children[*i].key.unwrap_or(0.0);
        key(a).total_cmp(&key(b))
    });
    let mut old: Vec<Option<Child>> = std::mem::take(children).into_iter().map(Some).collect();
    let mut target: Vec<usize> = (0..old.len()).collect();
    for (place, from) in places.into_iter().zip(order) {
        target[place] = from;
    }
    children.extend(target.into_iter().filter_map(|from| old[from].take()));
}
