//! Stress majorisation: boxes as far from each other as the shortest way between them is long (Gansner, Koren, North,
//! "Graph drawing by stress majorization", 2004), each box moved to where its neighbours would have it, again and again;
//! then overlaps are removed.
//!
//! Ways are counted from every box up to [`FULL`] boxes, and from [`PIVOTS`] of them above, so that the cost grows with
//! the number of boxes (Brandes, Pich, "Eigensolver methods for progressive multidimensional scaling", 2006, for the
//! choice of pivots). Deterministic: the start is made of distances, not of chance.

use super::boxes::{hops, neighbours, radius};
use super::separate;
use crate::geom::{Point, Size, distance, pt};

/// Up to so many boxes, all distances count.
const FULL: usize = 400;
/// How many pivots there are above that.
const PIVOTS: usize = 40;
/// How often each box is moved.
const ROUNDS: usize = 80;

/// Middles of boxes.
pub(super) fn arrange(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Vec<Point> {
    let count = sizes.len();
    if count < 2 {
        return vec![pt(0.0, 0.0); count];
    }
    let mean = sizes.iter().map(|s| radius(*s)).sum::<f64>() / count as f64;
    let unit = 2.0 * mean + gap;
    // 1. Distances from all, or from pivots that lie far apart.
    let mut pivots = vec![0];
    let mut from = vec![hops(count, edges, 0)];
    let near = |hops: &[usize]| hops.to_vec();
    let mut nearest = near(&from[0]);
    while pivots.len() < if count <= FULL { count } else { PIVOTS } {
        let Some(next) = (0..count).filter(|v| !pivots.contains(v)).max_by_key(|v| (nearest[*v], count - v)) else {
            break;
        };
        let hops = hops(count, edges, next);
        nearest.iter_mut().zip(&hops).for_each(|(n, h)| *n = (*n).min(*h));
        pivots.push(next);
        from.push(hops);
    }
    let far = from.iter().flatten().filter(|h| **h != usize::MAX).max().copied().unwrap_or(1);
    let wanted = |p: usize, v: usize| {
        let hops = if from[p][v] == usize::MAX { far as f64 * 0.6 + 1.0 } else { from[p][v] as f64 };
        unit * hops
    };
    // 2. A start: distances to the two first pivots, the page wider than tall.
    let second = 1.min(pivots.len() - 1);
    let third = 2.min(pivots.len() - 1);
    let mut at: Vec<Point> = (0..count)
        .map(|v| {
            // A little apart, so that boxes with the same distances are not at one place.
            let turn = v as f64 * 2.399_963;
            let x = wanted(0, v) - wanted(second, v);
            let y = wanted(third, v) - (wanted(0, v) + wanted(second, v)) / 2.0;
            pt(x + libm::cos(turn) * unit * 0.3, y + libm::sin(turn) * unit * 0.3)
        })
        .collect();
    // 3. Each box to the weighted mean of where the others want it.
    let neighbours = neighbours(count, edges);
    for _ in 0..ROUNDS {
        for v in 0..count {
            let (mut sum, mut weight) = (pt(0.0, 0.0), 0.0);
            let mut pull = |other: Point, ideal: f64, own: Point| {
                let length = distance(own, other).max(1e-3);
                let w = 1.0 / (ideal * ideal);
                sum.x += w * (other.x + ideal * (own.x - other.x) / length);
                sum.y += w * (other.y + ideal * (own.y - other.y) / length);
                weight += w;
            };
            for (p, pivot) in pivots.iter().enumerate().filter(|(_, pivot)| **pivot != v) {
                pull(at[*pivot], wanted(p, v), at[v]);
            }
            if count > FULL {
                neighbours[v].iter().for_each(|w| pull(at[*w], unit, at[v]));
            }
            if weight > 0.0 {
                at[v] = pt(sum.x / weight, sum.y / weight);
            }
        }
    }
    // 4. Room for everything.
    separate::apart(sizes, &mut at, gap);
    at
}
