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

/// The ports in the middle of each side, with their numbers.
fn nearest_ports(ports: &[Port]) -> Vec<(usize, Port)> {
    let mut found = Vec::new();
    for side in [Side::Bottom, Side::Right, Side::Left, Side::Top] {
        let mut own: Vec<(usize, Port)> =
            ports.iter().copied().enumerate().filter(|(_, port)| port.side == side).collect();
        own.sort_by_key(|(i, port)| (port.cost, *i));
        found.extend(own.into_iter().take(TRIED_PORTS));
    }
    found
}

impl Grid {
    /// The cheapest line with two corners at most: straight, an angle, or a step (pattern routing, as between the pins of
    /// a chip; Kastner, Bozorgzadeh, Sarrafzadeh, "Pattern routing", 2002). Nothing if none is free.
    pub(super) fn simplest(&self, starts: &[Port], goals: &[Port], allowed: &[bool]) -> Option<Simple> {
        let (starts, goals) = (nearest_ports(starts), nearest_ports(goals));
        let mut best: Option<Simple> = None;
        for (s, start) in &starts {
            for (g, goal) in &goals {
                let ends = [(start.column, start.row), (goal.column, goal.row)];
                let ports = start.cost + goal.cost;
                for corners in self.corners(start, goal) {
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
                        best = Some(Simple { cost: ports + bends + cost, start: *s, goal: *g, path });
                    }
                }
            }
        }
        best
    }

    /// The corners of all lines with two at most between two ports, which leave and arrive outward.
    fn corners(&self, start: &Port, goal: &Port) -> Vec<Vec<(usize, usize)>> {
        let (is_flat, ends_flat) = (start.is_flat(), goal.is_flat());
        if is_flat != ends_flat {
            let corner = if is_flat { (goal.column, start.row) } else { (start.column, goal.row) };
            let is_outward = start.is_outward(corner) && goal.is_outward(corner);
            return if is_outward { vec![vec![corner]] } else { Vec::new() };
        }
        let is_level = if is_flat { start.row == goal.row } else { start.column == goal.column };
        if is_level && start.is_outward((goal.column, goal.row)) && goal.is_outward((start.column, start.row)) {
            return vec![Vec::new()];
        }
        let (count, a, b) =
            if is_flat { (self.columns, start.column, goal.column) } else { (self.rows, start.row, goal.row) };
        let step =
            |i: usize| if is_flat { [(i, start.row), (i, goal.row)] } else { [(start.column, i), (goal.column, i)] };
        let is_outward = |i: &usize| start.is_outward(step(*i)[0]) && goal.is_outward(step(*i)[1]);
        // From between the two outwards, the nearest first.
        let (low, high) = (a.min(b), a.max(b));
        let beyond = |i: usize| low.saturating_sub(i) + i.saturating_sub(high);
        let middle = (low + high) / 2;
        let mut tracks: Vec<usize> = (0..count).filter(|i| beyond(*i) <= ASIDE).filter(is_outward).collect();
        tracks.sort_by_key(|i| (beyond(*i), i.abs_diff(middle)));
        tracks.into_iter().map(|i| step(i).to_vec()).collect()
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
