//! Overlap removal: the least moves that keep boxes apart, first along one axis, then along the other (Dwyer, Marriott,
//! Stuckey, "Fast node overlap removal", 2005): constraints between neighbours from a sweep, then variables merged into
//! blocks that move as one to the mean of what their members want (the paper's `satisfy`).

use crate::geom::{Point, Rect, Size};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::placement::Placement;
use std::collections::BTreeMap;

/// How much more firmly a group stands that holds twice as much, as a power of two.
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
        let mut constraints = constraints(&rects, axis);
        for (a, b, apart) in &mut constraints {
            let room = rooms.get(&(*a.min(b), *a.max(b))).copied().unwrap_or_default();
            *apart += f64::max(0.0, (if axis == Axis::X { room.w } else { room.h }) - gap);
        }
        let wanted: Vec<f64> = middles.iter().map(|m| if axis == Axis::X { m.x } else { m.y }).collect();
        let found = satisfy(&wanted, firm, &constraints);
        for (m, v) in middles.iter_mut().zip(found) {
            *(if axis == Axis::X { &mut m.x } else { &mut m.y }) = v;
        }
    }
}

/// Moves apart what overlaps inside one group, or outside all; groups move with what they hold, and are as firm as that and more.
pub(in crate::layout) fn in_group(
    graph: &Graph, out: &mut Placement, group: Option<usize>, firm: &[f64], gap: f64, rooms: &Rooms,
) {
    let nodes: Vec<usize> = (0..graph.nodes.len()).filter(|v| graph.nodes[*v].group == group).collect();
    let groups: Vec<usize> = (0..graph.groups.len()).filter(|g| graph.groups[*g].parent == group).collect();
    let rects: Vec<Rect> = nodes.iter().map(|v| out.nodes[*v]).chain(groups.iter().map(|g| out.groups[*g])).collect();
    let reach = gap * 0.28;
    let meets = |(i, a): (usize, &Rect)| rects[i + 1..].iter().any(|b| a.grown(reach).meets(b.grown(reach)));
    let ends: Vec<Anchor> =
        nodes.iter().map(|v| Anchor::Node(*v)).chain(groups.iter().map(|g| Anchor::Group(*g))).collect();
    let number = |end: &Anchor| ends.iter().position(|own| own == end);
    let own = |((a, b), room): (&(Anchor, Anchor), &Size)| Some(((number(a)?, number(b)?), *room));
    let rooms: BTreeMap<(usize, usize), Size> =
        rooms.iter().filter_map(own).map(|((i, j), room)| ((i.min(j), i.max(j)), room)).collect();
    let is_narrow = |((i, j), room): (&(usize, usize), &Size)| {
        let (a, b) = (rects[*i], rects[*j]);
        let beside = Rect::new(a.x - room.w, a.y, a.w + 2.0 * room.w, a.h).grown(-1e-6);
        let above = Rect::new(a.x, a.y - room.h, a.w, a.h + 2.0 * room.h).grown(-1e-6);
        beside.meets(b) || above.meets(b)
    };
    if !rects.iter().enumerate().any(meets) && !rooms.iter().any(is_narrow) {
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

/// `right - left >= gap` for boxes that overlap: along x only those whose overlap is narrower than it is tall.
fn constraints(rects: &[Rect], axis: Axis) -> Vec<(usize, usize, f64)> {
    let flipped = |r: &Rect| if axis == Axis::X { *r } else { Rect::new(r.y, r.x, r.h, r.w) };
    let rects: Vec<Rect> = rects.iter().map(flipped).collect();
    let mut order: Vec<usize> = (0..rects.len()).collect();
    order.sort_by(|a, b| rects[*a].y.total_cmp(&rects[*b].y).then(a.cmp(b)));
    let mut open: Vec<usize> = Vec::new();
    let mut list = Vec::new();
    for v in order {
        open.retain(|o| rects[*o].bottom() > rects[v].y + 1e-6);
        for o in &open {
            let (a, b) = if (rects[*o].middle().x, *o) <= (rects[v].middle().x, v) { (*o, v) } else { (v, *o) };
            let apart = (rects[a].w + rects[b].w) / 2.0;
            let overlap = apart - (rects[b].middle().x - rects[a].middle().x);
            let other = f64::min(rects[a].bottom(), rects[b].bottom()) - f64::max(rects[a].y, rects[b].y);
            // In the second pass everything that overlaps across is kept apart, so that moves push others along.
            if axis == Axis::Y || (overlap > 0.0 && overlap <= other) || overlap <= 0.0 {
                list.push((a, b, apart));
            }
        }
        open.push(v);
    }
    list
}

/// Positions near the wanted ones that fulfil all constraints, whose order is that of the wanted positions.
fn satisfy(wanted: &[f64], firm: &[f64], constraints: &[(usize, usize, f64)]) -> Vec<f64> {
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
    wanted: &[f64], firm: &[f64], constraints: &[(usize, usize, f64)], order: &[usize], bounds: &[(f64, f64)],
) -> Vec<f64> {
    let count = wanted.len();
    // The bounds of each block, for the place of its first member.
    let mut room = bounds.to_vec();
    let within = |at: f64, (low, high): (f64, f64)| if low > high { (low + high) / 2.0 } else { at.clamp(low, high) };
    // For each block, the constraints that come into it from others: right, left, gap.
    let mut into: Vec<Vec<(usize, usize, f64)>> = vec![Vec::new(); count];
    for (a, b, gap) in constraints {
        into[*b].push((*b, *a, *gap));
    }
    let mut block_of: Vec<usize> = (0..count).collect();
    let mut offset = vec![0.0; count];
    let mut members: Vec<Vec<usize>> = (0..count).map(|v| vec![v]).collect();
    let mut place: Vec<f64> = wanted.iter().zip(bounds).map(|(at, room)| within(*at, *room)).collect();
    for &v in order {
        // Merge with the block on the left that is in the way most, until none is.
        loop {
            let block = block_of[v];
            let at = |v: usize| place[block_of[v]] + offset[v];
            let violation = |(b, a, gap): &(usize, usize, f64)| (at(*a) + gap - at(*b), *a, *b, *gap);
            // What has become one block with the left one holds for good.
            into[block].retain(|(_, a, _)| block_of[*a] != block);
            let worst = into[block].iter().map(violation);
            let Some((by, a, b, gap)) = worst.max_by(|x, y| x.0.total_cmp(&y.0)) else { break };
            if by <= 1e-6 {
                break;
            }
            let left = block_of[a];
            let shift = offset[a] + gap - offset[b];
            let (low, high) = room[block];
            room[left] = (room[left].0.max(low - shift), room[left].1.min(high - shift));
            let moved = std::mem::take(&mut into[block]);
            into[left].extend(moved);
            for m in std::mem::take(&mut members[block]) {
                offset[m] += shift;
                block_of[m] = left;
                members[left].push(m);
            }
            let weight: f64 = members[left].iter().map(|m| firm[*m]).sum();
            let mean = members[left].iter().map(|m| firm[*m] * (wanted[*m] - offset[*m])).sum::<f64>() / weight;
            place[left] = within(mean, room[left]);
        }
    }
    (0..count).map(|v| place[block_of[v]] + offset[v]).collect()
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
