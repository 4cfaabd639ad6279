//! What a figure on a frame's outline must keep clear of: the lines that cross the outline, and their texts. Horizontal
//! stretches are left out, since a frame may meet them.

use crate::geom::{Point, Rect, SpatialIndex, between, distance};
use crate::layout::Route;

/// A slanted stretch is looked at in pieces of this length, in px: the rectangle around all of it is mostly empty.
const PIECE: f64 = 8.0;

/// Vertical and slanted stretches of lines, and texts of lines.
pub(super) struct InTheWay {
    texts: Vec<Rect>,
    stretches: Vec<[Point; 2]>,
    /// Texts, then stretches.
    index: SpatialIndex,
}

impl InTheWay {
    /// Of these lines.
    pub(super) fn new(routes: &[Route]) -> Self {
        let texts: Vec<Rect> = routes.iter().flat_map(Route::texts).copied().collect();
        let mut stretches = Vec::new();
        for route in routes {
            stretches.extend(route.polyline().windows(2).map(|p| [p[0], p[1]]).filter(|[a, b]| a.y != b.y));
        }
        Self { index: SpatialIndex::of_both(&texts, &stretches), texts, stretches }
    }

    /// Whether a line or a text is in a place.
    pub(super) fn meets(&self, room: Rect) -> bool {
        self.index.touching(room).any(|thing| match self.texts.get(thing) {
            Some(text) => text.meets(room),
            None => runs_through(self.stretches[thing - self.texts.len()], room),
        })
    }

    /// Whether a line is in a place.
    pub(super) fn is_crossed(&self, room: Rect) -> bool {
        let mut lines = self.index.touching(room).filter_map(|thing| thing.checked_sub(self.texts.len()));
        lines.any(|line| runs_through(self.stretches[line], room))
    }
}

/// Whether a stretch that is not horizontal runs through a place.
fn runs_through([a, b]: [Point; 2], room: Rect) -> bool {
    if a.x == b.x {
        return Rect::between(a, b).meets(room);
    }
    let count = libm::ceil(distance(a, b) / PIECE).max(1.0);
    // Only the pieces beside the place can meet it.
    let part = |v: f64, from: f64, to: f64| ((v - from) / (to - from)).clamp(0.0, 1.0) * count;
    let (left, right) = (part(room.x, a.x, b.x), part(room.right(), a.x, b.x));
    let (upper, lower) = (part(room.y, a.y, b.y), part(room.bottom(), a.y, b.y));
    let first = left.min(right).max(upper.min(lower)) - 2.0;
    let last = left.max(right).min(upper.max(lower)) + 2.0;
    let at = |i: usize| between(a, b, i as f64 / count);
    let mut pieces = first.max(0.0) as usize..(last.max(0.0) as usize).min(count as usize);
    pieces.any(|i| Rect::between(at(i), at(i + 1)).meets(room))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::{Size, pt};

    fn way(points: Vec<Point>) -> InTheWay {
        InTheWay::new(&[Route { points, ..Route::default() }])
    }

    #[test]
    fn a_slanted_line_is_in_the_way_only_where_it_runs() {
        let corner = Rect::around(pt(200.0, 0.0), Size::new(28.0, 28.0));
        let is_hit = |points| way(points).meets(corner);
        assert!(!is_hit(vec![pt(0.0, 0.0), pt(200.0, 200.0)]), "the corner of the rectangle around it is free");
        assert!(is_hit(vec![pt(100.0, -100.0), pt(300.0, 100.0)]), "it runs through the middle");
        assert!(is_hit(vec![pt(300.0, 100.0), pt(100.0, -100.0)]), "whichever way it runs");
        assert!(!is_hit(vec![pt(0.0, 5.0), pt(400.0, 5.0)]), "a frame may be met by a horizontal line");
        assert!(is_hit(vec![pt(190.0, -50.0), pt(190.0, 400.0)]));
    }

    #[test]
    fn all_pieces_of_a_slanted_line_and_those_beside_a_place_say_the_same() {
        let (a, b) = (pt(-40.0, 11.0), pt(900.0, 333.0));
        let count = libm::ceil(distance(a, b) / PIECE) as usize;
        let at = |i: usize| between(a, b, i as f64 / count as f64);
        for step in 0..400 {
            let room = Rect::new(f64::from(step) * 2.5 - 50.0, f64::from(step * 7 % 360), 30.0, 14.0);
            let all = (0..count).any(|i| Rect::between(at(i), at(i + 1)).meets(room));
            assert_eq!(runs_through([a, b], room), all, "{room:?}");
            assert_eq!(runs_through([b, a], room), all, "{room:?}");
        }
    }

    #[test]
    fn a_line_of_any_length_takes_the_room_of_one() {
        let way = way(vec![pt(0.0, 0.0), pt(1e10, 4e9)]);
        assert_eq!(way.stretches.len(), 1);
        assert!(way.meets(Rect::around(pt(5e9, 2e9), Size::new(28.0, 28.0))));
        assert!(!way.meets(Rect::around(pt(5e9, 2e9 + 60.0), Size::new(28.0, 28.0))));
    }

    #[test]
    fn a_text_is_in_the_way_of_a_figure_and_not_of_a_tab() {
        let label = Some(Rect::new(10.0, 10.0, 40.0, 14.0));
        let way = InTheWay::new(&[Route { label, points: vec![pt(0.0, 90.0), pt(400.0, 90.0)], ..Route::default() }]);
        let room = Rect::new(20.0, 12.0, 20.0, 20.0);
        assert!(way.meets(room) && !way.is_crossed(room));
    }
}
