//! Network simplex. Input: a directed acyclic graph of constraints `head - tail >= min`, each with a
//! weight. Output: integer positions that keep all constraints and minimise the weighted sum of
//! `head - tail`. Gansner, Koutsofios, North, Vo, "A technique for drawing directed graphs" (1993),
//! sections 2.3 and 4.2: rank is our position, slack and cut value are theirs.
//!
//! Guarantees: always feasible; optimal unless the step budget ends first; deterministic. A solution
//! costs O(constraints) a step, with as many steps as the budget allows.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// One constraint.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Constraint {
    pub(crate) tail: usize,
    pub(crate) head: usize,
    pub(crate) min: i64,
    pub(crate) weight: i64,
}

const NONE: usize = usize::MAX;

/// Positions of `count` variables under constraints; `None` if the constraints form a circle.
pub(crate) fn solve(count: usize, constraints: &[Constraint], budget: usize) -> Option<Vec<i64>> {
    if count == 0 {
        return Some(Vec::new());
    }
    // A root below everything keeps the graph connected.
    let root = count;
    let mut edges: Vec<Constraint> = constraints.iter().copied().filter(|c| c.tail != c.head).collect();
    let mut has_tail = vec![false; count];
    for c in &edges {
        has_tail[c.head] = true;
    }
    edges.extend((0..count).filter(|v| !has_tail[*v]).map(|v| Constraint { tail: root, head: v, min: 0, weight: 0 }));
    let mut network = Network::new(count + 1, edges)?;
    network.optimise(budget);
    let low = (0..count).map(|v| network.at[v]).min().unwrap_or(0);
    Some((0..count).map(|v| network.at[v] - low).collect())
}

/// Whether constraints form no circle, so that there are positions for them.
pub(crate) fn is_possible(count: usize, constraints: &[Constraint]) -> bool {
    Network::new(count, constraints.to_vec()).is_some()
}

/// Positions of `count` variables that begin at 0, where all constraints hold: every `min` is at most 0. Circles are
/// allowed. Variables without any constraint stay at 0.
pub(crate) fn improve(count: usize, constraints: &[Constraint], budget: usize) -> Vec<i64> {
    let mut used = vec![false; count];
    constraints.iter().for_each(|c| (used[c.tail], used[c.head]) = (true, true));
    // Those without a constraint hang on the last one, so that the tree spans all.
    let root = count;
    let mut edges = constraints.to_vec();
    edges.extend((0..count).filter(|v| !used[*v]).map(|head| Constraint { tail: root, head, min: 0, weight: 0 }));
    edges.extend(constraints.first().map(|c| Constraint { tail: root, head: c.tail, min: 0, weight: 0 }));
    let mut network = Network::at_zero(count + 1, edges);
    network.optimise(budget);
    let base = network.at[root];
    (0..count).map(|v| network.at[v] - base).collect()
}

struct Network {
    edges: Vec<Constraint>,
    /// Constraints at each variable.
    incident: Vec<Vec<usize>>,
    at: Vec<i64>,
    in_tree: Vec<bool>,
    cut: Vec<i64>,
    tree: Vec<Vec<usize>>,
    parent_edge: Vec<usize>,
    /// How far below the root each variable hangs.
    depth: Vec<usize>,
    /// What lies below the leaving constraint, and the marks by which that is known.
    below: Vec<usize>,
    marks: Vec<usize>,
    mark: usize,
    search_from: usize,
}

impl Network {
    fn at_zero(count: usize, edges: Vec<Constraint>) -> Self {
        let mut incident = vec![Vec::new(); count];
        for (i, e) in edges.iter().enumerate() {
            incident[e.tail].push(i);
            incident[e.head].push(i);
        }
        let m = edges.len();
        Self {
            edges,
            incident,
            at: vec![0; count],
            in_tree: vec![false; m],
            cut: vec![0; m],
            tree: vec![Vec::new(); count],
            parent_edge: vec![NONE; count],
            depth: vec![0; count],
            below: Vec::new(),
            marks: vec![0; count],
            mark: 0,
            search_from: 0,
        }
    }

    fn optimise(&mut self, budget: usize) {
        self.feasible_tree();
        let order = self.hang_tree();
        self.cut_values(&order);
        for _ in 0..budget {
            let Some(leaving) = self.leaving() else { break };
            let entering = self.entering(leaving);
            self.exchange(leaving, entering);
        }
    }

    /// With the least positions that the constraints allow; `None` if they form a circle.
    fn new(count: usize, edges: Vec<Constraint>) -> Option<Self> {
        let mut network = Self::at_zero(count, edges);
        let Self { edges, incident, at, .. } = &mut network;
        let mut degree = vec![0usize; count];
        edges.iter().for_each(|e| degree[e.head] += 1);
        let mut ready: Vec<usize> = (0..count).filter(|v| degree[*v] == 0).collect();
        let mut seen = 0;
        while let Some(v) = ready.pop() {
            seen += 1;
            for &i in &incident[v] {
                let e = edges[i];
                if e.tail == v {
                    at[e.head] = at[e.head].max(at[v] + e.min);
                    degree[e.head] -= 1;
                    if degree[e.head] == 0 {
                        ready.push(e.head);
                    }
                }
            }
        }
        (seen == count).then_some(network)
    }

    fn slack(&self, e: usize) -> i64 {
        let c = self.edges[e];
        self.at[c.head] - self.at[c.tail] - c.min
    }

    /// Grows a tight tree from the first variable: always by the constraint of least slack at its border, which the
    /// whole tree moves to close (section 2.3 of the paper). The tree's common move is kept apart, so that one heap for
    /// each direction of the border gives the next constraint.
    fn feasible_tree(&mut self) {
        let count = self.at.len();
        let mut inside = vec![false; count];
        let mut moved = 0;
        // Slack as it was when the tree had moved by 0: of constraints out of the tree, and into it.
        let mut border = [BinaryHeap::new(), BinaryHeap::new()];
        let mut next = Some((0, None));
        while let Some((v, by)) = next {
            inside[v] = true;
            // Outside the move is not applied; inside it is what comes from now on.
            self.at[v] -= moved;
            if let Some(e) = by {
                let other = self.other(e, v);
                self.in_tree[e] = true;
                self.tree[v].push(e);
                self.tree[other].push(e);
            }
            for &e in &self.incident[v] {
                let c = self.edges[e];
                let leads_out = c.tail == v;
                let other = if leads_out { c.head } else { c.tail };
                if !inside[other] {
                    // The slack while the tree's move is 0.
                    let slack =
                        if leads_out { self.at[other] - self.at[v] } else { self.at[v] - self.at[other] } - c.min;
                    border[usize::from(!leads_out)].push(Reverse((slack, e)));
                }
            }
            next = None;
            loop {
                let [out, into] = &border;
                let first = out.peek().map(|r| (r.0.0 - moved, r.0.1, 0));
                let second = into.peek().map(|r| (r.0.0 + moved, r.0.1, 1));
                let least = match (first, second) {
                    (Some(a), Some(b)) => Some(if (a.0, a.1) <= (b.0, b.1) { a } else { b }),
                    (a, b) => a.or(b),
                };
                let Some((slack, e, side)) = least else { break };
                border[side].pop();
                let c = self.edges[e];
                if inside[c.tail] == inside[c.head] {
                    continue;
                }
                moved += if side == 0 { slack } else { -slack };
                next = Some((if side == 0 { c.head } else { c.tail }, Some(e)));
                break;
            }
        }
        for (at, is_inside) in self.at.iter_mut().zip(&inside) {
            *at += if *is_inside { moved } else { 0 };
        }
    }

    fn other(&self, e: usize, v: usize) -> usize {
        if self.edges[e].tail == v { self.edges[e].head } else { self.edges[e].tail }
    }

    /// Hangs the tree from its root, and gives all variables with each after the one above it.
    fn hang_tree(&mut self) -> Vec<usize> {
        let root = self.at.len() - 1;
        self.parent_edge[root] = NONE;
        self.depth[root] = 0;
        let mut order = vec![root];
        self.hang_from(&mut order);
        order
    }

    /// Hangs everything below the variables of a list, and adds it to that list.
    fn hang_from(&mut self, order: &mut Vec<usize>) {
        let mut next = 0;
        while let Some(&v) = order.get(next) {
            next += 1;
            for &e in &self.tree[v] {
                if e != self.parent_edge[v] {
                    let child = self.other(e, v);
                    self.parent_edge[child] = e;
                    self.depth[child] = self.depth[v] + 1;
                    order.push(child);
                }
            }
        }
    }

    /// Collects the variables below one and itself, and marks them.
    fn collect_below(&mut self, top: usize) {
        self.mark += 1;
        self.below.clear();
        self.below.push(top);
        let mut next = 0;
        while let Some(&v) = self.below.get(next) {
            next += 1;
            self.marks[v] = self.mark;
            for &e in &self.tree[v] {
                if e != self.parent_edge[v] {
                    let c = self.edges[e];
                    self.below.push(if c.tail == v { c.head } else { c.tail });
                }
            }
        }
    }

    fn is_below(&self, v: usize) -> bool {
        self.marks[v] == self.mark
    }

    /// The end of a tree constraint that is further from the root.
    fn child_end(&self, e: usize) -> usize {
        let c = self.edges[e];
        if self.parent_edge[c.tail] == e { c.tail } else { c.head }
    }

    /// The cut values of the whole tree; `order` has each variable after the one above it.
    fn cut_values(&mut self, order: &[usize]) {
        for &v in order.iter().rev() {
            let e = self.parent_edge[v];
            if e != NONE {
                self.cut[e] = self.cut_value(e, v);
            }
        }
    }

    /// The cut value of the tree constraint above `v`, from those below it.
    fn cut_value(&self, e: usize, v: usize) -> i64 {
        let towards_head = self.edges[e].head == v;
        let mut sum = self.edges[e].weight;
        for &i in &self.incident[v] {
            if i == e {
                continue;
            }
            let c = self.edges[i];
            // Same direction across the cut as `e` counts up, the other direction down.
            let sign = if (c.head == v) == towards_head { 1 } else { -1 };
            if self.in_tree[i] && self.parent_edge[v] != i {
                sum += sign * (c.weight - self.cut[i]);
            } else {
                sum += sign * c.weight;
            }
        }
        sum
    }

    /// A tree constraint with a negative cut value, looked for from where the last one was found.
    fn leaving(&mut self) -> Option<usize> {
        let m = self.edges.len();
        let mut best = None;
        let mut looked = 0;
        for k in 0..m {
            let e = (self.search_from + k) % m;
            if self.in_tree[e] && self.cut[e] < 0 {
                if best.is_none_or(|b: usize| self.cut[e] < self.cut[b]) {
                    best = Some(e);
                }
                looked += 1;
                if looked > 30 {
                    self.search_from = (e + 1) % m;
                    return best;
                }
            }
        }
        self.search_from = 0;
        best
    }

    /// The constraint of least slack that crosses the cut the other way; marks what lies below the cut.
    fn entering(&mut self, leaving: usize) -> usize {
        let top = self.child_end(leaving);
        let top_is_head = self.edges[leaving].head == top;
        self.collect_below(top);
        let (mut best, mut least) = (leaving, i64::MAX);
        for &v in &self.below {
            for &e in &self.incident[v] {
                let c = self.edges[e];
                // If the leaving one points into the subtree, the entering one points out of it.
                let outward = c.tail == v;
                if outward == top_is_head && !self.in_tree[e] && !self.is_below(self.other(e, v)) {
                    let slack = self.slack(e);
                    if slack < least || (slack == least && e < best) {
                        (best, least) = (e, slack);
                    }
                }
            }
        }
        best
    }

    /// Exchanges two constraints, after [`Network::entering`] has marked what lies below the first.
    fn exchange(&mut self, leaving: usize, entering: usize) {
        let c = self.edges[entering];
        let slack = self.slack(entering);
        if slack != 0 {
            // The subtree moves until the entering constraint is tight.
            let by = if self.is_below(c.tail) { slack } else { -slack };
            for i in 0..self.below.len() {
                let v = self.below[i];
                self.at[v] += by;
            }
        }
        let cut = self.cut[leaving];
        self.add_between(c.tail, c.head, cut);
        self.cut[entering] = -cut;
        self.cut[leaving] = 0;
        self.in_tree[leaving] = false;
        self.in_tree[entering] = true;
        let out = self.edges[leaving];
        self.tree[out.tail].retain(|e| *e != leaving);
        self.tree[out.head].retain(|e| *e != leaving);
        self.tree[c.tail].push(entering);
        self.tree[c.head].push(entering);
        // The subtree hangs on the entering constraint now.
        let (inner, outer) = if self.is_below(c.tail) { (c.tail, c.head) } else { (c.head, c.tail) };
        self.parent_edge[inner] = entering;
        self.depth[inner] = self.depth[outer] + 1;
        let mut below = std::mem::take(&mut self.below);
        below.clear();
        below.push(inner);
        self.hang_from(&mut below);
        self.below = below;
    }

    /// Changes the cut values on the path through the tree between the ends of an entering constraint.
    fn add_between(&mut self, mut tail: usize, mut head: usize, cut: i64) {
        while tail != head {
            let from_tail = self.depth[tail] >= self.depth[head];
            let v = if from_tail { tail } else { head };
            let e = self.parent_edge[v];
            let along = (self.edges[e].tail == v) == from_tail;
            self.cut[e] += if along { cut } else { -cut };
            let above = self.other(e, v);
            if from_tail { tail = above } else { head = above }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn cost(at: &[i64], constraints: &[Constraint]) -> i64 {
        constraints.iter().map(|c| c.weight * (at[c.head] - at[c.tail])).sum()
    }

    fn c(tail: usize, head: usize, min: i64, weight: i64) -> Constraint {
        Constraint { tail, head, min, weight }
    }

    #[test]
    fn a_heavy_constraint_stays_short() {
        // 0 -> 1 -> 2 -> 3, and 4 hangs on 3 by a heavy one and on 0 by a light one.
        let list = [c(0, 1, 1, 1), c(1, 2, 1, 1), c(2, 3, 1, 1), c(0, 4, 1, 1), c(4, 3, 1, 5)];
        let at = solve(5, &list, 100).expect("no circle");
        assert_eq!(at, [0, 1, 2, 3, 2]);
    }

    #[test]
    fn circles_are_refused() {
        assert_eq!(solve(2, &[c(0, 1, 1, 1), c(1, 0, 1, 1)], 10), None);
    }

    #[test]
    fn matches_exhaustive_search_on_small_graphs() {
        let mut seed = 7u64;
        let mut random = |n: u64| {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (seed >> 33) % n
        };
        for _ in 0..200 {
            let n = 5;
            let mut list = Vec::new();
            for a in 0..n {
                for b in a + 1..n {
                    if random(2) == 0 {
                        list.push(c(a, b, 1 + random(2) as i64, 1 + random(4) as i64));
                    }
                }
            }
            let at = solve(n, &list, 1000).expect("acyclic");
            assert!(list.iter().all(|c| at[c.head] - at[c.tail] >= c.min));
            let best = exhaustive(n, &list);
            assert_eq!(cost(&at, &list), best, "{list:?} {at:?}");
        }
    }

    fn exhaustive(n: usize, list: &[Constraint]) -> i64 {
        let range = 9i64;
        (0..range.pow(n as u32))
            .map(|code| (0..n as u32).map(|i| code / range.pow(i) % range).collect::<Vec<_>>())
            .filter(|at| list.iter().all(|c| at[c.head] - at[c.tail] >= c.min))
            .map(|at| cost(&at, list))
            .min()
            .expect("feasible")
    }
}
