//! Rows and columns brought level with what they talk to. Input: where everything stands, and which lines could be
//! straight. Output: the same, with the rows and columns of groups moved within their frames.

use super::blocks::{Block, Nested};
use crate::geom::Rect;
use crate::layout::graph::Anchor;
use crate::layout::orientation::Orientation;
use crate::layout::separation;
use std::collections::BTreeMap;

/// How often rows and columns are brought level with what they talk to.
// The first moves rows to what they talk to, the second what has moved since.
const SWEEPS: usize = 2;

impl Nested<'_> {
    /// Moves the rows and columns of groups that hold nothing but nodes, as far as there is room in their frames, so that
    /// nodes stand level with what their lines lead to.
    pub(super) fn align(&mut self, level: &[(usize, Orientation)]) {
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
                if self.blocks[block].held.iter().all(|item| item.node().is_some()) {
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
        let orientation = Orientation::of_vertical(axis == 0);
        let middle = |rect: Rect| if axis == 0 { rect.middle().x } else { rect.middle().y };
        let needed = &own.needed[axis];
        // The nodes with the row or column of each.
        let lines = cells.at.iter().map(|at| if axis == 0 { at.0 } else { at.1 });
        let nodes: Vec<(usize, usize)> =
            own.held.iter().zip(lines).filter_map(|(item, line)| Some((item.node()?, line))).collect();
        let mut deltas: Vec<Vec<f64>> = vec![Vec::new(); needed.len()];
        for (v, line) in &nodes {
            let others = wishes.get(&(*v, axis)).into_iter().flatten();
            for other in others.filter(|o| self.graph.nodes[**o].group != Some(block)) {
                deltas[*line].push(middle(self.nodes[*other]) - middle(self.nodes[*v]));
            }
        }
        if deltas.iter().all(Vec::is_empty) {
            return;
        }
        let now: Vec<f64> = own.placed[axis].iter().map(|(at, extent)| at + extent / 2.0).collect();
        let median = |all: &mut Vec<f64>| {
            all.sort_by(f64::total_cmp);
            all.get(all.len().saturating_sub(1) / 2).copied().unwrap_or(0.0)
        };
        let firm: Vec<f64> = deltas.iter().map(|all| if all.is_empty() { 0.1 } else { all.len() as f64 }).collect();
        let wanted: Vec<f64> = now.iter().zip(&mut deltas).map(|(at, all)| at + median(all)).collect();
        let constraints: Vec<(usize, usize, f64)> = (1..needed.len())
            .map(|i| (i - 1, i, needed[i].0 + needed[i].1 / 2.0 - needed[i - 1].0 - needed[i - 1].1 / 2.0))
            .collect();
        let inner = Rect::new(
            frame.x + group.inset,
            frame.y + group.above(),
            frame.w - 2.0 * group.inset,
            frame.h - group.above() - group.inset,
        );
        let (from, to) = orientation.across(inner);
        let extent = if axis == 0 { own.inner.w } else { own.inner.h };
        let last = needed.last().map_or(0.0, |(at, own)| extent - at - own);
        let bounds: Vec<(f64, f64)> =
            needed.iter().map(|(_, extent)| (from + needed[0].0 + extent / 2.0, to - last - extent / 2.0)).collect();
        let order: Vec<usize> = (0..needed.len()).collect();
        let found = separation::satisfied(&wanted, &firm, &constraints, &order, &bounds);
        let moves: Vec<f64> = found.iter().zip(&now).map(|(found, now)| libm::round(found - now)).collect();
        let Block { placed, needed, .. } = &mut self.blocks[block];
        for (stretch, (by, (_, need))) in placed[axis].iter_mut().zip(moves.iter().zip(&needed[axis])) {
            // The row is now as high as what it holds, and stands in the middle of the room that it had.
            *stretch = (stretch.0 + (stretch.1 - need) / 2.0 + by, *need);
        }
        for (v, line) in nodes {
            let by = moves[line];
            self.nodes[v] = if axis == 0 { self.nodes[v].moved(by, 0.0) } else { self.nodes[v].moved(0.0, by) };
        }
    }
}
