//! Who is joined with whom in a graph, how far apart, and how much room each takes.

use crate::geom::{Size, distance, pt};

/// How far things are from one of them, counted in edges; `usize::MAX` for those that it does not reach.
pub(in crate::layout) fn hops(neighbours: &[Vec<usize>], from: usize) -> Vec<usize> {
    let mut hops = vec![usize::MAX; neighbours.len()];
    hops[from] = 0;
    let mut queue = std::collections::VecDeque::from([from]);
    while let Some(v) = queue.pop_front() {
        for w in &neighbours[v] {
            if hops[*w] == usize::MAX {
                hops[*w] = hops[v] + 1;
                queue.push_back(*w);
            }
        }
    }
    hops
}

/// Who is joined with whom, in source order.
pub(in crate::layout) fn neighbours(count: usize, edges: &[(usize, usize)]) -> Vec<Vec<usize>> {
    let mut out = vec![Vec::new(); count];
    for (a, b) in edges {
        out[*a].push(*b);
        out[*b].push(*a);
    }
    out
}

/// The others that each is joined with, each once, by their numbers.
pub(in crate::layout) fn distinct_neighbours(count: usize, edges: &[(usize, usize)]) -> Vec<Vec<usize>> {
    let mut near = neighbours(count, edges);
    for (v, list) in near.iter_mut().enumerate() {
        list.retain(|w| *w != v);
        list.sort_unstable();
        list.dedup();
    }
    near
}

/// Half the diagonal of a box: the circle around it.
pub(in crate::layout) fn radius(size: Size) -> f64 {
    distance(pt(0.0, 0.0), pt(size.w, size.h)) / 2.0
}
