//! What lies in no group stands in strips along the four sides of those that are groups, each thing above, below or beside
//! what it talks to. Input: where the groups and their contents stand, and the lines of the things outside. Output: for
//! each of these its side, and its place along it.
//!
//! Sides are chosen by what the lines then cost: length, turns, and ways around what stands between; and by the shape of the
//! picture. One thing after the other goes to another side, or trades with one, as long as that is better.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::Anchor;
use crate::layout::outline::Side;
use crate::layout::separation;

/// What a line costs that has to step aside, and one that has to go around something, in px of length.
const STEP: f64 = 90.0;
const AROUND: f64 = 260.0;
/// What a line costs between strips on opposite sides.
// It passes everything between them.
const ACROSS: f64 = 400.0;
/// A line is straight that leaves a side of its target at most so far from its middle.
// A line and its gap: two may leave the same side straight.
const STRAIGHT: f64 = 14.0;
/// How often everything is looked at.
// It ends as soon as nothing gets better.
const ROUNDS: usize = 8;

/// A line between something outside and something inside.
#[derive(Clone, Copy, Debug)]
pub(super) struct Link {
    pub(super) loose: usize,
    /// What it leads to, and where that stands.
    pub(super) end: Anchor,
    pub(super) target: Rect,
}

/// Things in no group, and what they are joined with.
#[derive(Debug, Default)]
pub(super) struct Outside {
    pub(super) sizes: Vec<Size>,
    pub(super) links: Vec<Link>,
    /// Lines between two of them, with the room for their labels.
    pub(super) pairs: Vec<(usize, usize, Size)>,
    /// The groups together.
    pub(super) core: Rect,
    /// Room between two things of a strip.
    pub(super) gap: f64,
    /// Room between the groups and the strip above, below, to the left, and to the right.
    pub(super) away: [f64; 4],
}

/// For each thing its side; for each side its things in order.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Strips {
    pub(super) order: [Vec<usize>; 4],
}

impl Strips {
    fn holds(&self, loose: usize) -> bool {
        self.order.iter().any(|order| order.contains(&loose))
    }
}

impl Outside {
    /// The best strips that exchanges find. For each link it is known from which sides of the picture the way to the middle
    /// of what it leads to is free.
    pub(super) fn arrange(&self, is_free: &[[bool; 4]], shape: impl Fn(Size) -> f64) -> Strips {
        let cost = |strips: &Strips, places: &[Option<Rect>]| self.cost((strips, places), is_free, &shape);
        let cost_of = |strips: &Strips| cost(strips, &self.places(strips));
        let mut strips = Strips::default();
        for loose in 0..self.sizes.len() {
            // Those that are joined with no group come later.
            if self.links.iter().any(|l| l.loose == loose) {
                self.insert_best(&mut strips, loose, &cost);
            }
        }
        for _ in 0..self.sizes.len() {
            for loose in 0..self.sizes.len() {
                let mut mates = self.pairs.iter().filter_map(|p| other(p, loose));
                if !strips.holds(loose) && mates.any(|mate| strips.holds(mate)) {
                    self.insert_best(&mut strips, loose, &cost);
                }
            }
        }
        for loose in 0..self.sizes.len() {
            if !strips.holds(loose) {
                self.insert_best(&mut strips, loose, &cost);
            }
        }
        for _ in 0..ROUNDS {
            let before = cost_of(&strips);
            for loose in 0..self.sizes.len() {
                strips.order.iter_mut().for_each(|o| o.retain(|i| *i != loose));
                self.insert_best(&mut strips, loose, &cost);
            }
            if cost_of(&strips) > before - 0.5 {
                break;
            }
        }
        strips
    }

    /// Puts a thing where it costs least.
    fn insert_best(&self, strips: &mut Strips, loose: usize, cost: &impl Fn(&Strips, &[Option<Rect>]) -> f64) {
        let mut best: Option<(f64, Strips)> = None;
        let others = self.places(strips);
        for side in Side::ALL {
            let count = strips.order[side.number()].len();
            for at in 0..=count {
                let mut tried = strips.clone();
                tried.order[side.number()].insert(at, loose);
                // Only this side looks different.
                let mut places = others.clone();
                self.place(&tried.order[side.number()], side, &mut places);
                let cost = cost(&tried, &places);
                if best.as_ref().is_none_or(|(least, _)| cost < least - 0.5) {
                    best = Some((cost, tried));
                }
            }
        }
        if let Some((_, found)) = best {
            *strips = found;
        }
    }

    /// What these strips cost, with everything in its place.
    fn cost(
        &self, (strips, places): (&Strips, &[Option<Rect>]), is_free: &[[bool; 4]], shape: &impl Fn(Size) -> f64,
    ) -> f64 {
        let whole = places.iter().flatten().fold(self.core, |all, r| all.union(*r));
        let mut cost = shape(whole.size());
        let side_of: Vec<Option<Side>> = (0..self.sizes.len())
            .map(|i| Side::ALL.into_iter().find(|side| strips.order[side.number()].contains(&i)))
            .collect();
        let between = |a: Point, b: Point| (a.x - b.x).abs() + (a.y - b.y).abs();
        for (link, is_free) in self.links.iter().zip(is_free) {
            let (Some(rect), Some(side)) = (places[link.loose], side_of[link.loose]) else { continue };
            let (own, target) = (rect.middle(), link.target.middle());
            let (aside, reach) = if side.is_vertical() {
                ((own.x - target.x).abs(), (rect.w.min(link.target.w) / 2.0 - 10.0).max(STRAIGHT))
            } else {
                ((own.y - target.y).abs(), (rect.h.min(link.target.h) / 2.0 - 10.0).max(STRAIGHT))
            };
            let turns = match (is_free[side.number()], aside <= reach) {
                (true, true) => 0.0,
                (true, false) => STEP,
                (false, _) => AROUND,
            };
            cost += between(own, target) + turns;
        }
        for (a, b, _) in &self.pairs {
            let (Some(first), Some(second), Some(side), Some(mate)) =
                (places[*a], places[*b], side_of[*a], side_of[*b])
            else {
                continue;
            };
            let order = &strips.order[side.number()];
            let at = |i: usize| order.iter().position(|o| *o == i);
            let turns = match (at(*a), at(*b)) {
                (Some(i), Some(j)) if i.abs_diff(j) == 1 => 0.0,
                _ if side == mate => AROUND,
                _ if side.is_vertical() == mate.is_vertical() => ACROSS,
                _ => AROUND,
            };
            cost += between(first.middle(), second.middle()) + turns;
        }
        cost
    }

    /// Where everything in the strips stands.
    pub(super) fn places(&self, strips: &Strips) -> Vec<Option<Rect>> {
        let mut places = vec![None; self.sizes.len()];
        Side::ALL.into_iter().for_each(|side| self.place(&strips.order[side.number()], side, &mut places));
        places
    }

    /// Puts the things of one strip where they stand.
    fn place(&self, order: &[usize], side: Side, places: &mut [Option<Rect>]) {
        if order.is_empty() {
            return;
        }
        let along = |size: Size| if side.is_vertical() { size.w } else { size.h };
        let wanted = self.wanted(order, side);
        let constraints: Vec<(usize, usize, f64)> = order
            .windows(2)
            .enumerate()
            .map(|(i, pair)| {
                let label = self.pairs.iter().filter(|p| other(p, pair[0]) == Some(pair[1])).map(|p| along(p.2));
                let gap = label.fold(self.gap, |gap, label| f64::max(gap, label + self.gap));
                (i, i + 1, (along(self.sizes[pair[0]]) + along(self.sizes[pair[1]])) / 2.0 + gap)
            })
            .collect();
        let all: Vec<usize> = (0..order.len()).collect();
        let at = separation::satisfied(
            &wanted,
            &vec![1.0; order.len()],
            &constraints,
            &all,
            &vec![separation::ANYWHERE; order.len()],
        );
        for (loose, at) in order.iter().zip(at) {
            let (size, core) = (self.sizes[*loose], self.core);
            let middle = match side {
                Side::Top => pt(at, core.y - self.away[0] - size.h / 2.0),
                Side::Bottom => pt(at, core.bottom() + self.away[1] + size.h / 2.0),
                Side::Left => pt(core.x - self.away[2] - size.w / 2.0, at),
                Side::Right => pt(core.right() + self.away[3] + size.w / 2.0, at),
            };
            places[*loose] = Some(Rect::around(middle, size));
        }
    }

    /// Where along its side each thing of a strip would stand alone: opposite what it talks to; beside its neighbour in the
    /// strip, if it talks to nothing inside.
    fn wanted(&self, order: &[usize], side: Side) -> Vec<f64> {
        let along = |p: Point| if side.is_vertical() { p.x } else { p.y };
        let own = |loose: &usize| {
            let mut targets: Vec<f64> =
                self.links.iter().filter(|l| l.loose == *loose).map(|l| along(l.target.middle())).collect();
            targets.sort_by(f64::total_cmp);
            (!targets.is_empty()).then(|| targets[(targets.len() - 1) / 2])
        };
        let known: Vec<Option<f64>> = order.iter().map(own).collect();
        let nearest = |i: usize| {
            let at = (0..order.len()).filter(|j| known[*j].is_some()).min_by_key(|j| j.abs_diff(i));
            at.and_then(|j| known[j])
        };
        let middle = along(self.core.middle());
        (0..order.len()).map(|i| known[i].or(nearest(i)).unwrap_or(middle)).collect()
    }
}

/// The other end of a pair that one is in.
fn other(pair: &(usize, usize, Size), one: usize) -> Option<usize> {
    match pair {
        (a, b, _) if *a == one => Some(*b),
        (a, b, _) if *b == one => Some(*a),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const BOX: Size = Size { w: 100.0, h: 40.0 };

    /// Things outside of a core of 600 by 300 px that talk to boxes in it, which can be reached from above and below.
    fn outside(targets: &[(usize, Rect)], pairs: &[(usize, usize)], count: usize) -> Outside {
        let link = |(loose, target): &(usize, Rect)| Link { loose: *loose, target: *target, end: Anchor::Node(0) };
        Outside {
            sizes: vec![BOX; count],
            links: targets.iter().map(link).collect(),
            pairs: pairs.iter().map(|(a, b)| (*a, *b, Size::default())).collect(),
            core: Rect::new(0.0, 0.0, 600.0, 300.0),
            gap: 30.0,
            away: [40.0; 4],
        }
    }

    fn free(outside: &Outside) -> Vec<[bool; 4]> {
        vec![[true, true, false, false]; outside.links.len()]
    }

    #[test]
    fn a_thing_stands_opposite_what_it_talks_to() {
        let (high, low) = (Rect::new(50.0, 20.0, 100.0, 40.0), Rect::new(400.0, 240.0, 100.0, 40.0));
        let outside = outside(&[(0, high), (1, low)], &[], 2);
        let places = outside.places(&outside.arrange(&free(&outside), |_| 0.0));
        let [first, second] = [0, 1].map(|i| places[i].expect("a place"));
        assert_eq!((first.middle().x, second.middle().x), (high.middle().x, low.middle().x));
        assert!(first.bottom() < 0.0 && second.y > 300.0, "{first:?} above, {second:?} below");
    }

    #[test]
    fn neighbours_of_a_strip_do_not_overlap_and_keep_room_for_their_label() {
        let same = Rect::new(250.0, 20.0, 100.0, 40.0);
        let mut outside = outside(&[(0, same), (1, same), (2, same)], &[(1, 2)], 3);
        outside.pairs[0].2 = Size::new(80.0, 18.0);
        let strips = Strips { order: [vec![0, 1, 2], Vec::new(), Vec::new(), Vec::new()] };
        let rects: Vec<Rect> = outside.places(&strips).into_iter().map(|r| r.expect("a place")).collect();
        assert!(rects[1].x - rects[0].right() >= 30.0);
        assert!(rects[2].x - rects[1].right() >= 110.0, "{rects:?}");
    }

    #[test]
    fn who_talks_to_somebody_outside_only_stands_beside_them() {
        let outside = outside(&[(0, Rect::new(50.0, 20.0, 100.0, 40.0))], &[(0, 1)], 2);
        let strips = outside.arrange(&free(&outside), |_| 0.0);
        let row = strips.order.iter().find(|o| o.contains(&1)).expect("a strip");
        assert!(row.contains(&0), "{strips:?}");
    }

    #[test]
    fn the_shape_of_the_picture_counts() {
        let middle = Rect::new(250.0, 130.0, 100.0, 40.0);
        let outside = outside(&[(0, middle)], &[], 1);
        // Whoever wants pictures flat puts it at a side, though the way there is not free.
        let flat = outside.arrange(&free(&outside), |size| 100.0 * size.h);
        assert!(flat.order[2].contains(&0) || flat.order[3].contains(&0), "{flat:?}");
    }
}
