//! Tall pictures broken into columns, as a text is: what would be a strip several screens high stands side by side, each
//! column read from top to bottom, and lines lead from the foot of one to the head of the next. Lanes go on in every
//! column, under their titles.
//!
//! Input: a graph and its layered placement. Output: the same placement cut between layers, where the
//! fewest lines are cut and no group but lanes, with the pieces side by side. Lines within a piece keep their course;
//! those between pieces are searched from scratch around everything else. `None` where there is nothing to gain, nowhere to cut,
//! or no way for a line.

use crate::geom::{Rect, Size, pt};
use crate::layout::graph::{Anchor, Graph, RankDirection};
use crate::layout::placement::{Piece, Placement};
use crate::layout::route::Route;
use crate::layout::routing::lines;

/// Room between two columns, in px, and what each line in between adds to it.
// Wider than any gap inside a column, so that the eye sees where one ends.
const GUTTER: f64 = 56.0;
const TRACK: f64 = 12.0;
/// The aspect that columns are to reach, as width over height.
// An upright page, 3 : 4.
const WANTED: f64 = 0.75;
/// The same for lanes, which stand side by side already.
const WANTED_OF_LANES: f64 = 1.2;
/// Room between the titles of lanes and what stands first in a column, and below what stands last in it, in px.
const HEAD: f64 = 24.0;
/// Most columns, and least elements in one.
// More are no longer read from left to right on a page.
const MOST: usize = 12;
const LEAST: usize = 5;
/// How even columns are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) enum Evenness {
    /// Of two, one is at most twice as long as the other.
    Even,
    /// Longer, where that cuts fewer lines.
    Uneven,
}

impl Evenness {
    /// Both, the better one first.
    pub(in crate::layout) const ALL: [Self; 2] = [Self::Even, Self::Uneven];

    /// How far a cut may be from where even columns would have it, as a part of a column's height.
    fn reach(self) -> f64 {
        match self {
            // (1 + 1/3) ÷ (1 - 1/3) is two.
            Self::Even => 1.0 / 3.0,
            Self::Uneven => 0.45,
        }
    }
}

/// What a line that is cut costs, as a part of a column's height.
// One line less is worth a column that is a quarter longer.
const CUT: f64 = 0.25;

/// How many columns bring a placement near the wanted shape; 1 if it is no strip.
fn columns(placement: &Placement, wanted: f64) -> usize {
    let Size { w, h } = placement.size;
    let even = libm::sqrt(h * wanted / (w + GUTTER).max(1.0));
    (libm::round(even) as usize).min(MOST).min(placement.nodes.len() / LEAST).max(1)
}

/// The placement in columns; in rows, each read along the heading, where layers lie side by side.
pub(in crate::layout) fn broken(graph: &Graph, placement: &Placement, evenness: Evenness) -> Option<Placement> {
    let heading = graph.direction;
    if heading == RankDirection::Down {
        return broken_down(graph, placement, evenness);
    }
    // Titles of lanes lie at another side there, and have nowhere to be repeated.
    if graph.groups.iter().any(|g| g.lane) {
        return None;
    }
    let mut turned = placement.clone();
    turned.turn(heading);
    let downwards = Graph { direction: RankDirection::Down, ..graph.turned() };
    let mut broken = broken_down(&downwards, &turned, evenness)?;
    broken.turn_back(heading);
    Some(broken)
}

fn broken_down(graph: &Graph, placement: &Placement, evenness: Evenness) -> Option<Placement> {
    let lanes: Vec<usize> = (0..graph.groups.len()).filter(|g| graph.groups[*g].lane).collect();
    let outside = graph.groups.iter().any(|g| !g.lane && g.parent.is_none());
    let beside = graph.nodes.iter().any(|n| n.group.is_none());
    if outside || beside && !lanes.is_empty() {
        return None;
    }
    let count = columns(placement, if lanes.is_empty() { WANTED } else { WANTED_OF_LANES });
    if count < 2 {
        return None;
    }
    in_columns(graph, placement, &lanes, &cuts(graph, placement, count, evenness)?)
}

/// The placement cut at these levels, with the pieces side by side.
fn in_columns(graph: &Graph, placement: &Placement, lanes: &[usize], cuts: &[f64]) -> Option<Placement> {
    let column_at = |y: f64| cuts.iter().filter(|cut| **cut < y).count();
    let column_of: Vec<usize> = placement.nodes.iter().map(|r| column_at(r.middle().y)).collect();
    let of = |anchor: Anchor| match anchor {
        Anchor::Node(v) => column_of[v],
        Anchor::Group(g) => column_at(placement.groups[g].middle().y),
    };
    // 1. Lines that stay within a column.
    let own = |e: usize| {
        let (edge, route) = (&graph.edges[e], &placement.routes[e]);
        let column = of(edge.from);
        let texts = route.texts().flat_map(|r| [r.y, r.bottom()]);
        let stays = route.points.iter().map(|p| p.y).chain(texts).all(|y| column_at(y) == column);
        (stays && column == of(edge.to) && !route.points.is_empty()).then_some(column)
    };
    let line_of: Vec<Option<usize>> = (0..graph.edges.len()).map(own).collect();
    // 2. Each column as a picture of its own, one beside the other.
    let mut out = placement.clone();
    let frame = lanes.iter().map(|g| placement.groups[*g]).reduce(Rect::union);
    let head = lanes.iter().map(|g| graph.header(*g, placement).bottom()).fold(f64::NEG_INFINITY, f64::max);
    let (mut left, mut foot) = (0.0, 0.0);
    let mut shifts = Vec::new();
    for column in 0..=cuts.len() {
        let nodes = (0..column_of.len()).filter(|v| column_of[*v] == column);
        let groups = (0..graph.groups.len()).filter(|g| !graph.groups[*g].lane && of(Anchor::Group(*g)) == column);
        let lines = (0..line_of.len()).filter(|e| line_of[*e] == Some(column));
        let own = nodes.clone().map(|v| placement.nodes[v]).chain(groups.clone().map(|g| placement.groups[g]));
        let mut bounds = own.chain(lines.clone().filter_map(|e| placement.routes[e].bounds())).reduce(Rect::union)?;
        let between =
            graph.edges.iter().filter(|e| of(e.from).min(of(e.to)) < column && column <= of(e.from).max(of(e.to)));
        let room = TRACK * between.clone().count() as f64;
        if column > 0 {
            left += GUTTER + room;
        }
        // What lanes hold begins below their titles.
        let mut top = 0.0;
        if let Some(frame) = frame {
            (bounds.x, bounds.w) = (frame.x, frame.w);
            top = if column > 0 { head + HEAD + room } else { bounds.y };
        }
        let (dx, dy) = (left - bounds.x, top - bounds.y);
        nodes.for_each(|v| out.nodes[v] = out.nodes[v].moved(dx, dy));
        for g in groups {
            (out.groups[g], out.titles[g]) = (out.groups[g].moved(dx, dy), out.titles[g].moved(dx, dy));
        }
        lines.for_each(|e| out.routes[e].map(|p| pt(p.x + dx, p.y + dy), |r| r.moved(dx, dy)));
        foot = f64::max(foot, top + bounds.h);
        left += bounds.w;
        shifts.push(dx);
    }
    // 3. Lanes in every column, all as high as the highest.
    for &g in lanes {
        let first = placement.groups[g];
        let piece = |dx: f64| {
            let frame = Rect::new(first.x, first.y, first.w, foot + HEAD - first.y).moved(dx, 0.0);
            Piece { group: g, frame, title: placement.titles[g].moved(dx, 0.0) }
        };
        (out.groups[g], out.titles[g]) = (piece(shifts[0]).frame, piece(shifts[0]).title);
        out.pieces.extend(shifts[1..].iter().map(|dx| piece(*dx)));
    }
    // 4. Lines between columns.
    let cut: Vec<usize> = (0..line_of.len()).filter(|e| line_of[*e].is_none()).collect();
    let is_whole = lines::redraw_all(graph, &mut out, cut);
    out.fit();
    is_whole.then_some(out)
}

/// Where to cut a placement into this many pieces: levels between its layers, near those of even pieces.
fn cuts(graph: &Graph, placement: &Placement, count: usize, evenness: Evenness) -> Option<Vec<f64>> {
    let groups = graph.groups.iter().zip(&placement.groups).filter(|(g, _)| !g.lane).map(|(_, r)| *r);
    let mut rects: Vec<Rect> = placement.nodes.iter().copied().chain(groups).collect();
    rects.sort_by(|a, b| a.y.total_cmp(&b.y));
    // 1. Levels that no element reaches.
    let mut levels = Vec::new();
    let mut bottom = f64::NEG_INFINITY;
    for rect in rects {
        if bottom.is_finite() && rect.y > bottom + 1.0 {
            levels.push((bottom + rect.y) / 2.0);
        }
        bottom = bottom.max(rect.bottom());
    }
    // 2. How many lines each of them cuts.
    let is_cut = |r: &Route, y: f64| r.points.iter().any(|p| p.y < y) && r.points.iter().any(|p| p.y > y);
    let cut = |y: f64| placement.routes.iter().filter(|r| is_cut(r, y)).count();
    // 3. One after the other, each where what is left would be even.
    let mut out: Vec<f64> = Vec::new();
    let mut top = 0.0;
    for left in (2..=count).rev() {
        let column = (placement.size.h - top) / left as f64;
        let even = top + column;
        let cost = |y: f64| (y - even).abs() / column + CUT * cut(y) as f64;
        let near = levels.iter().copied().filter(|y| (y - even).abs() < evenness.reach() * column);
        top = near.min_by(|a, b| cost(*a).total_cmp(&cost(*b)))?;
        out.push(top);
    }
    Some(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layout::arrange::layered;
    use crate::layout::score::measure;
    use crate::layout::{Edge, Group, Node};

    /// A chain of steps, with a line back over a few of them.
    fn chain(steps: usize) -> Graph {
        let node = Node { size: Size::new(120.0, 44.0), ..Node::default() };
        let edge = |a, b| Edge::new(Anchor::Node(a), Anchor::Node(b));
        let mut edges: Vec<Edge> = (1..steps).map(|i| edge(i - 1, i)).collect();
        edges.push(edge(3, 1));
        Graph { nodes: vec![node; steps], edges, ..Graph::default() }
    }

    #[test]
    fn a_strip_becomes_columns_that_fit_a_page() {
        let graph = chain(40);
        let strip = layered::place(&graph, layered::LayeredOptions::default());
        assert!(strip.size.w / strip.size.h < 0.1);
        let out = broken(&graph, &strip, Evenness::Even).expect("it is a strip");
        let measures = measure(&graph, &out);
        assert_eq!(measures.faults, []);
        assert_eq!(measures.crossings, 0);
        assert!((0.5..=2.4).contains(&measures.aspect()), "{}", measures.aspect());
        // Every step stands below the one before, or at the head of a column further right.
        for pair in out.nodes.windows(2) {
            assert!(pair[1].y > pair[0].bottom() || pair[1].x > pair[0].right());
        }
    }

    #[test]
    fn lanes_go_on_in_every_column() {
        let mut graph = chain(60);
        let lane = Group { lane: true, title: Size::new(60.0, 20.0), inset: 24.0, ..Group::default() };
        graph.groups = vec![lane; 3];
        graph.nodes.iter_mut().enumerate().for_each(|(i, node)| node.group = Some(i / 2 % 3));
        let strip = layered::place(&graph, layered::LayeredOptions::default());
        let out = broken(&graph, &strip, Evenness::Even).expect("it is a strip");
        assert_eq!(measure(&graph, &out).faults, []);
        assert!((0.5..=2.4).contains(&measure(&graph, &out).aspect()));
        assert_eq!(out.pieces.len() % 3, 0);
        for (v, node) in graph.nodes.iter().enumerate() {
            let lane = node.group.expect("a lane");
            assert!(out.frames(lane).any(|frame| frame.holds(out.nodes[v])), "{v} lies in its lane");
        }
        // What stands outside of all lanes has no place in a column.
        graph.nodes[0].group = None;
        assert_eq!(broken(&graph, &strip, Evenness::Even), None);
    }

    #[test]
    fn no_column_is_much_longer_than_another_for_the_sake_of_a_line() {
        // Three lines reach over the middle, so that a cut there costs more than one further up.
        let mut graph = chain(26);
        graph.edges.pop();
        graph.edges.extend([(7, 16), (8, 17), (9, 18)].map(|(a, b)| Edge::new(Anchor::Node(a), Anchor::Node(b))));
        let strip = layered::place(&graph, layered::LayeredOptions::default());
        let cut = cuts(&graph, &strip, 2, Evenness::Even).expect("a place between two layers");
        let first = strip.nodes.iter().filter(|r| r.y < cut[0]).count();
        assert!((9..=17).contains(&first), "{first} of 26");
        for count in 2..6 {
            let cuts = cuts(&graph, &strip, count, Evenness::Even).expect("places between layers");
            let all: Vec<f64> = std::iter::once(0.0).chain(cuts).chain([strip.size.h]).collect();
            let heights: Vec<f64> = all.windows(2).map(|p| p[1] - p[0]).collect();
            let (least, most) = heights.iter().fold((f64::INFINITY, 0.0_f64), |(l, m), h| (l.min(*h), m.max(*h)));
            assert!(least > 0.0 && most < 2.1 * least, "{count} columns: {heights:?}");
        }
    }

    #[test]
    fn what_fits_a_page_is_left_alone() {
        let graph = chain(4);
        assert_eq!(broken(&graph, &layered::place(&graph, layered::LayeredOptions::default()), Evenness::Uneven), None);
    }
}
