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
// The same way around an item, at the side of the group.
const BEHIND: f64 = 150.0;
/// What it costs where two lines cross, from middle to middle.
// Two turns: who crosses could go around instead.
const CROSSING: f64 = 120.0;
/// Of more lines than this, crossings are not counted.
// All of them fit into one word of bits, and a block with more is a web in any order.
const CROSSED: usize = 60;
/// What a line costs that runs against the heading; and where that was asked for.
// Less than a step aside: a heading is a preference for flow, and a straight line up reads better than a bent one down.
pub(super) const AGAINST: f64 = 40.0;
pub(super) const AGAINST_ASKED: f64 = 240.0;
/// How often all pairs are looked at.
// It ends as soon as nothing gets better.
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

/// Items in their cells, both ways round.
struct Table {
    cells: Cells,
    /// Who stands in which cell, row by row; cells that are left over stand empty, and may be anywhere.
    held: Vec<Option<usize>>,
}

impl Table {
    /// Items in this order, row by row.
    fn new(order: &[usize], columns: usize) -> Self {
        let rows = order.len().div_ceil(columns).max(1);
        let held: Vec<Option<usize>> = (0..columns * rows).map(|cell| order.get(cell).copied()).collect();
        let mut at: Vec<(usize, usize)> = vec![(0, 0); order.len()];
        for (cell, item) in order.iter().enumerate() {
            at[*item] = (cell % columns, cell / columns);
        }
        Self { cells: Cells { columns, at }, held }
    }

    fn rows(&self) -> usize {
        self.held.len() / self.cells.columns
    }

    /// Exchanges what stands in two cells.
    fn swap(&mut self, a: usize, b: usize) {
        self.held.swap(a, b);
        for cell in [a, b] {
            if let Some(item) = self.held[cell] {
                self.cells.at[item] = (cell % self.cells.columns, cell / self.cells.columns);
            }
        }
    }

    /// Whether anything stands in some cells of a row, or of a column.
    fn is_held(&self, mut cells: impl Iterator<Item = (usize, usize)>) -> bool {
        cells.any(|(column, row)| self.held[row * self.cells.columns + column].is_some())
    }
}

/// Items in their cells while some of them are exchanged.
struct Draft<'a> {
    items: &'a Items,
    table: Table,
    near: Vec<Near>,
    crossings: Crossings,
    /// What each item cost in itself, since the last exchange; `None` where that is not known.
    known: Vec<Option<f64>>,
}

impl Draft<'_> {
    /// Looks at all pairs of cells in turn, until none of them gets better by an exchange, or so often.
    fn improve(&mut self, rounds: usize) {
        let count = self.table.held.len();
        let pairs = count * count.saturating_sub(1) / 2;
        // Those that were looked at since the last exchange would be found as they are.
        let mut idle = 0;
        for _ in 0..rounds {
            for a in 0..count {
                for b in a + 1..count {
                    idle = if self.exchange(a, b) { 0 } else { idle + 1 };
                    if idle >= pairs {
                        return;
                    }
                }
            }
        }
    }

    /// Exchanges what stands in two cells, if that is better; says whether it was.
    fn exchange(&mut self, a: usize, b: usize) -> bool {
        let both = [self.table.held[a], self.table.held[b]];
        if both == [None, None] {
            return false;
        }
        // Lines between the two count with both. Measured: where each counts once, tangled groups have 6 % more crossings.
        let before: f64 = both.iter().flatten().map(|item| self.known_cost(*item)).sum();
        self.table.swap(a, b);
        let after: f64 = both.iter().flatten().map(|item| self.items.cost_of(&self.table, *item, &self.near)).sum();
        // Crossings are counted only where they can decide: first those that each had, then those that both have now.
        let most = before + self.most_crossings(both) as f64 * CROSSING;
        if after >= most - 0.5 {
            self.table.swap(a, b);
            return false;
        }
        let own = self.stretches_at(both);
        let before = before + self.crossings.known(&own) as f64 * CROSSING;
        self.renew(&own);
        let is_better = |count: usize| after + count as f64 * CROSSING < before - 0.5;
        if self.crossings.count_while(&own, is_better).is_none() {
            self.table.swap(a, b);
            self.renew(&own);
            return false;
        }
        self.crossings.note(&own);
        // What moved may stand in the way of others now.
        self.known.fill(None);
        true
    }

    /// What the lines and pulls of an item cost before an exchange is tried.
    fn known_cost(&mut self, item: usize) -> f64 {
        *self.known[item].get_or_insert_with(|| self.items.cost_of(&self.table, item, &self.near))
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
            let (_, from, to) = self.items.stretch(&self.table.cells, *i);
            self.crossings.put(*i, from, to);
        }
    }
}

impl Items {
    /// The best cells that exchanges find in this many columns, and what they cost.
    pub(super) fn assign(&self, columns: usize) -> (Cells, f64) {
        let table = Table::new(&self.order(), columns);
        let crossings = self.crossings(&table.cells);
        let known = vec![None; self.count];
        let mut draft = Draft { items: self, table, near: self.near(), crossings, known };
        let rounds = if self.count > MOST { 0 } else { ROUNDS };
        draft.improve(rounds);
        let cost = self.cost(&draft.table, &draft.crossings);
        (draft.table.cells, cost)
    }

    /// What all lines and pulls cost, with their crossings as taken note of.
    fn cost(&self, table: &Table, crossings: &Crossings) -> f64 {
        let lines = self.lines.iter().map(|line| self.cost_of_line(table, line)).sum::<f64>();
        let pulls = self.pulls.iter().map(|pull| self.cost_of_pull(table, pull)).sum::<f64>();
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
    fn cost_of(&self, table: &Table, item: usize, near: &[Near]) -> f64 {
        let lines = near[item].lines.iter().map(|l| self.cost_of_line(table, &self.lines[*l])).sum::<f64>();
        lines + near[item].pulls.iter().map(|pull| self.cost_of_pull(table, &self.pulls[*pull])).sum::<f64>()
    }

    fn cost_of_line(&self, table: &Table, line: &Line) -> f64 {
        let ((x1, y1), (x2, y2)) = (table.cells.at[line.from], table.cells.at[line.to]);
        let (across, down) = (x1.abs_diff(x2), y1.abs_diff(y2));
        let length = across as f64 * self.cell.w + down as f64 * self.cell.h;
        let turn = if across > 0 && down > 0 { TURN } else { 0.0 };
        // Whether an item stands between two in one row or column.
        let is_passed = match (across, down) {
            (0, _) => table.is_held((y1.min(y2) + 1..y1.max(y2)).map(|row| (x1, row))),
            (_, 0) => table.is_held((x1.min(x2) + 1..x1.max(x2)).map(|column| (column, y1))),
            _ => false,
        };
        let passed = if is_passed { PASSED } else { 0.0 };
        let against =
            if self.heading.advance(self.middle((x1, y1)), self.middle((x2, y2))) < 0.0 { self.against } else { 0.0 };
        line.weight * (length + turn + passed + against)
    }

    fn cost_of_pull(&self, table: &Table, (item, to): &(usize, Point)) -> f64 {
        let at = table.cells.at[*item];
        let own = self.middle(at);
        let (dx, dy) = ((own.x - to.x).abs(), (own.y - to.y).abs());
        // What stands level with where it is pulled can have a straight line.
        let turn = if dx > self.cell.w / 2.0 && dy > self.cell.h / 2.0 { TURN } else { 0.0 };
        let behind = if self.is_behind(table, at, *to) { BEHIND } else { 0.0 };
        dx + dy + turn + behind
    }

    /// Whether another item stands between a cell and the side of the group to which it is pulled straight.
    fn is_behind(&self, table: &Table, (column, row): (usize, usize), to: Point) -> bool {
        let (columns, rows) = (table.cells.columns, table.rows());
        let (above, below) = (to.y < 0.0, to.y > self.cell.h * rows as f64);
        let (before, after) = (to.x < 0.0, to.x > self.cell.w * columns as f64);
        match (above || below, before || after) {
            (true, false) => table.is_held(if above { 0..row } else { row + 1..rows }.map(|row| (column, row))),
            (false, true) => {
                table.is_held(if before { 0..column } else { column + 1..columns }.map(|column| (column, row)))
            }
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
    use proptest::prelude::*;

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

    #[test]
    fn a_line_past_an_item_costs_more_than_one_around_a_corner() {
        // Three in a row: from the first to the last the way leads past the second.
        let mut row = items(3, &[(0, 2)]);
        row.against = 0.0;
        let past = row.cost(&Table::new(&[0, 1, 2], 3), &row.crossings(&Table::new(&[0, 1, 2], 3).cells));
        let beside = row.cost(&Table::new(&[0, 2, 1], 3), &row.crossings(&Table::new(&[0, 2, 1], 3).cells));
        assert_eq!(past - beside, PASSED + row.cell.w);
        // Empty cells are in nobody's way.
        let table = Table::new(&[0, 1], 3);
        assert!(!table.is_held([(2, 0)].into_iter()) && table.is_held([(1, 0), (2, 0)].into_iter()));
    }

    #[test]
    fn what_is_pulled_past_another_item_gives_way() {
        let mut column = items(2, &[]);
        column.pulls = vec![(0, pt(70.0, 900.0))];
        let cost = |order: &[usize]| {
            let table = Table::new(order, 1);
            column.cost(&table, &column.crossings(&table.cells))
        };
        assert_eq!(cost(&[0, 1]) - cost(&[1, 0]), BEHIND + column.cell.h);
        assert_eq!(column.assign(1).0.at, [(0, 1), (0, 0)]);
    }

    proptest! {
        /// However much is exchanged, every item has a cell, and what it is said to cost is what it costs.
        #[test]
        fn cells_and_their_cost_belong_together(
            count in 1..14_usize, columns in 1..6_usize,
            ends in proptest::collection::vec((0..14_usize, 0..14_usize), 0..24),
            pulls in proptest::collection::vec((0..14_usize, -900.0..1800.0_f64, -900.0..1800.0_f64), 0..10),
        ) {
            let lines: Vec<(usize, usize)> =
                ends.iter().map(|(a, b)| (a % count, b % count)).filter(|(a, b)| a != b).collect();
            let mut all = items(count, &lines);
            all.pulls = pulls.iter().map(|(item, x, y)| (item % count, pt(*x, *y))).collect();
            let (cells, cost) = all.assign(columns);
            // Every item has a cell of its own.
            let places: std::collections::BTreeSet<(usize, usize)> = cells.at.iter().copied().collect();
            prop_assert_eq!(places.len(), count);
            prop_assert!(cells.at.iter().all(|(x, y)| *x < columns && *y < count.div_ceil(columns)));
            // The cost is that of these cells, counted from scratch.
            let mut table = Table::new(&(0..count).collect::<Vec<_>>(), columns);
            table.held.fill(None);
            cells.at.iter().enumerate().for_each(|(item, (x, y))| table.held[y * columns + x] = Some(item));
            table.cells = cells;
            let counted = all.cost(&table, &all.crossings(&table.cells));
            prop_assert!((cost - counted).abs() < 1e-6, "{} and {}", cost, counted);
            prop_assert_eq!(all.assign(columns).0, table.cells, "the same input gives the same cells");
        }
    }
}
