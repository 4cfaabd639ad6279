//! The shortest way for a straight line around what stands in its way, over the corners of boxes (the visibility graph of
//! Lozano-Pérez, Wesley, "An algorithm for planning collision-free paths among polyhedral obstacles", 1979), found by A*
//! without drawing the whole graph: what a corner sees is looked up when the search comes there.
//!
//! Input: corners, two ends and what is free between two points. Output: the points between the ends.

use crate::geom::{Point, Rect, distance, pt};
use crate::layout::outline::Outline;
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// How far a line passes from the corner of a box, in px, and how much further each line after it.
const BESIDE: f64 = 10.0;
const PITCH: f64 = 8.0;
/// What a corner costs, in px of line.
// About the gap between two boxes.
const BEND: f64 = 40.0;
/// How much longer than straight a way may be: a factor, and px.
// Beyond it, a stepped line around everything is easier to follow.
const DETOUR: f64 = 1.6;
const ASIDE: f64 = 160.0;

/// The corners around which lines may turn.
pub(super) struct Corners {
    /// Where each lies, and whereto lines after the first move away.
    all: Vec<(Point, Point)>,
    /// How many lines turn there.
    used: Vec<usize>,
}

impl Corners {
    /// The corners of boxes.
    pub(super) fn new(boxes: impl Iterator<Item = Rect>) -> Self {
        let outward = [pt(-1.0, -1.0), pt(1.0, -1.0), pt(1.0, 1.0), pt(-1.0, 1.0)];
        let all: Vec<(Point, Point)> =
            boxes.flat_map(|r| Outline::Box.corners(r.grown(BESIDE)).into_iter().zip(outward)).collect();
        let used = vec![0; all.len()];
        Self { all, used }
    }

    /// Where the next line turns at a corner.
    fn at(&self, corner: usize) -> Point {
        let (at, out) = self.all[corner];
        let by = PITCH * self.used[corner] as f64;
        pt(at.x + out.x * by, at.y + out.y * by)
    }

    /// The corners of the shortest way, which are taken note of; `seen` says whether the stretch from one point to another is
    /// free, and is told whether these are the ends.
    pub(super) fn way(
        &mut self, start: Point, goal: Point, seen: impl Fn(Point, Point, [bool; 2]) -> bool,
    ) -> Option<Vec<Point>> {
        let reach = distance(start, goal) * DETOUR + ASIDE;
        let is_near = |c: &usize| distance(start, self.at(*c)) + distance(self.at(*c), goal) <= reach;
        let near: Vec<usize> = (0..self.all.len()).filter(is_near).collect();
        // Stops by number: the start, the goal, then corners.
        let place = |i: usize| match i {
            0 => start,
            1 => goal,
            _ => self.at(near[i - 2]),
        };
        let count = near.len() + 2;
        let mut best = vec![f64::INFINITY; count];
        let mut before = vec![usize::MAX; count];
        let mut done = vec![false; count];
        // In 1/64 px, so that the order is total.
        let key = |cost: f64| libm::round(cost * 64.0) as u64;
        let mut open = BinaryHeap::from([(Reverse(key(distance(start, goal))), Reverse(0))]);
        best[0] = 0.0;
        while let Some((_, Reverse(i))) = open.pop() {
            if std::mem::replace(&mut done[i], true) {
                continue;
            }
            if i == 1 {
                break;
            }
            for j in (1..count).filter(|j| *j != i) {
                let bend = if j == 1 { 0.0 } else { BEND };
                let cost = best[i] + distance(place(i), place(j)) + bend;
                if done[j] || cost >= best[j] || !seen(place(i), place(j), [i == 0, j == 1]) {
                    continue;
                }
                (best[j], before[j]) = (cost, i);
                open.push((Reverse(key(cost + distance(place(j), goal))), Reverse(j)));
            }
        }
        let mut at = before[1];
        let mut way = Vec::new();
        while at != 0 {
            let corner = at.checked_sub(2).and_then(|i| near.get(i))?;
            way.push(*corner);
            at = before[at];
        }
        way.reverse();
        let points = way.iter().map(|c| self.at(*c)).collect();
        way.iter().for_each(|c| self.used[*c] += 1);
        Some(points)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::intersections::hits;

    fn way(boxes: &[Rect], start: Point, goal: Point) -> Option<Vec<Point>> {
        let free = |p: Point, q: Point, _: [bool; 2]| !boxes.iter().any(|r| hits(p, q, *r));
        Corners::new(boxes.iter().copied()).way(start, goal, free)
    }

    #[test]
    fn a_free_line_has_no_corner() {
        assert_eq!(way(&[Rect::new(0.0, 50.0, 10.0, 10.0)], pt(0.0, 0.0), pt(100.0, 0.0)), Some(vec![]));
    }

    #[test]
    fn a_line_turns_at_the_nearer_corner() {
        let wall = Rect::new(40.0, -20.0, 20.0, 120.0);
        let way = way(&[wall], pt(0.0, 0.0), pt(100.0, 0.0)).expect("a way");
        assert!(way.iter().all(|p| p.y < -20.0), "above, where it is shorter: {way:?}");
        assert!(way.len() <= 2, "{way:?}");
    }

    #[test]
    fn lines_at_one_corner_lie_apart() {
        let wall = Rect::new(40.0, -20.0, 20.0, 120.0);
        let mut corners = Corners::new(std::iter::once(wall));
        let free = |p: Point, q: Point, _: [bool; 2]| !hits(p, q, wall);
        let first = corners.way(pt(0.0, 0.0), pt(100.0, 0.0), free).expect("a way");
        let second = corners.way(pt(0.0, 10.0), pt(100.0, 10.0), free).expect("a way");
        assert!(first.iter().zip(&second).all(|(a, b)| distance(*a, *b) > 6.0), "{first:?} {second:?}");
    }

    #[test]
    fn what_is_walled_in_has_no_way() {
        let walls =
            [(0.0, 0.0, 100.0, 10.0), (0.0, 90.0, 100.0, 10.0), (0.0, 0.0, 10.0, 100.0), (90.0, 0.0, 10.0, 100.0)];
        let walls = walls.map(|(x, y, w, h)| Rect::new(x, y, w, h));
        assert_eq!(way(&walls, pt(50.0, 50.0), pt(200.0, 50.0)), None);
    }
}
