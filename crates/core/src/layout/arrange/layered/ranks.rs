//! A layer for every node: network simplex (Gansner and others, 1993) over weighted minimum lengths,
//! with the borders of groups as nodes of their own (the nesting graph of Sander, "Layout of compound
//! directed graphs", 1996), so that a group occupies contiguous layers.

use super::gaps::NODE_GAP;
use super::options::{LayeredOptions, REPAIRED_EDGES};
use crate::layout::graph::{Anchor, BackEdges, Border, Edge, Face, Graph, PlacementConstraint, Placing};
use crate::layout::precedence;
use crate::layout::sets::Sets;
use crate::layout::simplex::{Constraint, is_possible, solve};
use std::collections::BTreeMap;

/// Layers of nodes and groups.
#[derive(PartialEq, Eq)]
pub(super) struct Ranks {
    /// The layer of each node.
    pub(super) node: Vec<usize>,
    /// The first and the last layer of each group; the first one holds its title.
    pub(super) group: Vec<(usize, usize)>,
    /// How many layers there are.
    pub(super) count: usize,
}

impl Ranks {
    /// The layer of a node, the first one of a group.
    pub(super) fn layer(&self, anchor: Anchor) -> usize {
        match anchor {
            Anchor::Node(v) => self.node[v],
            Anchor::Group(g) => self.group[g].0,
        }
    }
}

/// Up to this many constraints the simplex runs to its optimum.
// Pivots grow faster than constraints; above it a feasible tree without the optimum is taken.
const FULL_EFFORT: usize = 6_000;

/// The constraints on layers: of edges and groups, and those added to keep lines out of groups.
#[derive(Clone)]
pub(super) struct Ranking<'a> {
    graph: &'a Graph,
    reversed: &'a [bool],
    options: LayeredOptions,
    list: Vec<Constraint>,
    /// Variables that are one: those of a row.
    level: Sets,
    /// Variables: nodes, then top and bottom of each group, then top and bottom of all lanes with as many around them.
    count: usize,
}

impl<'a> Ranking<'a> {
    /// The constraints of what a graph holds.
    fn bare(graph: &'a Graph, reversed: &'a [bool], options: LayeredOptions) -> Self {
        let lanes = (0..graph.groups.len()).filter(|g| graph.groups[*g].lane).map(|g| graph.lanes_around(g) + 1).max();
        let count = graph.nodes.len() + 2 * graph.groups.len() + 2 * lanes.unwrap_or(0);
        let mut ranking = Self { graph, reversed, options, list: Vec::new(), level: Sets::new(count), count };
        ranking.edges();
        ranking.groups();
        ranking.texts_at_ends();
        ranking.list.extend(rows_of_loners(graph));
        ranking
    }

    /// All constraints of a graph, those of placement included.
    pub(super) fn new(graph: &'a Graph, reversed: &'a [bool], options: LayeredOptions) -> Self {
        let mut ranking = Self::bare(graph, reversed, options);
        if !ranking.is_possible() {
            ranking.without_circles();
        }
        ranking.borders();
        ranking.regions();
        ranking.families();
        // Rows come before places, whatever their order in the text.
        let (rows, others): (Vec<&PlacementConstraint>, Vec<&PlacementConstraint>) =
            graph.constraints.iter().partition(|w| matches!(w, PlacementConstraint::Row(_)));
        rows.into_iter().chain(others).for_each(|constraint| ranking.constraint(constraint));
        if let Some(rows) = options.rows {
            ranking.stack(rows);
        }
        if options.level {
            ranking.level_lanes();
        }
        ranking
    }

    /// Puts the outermost groups into rows of about as many nodes each, in the order in which their lines have them.
    fn stack(&mut self, rows: usize) {
        let graph = self.graph;
        let spans = self.solve().group;
        let mut outermost: Vec<usize> =
            (0..graph.groups.len()).filter(|g| graph.groups[*g].parent.is_none() && !graph.groups[*g].lane).collect();
        outermost.sort_by_key(|g| (spans[*g].0 + spans[*g].1, *g));
        let mut held = vec![0; graph.groups.len()];
        for v in 0..graph.nodes.len() {
            graph.groups_around(Anchor::Node(v)).for_each(|g| held[g] += 1);
        }
        let all: usize = outermost.iter().map(|g| held[*g]).sum();
        let mut before = 0;
        let mut row = Vec::new();
        for g in &outermost {
            // By where the middle of what it holds lies in all.
            row.push(((2 * before + held[*g]) * rows / (2 * all).max(1)).min(rows - 1));
            before += held[*g];
        }
        for (i, upper) in outermost.iter().enumerate() {
            for (j, lower) in outermost.iter().enumerate().filter(|(j, _)| row[*j] == row[i] + 1) {
                debug_assert!(i < j);
                self.list.push(Constraint { tail: self.bottom(*upper), head: self.top(*lower), min: 1, weight: 0 });
                if !self.is_possible() {
                    self.list.pop();
                }
            }
        }
    }

    /// Keeps a constraint about layers, if those before it allow it.
    fn constraint(&mut self, constraint: &PlacementConstraint) {
        let (list, level) = (self.list.clone(), self.level.clone());
        match constraint {
            PlacementConstraint::Row(all) => all.windows(2).for_each(|pair| self.make_level(pair[0], pair[1])),
            PlacementConstraint::Place(a, placing, b) => match placing.turned(self.graph.direction) {
                Placing::Left | Placing::Right => self.make_level(*a, *b),
                vertical => {
                    let (upper, lower) = if vertical == Placing::Above { (*a, *b) } else { (*b, *a) };
                    let (tail, head) = (self.last(upper), self.first(lower));
                    self.list.push(Constraint { tail, head, min: 1, weight: 4 });
                }
            },
            PlacementConstraint::Order(_) | PlacementConstraint::Pin(..) | PlacementConstraint::Heading(..) => return,
        }
        if !self.is_possible() {
            (self.list, self.level) = (list, level);
        }
    }

    fn make_level(&mut self, a: Anchor, b: Anchor) {
        self.level.join(self.first(a), self.first(b));
    }

    /// The variable of the first layer of a node or a group.
    fn first(&self, anchor: Anchor) -> usize {
        match anchor {
            Anchor::Node(v) => self.own(v),
            Anchor::Group(g) => self.top(g),
        }
    }

    /// The variable of its last layer.
    fn last(&self, anchor: Anchor) -> usize {
        match anchor {
            Anchor::Node(v) => self.own(v),
            Anchor::Group(g) => self.bottom(g),
        }
    }

    /// The constraints between variables that are not one. An edge within a row holds nothing apart.
    fn aliased(&self) -> Vec<Constraint> {
        let ends = |c: &Constraint| Constraint { tail: self.level.first(c.tail), head: self.level.first(c.head), ..*c };
        let edges = self.graph.edges.len();
        let kept = self.list.iter().map(ends).enumerate();
        // Anything else that a row would squeeze to nothing is a circle, which `solve` reports by a constraint on itself.
        kept.filter(|(i, c)| c.tail != c.head || (*i >= edges && c.min > 0)).map(|(_, c)| c).collect()
    }

    fn top(&self, g: usize) -> usize {
        let n = self.graph.nodes.len();
        if !self.graph.groups[g].lane {
            return n + 2 * g;
        }
        n + 2 * self.graph.groups.len() + 2 * self.graph.lanes_around(g)
    }

    fn bottom(&self, g: usize) -> usize {
        self.top(g) + 1
    }

    /// What stands beside a node shares its layer.
    fn own(&self, v: usize) -> usize {
        self.graph.nodes[v].beside.unwrap_or(v)
    }

    /// The ends of an edge in reading direction.
    fn ends(&self, e: usize) -> (Anchor, Anchor) {
        let edge = &self.graph.edges[e];
        if self.reversed[e] { (edge.to, edge.from) } else { (edge.from, edge.to) }
    }

    fn edges(&mut self) {
        for (e, edge) in self.graph.edges.iter().enumerate() {
            let constraint = self.between(self.ends(e), edge);
            self.list.push(constraint);
        }
    }

    /// What keeps the ends of an edge apart, if it leads from the first to the second.
    fn between(&self, (upper, lower): (Anchor, Anchor), edge: &Edge) -> Constraint {
        let (tail, head) = (self.last(upper), if upper == lower { self.last(upper) } else { self.first(lower) });
        let room = usize::from(edge.label.is_some()) + edge.end_labels.iter().flatten().count();
        Constraint { tail, head, min: 1 + room as i64 + self.titles_between(upper, lower), weight: edge.weight }
    }

    /// For every edge, whether it is reversed: as given where that is possible. Else the circles that edges of groups
    /// close with edges of what lies in them are broken too, in source order.
    pub(super) fn directions(graph: &Graph, reversed: Vec<bool>) -> Vec<bool> {
        if graph.edges.iter().all(Edge::is_between_nodes) || graph.edges.len() > REPAIRED_EDGES {
            return reversed;
        }
        let mut out = reversed.clone();
        let ranking = Ranking::bare(graph, &reversed, LayeredOptions::default());
        if ranking.is_possible() {
            return reversed;
        }
        let mut list = ranking.list[graph.edges.len()..].to_vec();
        for (e, edge) in graph.edges.iter().enumerate() {
            let (upper, lower) = ranking.ends(e);
            for (is_turned, ends) in [(false, (upper, lower)), (true, (lower, upper))] {
                let constraint = ranking.between(ends, edge);
                list.push(constraint);
                if constraint.tail != constraint.head && is_possible(ranking.count, &list) {
                    out[e] = reversed[e] != is_turned;
                    break;
                }
                list.pop();
            }
        }
        out
    }

    /// The titles that a line of a flow passes: what comes before a group stands before its title.
    fn titles_between(&self, upper: Anchor, lower: Anchor) -> i64 {
        let graph = self.graph;
        if graph.back_edges != BackEdges::Flanks {
            return 0;
        }
        let entered = only_around(graph, lower, upper).map(|g| title_rows(graph, g).0);
        entered.chain(only_around(graph, upper, lower).map(|g| title_rows(graph, g).1)).sum()
    }

    fn groups(&mut self) {
        let graph = self.graph;
        for (v, node) in graph.nodes.iter().enumerate() {
            if let Some(g) = node.group
                && node.beside.is_none()
                && node.border.is_none()
            {
                let (tail, head) = (self.top(g), self.bottom(g));
                let (before, after) = title_rows(graph, g);
                self.list.push(Constraint { tail, head: v, min: before, weight: 0 });
                self.list.push(Constraint { tail: v, head, min: after, weight: 0 });
            }
        }
        for (g, group) in graph.groups.iter().enumerate() {
            let (tail, head) = (self.top(g), self.bottom(g));
            self.list.push(Constraint { tail, head, min: 0, weight: self.options.group_weight });
            if let Some(parent) = group.parent {
                let (top, bottom) = (self.top(parent), self.bottom(parent));
                let (before, after) = title_rows(graph, parent);
                self.list.push(Constraint { tail: top, head: tail, min: before, weight: 0 });
                self.list.push(Constraint { tail: head, head: bottom, min: after, weight: 0 });
                // Lanes in lanes end, or begin, where those around them do.
                if graph.outer_lane(g).is_some() {
                    let (own, outer) = if before > 0 { (head, bottom) } else { (tail, top) };
                    self.level.join(own, outer);
                }
            }
        }
    }

    /// What lies on the frame of a group shares its first or its last layer; if that cannot be, it lies in the group.
    fn borders(&mut self) {
        for (v, node) in self.graph.nodes.iter().enumerate() {
            let (Some(border), Some(g)) = (node.border, node.group) else { continue };
            let before = self.level.clone();
            self.level.join(if border == Border::Begins { self.top(g) } else { self.bottom(g) }, v);
            if !self.is_possible() {
                self.level = before;
                let (first, last) = title_rows(self.graph, g);
                self.list.push(Constraint { tail: self.top(g), head: v, min: first, weight: 0 });
                self.list.push(Constraint { tail: v, head: self.bottom(g), min: last, weight: 0 });
            }
        }
    }

    /// Regions begin and end together, as far as that is possible.
    fn regions(&mut self) {
        for (g, h) in self.graph.neighbouring_regions() {
            let before = self.level.clone();
            self.level.join(self.top(g), self.top(h));
            self.level.join(self.bottom(g), self.bottom(h));
            if !self.is_possible() {
                self.level = before;
            }
        }
    }

    /// What shares a trunk is level, as far as that is possible: siblings in a family, whatever else joins them.
    fn families(&mut self) {
        if self.list.len() > FULL_EFFORT {
            return;
        }
        let mut first: BTreeMap<usize, Anchor> = BTreeMap::new();
        for edge in &self.graph.edges {
            let Some(trunk) = edge.trunk else { continue };
            let sibling = *first.entry(trunk).or_insert(edge.to);
            let before = self.level.clone();
            self.make_level(sibling, edge.to);
            if sibling != edge.to && !self.is_possible() {
                self.level = before;
            }
        }
    }

    /// A text at an end lies with its node, inside the groups that the line enters or leaves.
    fn texts_at_ends(&mut self) {
        let graph = self.graph;
        for (e, edge) in graph.edges.iter().enumerate() {
            let (upper, lower) = self.ends(e);
            let (first, last) = if self.reversed[e] { (1, 0) } else { (0, 1) };
            for (end, own, other) in [(first, upper, lower), (last, lower, upper)] {
                let Anchor::Node(v) = own else { continue };
                if edge.end_labels[end].is_none() || upper == lower {
                    continue;
                }
                for g in graph.groups_around(own).take_while(|g| !graph.groups_around(other).any(|o| o == *g)) {
                    let (before, after) = title_rows(graph, g);
                    let (tail, head, rows) = match own == upper {
                        true => (self.own(v), self.bottom(g), after),
                        false => (self.top(g), self.own(v), before),
                    };
                    self.list.push(Constraint { tail, head, min: rows + 1, weight: 0 });
                }
            }
        }
    }

    fn is_possible(&self) -> bool {
        let list = self.aliased();
        list.iter().all(|c| c.tail != c.head) && is_possible(self.count, &list)
    }

    /// Edges of groups can close a circle that turning them does not break: those hold nothing apart.
    fn without_circles(&mut self) {
        let edges = &self.graph.edges;
        let of_groups: Vec<usize> = (0..edges.len()).filter(|e| !edges[*e].is_between_nodes()).collect();
        let before: Vec<Constraint> = of_groups.iter().map(|e| self.list[*e]).collect();
        let nothing = |c: &Constraint| Constraint { head: c.tail, min: 0, ..*c };
        of_groups.iter().for_each(|e| self.list[*e] = nothing(&self.list[*e]));
        if edges.len() > REPAIRED_EDGES {
            return;
        }
        for (e, constraint) in of_groups.into_iter().zip(before) {
            self.list[e] = constraint;
            if !self.is_possible() {
                self.list[e] = nothing(&constraint);
            }
        }
    }

    /// Adds the constraint that lets an edge pass a group that it ran through: its lower end below the
    /// group, or its upper end above it, with the groups of these ends if that is possible. Says
    /// whether one was found.
    pub(super) fn keep_apart(&mut self, e: usize, g: usize) -> bool {
        let (upper, lower) = self.ends(e);
        let (above, below) = (self.zone(upper, g), self.zone(lower, g));
        let mut tries: Vec<(usize, usize)> = Vec::new();
        if let Some(zone) = below {
            tries.push((self.bottom(g), self.top(zone)));
        }
        if let Some(zone) = above {
            tries.push((self.bottom(zone), self.top(g)));
        }
        if let Anchor::Node(v) = lower {
            tries.push((self.bottom(g), self.own(v)));
        }
        if let Anchor::Node(v) = upper {
            tries.push((self.own(v), self.top(g)));
        }
        for (tail, head) in tries {
            let is_new = !self.list.iter().any(|c| (c.tail, c.head, c.min) == (tail, head, 1));
            self.list.push(Constraint { tail, head, min: 1, weight: 0 });
            if is_new && self.is_possible() {
                return true;
            }
            self.list.pop();
        }
        false
    }

    /// The outermost group around an end that does not hold a given group.
    fn zone(&self, end: Anchor, g: usize) -> Option<usize> {
        let around: Vec<usize> = self.graph.groups_around(Anchor::Group(g)).collect();
        self.graph.groups_around(end).take_while(|z| !around.contains(z)).filter(|z| !self.graph.groups[*z].lane).last()
    }

    /// The layers that fulfil all constraints with the shortest edges.
    pub(super) fn solve(&self) -> Ranks {
        let budget = if self.list.len() <= FULL_EFFORT { usize::MAX } else { 50 };
        let mut at = solve(self.count, &self.aliased(), budget).unwrap_or_else(|| vec![0; self.count]);
        for v in 0..self.count {
            at[v] = at[self.level.first(v)];
        }
        let at = self.options.width.map_or(at.clone(), |width| self.folded(at, width));
        let rank = |v: usize| at[v].max(0) as usize;
        let node: Vec<usize> = (0..self.graph.nodes.len()).map(|v| rank(self.own(v))).collect();
        let span = |g: usize| (rank(self.top(g)), rank(self.bottom(g)).max(rank(self.top(g))));
        let group = (0..self.graph.groups.len()).map(span).collect();
        compacted(Ranks { node, group, count: 0 }, self.graph)
    }
}

/// The groups around one end that are not around the other; lanes have no titles between layers.
fn only_around(graph: &Graph, own: Anchor, other: Anchor) -> impl Iterator<Item = usize> + '_ {
    let is_shared = move |g: &usize| graph.groups_around(other).any(|o| o == *g);
    graph.groups_around(own).filter(move |g| !graph.groups[*g].lane && !is_shared(g))
}

/// So often edges that were level are given up where something stands between their ends.
// Each time at least one edge fewer is level; this bounds how often everything is solved again.
const LEVELLED: usize = 8;

/// An edge from lane to lane that may run level.
#[derive(Clone, Copy)]
struct Step {
    from: usize,
    to: usize,
    /// The lanes of its ends, by their places.
    lanes: (usize, usize),
}

impl Step {
    /// Whether a lane lies between its ends, or is that of one of them.
    fn spans(&self, lane: usize) -> bool {
        (self.lanes.0.min(self.lanes.1)..=self.lanes.0.max(self.lanes.1)).contains(&lane)
    }
}

/// Steps from lane to lane.
impl Ranking<'_> {
    /// Makes ends of edges level where they lie in different lanes and nothing lies in between: such a picture is
    /// shorter, and its lines have no bends.
    fn level_lanes(&mut self) {
        let graph = self.graph;
        // 1. The place of each node's lane. Lanes are numbered in their order, those in a lane after it.
        let lane = |v: usize| graph.groups_around(Anchor::Node(v)).find(|g| graph.groups[*g].lane);
        let lane_of: Vec<Option<usize>> = (0..graph.nodes.len()).map(lane).collect();
        // 2. Edges that may: one at each flank, and none where other lines turn or something stands.
        let mut steps = self.steps(&lane_of);
        let before = self.level.clone();
        for _ in 0..LEVELLED {
            self.level = before.clone();
            let mut members: Vec<Vec<usize>> = (0..graph.nodes.len()).map(|v| vec![v]).collect();
            steps.retain(|step| self.make_step(step, &lane_of, &mut members));
            // 3. Those with something between their ends are given up.
            let ranks = self.solve().node;
            let is_level = |v: usize, step: &Step| v != step.from && v != step.to && ranks[v] == ranks[step.from];
            let is_between = |v: usize, step: &Step| is_level(v, step) && lane_of[v].is_some_and(|l| step.spans(l));
            let in_the_way = |step: &Step| (0..graph.nodes.len()).any(|v| is_between(v, step));
            let count = steps.len();
            steps.retain(|step| !in_the_way(step));
            if steps.len() == count {
                return;
            }
        }
        self.level = before;
    }

    /// The edges that may run level, in source order.
    fn steps(&self, lane_of: &[Option<usize>]) -> Vec<Step> {
        let graph = self.graph;
        let mut taken = vec![[false; 2]; graph.nodes.len()];
        for (e, edge) in graph.edges.iter().enumerate() {
            let turns = self.reversed[e] || edge.face == Face::Flank || edge.from == edge.to;
            for end in [edge.from, edge.to] {
                if let (true, Anchor::Node(v)) = (turns, end) {
                    taken[v] = [true; 2];
                }
            }
        }
        for (v, node) in graph.nodes.iter().enumerate() {
            node.beside.into_iter().for_each(|host| (taken[host], taken[v]) = ([true; 2], [true; 2]));
            // What hangs on a bar hangs below or above it.
            taken[v] = if node.stretches { [true; 2] } else { taken[v] };
        }
        let mut steps = Vec::new();
        for edge in &graph.edges {
            let (Anchor::Node(from), Anchor::Node(to)) = (edge.from, edge.to) else { continue };
            let (Some(first), Some(last)) = (lane_of[from], lane_of[to]) else { continue };
            let has_text = edge.label.is_some() || edge.end_labels.iter().any(Option::is_some);
            let (leaves, enters) = if first < last { (1, 0) } else { (0, 1) };
            if first == last || has_text || taken[from][leaves] || taken[to][enters] {
                continue;
            }
            (taken[from][leaves], taken[to][enters]) = (true, true);
            steps.push(Step { from, to, lanes: (first, last) });
        }
        steps
    }

    /// Makes the ends of an edge level, if no two of what is level then share a lane.
    fn make_step(&mut self, step: &Step, lane_of: &[Option<usize>], members: &mut [Vec<usize>]) -> bool {
        let (a, b) = (self.level.first(step.from), self.level.first(step.to));
        let lane = |v: &usize| lane_of[*v];
        let is_apart = |v: &usize| lane(v).is_some_and(|l| !step.spans(l)) || *v == step.from || *v == step.to;
        let shares = members[a].iter().any(|v| members[b].iter().any(|w| lane(v) == lane(w)));
        if a == b || shares || !members[a].iter().chain(&members[b]).all(is_apart) {
            return false;
        }
        let level = self.level.clone();
        self.level.join(step.from, step.to);
        if !self.is_possible() {
            self.level = level;
            return false;
        }
        let all: Vec<usize> = [a, b].iter().flat_map(|v| std::mem::take(&mut members[*v])).collect();
        members[self.level.first(step.from)] = all;
        true
    }
}

/// Folded layers.
impl Ranking<'_> {
    /// Layers no wider than `width`, for a graph without groups: nodes in the order of their layers, each into the first
    /// layer that its constraints allow and that has room for it (list scheduling with bounded width: Coffman, Graham,
    /// "Optimal scheduling for two-processor systems", 1972, with the layers of the simplex as priorities).
    fn folded(&self, at: Vec<i64>, width: f64) -> Vec<i64> {
        let mut order: Vec<usize> = (0..self.count).filter(|v| self.own(*v) == *v).collect();
        order.sort_by_key(|v| (at[*v], *v));
        let mut into: Vec<Vec<(usize, i64)>> = vec![Vec::new(); self.count];
        for c in &self.list {
            into[c.head].push((c.tail, c.min));
        }
        let mut folded = at;
        let mut used: std::collections::BTreeMap<i64, f64> = std::collections::BTreeMap::new();
        let low = order.first().map_or(0, |v| folded[*v]);
        // Layers before this one are full.
        let mut open = low;
        for v in order {
            let own = self.graph.nodes[v].size.w + NODE_GAP;
            let mut layer = into[v].iter().map(|(tail, min)| folded[*tail] + min).fold(open.max(folded[v]), i64::max);
            while used.get(&layer).is_some_and(|w| w + own > width) {
                layer += 1;
            }
            *used.entry(layer).or_insert(0.0) += own;
            folded[v] = layer;
            while used.get(&open).is_some_and(|w| *w + NODE_GAP * 2.0 > width) {
                open += 1;
            }
        }
        folded
    }
}

/// Layers that a group's title takes before and after what it holds: one, unless layers lie side by side and it is not
/// that of a lane.
fn title_rows(graph: &Graph, g: usize) -> (i64, i64) {
    let rows = i64::from(graph.groups[g].has_title_row(graph.direction));
    if graph.direction.is_backwards() { (0, rows) } else { (rows, 0) }
}

/// Everything that a constraint wants level.
fn rows(graph: &Graph) -> impl Iterator<Item = Anchor> + '_ {
    graph.constraints.iter().flat_map(|w| if let PlacementConstraint::Row(all) = w { all.clone() } else { Vec::new() })
}

/// Nodes without edges that share a group stand in rows of a few instead of one wide row.
fn rows_of_loners(graph: &Graph) -> Vec<Constraint> {
    let mut has_edge = vec![false; graph.nodes.len()];
    for edge in &graph.edges {
        for end in [edge.from, edge.to] {
            if let Anchor::Node(v) = end {
                has_edge[v] = true;
            }
        }
    }
    for end in precedence::pairs(graph).into_iter().flat_map(|(a, b)| [a, b]).chain(rows(graph)) {
        if let Anchor::Node(v) = end {
            has_edge[v] = true;
        }
    }
    let alone = |v: &usize| !has_edge[*v] && graph.nodes[*v].beside.is_none();
    let mut groups: std::collections::BTreeMap<Option<usize>, Vec<usize>> = std::collections::BTreeMap::new();
    for v in (0..graph.nodes.len()).filter(alone) {
        groups.entry(graph.nodes[v].group).or_default().push(v);
    }
    let mut list = Vec::new();
    for members in groups.values() {
        let columns = libm::ceil(libm::sqrt(members.len() as f64 * 0.8)).max(3.0) as usize;
        for (i, v) in members.iter().enumerate().skip(columns) {
            list.push(Constraint { tail: members[i - columns], head: *v, min: 1, weight: 1 });
        }
    }
    list
}

/// Numbers layers from zero; layers that hold nothing vanish.
fn compacted(mut ranks: Ranks, graph: &Graph) -> Ranks {
    let groups = ranks.group.iter().enumerate();
    let titles = groups.filter(|(g, _)| title_rows(graph, *g).0 > 0).map(|(_, r)| r.0);
    let low = ranks.node.iter().copied().chain(titles).min().unwrap_or(0);
    let high = ranks.node.iter().copied().chain(ranks.group.iter().map(|g| g.1)).max().unwrap_or(0);
    for rank in &mut ranks.node {
        *rank -= low;
    }
    for span in &mut ranks.group {
        *span = (span.0.max(low) - low, span.1.max(low) - low);
    }
    ranks.count = high.max(low) - low + 1;
    ranks
}
