//! Which tracks a line takes: the cheapest way over the lattice, with what readers suffer from as costs. Input: a lattice
//! and edges. Output: a [`Way`] for each, found with A* (Hart, Nilsson, Raphael, "A formal basis for the heuristic
//! determination of minimum cost paths", 1968).

use super::gaps::{CORNER, PITCH};
use super::lattice::{ABOVE, BELOW, LEFT, Lattice, NONE, Port, RIGHT};
use super::way::Way;
use crate::layout::graph::{Anchor, Graph};
use crate::layout::outline::Side;
use crate::layout::placement::Placement;
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// What a bend costs, in px of length.
// As much as the score makes of it.
const BEND: u32 = 120;
/// What crossing a line costs.
// Three bends: a crossing at a right angle reads better than a long way around.
const CROSSING: u32 = 360;
/// What each line costs that already ends at the same side, and each for which that side has no more room.
// Less than a bend, so that a side is left only where another is nearly as near.
const SHARED_SIDE: u32 = 10;
const NO_ROOM: u32 = 300;
/// What an end away from the middle of its side costs.
// Worth a pitch: the middle, where nothing else asks for it.
const ASIDE: u32 = 12;
/// Of more lines than this, a way near the cheapest will do.
// The same number from which lines around obstacles take the simplest way.
const MANY: usize = 60;
/// By how many quarters the estimate of what lies ahead then counts, and otherwise.
// A way found so costs at most half as much again as the cheapest.
const HURRIED: u32 = 6;
const EXACT: u32 = 4;
/// How often all lines are looked at again.
// It ends as soon as no line changes.
const ROUNDS: usize = 3;

/// States of a place: horizontal ones, then vertical ones; of each those that come straight from their start, and those
/// that turned at a place where the line headed right or down, or left or up.
// Who joins other lines on a track from one side and leaves to the other crosses them.
const STATES: usize = 6;
const VERTICAL: usize = 3;

/// How much is tried.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) enum Care {
    /// Each line once, to see how much room lines need.
    Sketch,
    /// Each line again, now that all others are known.
    Full,
}

/// What one search knows of a state.
#[derive(Clone, Copy, Default)]
struct Visit {
    /// The number of the search that this is from.
    search: u32,
    cost: u32,
    /// The state before, or a port of the start.
    before: Before,
}

#[derive(Clone, Copy)]
enum Before {
    Port(u32),
    State(u32),
}

impl Default for Before {
    fn default() -> Self {
        Before::Port(0)
    }
}

/// A state that is to be looked at: what the whole way through it costs at least, then what it cost so far, the most first,
/// then its number.
// One number that is compared at once: most of the time goes into the queue.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
struct Open(u128);

impl Open {
    fn new(estimate: u32, cost: u32, state: usize) -> Self {
        Self(u128::from(estimate) << 64 | u128::from(!cost) << 32 | state as u128)
    }

    fn parts(self) -> (u32, u32, usize) {
        ((self.0 >> 64) as u32, !((self.0 >> 32) as u32), (self.0 & u128::from(u32::MAX)) as usize)
    }
}

pub(super) struct Search<'a> {
    graph: &'a Graph,
    placement: &'a Placement,
    lattice: &'a Lattice,
    visits: Vec<Visit>,
    searches: u32,
    /// How many lines run straight across each place, horizontally and vertically.
    level: Vec<u16>,
    plumb: Vec<u16>,
    /// How many lines end at each side of each node and group.
    ended: Vec<[u16; 4]>,
    queue: BinaryHeap<Reverse<Open>>,
    allowed: Vec<bool>,
    /// By how many quarters the estimate of what lies ahead counts.
    // More than four find a way sooner, which costs up to this much more than the cheapest (weighted A*, Pohl, "Heuristic
    // search viewed as path finding in a graph", 1970).
    quarters: u32,
    /// Where tracks lie, in whole px.
    across: Vec<i32>,
    down: Vec<i32>,
}

impl<'a> Search<'a> {
    pub(super) fn new(graph: &'a Graph, placement: &'a Placement, lattice: &'a Lattice) -> Self {
        let count = lattice.places.len();
        Self {
            graph,
            placement,
            lattice,
            visits: vec![Visit::default(); STATES * count],
            searches: 0,
            level: vec![0; count],
            plumb: vec![0; count],
            ended: vec![[0; 4]; graph.nodes.len() + graph.groups.len()],
            queue: BinaryHeap::new(),
            allowed: vec![false; graph.groups.len() + 1],
            quarters: EXACT,
            across: whole(&lattice.across.at),
            down: whole(&lattice.down.at),
        }
    }

    /// The ways of all these edges: the shortest first, then each again while that helps.
    pub(super) fn all(mut self, edges: &[usize], care: Care) -> Vec<Option<Way>> {
        let mut ways = vec![None; self.graph.edges.len()];
        let is_hurried = edges.len() > MANY;
        self.quarters = if is_hurried { HURRIED } else { EXACT };
        let rounds = match care {
            Care::Sketch => 1,
            Care::Full if is_hurried => ROUNDS - 1,
            Care::Full => ROUNDS,
        };
        let ports: Vec<[Vec<Port>; 2]> =
            edges.iter().map(|e| [0, 1].map(|end| self.lattice.ports(self.graph, self.placement, (*e, end)))).collect();
        let mut order: Vec<usize> = (0..edges.len()).collect();
        let length = |i: usize| {
            let edge = &self.graph.edges[edges[i]];
            let (a, b) = (self.placement.rect(edge.from).middle(), self.placement.rect(edge.to).middle());
            (a.x - b.x).abs() + (a.y - b.y).abs()
        };
        order.sort_by(|a, b| length(*a).total_cmp(&length(*b)).then(a.cmp(b)));
        // This many lines in turn kept their ways: as soon as all do, nothing changes any more.
        let mut kept = 0;
        for i in std::iter::repeat_n(&order, rounds).flatten() {
            let e = edges[*i];
            if let Some(way) = &ways[e] {
                self.take(e, way, -1);
            }
            let way = self.search(e, &ports[*i]);
            if let Some(way) = &way {
                self.take(e, way, 1);
            }
            kept = if way == ways[e] { kept + 1 } else { 0 };
            ways[e] = way;
            if kept == order.len() {
                break;
            }
        }
        ways
    }

    /// Takes note of a way, or of its end.
    fn take(&mut self, e: usize, way: &Way, by: i16) {
        let count = |n: &mut u16| *n = n.saturating_add_signed(by);
        for pair in way.places.windows(2).filter(|p| p[0] != p[1]) {
            let (first, last) = (pair[0].min(pair[1]), pair[0].max(pair[1]));
            let is_vertical = first.0 == last.0;
            let (Some(mut at), Some(last)) = (self.lattice.number(first), self.lattice.number(last)) else { continue };
            let (towards, counts) = if is_vertical { (BELOW, &mut self.plumb) } else { (RIGHT, &mut self.level) };
            // Corners are no places that the line runs straight across.
            loop {
                let next = self.lattice.places[at].next[towards];
                if next == NONE || next as usize == last {
                    break;
                }
                at = next as usize;
                count(&mut counts[at]);
            }
        }
        let edge = &self.graph.edges[e];
        // Neither are the ends, but nobody gets between a side and the place beside it.
        for (end, anchor) in [(0, edge.from), (1, edge.to)] {
            count(&mut self.ended[anchor.number(self.graph.nodes.len())][way.sides[end].number()]);
        }
    }

    /// What it costs to end at a port.
    fn port_cost(&self, anchor: Anchor, port: &Port) -> u32 {
        let rect = self.placement.rect(anchor);
        let ended = u32::from(self.ended[anchor.number(self.graph.nodes.len())][port.side.number()]);
        let extent = if port.side.is_vertical() { rect.w } else { rect.h };
        let room = ((extent - 2.0 * CORNER).max(0.0) / PITCH) as u32 + 1;
        let aside = if port.offset > 1.0 { ASIDE } else { 0 };
        let crowded = if ended >= room { NO_ROOM * (ended + 1 - room) } else { SHARED_SIDE * ended };
        port.distance as u32 + aside + crowded
    }

    fn search(&mut self, e: usize, ports: &[Vec<Port>; 2]) -> Option<Way> {
        let edge = &self.graph.edges[e];
        self.allowed.fill(false);
        self.allowed[0] = true;
        for end in [edge.from, edge.to] {
            // A line that comes to a group from outside stays outside.
            let own = if let Anchor::Group(g) = end { Some(g) } else { None };
            for g in self.graph.groups_around(end).filter(|g| Some(*g) != own) {
                self.allowed[g + 1] = true;
            }
        }
        let [starts, goals] = ports;
        let goal_costs: Vec<u32> = goals.iter().map(|port| self.port_cost(edge.to, port)).collect();
        let bounds = self.bounds(goals);
        self.searches += 1;
        self.queue.clear();
        for (i, port) in starts.iter().enumerate() {
            if self.allowed[self.lattice.places[port.place].group as usize] {
                let state = STATES * port.place + if port.side.is_vertical() { VERTICAL } else { 0 };
                self.push(state, self.port_cost(edge.from, port), Before::Port(i as u32), &bounds);
            }
        }
        let mut finish: Option<(u32, usize, usize)> = None;
        while let Some(Reverse(open)) = self.queue.pop() {
            let (estimate, cost, state) = open.parts();
            if finish.is_some_and(|f| f.0 <= estimate) {
                break;
            }
            if self.visits[state].cost < cost {
                continue;
            }
            let (at, is_vertical) = (state / STATES, state % STATES >= VERTICAL);
            let is_near = bounds.hold(self.point(at));
            for (g, goal) in goals.iter().enumerate().filter(|_| is_near) {
                if goal.place != at || !self.arrives(state, goal) {
                    continue;
                }
                let total = cost + goal_costs[g] + if goal.side.is_vertical() == is_vertical { 0 } else { BEND };
                if finish.is_none_or(|f| total < f.0) {
                    finish = Some((total, state, g));
                }
            }
            self.expand(state, starts, &bounds);
        }
        let (_, state, goal) = finish?;
        Some(self.way(state, starts, &goals[goal]))
    }

    /// Where these goals lie.
    fn bounds(&self, goals: &[Port]) -> Bounds {
        let places = || goals.iter().map(|port| self.lattice.places[port.place]);
        let span = |all: &mut dyn Iterator<Item = i32>| {
            all.fold((i32::MAX, i32::MIN), |(low, high), v| (low.min(v), high.max(v)))
        };
        Bounds {
            across: span(&mut places().map(|place| self.across[place.column as usize])),
            down: span(&mut places().map(|place| self.down[place.row as usize])),
        }
    }

    /// Whether a line that came to a goal in a state may end there: not from the side of the thing itself.
    fn arrives(&self, state: usize, goal: &Port) -> bool {
        match self.visits[state].before {
            Before::Port(_) => true,
            Before::State(before) => self.heading(before as usize / STATES, state / STATES) != goal.heading,
        }
    }

    fn push(&mut self, state: usize, cost: u32, before: Before, bounds: &Bounds) {
        let known = &self.visits[state];
        if known.search == self.searches && known.cost <= cost {
            return;
        }
        self.visits[state] = Visit { search: self.searches, cost, before };
        let ahead = bounds.ahead(self.point(state / STATES), state % STATES >= VERTICAL);
        self.queue.push(Reverse(Open::new(cost + ahead * self.quarters / 4, cost, state)));
    }

    /// Where a place lies, in whole px.
    fn point(&self, place: usize) -> (i32, i32) {
        let place = &self.lattice.places[place];
        (self.across[place.column as usize], self.down[place.row as usize])
    }

    /// All steps from a state.
    fn expand(&mut self, state: usize, starts: &[Port], bounds: &Bounds) {
        let (at, is_vertical) = (state / STATES, state % STATES >= VERTICAL);
        let place = self.lattice.places[at];
        let Visit { cost: so_far, before, .. } = self.visits[state];
        // A line does not turn back on itself.
        let heading = match before {
            Before::State(from) => self.heading(from as usize / STATES, at),
            Before::Port(port) => starts[port as usize].heading,
        };
        let joined = state % STATES % VERTICAL;
        for (towards, side) in [(RIGHT, Side::Right), (BELOW, Side::Bottom), (LEFT, Side::Left), (ABOVE, Side::Top)] {
            let next = place.next[towards];
            if next == NONE || side == heading.opposite() {
                continue;
            }
            let to = &self.lattice.places[next as usize];
            if !self.allowed[to.group as usize] {
                continue;
            }
            let goes_vertical = side.is_vertical();
            let length = if goes_vertical {
                self.down[to.row as usize].abs_diff(self.down[place.row as usize])
            } else {
                self.across[to.column as usize].abs_diff(self.across[place.column as usize])
            };
            let (cost, joined) = if goes_vertical == is_vertical {
                let crossed = if is_vertical { self.level[at] } else { self.plumb[at] };
                (CROSSING * u32::from(crossed), joined)
            } else {
                let along = if is_vertical { self.plumb[at] } else { self.level[at] };
                let has_crossed = joined > 0 && (joined == 1) == side.is_forward();
                let crossed = if has_crossed { CROSSING * u32::from(along) } else { 0 };
                (BEND + crossed, if heading.is_forward() { 1 } else { 2 })
            };
            let to = STATES * next as usize + if goes_vertical { VERTICAL } else { 0 } + joined;
            self.push(to, so_far + length + cost, Before::State(state as u32), bounds);
        }
    }

    /// Which way a line goes from one place to another on the same track.
    fn heading(&self, from: usize, to: usize) -> Side {
        let (a, b) = (&self.lattice.places[from], &self.lattice.places[to]);
        match (a.row == b.row, (a.row, a.column) < (b.row, b.column)) {
            (true, true) => Side::Right,
            (true, false) => Side::Left,
            (false, true) => Side::Bottom,
            (false, false) => Side::Top,
        }
    }

    /// The way that ends in a state.
    fn way(&self, mut state: usize, starts: &[Port], goal: &Port) -> Way {
        let mut places = Vec::new();
        let start = loop {
            let place = &self.lattice.places[state / STATES];
            places.push((place.column as usize, place.row as usize));
            match self.visits[state].before {
                Before::State(before) => state = before as usize,
                Before::Port(port) => break &starts[port as usize],
            }
        };
        places.reverse();
        let mut corners: Vec<(usize, usize)> = Vec::new();
        for place in places {
            if let [.., a, b] = corners.as_slice()
                && ((a.0 == b.0 && b.0 == place.0) || (a.1 == b.1 && b.1 == place.1))
            {
                corners.pop();
            }
            corners.push(place);
        }
        // A line between neighbours may be at one place only.
        if corners.len() == 1 {
            corners.push(corners[0]);
        }
        Way { places: corners, sides: [start.side, goal.side], headings: [start.heading, goal.heading] }
    }
}

/// What the way to the goals costs at least: from where to where they lie.
struct Bounds {
    across: (i32, i32),
    down: (i32, i32),
}

impl Bounds {
    /// Whether a goal may lie at a point.
    fn hold(&self, (x, y): (i32, i32)) -> bool {
        (self.across.0..=self.across.1).contains(&x) && (self.down.0..=self.down.1).contains(&y)
    }

    fn ahead(&self, (x, y): (i32, i32), is_vertical: bool) -> u32 {
        let off = |v: i32, (low, high): (i32, i32)| low.saturating_sub(v).max(v.saturating_sub(high)).max(0);
        let (x, y) = (off(x, self.across).unsigned_abs(), off(y, self.down).unsigned_abs());
        let turns = if is_vertical { x > 0 } else { y > 0 };
        x + y + if turns { BEND } else { 0 }
    }
}

fn whole(all: &[f64]) -> Vec<i32> {
    all.iter().map(|at| *at as i32).collect()
}
