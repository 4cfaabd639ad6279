//! Places across as a system of variables and constraints. Input: ordered layers with their ports. Output: [`System`], which
//! `coordinates` solves.

use super::gaps::{LINE_GAP, NODE_GAP};
use super::layers::{ItemKind, Layers};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::precedence;
use crate::layout::simplex::{Constraint, solve};

/// Variables and constraints: items, then two sides of each group, then one for each link.
pub(super) struct System {
    items: usize,
    pub(super) count: usize,
    pub(super) list: Vec<Constraint>,
    /// How many of them hold wherever bars lie.
    pub(super) firm: usize,
    group_count: usize,
}

impl System {
    pub(super) fn left(&self, g: usize) -> usize {
        self.items + 2 * g
    }

    pub(super) fn right(&self, g: usize) -> usize {
        self.items + 2 * g + 1
    }

    pub(super) fn new(layers: &Layers, graph: &Graph) -> Self {
        let items = layers.items.len();
        let group_count = graph.groups.len();
        let mut system = Self { items, count: items + 2 * group_count, list: Vec::new(), firm: 0, group_count };
        for layer in 0..layers.layers.len() {
            let row = layers.row(layer);
            let mut before = None;
            for &item in &row {
                system.boundary(layers, graph, before, Some(item));
                before = Some(item);
            }
            system.boundary(layers, graph, before, None);
        }
        system.keep_order(layers, graph);
        for g in 0..group_count {
            system.push(system.left(g), system.right(g), 0.0, 2);
        }
        system.firm = system.list.len();
        system
    }

    /// Constraints about the order of what stands in different layers, as far as they are possible.
    fn keep_order(&mut self, layers: &Layers, graph: &Graph) {
        for (a, b) in precedence::pairs(graph) {
            let (tail, right) = match a {
                Anchor::Node(v) => (layers.node_item[v], layers.items[layers.node_item[v]].right),
                Anchor::Group(g) => (self.right(g), 0.0),
            };
            let (head, left) = match b {
                Anchor::Node(v) => (layers.node_item[v], layers.items[layers.node_item[v]].left),
                Anchor::Group(g) => (self.left(g), 0.0),
            };
            self.push(tail, head, right + NODE_GAP * graph.spacing + left, 0);
            if solve(self.count, &self.list, 0).is_none() {
                self.list.pop();
            }
        }
    }

    fn push(&mut self, tail: usize, head: usize, min: f64, weight: i64) {
        self.list.push(Constraint { tail, head, min: libm::ceil(min) as i64, weight });
    }

    /// The constraints between two neighbours of a layer, and the sides of groups between them.
    fn boundary(&mut self, layers: &Layers, graph: &Graph, before: Option<usize>, after: Option<usize>) {
        let groups = |item: Option<usize>| item.map_or(&[][..], |i| layers.groups_of(i));
        let (left, right) = (groups(before), groups(after));
        let common = left.iter().zip(right).take_while(|(a, b)| a == b).count();
        let is_body = |i: usize| matches!(layers.items[i].kind, ItemKind::Node(_) | ItemKind::Title(_));
        let spacing = graph.spacing;
        let loops = &layers.loops;
        let mut at = before.map(|b| (b, layers.items[b].right, before));
        for g in left[common..].iter().rev() {
            if let Some((variable, extent, item)) = at {
                let (inset, weight) = match item {
                    // The last lane in a lane ends with it.
                    None if self.is_side_of_lane(graph, variable) => (0.0, 1000),
                    Some(i) if !is_body(i) => (graph.groups[*g].inset * 0.75, 0),
                    _ => (graph.groups[*g].inset, 0),
                };
                self.push(variable, self.right(*g), extent + inset, weight);
            }
            at = Some((self.right(*g), loops.room(Anchor::Group(*g)).w, None));
        }
        for g in &right[common..] {
            if let Some((variable, extent, item)) = at {
                let lanes = graph.groups[*g].lane && item.is_none();
                let inside = right[..common].last() == Some(&(variable.wrapping_sub(self.items) / 2));
                let gap = match item {
                    _ if lanes => 0.0,
                    Some(i) if !is_body(i) => LINE_GAP * spacing,
                    _ if inside => graph.groups[*g].inset,
                    _ => NODE_GAP * 0.75 * spacing,
                };
                self.push(variable, self.left(*g), extent + gap, if lanes { 1000 } else { 0 });
            }
            let outer = self.left(*g);
            at = Some((outer, 0.0, None));
        }
        let (Some((variable, extent, item)), Some(next)) = (at, after) else { return };
        let is_title = matches!(layers.items[next].kind, ItemKind::Title(_));
        let gap = match item {
            Some(i) => layers.gap(i, next),
            None if right.len() > common => {
                self.left_inset(graph, right[right.len() - 1], if is_body(next) { 1.0 } else { 0.75 })
            }
            None if is_body(next) => NODE_GAP * 0.75 * spacing,
            None => LINE_GAP * spacing,
        };
        let same_unit = item.is_some_and(|i| layers.items[i].unit == layers.items[next].unit);
        let weight = if is_title {
            100
        } else if same_unit {
            3
        } else {
            0
        };
        self.push(variable, next, extent + gap + layers.items[next].left, weight);
    }

    /// Whether a variable is a side of a lane.
    fn is_side_of_lane(&self, graph: &Graph, variable: usize) -> bool {
        variable.checked_sub(self.items).is_some_and(|side| graph.groups[side / 2].lane)
    }

    /// The least gap between the left side of a group and what it holds, which takes this share of the inset.
    fn left_inset(&self, graph: &Graph, g: usize, share: f64) -> f64 {
        let group = &graph.groups[g];
        let title = if group.has_title_row(graph.direction) { 0.0 } else { group.title.w };
        group.inset * share + title
    }

    /// Everything as far to the left as its constraints allow.
    pub(super) fn packed(&self) -> Vec<f64> {
        let mut x = vec![0.0; self.count];
        self.restore(&mut x);
        x
    }

    /// Moves to the right whatever breaks a constraint, in topological order.
    pub(super) fn restore(&self, x: &mut [f64]) {
        let mut out: Vec<Vec<usize>> = vec![Vec::new(); self.count];
        let mut degree = vec![0usize; self.count];
        for (i, c) in self.list.iter().enumerate() {
            out[c.tail].push(i);
            degree[c.head] += 1;
        }
        // Left sides of groups start as far right as their members allow.
        for g in 0..self.group_count {
            for side in [self.left(g), self.right(g)] {
                x[side] = f64::NEG_INFINITY;
            }
        }
        let mut ready: Vec<usize> = (0..self.count).filter(|v| degree[*v] == 0).collect();
        while let Some(v) = ready.pop() {
            if x[v] == f64::NEG_INFINITY {
                x[v] = 0.0;
            }
            for &i in &out[v] {
                let c = self.list[i];
                x[c.head] = x[c.head].max(x[v] + c.min as f64);
                degree[c.head] -= 1;
                if degree[c.head] == 0 {
                    ready.push(c.head);
                }
            }
        }
    }
}
