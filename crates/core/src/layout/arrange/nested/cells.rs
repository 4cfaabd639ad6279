//! Who stands in which cell of a grid: the items of one group, near those they are joined with, straight lines first (the
//! quadratic assignment of items to cells, by exchanges of two as in Armour, Buffa, "A heuristic algorithm and simulation
//! approach to relative location of facilities", 1963, with what a careful hand avoids as costs).
//!
//! Input: items with their lines and what pulls at them from outside, and a number of columns. Output: a cell for each.
//! Ties are broken by the order of the text, so that the same input gives the same cells.

use super::crossings::{Crossings, Stretch};
use crate::geom::{Point, Size, pt};
use crate::layout::graph::{Graph, RankDirection};

/// What a line that has to turn costs, in px of length: about the height of a box.
const TURN: f64 = 60.0;
/// What a line costs that would run through the item between its ends, and has to go around.
// More than two turns: it needs as many, and the way around as well.
const PASSED: f64 = 150.0;
/// What a line costs that leaves the group past another item.
const BEHIND: f64 = 150.0;
/// What it costs where two lines cross, from middle to middle.
const CROSSING: f64 = 120.0;
/// Of more lines than this, crossings are not counted.
const CROSSED: usize = 60;
/// What a line costs that runs against the heading; and where that was asked for.
// Less than a step aside: a heading is a preference for flow, and a straight line up reads better than a bent one down.
pub(super) const AGAINST: f64 = 40.0;
pub(super) const AGAINST_ASKED: f64 = 240.0;
/// How often all pairs are looked at.
const ROUNDS: usize = 12;
/// More items than this keep the order of the text: all pairs are looked at, with the lines of both.
const MOST: usize = 60;

/// A line between two items of a group, or several alike.
#[derive(Clone, Copy, Debug)]
pub(super) struct Line {
    pub(super) from: usize,
    pub(super) to: usize,
    /// How many there are.
    pub(super) weight: f64,
}

/// The items of one group.
#[derive(Debug, Default)]
pub(super) struct Items {
    pub(super) count: usize,
    pub(super) lines: Vec<Line>,
    /// What pulls at an item from outside: its number, and where, in px from the upper left corner of the group.
    pub(super) pulls: Vec<(usize, Point)>,
    /// The mean size of a cell with its gap.
    pub(super) cell: Size,
    pub(super) heading: RankDirection,
    /// What a line costs that runs against it.
    pub(super) against: f64,
}

/// The lines and the pulls of one item, by their numbers.
#[derive(Clone, Debug, Default)]
struct Near {
    lines: Vec<usize>,
    pulls: Vec<usize>,
}

/// For each item its column and its row.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Cells {
    pub(super) columns: usize,
    pub(super) at: Vec<(usize, usize)>,
}

/// What a line of a graph costs that runs against its heading.
pub(super) fn against(graph: &Graph) -> f64 {
    if graph.is_heading_asked { AGAINST_ASKED } else { AGAINST }
}

impl Cells {
    pub(super) fn rows(&self) -> usize {
        self.at.iter().map(|at| at.1 + 1).max().unwrap_or(0)
    }
}

/// Items in their cells while some of them are exchanged.
struct Draft<'a> {
    items: &'a Items,
    cells: Cells,
    /// Who stands in which cell, row by row; cells that are left over stand empty, and may be anywhere.
    held: Vec<Option<usize>>,
    near: Vec<Near>,
    crossings: Crossings,
    /// What each item cost in itself, since the last exchange; `None` where that is not known.
    known: Vec<Option<f64>>,
}

impl Draft<'_> {
    /// Looks at all pairs of cells; says whether an exchange made anything better.
    fn improve(&mut self) -> bool {
        let mut is_better = false;
        for a in 0..self.held.len() {
            for b in a + 1..self.held.len() {
                is_better |= self.exchange(a, b);
            }
        }
        is_better
    }

    /// Exchanges what stands in two cells, if that is better; says whether it was.
    fn exchange(&mut self, a: usize, b: usize) -> bool {
        let both = [self.held[a], self.held[b]];
        if both == [None, None] {
            return false;
        }
        let before: f64 = both.iter().flatten().map(|item| self.known_cost(*item)).sum();
        let place = |cell: usize| (cell % self.cells.columns, cell / self.cells.columns);
        let (first, second) = (place(a), place(b));
        self.put(both, [second, first]);
        let after: f64 = both.iter().flatten().map(|item| self.items.cost_of(&self.cells, *item, &self.near)).sum();
        // Crossings are counted only where they can decide: first those that each had, then those that both have now.
        let most = before + self.most_crossings(both) as f64 * CROSSING;
        if after < most - 0.5 {
            let own = self.stretches_at(both);
            let before = before + self.crossings.known(&own) as f64 * CROSSING;
            self.renew(&own);
            let is_better = |count: usize| after + count as f64 * CROSSING < before - 0.5;
            if self.crossings.count_while(&own, is_better).is_some() {
                self.crossings.note(&own);
                self.held.swap(a, b);
                // What moved may stand in the way of others now.
                self.known.fill(None);
                return true;
            }
            self.put(both, [first, second]);
            self.renew(&own);
        } else {
            self.put(both, [first, second]);
        }
        false
    }

    /// Puts two items into cells.
    fn put(&mut self, both: [Option<usize>; 2], at: [(usize, usize); 2]) {
        both.iter().zip(at).for_each(|(item, at)| item.iter().for_each(|item| self.cells.at[*item] = at));
    }

    /// What the lines and pulls of an item cost before an exchange is tried.
    fn known_cost(&mut self, item: usize) -> f64 {
        *self.known[item].get_or_insert_with(|| self.items.cost_of(&self.cells, item, &self.near))
    }

    /// No more crossings than this were taken note of for what ends at either of two items.
    fn most_crossings(&self, both: [Option<usize>; 2]) -> usize {
        self.ends_at(both).map(|i| self.crossings.known_of(i)).sum()
    }

    /// The lines and pulls that end at either of two items; those between them twice.
    fn ends_at(&self, both: [Option<usize>; 2]) -> impl Iterator<Item = usize> {
        both.into_iter().flatten().flat_map(|item| {
            let near = &self.near[item];
            let pulls = near.pulls.iter().map(|pull| self.items.lines.len() + pull);
            near.lines.iter().copied().chain(pulls)
        })
    }

    /// The same, each once, in their order.
    fn stretches_at(&self, both: [Option<usize>; 2]) -> Vec<usize> {
        let mut own: Vec<usize> = self.ends_at(both).collect();
        own.sort_unstable();
        own.dedup();
        own
    }

    /// Puts lines and pulls where their items stand now.
    fn renew(&mut self, own: &[usize]) {
        for i in own {
            let (_, from, to) = self.items.stretch(&self.cells, *i);
            self.crossings.put(*i, from, to);
        }
    }
}

impl Items {
    /// The best cells that exchanges find in so many columns, and what they cost.
    pub(super) fn assign(&self, columns: usize) -> (Cells, f64) {
        let rows = self.count.div_ceil(columns).max(1);
        let order = self.order();
        let held: Vec<Option<usize>> = (0..columns * rows).map(|cell| order.get(cell).copied()).collect();
        let mut at: Vec<(usize, usize)> = vec![(0, 0); self.count];
        for (cell, item) in held.iter().enumerate().filter_map(|(cell, item)| Some((cell, (*item)?))) {
            at[item] = (cell % columns, cell / columns);
        }
        let cells = Cells { columns, at };
        let crossings = self.crossings(&cells);
        let known = vec![None; self.count];
        let mut draft = Draft { items: self, cells, held, near: self.near(), crossings, known };
        let rounds = if self.count > MOST { 0 } else { ROUNDS };
        for _ in 0..rounds {
            if !draft.improve() {
                break;
            }
        }
        let cost = self.cost(&draft.cells, &draft.crossings);
        (draft.cells, cost)
    }

    /// What all lines and pulls cost, with their crossings as taken note of.
    fn cost(&self, cells: &Cells, crossings: &Crossings) -> f64 {
        let lines = self.lines.iter().map(|line| self.cost_of_line(cells, line)).sum::<f64>();
        let pulls = self.pulls.iter().map(|pull| self.cost_of_pull(cells, pull)).sum::<f64>();
        lines + pulls + crossings.known_at_all() as f64 * CROSSING
    }

    /// The middle of a cell, in px.
    fn middle(&self, (column, row): (usize, usize)) -> Point {
        pt((column as f64 + 0.5) * self.cell.w, (row as f64 + 0.5) * self.cell.h)
    }

    /// Lines and pulls as stretches from middle to middle: the items at their ends, and the stretch.
    fn stretches(&self, cells: &Cells) -> Vec<Stretch<usize>> {
        (0..self.lines.len() + self.pulls.len()).map(|i| self.stretch(cells, i)).collect()
    }

    /// One of them, by its number: lines come before pulls.
    fn stretch(&self, cells: &Cells, i: usize) -> Stretch<usize> {
        let at = |item: usize| self.middle(cells.at[item]);
        match self.lines.get(i) {
            Some(line) => ([Some(line.from), Some(line.to)], at(line.from), at(line.to)),
            None => {
                let (item, to) = self.pulls[i - self.lines.len()];
                ([Some(item), None], at(item), to)
            }
        }
    }

    /// What crosses; nothing where there is too much of it.
    fn crossings(&self, cells: &Cells) -> Crossings {
        Crossings::up_to(CROSSED, self.stretches(cells))
    }

    /// The lines and pulls of each item.
    fn near(&self) -> Vec<Near> {
        let mut near = vec![Near::default(); self.count];
        for (l, line) in self.lines.iter().enumerate() {
            near[line.from].lines.push(l);
            near[line.to].lines.push(l);
        }
        for (i, (item, _)) in self.pulls.iter().enumerate() {
            near[*item].pulls.push(i);
        }
        near
    }

    /// What the lines and pulls of one item cost.
    fn cost_of(&self, cells: &Cells, item: usize, near: &[Near]) -> f64 {
        let lines = near[item].lines.iter().map(|l| self.cost_of_line(cells, &self.lines[*l])).sum::<f64>();
        lines + near[item].pulls.iter().map(|pull| self.cost_of_pull(cells, &self.pulls[*pull])).sum::<f64>()
    }

    fn cost_of_line(&self, cells: &Cells, line: &Line) -> f64 {
        let ((x1, y1), (x2, y2)) = (cells.at[line.from], cells.at[line.to]);
        let (across, down) = (x1.abs_diff(x2), y1.abs_diff(y2));
        let length = across as f64 * self.cell.w + down as f64 * self.cell.h;
        let turn = if across > 0 && down > 0 { TURN } else { 0.0 };
        let is_passing = (across == 0 && down > 1) || (down == 0 && across > 1);
        let passed = if is_passing && self.is_between(cells, line) { PASSED } else { 0.0 };
        let against =
            if self.heading.advance(self.middle((x1, y1)), self.middle((x2, y2))) < 0.0 { self.against } else { 0.0 };
        line.weight * (length + turn + passed + against)
    }

    /// Whether an item stands between the ends of a line that lie in one row or column.
    fn is_between(&self, cells: &Cells, line: &Line) -> bool {
        let ((x1, y1), (x2, y2)) = (cells.at[line.from], cells.at[line.to]);
        let (left, right, top, bottom) = (x1.min(x2), x1.max(x2), y1.min(y2), y1.max(y2));
        let others = cells.at.iter().enumerate().filter(|(i, _)| *i != line.from && *i != line.to);
        others.into_iter().any(|(_, (x, y))| (left..=right).contains(x) && (top..=bottom).contains(y))
    }

    fn cost_of_pull(&self, cells: &Cells, (item, to): &(usize, Point)) -> f64 {
        let (column, row) = cells.at[*item];
        let own = pt((column as f64 + 0.5) * self.cell.w, (row as f64 + 0.5) * self.cell.h);
        let (dx, dy) = ((own.x - to.x).abs(), (own.y - to.y).abs());
        // What stands level with where it is pulled can have a straight line.
        let turn = if dx > self.cell.w / 2.0 && dy > self.cell.h / 2.0 { TURN } else { 0.0 };
        let behind = if self.is_behind(cells, (column, row), *to) { BEHIND } else { 0.0 };
        dx + dy + turn + behind
    }

    /// Whether another item stands between a cell and the side of the group to which it is pulled straight.
    fn is_behind(&self, cells: &Cells, (column, row): (usize, usize), to: Point) -> bool {
        let (width, height) = (self.cell.w * cells.columns as f64, self.cell.h * cells.rows() as f64);
        let (above, below) = (to.y < 0.0, to.y > height);
        let (before, after) = (to.x < 0.0, to.x > width);
        let mut others = cells.at.iter().filter(|at| **at != (column, row));
        match (above || below, before || after) {
            (true, false) => others.any(|at| at.0 == column && if above { at.1 < row } else { at.1 > row }),
            (false, true) => others.any(|at| at.1 == row && if before { at.0 < column } else { at.0 > column }),
            _ => false,
        }
    }

    /// The items from where lines come to where they go, those that are equal in the order of the text.
    fn order(&self) -> Vec<usize> {
        let mut into = vec![0; self.count];
        self.lines.iter().for_each(|line| into[line.to] += 1);
        let mut left: Vec<usize> = (0..self.count).collect();
        let mut order = Vec::with_capacity(self.count);
        while !left.is_empty() {
            // The first that nothing left leads to; in a circle the one that least does.
            let next = (0..left.len()).min_by_key(|i| (into[left[*i]], left[*i])).unwrap_or(0);
            let item = left.remove(next);
            self.lines.iter().filter(|line| line.from == item).for_each(|line| into[line.to] -= 1);
            order.push(item);
        }
        order
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn items(count: usize, lines: &[(usize, usize)]) -> Items {
        let lines = lines.iter().map(|(from, to)| Line { from: *from, to: *to, weight: 1.0 }).collect();
        Items { count, lines, cell: Size::new(140.0, 90.0), against: 40.0, ..Items::default() }
    }

    #[test]
    fn neighbours_stand_beside_each_other() {
        let chain = items(6, &[(0, 3), (3, 1), (1, 4), (4, 2), (2, 5)]);
        let (cells, _) = chain.assign(3);
        for line in &chain.lines {
            let (a, b) = (cells.at[line.from], cells.at[line.to]);
            assert_eq!(a.0.abs_diff(b.0) + a.1.abs_diff(b.1), 1, "{cells:?}");
        }
    }

    #[test]
    fn each_cell_holds_one_item_at_most() {
        for columns in 1..=7 {
            let cells = items(7, &[(0, 6), (6, 2), (2, 4), (1, 5), (3, 0)]).assign(columns).0;
            let mut at = cells.at.clone();
            at.sort_unstable();
            at.dedup();
            assert_eq!(at.len(), 7, "{cells:?}");
            assert!(at.iter().all(|(x, y)| *x < columns && *y < 7_usize.div_ceil(columns)), "{cells:?}");
        }
    }

    #[test]
    fn lines_follow_the_heading() {
        let mut column = items(3, &[(2, 0), (0, 1)]);
        assert_eq!(column.assign(1).0.at, [(0, 1), (0, 2), (0, 0)]);
        column.heading = RankDirection::Up;
        assert_eq!(column.assign(1).0.at, [(0, 1), (0, 0), (0, 2)]);
    }

    #[test]
    fn what_is_pulled_stands_at_that_side() {
        let mut row = items(3, &[]);
        row.pulls = vec![(0, pt(900.0, 45.0)), (2, pt(-900.0, 45.0))];
        let (cells, _) = row.assign(3);
        assert_eq!((cells.at[0].0, cells.at[2].0), (2, 0), "{cells:?}");
    }

    #[test]
    fn what_is_pulled_up_and_down_stands_in_a_row() {
        let mut all = items(3, &[]);
        all.pulls = (0..3).flat_map(|i| [(i, pt(200.0, -300.0)), (i, pt(200.0, 900.0))]).collect();
        let cost = |columns| all.assign(columns).1;
        assert!(cost(3) < cost(1) && cost(3) < cost(2), "{} {} {}", cost(1), cost(2), cost(3));
    }

    #[test]
    fn without_lines_the_order_of_the_text_is_kept() {
        assert_eq!(items(5, &[]).assign(2).0.at, [(0, 0), (1, 0), (0, 1), (1, 1), (0, 2)]);
    }
}
