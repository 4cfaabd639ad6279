//! A picture divided into square cells that know what lies in them, so that what is near a place is found without looking
//! at everything. Things are known by numbers that their owner gives them.

use super::{Point, Rect, distance};

/// Cells are not made smaller than this, in px.
// About the height of a box: smaller cells hold the same thing many times over.
const SMALLEST: f64 = 64.0;
/// Things lie in so many cells each, in the mean, before cells are made larger.
const MOST_CELLS: usize = 24;

/// The cells of a picture.
pub(crate) struct SpatialIndex {
    bounds: Rect,
    /// The side of a cell, in px.
    side: f64,
    columns: usize,
    held: Vec<Vec<usize>>,
}

impl SpatialIndex {
    /// Cells for about this many things within bounds; what lies beyond belongs to the outermost cells.
    pub(crate) fn new(bounds: Rect, count: usize) -> Self {
        let side = libm::sqrt(bounds.w * bounds.h / (count + 1) as f64);
        // A picture like a thread still has no more cells along than it has things.
        Self::with_side(bounds, side.max(bounds.w.max(bounds.h) / (count + 1) as f64).max(SMALLEST))
    }

    fn with_side(bounds: Rect, side: f64) -> Self {
        let (columns, rows) = ((bounds.w / side) as usize + 1, (bounds.h / side) as usize + 1);
        Self { bounds, side, columns, held: vec![Vec::new(); columns * rows] }
    }

    /// The cells of these rectangles, each known by its number.
    pub(crate) fn of(rects: &[Rect]) -> Self {
        Self::of_both(rects, &[])
    }

    /// The cells of rectangles and of stretches, each known by its number; stretches count on from the rectangles.
    pub(crate) fn of_both(rects: &[Rect], stretches: &[[Point; 2]]) -> Self {
        let around = stretches.iter().map(|[p, q]| Rect::between(*p, *q));
        let bounds = rects.iter().copied().chain(around).reduce(Rect::union).unwrap_or_default();
        let count = rects.len() + stretches.len();
        let mut index = Self::new(bounds, count);
        // Where things are long, as lines are, larger cells hold each of them less often.
        let touched = |side: f64| {
            rects.iter().map(|r| (r.w / side + 1.0) * (r.h / side + 1.0)).sum::<f64>()
                + stretches.iter().map(|[p, q]| 2.0 * distance(*p, *q) / side + 1.0).sum::<f64>()
        };
        let side = index.side;
        while touched(index.side) > (MOST_CELLS * count) as f64 && index.side < bounds.w.max(bounds.h) {
            index.side *= 2.0;
        }
        if index.side > side {
            index = Self::with_side(bounds, index.side);
        }
        rects.iter().enumerate().for_each(|(i, rect)| index.add(*rect, i));
        stretches.iter().enumerate().for_each(|(i, [p, q])| index.add_along(*p, *q, rects.len() + i));
        index
    }

    /// Puts a thing into all cells that its rectangle touches.
    pub(crate) fn add(&mut self, rect: Rect, thing: usize) {
        for cell in self.touched(rect) {
            if self.held[cell].last() != Some(&thing) {
                self.held[cell].push(thing);
            }
        }
    }

    /// Takes it out again.
    pub(crate) fn remove(&mut self, rect: Rect, thing: usize) {
        for cell in self.touched(rect) {
            self.held[cell].retain(|t| *t != thing);
        }
    }

    /// Puts a thing into the cells along a stretch.
    pub(crate) fn add_along(&mut self, p: Point, q: Point, thing: usize) {
        pieces(p, q, self.side).for_each(|piece| self.add(piece, thing));
    }

    /// What may touch a rectangle, each thing once, in the order of numbers.
    pub(crate) fn near(&self, rect: Rect) -> Vec<usize> {
        let mut things: Vec<usize> = self.touching(rect).collect();
        things.sort_unstable();
        things.dedup();
        things
    }

    /// The same in no order; a thing in several cells comes several times.
    pub(crate) fn touching(&self, rect: Rect) -> impl Iterator<Item = usize> + '_ {
        self.touched(rect).flat_map(|cell| self.held[cell].iter().copied())
    }

    /// What may lie within `reach` px of a stretch; a thing in several cells comes several times.
    pub(crate) fn along(&self, p: Point, q: Point, reach: f64) -> impl Iterator<Item = usize> + '_ {
        let cells = pieces(p, q, self.side).flat_map(move |piece| self.touched(piece.grown(reach)));
        cells.flat_map(|cell| self.held[cell].iter().copied())
    }

    fn touched(&self, rect: Rect) -> impl Iterator<Item = usize> + use<> {
        let rows = self.held.len() / self.columns;
        let cell = |v: f64, count: usize| ((v / self.side).max(0.0) as usize).min(count - 1);
        let within = |from: f64, to: f64, count: usize| cell(from, count)..=cell(to, count);
        let across = within(rect.x - self.bounds.x, rect.right() - self.bounds.x, self.columns);
        let down = within(rect.y - self.bounds.y, rect.bottom() - self.bounds.y, rows);
        let columns = self.columns;
        down.flat_map(move |row| across.clone().map(move |column| row * columns + column))
    }
}

/// The rectangles around pieces of a stretch that are no longer than a cell.
fn pieces(p: Point, q: Point, side: f64) -> impl Iterator<Item = Rect> {
    let count = libm::ceil((p.x - q.x).abs().max((p.y - q.y).abs()) / side).max(1.0);
    let at = move |i: f64| Point { x: p.x + (q.x - p.x) * i / count, y: p.y + (q.y - p.y) * i / count };
    (0..count as usize).map(move |i| Rect::between(at(i as f64), at(i as f64 + 1.0)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;

    #[test]
    fn what_is_near_is_found_and_what_is_far_is_not() {
        let mut cells = SpatialIndex::new(Rect::new(0.0, 0.0, 1000.0, 1000.0), 100);
        cells.add(Rect::new(10.0, 10.0, 30.0, 30.0), 0);
        cells.add(Rect::new(110.0, 110.0, 120.0, 20.0), 1);
        cells.add_along(pt(0.0, 0.0), pt(1000.0, 1000.0), 2);
        assert_eq!(cells.near(Rect::new(20.0, 20.0, 4.0, 4.0)), [0, 2]);
        assert_eq!(cells.near(Rect::new(150.0, 115.0, 40.0, 4.0)), [1, 2]);
        assert_eq!(cells.near(Rect::new(900.0, 20.0, 4.0, 4.0)), [0; 0]);
        assert!(cells.along(pt(900.0, 20.0), pt(900.0, 990.0), 1.0).all(|t| t == 2));
        cells.remove(Rect::new(110.0, 110.0, 120.0, 20.0), 1);
        assert_eq!(cells.near(Rect::new(150.0, 115.0, 40.0, 4.0)), [2]);
        // Beyond the bounds everything is near the outermost cells.
        cells.add(Rect::new(-500.0, 20.0, 40.0, 10.0), 3);
        assert!(cells.near(Rect::new(-480.0, 25.0, 1.0, 1.0)).contains(&3));
    }

    #[test]
    fn what_touches_is_what_is_near_each_in_all_its_cells() {
        let mut cells = SpatialIndex::new(Rect::new(0.0, 0.0, 400.0, 300.0), 24);
        for i in 0..24 {
            let at = i as f64;
            cells.add(Rect::new(at * 15.0, at * 9.0, 40.0 + at * 3.0, 30.0), i);
        }
        for asked in
            [Rect::new(0.0, 0.0, 60.0, 60.0), Rect::new(120.0, 40.0, 200.0, 180.0), Rect::new(390.0, 290.0, 4.0, 4.0)]
        {
            let mut touching: Vec<usize> = cells.touching(asked).collect();
            touching.sort_unstable();
            let often = touching.len();
            touching.dedup();
            assert_eq!(touching, cells.near(asked), "{asked:?}");
            assert!(often >= touching.len());
        }
    }
}
