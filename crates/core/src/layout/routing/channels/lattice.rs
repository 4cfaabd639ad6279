//! The tracks over a placement, and where they cross. Input: a placement and the channels between its boxes. Output: a
//! [`Lattice`]: a track in the middle of each channel and through the middle of each thing with lines, and which steps
//! between neighbouring crossings are free.

use super::gaps::{CLEAR, CORNER};
use crate::geom::Rect;
use crate::layout::graph::{Anchor, Graph};
use crate::layout::orientation::Orientation;
use crate::layout::outline::Side;
use crate::layout::placement::Placement;
use std::collections::BTreeMap;

/// Tracks through things that are nearer to each other than this are one, in px.
// Whoever stands nearly level was meant to be level.
const SAME: f64 = 2.0;
/// Larger lattices are not searched.
// Each has six states of sixteen bytes: more would be 400 MB.
const PLACES: usize = 4_000_000;
/// The places beside a place.
pub(super) const RIGHT: usize = 0;
pub(super) const BELOW: usize = 1;
pub(super) const LEFT: usize = 2;
pub(super) const ABOVE: usize = 3;
/// No place.
pub(super) const NONE: u32 = u32::MAX;

/// A strip without boxes, in which lines run side by side.
#[derive(Clone, Copy, Debug)]
pub(in crate::layout) struct Channel {
    pub(in crate::layout) orientation: Orientation,
    pub(in crate::layout) room: Rect,
    /// From where to where its track reaches, beyond the strip itself.
    pub(in crate::layout) reach: (f64, f64),
}

impl Channel {
    /// A channel across these places, along the whole of a rectangle.
    pub(in crate::layout) fn across(
        orientation: Orientation, (begin, end): (f64, f64), along: Rect, reach: (f64, f64),
    ) -> Self {
        let room = match orientation {
            Orientation::Vertical => Rect::new(begin, along.y, end - begin, along.h),
            Orientation::Horizontal => Rect::new(along.x, begin, along.w, end - begin),
        };
        Channel { orientation, room, reach }
    }
}

/// The gaps before, between and behind stretches, which begin here and are so long, within bounds.
pub(in crate::layout) fn gaps_between(stretches: &[(f64, f64)], (first, last): (f64, f64)) -> Vec<(f64, f64)> {
    let begins = std::iter::once(first).chain(stretches.iter().map(|(at, extent)| at + extent));
    begins.zip(stretches.iter().map(|(at, _)| *at).chain([last])).collect()
}

/// A track: where it lies, and how far it reaches.
type Track = (f64, (f64, f64));

/// The tracks of one direction.
#[derive(Debug, Default)]
pub(super) struct Tracks {
    /// Where they lie, in ascending order, in px.
    pub(super) at: Vec<f64>,
    /// Whether each lies in the middle of a channel; others run through a thing.
    is_channel: Vec<bool>,
    /// How far each reaches.
    reach: Vec<(f64, f64)>,
}

impl Tracks {
    /// Tracks of channels, and tracks through things; those of the latter that nearly coincide are one.
    // The track through a thing and that of a channel stay two: lines that share one would be of two kinds.
    fn new(channels: Vec<Track>, mut things: Vec<Track>) -> Self {
        things.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut merged: Vec<Track> = Vec::new();
        for (at, reach) in things {
            match merged.last_mut() {
                Some(last) if at - last.0 < SAME => last.1 = (last.1.0.min(reach.0), last.1.1.max(reach.1)),
                _ => merged.push((at, reach)),
            }
        }
        let things = merged.into_iter().map(|track| (track, false));
        let mut all: Vec<(Track, bool)> = things.chain(channels.into_iter().map(|track| (track, true))).collect();
        all.sort_by(|a, b| a.0.0.total_cmp(&b.0.0));
        let mut tracks = Self::default();
        for ((at, reach), is_channel) in all {
            tracks.at.push(at);
            tracks.is_channel.push(is_channel);
            tracks.reach.push(reach);
        }
        tracks
    }

    /// The tracks from one place to another: the first, and the one behind the last.
    pub(super) fn within(&self, from: f64, to: f64) -> (usize, usize) {
        (self.at.partition_point(|at| *at < from), self.at.partition_point(|at| *at <= to))
    }

    /// The track through a thing at a place.
    fn through(&self, at: f64) -> Option<usize> {
        let (from, to) = self.within(at - SAME, at + 0.01);
        (from..to).rev().find(|i| !self.is_channel[*i])
    }
}

/// Where a line may begin or end.
#[derive(Clone, Copy, Debug)]
pub(super) struct Port {
    pub(super) place: usize,
    pub(super) side: Side,
    /// Which way a line leaves there: out of the side, or into a group.
    pub(super) heading: Side,
    /// From the outline to the place, in px.
    pub(super) distance: f64,
    /// From the middle of the side.
    pub(super) offset: f64,
}

/// A place where two tracks cross.
#[derive(Clone, Copy, Debug)]
pub(super) struct Place {
    pub(super) column: u32,
    pub(super) row: u32,
    /// The innermost group around it, from 1; 0 for none.
    pub(super) group: u32,
    /// The next places on its tracks to which the way is free: to the right, below, to the left, above.
    pub(super) next: [u32; 4],
}

pub(super) struct Lattice {
    /// Vertical tracks.
    pub(super) across: Tracks,
    /// Horizontal ones.
    pub(super) down: Tracks,
    /// Where they cross and nothing stands, row by row.
    pub(super) places: Vec<Place>,
    /// The number of the place at each column and row, if there is one.
    numbers: Vec<u32>,
}

impl Lattice {
    pub(super) fn new(graph: &Graph, placement: &Placement, channels: &[Channel], edges: &[usize]) -> Option<Self> {
        let rooms = rooms_to_leave(graph, placement, edges);
        // Tracks of this orientation, those through things as long as their lines need.
        let tracks = |orientation: Orientation| {
            let crossing = of_channels(channels, orientation.turned());
            let mut things: Vec<Track> = Vec::new();
            for (anchor, room) in &rooms {
                let (from, to) = orientation.across(placement.rect(*anchor));
                let at = (from + to) / 2.0;
                things.push((at, to_next(&crossing, at, orientation.along(*room))));
            }
            let straight = edges.iter().filter_map(|e| straight_between(graph, placement, *e, orientation));
            things.extend(straight.map(|(at, both)| (at, orientation.along(both))));
            Tracks::new(of_channels(channels, orientation), things)
        };
        let (across, down) = (tracks(Orientation::Vertical), tracks(Orientation::Horizontal));
        let count = across.at.len() * down.at.len();
        if count == 0 || count > PLACES {
            return None;
        }
        let mut lattice = Self { across, down, places: Vec::new(), numbers: vec![NONE; count] };
        lattice.mark(graph, placement);
        Some(lattice)
    }

    /// Finds the places, and which ways between them are free.
    fn mark(&mut self, graph: &Graph, placement: &Placement) {
        let (columns, rows) = (self.across.at.len(), self.down.at.len());
        let mut group = vec![0_u32; columns * rows];
        // Parents come before their children.
        for (g, rect) in placement.groups.iter().enumerate().filter(|(g, _)| !graph.groups[*g].lane) {
            self.each(rect.grown(1.0), |at| group[at] = g as u32 + 1);
        }
        let mut solid = vec![false; columns * rows];
        let mut blocked = [vec![false; columns * rows], vec![false; columns * rows]];
        let titles = title_rooms(graph, placement).map(|r| r.grown(5.0));
        for rect in titles.chain(placement.nodes.iter().map(|r| r.grown(CLEAR - 1.0))) {
            self.each(rect, |at| solid[at] = true);
            // The ways to what stands there, and over it, are not free either.
            let (c0, c1) = self.across.within(rect.x, rect.right());
            let (r0, r1) = self.down.within(rect.y, rect.bottom());
            for row in r0..r1 {
                (c0.saturating_sub(1)..c1).for_each(|column| blocked[0][row * columns + column] = true);
            }
            for row in r0.saturating_sub(1)..r1 {
                (c0..c1).for_each(|column| blocked[1][row * columns + column] = true);
            }
        }
        let is_in = |(from, to): (f64, f64), v: f64| v >= from - 0.5 && v <= to + 0.5;
        let mut above: Vec<Option<u32>> = vec![None; columns];
        for row in 0..rows {
            let mut before: Option<u32> = None;
            for column in 0..columns {
                let at = row * columns + column;
                let is_on_row = is_in(self.down.reach[row], self.across.at[column]);
                let is_on_column = is_in(self.across.reach[column], self.down.at[row]);
                if is_on_row && is_on_column && !solid[at] {
                    let number = self.places.len() as u32;
                    let mut place = Place { column: column as u32, row: row as u32, group: group[at], next: [NONE; 4] };
                    if let Some(before) = before {
                        place.next[LEFT] = before;
                        self.places[before as usize].next[RIGHT] = number;
                    }
                    if let Some(above) = above[column] {
                        place.next[ABOVE] = above;
                        self.places[above as usize].next[BELOW] = number;
                    }
                    self.numbers[at] = number;
                    self.places.push(place);
                    (before, above[column]) = (Some(number), Some(number));
                }
                before = before.filter(|_| is_on_row && !blocked[0][at]);
                above[column] = above[column].filter(|_| is_on_column && !blocked[1][at]);
            }
        }
    }

    /// Where a track of an orientation lies.
    pub(super) fn track_at(&self, orientation: Orientation, track: usize) -> f64 {
        match orientation {
            Orientation::Vertical => self.across.at[track],
            Orientation::Horizontal => self.down.at[track],
        }
    }

    /// The number of the place at a column and a row.
    pub(super) fn number(&self, (column, row): (usize, usize)) -> Option<usize> {
        Some(self.numbers[row * self.across.at.len() + column]).filter(|n| *n != NONE).map(|n| n as usize)
    }

    fn each(&self, rect: Rect, mut act: impl FnMut(usize)) {
        let (from, to) = self.across.within(rect.x, rect.right());
        let (above, below) = self.down.within(rect.y, rect.bottom());
        for row in above..below {
            (from..to).for_each(|column| act(row * self.across.at.len() + column));
        }
    }

    /// Where a line of an edge may begin or end: in the middle of each side, and wherever it could run straight.
    pub(super) fn ports(&self, graph: &Graph, placement: &Placement, (e, end): (usize, usize)) -> Vec<Port> {
        let edge = &graph.edges[e];
        let (anchor, other) = (edge.end(end), edge.end(1 - end));
        let rect = placement.rect(anchor);
        let is_inside =
            matches!(anchor, Anchor::Group(g) if graph.groups_around(other).any(|h| h == g) && other != anchor);
        let middle = rect.middle();
        let both = |own: f64, straight: Option<(f64, Rect)>| {
            let straight = straight.map(|s| s.0).filter(|at| (at - own).abs() > SAME);
            std::iter::once(own).chain(straight).collect::<Vec<f64>>()
        };
        let across = both(middle.x, straight_between(graph, placement, e, Orientation::Vertical));
        let down = both(middle.y, straight_between(graph, placement, e, Orientation::Horizontal));
        let mut found = Vec::new();
        for side in [Side::Bottom, Side::Right, Side::Left, Side::Top] {
            for at in if side.is_vertical() { &across } else { &down } {
                found.extend(self.port(rect, (side, if is_inside { side.opposite() } else { side }), *at));
            }
        }
        found
    }

    /// The place beside a side at which a line ends that leaves there with a heading: outside of it, or inside.
    fn port(&self, rect: Rect, (side, heading): (Side, Side), at: f64) -> Option<Port> {
        let is_vertical = side.is_vertical();
        let (along, across) = if is_vertical { (&self.across, &self.down) } else { (&self.down, &self.across) };
        let edge = side.of(rect);
        let track = along.through(at)?;
        let (from, to) = along.reach[track];
        // The first track that crosses it outside.
        let crosses = |i: &usize| {
            let (low, high) = across.reach[*i];
            let at = across.at[*i];
            along.at[track] >= low - 0.5 && along.at[track] <= high + 0.5 && at >= from - 0.5 && at <= to + 0.5
        };
        let next = if heading.is_forward() {
            (across.at.partition_point(|v| *v < edge + CLEAR)..across.at.len()).find(crosses)?
        } else {
            (0..across.at.partition_point(|v| *v <= edge - CLEAR)).rev().find(crosses)?
        };
        let (column, row) = if is_vertical { (track, next) } else { (next, track) };
        let place = self.number((column, row))?;
        let middle = if is_vertical { rect.middle().x } else { rect.middle().y };
        Some(Port {
            place,
            side,
            heading,
            distance: (across.at[next] - edge).abs(),
            offset: (along.at[track] - middle).abs(),
        })
    }
}

/// The titles of groups, each with what lies between it and the corner of the frame: no line squeezes through there.
pub(super) fn title_rooms<'a>(graph: &'a Graph, placement: &'a Placement) -> impl Iterator<Item = Rect> + 'a {
    let titled = (0..placement.titles.len()).filter(|g| placement.titles[*g].h > 0.0);
    titled.flat_map(|g| {
        let (frame, is_lane) = (placement.groups[g], graph.groups[g].lane);
        let to_corner = move |title: Rect| Rect::new(frame.x, title.y, title.right() - frame.x, title.h);
        graph.headers(g, placement).into_iter().map(move |title| if is_lane { title } else { to_corner(title) })
    })
}

/// The tracks in the middle of the channels of this orientation.
fn of_channels(channels: &[Channel], orientation: Orientation) -> Vec<Track> {
    let own = channels.iter().filter(|c| c.orientation == orientation);
    own.map(|c| {
        let middle = c.room.middle();
        (if orientation == Orientation::Vertical { middle.x } else { middle.y }, c.reach)
    })
    .collect()
}

/// Where an edge could run straight across the spans of its ends, and the rectangle around both.
fn straight_between(graph: &Graph, placement: &Placement, e: usize, orientation: Orientation) -> Option<(f64, Rect)> {
    let edge = &graph.edges[e];
    let (first, second) = (placement.rect(edge.from), placement.rect(edge.to));
    let ((a, b), (c, d)) = (orientation.across(first), orientation.across(second));
    let (from, to) = (a.max(c) + CORNER, b.min(d) - CORNER);
    if from > to || edge.from == edge.to {
        return None;
    }
    let middles = [(a + b) / 2.0, (c + d) / 2.0];
    let middle = middles.into_iter().find(|m| *m >= from && *m <= to);
    Some((middle.unwrap_or((from + to) / 2.0), first.union(second).grown(2.0 * CLEAR)))
}

/// A stretch of a track at a place, made longer up to the next track that crosses it on either side.
fn to_next(crossing: &[Track], place: f64, (from, to): (f64, f64)) -> (f64, f64) {
    let at = crossing.iter().filter(|t| t.1.0 <= place && place <= t.1.1).map(|t| t.0);
    let (before, behind) = enclosing(at, (from - CLEAR, to + CLEAR));
    (before.unwrap_or(from), behind.unwrap_or(to))
}

/// Of these places, the last one that does not lie behind the beginning of a stretch, and the first that does not lie
/// before its end.
pub(in crate::layout) fn enclosing(
    places: impl Iterator<Item = f64>, (from, to): (f64, f64),
) -> (Option<f64>, Option<f64>) {
    places.fold((None, None), |(before, behind): (Option<f64>, Option<f64>), at| {
        let later = |known: Option<f64>| Some(known.map_or(at, |known| known.max(at)));
        let sooner = |known: Option<f64>| Some(known.map_or(at, |known| known.min(at)));
        (if at <= from { later(before) } else { before }, if at >= to { sooner(behind) } else { behind })
    })
}

/// What edges join, each with the largest rectangle that its lines have to leave: itself, or a group around it and not
/// around their other end.
fn rooms_to_leave(graph: &Graph, placement: &Placement, edges: &[usize]) -> BTreeMap<Anchor, Rect> {
    let mut rooms: BTreeMap<Anchor, Rect> = BTreeMap::new();
    for e in edges {
        let edge = &graph.edges[*e];
        for (own, other) in [(edge.from, edge.to), (edge.to, edge.from)] {
            let around: Vec<usize> = graph.groups_around(other).collect();
            let left = graph.groups_around(own).take_while(|g| !around.contains(g));
            let room = left.map(|g| placement.groups[g]).fold(placement.rect(own), Rect::union);
            rooms.entry(own).and_modify(|r| *r = r.union(room)).or_insert(room);
        }
    }
    rooms
}
