//! Lines around boxes in two steps, as on a circuit board: first which channels each line takes, then where in its
//! channel it runs. Which channels there are is known from the boxes, so there are few ways, all of them are known before
//! any line is drawn, and a line never finds its way blocked by another.
//!
//! Input: a graph and a placement of its nodes and groups, and the channels between them. Output: a route for each edge
//! that can have one, without texts.
//!
//! The passes:
//! 1. the tracks: one for each channel and one through the middle of each thing ([`lattice`]);
//! 2. the cheapest way of each edge over the tracks; lines may share a track, and crossings with ways already known cost
//!    ([`search`]); then each once more, now that all others are known (rip-up and re-route, as in Nair, "A simple yet
//!    effective technique for global wiring", 1987);
//! 3. the order of lines that share a track, so that only those cross that must ([`order`]);
//! 4. places side by side in the channel, as near to its middle, or to the middle of a side, as their neighbours allow
//!    ([`spread`]; the nudging of Wybrow, Marriott, Stuckey, "Orthogonal connector routing", 2009).

mod gaps;
mod lattice;
mod order;
mod search;
mod spread;
mod way;
mod ways;

pub(in crate::layout) use gaps::CLEAR;
pub(in crate::layout) use lattice::{Channel, enclosing, gaps_between};
pub(in crate::layout) use search::Care;
pub(in crate::layout) use ways::Ways;

#[cfg(test)]
mod tests {
    use super::gaps::PITCH;
    use super::ways::most_at_once;
    use super::*;
    use crate::geom::{Rect, Size};
    use crate::layout::graph::{Anchor, Edge, Graph, Group, Node};
    use crate::layout::orientation::Orientation;
    use crate::layout::placement::Placement;
    use crate::layout::route::Route;
    use crate::layout::score::measure;
    use proptest::prelude::*;

    const BOX: Size = Size { w: 100.0, h: 40.0 };

    /// Boxes in columns 200 px and rows 120 px apart, and the channels around them.
    fn boxes(cells: &[(usize, usize)], edges: &[(usize, usize)]) -> (Graph, Placement, Vec<Channel>) {
        let graph = Graph {
            nodes: vec![Node { size: BOX, ..Node::default() }; cells.len()],
            edges: edges.iter().map(|(a, b)| Edge::new(Anchor::Node(*a), Anchor::Node(*b))).collect(),
            ..Graph::default()
        };
        let nodes = cells.iter().map(|(c, r)| Rect::new(*c as f64 * 200.0, *r as f64 * 120.0, BOX.w, BOX.h)).collect();
        let routes = vec![Route::default(); edges.len()];
        let (columns, rows) =
            (cells.iter().map(|c| c.0).max().unwrap_or(0) + 1, cells.iter().map(|c| c.1).max().unwrap_or(0) + 1);
        let (width, height) = (columns as f64 * 200.0, rows as f64 * 120.0);
        let mut channels = Vec::new();
        for column in 0..=columns {
            let room = Rect::new(column as f64 * 200.0 - 100.0, -80.0, 100.0, height + 80.0);
            channels.push(Channel { orientation: Orientation::Vertical, room, reach: (-80.0, height) });
        }
        for row in 0..=rows {
            let room = Rect::new(-100.0, row as f64 * 120.0 - 80.0, width + 100.0, 80.0);
            channels.push(Channel { orientation: Orientation::Horizontal, room, reach: (-100.0, width) });
        }
        (graph, Placement { nodes, routes, ..Placement::default() }, channels)
    }

    fn drawn(graph: &Graph, placement: &Placement, channels: &[Channel]) -> Placement {
        let all: Vec<usize> = (0..graph.edges.len()).collect();
        let ways = Ways::find(graph, placement, channels, &all, Care::Full).expect("there are tracks");
        let mut drawn = Placement { routes: ways.drawn(), ..placement.clone() };
        drawn.fit();
        drawn
    }

    #[test]
    fn neighbours_are_joined_straight_and_others_around_what_stands_between() {
        let (graph, placement, channels) = boxes(&[(0, 0), (1, 0), (2, 0)], &[(0, 1), (1, 2), (0, 2)]);
        let drawn = drawn(&graph, &placement, &channels);
        let measures = measure(&graph, &drawn);
        assert_eq!((measures.faults, measures.crossings), (vec![], 0));
        assert_eq!(drawn.routes.iter().map(Route::bends).collect::<Vec<_>>(), [0, 0, 2]);
    }

    #[test]
    fn lines_that_share_a_channel_lie_side_by_side_and_cross_only_where_they_must() {
        // All from the left column to the right one, in the same order: nobody needs to cross.
        let cells = [(0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (1, 3)];
        let (graph, placement, channels) = boxes(&cells, &[(0, 3), (1, 4), (2, 5)]);
        let drawn = drawn(&graph, &placement, &channels);
        let measures = measure(&graph, &drawn);
        assert_eq!((measures.faults, measures.crossings), (vec![], 0));
        let middles: Vec<f64> = drawn.routes.iter().map(|r| r.points[1].x).collect();
        for (i, a) in middles.iter().enumerate() {
            assert!(middles[..i].iter().all(|b| (a - b).abs() >= PITCH - 0.1), "{middles:?}");
        }
    }

    #[test]
    fn the_room_that_lines_need_is_known_before_they_are_drawn() {
        let cells = [(0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (1, 3)];
        let (mut graph, placement, channels) = boxes(&cells, &[(0, 5), (1, 5), (2, 3)]);
        let all = [0, 1, 2];
        let demand = |graph: &Graph| {
            Ways::find(graph, &placement, &channels, &all, Care::Sketch).expect("there are tracks").demand(&channels)[1]
        };
        let plain = demand(&graph);
        assert_eq!(plain, 2.0 * CLEAR + 2.0 * PITCH, "three lines run down between the columns");
        graph.edges[0].label = Some(Size::new(300.0, 18.0));
        assert!(demand(&graph) > plain, "a label that fits on no level run needs room, too");
    }

    #[test]
    fn lines_that_leave_two_boxes_for_one_channel_never_lie_on_each_other() {
        // Here more pass each other after the first round of places than before, and their order goes round in a circle.
        let cells: Vec<(usize, usize)> = (0..9).map(|i| (i % 3, i / 3)).collect();
        let many = [(4, 2), (7, 5), (6, 0), (1, 6), (3, 5), (8, 0), (0, 5)];
        for edges in [&many[..], &[(1, 8), (5, 0), (2, 4), (4, 8), (6, 5)]] {
            let (graph, placement, channels) = boxes(&cells, edges);
            assert_eq!(measure(&graph, &drawn(&graph, &placement, &channels)).faults, [], "{edges:?}");
        }
    }

    #[test]
    fn what_a_sketch_tells_is_what_the_drawing_has() {
        // A cross of two lines, and one around a box.
        let cells = [(1, 0), (1, 2), (0, 1), (2, 1), (0, 3), (1, 3), (2, 3)];
        let (graph, placement, channels) = boxes(&cells, &[(0, 1), (2, 3), (4, 6)]);
        let ways = Ways::find(&graph, &placement, &channels, &[0, 1, 2], Care::Sketch).expect("there are tracks");
        let (sketch, drawing) = (ways.measures(), measure(&graph, &drawn(&graph, &placement, &channels)));
        assert_eq!((sketch.crossings, sketch.bends), (1, 2));
        assert_eq!((sketch.crossings, sketch.bends), (drawing.crossings, drawing.bends));
        // Lines lie in the middle of their channels until their order is known.
        assert!((sketch.length - drawing.length).abs() < 60.0, "{} and {}", sketch.length, drawing.length);
    }

    #[test]
    fn a_foreign_group_is_no_way_through_and_an_own_frame_is_met_at_a_side() {
        let (mut graph, mut placement, channels) = boxes(&[(0, 0), (1, 0), (2, 0)], &[(0, 2)]);
        graph.groups.push(Group { inset: 16.0, ..Group::default() });
        graph.nodes[1].group = Some(0);
        placement.groups = vec![Rect::new(180.0, -20.0, 140.0, 80.0)];
        placement.titles = vec![Rect::default()];
        assert_eq!(measure(&graph, &drawn(&graph, &placement, &channels)).faults, []);
        graph.edges.push(Edge::new(Anchor::Node(0), Anchor::Group(0)));
        placement.routes.push(Route::default());
        let drawn = drawn(&graph, &placement, &channels);
        assert_eq!(measure(&graph, &drawn).faults, []);
        let end = drawn.routes[1].points.last().copied().expect("a line");
        assert!((end.x - drawn.groups[0].x).abs() < 0.1, "it ends at the frame: {end:?}");
    }

    #[test]
    fn stretches_over_one_place_are_added_up() {
        let stretches = [((0.0, 10.0), 12.0), ((5.0, 20.0), 20.0), ((30.0, 40.0), 12.0)];
        assert_eq!(most_at_once(stretches.into_iter()), 32.0);
        assert_eq!(most_at_once(std::iter::empty()), 0.0);
    }

    #[test]
    fn ways_that_could_be_straight_are_known() {
        let (graph, placement, channels) = boxes(&[(0, 0), (1, 0), (1, 2)], &[(0, 1), (0, 2), (1, 2)]);
        let ways = Ways::find(&graph, &placement, &channels, &[0, 1, 2], Care::Full).expect("there are tracks");
        let level = ways.level();
        assert!(
            level.contains(&(0, Orientation::Horizontal)) && level.contains(&(2, Orientation::Vertical)),
            "{level:?}"
        );
    }

    proptest! {
        /// Whatever is joined: every line has a way, ends at its own boxes, enters no other, and lies on none.
        #[test]
        fn every_line_finds_a_way_that_is_its_own(
            columns in 2..5_usize, rows in 2..5_usize, ends in proptest::collection::vec((0..20_usize, 0..20_usize), 1..16),
        ) {
            let cells: Vec<(usize, usize)> = (0..columns * rows).map(|i| (i % columns, i / columns)).collect();
            let mut edges: Vec<(usize, usize)> =
                ends.iter().map(|(a, b)| (a % cells.len(), b % cells.len())).filter(|(a, b)| a != b).collect();
            // More lines than a box has room for would have to lie on each other.
            let mut at = vec![0; cells.len()];
            edges.retain(|(a, b)| {
                at[*a] += 1;
                at[*b] += 1;
                at[*a] <= 6 && at[*b] <= 6
            });
            let (graph, placement, channels) = boxes(&cells, &edges);
            let drawn = drawn(&graph, &placement, &channels);
            for (e, (from, to)) in edges.iter().enumerate() {
                let points = &drawn.routes[e].points;
                prop_assert!(points.len() > 1, "edge {} has no line", e);
                prop_assert!(points.windows(2).all(|p| p[0].x == p[1].x || p[0].y == p[1].y), "a step is a step");
                for (end, at) in [(from, points[0]), (to, points[points.len() - 1])] {
                    let side = drawn.nodes[*end];
                    let beside = side.grown(0.1).holds(Rect::around(at, Size::default()));
                    let within = side.grown(-0.1).holds(Rect::around(at, Size::default()));
                    prop_assert!(beside && !within, "it ends at a side: {:?} {:?}", side, at);
                }
            }
            let faults = measure(&graph, &drawn).faults;
            prop_assert!(faults.is_empty(), "{:?} for {:?}", faults, edges);
        }
    }
}
