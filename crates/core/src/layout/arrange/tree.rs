//! Tidy trees with real sizes: van der Ploeg, "Drawing non-layered tidy trees in linear time" (2014), with rows by depth.
//! Children of one node share a line that branches; leaves of one node may stand in columns, so that a node with
//! sixty children is not sixty nodes wide.
//!
//! Input: a graph that is a tree away from its root, or towards it, or both. Everything here reads downwards; other
//! readings are turned by the caller.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::{Anchor, Graph, Stems};
use crate::layout::outline::Side;
use crate::layout::placement::Placement;
use crate::layout::route::{Route, tidied};

/// Room between neighbours, between rows, and between the leaves of a column, in px.
const GAP: f64 = 32.0;
// Room for the branching line in the middle, and an arrow head above and below.
const ROW_GAP: f64 = 48.0;
const LEAF_GAP: f64 = 16.0;
/// From a branching line to the leaves at its side.
const STUB: f64 = 28.0;
/// How much further to the right a list is than the node that it hangs on.
const INDENT: f64 = STUB + 16.0;
/// Fewer leaves than this stand side by side.
// Two are no list.
const STACKED: usize = 3;

/// A tree: who hangs below or above whom.
#[derive(Clone, Debug, PartialEq)]
pub(in crate::layout) struct Tree {
    root: usize,
    /// For each node, its children away from the root, with the edges that lead there.
    below: Vec<Vec<(usize, usize)>>,
    /// The same for those that point towards the root.
    above: Vec<Vec<(usize, usize)>>,
}

/// The tree that a graph is, if it is one and has neither groups nor texts at the ends of its lines.
pub(in crate::layout) fn find(graph: &Graph) -> Option<Tree> {
    let count = graph.nodes.len();
    let may_share = graph.stems == Stems::Shared || graph.arrangement.is_some();
    let plain = may_share && graph.groups.is_empty() && graph.nodes.iter().all(|n| n.beside.is_none());
    if !plain || count < 2 || graph.edges.len() + 1 != count {
        return None;
    }
    let mut out = vec![Vec::new(); count];
    let mut into = vec![Vec::new(); count];
    for (e, edge) in graph.edges.iter().enumerate() {
        let (Anchor::Node(a), Anchor::Node(b)) = (edge.from, edge.to) else { return None };
        if a == b || edge.end_labels.iter().any(Option::is_some) {
            return None;
        }
        out[a].push((b, e));
        into[b].push((a, e));
    }
    // The root is where lines turn from pointing in to pointing out: no other node may have both several lines in and
    // a line out, or several out and come from below.
    let root = (0..count).filter(|v| into[*v].is_empty() || out[*v].is_empty() || into[*v].len() > 1);
    let root = root.max_by_key(|v| (out[*v].len() + into[*v].len(), count - v));
    [root, (0..count).find(|v| into[*v].is_empty()), (0..count).find(|v| out[*v].is_empty())]
        .into_iter()
        .flatten()
        .find_map(|root| rooted(root, &out, &into))
}

/// The tree seen from a root; `None` if a line on the way points the other way.
fn rooted(root: usize, out: &[Vec<(usize, usize)>], into: &[Vec<(usize, usize)>]) -> Option<Tree> {
    let count = out.len();
    let mut tree = Tree { root, below: vec![Vec::new(); count], above: vec![Vec::new(); count] };
    let mut seen = vec![false; count];
    seen[root] = true;
    let mut left = count - 1;
    for downwards in [true, false] {
        let (next, back) = if downwards { (out, into) } else { (into, out) };
        let mut work = vec![root];
        while let Some(v) = work.pop() {
            if v != root && back[v].len() != 1 {
                return None;
            }
            for (w, e) in &next[v] {
                if std::mem::replace(&mut seen[*w], true) {
                    return None;
                }
                left -= 1;
                work.push(*w);
                let list = if downwards { &mut tree.below } else { &mut tree.above };
                list[v].push((*w, *e));
            }
        }
    }
    (left == 0).then_some(tree)
}

impl Tree {
    /// The ways to draw it that are worth comparing, the plain one first.
    pub(in crate::layout) fn options(&self) -> Vec<TreeOptions> {
        let widest = self.widest();
        let rows = [1, 2, 3, 4, 6, 8, 12, 16].into_iter().filter(|n| *n == 1 || *n <= widest);
        let columns = rows.map(|rows| TreeOptions { rows, lists: 0 });
        let mixed = [(3, 4), (4, 6), (6, 10), (8, 14), (12, 24), (16, 40), (16, 80)]
            .map(|(rows, lists)| TreeOptions { rows, lists });
        columns.chain(mixed).collect()
    }

    /// The way to draw it where nothing is compared: columns about as tall as they are many.
    pub(in crate::layout) fn usual_options(&self) -> TreeOptions {
        let rows = libm::sqrt(2.0 * self.widest() as f64) as usize;
        TreeOptions { rows: rows.max(8), lists: 14 }
    }

    /// How many leaves the node with the most leaves has.
    fn widest(&self) -> usize {
        let leaves = |list: &Vec<Vec<(usize, usize)>>| {
            list.iter().map(|c| c.iter().filter(|(w, _)| list[*w].is_empty()).count()).max().unwrap_or(0)
        };
        leaves(&self.below).max(leaves(&self.above))
    }
}

/// How a tree is drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) struct TreeOptions {
    /// Leaves of one node stand in columns of up to this many.
    pub(in crate::layout) rows: usize,
    /// Up to this many nodes that hang on one node stand below it as an indented list.
    pub(in crate::layout) lists: usize,
}

/// Places a tree.
pub(in crate::layout) fn place(graph: &Graph, tree: &Tree, options: TreeOptions) -> Placement {
    let mut placement = Placement::unplaced(graph);
    placement.nodes[tree.root] = Rect::around(pt(0.0, 0.0), graph.nodes[tree.root].size);
    for upwards in [false, true] {
        let half = Half { graph, children: if upwards { &tree.above } else { &tree.below }, options, upwards };
        half.place(tree.root, &mut placement);
    }
    placement.fit();
    placement
}

/// What the tidy tree is made of: a node, or leaves of one node in columns.
struct Block {
    /// The node, or the leaves with their edges.
    node: Option<usize>,
    leaves: Vec<(usize, usize)>,
    size: Size,
    depth: usize,
    children: Vec<usize>,
    /// What hangs on the node as a list.
    list: Vec<Listed>,
    /// The edge from the parent, for a node.
    edge: Option<usize>,
    y: f64,
    place: Tidy,
}

impl Block {
    /// A block of nothing yet.
    fn new(size: Size, depth: usize) -> Self {
        let (leaves, children, list) = (Vec::new(), Vec::new(), Vec::new());
        Self { node: None, leaves, size, depth, children, list, edge: None, y: 0.0, place: Tidy::default() }
    }

    /// The block of a node, which an edge leads to.
    fn of(node: usize, edge: Option<usize>, size: Size, depth: usize) -> Self {
        Self { node: Some(node), edge, ..Self::new(size, depth) }
    }
}

/// The variables of van der Ploeg's algorithm, with the paper's names.
#[derive(Clone, Copy, Default)]
struct Tidy {
    prelim: f64,
    modifier: f64,
    shift: f64,
    change: f64,
    left_thread: Option<usize>,
    right_thread: Option<usize>,
    extreme_left: usize,
    extreme_right: usize,
    sum_left: f64,
    sum_right: f64,
    x: f64,
}

/// The part of a tree below its root, or above it.
struct Half<'a> {
    graph: &'a Graph,
    children: &'a [Vec<(usize, usize)>],
    options: TreeOptions,
    upwards: bool,
}

/// One node of an indented list: where its corner is, relative to the list's, and the edge from its parent.
#[derive(Clone, Copy)]
struct Listed {
    node: usize,
    edge: usize,
    parent: usize,
    at: Point,
}

impl Half<'_> {
    fn place(&self, root: usize, placement: &mut Placement) {
        let mut blocks = self.blocks(root);
        self.rows_by_depth(&mut blocks);
        tidy(&mut blocks, self.graph.spacing * GAP);
        // The root stands at 0, 0 in both halves.
        let middle = blocks[0].place.x + blocks[0].size.w / 2.0;
        let top = blocks[0].y + blocks[0].size.h / 2.0;
        for b in &mut blocks {
            b.place.x = libm::round(b.place.x - middle);
            b.y = libm::round(b.y - top);
        }
        for block in &blocks {
            self.draw(block, &blocks, placement);
        }
    }

    /// Blocks in the order of a walk from the root: parents come before their children.
    fn blocks(&self, root: usize) -> Vec<Block> {
        let sizes = self.sizes(root);
        let mut blocks = vec![Block::of(root, None, self.graph.nodes[root].size, 0)];
        let mut at = 0;
        while at < blocks.len() {
            let depth = blocks[at].depth + 1;
            let short = |v: &usize| (2..=self.options.lists + 1).contains(&sizes[*v]) && *v != root;
            if let Some(v) = blocks[at].node.filter(short) {
                let (list, size) = self.list(v);
                let block = &mut blocks[at];
                block.size = Size::new(block.size.w.max(size.w), size.h);
                block.list = list;
                at += 1;
                continue;
            }
            let mut run: Vec<(usize, usize)> = Vec::new();
            let children = blocks[at].node.map_or(&[][..], |v| &self.children[v]);
            for (i, (w, e)) in children.iter().enumerate() {
                let is_leaf = self.children[*w].is_empty();
                if is_leaf {
                    run.push((*w, *e));
                }
                let ends = !is_leaf || i + 1 == children.len();
                let mut own: Vec<Block> = Vec::new();
                if ends {
                    let leaves = std::mem::take(&mut run);
                    if leaves.len() >= STACKED && self.options.rows > 1 {
                        let size = self.columns(&leaves).iter().fold(Size::default(), |all, (_, s)| {
                            let gap = if all.w > 0.0 { LEAF_GAP } else { 0.0 };
                            Size::new(all.w + gap + s.w, all.h.max(s.h))
                        });
                        own.push(Block { leaves, ..Block::new(size, depth) });
                    } else {
                        let single = |(w, e): (usize, usize)| Block::of(w, Some(e), self.room(w, e), depth);
                        own.extend(leaves.into_iter().map(single));
                    }
                }
                if !is_leaf {
                    own.push(Block::of(*w, Some(*e), self.room(*w, *e), depth));
                }
                for new in own {
                    let index = blocks.len();
                    blocks[at].children.push(index);
                    blocks.push(new);
                }
            }
            at += 1;
        }
        blocks
    }

    /// How many nodes each subtree has.
    fn sizes(&self, root: usize) -> Vec<usize> {
        let mut sizes = vec![1; self.children.len()];
        let mut order = vec![root];
        let mut at = 0;
        while at < order.len() {
            order.extend(self.children[order[at]].iter().map(|c| c.0));
            at += 1;
        }
        for v in order.into_iter().rev() {
            sizes[v] += self.children[v].iter().map(|c| sizes[c.0]).sum::<usize>();
        }
        sizes
    }

    /// Everything that hangs on a node, below each other and indented by depth, and the size of the whole.
    fn list(&self, root: usize) -> (Vec<Listed>, Size) {
        let mut list: Vec<Listed> = Vec::new();
        let size = self.graph.nodes[root].size;
        let (mut bottom, mut right) = (size.h, size.w);
        let mut work: Vec<(usize, usize, usize, f64)> = Vec::new();
        let push = |work: &mut Vec<_>, v: usize, left: f64| {
            work.extend(self.children[v].iter().rev().map(|(w, e)| (*w, *e, v, left + INDENT - STUB + self.stub(*e))));
        };
        push(&mut work, root, 0.0);
        while let Some((node, edge, parent, left)) = work.pop() {
            let size = self.graph.nodes[node].size;
            let at = pt(left, bottom + LEAF_GAP * self.graph.spacing);
            bottom = at.y + size.h;
            right = f64::max(right, left + size.w);
            list.push(Listed { node, edge, parent, at });
            push(&mut work, node, left);
        }
        (list, Size::new(right, bottom))
    }

    /// A node's size, as wide as the label above it.
    fn room(&self, v: usize, e: usize) -> Size {
        let size = self.graph.nodes[v].size;
        Size::new(size.w.max(self.graph.edges[e].label.map_or(0.0, |l| l.w)), size.h)
    }

    /// Leaves in columns of about equal height, with the columns' sizes, the branching line at their left included.
    fn columns(&self, leaves: &[(usize, usize)]) -> Vec<(Vec<(usize, usize)>, Size)> {
        let count = leaves.len().div_ceil(self.options.rows);
        let each = leaves.len().div_ceil(count);
        leaves.chunks(each).map(|list| (list.to_vec(), self.column(list))).collect()
    }

    /// The size of a column of leaves.
    fn column(&self, list: &[(usize, usize)]) -> Size {
        let width = list.iter().map(|(w, e)| self.stub(*e) + self.graph.nodes[*w].size.w).fold(0.0, f64::max);
        let gaps = LEAF_GAP * self.graph.spacing * list.len().saturating_sub(1) as f64;
        let height = list.iter().map(|(w, _)| self.graph.nodes[*w].size.h).sum::<f64>() + gaps;
        Size::new(width, height)
    }

    /// From the branching line to a leaf, with room for a label.
    fn stub(&self, e: usize) -> f64 {
        self.graph.edges[e].label.map_or(STUB, |l| l.w + 2.0 * STUB)
    }

    /// Room between a row and the one before it.
    fn row_gap(&self, blocks: &[Block], depth: usize) -> f64 {
        let labels = blocks.iter().filter(|b| b.depth == depth).filter_map(|b| b.edge);
        let label = labels.filter_map(|e| self.graph.edges[e].label).map(|l| l.h + 20.0).fold(0.0, f64::max);
        ROW_GAP * self.graph.spacing + label
    }

    fn rows_by_depth(&self, blocks: &mut [Block]) {
        let depth = blocks.iter().map(|b| b.depth).max().unwrap_or(0);
        let mut heights = vec![0.0f64; depth + 1];
        for b in blocks.iter() {
            heights[b.depth] = heights[b.depth].max(b.node.map_or(0.0, |v| self.graph.nodes[v].size.h));
        }
        let mut tops = vec![0.0; depth + 1];
        for d in 1..=depth {
            tops[d] = tops[d - 1] + heights[d - 1] + self.row_gap(blocks, d);
        }
        for b in blocks {
            b.y = tops[b.depth];
        }
    }

    /// Puts what was placed into the picture.
    fn draw(&self, block: &Block, blocks: &[Block], placement: &mut Placement) {
        let Some(v) = block.node else { return };
        let own = self.graph.nodes[v].size;
        let middle = if block.list.is_empty() { block.size.w / 2.0 } else { own.w / 2.0 };
        let middle = pt(block.place.x + middle, block.y + own.h / 2.0);
        placement.nodes[v] = Rect::around(pt(middle.x, self.flip(middle.y)), self.graph.nodes[v].size);
        self.draw_list(block, placement);
        let Some(first) = block.children.first() else { return };
        let start = pt(middle.x, middle.y + self.reach(v, Side::Bottom));
        // The branching line lies above the labels of the next row.
        let bus = blocks[*first].y - (self.row_gap(blocks, block.depth + 1) - 24.0 * self.graph.spacing);
        for child in block.children.iter().map(|c| &blocks[*c]) {
            match (child.node, child.edge) {
                (Some(w), Some(e)) => {
                    let wide = if child.list.is_empty() { child.size.w } else { self.graph.nodes[w].size.w };
                    let x = child.place.x + wide / 2.0;
                    let top = child.y + self.graph.nodes[w].size.h / 2.0 - self.reach(w, Side::Top);
                    let route = vec![start, pt(start.x, bus), pt(x, bus), pt(x, top)];
                    let label = self.graph.edges[e].label.map(|l| Rect::around(pt(x, (bus + top) / 2.0 - 4.0), l));
                    self.put(placement, e, route, label);
                }
                _ => self.draw_columns(child, start, bus, placement),
            }
        }
    }

    /// Each node of a list hangs on a line that comes down from its parent.
    fn draw_list(&self, block: &Block, placement: &mut Placement) {
        let corner = pt(block.place.x, block.y);
        let mut places = std::collections::BTreeMap::new();
        places.extend(block.node.map(|v| (v, corner)));
        places.extend(block.list.iter().map(|l| (l.node, pt(corner.x + l.at.x, corner.y + l.at.y))));
        for item in &block.list {
            let (own, up) = (places[&item.node], places[&item.parent]);
            let size = self.graph.nodes[item.node].size;
            let middle = pt(own.x + size.w / 2.0, own.y + size.h / 2.0);
            placement.nodes[item.node] = Rect::around(pt(middle.x, self.flip(middle.y)), size);
            let parent = self.graph.nodes[item.parent].size;
            let spine = up.x + INDENT - STUB;
            let bottom =
                up.y + parent.h / 2.0 + self.reach_at(item.parent, Side::Bottom, spine - up.x - parent.w / 2.0);
            let side = pt(middle.x - self.reach(item.node, Side::Left), middle.y);
            let label = self.graph.edges[item.edge].label;
            let label = label.map(|l| Rect::around(pt((spine + side.x) / 2.0 - 4.0, middle.y), l));
            self.put(placement, item.edge, vec![pt(spine, bottom), pt(spine, middle.y), side], label);
        }
    }

    fn draw_columns(&self, block: &Block, start: Point, bus: f64, placement: &mut Placement) {
        let mut left = block.place.x;
        for (list, size) in self.columns(&block.leaves) {
            let mut top = block.y;
            for (w, e) in list {
                let node = self.graph.nodes[w].size;
                let begin = left + self.stub(e);
                let middle = pt(begin + node.w / 2.0, top + node.h / 2.0);
                placement.nodes[w] = Rect::around(pt(middle.x, self.flip(middle.y)), node);
                let side = pt(middle.x - self.reach(w, Side::Left), middle.y);
                let route = vec![start, pt(start.x, bus), pt(left, bus), pt(left, middle.y), side];
                let label =
                    self.graph.edges[e].label.map(|l| Rect::around(pt((left + begin) / 2.0 - 4.0, middle.y), l));
                self.put(placement, e, route, label);
                top += node.h + LEAF_GAP * self.graph.spacing;
            }
            left += size.w + LEAF_GAP;
        }
    }

    /// Downwards as it is, upwards mirrored.
    fn flip(&self, y: f64) -> f64 {
        if self.upwards { -y } else { y }
    }

    /// A line from the parent to a child, turned into the direction of its edge.
    fn put(&self, placement: &mut Placement, e: usize, mut points: Vec<Point>, label: Option<Rect>) {
        if self.upwards {
            points.iter_mut().for_each(|p| p.y = -p.y);
            points.reverse();
        }
        let label = label.map(|l| if self.upwards { Rect::new(l.x, -l.bottom(), l.w, l.h) } else { l });
        placement.routes[e] = Route { points: tidied(points), label, ..Route::default() };
    }

    fn reach(&self, v: usize, side: Side) -> f64 {
        self.reach_at(v, side, 0.0)
    }

    fn reach_at(&self, v: usize, side: Side, offset: f64) -> f64 {
        let side = match (side, self.upwards) {
            (Side::Top, true) => Side::Bottom,
            (Side::Bottom, true) => Side::Top,
            _ => side,
        };
        self.graph.nodes[v].outline.reach(self.graph.nodes[v].size, side, offset)
    }
}

/// Places all blocks across; linear in their number. `gap` is kept between neighbours.
fn tidy(blocks: &mut [Block], gap: f64) {
    // Children come after their parents, so from the last to the first.
    for t in (0..blocks.len()).rev() {
        if blocks[t].children.is_empty() {
            let own = &mut blocks[t].place;
            (own.extreme_left, own.extreme_right) = (t, t);
            continue;
        }
        let children = blocks[t].children.clone();
        // The left siblings that are lowest so far, the lowest first: (their lower end, which child).
        let mut lowest = vec![(bottom(blocks, blocks[children[0]].place.extreme_left), 0)];
        for i in 1..children.len() {
            let end = bottom(blocks, blocks[children[i]].place.extreme_right);
            separate(blocks, &children, i, &lowest, gap);
            while lowest.last().is_some_and(|l| end >= l.0) {
                lowest.pop();
            }
            lowest.push((end, i));
        }
        let (first, last) = (blocks[children[0]].place, blocks[children[children.len() - 1]].place);
        let right = last.prelim + last.modifier + blocks[children[children.len() - 1]].size.w;
        blocks[t].place.prelim = (first.prelim + first.modifier + right) / 2.0 - blocks[t].size.w / 2.0;
        let own = &mut blocks[t].place;
        (own.extreme_left, own.sum_left) = (first.extreme_left, first.sum_left);
        (own.extreme_right, own.sum_right) = (last.extreme_right, last.sum_right);
    }
    let mut sums = vec![0.0; blocks.len()];
    for t in 0..blocks.len() {
        let sum = sums[t] + blocks[t].place.modifier;
        blocks[t].place.x = blocks[t].place.prelim + sum;
        let (mut by, mut extra) = (0.0, 0.0);
        for c in blocks[t].children.clone() {
            by += blocks[c].place.shift;
            extra += by + blocks[c].place.change;
            blocks[c].place.modifier += extra;
            sums[c] = sum;
        }
    }
}

fn bottom(blocks: &[Block], t: usize) -> f64 {
    blocks[t].y + blocks[t].size.h
}

/// Moves the subtree of child `i` to the right of those before it.
fn separate(blocks: &mut [Block], children: &[usize], i: usize, lowest: &[(f64, usize)], gap: f64) {
    let (mut right, mut left) = (Some(children[i - 1]), Some(children[i]));
    let mut sum_right = blocks[children[i - 1]].place.modifier;
    let mut sum_left = blocks[children[i]].place.modifier;
    let mut at = lowest.len() - 1;
    while let (Some(sr), Some(cl)) = (right, left) {
        while at > 0 && bottom(blocks, sr) > lowest[at].0 {
            at -= 1;
        }
        let distance =
            (sum_right + blocks[sr].place.prelim + blocks[sr].size.w + gap) - (sum_left + blocks[cl].place.prelim);
        if distance > 0.0 {
            sum_left += distance;
            move_subtree(blocks, children, i, lowest[at].1, distance);
        }
        let (sy, cy) = (bottom(blocks, sr), bottom(blocks, cl));
        if sy <= cy {
            right = next(blocks, sr, Contour::Right);
            sum_right += right.map_or(0.0, |r| blocks[r].place.modifier);
        }
        if sy >= cy {
            left = next(blocks, cl, Contour::Left);
            sum_left += left.map_or(0.0, |l| blocks[l].place.modifier);
        }
    }
    let (first, own, before) = (children[0], children[i], children[i - 1]);
    match (right, left) {
        (None, Some(cl)) => {
            let extreme = blocks[first].place.extreme_left;
            let difference = (sum_left - blocks[cl].place.modifier) - blocks[first].place.sum_left;
            let thread = &mut blocks[extreme].place;
            thread.left_thread = Some(cl);
            thread.modifier += difference;
            thread.prelim -= difference;
            let Tidy { extreme_left, sum_left, .. } = blocks[own].place;
            (blocks[first].place.extreme_left, blocks[first].place.sum_left) = (extreme_left, sum_left);
        }
        (Some(sr), None) => {
            let extreme = blocks[own].place.extreme_right;
            let difference = (sum_right - blocks[sr].place.modifier) - blocks[own].place.sum_right;
            let thread = &mut blocks[extreme].place;
            thread.right_thread = Some(sr);
            thread.modifier += difference;
            thread.prelim -= difference;
            let Tidy { extreme_right, sum_right, .. } = blocks[before].place;
            (blocks[own].place.extreme_right, blocks[own].place.sum_right) = (extreme_right, sum_right);
        }
        _ => {}
    }
}

/// A side of a subtree.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Contour {
    Left,
    Right,
}

/// The next block of a contour.
fn next(blocks: &[Block], t: usize, contour: Contour) -> Option<usize> {
    let own = &blocks[t];
    if contour == Contour::Left {
        own.children.first().copied().or(own.place.left_thread)
    } else {
        own.children.last().copied().or(own.place.right_thread)
    }
}

/// Moves a subtree, and shares out what that opens between those it skipped.
fn move_subtree(blocks: &mut [Block], children: &[usize], i: usize, from: usize, distance: f64) {
    let own = &mut blocks[children[i]].place;
    own.modifier += distance;
    own.sum_left += distance;
    own.sum_right += distance;
    if from + 1 < i {
        let share = distance / (i - from) as f64;
        own.shift -= share;
        own.change -= distance - share;
        blocks[children[from + 1]].place.shift += share;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::score::measure;
    use crate::layout::{Edge, Node};

    fn graph(nodes: usize, edges: &[(usize, usize)]) -> Graph {
        let nodes = (0..nodes).map(|i| Node { size: Size::new(80.0 + 10.0 * (i % 4) as f64, 40.0), ..Node::default() });
        let edges = edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect();
        Graph { nodes: nodes.collect(), edges, ..Graph::default() }
    }

    #[test]
    fn trees_are_recognised_whichever_way_they_point() {
        let down = find(&graph(4, &[(0, 1), (0, 2), (2, 3)])).expect("a tree");
        assert_eq!(down.root, 0);
        let up = find(&graph(4, &[(1, 0), (2, 0), (3, 2)])).expect("a tree");
        assert_eq!(up.root, 0);
        let both = find(&graph(5, &[(1, 0), (2, 0), (0, 3), (0, 4)])).expect("a tree in both directions");
        assert_eq!((both.above[0].len(), both.below[0].len()), (2, 2));
        assert_eq!(find(&graph(3, &[(0, 1), (0, 2), (1, 2)])), None, "a circle of lines");
        assert_eq!(find(&graph(4, &[(0, 1), (2, 3)])), None, "two parts");
        assert_eq!(find(&graph(4, &[(0, 1), (2, 1), (2, 3)])), None, "no root");
    }

    #[test]
    fn every_manner_draws_every_tree_cleanly() {
        for seed in 0..30usize {
            let edges: Vec<(usize, usize)> = (1..30).map(|i| ((i * 7 + seed * 13) % i.min(9), i)).collect();
            let graph = graph(30, &edges);
            let tree = find(&graph).expect("a tree");
            for options in tree.options() {
                let measures = measure(&graph, &place(&graph, &tree, options));
                assert_eq!((measures.faults.as_slice(), measures.crossings), (&[][..], 0), "{seed} {options:?}");
            }
        }
    }

    #[test]
    fn parents_stand_over_their_children() {
        let graph = graph(6, &[(0, 1), (0, 2), (1, 3), (1, 4), (2, 5)]);
        let tree = find(&graph).expect("a tree");
        let placed = place(&graph, &tree, TreeOptions { rows: 1, lists: 0 });
        let x = |v: usize| placed.nodes[v].middle().x;
        assert!((x(0) - (placed.nodes[1].x + placed.nodes[2].right()) / 2.0).abs() <= 1.0);
        assert_eq!(x(5), x(2));
        assert_eq!(placed.nodes[3].y, placed.nodes[5].y, "rows by depth");
    }

    #[test]
    fn a_chain_of_thousands_is_no_recursion() {
        let edges: Vec<(usize, usize)> = (1..20_000).map(|i| (i - 1, i)).collect();
        let graph = graph(20_000, &edges);
        let tree = find(&graph).expect("a tree");
        let placed = place(&graph, &tree, TreeOptions { rows: 8, lists: 0 });
        assert!(placed.nodes.windows(2).all(|p| p[0].bottom() < p[1].y));
    }
}
