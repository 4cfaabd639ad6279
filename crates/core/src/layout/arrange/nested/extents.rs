//! Rectangles as lists of their sides, so that all of them are compared with one at once: trades of cells ask for what meets
//! a line hundreds of thousands of times. Input: rectangles by number. Output: those that meet another one.
//!
//! The sides are rounded outwards: what is given may miss by less than a px, and nothing that meets is left out.

use crate::geom::{Point, Rect};

/// This many are compared at once.
const LANES: usize = 16;

/// From where to where something extends.
#[derive(Clone, Copy)]
pub(super) struct Extent {
    left: f32,
    right: f32,
    top: f32,
    bottom: f32,
}

impl Extent {
    /// That of nothing: it meets nothing.
    const NOTHING: Extent =
        Extent { left: f32::INFINITY, right: f32::NEG_INFINITY, top: f32::INFINITY, bottom: f32::NEG_INFINITY };

    /// That of a stretch.
    pub(super) fn of(p: Point, q: Point) -> Self {
        Self {
            left: (p.x.min(q.x) as f32).next_down(),
            right: (p.x.max(q.x) as f32).next_up(),
            top: (p.y.min(q.y) as f32).next_down(),
            bottom: (p.y.max(q.y) as f32).next_up(),
        }
    }
}

impl From<Rect> for Extent {
    fn from(rect: Rect) -> Self {
        Self::of(Point { x: rect.x, y: rect.y }, Point { x: rect.right(), y: rect.bottom() })
    }
}

/// Many of them, by number.
#[derive(Default)]
pub(super) struct Extents {
    // As many in each as fill whole lanes.
    left: Vec<f32>,
    right: Vec<f32>,
    top: Vec<f32>,
    bottom: Vec<f32>,
}

impl FromIterator<Extent> for Extents {
    fn from_iter<I: IntoIterator<Item = Extent>>(all: I) -> Self {
        let mut extents = Self::default();
        for (i, extent) in all.into_iter().enumerate() {
            if i == extents.left.len() {
                for (list, side) in extents.sides().into_iter().zip(Extent::NOTHING.sides()) {
                    list.resize(i + LANES, side);
                }
            }
            extents.put(i, extent);
        }
        extents
    }
}

impl Extent {
    fn sides(self) -> [f32; 4] {
        [self.left, self.right, self.top, self.bottom]
    }
}

impl Extents {
    fn sides(&mut self) -> [&mut Vec<f32>; 4] {
        [&mut self.left, &mut self.right, &mut self.top, &mut self.bottom]
    }

    /// Gives a number another extent.
    pub(super) fn put(&mut self, i: usize, extent: Extent) {
        self.sides().into_iter().zip(extent.sides()).for_each(|(list, side)| list[i] = side);
    }

    /// The numbers of those that meet an extent, in ascending order.
    pub(super) fn meeting(&self, extent: Extent) -> impl Iterator<Item = usize> + use<'_> {
        let horizontal = lanes(&self.left).zip(lanes(&self.right));
        let vertical = lanes(&self.top).zip(lanes(&self.bottom));
        horizontal.zip(vertical).enumerate().flat_map(move |(chunk, ((left, right), (top, bottom)))| {
            let mut meets = [0_u8; LANES];
            for lane in 0..LANES {
                let across = (left[lane] <= extent.right) & (right[lane] >= extent.left);
                let down = (top[lane] <= extent.bottom) & (bottom[lane] >= extent.top);
                meets[lane] = u8::from(across & down);
            }
            Meeting { first: chunk * LANES, left: u128::from_le_bytes(meets) }
        })
    }
}

fn lanes(list: &[f32]) -> impl Iterator<Item = &[f32; LANES]> {
    list.as_chunks().0.iter()
}

/// The numbers in one row of lanes.
struct Meeting {
    first: usize,
    /// A byte for each lane, 1 where it is still to come.
    left: u128,
}

impl Iterator for Meeting {
    type Item = usize;

    fn next(&mut self) -> Option<usize> {
        if self.left == 0 {
            return None;
        }
        let lane = self.left.trailing_zeros() as usize / 8;
        self.left &= self.left - 1;
        Some(self.first + lane)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;

    #[test]
    fn those_that_meet_are_found_in_their_order() {
        // A diagonal of forty squares of 10 px.
        let square = |i: usize| Rect::new(i as f64 * 10.0, i as f64 * 10.0, 10.0, 10.0);
        let mut all: Extents = (0..40).map(|i| Extent::from(square(i))).collect();
        let meeting = |all: &Extents, p, q| all.meeting(Extent::of(p, q)).collect::<Vec<usize>>();
        assert_eq!(meeting(&all, pt(155.0, 165.0), pt(175.0, 155.0)), [15, 16]);
        assert_eq!(meeting(&all, pt(0.0, 300.0), pt(50.0, 390.0)), [0; 0]);
        assert_eq!(meeting(&all, pt(0.0, 0.0), pt(400.0, 400.0)).len(), 40, "what fills the last lanes is nothing");
        all.put(3, Extent::from(square(20)));
        assert_eq!(meeting(&all, pt(201.0, 201.0), pt(209.0, 209.0)), [3, 20]);
    }

    #[test]
    fn what_touches_meets() {
        let all: Extents = [Extent::of(pt(0.0, 5.0), pt(10.0, 5.0))].into_iter().collect();
        assert_eq!(all.meeting(Extent::of(pt(10.0, 0.0), pt(10.0, 5.0))).count(), 1);
        assert_eq!(all.meeting(Extent::of(pt(11.0, 0.0), pt(11.0, 9.0))).count(), 0);
    }
}
