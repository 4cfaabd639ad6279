//! Local improvement of an order: neighbours exchanged, units sifted, turns flipped. Each step is kept
//! only if there are fewer crossings after it.

use super::super::layers::ItemKind;
use super::{BORDER, Ordering};

/// A child of a group in a layer: how many units it has, and which group it is.
type Block = (usize, Option<usize>);

impl Ordering<'_> {
    /// Exchanges neighbours of one group as long as that crosses less.
    pub(super) fn exchange(&mut self) {
        for _ in 0..4 {
            let mut improved = false;
            for layer in 0..self.layers.layers.len() {
                let blocks = self.blocks(layer);
                // Children first: an exchange among them leaves the places of their parents as they are.
                for list in blocks.into_iter().rev() {
                    improved |= self.exchange_in(layer, list);
                }
            }
            if !improved {
                return;
            }
        }
    }

    /// For each group in a layer, its children: how many units each one holds.
    fn blocks(&self, layer: usize) -> Vec<(usize, Vec<Block>)> {
        let units = &self.layers.layers[layer];
        let mut out = Vec::new();
        let mut work = vec![(0, units.len(), 0)];
        while let Some((from, to, depth)) = work.pop() {
            let mut list = Vec::new();
            let mut at = from;
            while at < to {
                let group = self.layers.units[units[at]].groups.get(depth).copied();
                let end = match group {
                    None => at + 1,
                    Some(_) => (at..to)
                        .find(|i| self.layers.units[units[*i]].groups.get(depth).copied() != group)
                        .unwrap_or(to),
                };
                if group.is_some() {
                    work.push((at, end, depth + 1));
                }
                list.push((end - at, group));
                at = end;
            }
            if list.len() > 1 {
                out.push((from, list));
            }
        }
        out
    }

    fn exchange_in(&mut self, layer: usize, (from, mut list): (usize, Vec<Block>)) -> bool {
        let mut improved = false;
        let mut at = from;
        for i in 0..list.len().saturating_sub(1) {
            let (a, b) = (list[i], list[i + 1]);
            let units = &self.layers.layers[layer];
            // Groups keep their common order, titles their place in front.
            let movable = if a.1.is_some() { b.1.is_none() } else { !self.is_title(units[at]) };
            if movable && self.gain(layer, at, a, b) > 0 {
                self.layers.layers[layer][at..at + a.0 + b.0].rotate_left(a.0);
                self.refresh(layer);
                list.swap(i, i + 1);
                improved = true;
            }
            at += list[i].0;
        }
        improved
    }

    /// Moves each unit to the best place among its siblings (sifting: Matuszewski, Schönfeld, Molitor,
    /// "Using sifting for k-layer straightline crossing minimization", 1999).
    pub(super) fn sift(&mut self) {
        for layer in 0..self.layers.layers.len() {
            let units = self.layers.layers[layer].clone();
            for unit in units {
                self.sift_unit(layer, unit);
            }
        }
    }

    fn sift_unit(&mut self, layer: usize, unit: usize) {
        let depth = self.layers.units[unit].groups.len();
        let place = |o: &Self| o.layers.layers[layer].iter().position(|u| *u == unit);
        let (mut total, mut best, mut moves) = (0, 0, Vec::new());
        // To the left end, then to the right end; every step changes places with one sibling.
        for to_left in [true, false] {
            while let Some(at) = place(self) {
                let Some(sibling) = self.sibling(layer, at, depth, to_left) else { break };
                let (from, a, b) =
                    if to_left { (at - sibling.0, sibling, (1, None)) } else { (at, (1, None), sibling) };
                total += self.gain(layer, from, a, b);
                self.layers.layers[layer][from..from + a.0 + b.0].rotate_left(a.0);
                self.refresh(layer);
                moves.push((from, a.0, b.0));
                if total > best {
                    best = total;
                    moves.clear();
                }
            }
        }
        // Back to where it was best.
        for (from, a, b) in moves.into_iter().rev() {
            self.layers.layers[layer][from..from + a + b].rotate_left(b);
        }
        self.refresh(layer);
    }

    /// The sibling before or behind a unit in its group: how many units it has, and its group.
    fn sibling(&self, layer: usize, at: usize, depth: usize, before: bool) -> Option<Block> {
        let units = &self.layers.layers[layer];
        let groups = |i: usize| &self.layers.units[units[i]].groups;
        if self.is_title(units[at]) {
            return None;
        }
        let next = if before { at.checked_sub(1)? } else { at + 1 };
        if next >= units.len() || groups(next).len() < depth || groups(next)[..depth] != groups(at)[..depth] {
            return None;
        }
        match groups(next).get(depth).copied() {
            None => (!self.is_title(units[next])).then_some((1, None)),
            group => {
                let same =
                    |i: &usize| groups(*i).get(depth).copied() == group && groups(*i)[..depth] == groups(at)[..depth];
                let count = if before {
                    (0..at).rev().take_while(same).count()
                } else {
                    (next..units.len()).take_while(same).count()
                };
                Some((count, group))
            }
        }
    }

    /// How many crossings fewer there are if two neighbouring blocks change places.
    fn gain(&self, layer: usize, at: usize, a: Block, b: Block) -> i64 {
        let units = &self.layers.layers[layer];
        let (first, second) = (&units[at..at + a.0], &units[at + a.0..at + a.0 + b.0]);
        let mut gain = 0;
        for upwards in [true, false] {
            let left = self.far_ends(layer, first, a.1, upwards);
            let right = self.far_ends(layer, second, b.1, upwards);
            gain += inversions(&left, &right) - inversions(&right, &left);
        }
        gain
    }

    /// The doubled places, in a neighbouring layer, of what the units of a block are joined to.
    fn far_ends(&self, layer: usize, units: &[usize], group: Option<usize>, upwards: bool) -> Vec<(usize, i64)> {
        let mut ends = Vec::new();
        for item in units.iter().flat_map(|u| self.layers.units[*u].items()) {
            let item = &self.layers.items[item];
            for link in if upwards { &item.up } else { &item.down } {
                let link = &self.layers.links[*link];
                let other = if upwards { link.upper } else { link.lower };
                ends.push((2 * self.pos[other] + 2, 1));
            }
        }
        let near = if upwards { layer.checked_sub(1) } else { Some(layer + 1).filter(|l| *l < self.extents.len()) };
        if let (Some(g), Some(near)) = (group, near)
            && let Some((first, last)) = self.extents[near].get(&g)
        {
            ends.push((2 * first + 1, BORDER));
            ends.push((2 * last + 3, BORDER));
        }
        ends
    }

    /// Tries each turn on the other side of its node.
    pub(super) fn flip_turns(&mut self) {
        for u in 0..self.layers.units.len() {
            if self.layers.units[u].right_taken {
                continue;
            }
            let layer = self.layers.items[self.layers.units[u].core].layer;
            let turns: Vec<usize> =
                self.layers.units[u].items().filter(|i| self.layers.items[*i].kind == ItemKind::Turn).collect();
            for turn in turns {
                let before = self.around(layer);
                let sides = (self.layers.units[u].left.clone(), self.layers.units[u].right.clone());
                let unit = &mut self.layers.units[u];
                if let Some(i) = unit.left.iter().position(|t| *t == turn) {
                    unit.left.remove(i);
                    unit.right.insert(0, turn);
                } else {
                    unit.right.retain(|t| *t != turn);
                    unit.left.push(turn);
                }
                self.refresh(layer);
                if self.around(layer) >= before {
                    (self.layers.units[u].left, self.layers.units[u].right) = sides;
                    self.refresh(layer);
                }
            }
        }
    }

    fn around(&self, layer: usize) -> i64 {
        let above = if layer > 0 { self.crossings_between(layer - 1, layer) } else { 0 };
        let below = if layer + 1 < self.layers.layers.len() { self.crossings_between(layer, layer + 1) } else { 0 };
        above + below
    }
}

/// Pairs with the left end further right than the right one, by weight.
fn inversions(left: &[(usize, i64)], right: &[(usize, i64)]) -> i64 {
    left.iter().map(|(a, w)| right.iter().filter(|(b, _)| b < a).map(|(_, v)| v * w).sum::<i64>()).sum()
}
