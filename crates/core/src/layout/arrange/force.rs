//! Stress majorisation: boxes as far from each other as the shortest way between them is long (Gansner, Koren, North,
//! "Graph drawing by stress majorization", 2004), each box moved to where its neighbours would have it, again and again;
//! then overlaps are removed.
//!
//! Deterministic: the start is made of distances, not of chance. Cubic in the number of boxes where they overlap at first, so
//! it is for graphs of up to [`LIMIT`] nodes.

use crate::geom::{Point, Size, distance, pt};
use crate::layout::arrange::fans::Fans;
use crate::layout::neighbourhood::{hops, neighbours, radius};
use crate::layout::separation as separate;

/// Larger graphs are not arranged in this way.
// All pairs are looked at in each round.
pub(in crate::layout) const LIMIT: usize = 400;
/// How often each box is moved.
const ROUNDS: usize = 80;
/// The square around more than this many boxes has at least about this many times their area, the rest being left to lines.
const CROWD: usize = 60;
const ROOM: f64 = 6.0;

/// Middles of boxes.
pub(in crate::layout) fn arrange(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Vec<Point> {
    let fans = Fans::of(sizes, edges, gap);
    let mut at = fans.spread(sizes.len(), &without_fans(&fans.sizes, &fans.edges, gap));
    // Room for everything.
    separate::apart(sizes, &mut at, gap * 0.5);
    at
}

fn without_fans(sizes: &[Size], edges: &[(usize, usize)], gap: f64) -> Vec<Point> {
    let count = sizes.len();
    if count < 2 {
        return vec![pt(0.0, 0.0); count];
    }
    // Most boxes are about as large as the one in the middle; a few are much larger, with what hangs on them.
    let mut radii: Vec<f64> = sizes.iter().map(|s| radius(*s)).collect();
    radii.sort_by(f64::total_cmp);
    let mean = radii.iter().sum::<f64>() / count as f64;
    let mean = mean.min(2.0 * radii[count / 2]);
    let beyond: Vec<f64> = sizes.iter().map(|s| f64::max(0.0, radius(*s) - 2.0 * mean)).collect();
    // 1. Distances between all, and three boxes that lie far apart.
    let neighbours = neighbours(count, edges);
    let hops: Vec<Vec<usize>> = (0..count).map(|v| hops(&neighbours, v)).collect();
    let far = hops.iter().flatten().filter(|h| **h != usize::MAX).max().copied().unwrap_or(1);
    // Where few steps lead everywhere, longer ones make room for many.
    let room = if count > CROWD { ROOM } else { 0.0 };
    let all = sizes.iter().map(|s| (s.w + gap * 0.5) * (s.h + gap * 0.5)).sum::<f64>();
    let unit = f64::max(2.0 * mean + gap, libm::sqrt(all * room) / far as f64);
    // What no way joins stands a little further off than the middle of the picture.
    let apart = far as f64 * 0.6 + 1.0;
    let wanted = |v: usize, w: usize| {
        let steps = if hops[v][w] == usize::MAX { apart } else { hops[v][w] as f64 };
        unit * steps + beyond[v] + beyond[w]
    };
    let mut corners = vec![0];
    while corners.len() < count.min(3) {
        let nearest = |v: usize| corners.iter().map(|c| hops[*c][v]).min();
        let next = (0..count).filter(|v| !corners.contains(v)).max_by_key(|v| (nearest(*v), count - v));
        corners.extend(next);
    }
    // 2. A start: distances to these, the page wider than tall.
    let (second, third) = (corners[1], corners[2.min(corners.len() - 1)]);
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
    for _ in 0..ROUNDS {
        for v in 0..count {
            let (mut sum, mut weight) = (pt(0.0, 0.0), 0.0);
            for w in (0..count).filter(|w| *w != v) {
                let (own, other, ideal) = (at[v], at[w], wanted(w, v));
                let length = distance(own, other).max(1e-3);
                let pull = 1.0 / (ideal * ideal);
                sum.x += pull * (other.x + ideal * (own.x - other.x) / length);
                sum.y += pull * (other.y + ideal * (own.y - other.y) / length);
                weight += pull;
            }
            at[v] = pt(sum.x / weight, sum.y / weight);
        }
    }
    // 4. Room for what is large.
    separate::apart(sizes, &mut at, gap);
    at
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Rect;
    use crate::layout::neighbourhood::hops;

    const SIZE: Size = Size { w: 100.0, h: 40.0 };

    fn placed(count: usize, edges: &[(usize, usize)]) -> Vec<Point> {
        arrange(&vec![SIZE; count], edges, 30.0)
    }

    #[test]
    fn no_two_boxes_overlap() {
        let ring: Vec<(usize, usize)> = (0..30).map(|v| (v, (v + 1) % 30)).collect();
        let all: Vec<(usize, usize)> = (0..12).flat_map(|v| (0..v).map(move |w| (w, v))).collect();
        for (count, edges) in [(30, &ring[..]), (12, &all), (9, &[])] {
            let rects: Vec<Rect> = placed(count, edges).iter().map(|m| Rect::around(*m, SIZE)).collect();
            for (v, rect) in rects.iter().enumerate() {
                assert!(rects[..v].iter().all(|other| !other.meets(*rect)), "{count} boxes");
            }
        }
    }

    #[test]
    fn boxes_far_apart_in_the_graph_are_far_apart_in_the_picture() {
        let path: Vec<(usize, usize)> = (1..12).map(|v| (v - 1, v)).collect();
        let at = placed(12, &path);
        let far = distance(at[0], at[11]);
        for pair in at.windows(2) {
            assert!(distance(pair[0], pair[1]) < far / 4.0);
        }
        assert_eq!(hops(&neighbours(12, &path), 0)[11], 11);
    }

    #[test]
    fn the_same_boxes_come_to_the_same_places() {
        let edges = [(0, 1), (1, 2), (2, 0), (2, 3)];
        assert_eq!(placed(5, &edges), placed(5, &edges));
        assert_eq!(placed(1, &[]), [pt(0.0, 0.0)]);
        assert!(placed(0, &[]).is_empty());
    }
}
