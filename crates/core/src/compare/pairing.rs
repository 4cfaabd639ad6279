//! Pairs of what has the same key, in near-linear time however much there is.

use std::collections::{BTreeMap, VecDeque};

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
