//! What lies in no group, around the blocks. Input: where the blocks stand. Output: places for what is outside, in strips
//! along the four sides ([`strips`](super::strips)), as far from the blocks as lines and labels need.

use super::blocks::{EXTENT, GAP, LABEL, Nested, WIDEST_LABEL, on_grid, unlike_a_screen};
use super::strips::{Link, Outside};
use crate::geom::{Rect, Size, pt};
use crate::layout::graph::Anchor;
use crate::layout::intersections::hits;
use crate::layout::routing::channels::CLEAR;

impl Nested<'_> {
    /// Gives everything its place in the picture.
    pub(super) fn settle(&mut self) {
        self.settle_blocks();
        self.put_strips();
    }

    /// What is in groups, all together.
    pub(super) fn core(&self) -> Rect {
        let inner = self.blocks[self.graph.groups.len()].inner;
        Rect::new(0.0, 0.0, inner.w, inner.h)
    }

    /// The same with the room up to the strips; where there is none, with room for a few lines.
    pub(super) fn near_core(&self) -> Rect {
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
            let is_outside = |end: Anchor| self.number_outside(end).is_some();
            if is_outside(edge.from) != is_outside(edge.to) {
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
        let (mut links, mut pairs) = (Vec::new(), Vec::new());
        for edge in &self.graph.edges {
            let link = |loose: usize, end: Anchor| Link { loose, end, target: self.rect(end) };
            match (self.number_outside(edge.from), self.number_outside(edge.to)) {
                (Some(a), Some(b)) if a != b => pairs.push((a, b, edge.label.unwrap_or_default())),
                (Some(loose), None) => links.push(link(loose, edge.to)),
                (None, Some(loose)) => links.push(link(loose, edge.from)),
                _ => {}
            }
        }
        let sizes = self.loose.iter().map(|v| self.graph.nodes[*v].size).collect();
        Outside { sizes, links, pairs, core: self.core(), gap: GAP * self.graph.spacing, away: self.away() }
    }

    /// From which sides of the picture the way to the middle of something inside is free.
    fn free_sides(&self, end: Anchor) -> [bool; 4] {
        let (middle, core) = (self.rect(end).middle(), self.core());
        let sides =
            [pt(middle.x, core.y), pt(middle.x, core.bottom()), pt(core.x, middle.y), pt(core.right(), middle.y)];
        let around: Vec<usize> = self.graph.groups_around(end).collect();
        // What a group holds is not in the way to it.
        let is_foreign =
            |other: Anchor| other != end && !self.graph.groups_around(other).any(|g| Anchor::Group(g) == end);
        let nodes = (0..self.nodes.len()).map(Anchor::Node).filter(|v| self.number_outside(*v).is_none());
        let groups = (0..self.groups.len()).filter(|g| !around.contains(g)).map(Anchor::Group);
        let foreign: Vec<Rect> =
            nodes.chain(groups).filter(|other| is_foreign(*other)).map(|other| self.rect(other).grown(CLEAR)).collect();
        sides.map(|side| !foreign.iter().any(|rect| hits(middle, side, *rect)))
    }

    /// Chooses the sides of what is outside, and puts it there.
    pub(super) fn arrange_strips(&mut self) {
        if self.loose.is_empty() {
            return;
        }
        let outside = self.outside();
        let is_free: Vec<[bool; 4]> = outside.links.iter().map(|link| self.free_sides(link.end)).collect();
        let weight = EXTENT * (1.0 + outside.links.len() as f64);
        self.strips = outside.arrange(&is_free, |size| weight * unlike_a_screen(size));
        self.put_strips();
    }

    /// Puts what is outside opposite what it talks to.
    pub(super) fn put_strips(&mut self) {
        let places = self.outside().places(&self.strips);
        for (v, place) in self.loose.iter().zip(places) {
            self.nodes[*v] = place.map_or(self.nodes[*v], on_grid);
        }
    }
}
