//! Components: the parts of a graph that no line joins. Each is laid out on its own; then they are packed in rows, in
//! source order, into a picture that a page can hold (shelf packing with the width that comes nearest to the target
//! aspect, as in Freivalds, Dogrusoz, Kikusts, "Disconnected graph layout and the polyomino packing approach", 2001,
//! with rectangles in place of polyominoes).

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::{Anchor, Graph};
use crate::layout::placement::Placement;
use crate::layout::score::excess;
use crate::layout::sets::Sets;

/// Room between components, in px.
// Wider than gaps inside a part, so that parts are seen as such.
const GAP: f64 = 40.0;
/// The aspect that a page likes best.
// Between a sheet of paper on its side, 1.41, and a screen, 1.6.
const TARGET: f64 = 1.5;

/// A part of a graph, with the numbers its things have in the whole.
#[derive(Debug, Default)]
pub(in crate::layout) struct Part {
    pub(in crate::layout) graph: Graph,
    pub(in crate::layout) nodes: Vec<usize>,
    pub(in crate::layout) groups: Vec<usize>,
    pub(in crate::layout) edges: Vec<usize>,
}

/// The components of a graph, by their first nodes. What lies in one group, or is named by one constraint, stays together.
pub(in crate::layout) fn parts(graph: &Graph) -> Vec<Part> {
    let count = graph.nodes.len();
    let things = count + graph.groups.len();
    let mut joined = Sets::new(things);
    let number = |a: Anchor| a.number(count);
    for (v, node) in graph.nodes.iter().enumerate() {
        node.group.into_iter().for_each(|g| joined.join(v, count + g));
        node.beside.into_iter().for_each(|w| joined.join(v, w));
    }
    let mut lane = None;
    for (g, group) in graph.groups.iter().enumerate() {
        group.parent.into_iter().for_each(|p| joined.join(count + g, count + p));
        if group.lane {
            joined.join(count + g, count + *lane.get_or_insert(g));
        }
    }
    graph.edges.iter().for_each(|e| joined.join(number(e.from), number(e.to)));
    for constraint in &graph.constraints {
        constraint.ends().windows(2).for_each(|p| joined.join(number(p[0]), number(p[1])));
    }
    let mut part_of = vec![usize::MAX; things];
    let mut list: Vec<Part> = Vec::new();
    let mut local = vec![0; things];
    for v in 0..things {
        let top = joined.first(v);
        if part_of[top] == usize::MAX {
            part_of[top] = list.len();
            list.push(Part { graph: graph.emptied(), ..Part::default() });
        }
        part_of[v] = part_of[top];
        let part = &mut list[part_of[v]];
        if v < count {
            local[v] = part.nodes.len();
            part.nodes.push(v);
        } else {
            local[v] = part.groups.len();
            part.groups.push(v - count);
        }
    }
    let own = |a: &Anchor| match a {
        Anchor::Node(v) => Anchor::Node(local[*v]),
        Anchor::Group(g) => Anchor::Group(local[count + g]),
    };
    for part in &mut list {
        for v in &part.nodes {
            let node = &graph.nodes[*v];
            let (group, beside) = (node.group.map(|g| local[count + g]), node.beside.map(|w| local[w]));
            part.graph.nodes.push(crate::layout::Node { group, beside, ..node.clone() });
        }
        for g in &part.groups {
            let group = &graph.groups[*g];
            part.graph
                .groups
                .push(crate::layout::Group { parent: group.parent.map(|p| local[count + p]), ..group.clone() });
        }
    }
    for (e, edge) in graph.edges.iter().enumerate() {
        let part = &mut list[part_of[number(edge.from)]];
        part.edges.push(e);
        part.graph.edges.push(crate::layout::Edge { from: own(&edge.from), to: own(&edge.to), ..edge.clone() });
    }
    for constraint in &graph.constraints {
        if let Some(first) = constraint.ends().first() {
            list[part_of[number(*first)]].graph.constraints.extend(constraint.renumbered(|a| Some(own(&a))));
        }
    }
    list
}

/// Puts the placements of parts into one picture.
pub(in crate::layout) fn pack(graph: &Graph, parts: &[Part], placed: Vec<Placement>) -> Placement {
    let sizes: Vec<Size> = placed.iter().map(|p| p.size).collect();
    let corners = shelves(&sizes, GAP * graph.spacing);
    let mut out = Placement::unplaced(graph);
    for ((part, mut placement), at) in parts.iter().zip(placed).zip(corners) {
        placement.shift(at.x, at.y);
        out.take(placement, &part.nodes, &part.groups, &part.edges);
    }
    out.fit();
    out
}

/// Middles of boxes in rows of a grid, in source order: each row starts at the left, boxes of a row stand level.
pub(in crate::layout) fn grid(sizes: &[Size], gap: f64) -> Vec<Point> {
    let wide = sizes.iter().map(|s| s.w).fold(0.0, f64::max) + gap;
    let tall = sizes.iter().map(|s| s.h).fold(0.0, f64::max) + gap;
    let count = sizes.len().max(1);
    let best = (1..=count.min(40)).min_by(|a, b| {
        let aspect = |columns: usize| wide * columns as f64 / (tall * count.div_ceil(columns) as f64);
        let off = |columns: usize| libm::fabs(libm::log(aspect(columns) / TARGET));
        off(*a).total_cmp(&off(*b))
    });
    in_columns(sizes, gap, best.unwrap_or(1))
}

/// The same with this many columns, each as wide as the widest in it, and rows as tall as the tallest.
pub(in crate::layout) fn in_columns(sizes: &[Size], gap: f64, columns: usize) -> Vec<Point> {
    let column = |c: usize| sizes.iter().skip(c).step_by(columns).map(|s| s.w).fold(0.0, f64::max);
    let widths: Vec<f64> = (0..columns).map(column).collect();
    let mut middles = Vec::with_capacity(sizes.len());
    let mut y = 0.0;
    for row in sizes.chunks(columns) {
        let height = row.iter().map(|s| s.h).fold(0.0, f64::max);
        let mut x = 0.0;
        for (i, _) in row.iter().enumerate() {
            middles.push(pt(x + widths[i] / 2.0, y + height / 2.0));
            x += widths[i] + gap;
        }
        y += height + gap;
    }
    middles
}

/// Upper left corners of rectangles in rows, low ones above each other, in their order.
fn shelves(sizes: &[Size], gap: f64) -> Vec<Point> {
    let widest = sizes.iter().map(|s| s.w).fold(0.0, f64::max);
    let area: f64 = sizes.iter().map(|s| (s.w + gap) * (s.h + gap)).sum();
    let wanted = libm::sqrt(area * TARGET);
    // A few widths around the wanted one, the widest rectangle's, and rows as full as they come.
    let widths = [0.8, 0.9, 1.0, 1.1, 1.25, 1.5].into_iter().map(|f| f64::max(widest, wanted * f));
    let widths = widths.chain([widest, sizes.iter().map(|s| s.w + gap).sum()]);
    let cost = |size: Size| size.w * size.h * unlike_a_page(size);
    let tried = widths.flat_map(|w| [Columns::Single, Columns::Stacked].map(|columns| in_rows(sizes, gap, w, columns)));
    let best = tried.min_by(|a, b| cost(a.1).total_cmp(&cost(b.1)));
    best.map(|b| b.0).unwrap_or_default()
}

/// By how much a size is off the shape of a page; 1 for one that is just like it.
pub(in crate::layout) fn unlike_a_page(size: Size) -> f64 {
    let aspect = size.w / size.h.max(1.0);
    let off = libm::fabs(libm::log(aspect / TARGET));
    excess(size) * (1.0 + 0.3 * off)
}

/// What a column of a row may hold.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Columns {
    /// One component.
    Single,
    /// Several, below each other.
    Stacked,
}

/// Rows of columns: what fits below the last one of its row stands there if they stack, else beside it, else in a new row.
fn in_rows(sizes: &[Size], gap: f64, width: f64, columns: Columns) -> (Vec<Point>, Size) {
    let mut corners = Vec::with_capacity(sizes.len());
    let mut whole = Size::default();
    // The row, and the last column in it.
    let mut row = Rect::default();
    let mut column = Rect::default();
    for size in sizes {
        let is_first = row.w == 0.0;
        let fits_below = columns == Columns::Stacked
            && column.bottom() + gap + size.h <= row.bottom()
            && column.x + size.w.max(column.w) <= width;
        let fits_beside = row.right() + gap + size.w <= width + 0.5;
        let corner = match () {
            () if is_first => pt(0.0, 0.0),
            () if fits_below => pt(column.x, column.bottom() + gap),
            () if fits_beside => pt(row.right() + gap, row.y),
            () => pt(0.0, row.bottom() + gap),
        };
        let own = Rect::new(corner.x, corner.y, size.w, size.h);
        column = if fits_below && !is_first { column.union(own) } else { own };
        row = if is_first || !(fits_below || fits_beside) { own } else { row.union(own) };
        whole = Size::new(whole.w.max(own.right()), whole.h.max(own.bottom()));
        corners.push(corner);
    }
    (corners, whole)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::score::WIDEST;
    use crate::layout::{Edge, Node, PlacementConstraint};

    #[test]
    fn parts_are_what_lines_groups_and_constraints_join() {
        let edge = |a, b| Edge::new(Anchor::Node(a), Anchor::Node(b));
        let mut graph =
            Graph { nodes: vec![Node::default(); 6], edges: vec![edge(0, 3), edge(4, 1)], ..Graph::default() };
        let nodes = |graph: &Graph| parts(graph).into_iter().map(|p| p.nodes).collect::<Vec<_>>();
        assert_eq!(nodes(&graph), [vec![0, 3], vec![1, 4], vec![2], vec![5]]);
        graph.constraints = vec![PlacementConstraint::Order(vec![Anchor::Node(5), Anchor::Node(2)])];
        assert_eq!(nodes(&graph), [vec![0, 3], vec![1, 4], vec![2, 5]]);
        assert_eq!(parts(&graph)[1].graph.edges[0].from, Anchor::Node(1));
    }

    #[test]
    fn many_small_parts_fill_a_page() {
        let sizes = vec![Size::new(120.0, 48.0); 40];
        let corners = shelves(&sizes, 40.0);
        let w = corners.iter().map(|c| c.x + 120.0).fold(0.0, f64::max);
        let h = corners.iter().map(|c| c.y + 48.0).fold(0.0, f64::max);
        assert!(w / h > 1.0 && w / h < WIDEST, "{w} × {h}");
    }

    #[test]
    fn low_parts_stand_above_each_other_beside_a_tall_one() {
        let sizes = [(600.0, 500.0), (120.0, 200.0), (100.0, 80.0), (140.0, 60.0)].map(|(w, h)| Size::new(w, h));
        let (corners, whole) = in_rows(&sizes, 40.0, 800.0, Columns::Stacked);
        assert_eq!(corners, [pt(0.0, 0.0), pt(640.0, 0.0), pt(640.0, 240.0), pt(640.0, 360.0)]);
        assert_eq!(whole, Size::new(780.0, 500.0));
        let (corners, _) = in_rows(&sizes, 40.0, 770.0, Columns::Stacked);
        assert_eq!(corners[3], pt(0.0, 540.0), "too wide for the column and for the row");
    }
}
