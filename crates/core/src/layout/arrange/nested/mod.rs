//! Groups in groups, as a careful hand places them: every group is a compact block of rows and columns in the shape its
//! lines ask for; blocks that talk to each other stand beside each other and face each other; tops, widths and heights
//! are level. Lines are drawn last, around everything, straight ones first.
//!
//! Input: a graph with groups and without lanes. Output: its placement with lines.
//!
//! The passes:
//! 1. from the innermost groups outward: cells for what each group holds ([`cells`]), and its size;
//! 2. from the outside in: the same again, now that it is known where what is outside stands;
//! 3. sizes once more, and frames of a row and a column level;
//! 4. lines.
//!
//! After Kieffer, Dwyer, Marriott, Wybrow, "HOLA: human-like orthogonal network layout" (2016), in what people look for:
//! compact blocks, alignment, few bends, and symmetry before a strict flow.

mod cells;

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::arrange::boxes::{self, Item};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::placement::Placement;
use crate::layout::routing::lines;
use crate::layout::routing::obstacles;
use cells::{Cells, Items, Line};

/// Room between two items, in px.
const GAP: f64 = 36.0;
/// Room for a line that has to turn between two rows or columns.
const TRACK: f64 = 10.0;
/// No more room than for this many of them.
const TRACKS: usize = 8;
/// Room before and behind a label between two items.
const LABEL: f64 = 16.0;
/// Labels wider than this have their lines run down rather than make all gaps as wide.
const WIDEST_LABEL: f64 = 110.0;
/// The aspect that a picture likes best, as width over height: a screen with room for what is around it.
const ASPECT: f64 = 1.5;
/// A frame is made as wide or high as its neighbours, if it grows by no more than this factor.
const LEVELLED: f64 = 1.8;
/// What half of a block's extent costs, where a px of line costs 1, for each of its lines.
const EXTENT: f64 = 0.9;
/// How much wider gaps are tried where lines or labels find no room.
const STRETCHES: [f64; 3] = [1.0, 1.35, 1.8];

/// A group, or the whole picture, as rows and columns.
#[derive(Debug, Default)]
struct Block {
    held: Vec<Item>,
    /// Edges between two different items, by the items' numbers: from, to, edge.
    edges: Vec<(usize, usize, usize)>,
    /// Edges that lead out: the item's number, and the other end.
    outward: Vec<(usize, Anchor)>,
    cells: Option<Cells>,
    /// The size of what it holds, in px.
    inner: Size,
    /// Where columns and rows begin and how wide they are, in px from its first.
    columns: Vec<(f64, f64)>,
    rows: Vec<(f64, f64)>,
}

struct Nested<'g> {
    graph: &'g Graph,
    /// Gaps, as a multiple of the usual ones.
    stretch: f64,
    /// One for each group, and last the whole.
    blocks: Vec<Block>,
    nodes: Vec<Rect>,
    groups: Vec<Rect>,
}

/// Whether a graph can be arranged in this way: groups without lanes, nothing on frames, nothing that was asked for.
pub(in crate::layout) fn is_possible(graph: &Graph) -> bool {
    graph.constraints.is_empty()
        && !graph.groups.is_empty()
        && !graph.groups.iter().any(|g| g.lane || g.region)
        && !graph.nodes.iter().any(|n| n.border.is_some() || n.beside.is_some())
}

/// Places a graph; with wider gaps where lines or labels find no room.
pub(in crate::layout) fn place(graph: &Graph) -> Placement {
    boxes::with_room(graph, &STRETCHES, |stretch| placed(graph, stretch))
}

fn placed(graph: &Graph, stretch: f64) -> Placement {
    let mut nested = Nested::new(graph, stretch);
    let inward: Vec<usize> = std::iter::once(graph.groups.len()).chain(0..graph.groups.len()).collect();
    // 1. Shapes, each for itself: children come after their parents, and the whole comes last.
    inward.iter().rev().for_each(|block| nested.arrange(*block, &[]));
    nested.settle();
    // 2. Facing what they talk to.
    for block in &inward {
        let pulls = nested.pulls(*block);
        nested.arrange(*block, &pulls);
        nested.settle();
    }
    // 3. Sizes once more: what was turned may have another size.
    inward.iter().rev().for_each(|block| nested.measure(*block));
    nested.settle();
    // 4. Lines.
    let mut placement = boxes::placement(graph, nested.nodes, nested.groups);
    let between: Vec<usize> = (0..graph.edges.len()).filter(|e| graph.edges[*e].from != graph.edges[*e].to).collect();
    obstacles::route(graph, &mut placement, &between);
    lines::complete(graph, &mut placement);
    placement.fit();
    placement
}

impl<'g> Nested<'g> {
    fn new(graph: &'g Graph, stretch: f64) -> Self {
        let whole = graph.groups.len();
        let blocks = boxes::held(graph).into_iter().map(|held| Block { held, ..Block::default() }).collect();
        let nodes = graph.nodes.iter().map(|node| Rect::new(0.0, 0.0, node.size.w, node.size.h)).collect();
        let mut nested = Self { graph, stretch, blocks, nodes, groups: vec![Rect::default(); whole] };
        nested.lift_edges();
        nested
    }

    /// Gives each block the edges between its items, and those that lead out of it.
    fn lift_edges(&mut self) {
        for (e, edge) in self.graph.edges.iter().enumerate() {
            let (from, to) = (self.numbered(edge.from), self.numbered(edge.to));
            // What lies around both ends is the same from some group on outward; there they are two items of one block.
            let common = from.iter().rev().zip(to.iter().rev()).take_while(|(a, b)| a.0 == b.0).count();
            let (a, b) = (&from[from.len() - common], &to[to.len() - common]);
            if a != b {
                self.blocks[a.0].edges.push((a.1, b.1, e));
            }
            for (path, other) in [(&from, edge.to), (&to, edge.from)] {
                for (block, item) in &path[..path.len() - common] {
                    self.blocks[*block].outward.push((*item, other));
                }
            }
        }
    }

    /// An end and the groups around it: the block that holds each, and its number there; from the inside out.
    fn numbered(&self, end: Anchor) -> Vec<(usize, usize)> {
        let number = |block: usize, item: Item| self.blocks[block].held.binary_search(&item).unwrap_or(0);
        boxes::around(self.graph, end).map(|(block, item)| (block, number(block, item))).collect()
    }

    fn size(&self, item: Item) -> Size {
        match item {
            Item::Node(v) => self.graph.nodes[v].size,
            Item::Group(g) => self.graph.groups[g].around(self.blocks[g].inner),
        }
    }

    /// Where what pulls at a block's items stands, in px from its upper left corner.
    fn pulls(&self, block: usize) -> Vec<(usize, Point)> {
        let Some(frame) = self.groups.get(block) else { return Vec::new() };
        let place = |end: Anchor| match end {
            Anchor::Node(v) => self.nodes[v].middle(),
            Anchor::Group(g) => self.groups[g].middle(),
        };
        let own = |end: Anchor| pt(place(end).x - frame.x, place(end).y - frame.y);
        self.blocks[block].outward.iter().map(|(item, end)| (*item, own(*end))).collect()
    }

    /// Chooses the rows and columns of a block.
    fn arrange(&mut self, block: usize, pulls: &[(usize, Point)]) {
        let own = &self.blocks[block];
        let count = own.held.len();
        let sizes: Vec<Size> = own.held.iter().map(|item| self.size(*item)).collect();
        let mean = |of: fn(&Size) -> f64| sizes.iter().map(of).sum::<f64>() / count.max(1) as f64;
        let items = Items {
            count,
            lines: own.edges.iter().map(|(from, to, _)| Line { from: *from, to: *to, weight: 1.0 }).collect(),
            pulls: pulls.to_vec(),
            cell: Size::new(mean(|s| s.w) + GAP, mean(|s| s.h) + GAP),
            heading: self.graph.direction,
        };
        let weight = EXTENT * (1.0 + items.lines.len() as f64 + 0.5 * items.pulls.len() as f64);
        let mut best: Option<(f64, Cells)> = None;
        for columns in candidates(count) {
            let cells = items.assign(columns);
            self.blocks[block].cells = Some(cells.clone());
            self.measure(block);
            let size = self.blocks[block].inner;
            let cost = items.cost(&cells) + weight * unlike_a_screen(size, block == self.graph.groups.len());
            if best.as_ref().is_none_or(|(least, _)| cost < least - 0.5) {
                best = Some((cost, cells));
            }
        }
        self.blocks[block].cells = best.map(|b| b.1);
        self.measure(block);
    }

    /// The widths of a block's columns and the heights of its rows, with room for the lines and labels between them.
    fn measure(&mut self, block: usize) {
        let own = &self.blocks[block];
        let Some(cells) = &own.cells else { return };
        let mut widths = vec![0.0; cells.columns];
        let mut heights = vec![0.0; cells.rows()];
        for (item, (column, row)) in own.held.iter().zip(&cells.at) {
            let size = self.size(*item);
            widths[*column] = f64::max(widths[*column], size.w);
            heights[*row] = f64::max(heights[*row], size.h);
        }
        let (across, down) = self.gaps(own, cells);
        let columns = positions(&widths, &across);
        let rows = positions(&heights, &down);
        let end = |all: &[(f64, f64)]| all.last().map_or(0.0, |(at, extent)| at + extent);
        let own = &mut self.blocks[block];
        own.inner = Size::new(end(&columns), end(&rows));
        (own.columns, own.rows) = (columns, rows);
    }

    /// The room between columns, and between rows.
    fn gaps(&self, block: &Block, cells: &Cells) -> (Vec<f64>, Vec<f64>) {
        let factor = self.stretch * self.graph.spacing;
        let mut across = vec![(0, 0.0); cells.columns.saturating_sub(1)];
        let mut down = vec![(0, 0.0); cells.rows().saturating_sub(1)];
        for (from, to, e) in &block.edges {
            let ((x1, y1), (x2, y2)) = (cells.at[*from], cells.at[*to]);
            let label = self.graph.edges[*e].label.unwrap_or_default();
            let straight = x1 == x2 || y1 == y2;
            for gap in &mut across[x1.min(x2)..x1.max(x2)] {
                gap.0 += usize::from(!straight);
                if y1 == y2 && x1.abs_diff(x2) == 1 {
                    gap.1 = f64::max(gap.1, label.w.min(WIDEST_LABEL) + 2.0 * LABEL);
                }
            }
            for gap in &mut down[y1.min(y2)..y1.max(y2)] {
                gap.0 += usize::from(!straight);
                gap.1 = f64::max(gap.1, label.h + 2.0 * LABEL);
            }
        }
        // Lines that lead out pass between the others.
        let out = block.outward.len() / (across.len() + down.len()).max(1);
        let room =
            |(turns, label): (usize, f64)| f64::max(GAP + TRACK * (turns + out).min(TRACKS) as f64, label) * factor;
        (across.into_iter().map(room).collect(), down.into_iter().map(room).collect())
    }

    /// Gives everything its place in the picture, from the outside in.
    fn settle(&mut self) {
        let whole = self.graph.groups.len();
        self.put(whole, pt(0.0, 0.0), self.blocks[whole].inner);
        for g in 0..whole {
            let (group, frame) = (&self.graph.groups[g], self.groups[g]);
            let room = Size::new(frame.w - 2.0 * group.inset, frame.h - group.above() - group.inset);
            self.put(g, pt(frame.x + group.inset, frame.y + group.above()), room);
        }
    }

    /// Puts what a block holds into a room at least as large as it needs; what is left over is shared by its columns
    /// and rows.
    fn put(&mut self, block: usize, corner: Point, room: Size) {
        let Some(cells) = self.blocks[block].cells.clone() else { return };
        let own = &self.blocks[block];
        let more = |room: f64, need: f64, count: usize| ((room - need) / count.max(1) as f64).max(0.0);
        let wider = more(room.w, own.inner.w, own.columns.len());
        let higher = more(room.h, own.inner.h, own.rows.len());
        let (columns, rows, held) = (own.columns.clone(), own.rows.clone(), own.held.clone());
        for (item, (column, row)) in held.into_iter().zip(&cells.at) {
            let ((x, w), (y, h)) = (columns[*column], rows[*row]);
            let cell = Rect::new(
                corner.x + x + wider * *column as f64,
                corner.y + y + higher * *row as f64,
                w + wider,
                h + higher,
            );
            let size = self.size(item);
            match item {
                Item::Node(v) => self.nodes[v] = on_grid(Rect::around(cell.middle(), size)),
                Item::Group(g) => {
                    let level = |own: f64, cell: f64| if cell <= own * LEVELLED { cell } else { own };
                    let size = Size::new(level(size.w, cell.w), level(size.h, cell.h));
                    // Tops are level; what is narrower than its column stands in its middle.
                    self.groups[g] = on_grid(Rect::new(cell.x + (cell.w - size.w) / 2.0, cell.y, size.w, size.h));
                }
            }
        }
    }
}

/// The numbers of columns that are tried for so many items.
fn candidates(count: usize) -> Vec<usize> {
    if count <= 8 {
        return (1..=count.max(1)).collect();
    }
    let even = libm::round(libm::sqrt(count as f64)) as usize;
    let mut all = vec![1, even.saturating_sub(1).max(1), even, even + 1, even + 2, count];
    all.dedup();
    all
}

/// How far a size is from what a screen holds, in px: half its extent, more of it where it is a strip.
fn unlike_a_screen(size: Size, is_whole: bool) -> f64 {
    let wanted = if is_whole { ASPECT } else { 1.2 };
    let off = libm::fabs(libm::log((size.w.max(1.0) / size.h.max(1.0)) / wanted));
    (size.w + size.h) / 2.0 * (1.0 + off * off / 2.0)
}

/// Where stretches of these extents begin, with gaps between them.
fn positions(extents: &[f64], gaps: &[f64]) -> Vec<(f64, f64)> {
    let mut at = 0.0;
    let mut found = Vec::with_capacity(extents.len());
    for (i, extent) in extents.iter().enumerate() {
        found.push((at, *extent));
        at += extent + gaps.get(i).copied().unwrap_or(0.0);
    }
    found
}

/// The same on whole px, so that lines between middles are straight.
fn on_grid(rect: Rect) -> Rect {
    Rect::new(libm::round(rect.x), libm::round(rect.y), rect.w, rect.h)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::score::measure;
    use crate::layout::{Edge, Group, Node};

    /// Two groups of the given sizes, one after the other, with edges between nodes.
    fn groups(sizes: &[usize], edges: &[(usize, usize)]) -> Graph {
        let frame = |_| Group { title: Size::new(80.0, 18.0), inset: 16.0, ..Group::default() };
        let holder = sizes.iter().enumerate().flat_map(|(g, count)| std::iter::repeat_n(g, *count));
        let node = |g| Node { size: Size::new(120.0, 48.0), group: Some(g), ..Node::default() };
        let edge = |(a, b): &(usize, usize)| Edge {
            label: Some(Size::new(60.0, 18.0)),
            ..Edge::new(Anchor::Node(*a), Anchor::Node(*b))
        };
        Graph {
            groups: (0..sizes.len()).map(frame).collect(),
            nodes: holder.map(node).collect(),
            edges: edges.iter().map(edge).collect(),
            spacing: 1.0,
            ..Graph::default()
        }
    }

    #[test]
    fn frames_hold_their_members_and_nothing_else() {
        let graph = groups(&[3, 4, 2], &[(0, 3), (3, 4), (4, 7), (7, 8), (1, 2), (5, 6)]);
        let placement = place(&graph);
        for (v, rect) in placement.nodes.iter().enumerate() {
            for (g, frame) in placement.groups.iter().enumerate() {
                assert_eq!(frame.holds(*rect), graph.nodes[v].group == Some(g), "node {v} and group {g}");
            }
        }
        let apart = |a: usize, b: usize| a == b || !placement.groups[a].meets(placement.groups[b]);
        assert!((0..3).all(|a| (0..3).all(|b| apart(a, b))), "{:?}", placement.groups);
        assert!(measure(&graph, &placement).faults.is_empty(), "{:?}", measure(&graph, &placement).faults);
    }

    #[test]
    fn two_groups_with_a_line_between_them_are_level() {
        let graph = groups(&[2, 2], &[(0, 1), (1, 2), (2, 3)]);
        let placement = place(&graph);
        let [a, b] = placement.groups[..] else { panic!("two groups") };
        let (beside, above) = (a.y == b.y && a.h == b.h, a.x == b.x && a.w == b.w);
        assert!(beside || above, "they stand as a staircase: {a:?} {b:?}");
    }

    #[test]
    fn what_is_joined_across_a_frame_faces_each_other() {
        // Of a row of three, only the last talks to the other group.
        let graph = groups(&[3, 1], &[(0, 1), (1, 2), (2, 3)]);
        let placement = place(&graph);
        let far = |v: usize| {
            let (a, b) = (placement.nodes[v].middle(), placement.nodes[3].middle());
            (a.x - b.x).abs() + (a.y - b.y).abs()
        };
        assert!(far(2) < far(0), "{:?}", placement.nodes);
        let bends: usize = placement.routes.iter().map(|r| r.points.len().saturating_sub(2)).sum();
        assert!(bends <= 2, "{bends} bends in a chain of four");
    }

    #[test]
    fn the_same_graph_gives_the_same_places() {
        let graph = groups(&[4, 5, 3], &[(0, 4), (4, 9), (9, 1), (2, 6), (7, 11), (3, 10), (5, 8)]);
        assert_eq!(place(&graph), place(&graph));
    }

    #[test]
    fn groups_in_groups_lie_inside() {
        let mut graph = groups(&[2, 2, 1], &[(0, 2), (2, 4), (1, 3)]);
        graph.groups[1].parent = Some(0);
        let placement = place(&graph);
        assert!(placement.groups[0].holds(placement.groups[1]), "{:?}", placement.groups);
        assert!(placement.titles.iter().zip(&placement.groups).all(|(title, frame)| frame.holds(*title)));
    }

    #[test]
    fn lanes_and_constraints_are_left_to_others() {
        let mut graph = groups(&[1, 1], &[(0, 1)]);
        assert!(is_possible(&graph));
        graph.groups[0].lane = true;
        assert!(!is_possible(&graph));
        assert!(!is_possible(&Graph::default()), "nothing to be a block");
    }

    #[test]
    fn a_strip_is_further_from_a_screen_than_a_screen() {
        let (screen, strip) =
            (unlike_a_screen(Size::new(900.0, 600.0), true), unlike_a_screen(Size::new(1400.0, 100.0), true));
        assert!(screen < strip, "{screen} {strip}");
        assert_eq!(candidates(3), [1, 2, 3]);
        assert_eq!(candidates(0), [1]);
        assert!(candidates(30).contains(&1) && candidates(30).contains(&30));
        assert_eq!(positions(&[10.0, 20.0], &[5.0]), [(0.0, 10.0), (15.0, 20.0)]);
    }
}
