//! Overlap removal: the least moves that keep boxes apart, first along one axis, then along the other (Dwyer, Marriott,
//! Stuckey, "Fast node overlap removal", 2005): constraints between neighbours from a sweep, then variables merged into
//! blocks that move as one to the mean of what their members want (the paper's `satisfy`).

use crate::geom::{Point, Rect, Size, SpatialIndex};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::placement::Placement;
use std::cmp::Ordering;
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

/// How much more firmly a group stands that holds twice as much, as a power of two.
// A lone box gives way to a group, and hardly the other way round: readers know a picture by its groups.
const WEIGHT: f64 = 3.0;

/// The room that two things keep between them if they stand beside each other (its width) or above each other (its height),
/// the lesser one first.
pub(in crate::layout) type Rooms = BTreeMap<(Anchor, Anchor), Size>;

/// Moves boxes until there are `gap` px between any two.
pub(in crate::layout) fn apart(sizes: &[Size], middles: &mut [Point], gap: f64) {
    weighted(sizes, &vec![1.0; sizes.len()], middles, gap, &BTreeMap::new());
}

/// The same, where some boxes resist moves more than others, and pairs of them need more room.
fn weighted(sizes: &[Size], firm: &[f64], middles: &mut [Point], gap: f64, rooms: &BTreeMap<(usize, usize), Size>) {
    // Along x where that is the shorter way, then along y whatever still overlaps.
    for axis in [Axis::X, Axis::Y] {
        let rects: Vec<Rect> =
            sizes.iter().zip(middles.iter()).map(|(s, m)| Rect::around(*m, Size::new(s.w + gap, s.h + gap))).collect();
        let constraints = constraints(&rects, rooms, gap, axis);
        let wanted: Vec<f64> = middles.iter().map(|m| if axis == Axis::X { m.x } else { m.y }).collect();
        let found = satisfy(&wanted, firm, &constraints);
        for (m, v) in middles.iter_mut().zip(found) {
            *(if axis == Axis::X { &mut m.x } else { &mut m.y }) = v;
        }
    }
}

/// Moves apart what overlaps inside one group, or outside all. Groups move with what they hold, and are the firmer the more
/// that is.
pub(in crate::layout) fn in_group(
    graph: &Graph, out: &mut Placement, group: Option<usize>, firm: &[f64], gap: f64, rooms: &Rooms,
) {
    let nodes: Vec<usize> = (0..graph.nodes.len()).filter(|v| graph.nodes[*v].group == group).collect();
    let groups: Vec<usize> = (0..graph.groups.len()).filter(|g| graph.groups[*g].parent == group).collect();
    let rects: Vec<Rect> = nodes.iter().map(|v| out.nodes[*v]).chain(groups.iter().map(|g| out.groups[*g])).collect();
    let reach = gap * 0.28;
    let grown: Vec<Rect> = rects.iter().map(|r| r.grown(reach)).collect();
    let near = SpatialIndex::of(&grown);
    let meets = |(i, a): (usize, &Rect)| near.touching(*a).any(|j| j != i && a.meets(grown[j]));
    let ends: Vec<Anchor> =
        nodes.iter().map(|v| Anchor::Node(*v)).chain(groups.iter().map(|g| Anchor::Group(*g))).collect();
    // Nodes come before groups, each in their order, as they do here.
    let number = |end: &Anchor| ends.binary_search(end).ok();
    let own = |((a, b), room): (&(Anchor, Anchor), &Size)| Some(((number(a)?, number(b)?), *room));
    let rooms: BTreeMap<(usize, usize), Size> = rooms.iter().filter_map(own).collect();
    let is_narrow = |((i, j), room): (&(usize, usize), &Size)| {
        let (a, b) = (rects[*i], rects[*j]);
        let beside = Rect::new(a.x - room.w, a.y, a.w + 2.0 * room.w, a.h).grown(-1e-6);
        let above = Rect::new(a.x, a.y - room.h, a.w, a.h + 2.0 * room.h).grown(-1e-6);
        beside.meets(b) || above.meets(b)
    };
    if !grown.iter().enumerate().any(meets) && !rooms.iter().any(is_narrow) {
        return;
    }
    let holds = |g: usize, v: usize| graph.groups_around(Anchor::Node(v)).any(|x| x == g);
    // The more a group holds, the more would move with it: of two, the smaller one makes way.
    let firm_group = |g: usize| {
        let held: Vec<usize> = (0..firm.len()).filter(|v| holds(g, *v)).collect();
        held.iter().map(|v| firm[*v]).fold(1.0, f64::max) * libm::pow(held.len().max(1) as f64, WEIGHT)
    };
    let firm: Vec<f64> = nodes.iter().map(|v| firm[*v]).chain(groups.iter().map(|g| firm_group(*g))).collect();
    let sizes: Vec<Size> = rects.iter().map(|r| Size::new(r.w, r.h)).collect();
    let mut middles: Vec<Point> = rects.iter().map(|r| r.middle()).collect();
    weighted(&sizes, &firm, &mut middles, gap, &rooms);
    let moves: Vec<(f64, f64)> = rects
        .iter()
        .zip(&middles)
        .map(|(r, m)| (libm::round(m.x - r.middle().x), libm::round(m.y - r.middle().y)))
        .collect();
    for (v, by) in nodes.iter().zip(&moves) {
        out.nodes[*v] = out.nodes[*v].moved(by.0, by.1);
    }
    for (g, by) in groups.iter().zip(&moves[nodes.len()..]) {
        for (_, node) in out.nodes.iter_mut().enumerate().filter(|(v, _)| holds(*g, *v)) {
            *node = node.moved(by.0, by.1);
        }
        for h in 0..graph.groups.len() {
            if graph.groups_around(Anchor::Group(h)).any(|x| x == *g) {
                out.groups[h] = out.groups[h].moved(by.0, by.1);
                out.titles[h] = out.titles[h].moved(by.0, by.1);
            }
        }
    }
}

/// The axis along which boxes move.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Axis {
    X,
    Y,
}

/// How many boxes are looked at on each side of a box for what overlaps it, along x.
// Only a heap has more of them, and what is left of it the pass along y moves apart.
const NEIGHBOURS: usize = 64;

/// `right - left >= gap`, as (left, right, gap), for boxes that overlap: along x only those whose overlap is narrower than it
/// is tall. Neighbours are enough: what lies beyond the first one that a box has room beside follows from those between.
fn constraints(rects: &[Rect], rooms: &BTreeMap<(usize, usize), Size>, gap: f64, axis: Axis) -> Vec<Constraint> {
    let flipped = |r: &Rect| if axis == Axis::X { *r } else { Rect::new(r.y, r.x, r.h, r.w) };
    let rects: Vec<Rect> = rects.iter().map(flipped).collect();
    let by = |at: fn(Rect) -> f64| {
        let mut order: Vec<usize> = (0..rects.len()).collect();
        order.sort_by(|a, b| at(rects[*a]).total_cmp(&at(rects[*b])).then(a.cmp(b)));
        order
    };
    let from_left = by(|r| r.middle().x);
    let mut rank = vec![0; rects.len()];
    from_left.iter().enumerate().for_each(|(i, v)| rank[*v] = i);
    let apart = |a: usize, b: usize| (rects[a].w + rects[b].w) / 2.0;
    let overlap = |a: usize, b: usize| apart(a, b) - (rects[b].middle().x - rects[a].middle().x).abs();
    let common = |a: usize, b: usize| f64::min(rects[a].bottom(), rects[b].bottom()) - f64::max(rects[a].y, rects[b].y);
    // In the second pass everything that overlaps across is kept apart, so that moves push others along.
    let is_kept = |a: usize, b: usize| axis == Axis::Y || overlap(a, b) <= f64::max(0.0, common(a, b));
    let most = if axis == Axis::X { NEIGHBOURS } else { 1 };
    let mut list = Vec::new();
    let mut add = |a: usize, b: usize, extra: f64| {
        let (a, b) = if rank[a] < rank[b] { (a, b) } else { (b, a) };
        list.push((a, b, apart(a, b) + extra));
    };
    let mut ends = by(Rect::bottom).into_iter().peekable();
    // What the sweep has begun and not ended, by rank.
    let mut open: BTreeSet<usize> = BTreeSet::new();
    for v in by(|r| r.y) {
        while let Some(gone) = ends.next_if(|o| rects[*o].bottom() <= rects[v].y + EXACT) {
            open.remove(&rank[gone]);
        }
        let mut keep_apart = |beside: &mut dyn Iterator<Item = &usize>| {
            for u in beside.take(most).map(|i| from_left[*i]) {
                if is_kept(u, v) {
                    add(u, v, 0.0);
                }
                if overlap(u, v) <= 0.0 {
                    break;
                }
            }
        };
        keep_apart(&mut open.range(..rank[v]).rev());
        keep_apart(&mut open.range(rank[v]..));
        open.insert(rank[v]);
    }
    for ((a, b), room) in rooms {
        let extra = (if axis == Axis::X { room.w } else { room.h }) - gap;
        if extra > 0.0 && common(*a, *b) > EXACT && is_kept(*a, *b) {
            add(*a, *b, extra);
        }
    }
    list
}

/// The left one, the right one, and how far apart their middles stay.
pub(in crate::layout) type Constraint = (usize, usize, f64);

/// Positions near the wanted ones that fulfil all constraints, whose order is that of the wanted positions.
fn satisfy(wanted: &[f64], firm: &[f64], constraints: &[Constraint]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..wanted.len()).collect();
    order.sort_by(|a, b| wanted[*a].total_cmp(&wanted[*b]).then(a.cmp(b)));
    satisfied(wanted, firm, constraints, &order, &vec![ANYWHERE; wanted.len()])
}

/// Bounds that are none.
pub(in crate::layout) const ANYWHERE: (f64, f64) = (f64::NEG_INFINITY, f64::INFINITY);

/// Positions near the wanted ones and within their bounds that fulfil all constraints `right - left >= gap`, given as
/// (left, right, gap). In `order`, the left one comes before the right one. Where bounds and constraints contradict each
/// other, the constraints hold.
pub(in crate::layout) fn satisfied(
    wanted: &[f64], firm: &[f64], constraints: &[Constraint], order: &[usize], bounds: &[(f64, f64)],
) -> Vec<f64> {
    let mut blocks = Blocks::new(wanted, firm, bounds);
    let mut into: Vec<Vec<(usize, f64)>> = vec![Vec::new(); wanted.len()];
    for (a, b, gap) in constraints {
        into[*b].push((*a, *gap));
    }
    for v in order {
        for (a, gap) in std::mem::take(&mut into[*v]) {
            blocks.keep_apart(a, *v, gap);
        }
        // Merge with the block on the left that is in the way most, until none is.
        while let Some(worst) = blocks.worst(blocks.of[*v]) {
            blocks.merge(worst);
        }
    }
    (0..wanted.len()).map(|v| blocks.at(v)).collect()
}

/// Less than this is no violation, in px.
// Places are multiples of 1/64 px; this is far below, and far above what sums of them are off.
const EXACT: f64 = 1e-6;

/// A constraint that leads into a block, by how far right its left end pushes the block.
#[derive(Clone, Copy)]
struct Push {
    /// Where the block would have to stand, but for what was added to all of its pushes since.
    to: f64,
    a: usize,
    b: usize,
    gap: f64,
}

impl Ord for Push {
    fn cmp(&self, other: &Self) -> Ordering {
        self.to.total_cmp(&other.to).then(self.a.cmp(&other.a)).then(self.b.cmp(&other.b))
    }
}

impl PartialOrd for Push {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for Push {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}

impl Eq for Push {}

/// What moves as one.
struct Block {
    /// Where it stands, in px.
    place: f64,
    /// Between which places it may stand.
    room: (f64, f64),
    members: Vec<usize>,
    /// How firm its members are together, and where they want it to stand, times that.
    weight: f64,
    wanted: f64,
    /// The constraints that lead into it from others, those of the past among them; and what is to be added to each.
    pushes: BinaryHeap<Push>,
    added: f64,
}

impl Block {
    fn settle(&mut self) {
        self.place = within(self.wanted / self.weight, self.room);
    }
}

fn within(at: f64, (low, high): (f64, f64)) -> f64 {
    if low > high { (low + high) / 2.0 } else { at.clamp(low, high) }
}

/// Variables in blocks that move as one.
struct Blocks {
    /// The block of each variable, and its place in it.
    of: Vec<usize>,
    offset: Vec<f64>,
    all: Vec<Block>,
}

impl Blocks {
    /// Each variable on its own, where it wants to be.
    fn new(wanted: &[f64], firm: &[f64], bounds: &[(f64, f64)]) -> Self {
        let block = |v: usize| Block {
            place: within(wanted[v], bounds[v]),
            room: bounds[v],
            members: vec![v],
            weight: firm[v],
            wanted: firm[v] * wanted[v],
            pushes: BinaryHeap::new(),
            added: 0.0,
        };
        let count = wanted.len();
        Self { of: (0..count).collect(), offset: vec![0.0; count], all: (0..count).map(block).collect() }
    }

    fn at(&self, v: usize) -> f64 {
        self.all[self.of[v]].place + self.offset[v]
    }

    /// Where the block of `b` has to stand so that `b` is `gap` px behind `a`.
    fn pushed_to(&self, a: usize, b: usize, gap: f64) -> f64 {
        self.at(a) + gap - self.offset[b]
    }

    /// From now on, `b` stands at least `gap` px behind `a`.
    fn keep_apart(&mut self, a: usize, b: usize, gap: f64) {
        let block = self.of[b];
        if self.of[a] != block {
            let to = self.pushed_to(a, b, gap) - self.all[block].added;
            self.all[block].pushes.push(Push { to, a, b, gap });
        }
    }

    /// The constraint that is violated most by where a block stands, if one is.
    fn worst(&mut self, block: usize) -> Option<Push> {
        loop {
            let push = self.all[block].pushes.pop()?;
            // What has become one block with the left one holds for good.
            if self.of[push.a] == block {
                continue;
            }
            let (known, now) = (push.to + self.all[block].added, self.pushed_to(push.a, push.b, push.gap));
            let to = now - self.all[block].added;
            // Blocks on the left only ever move to the left, and push less then.
            if now < known - EXACT {
                self.all[block].pushes.push(Push { to, ..push });
            } else if now - self.all[block].place > EXACT {
                return Some(push);
            } else {
                self.all[block].pushes.push(push);
                return None;
            }
        }
    }

    /// Makes one block of the two that a constraint joins, with as much room between its ends as it asks for.
    fn merge(&mut self, Push { a, b, gap, .. }: Push) {
        let (left, right) = (self.of[a], self.of[b]);
        let shift = self.offset[a] + gap - self.offset[b];
        // The smaller one moves, so that no variable moves often.
        let (kept, gone, shift) = if self.all[left].members.len() < self.all[right].members.len() {
            (right, left, -shift)
        } else {
            (left, right, shift)
        };
        let members = std::mem::take(&mut self.all[gone].members);
        for m in &members {
            self.offset[*m] += shift;
            self.of[*m] = kept;
        }
        let Ok([own, other]) = self.all.get_disjoint_mut([kept, gone]) else { return };
        own.members.extend(members);
        own.room = (own.room.0.max(other.room.0 - shift), own.room.1.min(other.room.1 - shift));
        own.weight += other.weight;
        own.wanted += other.wanted - shift * other.weight;
        let (mut pushes, mut added) = (std::mem::take(&mut other.pushes), other.added - shift);
        if pushes.len() > own.pushes.len() {
            std::mem::swap(&mut pushes, &mut own.pushes);
            std::mem::swap(&mut added, &mut own.added);
        }
        let by = added - own.added;
        own.pushes.extend(pushes.into_iter().map(|push| Push { to: push.to + by, ..push }));
        own.settle();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::pt;

    /// Room between two boxes, negative where they overlap.
    fn room(a: Rect, b: Rect) -> f64 {
        let x = f64::max(a.x, b.x) - f64::min(a.right(), b.right());
        let y = f64::max(a.y, b.y) - f64::min(a.bottom(), b.bottom());
        x.max(y)
    }

    #[test]
    fn boxes_that_overlap_are_moved_apart_and_others_stay() {
        let sizes = vec![Size::new(100.0, 40.0); 12];
        let mut middles: Vec<Point> =
            (0..12).map(|i| pt(f64::from(i % 4) * 37.0, f64::from(i / 4) * 23.0)).chain([]).collect();
        middles[11] = pt(2000.0, 2000.0);
        apart(&sizes, &mut middles, 10.0);
        assert_eq!(middles[11], pt(2000.0, 2000.0));
        let rects: Vec<Rect> = middles.iter().map(|m| Rect::around(*m, sizes[0])).collect();
        for (i, a) in rects.iter().enumerate() {
            for b in &rects[i + 1..] {
                assert!(room(*a, *b) > 9.9, "{a:?} {b:?}");
            }
        }
    }

    #[test]
    fn neighbours_are_enough_in_a_row_and_in_a_heap() {
        let room_of = |rects: &[Rect], axis| constraints(rects, &BTreeMap::new(), 0.0, axis).len();
        let row: Vec<Rect> = (0..3_000).map(|i| Rect::new(f64::from(i) * 120.0, 0.0, 100.0, 40.0)).collect();
        assert_eq!(room_of(&row, Axis::X), row.len() - 1);
        let heap = vec![Rect::new(0.0, 0.0, 100.0, 40.0); 3_000];
        assert_eq!(room_of(&heap, Axis::Y), heap.len() - 1);
        let mut middles = vec![pt(50.0, 20.0); heap.len()];
        apart(&vec![Size::new(100.0, 40.0); heap.len()], &mut middles, 10.0);
        let mut heights: Vec<f64> = middles.iter().map(|m| m.y).collect();
        heights.sort_by(f64::total_cmp);
        assert!(heights.windows(2).all(|pair| pair[1] - pair[0] > 49.9), "one below the other");
    }

    #[test]
    fn two_that_need_more_room_get_it_beyond_what_lies_between() {
        let sizes = vec![Size::new(40.0, 40.0); 3];
        let mut middles = vec![pt(0.0, 0.0), pt(50.0, 0.0), pt(100.0, 0.0)];
        let rooms = BTreeMap::from([((0, 2), Size::new(200.0, 0.0))]);
        weighted(&sizes, &[1.0; 3], &mut middles, 10.0, &rooms);
        assert!(middles[2].x - middles[0].x > 239.9, "{middles:?}");
    }

    #[test]
    fn bounds_hold_where_they_can_and_constraints_always() {
        let order = [0, 1, 2];
        let apart = [(0, 1, 10.0), (1, 2, 10.0)];
        let solve = |bounds: &[(f64, f64)]| satisfied(&[50.0; 3], &[1.0; 3], &apart, &order, bounds);
        assert_eq!(solve(&[ANYWHERE; 3]), [40.0, 50.0, 60.0]);
        let wall = (f64::NEG_INFINITY, 45.0);
        assert_eq!(solve(&[ANYWHERE, wall, ANYWHERE]), [35.0, 45.0, 55.0]);
        let found = solve(&[(48.0, 52.0); 3]);
        assert!(found.windows(2).all(|pair| pair[1] - pair[0] > 9.99), "{found:?}");
    }
}
