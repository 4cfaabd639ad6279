//! Lines around obstacles: horizontal and vertical lines with few bends between things that already have their places, each
//! on a track of its own. A search for the cheapest path on a grid of tracks, as in Wybrow, Marriott, Stuckey, "Orthogonal
//! connector routing" (2009), with a regular grid in place of their visibility graph and the occupied stretches known
//! while searching, so that no second pass has to nudge lines apart.
//!
//! Input: a graph, a placement, and the edges that need a line. Output: their routes and the places of their labels.
//! Lines never enter a node, a title, a label, or a group that is around none of their ends, and never lie on
//! another line; they may cross. An edge that finds no way within the budget keeps the line that it had; one that had
//! none may enter any group.

use super::grid::{BEND, Grid, Port};
use super::tracks::Axis;
use crate::geom::{Point, Rect, pt};
use crate::layout::graph::{Anchor, Edge, Graph};
use crate::layout::intersections::hits;
use crate::layout::orientation::Orientation;
use crate::layout::placement::Placement;
use crate::layout::route::{Route, tidied};
use crate::layout::routing::labels;
use std::collections::BTreeMap;

/// Up to this many places of the grid are looked at for one line, and for all lines together.
// A line that finds no way within them runs straight, and counts as a fault of the picture.
const STEPS: usize = 400_000;
const ALL_STEPS: usize = 3_000_000;
/// More lines than this at once take the simplest ways that are free.
// The cheapest way of each is lost among so many lines anyway.
const MANY: usize = 60;

/// How far apart the ends of an edge are, along the axes, in px.
fn grid_distance(placement: &Placement, edge: &Edge) -> f64 {
    let (a, b) = (placement.rect(edge.from).middle(), placement.rect(edge.to).middle());
    (a.x - b.x).abs() + (a.y - b.y).abs()
}

/// Gives the edges new lines, the shortest first, and passes over those that find no way.
pub(in crate::layout) fn route(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    let Some(mut router) = Router::new(graph, placement, edges) else { return };
    let mut found: Vec<usize> =
        shortest_first(graph, placement, edges).into_iter().filter(|e| router.draw(graph, placement, *e)).collect();
    // Labels last: they look for a free stretch of their own line.
    found.sort_unstable();
    labels::put(graph, placement, &found);
}

/// The same, unless one of them finds no way: says whether all did, and gives up at the first that did not.
pub(in crate::layout) fn route_all(graph: &Graph, placement: &mut Placement, edges: &[usize]) -> bool {
    if edges.is_empty() {
        return true;
    }
    let Some(mut router) = Router::new(graph, placement, edges) else { return false };
    let is_whole = shortest_first(graph, placement, edges).into_iter().all(|e| router.draw(graph, placement, e));
    if is_whole {
        labels::put(graph, placement, edges);
    }
    is_whole
}

fn shortest_first(graph: &Graph, placement: &Placement, edges: &[usize]) -> Vec<usize> {
    let length = |e: usize| grid_distance(placement, &graph.edges[e]);
    let mut order = edges.to_vec();
    order.sort_by(|a, b| length(*a).total_cmp(&length(*b)).then(a.cmp(b)));
    order
}

/// What one search knows of a state: a place and a direction, 0 horizontal and 1 vertical.
#[derive(Clone, Copy, Default)]
struct Visit {
    /// The number of the search that this is from.
    search: u32,
    cost: u32,
    /// Where it came from.
    came: Came,
}

#[derive(Clone, Copy)]
enum Came {
    /// From a port of the start, by its number.
    Port(u32),
    /// From another state.
    State(u32),
}

impl Default for Came {
    fn default() -> Self {
        Came::Port(0)
    }
}

/// What the way to a goal costs at least from each column and row: the steps, and a bend where the way is not straight.
struct Ahead {
    columns: Vec<(u32, u32)>,
    rows: Vec<(u32, u32)>,
    /// By how many halves the estimate counts: more than two find a way sooner, which costs up to this much more than the
    /// cheapest (weighted A*, Pohl, "Heuristic search viewed as path finding in a graph", 1970).
    halves: u32,
}

impl Ahead {
    fn new(grid: &Grid, halves: u32, target: Rect, goals: &[Port]) -> Self {
        let least = |of: fn(&Port) -> usize| goals.iter().map(of).min().unwrap_or(0);
        let most = |of: fn(&Port) -> usize| goals.iter().map(of).max().unwrap_or(0);
        let span = |of| (least(of), most(of));
        let steps = |axis: &Axis, i: usize, (first, last): (usize, usize)| {
            axis.steps[first].saturating_sub(axis.steps[i]) + axis.steps[i].saturating_sub(axis.steps[last])
        };
        let bend = |v: f64, from: f64, to: f64| if v < from || v > to { BEND } else { 0 };
        let (across, down) = (span(|p| p.column), span(|p| p.row));
        Self {
            columns: (0..grid.columns)
                .map(|c| (steps(&grid.across, c, across), bend(grid.x(c), target.x, target.right())))
                .collect(),
            rows: (0..grid.rows)
                .map(|r| (steps(&grid.down, r, down), bend(grid.y(r), target.y, target.bottom())))
                .collect(),
            halves,
        }
    }

    /// The estimate for a state.
    fn cost(&self, column: usize, row: usize, heading: Orientation) -> u32 {
        let (across, down) = (self.columns[column], self.rows[row]);
        (across.0
            + down.0
            + match heading {
                Orientation::Vertical => across.1,
                Orientation::Horizontal => down.1,
            })
            * self.halves
            / 2
    }
}

/// States by their estimates, the least first; of equal ones the last, which is the furthest on its way.
#[derive(Default)]
struct Queue {
    buckets: Vec<Vec<usize>>,
    /// No bucket below this one holds anything.
    least: usize,
}

impl Queue {
    fn push(&mut self, estimate: u32, state: usize) {
        let estimate = estimate as usize;
        if estimate >= self.buckets.len() {
            self.buckets.resize_with(estimate + 1, Vec::new);
        }
        self.buckets[estimate].push(state);
        self.least = self.least.min(estimate);
    }

    fn pop(&mut self) -> Option<(u32, usize)> {
        while self.least < self.buckets.len() {
            if let Some(state) = self.buckets[self.least].pop() {
                return Some((self.least as u32, state));
            }
            self.least += 1;
        }
        None
    }
}

/// Whether a line passes all nodes but its ends.
fn is_clear(placement: &Placement, edge: &Edge, points: &[Point]) -> bool {
    let foreign = |v: usize| edge.from != Anchor::Node(v) && edge.to != Anchor::Node(v);
    let in_the_way = || placement.nodes.iter().enumerate().filter(|(v, _)| foreign(*v)).map(|(_, r)| r.grown(2.0));
    points.windows(2).all(|p| !in_the_way().any(|r| hits(p[0], p[1], r)))
}

/// A search for lines over a grid.
struct Router {
    grid: Grid,
    /// For each state, what the last search that came by knows of it.
    visits: Vec<Visit>,
    /// How many searches there were.
    searches: u32,
    /// Places that may still be looked at.
    steps: usize,
    /// Whether a way near the cheapest will do.
    is_hurried: bool,
}

impl Router {
    fn new(graph: &Graph, placement: &Placement, edges: &[usize]) -> Option<Self> {
        let grid = Grid::new(graph, placement, edges)?;
        let visits = vec![Visit::default(); 2 * grid.columns * grid.rows];
        Some(Self { grid, visits, searches: 0, steps: ALL_STEPS, is_hurried: edges.len() > MANY })
    }

    /// Draws the line of an edge, if it finds a way.
    fn draw(&mut self, graph: &Graph, placement: &mut Placement, e: usize) -> bool {
        // Through a group that is not its own rather than straight through whatever is in the way.
        let is_lost = placement.routes[e].points.is_empty();
        let own = graph.groups_around_edge(e);
        let all = || (0..graph.groups.len()).collect::<Vec<usize>>();
        let points = self.search(graph, placement, e, &own);
        let points = points.or_else(|| is_lost.then(|| self.search(graph, placement, e, &all())).flatten());
        let Some(points) = points else { return false };
        self.grid.occupy(&points);
        placement.routes[e] = Route { points, ..Route::default() };
        true
    }

    /// The places beside a place, those at its right and left first.
    fn neighbours(&self, column: usize, row: usize) -> impl Iterator<Item = (usize, usize)> + use<> {
        let right = Some((column + 1, row)).filter(|_| column + 1 < self.grid.columns);
        let below = Some((column, row + 1)).filter(|_| row + 1 < self.grid.rows);
        let left = column.checked_sub(1).map(|c| (c, row));
        let above = row.checked_sub(1).map(|r| (column, r));
        [right, left, below, above].into_iter().flatten()
    }

    /// What it cost to get to a state in this search.
    fn cost(&self, state: usize) -> Option<u32> {
        let visit = &self.visits[state];
        (visit.search == self.searches).then_some(visit.cost)
    }

    /// The cheapest line for an edge that may enter these groups.
    fn search(&mut self, graph: &Graph, placement: &Placement, e: usize, groups: &[usize]) -> Option<Vec<Point>> {
        let edge = &graph.edges[e];
        let mut allowed = vec![false; graph.groups.len() + 1];
        allowed[0] = true;
        groups.iter().for_each(|g| allowed[g + 1] = true);
        let starts = self.grid.ports(graph, placement, (e, 0));
        let goals = self.grid.ports(graph, placement, (e, 1));
        let mut goal_of: BTreeMap<usize, Vec<usize>> = Default::default();
        for (i, goal) in goals.iter().enumerate() {
            goal_of.entry(self.grid.place(goal.column, goal.row)).or_default().push(i);
        }
        let simple = self.grid.simplest(&starts, &goals, &allowed);
        // Among many lines the simplest one will do; among few a better one is looked for.
        if let (true, Some(simple)) = (self.is_hurried, &simple) {
            return Some(self.grid.drawn(simple, &starts, &goals)).filter(|points| is_clear(placement, edge, points));
        }
        let bound = simple.as_ref().map_or(u32::MAX, |simple| simple.cost);
        self.searches += 1;
        let ahead = Ahead::new(&self.grid, if self.is_hurried { 3 } else { 2 }, placement.rect(edge.to), &goals);
        let mut queue = Queue::default();
        for (i, port) in starts.iter().enumerate() {
            let at = self.grid.place(port.column, port.row);
            let state = 2 * at + usize::from(port.side.is_vertical());
            if self.grid.is_open(at, &allowed) && self.cost(state).is_none_or(|c| c > port.cost) {
                self.visits[state] = Visit { search: self.searches, cost: port.cost, came: Came::Port(i as u32) };
                queue.push(
                    port.cost + ahead.cost(port.column, port.row, Orientation::of_vertical(state % 2 == 1)),
                    state,
                );
            }
        }
        let mut steps = self.steps.min(STEPS);
        self.steps -= steps;
        let mut finish: Option<(u32, usize, usize)> = None;
        while let Some((estimate, state)) = queue.pop() {
            if finish.is_some_and(|f| f.0 <= estimate) || estimate >= bound || steps == 0 {
                break;
            }
            steps -= 1;
            let (at, vertical) = (state / 2, state % 2);
            let (column, row) = (at % self.grid.columns, at / self.grid.columns);
            let so_far = self.visits[state].cost;
            if so_far + ahead.cost(column, row, Orientation::of_vertical(vertical == 1)) < estimate {
                continue;
            }
            for goal in goal_of.get(&at).into_iter().flatten() {
                let port = &goals[*goal];
                let turns = usize::from(port.side.is_vertical()) != vertical;
                let total = so_far + port.cost + if turns { BEND } else { 0 };
                if finish.is_none_or(|f| total < f.0) {
                    finish = Some((total, state, *goal));
                }
            }
            for next in self.neighbours(column, row) {
                let is_vertical = next.0 == column;
                let turns = usize::from(is_vertical) != vertical;
                if turns && self.grid.is_crossing(at) {
                    continue;
                }
                let Some(step) = self.grid.step((column, row), next, &allowed) else { continue };
                let to = 2 * self.grid.place(next.0, next.1) + usize::from(is_vertical);
                let total = so_far + step + if turns { BEND } else { 0 };
                if self.cost(to).is_none_or(|c| total < c) {
                    self.visits[to] = Visit { search: self.searches, cost: total, came: Came::State(state as u32) };
                    queue.push(total + ahead.cost(next.0, next.1, Orientation::of_vertical(is_vertical)), to);
                }
            }
        }
        self.steps += steps;
        let finish = finish.filter(|f| f.0 < bound);
        if let (None, Some(simple)) = (finish, &simple) {
            return Some(self.grid.drawn(simple, &starts, &goals)).filter(|points| is_clear(placement, edge, points));
        }
        let (_, mut state, goal) = finish?;
        let mut points = vec![goals[goal].at];
        let start = loop {
            let at = state / 2;
            points.push(pt(self.grid.x(at % self.grid.columns), self.grid.y(at / self.grid.columns)));
            match self.visits[state].came {
                Came::State(before) => state = before as usize,
                Came::Port(port) => break port as usize,
            }
        };
        points.push(starts[start].at);
        points.reverse();
        let points = tidied(points);
        is_clear(placement, edge, &points).then_some(points)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Size;
    use crate::layout::score::measure;
    use crate::layout::{Edge, Group, Node};

    fn picture(middles: &[Point], edges: &[(usize, usize)]) -> (Graph, Placement) {
        let size = Size::new(80.0, 40.0);
        let mut edges: Vec<Edge> = edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect();
        edges[0].label = Some(Size::new(50.0, 16.0));
        let graph = Graph { nodes: vec![Node { size, ..Node::default() }; middles.len()], edges, ..Graph::default() };
        let nodes = middles.iter().map(|m| Rect::around(*m, size)).collect();
        let routes = vec![Route::default(); graph.edges.len()];
        (graph, Placement { nodes, routes, ..Placement::default() })
    }

    #[test]
    fn lines_go_around_what_stands_between() {
        let middles = [pt(0.0, 0.0), pt(200.0, 0.0), pt(400.0, 0.0)];
        let (graph, mut placement) = picture(&middles, &[(0, 2), (0, 1), (1, 2), (2, 0)]);
        route(&graph, &mut placement, &[0, 1, 2, 3]);
        placement.fit();
        let measures = measure(&graph, &placement);
        assert_eq!(measures.faults, []);
        assert_eq!(measures.crossings, 0);
        assert_eq!(placement.routes[1].bends(), 0, "neighbours are joined straight");
    }

    #[test]
    fn a_foreign_group_is_no_way_through() {
        let middles = [pt(0.0, 100.0), pt(200.0, 100.0), pt(400.0, 100.0)];
        let (mut graph, mut placement) = picture(&middles, &[(0, 2)]);
        graph.groups.push(Group { parent: None, title: Size::default(), inset: 20.0, lane: false, region: false });
        graph.nodes[1].group = Some(0);
        placement.groups = vec![Rect::new(130.0, 0.0, 140.0, 200.0)];
        placement.titles = vec![Rect::default()];
        route(&graph, &mut placement, &[0]);
        placement.fit();
        assert_eq!(measure(&graph, &placement).faults, []);
        assert!(placement.routes[0].bends() >= 2);
    }

    #[test]
    fn what_is_walled_in_keeps_the_line_that_it_had() {
        // Eight neighbours without a gap leave no way out.
        let around = (0..9).map(|i| pt(f64::from(i % 3) * 84.0, f64::from(i / 3) * 44.0));
        let middles: Vec<Point> = around.chain([pt(600.0, 44.0)]).collect();
        let (graph, mut placement) = picture(&middles, &[(4, 9)]);
        route(&graph, &mut placement, &[0]);
        assert_eq!(placement.routes[0], Route::default());
    }
}
