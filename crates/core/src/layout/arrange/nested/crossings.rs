//! Which lines cross, kept up to date while things trade their cells. Input: lines as stretches from middle to middle, with what
//! they join. Output: in how many points some of them cross each other and all others.
//!
//! What was last taken note of and what is now are two things: a trade is tried first, and taken note of only if it is made.

use super::extents::{Extent, Extents};
use crate::geom::Point;
use crate::layout::intersections::crosses;

/// A line from middle to middle: what it joins, as far as that counts, and the two points.
pub(super) type Stretch<T> = ([Option<T>; 2], Point, Point);

/// The crossings of some stretches; of too many, none is counted.
pub(super) struct Crossings<T> {
    all: Vec<Stretch<T>>,
    bounds: Extents,
    /// Whether each two cross, row by row, and how many each one crosses, as last taken note of.
    noted: Vec<bool>,
    counts: Vec<usize>,
}

impl<T: Copy + PartialEq> Crossings<T> {
    /// The crossings of these, if they are no more than `most`: each that moves is compared with all others.
    pub(super) fn up_to(most: usize, mut all: Vec<Stretch<T>>) -> Self {
        if all.len() > most {
            all.clear();
        }
        let bounds = all.iter().map(|(_, p, q)| Extent::of(*p, *q)).collect();
        let (noted, counts) = (vec![false; all.len() * all.len()], vec![0; all.len()]);
        let mut crossings = Self { all, bounds, noted, counts };
        let every: Vec<usize> = (0..crossings.all.len()).collect();
        crossings.note(&every);
        crossings
    }

    /// Those of these stretches that are counted: all or none.
    fn counted<'s>(&self, own: &'s [usize]) -> &'s [usize] {
        if self.all.is_empty() { &[] } else { own }
    }

    /// Moves a stretch.
    pub(super) fn put(&mut self, i: usize, from: Point, to: Point) {
        if self.all.is_empty() {
            return;
        }
        (self.all[i].1, self.all[i].2) = (from, to);
        self.bounds.put(i, Extent::of(from, to));
    }

    /// Those that one crosses now, with which it has no end in common.
    fn crossed_by(&self, i: usize) -> impl Iterator<Item = usize> + use<'_, T> {
        let (ends, p, q) = self.all[i];
        let are_apart = move |others: &[Option<T>; 2]| !ends.iter().flatten().any(|end| others.contains(&Some(*end)));
        self.bounds.meeting(Extent::of(p, q)).filter(move |j| {
            let (others, r, s) = &self.all[*j];
            *j != i && crosses(p, q, *r, *s) && are_apart(others)
        })
    }

    /// Takes note of the crossings of these as they are now.
    pub(super) fn note(&mut self, own: &[usize]) {
        let count = self.all.len();
        let mut now = vec![false; count];
        for &i in self.counted(own) {
            now.fill(false);
            self.crossed_by(i).for_each(|j| now[j] = true);
            for (j, is) in now.iter().copied().enumerate() {
                if self.noted[i * count + j] != is {
                    (self.noted[i * count + j], self.noted[j * count + i]) = (is, is);
                    for one in [i, j] {
                        self.counts[one] = if is { self.counts[one] + 1 } else { self.counts[one] - 1 };
                    }
                }
            }
        }
    }

    /// In how many points all of them cross, as taken note of.
    pub(super) fn known_at_all(&self) -> usize {
        // Each stands with both of its stretches.
        self.counts.iter().sum::<usize>() / 2
    }

    /// In how many points one crosses others, as taken note of.
    pub(super) fn known_of(&self, i: usize) -> usize {
        self.counts.get(i).copied().unwrap_or(0)
    }

    /// In how many points these cross each other and all others, as taken note of.
    pub(super) fn known(&self, own: &[usize]) -> usize {
        let own = self.counted(own);
        let row = |i: usize| &self.noted[i * self.all.len()..];
        let twice = |(k, i): (usize, &usize)| own[..k].iter().filter(|j| row(*i)[**j]).count();
        own.iter().map(|i| self.counts[*i]).sum::<usize>() - own.iter().enumerate().map(twice).sum::<usize>()
    }

    /// In how many points they cross now; `None` as soon as that are too many.
    pub(super) fn count_while(&self, own: &[usize], is_few: impl Fn(usize) -> bool) -> Option<usize> {
        let own = self.counted(own);
        let mut is_own = vec![false; self.all.len()];
        own.iter().for_each(|i| is_own[*i] = true);
        let mut found = 0;
        for &i in own {
            if !is_few(found) {
                return None;
            }
            found += self.crossed_by(i).filter(|j| !(is_own[*j] && *j > i)).count();
        }
        Some(found).filter(|found| is_few(*found))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;

    /// A cross of two, and a third line that joins an end of the first.
    fn lines() -> Crossings<usize> {
        let stretch = |ends: (usize, usize), p, q| ([Some(ends.0), Some(ends.1)], p, q);
        Crossings::up_to(
            3,
            vec![
                stretch((0, 1), pt(0.0, 0.0), pt(100.0, 100.0)),
                stretch((2, 3), pt(0.0, 100.0), pt(100.0, 0.0)),
                stretch((0, 4), pt(0.0, 60.0), pt(100.0, 60.0)),
            ],
        )
    }

    #[test]
    fn lines_with_an_end_in_common_do_not_count() {
        let lines = lines();
        assert_eq!((lines.known(&[0]), lines.known(&[1]), lines.known(&[2])), (1, 2, 1));
        assert_eq!(lines.known(&[0, 1, 2]), 2, "each once");
        assert_eq!(lines.count_while(&[0, 1, 2], |_| true), Some(2));
        assert_eq!(lines.count_while(&[1], |count| count < 2), None);
    }

    #[test]
    fn what_moved_is_known_once_it_is_taken_note_of() {
        let mut lines = lines();
        lines.put(1, pt(0.0, 200.0), pt(100.0, 200.0));
        assert_eq!((lines.known(&[1]), lines.count_while(&[1], |_| true)), (2, Some(0)));
        lines.note(&[1]);
        assert_eq!((lines.known(&[0]), lines.known(&[1]), lines.known(&[2])), (0, 0, 0));
    }

    #[test]
    fn of_too_many_none_is_counted() {
        let stretch = |i: usize| ([Some(i), None], pt(0.0, i as f64), pt(100.0, 100.0 - i as f64));
        let of = |most: usize| Crossings::up_to(most, (0..4).map(stretch).collect());
        assert_eq!((of(4).known_at_all(), of(4).known(&[0, 1, 2, 3])), (6, 6));
        let mut none = of(3);
        none.put(2, pt(0.0, 0.0), pt(1.0, 1.0));
        none.note(&[2]);
        assert_eq!((none.known_at_all(), none.known(&[2]), none.known_of(2)), (0, 0, 0));
        assert_eq!(none.count_while(&[2], |count| count < 1), Some(0));
    }
}
