//! The line of an edge, and the places of its texts.

use crate::geom::{Point, Rect, pt};

/// How many straight stretches stand for one piece of a curve.
// A quarter circle of 90 px then lies within 0.2 px of its stretches.
const PIECES: usize = 12;

/// A line and the places of its texts.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Route {
    /// Corners, from the beginning to the end; of a curved line a point, then two control points and a point for each
    /// cubic piece.
    pub points: Vec<Point>,
    /// Whether the points are those of curves.
    pub curved: bool,
    /// Its label.
    pub label: Option<Rect>,
    /// Texts at its beginning and its end.
    pub end_labels: [Option<Rect>; 2],
}

impl Route {
    /// How often the line turns.
    pub fn bends(&self) -> usize {
        if self.curved { self.points.len() / 6 } else { self.points.len().saturating_sub(2) }
    }

    /// The places of its texts.
    pub fn texts(&self) -> impl Iterator<Item = &Rect> + '_ {
        self.label.iter().chain(self.end_labels.iter().flatten())
    }

    /// The smallest rectangle around its corners and its texts; `None` if it has neither.
    pub(in crate::layout) fn bounds(&self) -> Option<Rect> {
        Rect::around_all(self.points.iter().copied()).into_iter().chain(self.texts().copied()).reduce(Rect::union)
    }

    /// Applies a change to every place.
    pub(in crate::layout) fn map(&mut self, point: impl Fn(Point) -> Point, rect: impl Fn(Rect) -> Rect) {
        self.points.iter_mut().for_each(|p| *p = point(*p));
        self.label.iter_mut().chain(self.end_labels.iter_mut().flatten()).for_each(|r| *r = rect(*r));
    }

    /// The line as straight stretches.
    pub fn polyline(&self) -> Vec<Point> {
        if !self.curved {
            return self.points.clone();
        }
        let mut line: Vec<Point> = self.points.first().copied().into_iter().collect();
        for piece in self.points.windows(4).step_by(3) {
            for i in 1..=PIECES {
                let t = i as f64 / PIECES as f64;
                let u = 1.0 - t;
                let w = [u * u * u, 3.0 * u * u * t, 3.0 * u * t * t, t * t * t];
                let sum = |f: fn(&Point) -> f64| piece.iter().zip(w).map(|(p, w)| f(p) * w).sum();
                line.push(pt(sum(|p| p.x), sum(|p| p.y)));
            }
        }
        line
    }
}

/// Without points that change nothing.
pub(in crate::layout) fn tidied(points: Vec<Point>) -> Vec<Point> {
    let mut out: Vec<Point> = Vec::new();
    for p in points {
        if out.last().is_some_and(|l| (l.x - p.x).abs() < 0.01 && (l.y - p.y).abs() < 0.01) {
            continue;
        }
        if let [.., a, b] = out.as_slice() {
            let straight = (a.x == b.x && b.x == p.x) || (a.y == b.y && b.y == p.y);
            if straight {
                out.pop();
            }
        }
        out.push(p);
    }
    out
}
