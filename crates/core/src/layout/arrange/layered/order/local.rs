//! Local improvement of an order: units and groups sifted, neighbours exchanged in wide layers, turns flipped. Each step is kept
//! only if there are fewer crossings after it.

use super::super::layers::ItemKind;
use super::{BORDER, Ordering};

/// Up to this many children of a group, pairs are compared with each other.
// The matrix has the square of it in entries, and a pass looks at all.
const MATRIX: usize = 160;
/// How often a search for improvements is repeated.
const ROUNDS: usize = 8;
/// What may never change places.
const NEVER: i64 = 1 << 40;

/// A child of a group in a layer: how many units it has, and which group it is.
type Block = (usize, Option<usize>);

impl Ordering<'_> {
    /// Settles one layer after the other, down and up again, as long as that crosses less.
    pub(super) fn settle(&mut self) {
        let count = self.layers.layers.len();
        for _ in 0..ROUNDS {
            let mut improved = false;
            for layer in (0..count).chain((0..count.saturating_sub(1)).rev()) {
                improved |= self.settle_layer(layer);
            }
            if !improved {
                return;
            }
        }
    }

    /// Moves the children of every group of a layer, each to the place among its siblings where it crosses least.
    fn settle_layer(&mut self, layer: usize) -> bool {
        let around = [layer.wrapping_sub(1), layer, layer + 1];
        let states = around.map(|l| self.states.get(l).copied().unwrap_or(0));
        if self.settled[layer] == states {
            return false;
        }
        let mut improved = false;
        // Children first: a move among them leaves the places of their parents as they are.
        for (from, list) in self.blocks(layer).into_iter().rev() {
            improved |=
                if list.len() <= MATRIX { self.sift(layer, from, &list) } else { self.exchange(layer, (from, list)) };
        }
        if !improved {
            self.settled[layer] = states;
        }
        improved
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
            // Groups alone keep their common order.
            if list.len() > 1 && list.iter().any(|b| b.1.is_none()) {
                out.push((from, list));
            }
        }
        out
    }

    /// Exchanges neighbours where that crosses less.
    fn exchange(&mut self, layer: usize, (from, mut list): (usize, Vec<Block>)) -> bool {
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

    /// Moves blocks to the best places among their siblings until no move helps (sifting: Matuszewski, Schönfeld,
    /// Molitor, "Using sifting for k-layer straightline crossing minimization", 1999), on a matrix of what each pair
    /// crosses in either order.
    fn sift(&mut self, layer: usize, from: usize, list: &[Block]) -> bool {
        let count = list.len();
        let mut firsts = Vec::with_capacity(count);
        let mut at = from;
        for block in list {
            firsts.push(at);
            at += block.0;
        }
        // Titles stay in front, groups in their common order.
        let is_title = |i: usize| list[i].1.is_none() && self.is_title(self.layers.layers[layer][firsts[i]]);
        let titles: Vec<bool> = (0..count).map(is_title).collect();
        let is_fixed = |a: usize, b: usize| titles[a] || (list[a].1.is_some() && list[b].1.is_some());
        // By how much the left one of a pair would rather stand to the right.
        let mut constraint = vec![0i64; count * count];
        let (mut ends, mut starts) = (Vec::new(), Vec::with_capacity(count + 1));
        for upwards in [true, false] {
            ends.clear();
            starts.clear();
            starts.push(0);
            for (block, first) in list.iter().zip(&firsts) {
                let units = &self.layers.layers[layer][*first..first + block.0];
                let begin = ends.len();
                self.add_far_ends(layer, units, block.1, upwards, &mut ends);
                ends[begin..].sort_unstable();
                starts.push(ends.len());
            }
            let ends_of = |i: usize| &ends[starts[i]..starts[i + 1]];
            for a in 0..count {
                for b in a + 1..count {
                    if !is_fixed(a, b) {
                        let gain = inversions(ends_of(a), ends_of(b)) - inversions(ends_of(b), ends_of(a));
                        constraint[a * count + b] += gain;
                        constraint[b * count + a] -= gain;
                    }
                }
            }
            self.steps += count * count + ends.len() * count;
        }
        for a in 0..count {
            for b in a + 1..count {
                if is_fixed(a, b) {
                    (constraint[a * count + b], constraint[b * count + a]) = (-NEVER, NEVER);
                }
            }
        }
        self.forbid(layer, &firsts, list, &mut constraint);
        let mut order: Vec<usize> = (0..count).collect();
        let gained = insert_best(&mut order, &constraint);
        if gained > 0 {
            let units = self.layers.layers[layer][from..at].to_vec();
            let moved = order.iter().flat_map(|b| units[firsts[*b] - from..][..list[*b].0].iter().copied());
            self.layers.layers[layer].splice(from..at, moved);
            self.refresh(layer);
        }
        gained > 0
    }

    /// What constraints put in order never changes places.
    fn forbid(&self, layer: usize, firsts: &[usize], list: &[Block], constraint: &mut [i64]) {
        let count = list.len();
        let place = |unit: usize| firsts.iter().position(|f| self.layers.layers[layer][*f] == unit);
        for (a, b) in &self.unit_before {
            if let (Some(a), Some(b)) = (place(*a), place(*b))
                && list[a].1.is_none()
                && list[b].1.is_none()
            {
                let sign = if a < b { -NEVER } else { NEVER };
                (constraint[a * count + b], constraint[b * count + a]) = (sign, -sign);
            }
        }
    }

    /// How many crossings fewer there are if two neighbouring blocks change places.
    fn gain(&self, layer: usize, at: usize, a: Block, b: Block) -> i64 {
        let units = &self.layers.layers[layer];
        let (first, second) = (&units[at..at + a.0], &units[at + a.0..at + a.0 + b.0]);
        let mut gain = 0;
        for upwards in [true, false] {
            let (mut left, mut right) = (Vec::new(), Vec::new());
            self.add_far_ends(layer, first, a.1, upwards, &mut left);
            self.add_far_ends(layer, second, b.1, upwards, &mut right);
            left.sort_unstable();
            right.sort_unstable();
            gain += inversions(&left, &right) - inversions(&right, &left);
        }
        gain
    }

    /// Adds the doubled places, in a neighbouring layer, of what the units of a block are joined to.
    fn add_far_ends(
        &self, layer: usize, units: &[usize], group: Option<usize>, upwards: bool, ends: &mut Vec<(usize, i64)>,
    ) {
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
            && let Some((first, last)) = self.extent(near, g)
        {
            ends.push((2 * first + 1, BORDER));
            ends.push((2 * last + 3, BORDER));
        }
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
                let (before, state) = (self.crossings_around(layer), self.states[layer]);
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
                if self.crossings_around(layer) >= before {
                    (self.layers.units[u].left, self.layers.units[u].right) = sides;
                    self.refresh(layer);
                    self.states[layer] = state;
                }
            }
        }
    }

    fn crossings_around(&mut self, layer: usize) -> i64 {
        let above = if layer > 0 { self.crossings_above(layer) } else { 0 };
        let below = if layer + 1 < self.layers.layers.len() { self.crossings_above(layer + 1) } else { 0 };
        above + below
    }
}

/// Moves each one to where it gains most, until nothing gains; returns the whole gain. `constraint` says for a pair in order
/// how much is gained by the other order.
fn insert_best(order: &mut [usize], constraint: &[i64]) -> i64 {
    let count = order.len();
    let mut gained = 0;
    for _ in 0..ROUNDS {
        let before = gained;
        for one in 0..count {
            let Some(at) = order.iter().position(|o| *o == one) else { continue };
            let (mut best, mut to) = (0, at);
            let mut sum = 0;
            for i in (0..at).rev() {
                sum += constraint[order[i] * count + one];
                if sum > best {
                    (best, to) = (sum, i);
                }
            }
            sum = 0;
            for i in at + 1..count {
                sum += constraint[one * count + order[i]];
                if sum > best {
                    (best, to) = (sum, i);
                }
            }
            if to < at {
                order[to..=at].rotate_right(1);
            } else {
                order[at..=to].rotate_left(1);
            }
            gained += best;
        }
        if gained == before {
            break;
        }
    }
    gained
}

/// Pairs with the left end further right than the right one, by weight; both lists are sorted.
fn inversions(left: &[(usize, i64)], right: &[(usize, i64)]) -> i64 {
    let (mut sum, mut below, mut at) = (0, 0, 0);
    for (place, weight) in left {
        while at < right.len() && right[at].0 < *place {
            below += right[at].1;
            at += 1;
        }
        sum += below * weight;
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn inversions_are_those_of_all_pairs() {
        let left = [(1, 1), (4, 2), (4, 1), (9, 1)];
        let right = [(0, 1), (4, 5), (7, 1)];
        let pairs = left.iter().flat_map(|a| right.iter().filter(|b| b.0 < a.0).map(|b| a.1 * b.1)).sum::<i64>();
        assert_eq!(inversions(&left, &right), pairs);
    }

    #[test]
    fn an_order_takes_what_it_can_gain() {
        // 2 would rather stand first, 0 last.
        let constraint = [0, 3, 3, -3, 0, 3, -3, -3, 0];
        let mut order = vec![0, 1, 2];
        assert_eq!(insert_best(&mut order, &constraint), 9);
        assert_eq!(order, [2, 1, 0]);
    }
}
