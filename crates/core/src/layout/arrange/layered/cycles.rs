//! Which edges are taken against their direction, so that no circle is left.
//!
//! Two candidates: a depth-first walk in source order, and the greedy order of Eades, Lin, Smyth
//! ("A fast and effective heuristic for the feedback arc set problem", 1993) with ties broken by
//! source order. The walk wins unless the greedy order reverses fewer edges; where lines say what happens in time it
//! always wins, since what leads back there is what the author wrote to lead back, however many lines that are. Both are
//! linear but for the choice among equal nodes.

use super::options::Directions;
use crate::layout::graph::{Anchor, Directed, Graph};
use crate::layout::neighbourhood::{hops, neighbours};
use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

/// For every edge, whether it is reversed.
pub(super) fn reversed(graph: &Graph, directions: Directions) -> Vec<bool> {
    match directions {
        Directions::Written => written(graph),
        Directions::FromHub => outward(graph, Directions::FromHub),
        Directions::FromMiddle => outward(graph, Directions::FromMiddle),
    }
}

fn written(graph: &Graph) -> Vec<bool> {
    let ends = ends(graph);
    let count = graph.nodes.len() + graph.groups.len();
    let is_in_time = graph.directed == Directed::InTime;
    let walk = walk(count, &ends, is_in_time);
    if !walk.contains(&true) || is_in_time {
        return walk;
    }
    let order = greedy(count, &ends);
    let greedy: Vec<bool> = ends.iter().map(|(a, b)| order[*a] > order[*b]).collect();
    let number = |v: &[bool]| v.iter().filter(|r| **r).count();
    if number(&greedy) < number(&walk) { greedy } else { walk }
}

/// For every edge, whether it is reversed where few have a direction that matters: the others lead away from one
/// node, so that what is near in the graph lies in near layers (breadth-first).
fn outward(graph: &Graph, from: Directions) -> Vec<bool> {
    let ends = ends(graph);
    let near = neighbours(graph.nodes.len() + graph.groups.len(), &ends);
    // 1. How far each is from the first.
    let mut firsts: Vec<usize> = (0..near.len()).collect();
    firsts.sort_by_key(|v| Reverse(near[*v].len()));
    let reached = |v: usize| hops(&near, v).into_iter().enumerate().filter(|(_, far)| *far != usize::MAX);
    if from == Directions::FromMiddle {
        firsts.sort_by_cached_key(|v| (near[*v].is_empty(), reached(*v).map(|(_, far)| far).max()));
    }
    let mut far = vec![usize::MAX; near.len()];
    for first in firsts {
        if far[first] == usize::MAX {
            reached(first).for_each(|(v, hops)| far[v] = hops);
        }
    }
    let mut met: Vec<usize> = (0..near.len()).collect();
    met.sort_by_key(|v| far[*v]);
    // 2. What is equally far and joined needs more than one layer: as few as a greedy colouring finds.
    let mut colour = vec![usize::MAX; near.len()];
    for &v in &met {
        let level = near[v].iter().filter(|w| **w != v && far[**w] == far[v]);
        let taken: BTreeSet<usize> = level.map(|w| colour[*w]).collect();
        colour[v] = (0..).find(|c| !taken.contains(c)).unwrap_or(0);
    }
    // 3. That order, as far as directed ones allow.
    let key = |v: usize| (far[v], colour[v], v);
    let mut below = vec![Vec::new(); near.len()];
    let mut waits = vec![0; near.len()];
    for ((a, b), _) in ends.iter().zip(&graph.edges).filter(|((a, b), edge)| edge.is_directed && a != b) {
        below[*a].push(*b);
        waits[*b] += 1;
    }
    let mut free: BTreeSet<(usize, usize, usize)> = (0..near.len()).filter(|v| waits[*v] == 0).map(key).collect();
    // What waits for itself comes last.
    let mut order: Vec<usize> = (near.len()..2 * near.len()).collect();
    let mut place = 0;
    while let Some((_, _, v)) = free.pop_first() {
        order[v] = place;
        place += 1;
        for w in &below[v] {
            waits[*w] -= 1;
            if waits[*w] == 0 {
                free.insert(key(*w));
            }
        }
    }
    ends.iter().map(|(a, b)| order[*a] > order[*b]).collect()
}

/// Edges between nodes and groups, numbered together; a node beside another counts as that one.
fn ends(graph: &Graph) -> Vec<(usize, usize)> {
    let number = |anchor: Anchor| number(graph, anchor);
    graph.edges.iter().map(|e| (number(e.from), number(e.to))).collect()
}

/// Nodes by their number, or that of the node they stand beside; groups behind them.
fn number(graph: &Graph, anchor: Anchor) -> usize {
    match anchor {
        Anchor::Node(v) => graph.nodes[v].beside.unwrap_or(v),
        Anchor::Group(g) => graph.nodes.len() + g,
    }
}

/// Edges to a node that the walk is still inside are reversed.
fn walk(count: usize, ends: &[(usize, usize)], is_in_time: bool) -> Vec<bool> {
    let mut out = vec![Vec::new(); count];
    let mut has_in = vec![false; count];
    for (i, (a, b)) in ends.iter().enumerate() {
        out[*a].push(i);
        has_in[*b] |= a != b;
    }
    let mut reversed = vec![false; ends.len()];
    // 0 unseen, 1 open, 2 done.
    let mut state = vec![0u8; count];
    // From what nothing points to, then from what speaks first.
    let first = ends.iter().map(|e| e.0).filter(|v| is_in_time && !has_in[*v]);
    let starts = first.chain((0..count).filter(|v| !has_in[*v])).chain(ends.iter().map(|e| e.0)).chain(0..count);
    for start in starts {
        if state[start] != 0 {
            continue;
        }
        state[start] = 1;
        let mut stack = vec![(start, 0)];
        while let Some((v, i)) = stack.pop() {
            let Some(&e) = out[v].get(i) else {
                state[v] = 2;
                continue;
            };
            stack.push((v, i + 1));
            let to = ends[e].1;
            match state[to] {
                0 => {
                    state[to] = 1;
                    stack.push((to, 0));
                }
                1 if to != v => reversed[e] = true,
                _ => {}
            }
        }
    }
    reversed
}

/// The bucket of a node with this many edges out and in: sinks, sources, and the rest by surplus.
fn class(outs: i64, ins: i64) -> (i32, i64) {
    match (outs, ins) {
        (0, _) => (0, 0),
        (_, 0) => (1, 0),
        _ => (2, ins - outs),
    }
}

/// Places in the greedy order: sinks to the end, sources to the front, else the largest surplus.
fn greedy(count: usize, ends: &[(usize, usize)]) -> Vec<usize> {
    let mut out: Vec<Vec<usize>> = vec![Vec::new(); count];
    let mut into: Vec<Vec<usize>> = vec![Vec::new(); count];
    for (a, b) in ends.iter().filter(|(a, b)| a != b) {
        out[*a].push(*b);
        into[*b].push(*a);
    }
    let mut outs: Vec<i64> = out.iter().map(|o| o.len() as i64).collect();
    let mut ins: Vec<i64> = into.iter().map(|i| i.len() as i64).collect();
    // Buckets by class: sinks, sources, and the rest by surplus; each in source order.
    let mut buckets: BTreeMap<(i32, i64), BTreeSet<usize>> = BTreeMap::new();
    for v in 0..count {
        buckets.entry(class(outs[v], ins[v])).or_default().insert(v);
    }
    let mut place = vec![usize::MAX; count];
    let (mut front, mut back) = (0, count);
    while let Some((&key, bucket)) = buckets.iter_mut().next() {
        let v = if key.0 == 0 { bucket.pop_last() } else { bucket.pop_first() };
        if bucket.is_empty() {
            buckets.remove(&key);
        }
        let Some(v) = v else { continue };
        if key.0 == 0 {
            back -= 1;
            place[v] = back;
        } else {
            place[v] = front;
            front += 1;
        }
        for (w, change) in out[v].iter().map(|w| (*w, (0, -1))).chain(into[v].iter().map(|w| (*w, (-1, 0)))) {
            if place[w] != usize::MAX {
                continue;
            }
            if let Some(bucket) = buckets.get_mut(&class(outs[w], ins[w])) {
                bucket.remove(&w);
                if bucket.is_empty() {
                    buckets.remove(&class(outs[w], ins[w]));
                }
            }
            outs[w] += change.0;
            ins[w] += change.1;
            buckets.entry(class(outs[w], ins[w])).or_default().insert(w);
        }
    }
    place
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::graph::{Edge, Node};

    fn graph(count: usize, edges: &[(usize, usize)]) -> Graph {
        let edges = edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect();
        Graph { nodes: vec![Node::default(); count], edges, ..Graph::default() }
    }

    #[test]
    fn what_was_written_first_points_forward() {
        assert_eq!(written(&graph(3, &[(0, 1), (1, 2), (2, 0)])), [false, false, true]);
        assert_eq!(written(&graph(2, &[(0, 1), (0, 1)])), [false, false]);
        assert_eq!(written(&graph(1, &[(0, 0)])), [false]);
    }

    #[test]
    fn nothing_left_runs_in_a_circle() {
        let edges: Vec<(usize, usize)> = (0..40).map(|i| (i * 7 % 10, i * 3 % 10)).collect();
        let g = graph(10, &edges);
        let reversed = written(&g);
        let mut list: Vec<(usize, usize)> = edges
            .iter()
            .zip(&reversed)
            .map(|((a, b), r)| if *r { (*b, *a) } else { (*a, *b) })
            .filter(|(a, b)| a != b)
            .collect();
        for _ in 0..10 {
            let sinks: Vec<usize> = (0..10).filter(|v| !list.iter().any(|(a, _)| a == v)).collect();
            list.retain(|(_, b)| !sinks.contains(b));
        }
        assert!(list.is_empty());
    }

    #[test]
    fn lines_lead_away_from_the_middle_of_a_chain_and_from_a_hub() {
        // 0 → 1 → 2 → 3 → 4, and at 4 hang 5, 6 and 7.
        let graph = graph(8, &[(0, 1), (1, 2), (2, 3), (3, 4), (4, 5), (6, 4), (4, 7)]);
        let written = reversed(&graph, Directions::Written);
        assert_eq!(written, [false; 7]);
        let from_hub = reversed(&graph, Directions::FromHub);
        assert_eq!(from_hub, [true, true, true, true, false, true, false]);
        let from_middle = reversed(&graph, Directions::FromMiddle);
        assert_eq!(from_middle, [true, true, false, false, false, true, false], "2 and 3 are as near; 3 has as many");
    }

    #[test]
    fn families_keep_their_direction_and_no_circle_is_left() {
        // A ring of five around the hub 5; 4 and 3 are children of 0.
        let mut pairs: Vec<(usize, usize)> = (0..5).flat_map(|v| [(v, (v + 1) % 5), (v, 5)]).collect();
        pairs.extend([(0, 4), (0, 3), (2, 2)]);
        let mut graph = graph(6, &pairs);
        graph.edges[10..12].iter_mut().for_each(|e| e.is_directed = true);
        for directions in [Directions::FromHub, Directions::FromMiddle] {
            let reversed = reversed(&graph, directions);
            assert_eq!(reversed[10..12], [false, false]);
            let between = pairs.iter().zip(&reversed).filter(|((a, b), _)| a != b);
            let taken: Vec<(usize, usize)> = between.map(|((a, b), r)| if *r { (*b, *a) } else { (*a, *b) }).collect();
            // Taking away what nothing leads to, again and again, takes all away.
            let mut left: Vec<usize> = (0..6).collect();
            for _ in 0..6 {
                let before = left.clone();
                left.retain(|v| taken.iter().any(|(a, b)| b == v && before.contains(a)));
            }
            assert!(left.is_empty(), "{taken:?}");
        }
    }
}
