//! How stretches of lines, rectangles and texts meet: the tests that measuring and routing share.

use crate::geom::{Point, Rect};
use std::ops::{Mul, Neg, Sub};

/// A coordinate, exact or rounded.
trait Number: Copy + PartialOrd + Sub<Output = Self> + Mul<Output = Self> + Neg<Output = Self> {}

impl Number for f32 {}
impl Number for f64 {}

/// Twice the area of the triangle of three points, signed: positive where they turn clockwise as drawn.
fn cross<N: Number>(a: [N; 2], b: [N; 2], c: [N; 2]) -> N {
    (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
}

/// So far a point lies beside a line at least, as twice the area of the triangle with its ends, in px².
// Coordinates are multiples of 1/64 px, so that real areas are larger by far.
const BESIDE: f64 = 1e-6;

/// Whether two stretches cross at a point inside both: the ends of each lie on two sides of the other.
pub(in crate::layout) fn crosses(p: Point, q: Point, r: Point, s: Point) -> bool {
    let [p, q, r, s] = [p, q, r, s].map(|at| [at.x, at.y]);
    parting([cross(p, q, r), cross(p, q, s)], [cross(r, s, p), cross(r, s, q)]) > BESIDE
}

/// How far two pairs of points both lie on two sides of a line, at the point that is nearest to it. Positive if they do.
// Without branches: which of the four decides is as good as random, and a wrong guess costs more than all of this.
fn parting<N: Number>([a, b]: [N; 2], [c, d]: [N; 2]) -> N {
    let less = |a: N, b: N| if a < b { a } else { b };
    let more = |a: N, b: N| if a > b { a } else { b };
    less(less(more(a, b), more(c, d)), -more(less(a, b), less(c, d)))
}

/// This many stretches are compared at once.
// Enough for any processor to work on several while others are still on their way.
const LANES: usize = 8;

/// So far a point lies beside a line at least where coordinates are rounded, in px²; as [`BESIDE`].
// Products of coordinates up to 20,000 px are off by up to 24 px². An end that is so near to a line touches it: of a line
// 100 px long, less than a third of a px.
const ROUNDED_BESIDE: f32 = 32.0;

/// Some stretches: the x and the y of where each begins, and of where it ends.
// Rounded: of half as many bits, a processor compares twice as many at once. Those that are none have no length, and cross
// nothing.
type Lanes = [[[f32; LANES]; 2]; 2];

/// Many stretches as lists of their coordinates, so that one is compared with all others at once: whoever trades places asks
/// for crossings hundreds of thousands of times.
#[derive(Default)]
pub(in crate::layout) struct Stretches {
    all: Vec<Lanes>,
}

impl FromIterator<(Point, Point)> for Stretches {
    fn from_iter<I: IntoIterator<Item = (Point, Point)>>(all: I) -> Self {
        let mut stretches = Self::default();
        for (i, (from, to)) in all.into_iter().enumerate() {
            if i % LANES == 0 {
                stretches.all.push(Lanes::default());
            }
            stretches.put(i, from, to);
        }
        stretches
    }
}

impl Stretches {
    /// Moves a stretch.
    pub(in crate::layout) fn put(&mut self, i: usize, from: Point, to: Point) {
        for (end, at) in self.all[i / LANES].iter_mut().zip([from, to]) {
            (end[0][i % LANES], end[1][i % LANES]) = (at.x as f32, at.y as f32);
        }
    }

    /// Which of all a stretch crosses: a bit for each, 64 in a word.
    pub(in crate::layout) fn words(&self, i: usize) -> impl Iterator<Item = u64> + use<'_> {
        let ends = self.all[i / LANES].map(|end| end.map(|list| list[i % LANES]));
        let word =
            move |lanes: &[Lanes]| lanes.iter().rev().fold(0, |word, lanes| word << LANES | crossed(ends, lanes));
        self.all.chunks(64 / LANES).map(word)
    }
}

/// Which of some stretches one crosses: a bit for each.
// On its own, so that it becomes a few instructions for all at once wherever it is asked for.
#[inline(never)]
fn crossed([p, q]: [[f32; 2]; 2], [from, to]: &Lanes) -> u64 {
    let mut parted = [0.0; LANES];
    for i in 0..LANES {
        let (r, s) = ([from[0][i], from[1][i]], [to[0][i], to[1][i]]);
        parted[i] = parting([cross(p, q, r), cross(p, q, s)], [cross(r, s, p), cross(r, s, q)]);
    }
    (0..LANES).fold(0, |bits, i| bits | u64::from(parted[i] > ROUNDED_BESIDE) << i)
}

/// Lines that are nearer to each other look like one, in px.
// The width of a line.
const ONE: f64 = 1.5;
/// Stretches that part by more than this many px for each px along them cross, and do not lie on each other.
// Over 30 px, a short stretch, that is the width of a line.
const PARTING: f64 = 0.05;

/// How far two stretches lie on each other, in px.
pub(in crate::layout) fn shared(p: Point, q: Point, r: Point, s: Point) -> f64 {
    let run =
        |a: (f64, f64), b: (f64, f64)| f64::min(a.0.max(a.1), b.0.max(b.1)) - f64::max(a.0.min(a.1), b.0.min(b.1));
    let close = |a: f64, b: f64| (a - b).abs() < ONE;
    let (is_horizontal, is_vertical) = (close(p.y, q.y), close(p.x, q.x));
    if is_horizontal && close(r.y, s.y) && close(p.y, r.y) {
        run((p.x, q.x), (r.x, s.x))
    } else if is_vertical && close(r.x, s.x) && close(p.x, r.x) {
        run((p.y, q.y), (r.y, s.y))
    } else if is_horizontal || is_vertical {
        0.0
    } else {
        shared_at_a_slant(p, q, r, s)
    }
}

/// The same for stretches that are neither horizontal nor vertical.
fn shared_at_a_slant(p: Point, q: Point, r: Point, s: Point) -> f64 {
    let length = libm::hypot(q.x - p.x, q.y - p.y);
    let (x, y) = ((q.x - p.x) / length, (q.y - p.y) / length);
    // How far along the first one a point lies, and how far beside it.
    let of = |at: Point| ((at.x - p.x) * x + (at.y - p.y) * y, (at.x - p.x) * y - (at.y - p.y) * x);
    let (a, b) = (of(r), of(s));
    let (from, to) = if a.0 <= b.0 { (a, b) } else { (b, a) };
    let parting = (to.1 - from.1) / (to.0 - from.0).max(1e-9);
    if parting.abs() > PARTING {
        return 0.0;
    }
    let (mut begin, mut end) = (from.0.max(0.0), to.0.min(length));
    if parting.abs() < 1e-9 {
        return if from.1.abs() < ONE { end - begin } else { 0.0 };
    }
    let place = |beside: f64| from.0 + (beside - from.1) / parting;
    let (near, far) = (place(-ONE), place(ONE));
    begin = begin.max(near.min(far));
    end = end.min(near.max(far));
    (end - begin).max(0.0)
}

/// Whether a stretch enters a rectangle (Liang, Barsky, "A new concept and method for line clipping", 1984).
pub(in crate::layout) fn hits(p: Point, q: Point, rect: Rect) -> bool {
    // Most lie elsewhere, and divisions take time.
    let is_beside = p.x.max(q.x) <= rect.x || p.x.min(q.x) >= rect.right();
    let is_above = p.y.max(q.y) <= rect.y || p.y.min(q.y) >= rect.bottom();
    if is_beside || is_above || rect.w <= 0.0 || rect.h <= 0.0 {
        return false;
    }
    let (mut from, mut to) = (0.0, 1.0);
    for (start, step, low, high) in [(p.x, q.x - p.x, rect.x, rect.right()), (p.y, q.y - p.y, rect.y, rect.bottom())] {
        if step.abs() < 1e-9 {
            if start <= low || start >= high {
                return false;
            }
            continue;
        }
        let (a, b) = ((low - start) / step, (high - start) / step);
        from = f64::max(from, a.min(b));
        to = f64::min(to, a.max(b));
    }
    from < to - 1e-9
}

/// Whether a line runs through a text at its own end.
pub(in crate::layout) fn is_struck(line: &[Point], text: Rect) -> bool {
    line.windows(2).any(|p| hits(p[0], p[1], text))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;
    use proptest::prelude::*;

    #[test]
    fn lines_that_look_like_one_share_a_run() {
        let (p, q) = (pt(0.0, 0.0), pt(300.0, 400.0));
        let beside = |by: f64| (pt(60.0 - 0.8 * by, 80.0 + 0.6 * by), pt(240.0 - 0.8 * by, 320.0 + 0.6 * by));
        let run = |by: f64| shared(p, q, beside(by).0, beside(by).1);
        assert!((run(0.0) - 300.0).abs() < 0.01 && (run(1.0) - 300.0).abs() < 0.01, "{} {}", run(0.0), run(1.0));
        assert_eq!(run(8.0), 0.0);
        assert_eq!(shared(p, q, beside(1.0).1, beside(1.0).0), run(1.0), "whichever way it runs");
        assert_eq!(shared(pt(0.0, 0.0), pt(100.0, 0.0), pt(40.0, 1.0), pt(200.0, 1.0)), 60.0);
    }

    #[test]
    fn lines_that_cross_share_no_run_and_those_that_hardly_part_share_some() {
        let (p, q) = (pt(0.0, 0.0), pt(400.0, 400.0));
        assert_eq!(shared(p, q, pt(0.0, 40.0), pt(400.0, 360.0)), 0.0);
        let run = shared(p, q, pt(0.0, 8.0), pt(400.0, 392.0));
        assert!(run > 20.0 && run < 160.0, "{run}");
    }

    #[test]
    fn a_crossing_lies_inside_both_stretches() {
        let (p, q) = (pt(0.0, 0.0), pt(100.0, 0.0));
        assert!(crosses(p, q, pt(50.0, -10.0), pt(50.0, 10.0)));
        assert!(!crosses(p, q, pt(50.0, 0.0), pt(50.0, 10.0)), "it only touches");
        assert!(!crosses(p, q, pt(100.0, -10.0), pt(100.0, 10.0)), "it passes the end");
        assert!(!crosses(p, q, pt(20.0, 0.0), pt(80.0, 0.0)), "it lies on the other");
        assert!(!crosses(p, q, pt(50.0, 5.0), pt(50.0, 90.0)), "it is beside");
        assert!(!crosses(p, q, p, p), "what has no length crosses nothing");
    }

    /// Points on a grid of 10 px, so that many touch, pass through ends, or lie on each other.
    fn stretches() -> impl Strategy<Value = Vec<(Point, Point)>> {
        let point = || (0..9_i32, 0..9_i32).prop_map(|(x, y)| pt(f64::from(x) * 10.0, f64::from(y) * 10.0));
        proptest::collection::vec((point(), point()), 1..90)
    }

    proptest! {
        /// Compared all at once, stretches cross as they do one by one, and a stretch that was moved as one that was there.
        #[test]
        fn many_at_once_are_the_same_as_one_by_one(all in stretches(), moved in 0..90_usize, to in stretches()) {
            let mut all = all;
            let mut many: Stretches = all.iter().copied().collect();
            let moved = moved % all.len();
            all[moved] = to[0];
            many.put(moved, to[0].0, to[0].1);
            for (i, (p, q)) in all.iter().enumerate() {
                let words: Vec<u64> = many.words(i).collect();
                prop_assert!(words.len() >= all.len().div_ceil(64));
                for (j, (r, s)) in all.iter().enumerate() {
                    let is_set = words[j / 64] >> (j % 64) & 1 == 1;
                    prop_assert_eq!(is_set, crosses(*p, *q, *r, *s), "{} and {}", i, j);
                    prop_assert_eq!(is_set, crosses(*r, *s, *p, *q), "the other way round");
                }
                let beyond = words.iter().map(|word| word.count_ones() as usize).sum::<usize>();
                let counted = all.iter().filter(|(r, s)| crosses(*p, *q, *r, *s)).count();
                prop_assert_eq!(beyond, counted, "places that are none cross nothing");
            }
        }
    }
}
