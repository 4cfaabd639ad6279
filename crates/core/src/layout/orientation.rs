//! Whether a stretch of a line, or a strip for lines, runs level or up and down.

use crate::geom::Rect;

/// How a stretch runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) enum Orientation {
    Horizontal,
    Vertical,
}

impl Orientation {
    pub(in crate::layout) fn of_vertical(is_vertical: bool) -> Self {
        if is_vertical { Self::Vertical } else { Self::Horizontal }
    }

    /// The one at a right angle.
    pub(in crate::layout) fn turned(self) -> Self {
        Self::of_vertical(self == Self::Horizontal)
    }

    /// From where to where a rectangle reaches along a stretch.
    pub(in crate::layout) fn along(self, rect: Rect) -> (f64, f64) {
        match self {
            Self::Horizontal => (rect.x, rect.right()),
            Self::Vertical => (rect.y, rect.bottom()),
        }
    }

    /// The same across it.
    pub(in crate::layout) fn across(self, rect: Rect) -> (f64, f64) {
        self.turned().along(rect)
    }
}
