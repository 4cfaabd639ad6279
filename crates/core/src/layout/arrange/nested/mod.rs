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
mod exchange;
mod strips;

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::arrange::boxes::{self, Item};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::intersections::hits;
use crate::layout::placement::Placement;
use crate::layout::refine::{compaction, straightening};
use crate::layout::routing::channels::{CLEAR, Care, Channel, Orientation, Ways};
use crate::layout::routing::labels;
use crate::layout::routing::lines;
use crate::layout::score::{excess, measure};
use crate::layout::separation;
use cells::{Cells, Items, Line};
use exchange::Lines;
use std::collections::BTreeMap;
use strips::{Link, Outside, Strips};

/// Room between two items, in px.
const GAP: f64 = 36.0;
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
/// So many arrangements of the whole are compared; up to so many nodes, with their lines.
const VARIANTS: usize = 3;
const SMALL: usize = 60;
/// Up to so many nodes, so many.
const FEW: usize = 32;
const MORE_VARIANTS: usize = 6;
/// So much area of the picture costs as much as a px of line, in px², as in the score.
const AREA: f64 = 270.0;
/// More things than this in no group stand in rows and columns as everything else.
const MOST_LOOSE: usize = 24;
/// How often everything may trade its cell, and blocks of more cells in which nothing does.
const TRADES: usize = 4;
const FEW_TRADES: usize = 2;
const MOST_TRADED: usize = 64;
/// How often rows and columns are brought level with what they talk to.
const SWEEPS: usize = 2;
/// How much wider gaps are tried where lines or labels find no room.
const STRETCHES: [f64; 3] = [1.0, 1.35, 1.8];
const FEW_STRETCHES: [f64; 2] = [1.0, 1.35];

/// A group, or the whole picture, as rows and columns.
#[derive(Clone, Debug, Default)]
struct Block {
    held: Vec<Item>,
    /// Edges between two different items, by the items' numbers: from, to, edge.
    edges: Vec<(usize, usize, usize)>,
    /// Edges that lead out: the item's number, and the other end.
    outward: Vec<(usize, Anchor)>,
    cells: Option<Cells>,
    /// The size of what it holds, in px.
    inner: Size,
    /// Where columns and rows begin and how wide they are, in px from its corner.
    columns: Vec<(f64, f64)>,
    rows: Vec<(f64, f64)>,
    /// The same in the picture.
    placed: [Vec<(f64, f64)>; 2],
    /// The room that lines need between its columns, and its rows: before the first, between two, and behind the last.
    demand: [Vec<f64>; 2],
}

#[derive(Clone)]
struct Nested<'g> {
    graph: &'g Graph,
    /// How many columns the whole has; `None` leaves it to its lines.
    columns: Option<usize>,
    /// Gaps, as a multiple of the usual ones.
    stretch: f64,
    /// One for each group, and last the whole.
    blocks: Vec<Block>,
    nodes: Vec<Rect>,
    groups: Vec<Rect>,
    /// Nodes in no group, which stand in strips along the sides; none of them is in a block.
    loose: Vec<usize>,
    strips: Strips,
}

/// Whether a graph can be arranged in this way: groups without lanes, nothing on frames, nothing that was asked for.
pub(in crate::layout) fn is_possible(graph: &Graph) -> bool {
    graph.constraints.is_empty()
        && !graph.groups.is_empty()
        && !graph.groups.iter().any(|g| g.lane || g.region)
        && !graph.nodes.iter().any(|n| n.border.is_some() || n.beside.is_some())
}

/// Places a graph: of several arrangements of the whole, that with the best score; each with wider gaps where lines or
/// labels find no room. Of a larger graph, only the likeliest one gets its lines.
pub(in crate::layout) fn place(graph: &Graph) -> Placement {
    let shapes = Nested::new(graph, None).shapes().into_iter();
    if graph.nodes.len() > SMALL {
        let mut shaped: Vec<Nested> =
            shapes.take(VARIANTS).map(|columns| Nested::new(graph, Some(columns)).shaped()).collect();
        shaped.sort_by(|a, b| a.estimate().total_cmp(&b.estimate()));
        return first_without_fault(graph, shaped);
    }
    let count = if graph.nodes.len() > FEW { VARIANTS } else { MORE_VARIANTS };
    let all = shapes.take(count).map(|columns| {
        let nested = Nested::new(graph, Some(columns)).shaped().traded();
        let placement = finished(graph, &nested, &STRETCHES);
        (measure(graph, &placement).score(), placement)
    });
    all.min_by(|a, b| a.0.total_cmp(&b.0)).map(|best| best.1).unwrap_or_default()
}

/// The first arrangement that comes out without a fault, or else the one with the fewest.
fn first_without_fault(graph: &Graph, shaped: Vec<Nested>) -> Placement {
    let mut best: Option<(usize, Placement)> = None;
    for nested in shaped {
        let placement = finished(graph, &nested.traded(), &FEW_STRETCHES);
        let faults = measure(graph, &placement).faults.len();
        if best.as_ref().is_none_or(|(least, _)| faults < *least) {
            best = Some((faults, placement));
        }
        if faults == 0 {
            break;
        }
    }
    best.map(|b| b.1).unwrap_or_default()
}

/// An arrangement with its lines.
fn finished(graph: &Graph, nested: &Nested, stretches: &[f64]) -> Placement {
    boxes::with_room(graph, stretches, |stretch| nested.clone().finished(stretch))
}

impl Nested<'_> {
    /// The numbers of columns that the whole may have, the likeliest first.
    fn shapes(mut self) -> Vec<usize> {
        let whole = self.graph.groups.len();
        for block in (0..whole).rev() {
            self.arrange(block, &[]);
        }
        let count = self.blocks[whole].held.len();
        let mut all: Vec<(f64, usize)> = candidates(count)
            .into_iter()
            .map(|columns| {
                self.columns = Some(columns);
                (self.arrange(whole, &[]), columns)
            })
            .collect();
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        all.into_iter().map(|a| a.1).collect()
    }

    /// What the picture costs as it stands, in px of line.
    fn estimate(&self) -> f64 {
        let lines = Lines::new(self.graph, &self.nodes, &self.groups);
        let all: Vec<usize> = (0..self.graph.edges.len()).collect();
        let bounds = self.nodes.iter().chain(&self.groups).copied().reduce(Rect::union).unwrap_or_default();
        let beyond = 1.0 + libm::log(excess(bounds.size()));
        (lines.cost(&all) + bounds.w * bounds.h / AREA) * beyond * beyond
    }

    /// Everything in a cell of its own block.
    fn shaped(mut self) -> Self {
        let whole = self.graph.groups.len();
        let levels = self.levels();
        // 1. Shapes, each for itself: children come after their parents, and the whole comes last.
        for block in (0..whole).rev().chain([whole]) {
            self.arrange(block, &[]);
        }
        self.arrange_strips();
        self.settle();
        // 2. Facing what they talk to, from the outside in.
        for level in &levels {
            for block in level {
                let pulls = self.pulls(*block);
                self.arrange(*block, &pulls);
            }
            self.measure_all();
            self.settle();
        }
        self.arrange_strips();
        self.settle();
        self
    }

    /// The same after trades between cells.
    fn traded(mut self) -> Self {
        self.exchange();
        // 3. What is outside once more, now that it is known where everything inside stands.
        self.arrange_strips();
        self.settle();
        self
    }

    /// The placement with its lines.
    fn finished(mut self, stretch: f64) -> Placement {
        self.stretch = stretch;
        let graph = self.graph;
        self.measure_all();
        self.settle();
        // 4. Which channels lines take, and as much room as they need there.
        let between: Vec<usize> =
            (0..graph.edges.len()).filter(|e| graph.edges[*e].from != graph.edges[*e].to).collect();
        let sketch = boxes::placement(graph, self.nodes.clone(), self.groups.clone());
        let channels = self.channels();
        if let Some(ways) = Ways::find(graph, &sketch, &channels, &between, Care::Sketch) {
            self.make_room(&ways.demand(&channels));
            let level = ways.level();
            self.measure_all();
            self.settle();
            self.align(&level);
        }
        // 5. Lines.
        let channels = self.channels();
        let mut placement = boxes::placement(graph, self.nodes, self.groups);
        if let Some(ways) = Ways::find(graph, &placement, &channels, &between, Care::Full) {
            placement.routes = ways.drawn();
        }
        labels::put(graph, &mut placement, &between);
        compaction::compact(graph, &mut placement, compaction::Level::Grid);
        straightening::straighten(graph, &mut placement);
        lines::complete(graph, &mut placement);
        placement.fit();
        placement
    }
}

impl<'g> Nested<'g> {
    fn new(graph: &'g Graph, columns: Option<usize>) -> Self {
        let whole = graph.groups.len();
        let loose = loose(graph);
        let is_loose = |item: &Item| matches!(item, Item::Node(v) if loose.binary_search(v).is_ok());
        let mut held = boxes::held(graph);
        held[whole].retain(|item| !is_loose(item));
        let blocks = held.into_iter().map(|held| Block { held, ..Block::default() }).collect();
        let nodes = graph.nodes.iter().map(|node| Rect::new(0.0, 0.0, node.size.w, node.size.h)).collect();
        let groups = vec![Rect::default(); whole];
        let strips = Strips::default();
        let mut nested = Self { graph, stretch: 1.0, columns, blocks, nodes, groups, loose, strips };
        nested.lift_edges();
        nested
    }

    /// Blocks by how many groups are around them, the outermost first.
    fn levels(&self) -> Vec<Vec<usize>> {
        let mut levels: Vec<Vec<usize>> = vec![vec![self.graph.groups.len()]];
        for g in 0..self.graph.groups.len() {
            let depth = self.graph.groups_around(Anchor::Group(g)).count();
            levels.resize_with(levels.len().max(depth + 1), Vec::new);
            levels[depth].push(g);
        }
        levels
    }

    /// The sizes of all blocks, from the inside out.
    fn measure_all(&mut self) {
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
            let is_inside = |end: Anchor| end.node().is_none_or(|v| self.loose.binary_search(&v).is_err());
            if a != b && is_inside(edge.from) && is_inside(edge.to) {
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

    /// Chooses the rows and columns of a block; says what they cost.
    fn arrange(&mut self, block: usize, pulls: &[(usize, Point)]) -> f64 {
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
            against: exchange::against(self.graph),
        };
        let weight = EXTENT * (1.0 + items.lines.len() as f64 + 0.5 * items.pulls.len() as f64);
        let mut best: Option<(f64, Cells)> = None;
        let asked = self.columns.filter(|_| block == self.graph.groups.len());
        for columns in asked.map_or_else(|| candidates(count), |columns| vec![columns]) {
            let cells = items.assign(columns);
            self.blocks[block].cells = Some(cells.clone());
            self.measure(block);
            let size = self.blocks[block].inner;
            let cost = items.cost(&cells) + weight * unlike_a_screen(size, block == self.graph.groups.len());
            if best.as_ref().is_none_or(|(least, _)| cost < least - 0.5) {
                best = Some((cost, cells));
            }
        }
        let (cost, cells) = best.unzip();
        self.blocks[block].cells = cells;
        self.measure(block);
        cost.unwrap_or(0.0)
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
        let (columns, width) = positions(&widths, &across);
        let (rows, height) = positions(&heights, &down);
        let own = &mut self.blocks[block];
        own.inner = Size::new(width, height);
        (own.columns, own.rows) = (columns, rows);
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

    /// Takes note of how much room each channel needs.
    fn make_room(&mut self, demand: &[f64]) {
        let mut next = 0;
        for block in &mut self.blocks {
            for axis in 0..2 {
                let count = block.placed[axis].len() + 1;
                block.demand[axis] = demand[next..next + count].to_vec();
                next += count;
            }
        }
    }

    /// The channels between columns and rows, block by block, and beside the first and the last; and those around the
    /// picture.
    fn channels(&self) -> Vec<Channel> {
        let whole = self.graph.groups.len();
        let core = self.core();
        let near = self.near_core();
        let picture = self.nodes.iter().fold(near, |all, r| all.union(*r)).grown(2.0 * GAP);
        let frame = |g: usize| self.groups.get(g).copied().unwrap_or(near);
        // For each block the gaps between its columns, and between its rows.
        let gaps: Vec<[Vec<(f64, f64)>; 2]> = self
            .blocks
            .iter()
            .enumerate()
            .map(|(number, block)| self.block_gaps(number, block, frame(number)))
            .collect();
        let mut channels = Vec::new();
        for (number, own) in gaps.iter().enumerate() {
            let parent = self.graph.groups.get(number).map(|g| g.parent.unwrap_or(whole));
            let rect = if number == whole { core } else { frame(number) };
            for axis in 0..2 {
                let (from, to) = if axis == 0 { (rect.y, rect.bottom()) } else { (rect.x, rect.right()) };
                // Up to the channels around its frame; those of the whole are everywhere.
                let reach = match parent {
                    Some(parent) => around(&gaps[parent][1 - axis], (from, to)),
                    None if axis == 0 => (picture.y, picture.bottom()),
                    None => (picture.x, picture.right()),
                };
                channels.extend(own[axis].iter().map(|gap| channel(axis, *gap, rect, reach)));
            }
        }
        // Around everything.
        for (axis, from, to, reach) in [
            (0, picture.x, picture.right(), (picture.y, picture.bottom())),
            (1, picture.y, picture.bottom(), (picture.x, picture.right())),
        ] {
            channels.push(channel(axis, (from, from + GAP), picture, reach));
            channels.push(channel(axis, (to - GAP, to), picture, reach));
        }
        channels
    }

    /// The gaps before, between and behind the columns of a block, and its rows.
    fn block_gaps(&self, number: usize, block: &Block, frame: Rect) -> [Vec<(f64, f64)>; 2] {
        let title = self.graph.groups.get(number).map_or(0.0, |g| g.above() - g.inset);
        [(frame.x, frame.right(), 0), (frame.y + title, frame.bottom(), 1)].map(|(first, last, axis)| {
            let stretches: &Vec<(f64, f64)> = &block.placed[axis];
            let begins = std::iter::once(first).chain(stretches.iter().map(|s| s.0 + s.1));
            let ends = stretches.iter().map(|s| s.0).chain([last]);
            begins.zip(ends).collect()
        })
    }

    /// What is in groups, all together.
    fn core(&self) -> Rect {
        let inner = self.blocks[self.graph.groups.len()].inner;
        Rect::new(0.0, 0.0, inner.w, inner.h)
    }

    /// The same with the room up to the strips; where there is none, with room for a few lines.
    fn near_core(&self) -> Rect {
        let (core, away) = (self.core(), self.away());
        Rect::new(core.x - away[2], core.y - away[0], core.w + away[2] + away[3], core.h + away[0] + away[1])
    }

    /// How far strips stand from the core: above, below, to the left, to the right.
    fn away(&self) -> [f64; 4] {
        let demand = &self.blocks[self.graph.groups.len()].demand;
        let lines = |axis: usize, is_last: bool| {
            let all: &Vec<f64> = &demand[axis];
            if is_last { all.last() } else { all.first() }.copied().unwrap_or(0.0)
        };
        let mut label = Size::default();
        for edge in &self.graph.edges {
            let is_loose = |end: Anchor| end.node().is_some_and(|v| self.loose.binary_search(&v).is_ok());
            if is_loose(edge.from) != is_loose(edge.to) {
                let own = edge.label.unwrap_or_default();
                label = Size::new(label.w.max(own.w.min(WIDEST_LABEL)), label.h.max(own.h));
            }
        }
        let room = |extent: f64| if extent > 0.0 { extent + 2.0 * LABEL } else { 0.0 };
        let (level, plumb) = (room(label.h), room(label.w));
        [(1, false, level), (1, true, level), (0, false, plumb), (0, true, plumb)]
            .map(|(axis, is_last, label)| GAP.max(label).max(lines(axis, is_last)) * self.stretch * self.graph.spacing)
    }

    /// What is outside, with what it talks to where that stands now.
    fn outside(&self) -> Outside {
        let number = |end: Anchor| end.node().and_then(|v| self.loose.binary_search(&v).ok());
        let (mut links, mut pairs) = (Vec::new(), Vec::new());
        for edge in &self.graph.edges {
            match (number(edge.from), number(edge.to)) {
                (Some(a), Some(b)) if a != b => pairs.push((a, b, edge.label.unwrap_or_default())),
                (Some(loose), None) => links.push(self.link(loose, edge.to)),
                (None, Some(loose)) => links.push(self.link(loose, edge.from)),
                _ => {}
            }
        }
        let sizes = self.loose.iter().map(|v| self.graph.nodes[*v].size).collect();
        Outside { sizes, links, pairs, core: self.core(), gap: GAP * self.graph.spacing, away: self.away() }
    }

    /// A line to something inside, and from where the way to it is free.
    fn link(&self, loose: usize, end: Anchor) -> Link {
        let target = match end {
            Anchor::Node(v) => self.nodes[v],
            Anchor::Group(g) => self.groups[g],
        };
        let (middle, core) = (target.middle(), self.core());
        let sides =
            [pt(middle.x, core.y), pt(middle.x, core.bottom()), pt(core.x, middle.y), pt(core.right(), middle.y)];
        let around: Vec<usize> = self.graph.groups_around(end).collect();
        let is_free = sides.map(|side| {
            let is_met = |rect: &Rect| hits(middle, side, rect.grown(CLEAR));
            let nodes = self.nodes.iter().enumerate().filter(|(v, _)| end != Anchor::Node(*v));
            let mut nodes = nodes.filter(|(v, _)| self.loose.binary_search(v).is_err());
            let mut groups = self.groups.iter().enumerate().filter(|(g, _)| !around.contains(g));
            let inside = |v: usize| matches!(end, Anchor::Group(g) if self.graph.groups_around(Anchor::Node(v)).any(|h| h == g));
            let within = |h: usize| matches!(end, Anchor::Group(g) if self.graph.groups_around(Anchor::Group(h)).any(|x| x == g));
            !nodes.any(|(v, r)| is_met(r) && !inside(v)) && !groups.any(|(g, r)| is_met(r) && !within(g))
        });
        Link { loose, target, is_free }
    }

    /// Chooses the sides of what is outside.
    fn arrange_strips(&mut self) {
        if !self.loose.is_empty() {
            self.settle();
            let outside = self.outside();
            let weight = EXTENT * (1.0 + outside.links.len() as f64);
            self.strips = outside.arrange(|size| weight * unlike_a_screen(size, true));
        }
    }

    /// Lets things of a block trade their cells while that makes the lines of the whole picture better.
    fn exchange(&mut self) {
        let whole = self.graph.groups.len();
        let members = self.members();
        let rounds = if self.graph.nodes.len() > SMALL { FEW_TRADES } else { TRADES };
        for _ in 0..rounds {
            let mut lines = Lines::new(self.graph, &self.nodes, &self.groups);
            let mut is_better = false;
            for block in std::iter::once(whole).chain(0..whole) {
                is_better |= self.exchange_in(block, &members, &mut lines);
            }
            self.measure_all();
            self.settle();
            if !is_better {
                break;
            }
        }
    }

    /// The nodes and groups in each group, at any depth; a group is one of its own.
    fn members(&self) -> Vec<(Vec<usize>, Vec<usize>)> {
        let mut members = vec![(Vec::new(), Vec::new()); self.graph.groups.len()];
        for v in 0..self.graph.nodes.len() {
            self.graph.groups_around(Anchor::Node(v)).for_each(|g| members[g].0.push(v));
        }
        for h in 0..self.graph.groups.len() {
            self.graph.groups_around(Anchor::Group(h)).for_each(|g| members[g].1.push(h));
        }
        members
    }

    /// The same for one block; says whether anything was traded.
    fn exchange_in(&mut self, block: usize, members: &[(Vec<usize>, Vec<usize>)], lines: &mut Lines) -> bool {
        let Some(mut cells) = self.blocks[block].cells.clone() else { return false };
        let (columns, rows) = (cells.columns, cells.rows());
        let count = columns * rows;
        if count > MOST_TRADED {
            return false;
        }
        let middle = |placed: &[Vec<(f64, f64)>; 2], cell: usize| {
            let ((x, w), (y, h)) = (placed[0][cell % columns], placed[1][cell / columns]);
            pt(x + w / 2.0, y + h / 2.0)
        };
        let mut is_better = false;
        for a in 0..count {
            for b in a + 1..count {
                let own = &self.blocks[block];
                let item_in = |cell: usize| cells.at.iter().position(|at| at.0 + at.1 * columns == cell);
                let both = [item_in(a), item_in(b)];
                if both == [None, None] {
                    continue;
                }
                let (from, to) = (middle(&own.placed, a), middle(&own.placed, b));
                let moves = [pt(to.x - from.x, to.y - from.y), pt(from.x - to.x, from.y - to.y)];
                let items = both.map(|i| i.map(|i| own.held[i]));
                let parts = items.map(|item| match item {
                    Some(Item::Node(v)) => (vec![v], Vec::new()),
                    Some(Item::Group(g)) => members[g].clone(),
                    None => (Vec::new(), Vec::new()),
                });
                let (nodes, groups) = (
                    [parts[0].0.as_slice(), parts[1].0.as_slice()].concat(),
                    [parts[0].1.as_slice(), parts[1].1.as_slice()].concat(),
                );
                let edges = lines.of(&nodes, &groups);
                let before = lines.cost(&edges);
                shift(lines, &parts, moves);
                lines.renew(&edges);
                if lines.cost(&edges) < before - 1.0 {
                    let place = |cell: usize| (cell % columns, cell / columns);
                    both[0].iter().for_each(|i| cells.at[*i] = place(b));
                    both[1].iter().for_each(|i| cells.at[*i] = place(a));
                    is_better = true;
                } else {
                    shift(lines, &parts, moves.map(|by| pt(-by.x, -by.y)));
                    lines.renew(&edges);
                }
            }
        }
        self.blocks[block].cells = Some(cells);
        is_better
    }

    /// Moves the rows and columns of groups that hold nothing but nodes, as far as there is room in their frames, so that
    /// nodes stand level with what their lines lead to.
    fn align(&mut self, level: &[(usize, Orientation)]) {
        let mut wishes: BTreeMap<(usize, usize), Vec<usize>> = BTreeMap::new();
        for (e, orientation) in level {
            let axis = usize::from(*orientation == Orientation::Horizontal);
            let (Anchor::Node(a), Anchor::Node(b)) = (self.graph.edges[*e].from, self.graph.edges[*e].to) else {
                continue;
            };
            for (own, other) in [(a, b), (b, a)] {
                wishes.entry((own, axis)).or_default().push(other);
            }
        }
        for _ in 0..SWEEPS {
            for block in 0..self.graph.groups.len() {
                if self.blocks[block].held.iter().all(|item| matches!(item, Item::Node(_))) {
                    self.align_block(block, 0, &wishes);
                    self.align_block(block, 1, &wishes);
                }
            }
        }
        self.put_strips();
    }

    /// The same for the columns (axis 0) or rows (axis 1) of one group.
    fn align_block(&mut self, block: usize, axis: usize, wishes: &BTreeMap<(usize, usize), Vec<usize>>) {
        let (own, frame, group) = (&self.blocks[block], self.groups[block], &self.graph.groups[block]);
        let Some(cells) = &own.cells else { return };
        let along = |p: Point| if axis == 0 { p.x } else { p.y };
        let count = own.placed[axis].len();
        let mut deltas: Vec<Vec<f64>> = vec![Vec::new(); count];
        for (item, at) in own.held.iter().zip(&cells.at) {
            let (Item::Node(v), line) = (*item, if axis == 0 { at.0 } else { at.1 }) else { continue };
            for other in
                wishes.get(&(v, axis)).into_iter().flatten().filter(|o| self.graph.nodes[**o].group != Some(block))
            {
                deltas[line].push(along(self.nodes[*other].middle()) - along(self.nodes[v].middle()));
            }
        }
        if deltas.iter().all(Vec::is_empty) {
            return;
        }
        let needed = if axis == 0 { &own.columns } else { &own.rows };
        let now: Vec<f64> = own.placed[axis].iter().map(|(at, extent)| at + extent / 2.0).collect();
        let median = |all: &mut Vec<f64>| {
            all.sort_by(f64::total_cmp);
            all.get(all.len().saturating_sub(1) / 2).copied().unwrap_or(0.0)
        };
        let firm: Vec<f64> = deltas.iter().map(|all| if all.is_empty() { 0.1 } else { all.len() as f64 }).collect();
        let wanted: Vec<f64> = now.iter().zip(&mut deltas).map(|(at, all)| at + median(all)).collect();
        let constraints: Vec<(usize, usize, f64)> = (1..count)
            .map(|i| (i - 1, i, needed[i].0 + needed[i].1 / 2.0 - needed[i - 1].0 - needed[i - 1].1 / 2.0))
            .collect();
        let (from, to) = if axis == 0 {
            (frame.x + group.inset, frame.right() - group.inset)
        } else {
            (frame.y + group.above(), frame.bottom() - group.inset)
        };
        let extent = if axis == 0 { own.inner.w } else { own.inner.h };
        let last = needed.last().map_or(0.0, |(at, own)| extent - at - own);
        let bounds: Vec<(f64, f64)> =
            needed.iter().map(|(_, extent)| (from + needed[0].0 + extent / 2.0, to - last - extent / 2.0)).collect();
        let order: Vec<usize> = (0..count).collect();
        let found = separation::satisfied(&wanted, &firm, &constraints, &order, &bounds);
        let moves: Vec<f64> = found.iter().zip(&now).map(|(found, now)| libm::round(found - now)).collect();
        let own = &mut self.blocks[block];
        for (stretch, (by, need)) in
            own.placed[axis].iter_mut().zip(moves.iter().zip(needed_extents(axis, &own.columns, &own.rows)))
        {
            // The row is now as high as what it holds, and stands in the middle of the room that it had.
            *stretch = (stretch.0 + (stretch.1 - need) / 2.0 + by, need);
        }
        let places: Vec<(Item, usize)> = own.held.iter().copied().zip(cells_lines(own, axis)).collect();
        for (item, line) in places {
            if let Item::Node(v) = item {
                let by = moves[line];
                self.nodes[v] = if axis == 0 { self.nodes[v].moved(by, 0.0) } else { self.nodes[v].moved(0.0, by) };
            }
        }
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
        self.put_strips();
    }

    /// Puts what is outside opposite what it talks to.
    fn put_strips(&mut self) {
        let places = self.outside().places(&self.strips);
        for (v, place) in self.loose.iter().zip(places) {
            self.nodes[*v] = place.map_or(self.nodes[*v], on_grid);
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
        let stretched = |all: &[(f64, f64)], from: f64, more: f64| -> Vec<(f64, f64)> {
            all.iter().enumerate().map(|(i, (at, extent))| (from + at + more * i as f64, extent + more)).collect()
        };
        self.blocks[block].placed = [stretched(&columns, corner.x, wider), stretched(&rows, corner.y, higher)];
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

/// Moves two parts of a picture.
fn shift(lines: &mut Lines, parts: &[(Vec<usize>, Vec<usize>); 2], moves: [Point; 2]) {
    for ((nodes, groups), by) in parts.iter().zip(moves) {
        nodes.iter().for_each(|v| lines.nodes[*v] = lines.nodes[*v].moved(by.x, by.y));
        groups.iter().for_each(|g| lines.groups[*g] = lines.groups[*g].moved(by.x, by.y));
    }
}

/// How wide each column, or how high each row has to be.
fn needed_extents(axis: usize, columns: &[(f64, f64)], rows: &[(f64, f64)]) -> Vec<f64> {
    if axis == 0 { columns } else { rows }.iter().map(|s| s.1).collect()
}

/// The column, or row, of each item of a block.
fn cells_lines(block: &Block, axis: usize) -> Vec<usize> {
    block.cells.iter().flat_map(|cells| &cells.at).map(|at| if axis == 0 { at.0 } else { at.1 }).collect()
}

/// A channel of an axis: 0 for those between columns, 1 for those between rows.
fn channel(axis: usize, (begin, end): (f64, f64), own: Rect, reach: (f64, f64)) -> Channel {
    let (orientation, room) = if axis == 0 {
        (Orientation::Vertical, Rect::new(begin, own.y, end - begin, own.h))
    } else {
        (Orientation::Horizontal, Rect::new(own.x, begin, own.w, end - begin))
    };
    Channel { orientation, room, reach }
}

/// From the middle of the last gap before a stretch to that of the first one behind it.
fn around(gaps: &[(f64, f64)], (from, to): (f64, f64)) -> (f64, f64) {
    let middles = || gaps.iter().map(|(begin, end)| (begin + end) / 2.0);
    let before = middles().filter(|at| *at <= from).fold(f64::NEG_INFINITY, f64::max);
    let behind = middles().filter(|at| *at >= to).fold(f64::INFINITY, f64::min);
    (before.max(from - 9999.0), behind.min(to + 9999.0))
}

/// Nodes in no group that may stand at the edges; none if there are too many, or nothing but them.
fn loose(graph: &Graph) -> Vec<usize> {
    let all: Vec<usize> = (0..graph.nodes.len()).filter(|v| graph.nodes[*v].group.is_none()).collect();
    if all.len() > MOST_LOOSE { Vec::new() } else { all }
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
    let beyond = if is_whole { 1.0 + libm::log(excess(size)) } else { 1.0 };
    (size.w + size.h) / 2.0 * (1.0 + off * off / 2.0) * beyond * beyond
}

/// Where stretches of these extents begin, with gaps before, between and behind them, and where the last gap ends.
fn positions(extents: &[f64], gaps: &[f64]) -> (Vec<(f64, f64)>, f64) {
    let mut at = 0.0;
    let mut found = Vec::with_capacity(extents.len());
    for (extent, gap) in extents.iter().zip(gaps) {
        at += gap;
        found.push((at, *extent));
        at += extent;
    }
    (found, at + gaps.last().copied().unwrap_or(0.0))
}

/// The same on whole px, so that lines between middles are straight.
fn on_grid(rect: Rect) -> Rect {
    Rect::new(libm::round(rect.x), libm::round(rect.y), rect.w, rect.h).on_grid()
}

#[cfg(test)]
mod tests {
    use super::*;
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
        assert_eq!(positions(&[10.0, 20.0], &[1.0, 5.0, 2.0]), (vec![(1.0, 10.0), (16.0, 20.0)], 38.0));
    }
}
