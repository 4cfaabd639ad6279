//! In which order lines lie that share a track. Input: ways as runs on tracks. Output: for two runs on one track, which
//! comes first. Two lines that run together part at two places; each place says on which side of the other a line should
//! be. Where both say the same, the lines do not cross; where they do not, they must cross once.

use super::way::Way;
use crate::layout::orientation::Orientation;

/// A straight part of a way on one track.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Run {
    pub(super) track: usize,
    /// Whether it runs right or down, as the way is written.
    pub(super) is_forward: bool,
}

/// A way as runs, turn and turn about horizontal and vertical.
#[derive(Clone, Debug, Default)]
pub(super) struct Runs {
    /// Whether the first is vertical.
    begins_vertical: bool,
    pub(super) all: Vec<Run>,
}

impl Runs {
    pub(super) fn of(way: &Way) -> Self {
        let [start, goal] = way.headings;
        let (first, last) = (start.orientation(), goal.orientation());
        let track = |(column, row): (usize, usize), orientation| {
            if orientation == Orientation::Vertical { column } else { row }
        };
        let mut all = vec![Run { track: track(way.places[0], first), is_forward: start.is_forward() }];
        let mut orientation = first;
        for pair in way.places.windows(2).filter(|p| p[0] != p[1]) {
            let own = Orientation::of_vertical(pair[0].0 == pair[1].0);
            if own != orientation {
                all.push(Run { track: track(pair[0], own), is_forward: pair[0] < pair[1] });
                orientation = own;
            }
        }
        if orientation != last {
            all.push(Run { track: track(way.places[way.places.len() - 1], last), is_forward: !goal.is_forward() });
        }
        Self { begins_vertical: first == Orientation::Vertical, all }
    }

    pub(super) fn orientation(&self, i: usize) -> Orientation {
        Orientation::of_vertical(self.begins_vertical == i.is_multiple_of(2))
    }

    /// The run after another one, walking with the way or against it.
    fn next(&self, i: usize, walk: Walk) -> Option<usize> {
        match walk {
            Walk::Along => Some(i + 1).filter(|n| *n < self.all.len()),
            Walk::Against => i.checked_sub(1),
        }
    }

    /// Whether a walker goes right or down on a run.
    fn heads_forward(&self, i: usize, walk: Walk) -> bool {
        self.all[i].is_forward == (walk == Walk::Along)
    }

    /// Where a walker turns from a run to the next: 1 to the left, -1 to the right.
    fn turn(&self, from: usize, to: usize, walk: Walk) -> i32 {
        let is_same = self.heads_forward(from, walk) == self.heads_forward(to, walk);
        // Whoever goes down has the right of the picture at the left hand.
        let is_left = if self.orientation(from) == Orientation::Vertical { is_same } else { !is_same };
        if is_left { 1 } else { -1 }
    }
}

/// Whether somebody walks with a way or against it.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Walk {
    Along,
    Against,
}

impl Walk {
    fn back(self) -> Self {
        if self == Walk::Along { Walk::Against } else { Walk::Along }
    }
}

/// A walker on a run of a way.
#[derive(Clone, Copy)]
struct Walker<'a> {
    runs: &'a Runs,
    at: usize,
    walk: Walk,
}

impl Walker<'_> {
    /// The track that the walker turns to, and the turn.
    fn ahead(&self) -> Option<(usize, i32)> {
        let next = self.runs.next(self.at, self.walk)?;
        Some((self.runs.all[next].track, self.runs.turn(self.at, next, self.walk)))
    }

    fn heads_forward(&self) -> bool {
        self.runs.heads_forward(self.at, self.walk)
    }
}

/// On which side of the other the first of two walkers has to be where they part: positive for the left.
fn parting(mut a: Walker, mut b: Walker) -> i32 {
    loop {
        let (first, second) = match (a.ahead(), b.ahead()) {
            (None, None) => return 0,
            (Some((_, turn)), None) => return turn,
            (None, Some((_, turn))) => return -turn,
            (Some(first), Some(second)) => (first, second),
        };
        if first.0 != second.0 {
            // Who turns first leaves the other, who goes straight on.
            let is_first = (first.0 < second.0) == a.heads_forward();
            return if is_first { first.1 } else { -second.1 };
        }
        if first.1 != second.1 {
            return first.1 - second.1;
        }
        let (Some(next), Some(other)) = (a.runs.next(a.at, a.walk), b.runs.next(b.at, b.walk)) else {
            return 0;
        };
        (a.at, b.at) = (next, other);
    }
}

/// Whether the first of two runs on one track comes before the other: further left, or further up.
pub(super) fn comes_first(runs: &[Runs], (e, i): (usize, usize), (f, j): (usize, usize)) -> bool {
    if e > f {
        return !comes_first(runs, (f, j), (e, i));
    }
    let (own, other) = (&runs[e], &runs[f]);
    let heads_forward = own.heads_forward(i, Walk::Along);
    let walk = if other.heads_forward(j, Walk::Along) == heads_forward { Walk::Along } else { Walk::Against };
    let forward = parting(Walker { runs: own, at: i, walk: Walk::Along }, Walker { runs: other, at: j, walk });
    let backward =
        parting(Walker { runs: own, at: i, walk: Walk::Against }, Walker { runs: other, at: j, walk: walk.back() });
    // Walking back, left is right. Where nothing parts them, the first line of the text is at the left.
    let left = match (forward, backward) {
        (0, 0) => 1,
        (0, back) => -back,
        (fore, _) => fore,
    };
    let is_greater = if own.orientation(i) == Orientation::Vertical { heads_forward } else { !heads_forward };
    (left > 0) != is_greater
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::outline::Side;

    /// A way to the right through these places.
    fn runs(places: &[(usize, usize)]) -> Runs {
        let sides = [Side::Right, Side::Left];
        Runs::of(&Way { places: places.to_vec(), sides, headings: sides })
    }

    #[test]
    fn a_way_is_runs_by_turns() {
        let way = runs(&[(0, 0), (2, 0), (2, 5), (4, 5)]);
        assert_eq!(way.all.iter().map(|run| run.track).collect::<Vec<_>>(), [0, 2, 5]);
        assert_eq!([0, 1, 2].map(|i| way.orientation(i) == Orientation::Vertical), [false, true, false]);
        assert!(way.all.iter().all(|run| run.is_forward));
        assert_eq!(Runs::default().all, []);
    }

    #[test]
    fn whoever_turns_off_first_lies_on_that_side() {
        // Both go down the same track from the left; the first leaves to the right before the other.
        let all = [runs(&[(0, 0), (2, 0), (2, 3), (4, 3)]), runs(&[(0, 1), (2, 1), (2, 6), (4, 6)])];
        // It comes from above and leaves above: further right, so that neither end is crossed.
        assert!(!comes_first(&all, (0, 1), (1, 1)));
        assert!(comes_first(&all, (1, 1), (0, 1)));
    }

    #[test]
    fn the_order_is_the_same_whichever_way_the_lines_run() {
        let down = runs(&[(0, 0), (2, 0), (2, 3), (4, 3)]);
        let sides = [Side::Left, Side::Right];
        let up = Runs::of(&Way { places: vec![(4, 6), (2, 6), (2, 1), (0, 1)], sides, headings: sides });
        let all = [down, up];
        assert!(!comes_first(&all, (0, 1), (1, 1)));
    }
}
