//! The channels of a picture of blocks. Input: where the blocks stand. Output: the strips between their columns and rows, and
//! as much room in each as its lines need.

use super::blocks::{Block, GAP, Nested};
use crate::geom::Rect;
use crate::layout::orientation::Orientation;
use crate::layout::routing::channels::{Channel, enclosing, gaps_between};

impl Nested<'_> {
    /// Takes note of how much room each channel needs.
    pub(super) fn make_room(&mut self, demand: &[f64]) {
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
    pub(super) fn channels(&self) -> Vec<Channel> {
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
            for (axis, orientation) in [Orientation::Vertical, Orientation::Horizontal].into_iter().enumerate() {
                // Up to the channels around its frame; those of the whole are everywhere.
                let reach = match parent {
                    Some(parent) => between_middles(&gaps[parent][1 - axis], orientation.along(rect)),
                    None => orientation.along(picture),
                };
                channels.extend(own[axis].iter().map(|gap| Channel::across(orientation, *gap, rect, reach)));
            }
        }
        // Around everything.
        for orientation in [Orientation::Vertical, Orientation::Horizontal] {
            let ((from, to), reach) = (orientation.across(picture), orientation.along(picture));
            channels.push(Channel::across(orientation, (from, from + GAP), picture, reach));
            channels.push(Channel::across(orientation, (to - GAP, to), picture, reach));
        }
        channels
    }

    /// The gaps before, between and behind the columns of a block, and its rows.
    fn block_gaps(&self, number: usize, block: &Block, frame: Rect) -> [Vec<(f64, f64)>; 2] {
        let title = self.graph.groups.get(number).map_or(0.0, |g| g.above() - g.inset);
        [(frame.x, frame.right(), 0), (frame.y + title, frame.bottom(), 1)]
            .map(|(first, last, axis)| gaps_between(&block.placed[axis], (first, last)))
    }
}

/// From the middle of the last gap before a stretch to that of the first one behind it.
fn between_middles(gaps: &[(f64, f64)], (from, to): (f64, f64)) -> (f64, f64) {
    let (before, behind) = enclosing(gaps.iter().map(|(begin, end)| (begin + end) / 2.0), (from, to));
    (before.unwrap_or(from), behind.unwrap_or(to))
}
