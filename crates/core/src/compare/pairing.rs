//! Pairs of what has a key in common, in near-linear time however much there is.

use std::collections::{BTreeMap, BTreeSet, VecDeque};

/// A key counts as rare if at most this many pairs have it.
const FEW: usize = 64;

/// The pairs of one thing of each side that have a rare key in common, given the keys of both, each with the number of what has
/// it.
pub(super) fn rare_pairs<K: Ord>(sides: [impl IntoIterator<Item = (K, usize)>; 2]) -> BTreeSet<(usize, usize)> {
    let mut holders: BTreeMap<K, [Vec<usize>; 2]> = BTreeMap::new();
    for (which, side) in sides.into_iter().enumerate() {
        for (key, holder) in side {
            holders.entry(key).or_default()[which].push(holder);
        }
    }
    let few = holders.into_values().filter(|[o, n]| o.len().saturating_mul(n.len()) <= FEW);
    few.flat_map(|[o, n]| o.into_iter().flat_map(move |o| n.clone().into_iter().map(move |n| (o, n)))).collect()
}

/// Takes pairs of one key out of two lists, those of one key in their order; in the order of the second list.
pub(super) fn take_pairs<A: Copy, B: Copy, K: Ord>(
    first: &mut Vec<A>, second: &mut Vec<B>, keys: (impl Fn(A) -> K, impl Fn(B) -> K),
) -> Vec<(A, B)> {
    let mut waiting: BTreeMap<K, VecDeque<usize>> = BTreeMap::new();
    for (i, a) in first.iter().enumerate() {
        waiting.entry(keys.0(*a)).or_default().push_back(i);
    }
    let mut is_left = vec![true; first.len()];
    let mut pairs = Vec::new();
    second.retain(|b| {
        let at = waiting.get_mut(&keys.1(*b)).and_then(VecDeque::pop_front);
        if let Some(at) = at {
            is_left[at] = false;
            pairs.push((first[at], *b));
        }
        at.is_none()
    });
    let mut is_left = is_left.into_iter();
    first.retain(|_| is_left.next().unwrap_or(true));
    pairs
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn those_of_one_key_are_paired_in_their_order() {
        let (mut first, mut second) = (vec![10, 21, 12, 33], vec![51, 40, 60, 70]);
        let pairs = take_pairs(&mut first, &mut second, (|a| a % 10, |b| b % 10));
        assert_eq!(pairs, [(21, 51), (10, 40)]);
        assert_eq!((first, second), (vec![12, 33], vec![60, 70]));
    }
}
