//! Outlines made of lines and cubic curves, in absolute px.

use super::{Point, Rect, pt};

/// One command of a path.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Cmd {
    /// Begins a stretch.
    Move(Point),
    /// A straight line.
    Line(Point),
    /// A cubic Bézier curve: two control points and the end.
    Curve(Point, Point, Point),
    /// Back to where the stretch began.
    Close,
}

impl Cmd {
    /// With every point put elsewhere.
    fn mapped(self, to: impl Fn(Point) -> Point) -> Self {
        match self {
            Cmd::Move(p) => Cmd::Move(to(p)),
            Cmd::Line(p) => Cmd::Line(to(p)),
            Cmd::Curve(a, b, p) => Cmd::Curve(to(a), to(b), to(p)),
            Cmd::Close => Cmd::Close,
        }
    }
}

/// An outline or a line.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Path(pub Vec<Cmd>);

/// Control points of a quarter circle lie this far out, as a part of the radius.
// 4/3 · (√2 − 1): the curve then touches the circle in its middle, too.
const QUARTER: f64 = 0.552_284_75;

impl Path {
    /// Cubic pieces: a point, then two control points and a point for each piece.
    pub fn curves(points: &[Point]) -> Self {
        let begin = points.first().map(|p| Cmd::Move(*p));
        let pieces = points.windows(4).step_by(3).map(|p| Cmd::Curve(p[1], p[2], p[3]));
        Self(begin.into_iter().chain(pieces).collect())
    }

    /// The rectangle around all its points and control points; none if it has none.
    pub fn bounds(&self) -> Option<Rect> {
        let points = self.0.iter().flat_map(|cmd| match cmd {
            Cmd::Move(p) | Cmd::Line(p) => vec![*p],
            Cmd::Curve(a, b, p) => vec![*a, *b, *p],
            Cmd::Close => Vec::new(),
        });
        Rect::around_all(points)
    }

    /// Its stretches as points, curves as eight straight pieces each.
    pub fn flattened(&self) -> Vec<Vec<Point>> {
        let mut all: Vec<Vec<Point>> = Vec::new();
        for cmd in &self.0 {
            match (cmd, all.last_mut()) {
                (Cmd::Move(p), _) => all.push(vec![*p]),
                (Cmd::Line(p), Some(open)) => open.push(*p),
                (Cmd::Curve(a, b, p), Some(open)) => {
                    let from = open.last().copied().unwrap_or_default();
                    open.extend((1..=8).map(|i| {
                        let t = f64::from(i) / 8.0;
                        let [u, v, w] = [between(from, *a, t), between(*a, *b, t), between(*b, *p, t)];
                        between(between(u, v, t), between(v, w, t), t)
                    }));
                }
                _ => {}
            }
        }
        all
    }

    /// A line through points.
    pub fn line(points: &[Point]) -> Self {
        let cmd = |(i, p): (usize, &Point)| if i == 0 { Cmd::Move(*p) } else { Cmd::Line(*p) };
        Self(points.iter().enumerate().map(cmd).collect())
    }

    /// A closed polygon.
    pub fn polygon(points: &[Point]) -> Self {
        Self(Self::line(points).0.into_iter().chain([Cmd::Close]).collect())
    }

    /// A rectangle.
    pub fn rect(r: Rect) -> Self {
        Self::polygon(&[pt(r.x, r.y), pt(r.right(), r.y), pt(r.right(), r.bottom()), pt(r.x, r.bottom())])
    }

    /// A rectangle with round corners of one radius.
    pub fn rounded(r: Rect, radius: f64) -> Self {
        let q = radius.min(r.w / 2.0).min(r.h / 2.0);
        if q <= 0.0 {
            return Self::rect(r);
        }
        let k = q * (1.0 - QUARTER);
        let (x, y, right, bottom) = (r.x, r.y, r.right(), r.bottom());
        Self(vec![
            Cmd::Move(pt(x + q, y)),
            Cmd::Line(pt(right - q, y)),
            Cmd::Curve(pt(right - k, y), pt(right, y + k), pt(right, y + q)),
            Cmd::Line(pt(right, bottom - q)),
            Cmd::Curve(pt(right, bottom - k), pt(right - k, bottom), pt(right - q, bottom)),
            Cmd::Line(pt(x + q, bottom)),
            Cmd::Curve(pt(x + k, bottom), pt(x, bottom - k), pt(x, bottom - q)),
            Cmd::Line(pt(x, y + q)),
            Cmd::Curve(pt(x, y + k), pt(x + k, y), pt(x + q, y)),
            Cmd::Close,
        ])
    }

    /// A rectangle with its two upper corners round.
    pub fn rounded_above(r: Rect, radius: f64) -> Self {
        let q = radius.min(r.w / 2.0).min(r.h);
        let k = q * (1.0 - QUARTER);
        let (x, y, right, bottom) = (r.x, r.y, r.right(), r.bottom());
        Self(vec![
            Cmd::Move(pt(x, bottom)),
            Cmd::Line(pt(x, y + q)),
            Cmd::Curve(pt(x, y + k), pt(x + k, y), pt(x + q, y)),
            Cmd::Line(pt(right - q, y)),
            Cmd::Curve(pt(right - k, y), pt(right, y + k), pt(right, y + q)),
            Cmd::Line(pt(right, bottom)),
            Cmd::Close,
        ])
    }

    /// An ellipse that fills a rectangle.
    pub fn ellipse(r: Rect) -> Self {
        let (m, a, b) = (r.middle(), r.w / 2.0, r.h / 2.0);
        let (ka, kb) = (a * QUARTER, b * QUARTER);
        Self(vec![
            Cmd::Move(pt(m.x - a, m.y)),
            Cmd::Curve(pt(m.x - a, m.y - kb), pt(m.x - ka, m.y - b), pt(m.x, m.y - b)),
            Cmd::Curve(pt(m.x + ka, m.y - b), pt(m.x + a, m.y - kb), pt(m.x + a, m.y)),
            Cmd::Curve(pt(m.x + a, m.y + kb), pt(m.x + ka, m.y + b), pt(m.x, m.y + b)),
            Cmd::Curve(pt(m.x - ka, m.y + b), pt(m.x - a, m.y + kb), pt(m.x - a, m.y)),
            Cmd::Close,
        ])
    }

    /// A line through points with its corners rounded by at most `radius`.
    pub fn rounded_line(points: &[Point], radius: f64) -> Self {
        // Two for each corner, one for each end.
        let mut out = Vec::with_capacity((2 * points.len()).saturating_sub(2));
        for (i, p) in points.iter().enumerate() {
            if i == 0 {
                out.push(Cmd::Move(*p));
                continue;
            }
            let Some(next) = points.get(i + 1) else {
                out.push(Cmd::Line(*p));
                continue;
            };
            let before = points[i - 1];
            let (a, b) = (distance(before, *p), distance(*p, *next));
            // A corner may use half of a stretch that has another corner at its other end.
            let half = |d: f64, at_end: bool| if at_end { d } else { d / 2.0 };
            let r = radius.min(half(a, i == 1)).min(half(b, i + 2 == points.len()));
            let share = |d: f64| if d > 0.0 { r / d } else { 0.0 };
            let (from, to) = (between(*p, before, share(a)), between(*p, *next, share(b)));
            out.push(Cmd::Line(from));
            out.push(Cmd::Curve(between(from, *p, QUARTER), between(to, *p, QUARTER), to));
        }
        Self(out)
    }

    /// Scaled, then moved.
    pub fn placed(&self, scale: f64, dx: f64, dy: f64) -> Self {
        self.mapped(|p| pt(p.x * scale + dx, p.y * scale + dy))
    }

    /// With every point put elsewhere.
    pub fn mapped(&self, to: impl Fn(Point) -> Point) -> Self {
        Self(self.0.iter().map(|cmd| cmd.mapped(&to)).collect())
    }

    /// All its points, control points too.
    pub fn points(&self) -> impl Iterator<Item = Point> {
        self.0
            .iter()
            .flat_map(|c| match *c {
                Cmd::Move(p) | Cmd::Line(p) => [Some(p), None, None],
                Cmd::Curve(a, b, p) => [Some(a), Some(b), Some(p)],
                Cmd::Close => [None; 3],
            })
            .flatten()
    }

    /// Adds another path.
    pub fn and(mut self, other: Path) -> Self {
        self.0.extend(other.0);
        self
    }
}

/// The point that lies at this share of the way from `a` to `b`.
pub fn between(a: Point, b: Point, share: f64) -> Point {
    pt(a.x + (b.x - a.x) * share, a.y + (b.y - a.y) * share)
}

/// The distance of two points.
pub fn distance(a: Point, b: Point) -> f64 {
    libm::hypot(a.x - b.x, a.y - b.y)
}
