//! Room for what was moved or grew, and frames around it. Input: a placement with nodes at new places, and the frames as they
//! were. Output: the same where nothing overlaps that can give way, groups around what they hold, and lanes side by side;
//! a frame, or a side of a lane, stays where it can.
//!
//! What is pinned in the room of another lane is left there: whoever asks for that finds it as a fault.

use crate::geom::Rect;
use crate::layout::graph::{Anchor, Graph};
use crate::layout::orientation::Orientation;
use crate::layout::placement::Placement;
use crate::layout::separation::{self, Rooms};

/// Room between what stands in a lane and its sides, and the band with its title, in px.
const BESIDE: f64 = 8.0;
// An arrow head, and the corner before it.
const BELOW_BAND: f64 = 16.0;

/// Moves things apart, with this much room around them, from the innermost groups outwards; those that are firm stay. Frames that
/// leave less than `spare` px free stay as well.
pub(super) fn make_room(graph: &Graph, out: &mut Placement, firm: &[f64], (gap, rooms): (f64, &Rooms), spare: f64) {
    for g in (0..graph.groups.len()).rev() {
        separation::in_group(graph, out, Some(g), firm, gap, rooms);
        if !is_outermost_lane(graph, g) {
            frame(graph, out, g, spare);
        }
    }
    if (0..graph.groups.len()).any(|g| is_outermost_lane(graph, g)) {
        fit_lanes(graph, out);
    } else {
        separation::in_group(graph, out, None, firm, gap, rooms);
    }
}

/// The frame of one group around what it holds now; as it was where that still fits and leaves less than `spare` px free.
fn frame(graph: &Graph, out: &mut Placement, g: usize, spare: f64) {
    let group = &graph.groups[g];
    let nodes = graph.nodes.iter().zip(&out.nodes).filter(|(n, _)| n.group == Some(g)).map(|(_, r)| *r);
    let groups = graph.groups.iter().zip(&out.groups).filter(|(h, _)| h.parent == Some(g)).map(|(_, r)| *r);
    let members: Vec<Rect> = nodes.chain(groups).collect();
    let before = out.groups[g];
    if let Some(inner) = members.iter().copied().reduce(Rect::union) {
        let width = f64::max(inner.w, group.title.w) + 2.0 * group.inset;
        let height = inner.h + group.above() + group.inset;
        let needed = Rect::new(inner.x - group.inset, inner.y - group.above(), width, height);
        let now = out.groups[g];
        let title = group.title_in(now);
        // A little closer than usual is no reason to move; beside a title there may be something.
        let roomy = now.holds(inner.grown(group.inset * 0.7)) && now.w >= group.title.w + group.inset;
        let fits = roomy && members.iter().all(|m| !m.grown(3.0).meets(title));
        out.groups[g] = if fits && now.w - needed.w < spare && now.h - needed.h < spare { now } else { needed };
    }
    let rect = out.groups[g];
    let title = out.titles[g];
    let is_same = rect == before && title.w == group.title.w && rect.holds(title);
    let stays = is_same && !members.iter().any(|m| m.meets(title));
    if title.w <= 0.0 || !stays {
        out.titles[g] = group.title_in(rect);
    }
}

/// Gives lanes in no other lane their frames and titles.
fn fit_lanes(graph: &Graph, out: &mut Placement) {
    // Lanes run along the reading direction, one beside the other.
    let along = if graph.direction.is_sideways() { Orientation::Horizontal } else { Orientation::Vertical };
    let mut lanes: Vec<usize> = (0..graph.groups.len()).filter(|g| is_outermost_lane(graph, *g)).collect();
    lanes.sort_by(|a, b| along.across(out.groups[*a]).0.total_cmp(&along.across(out.groups[*b]).0));
    let (Some(first), Some(last)) = (lanes.first(), lanes.last()) else { return };
    for g in lanes.iter().filter(|g| graph.groups[**g].title.h > 0.0) {
        // An earlier picture says where frames are, and nothing of titles.
        if out.titles[*g].h <= 0.0 {
            out.titles[*g] = graph.groups[*g].title_in(out.groups[*g]);
        }
    }
    // 1. What each holds, from side to side; the middle of an empty one.
    let held: Vec<Option<Rect>> = lanes.iter().map(|g| held(graph, out, *g)).collect();
    let span = |i: usize| {
        let frame = out.groups[lanes[i]].middle();
        along.across(held[i].unwrap_or(Rect::new(frame.x, frame.y, 0.0, 0.0)))
    };
    // 2. The sides: where they were, or between what stands at both.
    let side = |before: f64, (from, to): (f64, f64), else_at: f64| {
        if before >= from + BESIDE && before <= to - BESIDE { before } else { else_at }
    };
    let (begin, end) = (span(0), span(lanes.len() - 1));
    let inset = |g: usize| graph.groups[g].inset;
    let mut sides =
        vec![side(along.across(out.groups[*first]).0, (f64::NEG_INFINITY, begin.0), begin.0 - inset(*first))];
    for i in 1..lanes.len() {
        let (left, right) = (span(i - 1).1, span(i).0);
        sides.push(side(along.across(out.groups[lanes[i - 1]]).1, (left, right), (left + right) / 2.0));
    }
    sides.push(side(along.across(out.groups[*last]).1, (end.1, f64::INFINITY), end.1 + inset(*last)));
    // 3. Where they begin and end, all of them together.
    let Some(all) = held.iter().flatten().copied().reduce(Rect::union) else { return };
    let (top, bottom) = along.along(out.groups[*first]);
    let (from, to) = along.along(all);
    let band = lanes.iter().map(|g| along.along(graph.header(*g, out)).1 - top).fold(0.0, f64::max);
    let top = top.min(from - BELOW_BAND - band);
    let bottom = if bottom >= to + BESIDE { bottom } else { to + inset(*first) };
    for (i, g) in lanes.into_iter().enumerate() {
        let before = out.groups[g];
        let frame = match along {
            Orientation::Vertical => Rect::new(sides[i], top, sides[i + 1] - sides[i], bottom - top),
            Orientation::Horizontal => Rect::new(top, sides[i], bottom - top, sides[i + 1] - sides[i]),
        };
        out.groups[g] = frame;
        out.titles[g] = out.titles[g].moved(frame.x - before.x, frame.y - before.y);
    }
}

/// Whether a group is a lane that lies in none.
fn is_outermost_lane(graph: &Graph, g: usize) -> bool {
    graph.groups[g].lane && graph.groups[g].parent.is_none()
}

/// The rectangle around everything in a lane.
fn held(graph: &Graph, out: &Placement, lane: usize) -> Option<Rect> {
    let lies_in = |end: Anchor| end != Anchor::Group(lane) && graph.groups_around(end).any(|g| g == lane);
    let nodes = (0..graph.nodes.len()).filter(|v| lies_in(Anchor::Node(*v))).map(|v| out.nodes[v]);
    let groups = (0..graph.groups.len()).filter(|g| lies_in(Anchor::Group(*g))).map(|g| out.groups[g]);
    nodes.chain(groups).reduce(Rect::union)
}
