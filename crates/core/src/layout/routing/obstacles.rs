//! Lines around obstacles: horizontal and vertical lines with few bends between things that already have their places, each
//! on a track of its own. A search for the cheapest path on a grid of tracks, as in Wybrow, Marriott, Stuckey, "Orthogonal
//! connector routing" (2009), with a regular grid in place of their visibility graph and the occupied stretches known
//! while searching, so that no second pass has to nudge lines apart.
//!
//! Input: a graph, a placement, and the edges that need a line. Output: their routes and the places of their labels.
//! Lines never enter a node, a title, a label, or a group that is around none of their ends, and never lie on
//! another line; they may cross. An edge that finds no way within the budget keeps the line that it had; one that had
//! none may enter any group.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::{Anchor, Edge, Graph, Outline, Side};
use crate::layout::intersections::hits;
use crate::layout::placement::Placement;
use crate::layout::route::{Route, tidied};
use crate::layout::routing::labels;
use std::collections::{BTreeMap, BTreeSet};

/// Distance between two tracks, in px.
// The same as between tracks of a channel, so that lines of both kinds look alike.
const PITCH: f64 = 12.0;
/// How far the first track outside of a thing's side lies from it at least: room for an arrow head and a round corner.
const CLEAR: f64 = 1.4 * PITCH;
/// Up to this width or height a thing is small, in px.
const SMALL: f64 = 24.0;
/// Room between a text at an end and the next line.
const TEXT_GAP: f64 = 10.0;
/// What a bend costs, in tracks of length.
// Eight tracks are about the height of a box: a detour of that much is worth a bend less.
const BEND: u32 = 8;
/// What crossing a line costs.
// More than a bend and less than two: a crossing at a right angle reads better than a line with two corners.
const CROSSING: u32 = 14;
/// What running along a group's side costs, a step.
// A line beside a frame looks like a second frame.
const ALONG_FRAME: u32 = 2;
/// Up to so many places of the grid are looked at for one line, and for all lines together.
// A line that finds no way within them runs straight, and counts as a fault of the picture.
const STEPS: usize = 400_000;
const ALL_STEPS: usize = 3_000_000;
/// More lines than this at once take the simplest ways that are free.
// The cheapest way of each is lost among so many lines anyway.
const MANY: usize = 60;
/// More lines than this are searched for on the tracks alone that lines usually take: beside things, and through them
/// where their ports are.
// Five times fewer places, for ways that are hardly ever longer.
const FEW_TRACKS: usize = 24;
/// Ports of a side, and tracks beyond the ends of a line, that simple lines try.
const TRIED_PORTS: usize = 5;
const ASIDE: usize = 24;
/// How far from a thing tracks are kept, in px, and how much further for each line that there is for a node.
const KEPT: f64 = 22.0;
const KEPT_FOR_LINE: f64 = 12.0;
/// Larger grids than this are not searched.
// The grid keeps several values for every place, and clears them for every picture.
const PLACES: usize = 1_500_000;

/// How far apart the ends of an edge are, along the axes, in px.
fn grid_distance(placement: &Placement, edge: &Edge) -> f64 {
    let (a, b) = (placement.rect(edge.from).middle(), placement.rect(edge.to).middle());
    (a.x - b.x).abs() + (a.y - b.y).abs()
}

/// Gives the edges new lines, the shortest first.
pub(in crate::layout) fn route(graph: &Graph, placement: &mut Placement, edges: &[usize]) {
    let Some(mut grid) = Grid::new(graph, placement, edges) else { return };
    let mut order = edges.to_vec();
    let length = |e: usize| grid_distance(placement, &graph.edges[e]);
    order.sort_by(|a, b| length(*a).total_cmp(&length(*b)).then(a.cmp(b)));
    let mut found = Vec::new();
    for e in order {
        // Through a group that is not its own rather than straight through whatever is in the way.
        let is_lost = placement.routes[e].points.is_empty();
        let own = graph.groups_around_edge(e);
        let all = || (0..graph.groups.len()).collect::<Vec<usize>>();
        let points = grid.search(graph, placement, e, &own);
        if let Some(points) = points.or_else(|| is_lost.then(|| grid.search(graph, placement, e, &all())).flatten()) {
            grid.occupy(&points);
            placement.routes[e] = Route { points, ..Route::default() };
            found.push(e);
        }
    }
    // Labels last: they look for a free stretch of their own line.
    found.sort_unstable();
    labels::put(graph, placement, &found);
}

/// Where a line may begin or end.
#[derive(Clone, Copy)]
struct Port {
    /// On the outline.
    at: Point,
    /// The place of the grid outside.
    column: usize,
    row: usize,
    side: Side,
    cost: u32,
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
    /// By how many halves the estimate counts: more than two find a way sooner, which costs up to so much more than the
    /// cheapest (weighted A*, Pohl, "Heuristic search viewed as path finding in a graph", 1970).
    halves: u32,
}

impl Ahead {
    fn new(grid: &Grid, target: Rect, goals: &[Port]) -> Self {
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
            halves: if grid.is_hurried { 3 } else { 2 },
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

/// How a stretch of a line runs.
#[derive(Clone, Copy)]
enum Orientation {
    Horizontal,
    Vertical,
}

impl Orientation {
    fn of_vertical(is_vertical: bool) -> Self {
        if is_vertical { Self::Vertical } else { Self::Horizontal }
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

/// The tracks of one direction: some of the multiples of the pitch, in ascending order.
struct Axis {
    /// Where each lies, in px.
    at: Vec<f64>,
    /// How many pitches each lies behind the first.
    steps: Vec<u32>,
}

impl Axis {
    /// The tracks between two places that are kept.
    fn new(from: f64, count: usize, is_kept: impl Fn(f64) -> bool) -> Self {
        let origin = libm::floor(from);
        let all = (0..count).map(|i| (origin + i as f64 * PITCH, i as u32));
        let (at, steps) = all.filter(|(at, _)| is_kept(*at)).unzip();
        Self { at, steps }
    }

    /// The tracks from one place to another: the first, and the one behind the last.
    fn within(&self, from: f64, to: f64) -> (usize, usize) {
        (self.at.partition_point(|at| *at < from), self.at.partition_point(|at| *at <= to))
    }
}

/// The stretches of an axis beside and through things in which tracks are kept.
fn kept_stretches(graph: &Graph, placement: &Placement, direction: Orientation) -> Vec<(f64, f64)> {
    let mut lines = vec![0_usize; graph.nodes.len()];
    for v in graph.edges.iter().flat_map(|e| [e.from, e.to]).filter_map(Anchor::node) {
        lines[v] += 1;
    }
    let reach = KEPT + KEPT_FOR_LINE * libm::ceil(graph.edges.len() as f64 / graph.nodes.len().max(1) as f64);
    let extent = |r: &Rect| match direction {
        Orientation::Horizontal => (r.x, r.right()),
        Orientation::Vertical => (r.y, r.bottom()),
    };
    let mut all = Vec::with_capacity(3 * graph.nodes.len() + 2 * graph.groups.len());
    for (rect, lines) in placement.nodes.iter().zip(lines) {
        let (from, to) = extent(rect);
        let ports = PITCH * (0.6 + lines.min(9) as f64 / 2.0);
        let middle = (from + to) / 2.0;
        all.extend([(from - reach, from), (to, to + reach), (middle - ports, middle + ports)]);
    }
    for rect in &placement.groups {
        let (from, to) = extent(rect);
        all.extend([(from - reach, from), (to, to + reach)]);
    }
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    // Stretches that touch become one.
    let mut joined: Vec<(f64, f64)> = Vec::new();
    for (from, to) in all {
        match joined.last_mut() {
            Some(last) if from <= last.1 => last.1 = last.1.max(to),
            _ => joined.push((from, to)),
        }
    }
    joined
}

/// A line with few corners: what it costs, the numbers of its ports, and its places.
struct Simple {
    cost: u32,
    start: usize,
    goal: usize,
    path: Vec<(usize, usize)>,
}

impl Port {
    /// Whether a line leaves horizontally.
    fn is_flat(&self) -> bool {
        matches!(self.side, Side::Left | Side::Right)
    }

    /// Whether a place on its row or column lies in the direction in which lines leave.
    fn is_outward(&self, (column, row): (usize, usize)) -> bool {
        match self.side {
            Side::Left => column <= self.column,
            Side::Right => column >= self.column,
            Side::Top => row <= self.row,
            Side::Bottom => row >= self.row,
        }
    }
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

/// Whether a line passes all nodes but its ends.
fn is_clear(placement: &Placement, edge: &Edge, points: &[Point]) -> bool {
    let foreign = |v: usize| edge.from != Anchor::Node(v) && edge.to != Anchor::Node(v);
    let in_the_way = || placement.nodes.iter().enumerate().filter(|(v, _)| foreign(*v)).map(|(_, r)| r.grown(2.0));
    points.windows(2).all(|p| !in_the_way().any(|r| hits(p[0], p[1], r)))
}

struct Grid {
    across: Axis,
    down: Axis,
    columns: usize,
    rows: usize,
    /// Places on or too near to nodes and texts.
    solid: Vec<bool>,
    /// The innermost group at each place, from 1; 0 for none.
    group: Vec<u32>,
    /// Whether the step to the right, or down, from a place lies on or too near to another line.
    taken_horizontal: Vec<bool>,
    taken_vertical: Vec<bool>,
    /// How many lines cross a place, horizontal and vertical ones.
    horizontal: Vec<u8>,
    vertical: Vec<u8>,
    /// Places beside the sides of groups.
    frame: Vec<bool>,
    /// Ports that are taken, in 1/4 px.
    ports: BTreeSet<(i64, i64)>,
    /// For each state, what the last search that came by knows of it.
    visits: Vec<Visit>,
    /// How many searches there were.
    searches: u32,
    /// Places that may still be looked at.
    steps: usize,
    /// Whether a way near the cheapest will do.
    is_hurried: bool,
}

impl Grid {
    fn new(graph: &Graph, placement: &Placement, edges: &[usize]) -> Option<Self> {
        let bounds = placement.bounds().grown(5.0 * PITCH);
        let (columns, rows) = ((bounds.w / PITCH) as usize + 1, (bounds.h / PITCH) as usize + 1);
        let axis = |from: f64, count: usize, direction: Orientation| {
            let is_sparse = edges.len() > FEW_TRACKS;
            let kept = if is_sparse { kept_stretches(graph, placement, direction) } else { Vec::new() };
            let is_in = |at: f64| kept[..kept.partition_point(|s| s.0 <= at)].last().is_some_and(|s| at <= s.1);
            Axis::new(from, count, |at| !is_sparse || is_in(at))
        };
        let across = axis(bounds.x, columns, Orientation::Horizontal);
        let down = axis(bounds.y, rows, Orientation::Vertical);
        let (columns, rows) = (across.at.len(), down.at.len());
        let count = columns * rows;
        if count > PLACES || count == 0 {
            return None;
        }
        let mut grid = Self {
            across,
            down,
            columns,
            rows,
            solid: vec![false; count],
            group: vec![0; count],
            taken_horizontal: vec![false; count],
            taken_vertical: vec![false; count],
            horizontal: vec![0; count],
            vertical: vec![0; count],
            frame: vec![false; count],
            ports: BTreeSet::new(),
            visits: vec![Visit::default(); 2 * count],
            searches: 0,
            steps: ALL_STEPS,
            is_hurried: edges.len() > MANY,
        };
        // Parents come before their children.
        for (g, rect) in placement.groups.iter().enumerate().filter(|(g, _)| !graph.groups[*g].lane) {
            let mark = g as u32 + 1;
            grid.each(rect.grown(7.0), |grid, at| grid.group[at] = mark);
            for side in [
                Rect::new(rect.x - 7.0, rect.y, 14.0, rect.h),
                Rect::new(rect.right() - 7.0, rect.y, 14.0, rect.h),
                Rect::new(rect.x, rect.y - 7.0, rect.w, 14.0),
                Rect::new(rect.x, rect.bottom() - 7.0, rect.w, 14.0),
            ] {
                grid.each(side, |grid, at| grid.frame[at] = true);
            }
        }
        for rect in &placement.nodes {
            grid.each(rect.grown(9.0), |grid, at| grid.solid[at] = true);
        }
        let titled = (0..placement.titles.len()).filter(|g| placement.titles[*g].h > 0.0);
        for rect in titled.flat_map(|g| graph.headers(g, placement)) {
            grid.each(rect.grown(5.0), |grid, at| grid.solid[at] = true);
        }
        let others = placement.routes.iter().enumerate().filter(|(e, _)| !edges.contains(e));
        for (_, route) in others {
            for rect in route.texts() {
                grid.each(rect.grown(6.0), |grid, at| grid.solid[at] = true);
            }
            grid.occupy(&route.points);
        }
        Some(grid)
    }

    fn place(&self, column: usize, row: usize) -> usize {
        row * self.columns + column
    }

    fn x(&self, column: usize) -> f64 {
        self.across.at[column]
    }

    fn y(&self, row: usize) -> f64 {
        self.down.at[row]
    }

    /// The columns and rows of the places in a rectangle: (first, behind the last) of each.
    fn span(&self, rect: Rect) -> [usize; 4] {
        let (from, to) = self.across.within(rect.x, rect.right());
        let (above, below) = self.down.within(rect.y, rect.bottom());
        [from, to, above, below]
    }

    fn each(&mut self, rect: Rect, mut act: impl FnMut(&mut Self, usize)) {
        let [from, to, above, below] = self.span(rect);
        for row in above..below {
            for column in from..to {
                act(self, row * self.columns + column);
            }
        }
    }

    /// The last track that does not lie behind a place, or the place where there is none.
    fn before_or_at(&self, axis: &Axis, at: f64) -> f64 {
        let behind = axis.at.partition_point(|track| *track <= at + 0.01);
        behind.checked_sub(1).map_or(at, |i| axis.at[i])
    }

    /// Keeps other lines off a line.
    fn occupy(&mut self, points: &[Point]) {
        for pair in points.windows(2) {
            let rect = Rect::between(pair[0], pair[1]);
            if rect.h <= 0.01 {
                // Steps beside it are taken a little beyond its ends; steps over it are crossings.
                let near = Rect::new(self.before_or_at(&self.across, rect.x + 1.0), rect.y - 8.0, 0.0, 16.0);
                let near = Rect::new(near.x, near.y, rect.right() - 1.0 - near.x, near.h);
                self.each(near, |grid, at| grid.taken_horizontal[at] = true);
                let over = Rect::new(rect.x - 4.0, self.before_or_at(&self.down, rect.y), rect.w + 8.0, 0.0);
                self.each(over, |grid, at| grid.horizontal[at] = grid.horizontal[at].saturating_add(1));
            } else if rect.w <= 0.01 {
                let near = Rect::new(rect.x - 8.0, self.before_or_at(&self.down, rect.y + 1.0), 16.0, 0.0);
                let near = Rect::new(near.x, near.y, near.w, rect.bottom() - 1.0 - near.y);
                self.each(near, |grid, at| grid.taken_vertical[at] = true);
                let over = Rect::new(self.before_or_at(&self.across, rect.x), rect.y - 4.0, 0.0, rect.h + 8.0);
                self.each(over, |grid, at| grid.vertical[at] = grid.vertical[at].saturating_add(1));
            }
        }
        for p in points.first().into_iter().chain(points.last()) {
            self.ports.insert(key(*p));
        }
    }

    /// Ports of an edge at one end, those in the middle of a side first: as far from others as the text there needs, if
    /// there are any.
    fn ports(&self, graph: &Graph, placement: &Placement, (e, end): (usize, usize)) -> Vec<Port> {
        let edge = &graph.edges[e];
        let anchor = if end == 0 { edge.from } else { edge.to };
        let all = self.all_ports(graph, placement, anchor);
        let Some(text) = edge.end_labels[end] else { return all };
        let extent = |side: Side| if matches!(side, Side::Top | Side::Bottom) { text.w } else { text.h };
        let is_roomy = |port: &&Port| !self.port_is_near(port.at, (extent(port.side) + TEXT_GAP) as i64);
        let roomy: Vec<Port> = all.iter().filter(is_roomy).copied().collect();
        if roomy.is_empty() { all } else { roomy }
    }

    /// Ports of an end, those in the middle of a side first.
    fn all_ports(&self, graph: &Graph, placement: &Placement, anchor: Anchor) -> Vec<Port> {
        let rect = match anchor {
            Anchor::Node(v) if graph.nodes[v].core.is_some() => {
                Rect::around(placement.nodes[v].middle(), graph.nodes[v].figure())
            }
            _ => placement.rect(anchor),
        };
        let middle = rect.middle();
        // Lines that end at a small thing may come close to each other.
        let near = if rect.w.min(rect.h) < SMALL { 3 } else { 9 };
        let mut ports = Vec::new();
        // What is too small for ports side by side has one in the middle of each side.
        let sides = Size::new((rect.w - 12.0).max(PITCH), (rect.h - 12.0).max(PITCH));
        let [from, to, above, below] = self.span(Rect::around(middle, sides));
        let outline = anchor.node().map_or(&Outline::Box, |v| &graph.nodes[v].outline);
        let reach = |side: Side, offset: f64| outline.reach(rect.size(), side, offset);
        // The first track that is clear of an edge, before or behind it.
        let before = |edge: f64, axis: &Axis| axis.within(f64::MIN, edge - CLEAR).1.saturating_sub(1);
        let behind = |edge: f64, axis: &Axis| axis.within(edge + CLEAR, f64::MAX).0;
        for (side, range) in
            [(Side::Bottom, from..to), (Side::Right, above..below), (Side::Left, above..below), (Side::Top, from..to)]
        {
            for i in range {
                let vertical = matches!(side, Side::Top | Side::Bottom);
                let offset = if vertical { self.x(i) - middle.x } else { self.y(i) - middle.y };
                if offset.abs() > if vertical { rect.w } else { rect.h } / 2.0 {
                    continue;
                }
                let far = reach(side, offset);
                let (at, column, row) = match side {
                    Side::Top => (pt(self.x(i), middle.y - far), i, before(rect.y, &self.down)),
                    Side::Bottom => (pt(self.x(i), middle.y + far), i, behind(rect.bottom(), &self.down)),
                    Side::Left => (pt(middle.x - far, self.y(i)), before(rect.x, &self.across), i),
                    Side::Right => (pt(middle.x + far, self.y(i)), behind(rect.right(), &self.across), i),
                };
                if column >= self.columns || row >= self.rows || self.port_is_near(at, near) {
                    continue;
                }
                let cost = (offset.abs() / PITCH) as u32;
                ports.push(Port { at, column, row, side, cost });
            }
        }
        ports
    }

    /// Whether a line ends within so many px.
    fn port_is_near(&self, at: Point, near: i64) -> bool {
        let (x, y) = key(at);
        let reach = 4 * near;
        self.ports.range((x - reach, i64::MIN)..=(x + reach, i64::MAX)).any(|p| (p.1 - y).abs() <= reach)
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
        let starts = self.ports(graph, placement, (e, 0));
        let goals = self.ports(graph, placement, (e, 1));
        let mut goal_of: BTreeMap<usize, Vec<usize>> = Default::default();
        for (i, goal) in goals.iter().enumerate() {
            goal_of.entry(self.place(goal.column, goal.row)).or_default().push(i);
        }
        let simple = self.simplest(&starts, &goals, &allowed);
        // Among many lines the simplest one will do; among few a better one is looked for.
        if let (true, Some(simple)) = (self.is_hurried, &simple) {
            return self.drawn(simple, &starts, &goals).filter(|points| is_clear(placement, edge, points));
        }
        let bound = simple.as_ref().map_or(u32::MAX, |simple| simple.cost);
        self.searches += 1;
        let ahead = Ahead::new(self, placement.rect(edge.to), &goals);
        let mut queue = Queue::default();
        for (i, port) in starts.iter().enumerate() {
            let at = self.place(port.column, port.row);
            let state = 2 * at + usize::from(matches!(port.side, Side::Top | Side::Bottom));
            let is_open = !self.solid[at] && allowed[self.group[at] as usize];
            if is_open && self.cost(state).is_none_or(|c| c > port.cost) {
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
            let (column, row) = (at % self.columns, at / self.columns);
            let so_far = self.visits[state].cost;
            if so_far + ahead.cost(column, row, Orientation::of_vertical(vertical == 1)) < estimate {
                continue;
            }
            for goal in goal_of.get(&at).into_iter().flatten() {
                let port = &goals[*goal];
                let turns = usize::from(matches!(port.side, Side::Top | Side::Bottom)) != vertical;
                let total = so_far + port.cost + if turns { BEND } else { 0 };
                if finish.is_none_or(|f| total < f.0) {
                    finish = Some((total, state, *goal));
                }
            }
            for (dx, dy) in [(1i64, 0i64), (-1, 0), (0, 1), (0, -1)] {
                let (c, r) = (column as i64 + dx, row as i64 + dy);
                if c < 0 || r < 0 || c >= self.columns as i64 || r >= self.rows as i64 {
                    continue;
                }
                let next = self.place(c as usize, r as usize);
                // The step is kept with its left or upper end.
                let step = at.min(next);
                let horizontal = dx != 0;
                let taken = if horizontal { self.taken_horizontal[step] } else { self.taken_vertical[step] };
                if taken || self.solid[next] || !allowed[self.group[next] as usize] {
                    continue;
                }
                let crossed = if horizontal { self.vertical[step] } else { self.horizontal[step] };
                let turns = usize::from(!horizontal) != vertical;
                let on_line = turns && (self.horizontal[at] > 0 && self.vertical[at] > 0);
                if on_line {
                    continue;
                }
                let along = self.frame[at] && self.frame[next];
                let axis = if horizontal { &self.across.steps } else { &self.down.steps };
                let (low, high) = if horizontal {
                    (column.min(c as usize), column.max(c as usize))
                } else {
                    (row.min(r as usize), row.max(r as usize))
                };
                let length = axis[high] - axis[low];
                let add = length
                    + if turns { BEND } else { 0 }
                    + CROSSING * u32::from(crossed)
                    + if along { ALONG_FRAME * length } else { 0 };
                let to = 2 * next + usize::from(!horizontal);
                let total = so_far + add;
                if self.cost(to).is_none_or(|c| total < c) {
                    self.visits[to] = Visit { search: self.searches, cost: total, came: Came::State(state as u32) };
                    queue.push(total + ahead.cost(c as usize, r as usize, Orientation::of_vertical(!horizontal)), to);
                }
            }
        }
        self.steps += steps;
        let finish = finish.filter(|f| f.0 < bound);
        if let (None, Some(simple)) = (finish, &simple) {
            return self.drawn(simple, &starts, &goals).filter(|points| is_clear(placement, edge, points));
        }
        let (_, mut state, goal) = finish?;
        let mut points = vec![goals[goal].at];
        let start = loop {
            let at = state / 2;
            points.push(pt(self.x(at % self.columns), self.y(at / self.columns)));
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

    /// The cheapest line with two corners at most: straight, an angle, or a step (pattern routing, as between the pins of
    /// a chip; Kastner, Bozorgzadeh, Sarrafzadeh, "Pattern routing", 2002). Nothing if none is free.
    fn simplest(&self, starts: &[Port], goals: &[Port], allowed: &[bool]) -> Option<Simple> {
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

    fn steps_between(&self, (c, r): (usize, usize), (d, s): (usize, usize)) -> u32 {
        self.across.steps[c].abs_diff(self.across.steps[d]) + self.down.steps[r].abs_diff(self.down.steps[s])
    }

    /// What a path costs without its corners; nothing if something is in its way.
    fn cost_of_path(&self, path: &[(usize, usize)], allowed: &[bool]) -> Option<u32> {
        let mut cost = 0;
        for pair in path.windows(2) {
            cost += self.cost_of_run(pair[0], pair[1], allowed)?;
        }
        let is_on_line = |(c, r): &(usize, usize)| {
            let at = self.place(*c, *r);
            self.horizontal[at] > 0 && self.vertical[at] > 0
        };
        let inner = &path[1..path.len() - 1];
        (!inner.iter().any(is_on_line)).then_some(cost)
    }

    /// What a straight run costs; nothing if something is in its way.
    fn cost_of_run(&self, from: (usize, usize), to: (usize, usize), allowed: &[bool]) -> Option<u32> {
        let is_flat = from.1 == to.1;
        let (first, last) =
            if is_flat { (from.0.min(to.0), from.0.max(to.0)) } else { (from.1.min(to.1), from.1.max(to.1)) };
        let place = |i: usize| if is_flat { self.place(i, from.1) } else { self.place(from.0, i) };
        let (taken, crossed, axis) = if is_flat {
            (&self.taken_horizontal, &self.vertical, &self.across)
        } else {
            (&self.taken_vertical, &self.horizontal, &self.down)
        };
        let is_open = |at: usize| !self.solid[at] && allowed[self.group[at] as usize];
        if !is_open(place(first)) {
            return None;
        }
        let mut cost = 0;
        for i in first..last {
            let (at, next) = (place(i), place(i + 1));
            if taken[at] || !is_open(next) {
                return None;
            }
            let length = axis.steps[i + 1] - axis.steps[i];
            let along = if self.frame[at] && self.frame[next] { ALONG_FRAME * length } else { 0 };
            cost += length + along + CROSSING * u32::from(crossed[at]);
        }
        Some(cost)
    }

    /// The points of a simple line.
    fn drawn(&self, simple: &Simple, starts: &[Port], goals: &[Port]) -> Option<Vec<Point>> {
        let inner = simple.path.iter().map(|(c, r)| pt(self.x(*c), self.y(*r)));
        let points = std::iter::once(starts[simple.start].at).chain(inner).chain([goals[simple.goal].at]).collect();
        Some(tidied(points))
    }
}

fn key(p: Point) -> (i64, i64) {
    (libm::round(p.x * 4.0) as i64, libm::round(p.y * 4.0) as i64)
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
