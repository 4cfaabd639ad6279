//! Lines as a hand draws them: never quite straight, outlines twice. Input: a path and what it belongs to. Output: the same
//! path, a little beside itself; the same path of the same thing always in the same way, whatever else is in the picture.

use crate::geom::{Cmd, Path, Point, distance, pt};
use crate::scene::Stroke;
use crate::theme::Dash;
use sha2::{Digest, Sha256};

/// A stretch bends this far at most in its middle, in px, and this much for each px of its length.
// What a steady hand does: seen, and never in the way.
const BEND: f64 = 1.6;
const BEND_PER_PX: f64 = 0.012;
/// Corners of closed outlines are missed by this much at most.
const MISS: f64 = 0.9;
/// Stretches shorter than this are drawn in one, and hardly bend: arrow heads, pictograms.
const SHORT: f64 = 14.0;
/// A long line bends more than once: each this many px.
const REACH: f64 = 140.0;
/// Outlines thinner than this, and small ones, are drawn once.
const TWICE: f64 = 1.0;
const SMALL: f64 = 24.0;

/// A hand that draws the parts of one thing.
pub(super) struct Hand {
    key: String,
    parts: usize,
    /// How far bends of a long line are apart, in px.
    reach: f64,
}

/// How many bends a path has, usually.
pub(super) fn bends(path: &Path) -> f64 {
    let (mut length, mut at) = (0.0, Point::default());
    for cmd in &path.0 {
        match cmd {
            Cmd::Move(p) => at = *p,
            Cmd::Line(p) | Cmd::Curve(_, _, p) => {
                length += distance(at, *p);
                at = *p;
            }
            Cmd::Close => {}
        }
    }
    length / REACH
}

impl Hand {
    /// For the thing of this key; bends are `coarse` times further apart than usual.
    pub(super) fn new(key: &str, coarse: f64) -> Self {
        Self { key: key.to_owned(), parts: 0, reach: REACH * coarse }
    }

    /// A key for the next part.
    pub(super) fn part(&mut self) -> String {
        self.parts += 1;
        format!("{}/{}", self.key, self.parts)
    }

    /// A path as a hand draws it, and once more if it is an outline.
    pub(super) fn drawn(&mut self, path: &Path, stroke: Stroke) -> (Path, Option<Path>) {
        let mut wobble = Wobble::new(&self.part(), self.reach);
        let first = wobble.along(path);
        let is_closed = matches!(path.0.last(), Some(Cmd::Close));
        let is_large = path.bounds().is_some_and(|r| r.w.min(r.h) > SMALL);
        let is_twice = is_closed && is_large && stroke.dash == Dash::Solid && stroke.width >= TWICE;
        (first, is_twice.then(|| wobble.along(path)))
    }
}

/// Small numbers that look as if by chance (a 64-bit linear congruential generator, with the multiplier of Knuth's MMIX).
struct Wobble {
    seed: u64,
    reach: f64,
}

impl Wobble {
    fn new(key: &str, reach: f64) -> Self {
        // The same on every machine, and unlike for keys that are nearly the same.
        let digest = Sha256::digest(key.as_bytes());
        Self { seed: digest.iter().take(8).fold(0, |seed, byte| seed << 8 | u64::from(*byte)), reach }
    }

    /// Between -1 and 1.
    fn next(&mut self) -> f64 {
        self.seed = self.seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.seed >> 40) as f64 / f64::from(1_u32 << 23) - 1.0
    }

    fn near(&mut self, p: Point, by: f64) -> Point {
        pt(p.x + by * self.next(), p.y + by * self.next())
    }

    fn along(&mut self, path: &Path) -> Path {
        let is_closed = matches!(path.0.last(), Some(Cmd::Close));
        let is_small = path.bounds().is_none_or(|r| r.w.max(r.h) < SMALL);
        // Lines end where they should: an arrow head stands there.
        let miss = if is_small {
            0.25
        } else if is_closed {
            MISS
        } else {
            0.0
        };
        let mut out = Vec::with_capacity(path.0.len());
        let (mut begin, mut at) = (Point::default(), Point::default());
        for cmd in &path.0 {
            match cmd {
                Cmd::Move(p) => {
                    (begin, at) = (*p, *p);
                    out.push(Cmd::Move(self.near(*p, miss)));
                }
                Cmd::Line(p) => {
                    self.straight(at, *p, miss, &mut out);
                    at = *p;
                }
                Cmd::Curve(a, b, p) => {
                    let by = if is_small { 0.25 } else { MISS.min(distance(at, *p) * 0.08) };
                    out.push(Cmd::Curve(self.near(*a, by), self.near(*b, by), self.near(*p, miss)));
                    at = *p;
                }
                Cmd::Close => {
                    if distance(at, begin) > 0.5 {
                        self.straight(at, begin, miss, &mut out);
                    }
                    at = begin;
                }
            }
        }
        Path(out)
    }

    /// A stretch that is not quite straight, and ends near its end.
    fn straight(&mut self, from: Point, to: Point, miss: f64, out: &mut Vec<Cmd>) {
        let length = distance(from, to);
        if length < SHORT {
            out.push(Cmd::Line(self.near(to, miss)));
            return;
        }
        let count = (length / self.reach).ceil().max(1.0) as usize;
        let (x, y) = ((to.x - from.x) / length, (to.y - from.y) / length);
        let step = length / count as f64;
        let bend = BEND.min(0.3 + BEND_PER_PX * step);
        let at = |along: f64, beside: f64| pt(from.x + x * along - y * beside, from.y + y * along + x * beside);
        for i in 0..count {
            let begin = step * i as f64;
            let (a, b) = (bend * self.next(), bend * self.next());
            let end = if i + 1 == count { self.near(to, miss) } else { at(begin + step, 0.5 * bend * self.next()) };
            out.push(Cmd::Curve(at(begin + step * 0.3, a), at(begin + step * 0.7, b), end));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Rect;
    use crate::theme::Paint;

    fn stroke() -> Stroke {
        Stroke::solid(Paint::Outline, 1.25)
    }

    #[test]
    fn the_same_thing_is_drawn_the_same_way_and_another_one_is_not() {
        let path = Path::rect(Rect::new(0.0, 0.0, 120.0, 60.0));
        let of = |key: &str| Hand::new(key, 1.0).drawn(&path, stroke());
        assert_eq!(of("gauge"), of("gauge"));
        assert_ne!(of("gauge"), of("buoy"));
        assert_ne!(of("gauge").1, Some(of("gauge").0), "the second time is not the first");
    }

    #[test]
    fn a_line_ends_where_it_should_and_is_nowhere_far_from_itself() {
        let line = Path::line(&[pt(0.0, 0.0), pt(400.0, 0.0), pt(400.0, 90.0)]);
        let (drawn, again) = Hand::new("a calls b", 1.0).drawn(&line, stroke());
        assert_eq!(again, None);
        let points: Vec<Point> = drawn.flattened().into_iter().flatten().collect();
        assert_eq!((points.first(), points.last()), (Some(&pt(0.0, 0.0)), Some(&pt(400.0, 90.0))));
        let is_near = |p: &Point| p.y.abs() < 2.0 || (p.x - 400.0).abs() < 2.0;
        assert!(points.iter().all(is_near), "{points:?}");
    }

    #[test]
    fn a_drawing_with_many_long_lines_bends_them_less_often() {
        let line = Path::line(&[pt(0.0, 0.0), pt(2_800.0, 0.0)]);
        let of = |coarse: f64| Hand::new("a calls b", coarse).drawn(&line, stroke()).0.0.len();
        assert_eq!((of(1.0), of(4.0)), (21, 6));
        assert_eq!(bends(&line), 20.0);
    }
}
