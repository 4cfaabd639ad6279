//! Circles in a graph, and the fewest uses without which there is none.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

/// Up to this many members the fewest uses are found exactly.
// The time doubles with each member: 2^16 sets take a few milliseconds.
const EXACT: usize = 16;
/// Up to this many members an order is improved.
// Each member is tried at each place, and all pairs are held.
const IMPROVED: usize = 1_000;
/// An order is improved at most so often.
const ROUNDS: usize = 40;

/// Uses of one thing by another, with how many there are of each.
pub(crate) type Uses = BTreeMap<(usize, usize), u32>;

/// Things that use each other, directly or by way of others: strongly connected components of more than one (Tarjan 1972, without
/// calls to itself). In the order of their first members.
pub(crate) fn circles(count: usize, uses: &Uses) -> Vec<Vec<usize>> {
    let mut next: Vec<Vec<usize>> = vec![Vec::new(); count];
    uses.keys().for_each(|(from, to)| next[*from].push(*to));
    const UNSEEN: usize = usize::MAX;
    let (mut index, mut low) = (vec![UNSEEN; count], vec![0; count]);
    let (mut stack, mut is_open) = (Vec::new(), vec![false; count]);
    let mut out = Vec::new();
    let mut counter = 0;
    for start in 0..count {
        if index[start] != UNSEEN {
            continue;
        }
        let mut calls = vec![(start, 0)];
        while let Some((at, edge)) = calls.pop() {
            if edge == 0 {
                (index[at], low[at]) = (counter, counter);
                counter += 1;
                stack.push(at);
                is_open[at] = true;
            } else {
                let done = next[at][edge - 1];
                if is_open[done] {
                    low[at] = low[at].min(low[done]);
                }
            }
            let unseen = (edge..next[at].len()).find(|i| {
                let to = next[at][*i];
                if index[to] != UNSEEN && is_open[to] {
                    low[at] = low[at].min(index[to]);
                }
                index[to] == UNSEEN
            });
            if let Some(i) = unseen {
                calls.push((at, i + 1));
                calls.push((next[at][i], 0));
                continue;
            }
            if low[at] == index[at] {
                let from = stack.iter().rposition(|other| *other == at).unwrap_or(0);
                let mut members = stack.split_off(from);
                members.iter().for_each(|member| is_open[*member] = false);
                members.sort_unstable();
                if members.len() > 1 {
                    out.push(members);
                }
            }
        }
    }
    out.sort();
    out
}

/// The uses between members of a circle without which none is left, as few uses as can be found: exactly for up to 16 members, by
/// a heuristic for more (Eades, Lin, Smyth 1993, improved by moving single members).
pub(crate) fn cuts(members: &[usize], uses: &Uses) -> Vec<(usize, usize)> {
    let place: BTreeMap<usize, usize> = members.iter().enumerate().map(|(i, member)| (*member, i)).collect();
    let within =
        |((from, to), count): (&(usize, usize), &u32)| Some((*place.get(from)?, *place.get(to)?, i64::from(*count)));
    let own: Vec<(usize, usize, i64)> = uses.iter().filter_map(within).collect();
    let order = if members.len() > IMPROVED {
        greedy(members.len(), &own)
    } else {
        let mut weight = vec![vec![0; members.len()]; members.len()];
        own.iter().for_each(|(from, to, count)| weight[*from][*to] += count);
        if members.len() <= EXACT { exact(&weight) } else { improved(greedy(members.len(), &own), &weight) }
    };
    let mut rank = vec![0; members.len()];
    order.iter().enumerate().for_each(|(i, member)| rank[*member] = i);
    let backwards = own.into_iter().filter(|(a, b, count)| *count > 0 && rank[*a] > rank[*b]);
    backwards.map(|(a, b, _)| (members[a], members[b])).collect()
}

/// The order with the fewest uses backwards, by dynamic programming over sets of those that stand first (Lawler 1964).
fn exact(weight: &[Vec<i64>]) -> Vec<usize> {
    let count = weight.len();
    let mut best = vec![(i64::MAX, 0usize); 1 << count];
    best[0] = (0, 0);
    for set in 0..1usize << count {
        let (cost, _) = best[set];
        for member in (0..count).filter(|member| set & (1 << member) == 0) {
            // What it uses of those before it goes backwards.
            let back: i64 = (0..count).filter(|other| set & (1 << other) != 0).map(|other| weight[member][other]).sum();
            let with = set | (1 << member);
            if cost + back < best[with].0 {
                best[with] = (cost + back, member);
            }
        }
    }
    let mut set = (1 << count) - 1;
    let mut out = Vec::new();
    while set != 0 {
        let member = best[set].1;
        out.push(member);
        set &= !(1 << member);
    }
    out.reverse();
    out
}

/// Always the one next that uses the most of those left, less what these use of it.
fn greedy(count: usize, uses: &[(usize, usize, i64)]) -> Vec<usize> {
    let mut surplus = vec![0; count];
    let mut joined: Vec<Vec<(usize, i64)>> = vec![Vec::new(); count];
    for (from, to, count) in uses.iter().filter(|(from, to, _)| from != to) {
        surplus[*from] += count;
        surplus[*to] -= count;
        // Once one of the two is taken, the other has so much less, or more.
        joined[*from].push((*to, *count));
        joined[*to].push((*from, -count));
    }
    let mut left: BTreeSet<(Reverse<i64>, usize)> =
        surplus.iter().enumerate().map(|(member, surplus)| (Reverse(*surplus), member)).collect();
    let mut out = Vec::with_capacity(count);
    while let Some((_, best)) = left.pop_first() {
        out.push(best);
        for (other, change) in &joined[best] {
            if left.remove(&(Reverse(surplus[*other]), *other)) {
                surplus[*other] += change;
                left.insert((Reverse(surplus[*other]), *other));
            }
        }
    }
    out
}

/// Moves single members to where they cost least, until nothing gets better.
fn improved(mut order: Vec<usize>, weight: &[Vec<i64>]) -> Vec<usize> {
    for _ in 0..ROUNDS {
        let mut is_better = false;
        for (member, own_uses) in weight.iter().enumerate() {
            let Some(at) = order.iter().position(|other| *other == member) else { continue };
            order.remove(at);
            // From the front to the back: what was behind it comes before it.
            let mut cost: i64 = order.iter().map(|other| weight[*other][member]).sum();
            let (mut best, mut best_at, mut own) = (i64::MAX, 0, 0);
            for place in 0..=order.len() {
                if cost < best {
                    (best, best_at) = (cost, place);
                }
                if place == at {
                    own = cost;
                }
                if let Some(passed) = order.get(place) {
                    cost += own_uses[*passed] - weight[*passed][member];
                }
            }
            is_better |= best < own;
            order.insert(if best < own { best_at } else { at }, member);
        }
        if !is_better {
            break;
        }
    }
    order
}

#[cfg(test)]
mod tests {
    use super::*;

    fn uses(all: &[(usize, usize, u32)]) -> Uses {
        all.iter().map(|(from, to, count)| ((*from, *to), *count)).collect()
    }

    #[test]
    fn circles_are_found() {
        let uses = uses(&[(0, 1, 1), (1, 2, 1), (2, 0, 1), (2, 3, 1), (3, 4, 1), (4, 3, 1), (5, 0, 1)]);
        assert_eq!(circles(6, &uses), [vec![0, 1, 2], vec![3, 4]]);
        assert!(circles(0, &Uses::new()).is_empty());
    }

    #[test]
    fn a_long_chain_is_no_problem() {
        let chain: Uses = (0..200_000).map(|i| ((i, i + 1), 1)).chain([((200_000, 0), 1)]).collect();
        let circle = circles(200_001, &chain).remove(0);
        assert_eq!(circle.len(), 200_001);
        assert_eq!(cuts(&circle, &chain).len(), 1);
    }

    #[test]
    fn the_fewest_uses_are_cut() {
        let uses = uses(&[(0, 1, 5), (1, 0, 2), (1, 2, 7), (2, 0, 1)]);
        assert_eq!(cuts(&[0, 1, 2], &uses), [(1, 0), (2, 0)]);
    }

    /// What is cut by trying every order.
    fn least(weight: &Uses, count: usize) -> u32 {
        fn orders(left: Vec<usize>, done: &mut Vec<usize>, see: &mut dyn FnMut(&[usize])) {
            if left.is_empty() {
                see(done);
            }
            for member in &left {
                done.push(*member);
                orders(left.iter().copied().filter(|other| other != member).collect(), done, see);
                done.pop();
            }
        }
        let mut best = u32::MAX;
        orders((0..count).collect(), &mut Vec::new(), &mut |order| {
            let rank = |member: &usize| order.iter().position(|other| other == member);
            best = best.min(weight.iter().filter(|((a, b), _)| rank(a) > rank(b)).map(|(_, count)| count).sum());
        });
        best
    }

    #[test]
    fn exact_is_exact_and_the_heuristic_is_near() {
        let mut seed = 7u64;
        let mut random = |below: u64| {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (seed >> 33) % below
        };
        let (mut best, mut near) = (0, 0);
        for _ in 0..60 {
            let pairs = (0..6).flat_map(|a| (0..6).map(move |b| (a, b))).filter(|(a, b)| a != b);
            let all: Uses = pairs.filter_map(|pair| Some((pair, random(9).checked_sub(4)? as u32 + 1))).collect();
            let cost = |cut: &[(usize, usize)]| cut.iter().map(|pair| all[pair]).sum::<u32>();
            let members: Vec<usize> = (0..6).collect();
            let exactly = cost(&cuts(&members, &all));
            assert_eq!(exactly, least(&all, 6));
            let mut weight = vec![vec![0; 6]; 6];
            all.iter().for_each(|((a, b), count)| weight[*a][*b] = i64::from(*count));
            let uses: Vec<(usize, usize, i64)> =
                all.iter().map(|((a, b), count)| (*a, *b, i64::from(*count))).collect();
            let order = improved(greedy(6, &uses), &weight);
            let rank = |member: usize| order.iter().position(|other| *other == member);
            near += all.iter().filter(|((a, b), _)| rank(*a) > rank(*b)).map(|(_, count)| count).sum::<u32>();
            best += exactly;
        }
        assert!(near * 10 <= best * 11, "{near} uses by the heuristic, {best} exactly");
    }
}
