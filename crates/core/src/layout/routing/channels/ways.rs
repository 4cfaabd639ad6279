//! The ways of all lines of a picture. Input: a placement and the channels between its boxes. Output: [`Ways`]: which
//! channels each line takes, how much room lines need there, and which ends would stand level.

use super::gaps::{CLEAR, PITCH, TEXT_CLEAR};
use super::lattice::{Channel, Lattice};
use super::order::Runs;
use super::search::{Care, Search};
use super::way::Way;
use crate::geom::Rect;
use crate::layout::graph::{Graph, Routing};
use crate::layout::orientation::Orientation;
use crate::layout::placement::Placement;
use crate::layout::routing::labels;
use crate::layout::score::{Measures, nearest};

/// Which channels the lines of a picture take.
pub(in crate::layout) struct Ways<'a> {
    pub(super) graph: &'a Graph,
    pub(super) placement: &'a Placement,
    pub(super) lattice: Lattice,
    /// The way of each edge, if it has one.
    pub(super) ways: Vec<Option<Way>>,
    /// The same as runs; none where there is no way.
    pub(super) runs: Vec<Runs>,
    /// The run of each edge on which its label will lie.
    carriers: Vec<Option<usize>>,
}

impl<'a> Ways<'a> {
    /// Draws these edges with their texts; those that find no way are left as they are.
    pub(in crate::layout) fn draw(graph: &Graph, placement: &mut Placement, channels: &[Channel], edges: &[usize]) {
        if let Some(ways) = Ways::find(graph, placement, channels, edges, Care::Full) {
            placement.routes = ways.drawn();
        }
        labels::put(graph, placement, edges);
    }

    /// The cheapest ways of these edges, all of which are known to each other.
    pub(in crate::layout) fn find(
        graph: &'a Graph, placement: &'a Placement, channels: &[Channel], edges: &[usize], care: Care,
    ) -> Option<Self> {
        let lattice = Lattice::new(graph, placement, channels, edges)?;
        let ways = Search::new(graph, placement, &lattice).all(edges, care);
        let runs = ways.iter().map(|way| way.as_ref().map_or_else(Runs::default, Runs::of)).collect();
        let mut found = Self { graph, placement, lattice, ways, runs, carriers: Vec::new() };
        found.carriers = (0..graph.edges.len()).map(|e| found.carrier(e)).collect();
        Some(found)
    }

    /// The run that has room for the label of an edge: a horizontal one, as texts are, the nearest to the middle of the
    /// line; if there is none, the longest.
    fn carrier(&self, e: usize) -> Option<usize> {
        let (label, runs) = (self.graph.edges[e].label?, &self.runs[e]);
        let extents: Vec<f64> = (0..runs.all.len())
            .map(|i| {
                let (from, to) = self.span(e, i);
                to - from
            })
            .collect();
        let is_horizontal = |i: usize| runs.orientation(i) == Orientation::Horizontal;
        let fits = |i: usize| is_horizontal(i) && self.longest_piece(e, i) >= label.w + 2.0 * TEXT_CLEAR;
        let middle = extents.iter().sum::<f64>() / 2.0;
        let off = |i: usize| (extents[..i].iter().sum::<f64>() + extents[i] / 2.0 - middle).abs();
        let all = || 0..extents.len();
        let level = all().filter(|i| fits(*i)).min_by(|a, b| off(*a).total_cmp(&off(*b)));
        level.or_else(|| all().max_by(|a, b| extents[*a].total_cmp(&extents[*b])))
    }

    /// The longest part of a horizontal run between two frames that it crosses, in px.
    fn longest_piece(&self, e: usize, run: usize) -> f64 {
        let (from, to) = self.span(e, run);
        let y = self.lattice.track_at(Orientation::Horizontal, self.runs[e].all[run].track);
        let level = self.placement.groups.iter().filter(|r| r.y < y && y < r.bottom());
        let inside = level.flat_map(|r| [r.x, r.right()]).filter(|x| *x > from && *x < to);
        let mut cuts: Vec<f64> = [from, to].into_iter().chain(inside).collect();
        cuts.sort_by(f64::total_cmp);
        cuts.windows(2).map(|pair| pair[1] - pair[0]).fold(0.0, f64::max)
    }

    /// From where to where a run goes along its track, as the lattice has it.
    fn span(&self, e: usize, run: usize) -> (f64, f64) {
        let runs = &self.runs[e];
        self.span_between(e, run, |i| self.lattice.track_at(runs.orientation(i), runs.all[i].track))
    }

    /// From where to where a run goes along its track, if its neighbours lie there.
    pub(super) fn span_between(&self, e: usize, run: usize, at: impl Fn(usize) -> f64) -> (f64, f64) {
        let end = |end: usize| self.ways[e].as_ref().map_or(0.0, |way| way.sides[end].of(self.rect(e, end)));
        let from = if run == 0 { end(0) } else { at(run - 1) };
        let to = if run + 1 == self.runs[e].all.len() { end(1) } else { at(run + 1) };
        (from.min(to), from.max(to))
    }

    /// What an edge joins at one end.
    pub(super) fn rect(&self, e: usize, end: usize) -> Rect {
        self.placement.rect(self.graph.edges[e].end(end))
    }

    /// How much of a channel a run takes, in px: the distance to the next one, or the room for its label.
    pub(super) fn thickness(&self, e: usize, run: usize) -> f64 {
        let Some(label) = self.graph.edges[e].label.filter(|_| self.carriers[e] == Some(run)) else { return PITCH };
        let extent = if self.runs[e].orientation(run) == Orientation::Horizontal { label.h } else { label.w };
        f64::max(PITCH, extent + 2.0 * TEXT_CLEAR)
    }

    /// How much room the lines need that run side by side in each channel, in px; 0 where there is none.
    pub(in crate::layout) fn demand(&self, channels: &[Channel]) -> Vec<f64> {
        let mut runs = [Vec::new(), Vec::new()];
        for (e, own) in self.runs.iter().enumerate() {
            for (i, run) in own.all.iter().enumerate() {
                let orientation = own.orientation(i);
                let at = self.lattice.track_at(orientation, run.track);
                let all = if orientation == Orientation::Vertical { &mut runs[0] } else { &mut runs[1] };
                all.push((at, self.span(e, i), self.thickness(e, i)));
            }
        }
        let room = |channel: &Channel| {
            let room = channel.room;
            let own = if channel.orientation == Orientation::Vertical { &runs[0] } else { &runs[1] };
            let ((from, to), (begin, end)) = (channel.orientation.across(room), channel.orientation.along(room));
            let inside = own.iter().filter(|(at, span, _)| *at >= from && *at <= to && span.0 < end && span.1 > begin);
            let most = most_at_once(inside.map(|(_, span, thickness)| (*span, *thickness)));
            if most > 0.0 { most + 2.0 * CLEAR - PITCH } else { 0.0 }
        };
        channels.iter().map(room).collect()
    }

    /// What is known of these lines before they are drawn: how long they are, and how often they bend and cross.
    pub(in crate::layout) fn measures(&self) -> Measures {
        let mut found = Measures::default();
        let [mut level, mut plumb] = [Vec::new(), Vec::new()];
        for (e, own) in self.runs.iter().enumerate().filter(|(_, own)| !own.all.is_empty()) {
            let mut length = 0.0;
            for (i, run) in own.all.iter().enumerate() {
                let (orientation, span) = (own.orientation(i), self.span(e, i));
                length += span.1 - span.0;
                let all = if orientation == Orientation::Horizontal { &mut level } else { &mut plumb };
                all.push((e, self.lattice.track_at(orientation, run.track), span));
            }
            found.bends += own.all.len() - 1;
            found.length += length;
            found.detours += f64::max(0.0, length - nearest(self.rect(e, 0), self.rect(e, 1), Routing::Stepped));
        }
        let within = |at: f64, span: (f64, f64)| span.0 < at && at < span.1;
        let meet = |(e, y, xs): &(usize, f64, (f64, f64))| {
            plumb.iter().filter(|(f, x, ys)| e != f && within(*x, *xs) && within(*y, *ys)).count()
        };
        found.crossings = level.iter().map(meet).sum();
        found
    }

    /// Edges that run straight or step aside once, and which way they leave their ends: their ends would stand level.
    pub(in crate::layout) fn level(&self) -> Vec<(usize, Orientation)> {
        let own = |(e, way): (usize, &Way)| {
            let [start, goal] = way.headings;
            (way.places.len() <= 4 && start == goal.opposite()).then_some((e, start.orientation()))
        };
        self.ways.iter().enumerate().filter_map(|(e, way)| own((e, way.as_ref()?))).collect()
    }
}

/// How thick stretches are together that lie over one place, at most.
pub(super) fn most_at_once(stretches: impl Iterator<Item = ((f64, f64), f64)>) -> f64 {
    let mut ends: Vec<(f64, f64)> = stretches.flat_map(|((from, to), by)| [(from, by), (to, -by)]).collect();
    // What begins where another ends turns there as well, and needs a place beside it.
    ends.sort_by(|a, b| a.0.total_cmp(&b.0).then(b.1.total_cmp(&a.1)));
    let (mut open, mut most) = (0.0, 0.0);
    for (_, by) in ends {
        open += by;
        most = f64::max(most, open);
    }
    most
}
