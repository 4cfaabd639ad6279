//! The longest part of a list that keeps its order.

/// Which of some things keep their order, given their places now in the order of their places then: a longest increasing
/// subsequence (O(n log n)).
pub(crate) fn kept(places: &[usize]) -> Vec<bool> {
    let mut tails: Vec<usize> = Vec::new();
    let mut before: Vec<Option<usize>> = vec![None; places.len()];
    for (i, place) in places.iter().enumerate() {
        let at = tails.partition_point(|t| places[*t] < *place);
        before[i] = at.checked_sub(1).map(|b| tails[b]);
        if at == tails.len() { tails.push(i) } else { tails[at] = i }
    }
    let mut kept = vec![false; places.len()];
    let mut at = tails.last().copied();
    while let Some(i) = at {
        kept[i] = true;
        at = before[i];
    }
    kept
}
