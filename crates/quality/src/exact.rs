//! The fewest crossings of a graph with two or three given layers. Branch and bound over the orders of one layer, the one
//! that all edges touch; under a given order of it the others are independent, and their best orders follow from
//! pairwise crossing numbers (Jünger, Mutzel, "2-layer straightline crossing minimization", 1997), by dynamic
//! programming over sets.
//!
//! Exact for layers of up to 16 nodes; exponential in the worst case, quick for sparse graphs.

use bathygram_corpus::Layered;

/// A side of the enumerated layer: for each of its nodes, its neighbours in the enumerated layer.
struct Side {
    neighbours: Vec<Vec<usize>>,
}

struct Search {
    sides: Vec<Side>,
    count: usize,
    best: u32,
    /// For each side, crossings for `u` before `v` as far as the prefix decides.
    crossings: Vec<Vec<u32>>,
}

/// The fewest crossings. `known` is a number that some drawing has: nothing above it is looked at.
pub(crate) fn fewest_crossings(graph: &Layered, known: usize) -> usize {
    let firsts: Vec<usize> = graph.layers.iter().scan(0, |at, n| Some(std::mem::replace(at, *at + n))).collect();
    let layer_of = |v: usize| firsts.iter().rposition(|f| *f <= v).unwrap_or(0);
    // All edges touch the middle one of three layers, and either one of two: the smaller is enumerated.
    let middle = if graph.layers.len() == 2 && graph.layers[0] <= graph.layers[1] { 0 } else { 1 };
    let mut sides = Vec::new();
    for other in (0..graph.layers.len()).filter(|l| *l != middle) {
        let mut neighbours = vec![Vec::new(); graph.layers[other]];
        for (a, b) in &graph.edges {
            for (v, w) in [(*a, *b), (*b, *a)] {
                if layer_of(v) == other && layer_of(w) == middle {
                    neighbours[v - firsts[other]].push(w - firsts[middle]);
                }
            }
        }
        sides.push(Side { neighbours });
    }
    let crossings = sides.iter().map(|s| vec![0; s.neighbours.len() * s.neighbours.len()]).collect();
    let count = graph.layers[middle];
    let mut search = Search { sides, count, best: known as u32 + 1, crossings };
    search.extend(&mut Vec::new(), 0);
    (search.best as usize).min(known)
}

impl Search {
    /// Tries all orders that begin with a prefix.
    fn extend(&mut self, prefix: &mut Vec<usize>, used: u32) {
        if self.bound() >= self.best {
            return;
        }
        if prefix.len() == self.count {
            let total = (0..self.sides.len()).map(|s| self.one_side(s)).sum();
            self.best = self.best.min(total);
            return;
        }
        // What costs least first.
        let mut next: Vec<(u32, usize)> = Vec::new();
        for m in (0..self.count).filter(|m| used & (1 << m) == 0) {
            // A mirrored order crosses as often.
            if m == 0 && prefix.is_empty() && self.count > 1 {
                continue;
            }
            self.append(m, used, true);
            next.push((self.bound(), m));
            self.append(m, used, false);
        }
        next.sort_unstable();
        for (bound, m) in next {
            if bound >= self.best {
                break;
            }
            self.append(m, used, true);
            prefix.push(m);
            self.extend(prefix, used | (1 << m));
            prefix.pop();
            self.append(m, used, false);
        }
    }

    /// Adds to the crossing numbers what is decided when `m` stands before all that are not in the prefix: an edge of
    /// `v` to `m` and an edge of `u` to one of those cross if `u` stands before `v`.
    fn append(&mut self, m: usize, used: u32, adds: bool) {
        for (side, crossings) in self.sides.iter().zip(&mut self.crossings) {
            let n = side.neighbours.len();
            for v in (0..n).filter(|v| side.neighbours[*v].contains(&m)) {
                for u in (0..n).filter(|u| *u != v) {
                    let later = side.neighbours[u].iter().filter(|w| **w != m && used & (1 << **w) == 0).count() as u32;
                    let cell = &mut crossings[u * n + v];
                    *cell = if adds { *cell + later } else { *cell - later };
                }
            }
        }
    }

    /// No order that begins with the prefix has fewer crossings.
    fn bound(&self) -> u32 {
        let mut sum = 0;
        for (side, crossings) in self.sides.iter().zip(&self.crossings) {
            let n = side.neighbours.len();
            for u in 0..n {
                sum += (u + 1..n).map(|v| crossings[u * n + v].min(crossings[v * n + u])).sum::<u32>();
            }
        }
        sum
    }

    /// The fewest crossings of one side under the order that is fixed now.
    fn one_side(&self, side: usize) -> u32 {
        let n = self.sides[side].neighbours.len();
        let cost = &self.crossings[side];
        let mut best = vec![u32::MAX; 1 << n];
        best[0] = 0;
        for set in 0..1usize << n {
            if best[set] == u32::MAX {
                continue;
            }
            for v in (0..n).filter(|v| set & (1 << v) == 0) {
                let add: u32 = (0..n).filter(|u| set & (1 << u) != 0).map(|u| cost[u * n + v]).sum();
                let to = set | (1 << v);
                best[to] = best[to].min(best[set] + add);
            }
        }
        best[(1 << n) - 1]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn layered(layers: &[usize], edges: &[(usize, usize)]) -> Layered {
        Layered { layers: layers.to_vec(), edges: edges.to_vec(), text: String::new() }
    }

    #[test]
    fn known_optima_are_found() {
        let complete: Vec<(usize, usize)> = (0..12).map(|i| (i / 4, 3 + i % 4)).collect();
        assert_eq!(fewest_crossings(&layered(&[3, 4], &complete), 100), 3 * 6);
        let path = [(0, 3), (0, 4), (1, 4), (1, 5), (2, 5)];
        assert_eq!(fewest_crossings(&layered(&[3, 3], &path), 100), 0);
        // Two complete pairs of two, one above the other.
        let tower: Vec<(usize, usize)> = (0..8).map(|i| (i / 4 * 2 + i % 2, i / 4 * 2 + 2 + i / 2 % 2)).collect();
        assert_eq!(fewest_crossings(&layered(&[2, 2, 2], &tower), 100), 2);
    }

    #[test]
    fn agrees_with_trying_every_order() {
        for seed in 0..30 {
            let graph = bathygram_corpus::random_layers(seed * 2);
            if graph.layers.iter().any(|n| *n > 5) {
                continue;
            }
            let (upper, lower) = (orders(graph.layers[0]), orders(graph.layers[1]));
            let crossings = |a: &[usize], b: &[usize]| {
                let place = |(v, w): &(usize, usize)| (a[*v], b[*w - graph.layers[0]]);
                let ends: Vec<(usize, usize)> = graph.edges.iter().map(place).collect();
                ends.iter().map(|(a, b)| ends.iter().filter(|(c, d)| a < c && b > d).count()).sum::<usize>()
            };
            let least = upper.iter().flat_map(|a| lower.iter().map(move |b| crossings(a, b))).min();
            assert_eq!(Some(fewest_crossings(&graph, 1000)), least, "seed {seed}");
        }
    }

    fn orders(n: usize) -> Vec<Vec<usize>> {
        if n == 0 {
            return vec![Vec::new()];
        }
        let shorter = orders(n - 1);
        let put = |o: &Vec<usize>, at: usize| [&o[..at], &[n - 1], &o[at..]].concat();
        shorter.iter().flat_map(|o| (0..n).map(move |at| put(o, at))).collect()
    }
}
