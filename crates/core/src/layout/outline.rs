//! The sides of a thing, and the outline that lines end at. Pure geometry, in px.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::orientation::Orientation;

/// The outline that lines end at.
#[derive(Clone, Debug, PartialEq, Default)]
pub enum Outline {
    /// The rectangle itself.
    #[default]
    Box,
    /// A convex polygon around the middle, in px relative to it.
    Polygon(Vec<Point>),
}

/// One side of a node.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// Above.
    Top,
    /// Below.
    Bottom,
    /// To the left.
    Left,
    /// To the right.
    Right,
}

impl Side {
    /// All of them, by their numbers.
    pub(in crate::layout) const ALL: [Side; 4] = [Side::Top, Side::Bottom, Side::Left, Side::Right];

    /// Its place among all.
    pub(in crate::layout) fn number(self) -> usize {
        match self {
            Side::Top => 0,
            Side::Bottom => 1,
            Side::Left => 2,
            Side::Right => 3,
        }
    }

    /// The side on the other side.
    pub(in crate::layout) fn opposite(self) -> Side {
        match self {
            Side::Top => Side::Bottom,
            Side::Bottom => Side::Top,
            Side::Left => Side::Right,
            Side::Right => Side::Left,
        }
    }

    /// How a line runs that leaves there.
    pub(in crate::layout) fn orientation(self) -> Orientation {
        Orientation::of_vertical(self.is_vertical())
    }

    /// Whether a line that leaves there runs up or down.
    pub(in crate::layout) fn is_vertical(self) -> bool {
        matches!(self, Side::Top | Side::Bottom)
    }

    /// Whether a line that leaves there runs right or down.
    pub(in crate::layout) fn is_forward(self) -> bool {
        matches!(self, Side::Right | Side::Bottom)
    }

    /// Where it lies of a rectangle.
    pub(in crate::layout) fn of(self, rect: Rect) -> f64 {
        match self {
            Side::Top => rect.y,
            Side::Bottom => rect.bottom(),
            Side::Left => rect.x,
            Side::Right => rect.right(),
        }
    }
}

impl Outline {
    /// Where a line parallel to an axis, `offset` px from the middle, leaves the outline on a side:
    /// the distance from the middle, seen in the direction of that side.
    pub fn reach(&self, size: Size, side: Side, offset: f64) -> f64 {
        let vertical = side.is_vertical();
        let full = if vertical { size.h / 2.0 } else { size.w / 2.0 };
        let Outline::Polygon(points) = self else { return full };
        let mut best: Option<f64> = None;
        for (i, a) in points.iter().enumerate() {
            let b = points[(i + 1) % points.len()];
            let (a, b) = if vertical { (*a, b) } else { (pt(a.y, a.x), pt(b.y, b.x)) };
            let (low, high) = (a.x.min(b.x), a.x.max(b.x));
            if offset < low - 1e-9 || offset > high + 1e-9 {
                continue;
            }
            let t = if high - low < 1e-9 { 0.0 } else { (offset - a.x) / (b.x - a.x) };
            for y in if high - low < 1e-9 { [a.y, b.y] } else { [a.y + t * (b.y - a.y); 2] } {
                let outward = if matches!(side, Side::Top | Side::Left) { -y } else { y };
                best = Some(best.map_or(outward, |v: f64| v.max(outward)));
            }
        }
        best.unwrap_or(full)
    }

    /// Where a line on a track at `at`, an x for sides above and below and a y for others, meets a side.
    pub(in crate::layout) fn port(&self, rect: Rect, side: Side, at: f64) -> Point {
        let middle = rect.middle();
        let offset = at - if side.is_vertical() { middle.x } else { middle.y };
        let reach = self.reach(rect.size(), side, offset);
        match side {
            Side::Top => pt(at, middle.y - reach),
            Side::Bottom => pt(at, middle.y + reach),
            Side::Left => pt(middle.x - reach, at),
            Side::Right => pt(middle.x + reach, at),
        }
    }

    /// Its corners in the picture, for a node's rectangle.
    pub fn corners(&self, rect: Rect) -> Vec<Point> {
        let m = rect.middle();
        match self {
            Outline::Box => {
                [(rect.x, rect.y), (rect.right(), rect.y), (rect.right(), rect.bottom()), (rect.x, rect.bottom())]
                    .map(|(x, y)| pt(x, y))
                    .to_vec()
            }
            Outline::Polygon(points) => points.iter().map(|p| pt(m.x + p.x, m.y + p.y)).collect(),
        }
    }

    /// With x and y exchanged.
    pub fn transposed(&self) -> Outline {
        match self {
            Outline::Box => Outline::Box,
            Outline::Polygon(points) => Outline::Polygon(points.iter().map(|p| pt(p.y, p.x)).collect()),
        }
    }

    /// With y mirrored.
    pub fn mirrored(&self) -> Outline {
        match self {
            Outline::Box => Outline::Box,
            Outline::Polygon(points) => Outline::Polygon(points.iter().map(|p| pt(p.x, -p.y)).collect()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_end_at_the_real_outline() {
        let size = Size::new(100.0, 60.0);
        let diamond = Outline::Polygon(vec![pt(0.0, -30.0), pt(50.0, 0.0), pt(0.0, 30.0), pt(-50.0, 0.0)]);
        assert_eq!(diamond.reach(size, Side::Bottom, 0.0), 30.0);
        assert_eq!(diamond.reach(size, Side::Bottom, 25.0), 15.0);
        assert_eq!(diamond.reach(size, Side::Left, 0.0), 50.0);
        assert_eq!(diamond.reach(size, Side::Right, -15.0), 25.0);
        assert_eq!(Outline::Box.reach(size, Side::Top, 13.0), 30.0);
    }
}
