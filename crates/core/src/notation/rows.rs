//! Things of a picture by the rows in which they lie, so that what lies on one frame is found without looking at everything.
//! Input: rectangles. Output: those that meet a strip.

use crate::geom::Rect;

/// How high a row is, in px.
// About a box: lower rows hold a tall thing more often than it is looked for.
const HEIGHT: f64 = 64.0;

pub(super) struct Rows {
    top: f64,
    rows: Vec<Vec<Rect>>,
}

impl Rows {
    pub(super) fn new(things: &[Rect]) -> Self {
        let all = things.iter().copied().reduce(Rect::union).unwrap_or_default();
        let count = (all.h / HEIGHT) as usize + 1;
        let mut rows = Self { top: all.y, rows: vec![Vec::new(); count] };
        for thing in things {
            let (from, to) = rows.reach(*thing);
            rows.rows[from..=to].iter_mut().for_each(|row| row.push(*thing));
        }
        rows
    }

    /// What meets a strip; what lies in several of its rows comes several times.
    pub(super) fn meeting(&self, strip: Rect) -> impl Iterator<Item = Rect> + '_ {
        let (from, to) = self.reach(strip);
        self.rows[from..=to].iter().flatten().copied().filter(move |thing| thing.meets(strip))
    }

    /// The first and the last row of a rectangle.
    fn reach(&self, rect: Rect) -> (usize, usize) {
        let row = |y: f64| (((y - self.top) / HEIGHT).max(0.0) as usize).min(self.rows.len() - 1);
        (row(rect.y), row(rect.bottom()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_meets_a_strip_is_found() {
        let things =
            [Rect::new(0.0, 0.0, 10.0, 10.0), Rect::new(20.0, 0.0, 2.0, 900.0), Rect::new(0.0, 500.0, 10.0, 10.0)];
        let rows = Rows::new(&things);
        let meeting = |strip| rows.meeting(strip).collect::<Vec<Rect>>();
        assert_eq!(meeting(Rect::new(0.0, 300.0, 100.0, 4.0)), [things[1]]);
        assert_eq!(meeting(Rect::new(0.0, 500.0, 15.0, 4.0)), [things[2]]);
        assert_eq!(meeting(Rect::new(0.0, -50.0, 100.0, 4.0)), [], "above everything");
        assert!(Rows::new(&[]).meeting(Rect::new(0.0, 0.0, 9.0, 9.0)).next().is_none());
    }
}
