//! Which lines cross, kept up to date while things trade their cells. Input: lines as stretches from middle to middle, with what
//! they join. Output: in how many points some of them cross each other and all others.
//!
//! What was last taken note of and what is now are two things: a trade is tried first, and taken note of only if it is made.

use crate::geom::Point;
use crate::layout::intersections::Stretches;
use std::collections::BTreeMap;

/// A line from middle to middle: what it joins, as far as that counts, and the two points.
pub(super) type Stretch<T> = ([Option<T>; 2], Point, Point);

/// The crossings of some stretches; of too many, none is counted.
pub(super) struct Crossings {
    all: Stretches,
    /// Which each one may cross, a row of bits for each: those with which it has no end in common.
    apart: Vec<u64>,
    /// Which each one crosses, and how many these are, as last taken note of.
    noted: Vec<u64>,
    counts: Vec<usize>,
    /// The rows of those that were counted last, as they are now.
    tried: Vec<u64>,
    /// This many words make a row.
    words: usize,
}

/// The bits of some numbers, in a row of this many words.
fn bits(numbers: impl IntoIterator<Item = usize>, words: usize) -> Vec<u64> {
    let mut row = vec![0; words];
    numbers.into_iter().for_each(|i| row[i / 64] |= 1 << (i % 64));
    row
}

/// For each stretch the others with which it has no end in common.
fn apart<T: Copy + Ord>(all: &[Stretch<T>], words: usize) -> Vec<u64> {
    let mut at: BTreeMap<T, Vec<u64>> = BTreeMap::new();
    for (i, (ends, ..)) in all.iter().enumerate() {
        for end in ends.iter().flatten() {
            at.entry(*end).or_insert_with(|| vec![0; words])[i / 64] |= 1 << (i % 64);
        }
    }
    let mut apart = vec![u64::MAX; all.len() * words];
    for (row, (ends, ..)) in apart.chunks_mut(words.max(1)).zip(all) {
        for same in ends.iter().flatten().filter_map(|end| at.get(end)) {
            row.iter_mut().zip(same).for_each(|(row, same)| *row &= !same);
        }
    }
    apart
}

impl Crossings {
    /// The crossings of these, if they are no more than `most`: each that moves is compared with all others.
    pub(super) fn up_to<T: Copy + Ord>(most: usize, mut all: Vec<Stretch<T>>) -> Self {
        if all.len() > most {
            all.clear();
        }
        let words = all.len().div_ceil(64);
        let apart = apart(&all, words);
        let counts = vec![0; all.len()];
        let all = all.iter().map(|(_, p, q)| (*p, *q)).collect();
        let mut crossings = Self { all, apart, noted: Vec::new(), counts, tried: Vec::new(), words };
        crossings.noted = (0..crossings.counts.len()).flat_map(|i| crossings.crossed_by(i)).collect();
        for i in 0..crossings.counts.len() {
            crossings.counts[i] = count(crossings.row(i).iter().copied());
        }
        crossings
    }

    /// Those of these stretches that are counted: all or none.
    fn counted<'s>(&self, own: &'s [usize]) -> &'s [usize] {
        if self.counts.is_empty() { &[] } else { own }
    }

    /// Moves a stretch.
    pub(super) fn put(&mut self, i: usize, from: Point, to: Point) {
        if !self.counts.is_empty() {
            self.all.put(i, from, to);
        }
    }

    /// Those that one crosses now, with which it has no end in common: the words of its row.
    fn crossed_by(&self, i: usize) -> impl Iterator<Item = u64> + use<'_> {
        self.all.words(i).zip(&self.apart[i * self.words..]).map(|(crossed, apart)| crossed & apart)
    }

    /// The row of one, as taken note of.
    fn row(&self, i: usize) -> &[u64] {
        &self.noted[i * self.words..][..self.words]
    }

    /// Takes note of the crossings of these as they were counted just now.
    pub(super) fn note(&mut self, own: &[usize]) {
        for (k, &i) in self.counted(own).iter().enumerate() {
            for word in 0..self.words {
                let mut changed = self.tried[k * self.words + word] ^ self.row(i)[word];
                while changed != 0 {
                    self.turn(i, 64 * word + changed.trailing_zeros() as usize);
                    changed &= changed - 1;
                }
            }
        }
    }

    /// Notes that two cross which did not, or the other way round.
    fn turn(&mut self, i: usize, j: usize) {
        for (one, other) in [(i, j), (j, i)] {
            let word = &mut self.noted[one * self.words + other / 64];
            *word ^= 1 << (other % 64);
            let is_new = *word >> (other % 64) & 1 == 1;
            self.counts[one] = if is_new { self.counts[one] + 1 } else { self.counts[one] - 1 };
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
        let others = bits(own.iter().copied(), self.words);
        let each_other = |i: &usize| count(self.row(*i).iter().zip(&others).map(|(row, own)| row & own));
        // Those among themselves stand with both of theirs.
        own.iter().map(|i| self.counts[*i]).sum::<usize>() - own.iter().map(each_other).sum::<usize>() / 2
    }

    /// In how many points they cross now; `None` as soon as that are too many.
    pub(super) fn count_while(&mut self, own: &[usize], is_few: impl Fn(usize) -> bool) -> Option<usize> {
        let mut tried = std::mem::take(&mut self.tried);
        tried.clear();
        let found = self.count_into(&mut tried, self.counted(own), &is_few);
        self.tried = tried;
        found
    }

    /// The same with the row of each.
    fn count_into(&self, rows: &mut Vec<u64>, own: &[usize], is_few: &impl Fn(usize) -> bool) -> Option<usize> {
        // Those that are not counted yet: all, but of these only the ones that come later.
        let mut left = vec![u64::MAX; self.words];
        let mut found = 0;
        for &i in own {
            if !is_few(found) {
                return None;
            }
            for (crossed, left) in self.crossed_by(i).zip(&left) {
                rows.push(crossed);
                found += (crossed & left).count_ones() as usize;
            }
            left[i / 64] &= !(1 << (i % 64));
        }
        Some(found).filter(|found| is_few(*found))
    }
}

/// How many bits are set.
fn count(row: impl Iterator<Item = u64>) -> usize {
    row.map(|word| word.count_ones() as usize).sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;
    use proptest::prelude::*;

    /// A cross of two, and a third line that joins an end of the first.
    fn lines() -> Crossings {
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
        let mut lines = lines();
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

    /// All crossings, counted one by one.
    fn counted(all: &[Stretch<usize>], own: &[usize]) -> usize {
        let crosses = |i: usize, j: usize| {
            let ((a, p, q), (b, r, s)) = (all[i], all[j]);
            let share = a.iter().flatten().any(|end| b.contains(&Some(*end)));
            i != j && !share && crate::layout::intersections::crosses(p, q, r, s)
        };
        let pairs = own.iter().flat_map(|i| (0..all.len()).map(move |j| (*i.min(&j), *i.max(&j))));
        let pairs: std::collections::BTreeSet<(usize, usize)> = pairs.collect();
        pairs.into_iter().filter(|(i, j)| crosses(*i, *j)).count()
    }

    proptest! {
        /// Whatever is moved, tried, taken note of or taken back: what is known is what is there.
        #[test]
        fn what_is_known_is_what_is_there(
            points in proptest::collection::vec((0..40_u8, 0..40_u8, 0..12_usize), 8..70),
            moves in proptest::collection::vec((0..70_usize, 0..40_u8, 0..40_u8, any::<bool>()), 0..12),
        ) {
            // As far apart as cells are at least: nearer, an end and a line touch.
            let at = |x: u8, y: u8| pt(f64::from(x) * 20.0, f64::from(y) * 20.0);
            let mut all: Vec<Stretch<usize>> = points
                .windows(2)
                .map(|p| ([Some(p[0].2), Some(p[1].2)], at(p[0].0, p[0].1), at(p[1].0, p[1].1)))
                .collect();
            let mut crossings = Crossings::up_to(100, all.clone());
            let every: Vec<usize> = (0..all.len()).collect();
            prop_assert_eq!(crossings.known_at_all(), counted(&all, &every));
            for (i, x, y, is_taken) in moves {
                // Two move at once, as in a trade.
                let own = [i % all.len(), (i + 3) % all.len()];
                let own = if own[0] == own[1] { &own[..1] } else { &own[..] };
                let before = all.clone();
                let known = crossings.known(own);
                prop_assert_eq!(known, counted(&all, own));
                for k in own {
                    all[*k].2 = at(x, y);
                    crossings.put(*k, all[*k].1, all[*k].2);
                }
                let now = counted(&all, own);
                prop_assert_eq!(crossings.count_while(own, |count| count < known), Some(now).filter(|now| *now < known));
                prop_assert_eq!(crossings.count_while(own, |_| true), Some(now));
                prop_assert_eq!(crossings.known(own), known, "a trade that is only tried changes nothing");
                if is_taken {
                    crossings.note(own);
                } else {
                    all = before;
                    own.iter().for_each(|k| crossings.put(*k, all[*k].1, all[*k].2));
                }
                prop_assert_eq!(crossings.known_at_all(), counted(&all, &every));
            }
        }
    }
}
