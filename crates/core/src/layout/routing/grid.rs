//! The grid of tracks over a placement: what stands, which lines run, and where lines may end. Input: a placement and the
//! edges that are to be drawn; all other lines are taken to stay. Output: what a step over the grid costs, and the ports of
//! a thing.

use super::tracks::{Axis, Density, PITCH};
use crate::geom::{Point, Rect, Size};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::orientation::Orientation;
use crate::layout::outline::Side;
use crate::layout::placement::Placement;
use std::collections::BTreeSet;

/// How far the first track outside of a thing's side lies from it at least: room for an arrow head and a round corner.
const CLEAR: f64 = 1.4 * PITCH;
/// Up to this width or height a thing is small, in px.
// Such as points and bars: two lines may end close to each other there.
const SMALL: f64 = 24.0;
/// Room between a text at an end and the next line.
// The next text then stands as far away as words of one line do.
const TEXT_GAP: f64 = 10.0;
/// What a bend costs, in tracks of length.
// Eight tracks are about the height of a box: a detour of that much is worth a bend less.
pub(super) const BEND: u32 = 8;
/// What crossing a line costs.
// More than a bend and less than two: a crossing at a right angle reads better than a line with two corners.
const CROSSING: u32 = 14;
/// What running along a group's side costs, a step.
// A line beside a frame looks like a second frame.
const ALONG_FRAME: u32 = 2;
/// More lines than this are searched for on the tracks alone that lines usually take.
// Fewer places, for ways that are hardly ever longer.
const FEW_TRACKS: usize = 24;
/// Larger grids than this are not searched.
// The grid keeps several values for every place, and clears them for every picture.
const PLACES: usize = 1_500_000;

/// Where a line may begin or end.
#[derive(Clone, Copy)]
pub(super) struct Port {
    /// On the outline.
    pub(super) at: Point,
    /// The place of the grid outside.
    pub(super) column: usize,
    pub(super) row: usize,
    pub(super) side: Side,
    pub(super) cost: u32,
}

impl Port {
    /// Whether a line leaves horizontally.
    pub(super) fn is_flat(&self) -> bool {
        !self.side.is_vertical()
    }
}

pub(super) struct Grid {
    pub(super) across: Axis,
    pub(super) down: Axis,
    pub(super) columns: usize,
    pub(super) rows: usize,
    /// Places on or too near to nodes and texts.
    pub(super) solid: Vec<bool>,
    /// The innermost group at each place, from 1; 0 for none.
    pub(super) group: Vec<u32>,
    /// Whether the step to the right, or down, from a place lies on or too near to another line.
    pub(super) taken_horizontal: Vec<bool>,
    pub(super) taken_vertical: Vec<bool>,
    /// How many lines cross a place, horizontal and vertical ones.
    pub(super) horizontal: Vec<u8>,
    pub(super) vertical: Vec<u8>,
    /// Places beside the sides of groups.
    pub(super) frame: Vec<bool>,
    /// Ports that are taken, in 1/4 px.
    pub(super) ports: BTreeSet<(i64, i64)>,
}

impl Grid {
    pub(super) fn new(graph: &Graph, placement: &Placement, edges: &[usize]) -> Option<Self> {
        let bounds = placement.bounds().grown(5.0 * PITCH);
        let (columns, rows) = ((bounds.w / PITCH) as usize + 1, (bounds.h / PITCH) as usize + 1);
        let density = if edges.len() > FEW_TRACKS { Density::Few } else { Density::All };
        let picture = (graph, placement);
        let across = Axis::new(picture, (bounds.x, columns), Orientation::Horizontal, density);
        let down = Axis::new(picture, (bounds.y, rows), Orientation::Vertical, density);
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

    pub(super) fn place(&self, column: usize, row: usize) -> usize {
        row * self.columns + column
    }

    pub(super) fn x(&self, column: usize) -> f64 {
        self.across.at[column]
    }

    pub(super) fn y(&self, row: usize) -> f64 {
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

    /// Keeps other lines off a line.
    pub(super) fn occupy(&mut self, points: &[Point]) {
        for pair in points.windows(2) {
            let rect = Rect::between(pair[0], pair[1]);
            if rect.h <= 0.01 {
                // Steps beside it are taken a little beyond its ends; steps over it are crossings.
                let near = Rect::new(self.across.before_or_at(rect.x + 1.0), rect.y - 8.0, 0.0, 16.0);
                let near = Rect::new(near.x, near.y, rect.right() - 1.0 - near.x, near.h);
                self.each(near, |grid, at| grid.taken_horizontal[at] = true);
                let over = Rect::new(rect.x - 4.0, self.down.before_or_at(rect.y), rect.w + 8.0, 0.0);
                self.each(over, |grid, at| grid.horizontal[at] = grid.horizontal[at].saturating_add(1));
            } else if rect.w <= 0.01 {
                let near = Rect::new(rect.x - 8.0, self.down.before_or_at(rect.y + 1.0), 16.0, 0.0);
                let near = Rect::new(near.x, near.y, near.w, rect.bottom() - 1.0 - near.y);
                self.each(near, |grid, at| grid.taken_vertical[at] = true);
                let over = Rect::new(self.across.before_or_at(rect.x), rect.y - 4.0, 0.0, rect.h + 8.0);
                self.each(over, |grid, at| grid.vertical[at] = grid.vertical[at].saturating_add(1));
            }
        }
        for p in points.first().into_iter().chain(points.last()) {
            self.ports.insert(key(*p));
        }
    }

    /// Ports of an edge at one end, those in the middle of a side first: as far from others as the text there needs, if
    /// there are any.
    pub(super) fn ports(&self, graph: &Graph, placement: &Placement, (e, end): (usize, usize)) -> Vec<Port> {
        let edge = &graph.edges[e];
        let all = self.all_ports(graph, placement, edge.end(end));
        let Some(text) = edge.end_labels[end] else { return all };
        let extent = |side: Side| if side.is_vertical() { text.w } else { text.h };
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
        let outline = graph.outline(anchor);
        // The first track that is clear of an edge, before or behind it.
        let before = |edge: f64, axis: &Axis| axis.last_up_to(edge - CLEAR);
        let behind = |edge: f64, axis: &Axis| axis.within(edge + CLEAR, f64::MAX).0;
        for (side, range) in
            [(Side::Bottom, from..to), (Side::Right, above..below), (Side::Left, above..below), (Side::Top, from..to)]
        {
            for i in range {
                let vertical = side.is_vertical();
                let offset = if vertical { self.x(i) - middle.x } else { self.y(i) - middle.y };
                if offset.abs() > if vertical { rect.w } else { rect.h } / 2.0 {
                    continue;
                }
                let at = outline.port(rect, side, if vertical { self.x(i) } else { self.y(i) });
                let (column, row) = match side {
                    Side::Top => (i, before(rect.y, &self.down)),
                    Side::Bottom => (i, behind(rect.bottom(), &self.down)),
                    Side::Left => (before(rect.x, &self.across), i),
                    Side::Right => (behind(rect.right(), &self.across), i),
                };
                let is_outside = column >= self.columns || row >= self.rows;
                if is_outside || self.port_is_near(at, near) || !self.is_free(at, (column, row), side) {
                    continue;
                }
                let cost = (offset.abs() / PITCH) as u32;
                ports.push(Port { at, column, row, side, cost });
            }
        }
        ports
    }

    /// Whether no line runs between a port and the place outside: in a narrow gap one may come from the other side.
    fn is_free(&self, at: Point, (column, row): (usize, usize), side: Side) -> bool {
        // The last track that does not lie behind the port. The step on which the port itself lies may belong to what is at
        // the other side of a thin thing.
        let (column_at, row_at) = (self.across.last_up_to(at.x), self.down.last_up_to(at.y));
        let mut steps = match side {
            Side::Left => column..column_at,
            Side::Right => column_at + 1..column,
            Side::Top => row..row_at,
            Side::Bottom => row_at + 1..row,
        };
        if side.is_vertical() {
            !steps.any(|row| self.taken_vertical[self.place(column, row)])
        } else {
            !steps.any(|column| self.taken_horizontal[self.place(column, row)])
        }
    }

    /// Whether a line ends within this many px.
    fn port_is_near(&self, at: Point, near: i64) -> bool {
        let (x, y) = key(at);
        let reach = 4 * near;
        self.ports.range((x - reach, i64::MIN)..=(x + reach, i64::MAX)).any(|p| (p.1 - y).abs() <= reach)
    }

    /// What a step from one place to the next costs without a turn; nothing if something is in its way.
    #[inline]
    pub(super) fn step(&self, (c, r): (usize, usize), (d, s): (usize, usize), allowed: &[bool]) -> Option<u32> {
        let (at, next, is_flat) = (self.place(c, r), self.place(d, s), r == s);
        // What is known of a step is kept with its left or upper end.
        let first = at.min(next);
        let taken = if is_flat { self.taken_horizontal[first] } else { self.taken_vertical[first] };
        if taken || self.solid[next] || !allowed[self.group[next] as usize] {
            return None;
        }
        let crossed = if is_flat { self.vertical[first] } else { self.horizontal[first] };
        let length = if is_flat { self.across.between(c, d) } else { self.down.between(r, s) };
        let along = if self.frame[at] && self.frame[next] { ALONG_FRAME * length } else { 0 };
        Some(length + CROSSING * u32::from(crossed) + along)
    }

    /// Whether a line may be at a place: nothing stands there, and the group is one that it may enter.
    pub(super) fn is_open(&self, at: usize, allowed: &[bool]) -> bool {
        !self.solid[at] && allowed[self.group[at] as usize]
    }

    /// Whether lines cross at a place: no other one may turn there.
    pub(super) fn is_crossing(&self, at: usize) -> bool {
        self.horizontal[at] > 0 && self.vertical[at] > 0
    }
}

fn key(p: Point) -> (i64, i64) {
    (libm::round(p.x * 4.0) as i64, libm::round(p.y * 4.0) as i64)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;
    use crate::layout::graph::{Edge, Node};

    /// Two boxes side by side with a narrow gap, and two edges between them.
    fn pair() -> (Graph, Placement) {
        let node = Node { size: Size::new(100.0, 48.0), ..Node::default() };
        let edge = Edge::new(Anchor::Node(0), Anchor::Node(1));
        let graph = Graph { nodes: vec![node; 2], edges: vec![edge; 2], ..Graph::default() };
        let mut placement = Placement::unplaced(&graph);
        placement.nodes = vec![Rect::new(0.0, 0.0, 100.0, 48.0), Rect::new(132.0, 0.0, 100.0, 48.0)];
        (graph, placement)
    }

    #[test]
    fn nobody_ends_across_a_line_that_comes_from_the_other_side_of_a_gap() {
        let (graph, mut placement) = pair();
        let left = |placement: &Placement| {
            let grid = Grid::new(&graph, placement, &[1]).expect("a small grid");
            let ports = grid.ports(&graph, placement, (1, 1));
            ports.into_iter().filter(|port| port.side == Side::Left).map(|port| port.at.y).collect::<Vec<_>>()
        };
        let before = left(&placement);
        let y = *before.first().expect("a port at the left side");
        // Another line goes to the first box, in the height of that port.
        placement.routes[0].points = vec![pt(122.0, y + 90.0), pt(122.0, y), pt(100.0, y)];
        let now = left(&placement);
        assert!(!now.iter().any(|other| (other - y).abs() < 8.0), "{now:?} beside a line at {y}");
        assert!(now.len() < before.len());
    }

    #[test]
    fn what_is_occupied_is_crossed_and_not_followed() {
        let (graph, mut placement) = pair();
        placement.nodes[1].y = 300.0;
        placement.routes[0].points = vec![pt(50.0, 48.0), pt(50.0, 300.0)];
        let grid = Grid::new(&graph, &placement, &[1]).expect("a small grid");
        let column = grid.across.last_up_to(50.0);
        let row = grid.down.last_up_to(170.0);
        let open = vec![true; graph.groups.len() + 1];
        let along = (0..2).filter_map(|i| grid.step((column + i, row), (column + i, row + 1), &open)).count();
        assert!(along < 2, "a track beside the line is free to follow");
        let across: u32 = (column - 2..column + 2).filter_map(|c| grid.step((c, row), (c + 1, row), &open)).sum();
        let beside = grid.step((0, row), (1, row), &open).expect("nothing is there");
        assert!(across > 4 * beside, "a crossing costs more than the way");
    }
}
