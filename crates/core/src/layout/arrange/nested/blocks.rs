//! Groups, and the whole picture, as blocks: what each holds in rows and columns. Input: a graph. Output: a size and cells for
//! each block, from the inside out, and places for everything in it, from the outside in.

use super::cells::{self, Cells, Items, Line};
use super::strips::Strips;
use crate::geom::{Point, Rect, Size, pt};
use crate::layout::arrange::boxes::{self, Item};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::score::page_factor;

/// Room between two items, in px.
// Two lines side by side, 12 px apart and 9 px from the boxes, and a little air.
pub(super) const GAP: f64 = 36.0;
/// Room before and behind a label between two items.
pub(super) const LABEL: f64 = 16.0;
/// Labels wider than this have their lines run down rather than make all gaps as wide.
pub(super) const WIDEST_LABEL: f64 = 110.0;
/// The aspect that a picture likes best, as width over height: a screen with room for what is around it.
// 16 : 10, less what a window takes above and below.
const ASPECT: f64 = 1.5;
/// The aspect that a group likes best, as long as nothing is known of what is around it.
// Titles take height, so that what looks square is a little wider.
const COMPACT: f64 = 1.2;
/// No group likes to be wider or taller than this for the sake of what is around it.
const STRIP: (f64, f64) = (0.3, 5.0);
/// A frame is made as wide or high as its neighbours, if it grows by no more than this factor.
// Nearly twice as wide, and a frame looks empty.
const LEVELLED: f64 = 1.8;
/// What half of a block's extent costs, where a px of line costs 1, for each of its lines.
pub(super) const EXTENT: f64 = 0.9;
/// More things than this in no group stand in rows and columns as everything else.
const MOST_LOOSE: usize = 24;

/// Up to this many nodes, everything is tried.
// Each arrangement gets its lines, which takes longest.
pub(super) const SMALL: usize = 60;

/// A group, or the whole picture, as rows and columns.
#[derive(Clone, Debug, Default)]
pub(super) struct Block {
    pub(super) held: Vec<Item>,
    /// Edges between two different items, by the items' numbers: from, to, edge.
    pub(super) edges: Vec<(usize, usize, usize)>,
    /// Edges that lead out: the item's number, and the other end.
    pub(super) outward: Vec<(usize, Anchor)>,
    pub(super) cells: Option<Cells>,
    /// The size of what it holds, in px.
    pub(super) inner: Size,
    /// Where columns, and rows, begin and how wide they are, in px from its corner.
    pub(super) needed: [Vec<(f64, f64)>; 2],
    /// The same in the picture.
    pub(super) placed: [Vec<(f64, f64)>; 2],
    /// The room that lines need between its columns, and its rows: before the first, between two, and behind the last.
    pub(super) demand: [Vec<f64>; 2],
}

/// Which shape the outermost groups like.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Fit {
    /// As compact as each is on its own.
    Compact,
    /// That of the cells of a screen that is divided as the whole is.
    Cells,
}

#[derive(Clone)]
pub(super) struct Nested<'g> {
    pub(super) graph: &'g Graph,
    pub(super) fit: Fit,
    /// How many columns the whole has; `None` leaves it to its lines.
    pub(super) columns: Option<usize>,
    /// Gaps, as a multiple of the usual ones.
    pub(super) stretch: f64,
    /// One for each group, and last the whole.
    pub(super) blocks: Vec<Block>,
    pub(super) nodes: Vec<Rect>,
    pub(super) groups: Vec<Rect>,
    /// Nodes in no group, which stand in strips along the sides; none of them is in a block.
    pub(super) loose: Vec<usize>,
    pub(super) strips: Strips,
}

impl<'g> Nested<'g> {
    pub(super) fn new(graph: &'g Graph) -> Self {
        let whole = graph.groups.len();
        let loose = loose(graph);
        let is_loose = |item: &Item| matches!(item, Item::Node(v) if loose.binary_search(v).is_ok());
        let mut held = boxes::held(graph);
        held[whole].retain(|item| !is_loose(item));
        let blocks = held.into_iter().map(|held| Block { held, ..Block::default() }).collect();
        let nodes = graph.nodes.iter().map(|node| Rect::new(0.0, 0.0, node.size.w, node.size.h)).collect();
        let groups = vec![Rect::default(); whole];
        let strips = Strips::default();
        let fit = Fit::Compact;
        let mut nested = Self { graph, fit, stretch: 1.0, columns: None, blocks, nodes, groups, loose, strips };
        nested.lift_edges();
        nested
    }

    /// Blocks by how many groups are around them, the outermost first.
    pub(super) fn levels(&self) -> Vec<Vec<usize>> {
        let mut levels: Vec<Vec<usize>> = vec![vec![self.graph.groups.len()]];
        for g in 0..self.graph.groups.len() {
            let depth = self.graph.groups_around(Anchor::Group(g)).count();
            levels.resize_with(levels.len().max(depth + 1), Vec::new);
            levels[depth].push(g);
        }
        levels
    }

    /// The sizes of all blocks, from the inside out.
    pub(super) fn measure_all(&mut self) {
        let whole = self.graph.groups.len();
        (0..whole).rev().chain([whole]).for_each(|block| self.measure(block));
    }

    /// Gives each block the edges between its items, and those that lead out of it.
    fn lift_edges(&mut self) {
        for (e, edge) in self.graph.edges.iter().enumerate() {
            let (from, to) = (self.numbered(edge.from), self.numbered(edge.to));
            // What lies around both ends is the same from some group on outward; there they are two items of one block.
            let common = from.iter().rev().zip(to.iter().rev()).take_while(|(a, b)| a.0 == b.0).count();
            let (a, b) = (&from[from.len() - common], &to[to.len() - common]);
            let is_inside = [edge.from, edge.to].iter().all(|end| self.number_outside(*end).is_none());
            if a != b && is_inside {
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

    /// Where an end stands now.
    pub(super) fn rect(&self, end: Anchor) -> Rect {
        end.of(&self.nodes, &self.groups)
    }

    /// The number of an end among what stands outside, if it does.
    pub(super) fn number_outside(&self, end: Anchor) -> Option<usize> {
        end.node().and_then(|v| self.loose.binary_search(&v).ok())
    }

    /// Where what pulls at a block's items stands, in px from its upper left corner.
    pub(super) fn pulls(&self, block: usize) -> Vec<(usize, Point)> {
        let Some(frame) = self.groups.get(block) else { return Vec::new() };
        let own = |end: Anchor| {
            let middle = self.rect(end).middle();
            pt(middle.x - frame.x, middle.y - frame.y)
        };
        self.blocks[block].outward.iter().map(|(item, end)| (*item, own(*end))).collect()
    }

    /// Chooses the rows and columns of a block; says what they cost.
    pub(super) fn arrange(&mut self, block: usize, pulls: &[(usize, Point)]) -> f64 {
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
            against: cells::against(self.graph),
        };
        let weight = EXTENT * (1.0 + items.lines.len() as f64 + 0.5 * items.pulls.len() as f64);
        let mut best: Option<(f64, Cells)> = None;
        let is_whole = block == self.graph.groups.len();
        let (asked, wanted) = (self.columns.filter(|_| is_whole), self.wanted(block));
        for columns in asked.map_or_else(|| candidates(count), |columns| vec![columns]) {
            let (cells, own) = items.assign(columns);
            self.blocks[block].cells = Some(cells.clone());
            self.measure(block);
            let size = self.blocks[block].inner;
            let cost = own + weight * if is_whole { unlike_a_screen(size) } else { unlike(size, wanted) };
            if best.as_ref().is_none_or(|(least, _)| cost < least - 0.5) {
                best = Some((cost, cells));
            }
        }
        let (cost, cells) = best.unzip();
        self.blocks[block].cells = cells;
        self.measure(block);
        cost.unwrap_or(0.0)
    }

    /// The aspect that suits a group: of the outermost ones, one in a column of groups lies across and one in a row of them
    /// stands upright, as the cells of a screen that is divided in this way.
    // Groups in groups are better compact: measured, the same for them costs 4 % in score.
    fn wanted(&self, block: usize) -> f64 {
        let whole = self.graph.groups.len();
        let is_outermost = self.graph.groups.get(block).is_some_and(|g| g.parent.is_none());
        match &self.blocks[whole].cells {
            Some(cells) if is_outermost && self.fit == Fit::Cells => {
                (ASPECT * cells.rows() as f64 / cells.columns as f64).clamp(STRIP.0, STRIP.1)
            }
            _ => COMPACT,
        }
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
        let [across, down] = self.gaps(block, own, cells);
        let (columns, width) = boxes::positions(&widths, &across);
        let (rows, height) = boxes::positions(&heights, &down);
        let own = &mut self.blocks[block];
        own.inner = Size::new(width, height);
        own.needed = [columns, rows];
    }

    /// The room before the first column, between columns, and behind the last one; and the same for rows.
    fn gaps(&self, number: usize, block: &Block, cells: &Cells) -> [Vec<f64>; 2] {
        let factor = self.stretch * self.graph.spacing;
        let inset = self.graph.groups.get(number).map_or(f64::INFINITY, |g| g.inset);
        let mut labels = [vec![0.0; cells.columns + 1], vec![0.0; cells.rows() + 1]];
        for (from, to, e) in &block.edges {
            let ((x1, y1), (x2, y2)) = (cells.at[*from], cells.at[*to]);
            let label = self.graph.edges[*e].label.unwrap_or_default();
            if y1 == y2 && x1.abs_diff(x2) == 1 {
                let gap = &mut labels[0][x1.max(x2)];
                *gap = f64::max(*gap, label.w.min(WIDEST_LABEL) + 2.0 * LABEL);
            }
            for gap in &mut labels[1][y1.min(y2) + 1..=y1.max(y2)] {
                *gap = f64::max(*gap, label.h + 2.0 * LABEL);
            }
        }
        [0, 1].map(|axis| {
            let count = labels[axis].len();
            let room = |gap: usize| {
                let tracks = block.demand[axis].get(gap).copied().unwrap_or(0.0);
                if gap == 0 || gap + 1 == count {
                    return f64::max(0.0, tracks * factor - inset);
                }
                f64::max(f64::max(GAP, tracks), labels[axis][gap]) * factor
            };
            (0..count).map(room).collect()
        })
    }

    /// Gives everything in a block its place in the picture, from the outside in.
    pub(super) fn settle_blocks(&mut self) {
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
        let held = own.held.clone();
        let stretched = |axis: usize, from: f64, room: f64, need: f64| -> Vec<(f64, f64)> {
            let needed = &own.needed[axis];
            let more = ((room - need) / needed.len().max(1) as f64).max(0.0);
            needed.iter().enumerate().map(|(i, (at, extent))| (from + at + more * i as f64, extent + more)).collect()
        };
        let columns = stretched(0, corner.x, room.w, own.inner.w);
        let rows = stretched(1, corner.y, room.h, own.inner.h);
        for (item, (column, row)) in held.into_iter().zip(&cells.at) {
            let ((x, w), (y, h)) = (columns[*column], rows[*row]);
            let cell = Rect::new(x, y, w, h);
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
        self.blocks[block].placed = [columns, rows];
    }
}

/// Nodes in no group that may stand at the edges; none if there are too many, or nothing but them.
fn loose(graph: &Graph) -> Vec<usize> {
    let all: Vec<usize> = (0..graph.nodes.len()).filter(|v| graph.nodes[*v].group.is_none()).collect();
    if all.len() > MOST_LOOSE { Vec::new() } else { all }
}

/// The numbers of columns that are tried for this many items.
pub(super) fn candidates(count: usize) -> Vec<usize> {
    if count <= 8 {
        return (1..=count.max(1)).collect();
    }
    let even = libm::round(libm::sqrt(count as f64)) as usize;
    let mut all = vec![1, even.saturating_sub(1).max(1), even, even + 1, even + 2, count];
    all.dedup();
    all
}

/// How far a picture's size is from what a screen holds, in px: half its extent, more of it where it is a strip.
pub(super) fn unlike_a_screen(size: Size) -> f64 {
    let beyond = page_factor(size);
    unlike(size, ASPECT) * beyond * beyond
}

/// Half the extent of a size, in px, and more the further it is from an aspect.
fn unlike(size: Size, wanted: f64) -> f64 {
    let off = libm::log((size.w.max(1.0) / size.h.max(1.0)) / wanted);
    (size.w + size.h) / 2.0 * (1.0 + off * off / 2.0)
}

/// A box on whole px, so that lines between middles are straight.
pub(super) fn on_grid(rect: Rect) -> Rect {
    Rect::new(libm::round(rect.x), libm::round(rect.y), rect.w, rect.h).on_grid()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_strip_is_further_from_a_screen_than_a_screen() {
        let (screen, strip) = (unlike(Size::new(900.0, 600.0), ASPECT), unlike(Size::new(1400.0, 100.0), ASPECT));
        assert!(screen < strip, "{screen} {strip}");
        assert_eq!(candidates(3), [1, 2, 3]);
        assert_eq!(candidates(0), [1]);
        assert!(candidates(30).contains(&1) && candidates(30).contains(&30));
        assert_eq!(boxes::positions(&[10.0, 20.0], &[1.0, 5.0, 2.0]), (vec![(1.0, 10.0), (16.0, 20.0)], 38.0));
    }
}
