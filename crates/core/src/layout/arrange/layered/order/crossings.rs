//! How many lines cross between layers, counted with the accumulator tree of Barth, Jünger, Mutzel ("Simple and efficient bilayer
//! cross counting", 2004): n lines between layers of m places take O(n log n + n log m).

use super::{BORDER, Ordering};

impl Ordering<'_> {
    /// All crossings, lines through sides of groups included.
    pub(super) fn crossings(&mut self) -> i64 {
        (1..self.layers.layers.len()).map(|lower| self.crossings_above(lower)).sum()
    }

    /// Crossings between a layer and the one above it.
    pub(super) fn crossings_above(&mut self, lower: usize) -> i64 {
        let states = (self.states[lower - 1], self.states[lower]);
        let (upper_state, lower_state, crossings) = self.counted[lower];
        if (upper_state, lower_state) == states {
            return crossings;
        }
        let crossings = self.count_between(lower - 1, lower);
        self.counted[lower] = (states.0, states.1, crossings);
        crossings
    }

    fn count_between(&self, upper: usize, lower: usize) -> i64 {
        // Doubled places leave room for the sides of groups between the items.
        let mut lines: Vec<(usize, usize, i64)> = Vec::new();
        for &u in &self.layers.layers[upper] {
            for item in self.layers.units[u].items() {
                for link in &self.layers.items[item].down {
                    let lower = self.layers.links[*link].lower;
                    lines.push((2 * self.pos[item] + 2, 2 * self.pos[lower] + 2, 1));
                }
            }
        }
        // Two sides never cross each other, heavy as they are: groups have one order in all layers.
        for (g, (first, last)) in &self.extents[upper] {
            if let Some((low_first, low_last)) = self.extent(lower, *g) {
                lines.push((2 * first + 1, 2 * low_first + 1, BORDER));
                lines.push((2 * last + 3, 2 * low_last + 3, BORDER));
            }
        }
        crossings(lines)
    }
}

/// The crossings of lines between two rows, each with its upper place, its lower place and its weight. Two lines that cross count as
/// often as their weights multiplied say; lines that share a place do not cross.
fn crossings(mut lines: Vec<(usize, usize, i64)>) -> i64 {
    lines.sort_unstable();
    let width = lines.iter().map(|line| line.1).max().unwrap_or(0) + 1;
    // A binary indexed tree: the weights of what ends at a place or before it.
    let mut tree = vec![0i64; width + 1];
    let (mut total, mut sum) = (0, 0);
    for from_one_place in lines.chunk_by(|a, b| a.0 == b.0) {
        for (_, lower, weight) in from_one_place {
            total += (sum - up_to(&tree, lower + 1)) * weight;
        }
        for (_, lower, weight) in from_one_place {
            add(&mut tree, lower + 1, *weight);
            sum += weight;
        }
    }
    total
}

/// The sum of the first so many weights.
fn up_to(tree: &[i64], mut at: usize) -> i64 {
    let mut sum = 0;
    while at > 0 {
        sum += tree[at];
        at &= at - 1;
    }
    sum
}

/// Adds a weight at a place, the first of which is 1.
fn add(tree: &mut [i64], mut at: usize, weight: i64) {
    while at < tree.len() {
        tree[at] += weight;
        at += at & at.wrapping_neg();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn each_pair_that_crosses_is_counted(lines in prop::collection::vec((0usize..12, 0usize..12, 1i64..4), 0..30)) {
            let pairs = lines.iter().enumerate().flat_map(|(i, a)| lines[..i].iter().map(move |b| (a, b)));
            let crossed = pairs.filter(|(a, b)| (a.0 < b.0 && a.1 > b.1) || (a.0 > b.0 && a.1 < b.1));
            prop_assert_eq!(crossings(lines.clone()), crossed.map(|(a, b)| a.2 * b.2).sum::<i64>());
        }
    }
}
