//! Stability: unchanged things stay where an earlier picture has them. What is new finds a free place near what it is
//! joined with, what grew pushes its neighbours as little as it must (the [separation](crate::layout::separation)), and only lines
//! whose ends moved, or that something moved onto, are drawn from scratch.
//!
//! The mental map is kept in its strictest sense, positions themselves (Misue, Eades, Lai, Sugiyama, "Layout adjustment
//! and the mental map", 1995); whether the picture is still worth keeping is the portfolio's question.

use crate::geom::{Point, Rect, Size, SpatialIndex, distance, pt};
use crate::layout::arrange::boxes;
use crate::layout::constraints::changes::Changes;
use crate::layout::constraints::frames;
use crate::layout::earlier::Earlier;
use crate::layout::graph::{Anchor, Graph, RankDirection, Routing};
use crate::layout::placement::Placement;
use crate::layout::routing::lines;
use crate::layout::separation::Rooms;
use std::cell::OnceCell;

/// Room between what grew and its neighbours, in px: no more than it must be, or enough for lines and their texts.
// 14 px hold no line; 30 px one; 44 px one with its text.
const GAPS: [f64; 3] = [14.0, 30.0, 44.0];
/// Room before and behind a label between two things.
const LABEL: f64 = 16.0;
/// Room around a new node, in px.
// Room for one line on each side.
const GAP: f64 = 30.0;
/// Steps of the search for a free place.
// A third of a box: finer steps find places that look the same.
const STEP: f64 = 20.0;
/// How many rings of steps are searched.
// 800 px, about a screen: what has no place within it is put below the picture.
const RINGS: i32 = 40;
/// How many places are looked at for all that is new.
// Enough for hundreds of new nodes on one spot: what comes after them is put below the picture.
const MOST_LOOKS: usize = 500_000;

/// Why an earlier picture cannot be kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) enum Lost {
    /// Less than half of what is drawn now is in it.
    Elements,
    /// A line finds no way between what it holds.
    Lines,
}

/// Which lines of an earlier picture are kept.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Kept {
    /// Those about which nothing changed.
    Unchanged,
    /// None: a new one may find its way only where others make room.
    None,
}

/// To which side of what it was a thing grows, or shrinks.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Growth {
    /// To both: it keeps its middle.
    Both,
    /// It keeps its left side, or its right one.
    Right,
    Left,
}

impl Growth {
    /// Where a box of another size is now.
    fn of(self, before: Rect, size: Size) -> Rect {
        let now = Rect::around(before.middle(), size);
        let aside = (size.w - before.w) / 2.0;
        match self {
            Growth::Both => now,
            Growth::Right => now.moved(aside, 0.0),
            Growth::Left => now.moved(-aside, 0.0),
        }
    }
}

/// The earlier picture with the changes worked in.
pub(in crate::layout) fn place(graph: &Graph, earlier: &Earlier) -> Result<Placement, Lost> {
    let known = earlier.nodes.iter().flatten().count();
    if known == 0 || 2 * known < graph.nodes.len() {
        return Err(Lost::Elements);
    }
    // What grew first pushes others no more than it must; then labels keep their room; then more room for lines; then
    // all lines are drawn from scratch.
    let (none, rooms) = (Rooms::new(), rooms(graph, earlier));
    let first = std::iter::once((GAPS[0], &none, Kept::Unchanged));
    let kept = [Kept::Unchanged, Kept::None].into_iter().flat_map(|kept| GAPS.map(|gap| (gap, kept)));
    let all = first.chain(kept.map(|(gap, kept)| (gap, &rooms, kept)));
    let starts = Starts { graph, earlier, of: Default::default() };
    let mut attempts = all.filter_map(|(gap, rooms, kept)| with_gap(&starts, (gap, rooms), kept)).peekable();
    attempts.peek().ok_or(Lost::Lines)?;
    Ok(boxes::first_without_fault(graph, attempts))
}

/// The same with this much room around what grew.
fn with_gap(starts: &Starts<'_>, room: (f64, &Rooms), kept: Kept) -> Option<Placement> {
    let (graph, earlier) = (starts.graph, starts.earlier);
    // 1. and 2. Boxes.
    let mut out = settled(starts, room);
    // 3. Lines: kept where nothing about them changed.
    let redrawn = match kept {
        Kept::Unchanged => Changes::new(graph, earlier, &out).bent(earlier),
        Kept::None => (0..graph.edges.len()).collect(),
    };
    for (e, route) in earlier.routes.iter().enumerate().filter(|(e, _)| redrawn.binary_search(e).is_err()) {
        out.routes[e] = route.clone().unwrap_or_default();
    }
    // A slanted line that finds no way runs straight; a stepped one cannot.
    if graph.routing != Routing::Stepped {
        lines::redraw(graph, &mut out, redrawn);
    } else if !lines::redraw_all(graph, &mut out, redrawn) {
        return None;
    }
    out.fit();
    Some(out)
}

/// Everything in its place, without lines. What grew does so to both sides if that moves nothing else; otherwise to the side
/// where it moves the fewest others.
fn settled(starts: &Starts<'_>, room: (f64, &Rooms)) -> Placement {
    let moved = |out: &Placement| others_moved(starts.graph, starts.earlier, out);
    let both = starts.grown(room, Growth::Both);
    let least = moved(&both);
    let sides = [Growth::Right, Growth::Left].into_iter().filter(|_| least > 0);
    let counted = sides.map(|growth| starts.grown(room, growth)).map(|out| (moved(&out), out));
    counted.min_by_key(|(count, _)| *count).filter(|(count, _)| *count < least).map_or(both, |(_, out)| out)
}

/// How many things moved that are as large as they were.
fn others_moved(graph: &Graph, earlier: &Earlier, out: &Placement) -> usize {
    let is_same = |v: usize, before: Rect| graph.nodes[v].stretches || before.size() == graph.nodes[v].size;
    let has_moved = |v: usize, before: Rect| distance(before.middle(), out.nodes[v].middle()) > 1.0;
    let all = earlier.nodes.iter().enumerate().filter_map(|(v, before)| Some((v, (*before)?)));
    all.filter(|(v, before)| is_same(*v, *before) && has_moved(*v, *before)).count()
}

/// The earlier places with places for what is new, for each way to grow: they are the same whatever room there is.
struct Starts<'a> {
    graph: &'a Graph,
    earlier: &'a Earlier,
    of: [OnceCell<Placement>; 3],
}

impl Starts<'_> {
    /// The earlier places with room for what is new and what grew.
    fn grown(&self, room: (f64, &Rooms), growth: Growth) -> Placement {
        // 1. Places for what is new.
        let mut out = self.of[growth as usize].get_or_init(|| with_new(self.graph, self.earlier, growth)).clone();
        // 2. Room for what grew.
        let loose = vec![1.0; self.graph.nodes.len()];
        frames::make_room(self.graph, &mut out, &loose, room, f64::INFINITY);
        out
    }
}

/// The earlier places with what grew as large as it is now, and places for what is new, in source order, so that one new thing can
/// lean on another.
fn with_new(graph: &Graph, earlier: &Earlier, growth: Growth) -> Placement {
    let mut out = Placement::unplaced(graph);
    for (v, rect) in earlier.nodes.iter().enumerate().filter_map(|(v, r)| Some((v, (*r)?))) {
        let node = &graph.nodes[v];
        out.nodes[v] = if node.stretches { rect } else { growth.of(rect, node.size) };
    }
    for (g, rect) in earlier.groups.iter().enumerate().filter_map(|(g, r)| Some((g, (*r)?))) {
        out.groups[g] = rect;
    }
    let mut free = FreePlaces::new(graph, &out, earlier);
    for v in 0..graph.nodes.len() {
        if earlier.nodes[v].is_none() {
            out.nodes[v] = Rect::around(free.middle(v, &out), graph.nodes[v].size);
            free.take(v, out.nodes[v]);
        }
    }
    out
}

/// The room that labels have between what their lines join, as far as the earlier picture has it: what grows leaves it to
/// them.
fn rooms(graph: &Graph, earlier: &Earlier) -> Rooms {
    let mut rooms = Rooms::new();
    for edge in &graph.edges {
        let Some(label) = edge.label else { continue };
        let paths = [edge.from, edge.to].map(|end| boxes::around(graph, end).collect::<Vec<_>>());
        let common = paths[0].iter().find_map(|(holder, a)| {
            let other = paths[1].iter().find(|(own, b)| own == holder && a != b);
            other.map(|(_, b)| (a.anchor(), b.anchor()))
        });
        let Some((a, b)) = common else { continue };
        let known = |end: Anchor| end.of(&earlier.nodes, &earlier.groups);
        let Some(gap) = known(a).zip(known(b)).map(|(first, second)| first.gap(second)) else { continue };
        let room = rooms.entry((a.min(b), a.max(b))).or_default();
        room.w = room.w.max(gap.w.min(label.w + 2.0 * LABEL));
        room.h = room.h.max(gap.h.min(label.h + 2.0 * LABEL));
    }
    rooms
}

/// Where new nodes find a place: what is taken, and what each of them is joined with.
struct FreePlaces<'a> {
    graph: &'a Graph,
    /// The nodes that have a place, and the rectangle around them.
    placed: Vec<bool>,
    bounds: Rect,
    /// What is taken, nodes first, then the frames of groups.
    rects: Vec<Rect>,
    near: SpatialIndex,
    /// For each node the nodes that it is joined with, and whether it comes after them (1) or before them (-1).
    joined: Vec<Vec<(usize, f64)>>,
    /// How many places may still be looked at.
    looks: usize,
}

impl<'a> FreePlaces<'a> {
    fn new(graph: &'a Graph, out: &Placement, earlier: &Earlier) -> Self {
        let placed: Vec<bool> = earlier.nodes.iter().map(Option::is_some).collect();
        let rects = [&out.nodes[..], &out.groups].concat();
        let known = || out.nodes.iter().zip(&placed).filter(|(_, placed)| **placed).map(|(rect, _)| *rect);
        let bounds = known().reduce(Rect::union).unwrap_or_default();
        let mut near = SpatialIndex::new(bounds.grown(STEP * f64::from(RINGS)), rects.len());
        let is_there = |i: usize| placed.get(i).copied().unwrap_or(rects[i].w > 0.0);
        (0..rects.len()).filter(|i| is_there(*i)).for_each(|i| near.add(rects[i], i));
        let mut joined = vec![Vec::new(); graph.nodes.len()];
        for edge in &graph.edges {
            if let (Anchor::Node(v), Anchor::Node(w)) = (edge.from, edge.to)
                && v != w
            {
                joined[v].push((w, -1.0));
                joined[w].push((v, 1.0));
            }
        }
        Self { graph, placed, bounds, rects, near, joined, looks: MOST_LOOKS }
    }

    /// A new node stands here.
    fn take(&mut self, v: usize, rect: Rect) {
        (self.placed[v], self.rects[v]) = (true, rect);
        self.near.add(rect, v);
        self.bounds = self.bounds.union(rect);
    }

    /// Near what a new node is joined with; in its group, or below everything, where it is joined with nothing.
    fn wanted(&self, v: usize, home: Option<Rect>, out: &Placement) -> Point {
        let (mut sum, mut count) = (pt(0.0, 0.0), 0.0);
        let (dx, dy) = match self.graph.direction {
            RankDirection::Down => (0.0, 100.0),
            RankDirection::Up => (0.0, -100.0),
            RankDirection::Right => (200.0, 0.0),
            RankDirection::Left => (-200.0, 0.0),
        };
        for (other, ahead) in self.joined[v].iter().filter(|(other, _)| self.placed[*other]) {
            let m = out.nodes[*other].middle();
            sum = pt(sum.x + m.x + ahead * dx, sum.y + m.y + ahead * dy);
            count += 1.0;
        }
        let (size, bounds) = (self.graph.nodes[v].size, self.bounds);
        match (count > 0.0, home) {
            (true, _) => pt(sum.x / count, sum.y / count),
            (false, Some(home)) => pt(home.middle().x, home.bottom()),
            (false, None) => pt(bounds.x + size.w / 2.0, bounds.bottom() + GAP + size.h / 2.0),
        }
    }

    /// The middle of a place for a new node, where nothing lies yet.
    fn middle(&mut self, v: usize, out: &Placement) -> Point {
        let (node, bounds) = (&self.graph.nodes[v], self.bounds);
        let home = node.group.map(|g| out.groups[g]).filter(|r| r.w > 0.0);
        let wanted = self.wanted(v, home, out);
        let around: Vec<usize> = self.graph.groups_around(Anchor::Node(v)).collect();
        // A group of its own may grow to hold it, but not below its title.
        let holds = |r: Rect, own: Rect| r.w <= 0.0 || r.grown(400.0).holds(own) && own.y > r.y + 30.0;
        let is_inside = |own: Rect| around.iter().all(|g| holds(out.groups[*g], own));
        let is_own = |i: usize| i.checked_sub(out.nodes.len()).is_some_and(|g| around.contains(&g));
        let is_apart = |room: Rect| {
            let mut there = self.near.touching(room).filter(|i| self.rects[*i].w > 0.0 && !is_own(*i));
            !there.any(|i| self.rects[i].meets(room))
        };
        let is_free = |own: Rect| is_inside(own) && is_apart(own.grown(GAP));
        let mut best: Option<(f64, Point)> = None;
        for ring in 0..RINGS {
            for i in -ring..=ring {
                for (x, y) in [(i, -ring), (i, ring), (-ring, i), (ring, i)] {
                    let at = pt(wanted.x + f64::from(x) * STEP, wanted.y + f64::from(y) * STEP);
                    let own = Rect::around(at, node.size);
                    // Inside the frame that is there rather than beyond it.
                    let beyond = home.map_or(0.0, |h| {
                        let all = h.union(own.grown(16.0));
                        (all.w - h.w) + (all.h - h.h)
                    });
                    // To the left of everything, or above it, the whole picture would have to move.
                    let before = f64::max(bounds.x - own.x, 0.0) + f64::max(bounds.y - own.y, 0.0);
                    let cost = distance(at, wanted) + 2.0 * beyond + 4.0 * before;
                    if best.is_none_or(|(least, _)| cost < least) && self.looks > 0 {
                        self.looks -= 1;
                        best = if is_free(own) { Some((cost, at)) } else { best };
                    }
                }
            }
            if best.is_some_and(|(cost, _)| cost < f64::from(ring) * STEP) || self.looks == 0 {
                break;
            }
        }
        let at = best.map_or(pt(bounds.x, bounds.bottom() + GAP + node.size.h), |b| b.1);
        pt(libm::round(at.x), libm::round(at.y))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::arrange::layered;
    use crate::layout::score::measure;
    use crate::layout::{Edge, Node};

    fn graph(nodes: usize, edges: &[(usize, usize)]) -> Graph {
        let node = Node { size: Size::new(100.0, 40.0), ..Node::default() };
        let edge = |(a, b): &(usize, usize)| Edge::new(Anchor::Node(*a), Anchor::Node(*b));
        Graph { nodes: vec![node; nodes], edges: edges.iter().map(edge).collect(), ..Graph::default() }
    }

    /// A picture, and what it says to a later one.
    fn earlier(graph: &Graph) -> (Placement, Earlier) {
        let placement = layered::place(graph, layered::LayeredOptions::default());
        let earlier = Earlier::of(&placement);
        (placement, earlier)
    }

    #[test]
    fn what_did_not_change_is_the_same_picture() {
        let graph = graph(5, &[(0, 1), (0, 2), (1, 3), (2, 4)]);
        let (before, earlier) = earlier(&graph);
        assert_eq!(place(&graph, &earlier), Ok(before));
    }

    #[test]
    fn a_new_node_stands_near_what_it_is_joined_with() {
        let (before, mut known) = earlier(&graph(5, &[(0, 1), (0, 2), (1, 3), (2, 4)]));
        let wider = graph(6, &[(0, 1), (0, 2), (1, 3), (2, 4), (4, 5)]);
        known.nodes.push(None);
        known.routes.push(None);
        let now = place(&wider, &known).expect("most of it is left");
        let offset = (now.nodes[0].x - before.nodes[0].x, now.nodes[0].y - before.nodes[0].y);
        for v in 0..5 {
            assert_eq!(now.nodes[v], before.nodes[v].moved(offset.0, offset.1), "node {v}");
        }
        assert!(distance(now.nodes[5].middle(), now.nodes[4].middle()) < 250.0);
        assert_eq!(measure(&wider, &now).faults, []);
    }

    #[test]
    fn what_grows_pushes_its_neighbours() {
        let (before, known) = earlier(&graph(4, &[(0, 1), (0, 2), (0, 3)]));
        let mut grown = graph(4, &[(0, 1), (0, 2), (0, 3)]);
        grown.nodes[2].size = Size::new(260.0, 40.0);
        let now = place(&grown, &known).expect("all of it is left");
        assert_eq!(measure(&grown, &now).faults, []);
        assert_eq!(now.nodes[0].middle().y, before.nodes[0].middle().y);
    }

    #[test]
    fn what_grows_leaves_labels_their_room() {
        let side_by_side = |width: f64| {
            let mut graph = graph(2, &[(0, 1)]);
            graph.direction = RankDirection::Right;
            graph.edges[0].label = Some(Size::new(80.0, 18.0));
            graph.nodes[0].size.w = width;
            graph
        };
        let (before, known) = earlier(&side_by_side(100.0));
        assert_eq!(before.nodes[0].middle().y, before.nodes[1].middle().y);
        let grown = side_by_side(220.0);
        let now = place(&grown, &known).expect("all of it is left");
        assert_eq!(measure(&grown, &now).faults, []);
        assert!(now.nodes[0].gap(now.nodes[1]).w >= 80.0, "{:?}", now.nodes);
        // Nobody else is pushed up or down.
        assert_eq!(now.nodes[0].middle().y, now.nodes[1].middle().y);
    }

    #[test]
    fn what_grows_does_so_to_the_side_where_it_is_in_nobody_s_way() {
        let graph_of = |width: f64| {
            let mut graph = graph(3, &[]);
            graph.nodes[1].size.w = width;
            graph
        };
        let mut before = Placement::unplaced(&graph_of(100.0));
        before.nodes = [0.0, 130.0, 400.0].map(|x| Rect::new(x, 0.0, 100.0, 40.0)).to_vec();
        let known = Earlier::of(&before);
        let now = place(&graph_of(200.0), &known).expect("all of it is left");
        assert_eq!((now.nodes[0], now.nodes[2]), (before.nodes[0], before.nodes[2]), "the others stay");
        assert_eq!(now.nodes[1], Rect::new(130.0, 0.0, 200.0, 40.0), "it keeps its left side");
        // With room at both sides it keeps its middle.
        let now = place(&graph_of(120.0), &known).expect("all of it is left");
        assert_eq!(now.nodes[1].middle(), before.nodes[1].middle());
    }

    #[test]
    fn too_little_is_not_kept() {
        let (_, mut known) = earlier(&graph(2, &[(0, 1)]));
        known.nodes.extend([None, None, None]);
        known.routes.extend([None, None, None]);
        assert_eq!(place(&graph(5, &[(0, 1), (1, 2), (2, 3), (3, 4)]), &known), Err(Lost::Elements));
    }
}
