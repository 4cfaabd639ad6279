//! Paths and rings in rows that run back and forth, as a careful hand draws what would be a strip: every line is straight,
//! and the whole has the shape of a page.
//!
//! Input: a graph in which nothing is joined with more than two others. Output: its placement with lines.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::arrange::boxes;
use crate::layout::graph::{Anchor, Directed, Graph, RankDirection};
use crate::layout::neighbourhood::distinct_neighbours;
use crate::layout::orientation::Orientation;
use crate::layout::placement::Placement;
use crate::layout::refine::straightening;
use crate::layout::routing::channels::{Care, Channel, Ways, gaps_between};
use crate::layout::routing::lines;
use crate::layout::score::{measure, page_factor};

/// Room between two boxes, in px.
// An arrow, and a corner at both ends of a row.
const GAP: f64 = 44.0;
/// Room before and behind a label between two boxes.
const LABEL: f64 = 18.0;
/// Fewer nodes than this are no strip.
// Four stand in one row.
const LEAST: usize = 5;
/// The aspect that is liked best, as width over height, and what another one costs, as a part of the score.
const ASPECT: f64 = 1.6;
const OFF: f64 = 0.1;
/// This many numbers of columns get their lines; of the others the size is enough to know better.
const TRIED: usize = 4;

/// Nodes one after the other.
#[derive(Clone, Debug, PartialEq)]
pub(in crate::layout) struct Chain {
    order: Vec<usize>,
    /// Whether the last is joined with the first.
    is_ring: bool,
}

/// The path or ring that a graph is, if it is one; where lines tell what happens in time, rows do not run back.
pub(in crate::layout) fn find(graph: &Graph) -> Option<Chain> {
    let count = graph.nodes.len();
    let is_plain = graph.groups.is_empty()
        && graph.constraints.is_empty()
        && graph.arrangement.is_none()
        && graph.directed != Directed::InTime
        && graph.edges.iter().all(|e| e.trunk.is_none())
        && graph.nodes.iter().all(|n| n.beside.is_none() && n.border.is_none());
    if !is_plain || count < LEAST {
        return None;
    }
    let ends = |(a, b): (Anchor, Anchor)| a.node().zip(b.node());
    let edges: Vec<(usize, usize)> = graph.edges.iter().map(|e| ends((e.from, e.to))).collect::<Option<_>>()?;
    let near = distinct_neighbours(count, &edges);
    if near.iter().any(|list| list.len() > 2) {
        return None;
    }
    let end = (0..count).find(|v| near[*v].len() == 1);
    let order = walk(&near, end.unwrap_or(0));
    if order.len() < count {
        return None;
    }
    let mut chain = Chain { order, is_ring: end.is_none() };
    chain.read_forward(&edges);
    Some(chain)
}

/// All that is reached from one end.
fn walk(near: &[Vec<usize>], start: usize) -> Vec<usize> {
    let mut order = vec![start];
    let mut seen = vec![false; near.len()];
    seen[start] = true;
    let mut at = start;
    while let Some(next) = near[at].iter().copied().find(|w| !seen[*w]) {
        seen[next] = true;
        order.push(next);
        at = next;
    }
    order
}

impl Chain {
    /// Turns it round if most lines point back.
    fn read_forward(&mut self, edges: &[(usize, usize)]) {
        let count = self.order.len();
        let mut number = vec![0; count];
        self.order.iter().enumerate().for_each(|(i, v)| number[*v] = i);
        let is_next = |a: usize, b: usize| number[b] == (number[a] + 1) % count;
        let forward = edges.iter().filter(|(a, b)| is_next(*a, *b)).count();
        let back = edges.iter().filter(|(a, b)| is_next(*b, *a)).count();
        if forward < back {
            self.order.reverse();
            if self.is_ring {
                self.order.rotate_right(1);
            }
        }
    }

    /// The cell of each of its nodes, as column and row, if it has this many columns.
    fn cells(&self, columns: usize) -> Option<Vec<(usize, usize)>> {
        let count = self.order.len();
        if !self.is_ring {
            let back_and_forth = |(c, r)| if r % 2 == 0 { (c, r) } else { (columns - 1 - c, r) };
            return Some((0..count).map(|i| back_and_forth((i % columns, i / columns))).collect());
        }
        ring(count, columns)
    }
}

/// The cells of a ring: the first row, then rows back and forth without the first column, and up again in that.
fn ring(count: usize, columns: usize) -> Option<Vec<(usize, usize)>> {
    if columns < 2 {
        return None;
    }
    let rows = count.div_ceil(columns).next_multiple_of(2);
    let mut cells: Vec<(usize, usize)> = (0..columns).map(|c| (c, 0)).collect();
    for row in 1..rows {
        let inner = 1..columns;
        let row_of = |c| (c, row);
        if row % 2 == 1 { cells.extend(inner.rev().map(row_of)) } else { cells.extend(inner.map(row_of)) }
    }
    // What is too many is left out on the way back, never at a corner: lines are longer there, and still straight.
    let mut left_over = rows * columns - count;
    let in_last_row = left_over.min(columns - 2);
    cells.truncate(cells.len() - in_last_row);
    left_over -= in_last_row;
    let back = rows - 1;
    if left_over + 2 > rows {
        return None;
    }
    cells.push((0, back));
    // Between the corner below and the first row.
    cells.extend((1..back).rev().take(rows - 2 - left_over).map(|row| (0, row)));
    Some(cells)
}

/// Places a chain in as many columns as give the best picture.
pub(in crate::layout) fn place(graph: &Graph, chain: &Chain) -> Placement {
    let count = chain.order.len();
    let all = (1..=count).filter_map(|columns| chain.cells(columns)).map(|cells| Rows::new(graph, chain, cells));
    let mut all: Vec<(f64, Rows)> = all.map(|rows| (rows.estimate(), rows)).collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all.truncate(TRIED);
    let drawn = all.into_iter().map(|(_, rows)| rows.drawn());
    let scored =
        drawn.map(|placement| (measure(graph, &placement).score() * unlike_a_screen(placement.size), placement));
    scored.min_by(|a, b| a.0.total_cmp(&b.0)).map(|best| best.1).unwrap_or_default()
}

/// What a picture costs that is not shaped like a screen, as a factor.
fn unlike_a_screen(size: Size) -> f64 {
    let off = libm::log(size.w.max(1.0) / size.h.max(1.0) / ASPECT);
    1.0 + OFF * off * off
}

/// Rows and columns with what stands in them.
struct Rows<'g> {
    graph: &'g Graph,
    /// The cell of each node of the graph.
    cells: Vec<(usize, usize)>,
    /// Where columns, and rows, begin, and how wide they are, in px.
    columns: Vec<(f64, f64)>,
    rows: Vec<(f64, f64)>,
}

impl<'g> Rows<'g> {
    fn new(graph: &'g Graph, chain: &Chain, cells: Vec<(usize, usize)>) -> Self {
        let mut own = vec![(0, 0); graph.nodes.len()];
        for (v, cell) in chain.order.iter().zip(cells) {
            own[*v] = cell;
        }
        let mut rows = Self { graph, cells: own, columns: Vec::new(), rows: Vec::new() };
        rows.read_as_asked();
        rows.measure(&[]);
        rows
    }

    /// Rows run to the right, unless another heading was asked for.
    fn read_as_asked(&mut self) {
        let columns = self.cells.iter().map(|cell| cell.0).max().unwrap_or(0);
        for cell in self.cells.iter_mut().filter(|_| self.graph.is_heading_asked) {
            let (column, row) = *cell;
            *cell = match self.graph.direction {
                RankDirection::Right => (column, row),
                RankDirection::Left => (columns - column, row),
                RankDirection::Down => (row, column),
                RankDirection::Up => (row, columns - column),
            };
        }
    }

    /// Gives columns and rows their places, with room for labels, and for as much between them as lines need.
    fn measure(&mut self, demand: &[f64]) {
        let count = |of: fn(&(usize, usize)) -> usize| self.cells.iter().map(of).max().map_or(0, |most| most + 1);
        let (columns, rows) = (count(|c| c.0), count(|c| c.1));
        let (mut widths, mut heights) = (vec![0.0; columns], vec![0.0; rows]);
        for (node, (c, r)) in self.graph.nodes.iter().zip(&self.cells) {
            widths[*c] = f64::max(widths[*c], node.size.w);
            heights[*r] = f64::max(heights[*r], node.size.h);
        }
        let (mut across, mut down) = (vec![GAP; columns + 1], vec![GAP; rows + 1]);
        for edge in &self.graph.edges {
            let (Some(a), Some(b)) = (edge.from.node(), edge.to.node()) else { continue };
            let ((c1, r1), (c2, r2)) = (self.cells[a], self.cells[b]);
            let ends = edge.end_labels.iter().flatten();
            let (mut room, mut high) = ends.fold((0.0, 0.0), |all, l| (all.0 + l.w + LABEL, all.1 + l.h + LABEL));
            if let Some(label) = edge.label {
                (room, high) = (room + label.w + 2.0 * LABEL, high + label.h + 2.0 * LABEL);
            }
            if r1 == r2 && c1.abs_diff(c2) == 1 {
                across[c1.max(c2)] = across[c1.max(c2)].max(room);
            }
            if c1 == c2 && r1.abs_diff(r2) == 1 {
                down[r1.max(r2)] = down[r1.max(r2)].max(high);
            }
        }
        let asked = demand.iter().copied().chain(std::iter::repeat(0.0));
        for (gap, asked) in across.iter_mut().chain(&mut down).zip(asked) {
            *gap = gap.max(asked) * self.graph.spacing;
        }
        (self.columns, self.rows) = (boxes::positions(&widths, &across).0, boxes::positions(&heights, &down).0);
    }

    /// What the picture costs without its lines: room, and how unlike a page it is.
    fn estimate(&self) -> f64 {
        let size = self.size();
        let beyond = page_factor(size);
        (size.w * size.h / 40_000.0 + (size.w + size.h) / 300.0) * beyond * beyond * unlike_a_screen(size)
    }

    fn size(&self) -> Size {
        let extent =
            |all: &[(f64, f64)]| all.last().map_or(0.0, |(at, own)| at + own) - all.first().map_or(0.0, |f| f.0);
        Size::new(extent(&self.columns), extent(&self.rows))
    }

    /// The middle of a cell, on whole px.
    fn middle(&self, (column, row): (usize, usize)) -> Point {
        let ((x, w), (y, h)) = (self.columns[column], self.rows[row]);
        pt(libm::round(x + w / 2.0), libm::round(y + h / 2.0))
    }

    /// The boxes, without lines.
    fn boxes(&self) -> Placement {
        let rects = self.graph.nodes.iter().zip(&self.cells);
        let nodes = rects.map(|(node, cell)| Rect::around(self.middle(*cell), node.size)).collect();
        boxes::placement(self.graph, nodes, Vec::new())
    }

    /// The gaps before, between and behind columns, and then those of rows.
    fn channels(&self) -> Vec<Channel> {
        let Size { w, h } = self.size();
        let (x, y) = (self.columns.first().map_or(0.0, |c| c.0), self.rows.first().map_or(0.0, |r| r.0));
        let whole = Rect::new(x, y, w, h).grown(GAP);
        let of = |orientation: Orientation, all: &[(f64, f64)]| {
            let gaps = gaps_between(all, orientation.across(whole)).into_iter();
            gaps.map(move |gap| Channel::across(orientation, gap, whole, orientation.along(whole)))
        };
        of(Orientation::Vertical, &self.columns).chain(of(Orientation::Horizontal, &self.rows)).collect()
    }

    /// The placement with its lines.
    fn drawn(mut self) -> Placement {
        let graph = self.graph;
        let between = graph.edges_between();
        // 1. As much room as lines need: there may be several between two boxes.
        let (sketch, channels) = (self.boxes(), self.channels());
        if let Some(ways) = Ways::find(graph, &sketch, &channels, &between, Care::Sketch) {
            self.measure(&ways.demand(&channels));
        }
        // 2. Lines.
        let (mut placement, channels) = (self.boxes(), self.channels());
        Ways::draw(graph, &mut placement, &channels, &between);
        straightening::straighten(graph, &mut placement);
        lines::complete(graph, &mut placement);
        placement.fit();
        placement
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::{Edge, Node};

    fn graph(count: usize, edges: impl Iterator<Item = (usize, usize)>) -> Graph {
        let node = |v: usize| Node { size: Size::new(90.0 + (v % 3) as f64 * 8.0, 44.0), ..Node::default() };
        Graph {
            nodes: (0..count).map(node).collect(),
            edges: edges.map(|(a, b)| Edge::new(Anchor::Node(a), Anchor::Node(b))).collect(),
            arrangement: None,
            ..Graph::default()
        }
    }

    fn path(count: usize) -> Graph {
        graph(count, (1..count).map(|v| (v - 1, v)))
    }

    fn circle(count: usize) -> Graph {
        graph(count, (0..count).map(|v| (v, (v + 1) % count)))
    }

    #[test]
    fn every_line_of_a_path_or_a_ring_is_straight() {
        for graph in (LEAST..40).flat_map(|count| [path(count), circle(count)]) {
            let chain = find(&graph).expect("a chain");
            let placement = place(&graph, &chain);
            let measures = measure(&graph, &placement);
            assert_eq!((measures.faults, measures.crossings, measures.bends), (vec![], 0, 0), "{chain:?}");
        }
    }

    #[test]
    fn the_whole_has_the_shape_of_a_page() {
        for graph in [path(60), circle(60), path(200)] {
            let chain = find(&graph).expect("a chain");
            let aspect = measure(&graph, &place(&graph, &chain)).aspect();
            assert!((0.5..2.4).contains(&aspect), "{aspect}");
        }
    }

    #[test]
    fn rows_run_as_the_heading_says() {
        for (heading, first) in [
            (RankDirection::Right, pt(1.0, 0.0)),
            (RankDirection::Left, pt(-1.0, 0.0)),
            (RankDirection::Down, pt(0.0, 1.0)),
            (RankDirection::Up, pt(0.0, -1.0)),
        ] {
            let graph = Graph { direction: heading, is_heading_asked: true, ..path(30) };
            let placement = place(&graph, &find(&graph).expect("a path"));
            let (a, b) = (placement.nodes[0].middle(), placement.nodes[1].middle());
            let sign = |by: f64| if by.abs() < 1.0 { 0.0 } else { by.signum() };
            assert_eq!(pt(sign(b.x - a.x), sign(b.y - a.y)), first, "{heading:?}");
        }
    }

    #[test]
    fn a_path_is_read_along_its_lines() {
        let graph = graph(6, (1..6).map(|v| (v, v - 1)));
        assert_eq!(find(&graph).map(|c| c.order), Some(vec![5, 4, 3, 2, 1, 0]));
    }

    #[test]
    fn what_branches_or_happens_in_time_is_no_chain() {
        assert_eq!(find(&graph(6, [(0, 1), (1, 2), (1, 3), (3, 4), (4, 5)].into_iter())), None);
        assert_eq!(find(&path(4)), None);
        assert_eq!(find(&Graph { directed: Directed::InTime, ..path(9) }), None);
    }

    #[test]
    fn two_lines_between_neighbours_lie_side_by_side() {
        let graph = graph(8, (1..8).flat_map(|v| [(v - 1, v), (v, v - 1)]));
        let placement = place(&graph, &find(&graph).expect("a path"));
        assert_eq!(measure(&graph, &placement).faults, []);
    }
}
