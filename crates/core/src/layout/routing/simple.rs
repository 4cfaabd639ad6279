//! Lines with two corners at most, found without a search: straight, an angle, or a step (pattern routing, as between the
//! pins of a chip; Kastner, Bozorgzadeh, Sarrafzadeh, "Pattern routing", 2002). Input: the ports of both ends on the grid.
//! Output: the cheapest such line that is free, which is what most lines are, and a bound for the search for a better one.

use super::grid::{BEND, Grid, Port};
use crate::geom::{Point, pt};
use crate::layout::outline::Side;
use crate::layout::route::tidied;

/// Ports of a side, and tracks beyond the ends of a line, that are tried.
const TRIED_PORTS: usize = 5;
const ASIDE: usize = 24;

/// A line with few corners: what it costs, the numbers of its ports, and its places.
pub(super) struct Simple {
    pub(super) cost: u32,
    pub(super) start: usize,
    pub(super) goal: usize,
    pub(super) path: Vec<(usize, usize)>,
}

/// A port that is tried.
#[derive(Clone, Copy)]
struct End {
    /// Its number among the ports of its end.
    number: usize,
    port: Port,
    /// From which to which track a line can run straight out of it.
    reach: (usize, usize),
}

impl End {
    /// Whether a line can run straight out of it to a place on its row or column.
    fn reaches(&self, (column, row): (usize, usize)) -> bool {
        let track = if self.port.is_flat() { column } else { row };
        self.reach.0 <= track && track <= self.reach.1
    }
}

/// With how many corners a line between two ports gets along at least.
fn fewest_corners(start: &Port, goal: &Port) -> u32 {
    let is_level = if start.is_flat() { start.row == goal.row } else { start.column == goal.column };
    match start.is_flat() == goal.is_flat() {
        false => 1,
        true if is_level => 0,
        true => 2,
    }
}

impl Grid {
    /// The cheapest line with two corners at most: straight, an angle, or a step (pattern routing, as between the pins of
    /// a chip; Kastner, Bozorgzadeh, Sarrafzadeh, "Pattern routing", 2002). Nothing if none is free.
    pub(super) fn simplest(&self, starts: &[Port], goals: &[Port], allowed: &[bool]) -> Option<Simple> {
        let (starts, goals) = (self.nearest(starts, allowed), self.nearest(goals, allowed));
        let mut best: Option<Simple> = None;
        for from in &starts {
            for to in &goals {
                let (start, goal) = (&from.port, &to.port);
                let ends = [(start.column, start.row), (goal.column, goal.row)];
                let ports = start.cost + goal.cost;
                let bound = best.as_ref().map_or(u32::MAX, |b| b.cost);
                if ports + BEND * fewest_corners(start, goal) + self.steps_between(ends[0], ends[1]) >= bound {
                    continue;
                }
                for corners in corners(from, to) {
                    let bends = BEND * corners.len() as u32;
                    let path: Vec<(usize, usize)> =
                        ends[..1].iter().chain(&corners).chain(&ends[1..]).copied().collect();
                    let least = ports + bends + path.windows(2).map(|p| self.steps_between(p[0], p[1])).sum::<u32>();
                    let bound = best.as_ref().map_or(u32::MAX, |b| b.cost);
                    if least >= bound {
                        continue;
                    }
                    let Some(cost) = self.cost_of_path(&path, allowed) else { continue };
                    if ports + bends + cost < bound {
                        best = Some(Simple { cost: ports + bends + cost, start: from.number, goal: to.number, path });
                    }
                }
            }
        }
        best
    }

    /// The ports in the middle of each side from which a line can run at all.
    fn nearest(&self, ports: &[Port], allowed: &[bool]) -> Vec<End> {
        let mut found = Vec::new();
        for side in [Side::Bottom, Side::Right, Side::Left, Side::Top] {
            let mut own: Vec<(usize, Port)> =
                ports.iter().copied().enumerate().filter(|(_, port)| port.side == side).collect();
            own.sort_by_key(|(i, port)| (port.cost, *i));
            let ends = own.into_iter().take(TRIED_PORTS);
            found.extend(ends.filter_map(|(number, port)| {
                let reach = self.reach(&port, allowed)?;
                Some(End { number, port, reach })
            }));
        }
        found
    }

    /// From which to which track a line can run straight out of a port; nothing if it cannot leave.
    fn reach(&self, port: &Port, allowed: &[bool]) -> Option<(usize, usize)> {
        let (is_flat, is_forward) = (port.is_flat(), matches!(port.side, Side::Right | Side::Bottom));
        let at = |track: usize| if is_flat { (track, port.row) } else { (port.column, track) };
        let (own, count) = if is_flat { (port.column, self.columns) } else { (port.row, self.rows) };
        if !self.is_open(self.place(port.column, port.row), allowed) {
            return None;
        }
        let is_free = |from: usize, to: usize| self.step(at(from), at(to), allowed).is_some();
        let mut last = own;
        if is_forward {
            while last + 1 < count && is_free(last, last + 1) {
                last += 1;
            }
        } else {
            while last > 0 && is_free(last - 1, last) {
                last -= 1;
            }
        }
        Some((own.min(last), own.max(last)))
    }

    /// How many pitches lie between two places, along the axes.
    fn steps_between(&self, (c, r): (usize, usize), (d, s): (usize, usize)) -> u32 {
        self.across.between(c, d) + self.down.between(r, s)
    }

    /// What a path costs without its corners; nothing if something is in its way.
    fn cost_of_path(&self, path: &[(usize, usize)], allowed: &[bool]) -> Option<u32> {
        let mut cost = 0;
        for pair in path.windows(2) {
            cost += self.cost_of_run(pair[0], pair[1], allowed)?;
        }
        let inner = &path[1..path.len() - 1];
        (!inner.iter().any(|(c, r)| self.is_crossing(self.place(*c, *r)))).then_some(cost)
    }

    /// What a straight run costs; nothing if something is in its way.
    fn cost_of_run(&self, from: (usize, usize), to: (usize, usize), allowed: &[bool]) -> Option<u32> {
        // From its left or upper end, whichever way the line goes: what a step costs is the same both ways.
        let (mut at, last) = (from.min(to), from.max(to));
        if !self.is_open(self.place(at.0, at.1), allowed) {
            return None;
        }
        let mut cost = 0;
        while at != last {
            let next = if at.1 == last.1 { (at.0 + 1, at.1) } else { (at.0, at.1 + 1) };
            cost += self.step(at, next, allowed)?;
            at = next;
        }
        Some(cost)
    }

    /// The points of a simple line.
    pub(super) fn drawn(&self, simple: &Simple, starts: &[Port], goals: &[Port]) -> Vec<Point> {
        let inner = simple.path.iter().map(|(c, r)| pt(self.x(*c), self.y(*r)));
        let points = std::iter::once(starts[simple.start].at).chain(inner).chain([goals[simple.goal].at]).collect();
        tidied(points)
    }
}

/// The corners of all lines with two at most between two ports, which leave and arrive outward and are free up to there.
fn corners(from: &End, to: &End) -> Vec<Vec<(usize, usize)>> {
    let (start, goal) = (&from.port, &to.port);
    let (is_flat, ends_flat) = (start.is_flat(), goal.is_flat());
    if is_flat != ends_flat {
        let corner = if is_flat { (goal.column, start.row) } else { (start.column, goal.row) };
        return if from.reaches(corner) && to.reaches(corner) { vec![vec![corner]] } else { Vec::new() };
    }
    let is_level = if is_flat { start.row == goal.row } else { start.column == goal.column };
    if is_level && from.reaches((goal.column, goal.row)) && to.reaches((start.column, start.row)) {
        return vec![Vec::new()];
    }
    let (a, b) = if is_flat { (start.column, goal.column) } else { (start.row, goal.row) };
    let step = |i: usize| if is_flat { [(i, start.row), (i, goal.row)] } else { [(start.column, i), (goal.column, i)] };
    // From between the two outwards, the nearest first.
    let (low, high) = (a.min(b), a.max(b));
    let beyond = |i: usize| low.saturating_sub(i) + i.saturating_sub(high);
    let middle = (low + high) / 2;
    let (first, last) = (from.reach.0.max(to.reach.0), from.reach.1.min(to.reach.1));
    let mut tracks: Vec<usize> = (first..=last).filter(|i| beyond(*i) <= ASIDE).collect();
    tracks.sort_by_key(|i| (beyond(*i), i.abs_diff(middle)));
    tracks.into_iter().map(|i| step(i).to_vec()).collect()
}
