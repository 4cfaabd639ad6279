//! Bars at which parallel parts begin and end: as wide as the parts that hang on them, so that their lines run straight.

use super::gaps::{CORNER, PORT_GAP};
use super::layers::{ItemKind, Layers, Link};
use super::system::System;
use crate::layout::graph::Graph;
use crate::layout::simplex::{Constraint, solve};
use std::collections::BTreeMap;

/// The items of all bars.
fn bars(layers: &Layers, graph: &Graph) -> Vec<usize> {
    let bars = graph.nodes.iter().zip(&layers.node_item).filter(|(node, _)| node.stretches);
    bars.map(|(_, item)| *item).collect()
}

/// Whether an item is a bar.
fn is_bar(layers: &Layers, graph: &Graph, item: usize) -> bool {
    matches!(layers.items[item].kind, ItemKind::Node(v) if graph.nodes[v].stretches)
}

/// Pairs of items between whose axes a bar lies: those in the middle of an even number of parts.
fn halves(layers: &Layers, bars: Vec<usize>) -> Vec<[usize; 3]> {
    let place = layers.places();
    let mut all = Vec::new();
    for bar in bars {
        let below = layers.items[bar].down.iter().map(|l| layers.links[*l].lower).collect();
        let above = layers.items[bar].up.iter().map(|l| layers.links[*l].upper).collect();
        for mut ends in [below, above] {
            let ends: &mut Vec<usize> = &mut ends;
            ends.sort_by_key(|item| place[*item]);
            let is_own = |item: &usize| layers.groups_of(*item) == layers.groups_of(bar);
            if ends.len() >= 2 && ends.len().is_multiple_of(2) && ends.iter().all(is_own) {
                all.push([ends[ends.len() / 2 - 1], bar, ends[ends.len() / 2]]);
            }
        }
    }
    all
}

/// Whether a link joins a bar with one of several parts: the bar comes to it.
pub(super) fn is_part(layers: &Layers, graph: &Graph, link: &Link) -> bool {
    is_bar(layers, graph, link.upper) && layers.items[link.upper].down.len() > 1
        || is_bar(layers, graph, link.lower) && layers.items[link.lower].up.len() > 1
}

/// Keeps bars between the two parts in the middle, if that is possible for all of them.
pub(super) fn keep_halves(system: &mut System, layers: &Layers, graph: &Graph) {
    let bars = bars(layers, graph);
    if bars.is_empty() {
        return;
    }
    let before = system.list.len();
    for [left, bar, right] in halves(layers, bars) {
        let half = layers.gap(left, right) / 2.0;
        let sides = [(left, bar, layers.items[left].right), (bar, right, layers.items[right].left)];
        for (tail, head, extent) in sides {
            system.list.push(Constraint { tail, head, min: libm::ceil(extent + half) as i64, weight: 0 });
        }
    }
    if system.list.len() > before && solve(system.count, &system.list, 0).is_none() {
        system.list.truncate(before);
    }
}

/// A bar with its lines: where each would be straight, from the bar's axis, and how far the bar reaches to the left and to the
/// right, and could.
struct Stretched {
    bar: usize,
    /// The lines below it and above it.
    sides: [Vec<(f64, usize)>; 2],
    reach: [f64; 2],
    most: [f64; 2],
}

/// Widens bars over the lines that hang on them, as far as their neighbours allow; a bar at which parts end is as wide as
/// that at which they begin. `x` are the axes of the items. Says whether there is any bar.
pub(super) fn stretch(layers: &mut Layers, graph: &Graph, system: &System, x: &mut [f64]) -> bool {
    let bars = bars(layers, graph);
    // What keeps each of them apart from its neighbours.
    let mut kept: BTreeMap<usize, Vec<&Constraint>> = bars.iter().map(|bar| (*bar, Vec::new())).collect();
    for c in system.list[..system.firm].iter().filter(|_| !bars.is_empty()) {
        for end in [c.tail, c.head] {
            kept.entry(end).and_modify(|list| list.push(c));
        }
    }
    // 1. Over their own lines.
    let mut all: Vec<Stretched> = bars.iter().map(|bar| stretched(layers, graph, x, (*bar, &kept[bar]))).collect();
    // 2. Over those of the bar at the other end.
    for (first, last) in pairs(layers, graph, &bars) {
        for side in [0, 1] {
            let sign = if side == 0 { -1.0 } else { 1.0 };
            let edge = |i: usize| sign * x[all[i].bar] + all[i].reach[side];
            let both = f64::max(edge(first), edge(last));
            for i in [first, last] {
                let bar = &mut all[i];
                bar.reach[side] = f64::max(bar.reach[side], f64::min(both - sign * x[bar.bar], bar.most[side]));
            }
        }
    }
    let is_any = !all.is_empty();
    all.into_iter().for_each(|bar| settle(layers, x, bar));
    is_any
}

/// A bar over its own lines.
fn stretched(layers: &Layers, graph: &Graph, x: &[f64], (bar, kept): (usize, &Vec<&Constraint>)) -> Stretched {
    // 1. Where its lines would be straight. Of two bars, the one with several lines comes to the other.
    let stays = |l: usize, links: &[usize]| links.len() == 1 && is_part(layers, graph, &layers.links[l]);
    let straight = |l: usize, links: &[usize]| {
        if stays(l, links) { own_port(layers, bar, l) } else { straight_port(layers, x, bar, l) }
    };
    let all = |links: &[usize]| links.iter().map(|l| (straight(*l, links), *l)).collect::<Vec<_>>();
    let sides = [all(&layers.items[bar].down), all(&layers.items[bar].up)];
    // 2. How far it may reach.
    let (mut left, mut right) = (layers.items[bar].left, layers.items[bar].right);
    let (mut most_left, mut most_right) = (f64::INFINITY, f64::INFINITY);
    for c in kept {
        let slack = x[c.head] - x[c.tail] - c.min as f64;
        let most = if c.tail == bar { &mut most_right } else { &mut most_left };
        *most = f64::min(*most, slack);
    }
    (most_left, most_right) = (left + most_left, right + most_right);
    for (at, _) in sides.iter().filter(|side| side.len() > 1).flatten() {
        left = f64::max(left, f64::min(CORNER - at, most_left));
        right = f64::max(right, f64::min(CORNER + at, most_right));
    }
    Stretched { bar, sides, reach: [left, right], most: [most_left, most_right] }
}

/// Gives a bar its width, and its lines their places along it.
fn settle(layers: &mut Layers, x: &mut [f64], bar: Stretched) {
    let Stretched { bar, mut sides, reach: [left, right], .. } = bar;
    // 1. Its lines along it.
    for side in &mut sides {
        side.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut least = CORNER - left;
        for (at, _) in side.iter_mut() {
            *at = f64::max(*at, least);
            least = *at + PORT_GAP;
        }
        let mut most = right - CORNER;
        for (at, _) in side.iter_mut().rev() {
            *at = f64::min(*at, most);
            most = *at - PORT_GAP;
        }
    }
    // 2. Its axis in its middle again; a line alone at its side is there.
    let half = (left + right) / 2.0;
    let by = half - left;
    x[bar] += by;
    (layers.items[bar].left, layers.items[bar].right) = (half, half);
    for side in sides {
        let is_alone = side.len() == 1;
        for (at, l) in side {
            let link = &mut layers.links[l];
            *(if link.upper == bar { &mut link.upper_port } else { &mut link.lower_port }) =
                if is_alone { 0.0 } else { at - by };
        }
    }
}

/// Bars at which parts begin, each with that at which they end, by their numbers: the one that closes it on the way down
/// along the first part.
fn pairs(layers: &Layers, graph: &Graph, bars: &[usize]) -> Vec<(usize, usize)> {
    let closing = |first: usize| {
        let (mut at, mut open) = (first, 1);
        // Lines lead downwards: every step is a layer further.
        while let Some(link) = layers.items[at].down.first() {
            at = layers.links[*link].lower;
            let item = &layers.items[at];
            if is_bar(layers, graph, at) && item.up.len() > 1 {
                open -= 1;
                if open == 0 {
                    return bars.iter().position(|bar| *bar == at);
                }
            }
            open += usize::from(is_bar(layers, graph, at) && item.down.len() > 1);
        }
        None
    };
    let begins = (0..bars.len()).filter(|i| layers.items[bars[*i]].down.len() > 1);
    begins.filter_map(|i| closing(bars[i]).map(|last| (i, last))).collect()
}

/// Where a line leaves a bar now, from the bar's middle.
fn own_port(layers: &Layers, bar: usize, l: usize) -> f64 {
    let link = &layers.links[l];
    if link.upper == bar { link.upper_port } else { link.lower_port }
}

/// Where it would leave straight above or below its other end.
fn straight_port(layers: &Layers, x: &[f64], bar: usize, l: usize) -> f64 {
    let link = &layers.links[l];
    let (other, port) = if link.upper == bar { (link.lower, link.lower_port) } else { (link.upper, link.upper_port) };
    x[other] + port - x[bar]
}
