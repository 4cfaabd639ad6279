//! Where in its channel each line runs. Input: ways and the order of those that share a track. Output: a place for each
//! run, as near to its track as its neighbours allow: lines keep apart from each other and from what they pass, and end
//! within the side at which they end.

use super::gaps::{CLEAR, CORNER, PITCH};
use super::lattice::title_rooms;
use super::order::{Runs, comes_first};
use super::ways::Ways;
use crate::geom::{Point, Rect, pt};
use crate::layout::graph::Anchor;
use crate::layout::orientation::Orientation;
use crate::layout::outline::Side;
use crate::layout::route::{Route, tidied};
use crate::layout::separation;
use std::collections::BTreeMap;

/// Runs that pass each other at less than this distance along their tracks are kept apart as well.
// Their ends move when the lines that they turn into are spread.
const NEAR: f64 = 6.0;
/// How often lines that find no room are brought closer together, and by how much.
// 0.7 to the fifth is a sixth of the usual distance: closer, and two lines look like one.
const TIGHTER: usize = 5;
const CLOSER: f64 = 0.7;
/// How often both directions get their places.
// Twice are enough for nearly all.
const ROUNDS: usize = 4;
/// Of more lines than this, never more than twice, and nothing is known of the order before.
// Some always change, which takes time; lines that lie on each other in the end are led elsewhere.
const MANY: usize = 60;
/// Room between texts at the ends of lines.
// As between words.
const TEXT_GAP: f64 = 8.0;

impl Ways<'_> {
    /// The lines, each with its own place in its channels.
    pub(in crate::layout) fn drawn(&self) -> Vec<Route> {
        let places = places(self);
        let drawn = |e: usize| {
            let points = places.points(self, e).map_or_else(Vec::new, tidied);
            Route { points, ..Route::default() }
        };
        (0..self.ways.len()).map(drawn).collect()
    }
}

/// The place of each run: its x if it is vertical, its y if it is horizontal.
struct Places {
    at: Vec<Vec<f64>>,
}

impl Places {
    /// The corners of an edge's line, if it has one.
    fn points(&self, ways: &Ways, e: usize) -> Option<Vec<Point>> {
        let (way, runs, at) = (ways.ways[e].as_ref()?, &ways.runs[e], &self.at[e]);
        let port = |end: usize, at: f64| {
            ways.graph.outline(ways.graph.edges[e].end(end)).port(ways.rect(e, end), way.sides[end], at)
        };
        let mut points = vec![port(0, at[0])];
        for i in 1..at.len() {
            points.push(match runs.orientation(i) {
                Orientation::Vertical => pt(at[i], at[i - 1]),
                Orientation::Horizontal => pt(at[i - 1], at[i]),
            });
        }
        points.push(port(1, at[at.len() - 1]));
        Some(points)
    }
}

/// A place for each run of each way.
fn places(ways: &Ways) -> Places {
    let runs = &ways.runs;
    let track = |(e, i): (usize, usize)| ways.lattice.track_at(runs[e].orientation(i), runs[e].all[i].track);
    let at = (0..runs.len()).map(|e| (0..runs[e].all.len()).map(|i| track((e, i))).collect()).collect();
    let mut places = Places { at };
    let mut known = [Known::default(), Known::default()];
    let is_large = ways.ways.len() > MANY;
    // Each direction once more, now that it is known where the runs of the other one end; and again while some that lie beside
    // each other change their order, on which the places in the other direction rest.
    for round in 0..ROUNDS {
        let mut is_changed = false;
        for (orientation, known) in [Orientation::Horizontal, Orientation::Vertical].into_iter().zip(&mut known) {
            let mut spread = Spread::new(ways, &places, orientation);
            let found = spread.solve(known);
            is_changed |= spread.is_turned;
            *known = Known::new(spread.bodies, is_large);
            for (body, at) in known.bodies.iter().zip(found) {
                places.at[body.edge][body.run] = at;
            }
        }
        if round > 0 && (!is_changed || is_large) {
            break;
        }
    }
    places
}

/// A run that is to be placed.
#[derive(Clone, Debug)]
struct Body {
    edge: usize,
    run: usize,
    track: usize,
    /// Where its track lies.
    wanted: f64,
    /// Between which places it may lie.
    low: f64,
    high: f64,
    /// From where to where it runs.
    span: (f64, f64),
    /// Whether the line ends at one end of it.
    is_end: bool,
}

impl Body {
    /// Whether two runs lie beside each other, or nearly so.
    fn passes(&self, other: &Self) -> bool {
        let shared = f64::min(self.span.1, other.span.1) - f64::max(self.span.0, other.span.0);
        // Ends of two lines that meet head on are kept apart by the runs that they turn into.
        let least = if self.is_end && other.is_end { 1.0 } else { -NEAR };
        self.edge != other.edge && shared > least
    }
}

/// The runs of one direction in the order that was found before.
#[derive(Default)]
struct Known {
    bodies: Vec<Body>,
    /// The number of each run among them.
    numbers: BTreeMap<(usize, usize), usize>,
}

impl Known {
    fn new(bodies: Vec<Body>, is_large: bool) -> Self {
        let count = if is_large { 0 } else { bodies.len() };
        let numbers = bodies.iter().take(count).enumerate().map(|(i, body)| ((body.edge, body.run), i)).collect();
        Self { bodies, numbers }
    }

    /// Whether the first of two runs lay before the other, if they lay beside each other.
    fn is_first(&self, a: &Body, b: &Body) -> Option<bool> {
        let [i, j] = [a, b].map(|body| self.numbers.get(&(body.edge, body.run)).copied());
        let (i, j) = (i?, j?);
        self.bodies[i].passes(&self.bodies[j]).then_some(i < j)
    }
}

struct Spread<'a, 'b> {
    ways: &'b Ways<'a>,
    places: &'b Places,
    orientation: Orientation,
    bodies: Vec<Body>,
    /// How many lines end at each side.
    ended: BTreeMap<(Anchor, usize), usize>,
    /// Whether some that lie beside each other had another order before.
    is_turned: bool,
}

impl<'a, 'b> Spread<'a, 'b> {
    fn new(ways: &'b Ways<'a>, places: &'b Places, orientation: Orientation) -> Self {
        let mut spread =
            Self { ways, places, orientation, bodies: Vec::new(), ended: BTreeMap::new(), is_turned: false };
        let things = Things::new(ways, orientation);
        for (edge, runs) in ways.runs.iter().enumerate() {
            for run in (0..runs.all.len()).filter(|i| runs.orientation(*i) == orientation) {
                let body = spread.body(&things, edge, run);
                spread.bodies.push(body);
            }
        }
        spread.bodies.sort_by_key(|b| (b.track, b.edge, b.run));
        let ends: Vec<_> = spread.bodies.iter().flat_map(|b| spread.ends_at(b)).collect();
        for (anchor, side, _) in ends {
            *spread.ended.entry((anchor, side.number())).or_default() += 1;
        }
        spread
    }

    fn body(&self, things: &Things, edge: usize, run: usize) -> Body {
        let (runs, at) = (&self.ways.runs[edge], &self.places.at[edge]);
        let wanted = self.ways.lattice.track_at(self.orientation, runs.all[run].track);
        let last = runs.all.len() - 1;
        let span = self.ways.span_between(edge, run, |i| at[i]);
        let anchor = |end: usize| self.ways.graph.edges[edge].end(end);
        let own = [(run == 0).then(|| anchor(0)), (run == last).then(|| anchor(1))];
        let (mut low, mut high) = things.room(wanted, span, own);
        // Its label has to pass, too.
        let more = (self.ways.thickness(edge, run) / 2.0 - CLEAR).max(0.0);
        if high - low > 2.0 * more + 1.0 {
            (low, high) = (low + more, high - more);
        }
        for anchor in own.into_iter().flatten() {
            let (from, to) = self.orientation.across(self.ways.placement.rect(anchor));
            let corner = CORNER.min((to - from) / 2.0);
            (low, high) = (low.max(from + corner), high.min(to - corner));
        }
        if low > high {
            let middle = (low + high) / 2.0;
            (low, high) = (middle, middle);
        }
        let track = runs.all[run].track;
        Body { edge, run, track, wanted, low, high, span, is_end: run == 0 || run == last }
    }

    /// The ends of a line at which a run ends: what it ends at, the side, and which end that is.
    fn ends_at(&self, body: &Body) -> impl Iterator<Item = (Anchor, Side, usize)> + use<'_> {
        let (edge, way) = (&self.ways.graph.edges[body.edge], self.ways.ways[body.edge].as_ref());
        let last = self.ways.runs[body.edge].all.len() - 1;
        let ends = [(body.run == 0, 0), (body.run == last, 1)].into_iter().filter(|(is_end, _)| *is_end);
        ends.filter_map(move |(_, end)| Some((edge.end(end), way?.sides[end], end)))
    }

    /// How far from a run the next one has to be so that the label of the first is not struck.
    fn beside_label(&self, own: &Body, other: &Body) -> f64 {
        let half = self.ways.thickness(own.edge, own.run) / 2.0;
        let Some(label) = self.ways.graph.edges[own.edge].label else { return PITCH };
        // Beyond the end of the other one there may be room for it.
        let along = if self.orientation == Orientation::Vertical { label.h } else { label.w };
        let before = f64::max(own.span.0, other.span.0) - own.span.0;
        let behind = own.span.1 - f64::min(own.span.1, other.span.1);
        if before.max(behind) > along + 2.0 * CLEAR { PITCH } else { half.max(PITCH) }
    }

    /// How far apart two runs have to be.
    fn distance(&self, a: &Body, b: &Body) -> f64 {
        let mut distance = self.beside_label(a, b).max(self.beside_label(b, a));
        for (anchor, side, end) in self.ends_at(a) {
            for (other, other_side, other_end) in self.ends_at(b) {
                if (anchor, side) != (other, other_side) {
                    continue;
                }
                let text = |edge: usize, end: usize| {
                    let size = self.ways.graph.edges[edge].end_labels[end];
                    size.map(|s| if self.orientation == Orientation::Vertical { s.w } else { s.h })
                };
                // The texts of two ends lie on the same side of their lines.
                if let Some(text) = text(a.edge, end).or(text(b.edge, other_end)) {
                    distance = distance.max(text + TEXT_GAP);
                }
                let (from, to) = self.orientation.across(self.ways.placement.rect(anchor));
                let count = self.ended.get(&(anchor, side.number())).copied().unwrap_or(0).max(2);
                distance = distance.min((to - from - 2.0 * CORNER).max(0.0) / (count - 1) as f64);
            }
        }
        distance
    }

    fn solve(&mut self, known: &Known) -> Vec<f64> {
        self.arrange(known);
        let count = self.bodies.len();
        let mut constraints = Vec::new();
        // How far anything up to each of them reaches: what is before all of that is in nobody's way.
        let furthest: Vec<f64> = self
            .bodies
            .iter()
            .scan(f64::NEG_INFINITY, |most, body| {
                *most = most.max(body.high);
                Some(*most)
            })
            .collect();
        for (j, b) in self.bodies.iter().enumerate() {
            let first = furthest[..j].partition_point(|high| high + PITCH <= b.low);
            for (i, a) in self.bodies[..j].iter().enumerate().skip(first) {
                if a.passes(b) && a.high + PITCH > b.low {
                    constraints.push((i, j, self.distance(a, b)));
                }
            }
        }
        let before = |i: usize| self.places.at[self.bodies[i].edge][self.bodies[i].run];
        self.is_turned = constraints.iter().any(|(i, j, _)| before(*i) > before(*j) + 0.5);
        let wanted: Vec<f64> = self.bodies.iter().map(|b| b.wanted).collect();
        let bounds: Vec<(f64, f64)> = self.bodies.iter().map(|b| (b.low, b.high)).collect();
        let firm = vec![1.0; count];
        let order: Vec<usize> = (0..count).collect();
        let mut found = separation::satisfied(&wanted, &firm, &constraints, &order, &bounds);
        for _ in 0..TIGHTER {
            if !self.tighten(&found, &mut constraints) {
                break;
            }
            found = separation::satisfied(&wanted, &firm, &constraints, &order, &bounds);
        }
        found
    }

    /// Brings lines closer together that pushed one of them through a wall; says whether there were any.
    fn tighten(&self, found: &[f64], constraints: &mut [(usize, usize, f64)]) -> bool {
        let count = self.bodies.len();
        let is_out = |i: usize| found[i] < self.bodies[i].low - 0.5 || found[i] > self.bodies[i].high + 0.5;
        let mut pushed: Vec<bool> = (0..count).map(is_out).collect();
        if !pushed.contains(&true) {
            return false;
        }
        // Whoever is pushed along by them is in the same crowd.
        let tight: Vec<(usize, usize)> = constraints
            .iter()
            .filter(|(i, j, distance)| found[*j] - found[*i] <= distance + 0.01)
            .map(|(i, j, _)| (*i, *j))
            .collect();
        loop {
            let before = pushed.iter().filter(|p| **p).count();
            for (i, j) in &tight {
                let is_pushed = pushed[*i] || pushed[*j];
                (pushed[*i], pushed[*j]) = (is_pushed, is_pushed);
            }
            if pushed.iter().filter(|p| **p).count() == before {
                break;
            }
        }
        for (i, j, distance) in constraints.iter_mut() {
            if pushed[*i] && pushed[*j] {
                *distance *= CLOSER;
            }
        }
        true
    }

    /// Brings runs that share a track into their order.
    fn arrange(&mut self, known: &Known) {
        let mut from = 0;
        while from < self.bodies.len() {
            let track = self.bodies[from].track;
            let to = from + self.bodies[from..].iter().take_while(|b| b.track == track).count();
            let arranged = arranged(&self.ways.runs, &self.bodies[from..to], known);
            self.bodies.splice(from..to, arranged);
            from = to;
        }
    }
}

/// Bodies of one track, those before others first; where they go round in a circle, as the text has them. What lay beside each
/// other before keeps its order: the lines that they turn into are where they are because of it.
fn arranged(runs: &[Runs], bodies: &[Body], known: &Known) -> Vec<Body> {
    let count = bodies.len();
    let mut before = vec![Vec::new(); count];
    let mut open = vec![0_usize; count];
    for j in 0..count {
        for i in 0..j {
            let (a, b) = (&bodies[i], &bodies[j]);
            if !a.passes(b) {
                continue;
            }
            let is_first = known.is_first(a, b).unwrap_or_else(|| comes_first(runs, (a.edge, a.run), (b.edge, b.run)));
            let (first, second) = if is_first { (i, j) } else { (j, i) };
            before[first].push(second);
            open[second] += 1;
        }
    }
    let mut left: Vec<usize> = (0..count).collect();
    let mut out = Vec::with_capacity(count);
    while !left.is_empty() {
        let least = left.iter().map(|i| open[*i]).min().unwrap_or(0);
        let at = left.iter().position(|i| open[*i] == least).unwrap_or(0);
        let next = left.remove(at);
        before[next].iter().for_each(|b| open[*b] = open[*b].saturating_sub(1));
        out.push(bodies[next].clone());
    }
    out
}

/// A node or a title.
struct Thing {
    /// The node, if it is one.
    anchor: Option<Anchor>,
    /// Its extent across the lines, and along them.
    across: (f64, f64),
    along: (f64, f64),
    /// The room that it wants.
    room: f64,
}

/// Room between a line and a title.
const TITLE: f64 = 6.0;

/// What lines of one direction have at their sides.
struct Things {
    boxes: Vec<Thing>,
    /// Sides of groups: where they lie, and from where to where.
    sides: Vec<(f64, (f64, f64))>,
}

impl Things {
    fn new(ways: &Ways, orientation: Orientation) -> Self {
        let placement = ways.placement;
        let both = |rect: Rect| (orientation.across(rect), orientation.along(rect));
        let nodes = placement.nodes.iter().enumerate().map(|(v, rect)| {
            let (across, along) = both(*rect);
            Thing { anchor: Some(Anchor::Node(v)), across, along, room: CLEAR }
        });
        let titles = title_rooms(ways.graph, placement).map(|rect| {
            let (across, along) = both(rect);
            Thing { anchor: None, across, along, room: TITLE }
        });
        let boxes = nodes.chain(titles).collect();
        let groups = placement.groups.iter().enumerate().filter(|(g, _)| !ways.graph.groups[*g].lane);
        let sides = groups.flat_map(|(_, rect)| {
            let ((from, to), along) = both(*rect);
            [(from, along), (to, along)]
        });
        Self { boxes, sides: sides.collect() }
    }

    /// Between which places a run may lie that begins on its track.
    fn room(&self, at: f64, span: (f64, f64), own: [Option<Anchor>; 2]) -> (f64, f64) {
        let (mut low, mut high) = (f64::MIN / 4.0, f64::MAX / 4.0);
        let mut wall = |from: f64, to: f64, room: f64| {
            if (from + to) / 2.0 > at { high = high.min(from - room) } else { low = low.max(to + room) }
        };
        for Thing { anchor, across, along, room } in &self.boxes {
            let passes = span.0 < along.1 + room - 1.0 && span.1 > along.0 - room + 1.0;
            if passes && !(anchor.is_some() && own.contains(anchor)) {
                wall(across.0, across.1, *room);
            }
        }
        for (side, along) in &self.sides {
            if span.0 < along.1 - 0.5 && span.1 > along.0 + 0.5 {
                wall(*side, *side, CLEAR);
            }
        }
        (low, high)
    }
}
