//! Points, sizes and rectangles, in px; x to the right, y down. Small on purpose.

mod path;
mod spatial_index;

pub use path::{Cmd, Path, between, distance};
pub(crate) use spatial_index::SpatialIndex;

/// A point.
#[derive(Clone, Copy, Debug, PartialEq, Default)]
pub struct Point {
    /// To the right.
    pub x: f64,
    /// Down.
    pub y: f64,
}

/// A point from its coordinates.
pub fn pt(x: f64, y: f64) -> Point {
    Point { x, y }
}

/// Width and height.
#[derive(Clone, Copy, Debug, PartialEq, Default)]
pub struct Size {
    /// Width.
    pub w: f64,
    /// Height.
    pub h: f64,
}

impl Point {
    /// The nearest point of the grid.
    pub fn on_grid(self) -> Point {
        pt(on_grid(self.x), on_grid(self.y))
    }
}

impl Size {
    /// A size from width and height.
    pub fn new(w: f64, h: f64) -> Self {
        Self { w, h }
    }

    /// The nearest size of the grid.
    pub fn on_grid(self) -> Self {
        Self { w: on_grid(self.w), h: on_grid(self.h) }
    }

    /// Width and height exchanged.
    pub fn transposed(self) -> Self {
        Self { w: self.h, h: self.w }
    }
}

/// A rectangle with horizontal and vertical sides.
#[derive(Clone, Copy, Debug, PartialEq, Default)]
pub struct Rect {
    /// Left edge.
    pub x: f64,
    /// Top edge.
    pub y: f64,
    /// Width.
    pub w: f64,
    /// Height.
    pub h: f64,
}

impl Rect {
    /// A rectangle from its left top corner and its size.
    pub fn new(x: f64, y: f64, w: f64, h: f64) -> Self {
        Self { x, y, w, h }
    }

    /// A rectangle of a size around its middle.
    pub fn around(middle: Point, size: Size) -> Self {
        Self::new(middle.x - size.w / 2.0, middle.y - size.h / 2.0, size.w, size.h)
    }

    /// The rectangle with two points at opposite corners.
    pub fn between(a: Point, b: Point) -> Self {
        Self::new(a.x.min(b.x), a.y.min(b.y), (a.x - b.x).abs(), (a.y - b.y).abs())
    }

    /// The smallest rectangle around points; `None` without any.
    pub fn around_all(points: impl IntoIterator<Item = Point>) -> Option<Self> {
        points.into_iter().map(|p| Self::new(p.x, p.y, 0.0, 0.0)).reduce(Self::union)
    }

    /// Right edge.
    pub fn right(self) -> f64 {
        self.x + self.w
    }

    /// Bottom edge.
    pub fn bottom(self) -> f64 {
        self.y + self.h
    }

    /// Its width and height.
    pub fn size(self) -> Size {
        Size::new(self.w, self.h)
    }

    /// The middle.
    pub fn middle(self) -> Point {
        pt(self.x + self.w / 2.0, self.y + self.h / 2.0)
    }

    /// The smallest rectangle that holds both.
    pub fn union(self, other: Rect) -> Rect {
        let (x, y) = (self.x.min(other.x), self.y.min(other.y));
        Rect::new(x, y, self.right().max(other.right()) - x, self.bottom().max(other.bottom()) - y)
    }

    /// Grown by `by` on all sides.
    pub fn grown(self, by: f64) -> Rect {
        Rect::new(self.x - by, self.y - by, self.w + 2.0 * by, self.h + 2.0 * by)
    }

    /// Whether the insides of the two meet.
    pub fn meets(self, other: Rect) -> bool {
        self.x < other.right() && other.x < self.right() && self.y < other.bottom() && other.y < self.bottom()
    }

    /// How far apart the two lie across and along, 0 where they share a column, or a row.
    pub fn gap(self, other: Rect) -> Size {
        let across = f64::max(self.x - other.right(), other.x - self.right());
        let along = f64::max(self.y - other.bottom(), other.y - self.bottom());
        Size::new(across.max(0.0), along.max(0.0))
    }

    /// How far a point lies outside of it, 0 inside.
    pub fn distance_to(self, p: Point) -> f64 {
        let gap = self.gap(Rect::new(p.x, p.y, 0.0, 0.0));
        libm::hypot(gap.w, gap.h)
    }

    /// Whether another rectangle lies in this one, sides included.
    pub fn holds(self, other: Rect) -> bool {
        self.x <= other.x && self.y <= other.y && self.right() >= other.right() && self.bottom() >= other.bottom()
    }

    /// With each edge on the grid.
    pub fn on_grid(self) -> Rect {
        let (x, y) = (on_grid(self.x), on_grid(self.y));
        Rect::new(x, y, on_grid(self.right()) - x, on_grid(self.bottom()) - y)
    }

    /// Moved.
    pub fn moved(self, dx: f64, dy: f64) -> Rect {
        Rect::new(self.x + dx, self.y + dy, self.w, self.h)
    }
}

/// The nearest multiple of 1/64 px: layouts keep to it, so that what is equal is equal to the last bit, and a place
/// written with two decimals is read as the same place.
pub fn on_grid(value: f64) -> f64 {
    libm::round(value * 64.0) / 64.0
}

/// The next multiple of four at or above `value`: sizes keep to it.
pub fn up4(value: f64) -> f64 {
    (value / 4.0).ceil() * 4.0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_gap_of_two_rectangles_is_none_where_they_share_a_row_or_a_column() {
        let (a, b) = (Rect::new(0.0, 0.0, 10.0, 10.0), Rect::new(30.0, 5.0, 10.0, 10.0));
        assert_eq!((a.gap(b), b.gap(a)), (Size::new(20.0, 0.0), Size::new(20.0, 0.0)));
        assert_eq!(a.gap(Rect::new(2.0, 50.0, 4.0, 4.0)), Size::new(0.0, 40.0));
        assert_eq!(a.gap(a), Size::new(0.0, 0.0));
    }

    #[test]
    fn what_lies_inside_is_held_off_the_grid_as_well() {
        // Its right side is 2155.85, and less its left one not quite its width.
        let frame = Rect::new(1310.25, 115.25, 845.6, 943.5);
        assert!(frame.right() - frame.x < frame.w);
        assert!(frame.holds(Rect::new(1553.94, 590.85, 64.0, 18.0)) && frame.holds(frame));
        assert!(!frame.holds(frame.moved(0.5, 0.0)) && !frame.holds(frame.grown(0.5)));
    }
}
