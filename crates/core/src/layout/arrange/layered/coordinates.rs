//! Places across: network simplex on an auxiliary graph (Gansner and others, 1993, section 4.2), with
//! two variables for the sides of every group, so that groups are rectangles and lines between
//! members of different groups pull on the members. Large graphs get sweeps of medians instead, with
//! the least moves that keep neighbours apart (pool adjacent violators), and one pass that restores
//! the constraints of groups.

use super::bars;
use super::gaps::{CORNER, PORT_GAP};
use super::layers::{ItemKind, Layers, Link, Sweep};
use super::options::Care;
use super::ports::{self, is_pointed};
use super::system::System;
use crate::layout::graph::Graph;
use crate::layout::outline::Side;
use crate::layout::simplex::{Constraint, solve};

/// Axes of items and sides of groups, in px.
pub(super) struct Across {
    /// The axis of each item.
    pub(super) x: Vec<f64>,
    /// The left and the right side of each group.
    pub(super) group: Vec<(f64, f64)>,
}

/// Up to this many variables the simplex is used.
// Above it the four passes of Brandes and Köpf alone give the places.
const FULL_EFFORT: usize = 5_000;
/// Steps that the simplex may take for a draft.
// A draft only shows which candidate is better.
const DRAFT: usize = 150;
/// Steps that the simplex may take for each thousand variables.
// The limit is for graphs that were made to take long.
const STEPS: usize = 4_000;

/// Finds places across, ports included.
pub(super) fn assign(layers: &mut Layers, graph: &Graph, care: Care) -> Across {
    ports::spread_all(layers, graph);
    let mut system = System::new(layers, graph);
    bars::keep_halves(&mut system, layers, graph);
    let variables = system.count + layers.links.len();
    let steps = if care == Care::Draft { DRAFT } else { STEPS * (variables / 1000 + 1) };
    let mut at =
        if variables <= FULL_EFFORT {
            optimum(&system, layers, (variables, steps), |link| {
                if bars::is_part(layers, graph, link) { 1 } else { link.weight }
            })
        } else {
            swept(&system, layers)
        };
    straighten(layers, graph, &system, &mut at);
    // Once more with bars as wide as they are now, so that what comes to their middles does so straight.
    if bars::stretch(layers, graph, &system, &mut at) && variables <= FULL_EFFORT {
        system = System::new(layers, graph);
        at = optimum(&system, layers, (variables, steps), |link| link.weight);
        straighten(layers, graph, &system, &mut at);
    }
    ports::stagger(layers, graph, &at);
    let x: Vec<f64> = at[..layers.items.len()].to_vec();
    let group = (0..graph.groups.len()).map(|g| (at[system.left(g)], at[system.right(g)])).collect();
    Across { x, group }
}

/// The optimum of the weighted sum of all distances, of this many variables, after at most this many steps.
fn optimum(
    system: &System, layers: &Layers, (variables, steps): (usize, usize), weight: impl Fn(&Link) -> i64,
) -> Vec<f64> {
    let mut list = system.list.clone();
    for (i, link) in layers.links.iter().enumerate() {
        let aux = system.count + i;
        let weight = weight(link);
        for (item, port) in [(link.upper, link.upper_port), (link.lower, link.lower_port)] {
            list.push(Constraint { tail: aux, head: item, min: -(port as i64), weight });
        }
    }
    match solve(variables, &list, steps) {
        Some(at) => at.iter().map(|v| *v as f64).collect(),
        None => swept(system, layers),
    }
}

/// Sweeps of medians; linear for each sweep.
fn swept(system: &System, layers: &Layers) -> Vec<f64> {
    let mut x = system.packed();
    for i in 0..8 {
        let sweep = Sweep::numbered(i);
        for layer in sweep.layers(layers.layers.len()) {
            place_row(layers, &mut x, layer, sweep);
        }
    }
    system.restore(&mut x);
    x
}

/// Moves the items of a row towards the medians of their neighbours: the weighted least squares
/// under the order of the row, by pooling.
fn place_row(layers: &Layers, x: &mut [f64], layer: usize, sweep: Sweep) {
    struct Pool {
        sum: f64,
        weight: f64,
        count: usize,
    }
    let row = layers.row(layer);
    // Offsets turn "keeps its distance" into "does not decrease".
    let mut offset = 0.0;
    let mut offsets = Vec::with_capacity(row.len());
    for (i, &item) in row.iter().enumerate() {
        if i > 0 {
            let before = row[i - 1];
            offset += layers.items[before].right + layers.gap(before, item) + layers.items[item].left;
        }
        offsets.push(offset);
    }
    let mut pools: Vec<Pool> = Vec::new();
    for (&item, offset) in row.iter().zip(&offsets) {
        let (wanted, weight) = wanted(layers, x, item, sweep);
        pools.push(Pool { sum: (wanted - offset) * weight, weight, count: 1 });
        while let [.., a, b] = pools.as_slice()
            && a.sum / a.weight > b.sum / b.weight
        {
            let (sum, weight, count) = (a.sum + b.sum, a.weight + b.weight, a.count + b.count);
            pools.truncate(pools.len() - 2);
            pools.push(Pool { sum, weight, count });
        }
    }
    let mut at = 0;
    for pool in pools {
        for i in at..at + pool.count {
            x[row[i]] = libm::round(pool.sum / pool.weight + offsets[i]);
        }
        at += pool.count;
    }
}

/// The weighted median of where an item's neighbours would have it, and how much it matters.
fn wanted(layers: &Layers, x: &[f64], item: usize, sweep: Sweep) -> (f64, f64) {
    let own = &layers.items[item];
    let links = if sweep == Sweep::Down { &own.up } else { &own.down };
    let mut ends: Vec<f64> = links
        .iter()
        .map(|l| {
            let link = &layers.links[*l];
            if sweep == Sweep::Down {
                x[link.upper] + link.upper_port - link.lower_port
            } else {
                x[link.lower] + link.lower_port - link.upper_port
            }
        })
        .collect();
    if ends.is_empty() {
        return (x[item], 0.1);
    }
    ends.sort_by(f64::total_cmp);
    let middle = ends.len() / 2;
    let median = if ends.len() % 2 == 1 { ends[middle] } else { (ends[middle - 1] + ends[middle]) / 2.0 };
    let weight: i64 = links.iter().map(|l| layers.links[*l].weight).sum();
    (median, weight as f64)
}

/// Straightens small jogs: moves ports along flat faces, and stretches of lines sideways, where that
/// takes a bend away and breaks no constraint.
fn straighten(layers: &mut Layers, graph: &Graph, system: &System, x: &mut [f64]) {
    let mut incident: Vec<Vec<usize>> = vec![Vec::new(); system.count];
    for (i, c) in system.list.iter().enumerate() {
        incident[c.tail].push(i);
        incident[c.head].push(i);
    }
    let mut jogs = Jogs { layers, graph, system, incident, x };
    for _ in 0..2 {
        for l in 0..jogs.layers.links.len() {
            let off = jogs.offset(l);
            if off != 0.0 && !jogs.shift(l, End::Upper, off) {
                jogs.shift(l, End::Lower, -off);
            }
        }
    }
}

/// Lines may be shifted by this much, in px; ports as far as their face goes.
const SHIFT: f64 = 30.0;

/// One end of a link.
#[derive(Clone, Copy, PartialEq, Eq)]
enum End {
    Upper,
    Lower,
}

struct Jogs<'a> {
    layers: &'a mut Layers,
    graph: &'a Graph,
    system: &'a System,
    incident: Vec<Vec<usize>>,
    x: &'a mut [f64],
}

impl Jogs<'_> {
    /// How far the lower end of a link lies to the right of its upper end.
    fn offset(&self, l: usize) -> f64 {
        let link = &self.layers.links[l];
        self.x[link.lower] + link.lower_port - self.x[link.upper] - link.upper_port
    }

    fn item(&self, l: usize, end: End) -> usize {
        if end == End::Upper { self.layers.links[l].upper } else { self.layers.links[l].lower }
    }

    /// Moves one end of a link, with the straight stretch that goes on from it.
    fn shift(&mut self, l: usize, end: End, by: f64) -> bool {
        let mut run: Vec<usize> = Vec::new();
        let mut at = l;
        let port = loop {
            let item = self.item(at, end);
            if let ItemKind::Node(v) = self.layers.items[item].kind {
                if !self.can_slide(v, at, end, by) {
                    return false;
                }
                break Some(at);
            }
            run.push(item);
            let next = if end == End::Upper { &self.layers.items[item].up } else { &self.layers.items[item].down };
            match next.as_slice() {
                [next] if self.offset(*next) == 0.0 => at = *next,
                [] | [_] => break None,
                _ => return false,
            }
        };
        if !run.is_empty() && (by.abs() > SHIFT || !self.can_move(&run, by)) {
            return false;
        }
        run.iter().for_each(|item| self.x[*item] += by);
        if let Some(l) = port {
            let link = &mut self.layers.links[l];
            *(if end == End::Upper { &mut link.upper_port } else { &mut link.lower_port }) += by;
        }
        true
    }

    fn can_move(&self, run: &[usize], by: f64) -> bool {
        run.iter().flat_map(|v| self.incident[*v].iter().map(move |c| (*v, *c))).all(|(v, c)| {
            let c = &self.system.list[c];
            let other = if c.tail == v { c.head } else { c.tail };
            let slack = self.x[c.head] - self.x[c.tail] - c.min as f64 + if c.head == v { by } else { -by };
            run.contains(&other) || slack >= 0.0
        })
    }

    /// Whether the port of a link can move along its face without meeting a corner or another port.
    fn can_slide(&self, v: usize, l: usize, end: End, by: f64) -> bool {
        let node = &self.graph.nodes[v];
        let item = &self.layers.items[self.layers.node_item[v]];
        let (links, side) = if end == End::Upper { (&item.down, Side::Bottom) } else { (&item.up, Side::Top) };
        let of = |link: &super::layers::Link| if end == End::Upper { link.upper_port } else { link.lower_port };
        let port = |l: usize| of(&self.layers.links[l]);
        let edge = &self.graph.edges[self.layers.links[l].edge];
        let (now, wanted) = (port(l), port(l) + by);
        let trunk = end == End::Upper && edge.trunk.is_some();
        let size = node.figure();
        let flat = node.outline.reach(size, side, wanted) >= size.h / 2.0 - 1.0;
        let inside = wanted.abs() <= size.w / 2.0 - CORNER;
        !trunk
            && inside
            && flat
            && !is_pointed(&node.outline, node.size.h)
            && links.iter().filter(|o| **o != l).all(|o| {
                let other = port(*o);
                (other < now) == (other < wanted) && (other - wanted).abs() >= PORT_GAP * 0.75
            })
    }
}
