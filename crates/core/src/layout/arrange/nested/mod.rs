//! Groups in groups, as a careful hand places them: every group is a compact block of rows and columns in the shape its
//! lines ask for; blocks that talk to each other stand beside each other and face each other; tops, widths and heights
//! are level; what lies in no group stands along the sides. Lines follow in the channels between them.
//!
//! Input: a graph with groups and without lanes. Output: its placement with lines.
//!
//! The passes:
//! 1. from the innermost groups outward: [`cells`] for what each group holds, and its size ([`blocks`]);
//! 2. from the outside in: the same again, now that it is known where what is outside stands;
//! 3. trades between cells where all lines gain by them ([`exchange`], with what crosses in [`crossings`]), and sides for what lies in no group ([`outside`]);
//! 4. which channels lines take ([`channels`]), as much room as they need there, and rows and columns moved so that they
//!    are straight ([`align`]);
//! 5. lines and their texts; then everything moves together as far as it stays level.
//!
//! After Kieffer, Dwyer, Marriott, Wybrow, "HOLA: human-like orthogonal network layout" (2016), in what people look for:
//! compact blocks, alignment, few bends, and symmetry before a strict flow.

mod align;
mod blocks;
mod cells;
mod channels;
mod crossings;
mod exchange;
mod extents;
mod outside;
mod strips;

use crate::geom::Rect;
use crate::jobs::{Jobs, map};
use crate::layout::arrange::boxes;
use crate::layout::graph::{Graph, Share};
use crate::layout::placement::Placement;
use crate::layout::refine::repair::repaired;
use crate::layout::refine::{compaction, straightening};
use crate::layout::routing::channels::{Care, Ways};
use crate::layout::routing::{labels, lines};
use crate::layout::score::{Measures, measure, page_factor};
use blocks::{Fit, Nested, SMALL, candidates};
use exchange::Lines;

/// This many numbers of columns of the whole are compared.
const VARIANTS: usize = 2;
/// Up to this many nodes, this many are.
const FEW: usize = 32;
const MORE_VARIANTS: usize = 6;
/// This many of them with compact groups as well.
// The likeliest ones only: each is a whole arrangement.
const COMPACT: usize = 3;
/// The first group of a level turns once more if the picture then costs less than this part; up to this many nodes, both are
/// tried.
// Less is within what the estimate is off.
const CLEAR_GAIN: f64 = 0.9;
const FEWEST: usize = 20;
/// In this many turns the groups of a level face what they talk to.
// After each, everything gets its place again.
const TURNS: usize = 60;
/// Each time, all groups are measured: this many times a group, over all levels.
const MOST_MEASURED: usize = 1_000_000;
/// This much area of the picture costs as much as a px of line, in px², as in the score.
const AREA: f64 = 270.0;
/// Arrangements that seem to cost more than this many times the likeliest one are not sketched; up to [`FEWEST`] nodes, and
/// above.
// Measured on 97 graphs: what comes out with 1.3 has a score 0.02 % worse in the mean. A picture of the reference with twelve
// nodes reads better with 1.4, and takes no time.
const PROMISING: [f64; 2] = [1.4, 1.3];
/// This many of those sketched get their lines.
// Measured on 101 graphs: those with the cheapest sketches come out 0.4 % worse in the mean than the best of all.
const DRAWN: usize = 2;
/// How much wider gaps are tried where lines or labels find no room.
// As with spacing: a third more each time.
const STRETCHES: [f64; 3] = [1.0, 1.35, 1.8];
const FEW_STRETCHES: [f64; 2] = [1.0, 1.35];
/// The same for more nodes than this: where so many lines run, usual gaps never do.
const LARGE: usize = 300;
const WIDE_STRETCHES: [f64; 2] = [1.25, 1.6];

/// Whether a graph can be arranged in this way: groups without lanes, nothing on frames, nothing that was asked for.
pub(in crate::layout) fn is_possible(graph: &Graph) -> bool {
    graph.constraints.is_empty()
        && !graph.groups.is_empty()
        && !graph.groups.iter().any(|g| g.lane || g.region)
        && !graph.nodes.iter().any(|n| n.border.is_some() || n.beside.is_some())
}

/// A way to arrange the whole.
struct Variant {
    /// Its number of columns.
    columns: usize,
    fit: Fit,
    again: Again,
}

/// Whether the first group of a level, which faced others that had not turned yet, turns once more.
#[derive(Clone, Copy)]
enum Again {
    Never,
    /// If the picture then costs clearly less.
    IfClear,
    Always,
}

/// Places a graph: of several arrangements of the whole, that with the best score; each with wider gaps where lines or
/// labels find no room. Of a larger graph, only the likeliest one gets its lines, and the next where that has a fault.
pub(in crate::layout) fn place(graph: &Graph, jobs: &dyn Jobs) -> Placement {
    let bare = Nested::new(graph).filled();
    let variants = variants(graph, &bare.clone().shapes());
    let is_small = graph.nodes.len() <= SMALL;
    let arranged = |i: usize| {
        let shaped = bare.clone().shaped(&variants[i]);
        let nested = if is_small { shaped.traded() } else { shaped };
        (nested.estimate(), nested)
    };
    let mut all = map(jobs, variants.len(), &arranged);
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    if graph.nodes.len() > LARGE {
        // Both at once: the first one seldom does.
        let Some((_, nested)) = all.into_iter().next() else { return Placement::default() };
        let nested = nested.traded();
        let drawn = |i: usize| repaired(graph, nested.clone().finished(WIDE_STRETCHES[i]));
        return boxes::first_without_fault(graph, map(jobs, WIDE_STRETCHES.len(), &drawn).into_iter());
    }
    if !is_small {
        let placements = all.into_iter().flat_map(|(_, nested)| finished(graph, nested.traded(), &FEW_STRETCHES));
        return boxes::first_without_fault(graph, placements);
    }
    // Some come out the same.
    all.dedup_by(|a, b| a.1.nodes == b.1.nodes);
    let least = all.first().map_or(0.0, |best| best.0);
    let promising = PROMISING[usize::from(graph.nodes.len() > FEWEST)];
    all.retain(|(estimate, _)| *estimate <= promising * least);
    let sketched = |i: usize| {
        let mut nested = all[i].1.clone();
        (nested.sketched(), nested)
    };
    let mut sketches: Vec<_> = map(jobs, all.len(), &sketched).into_iter().enumerate().collect();
    sketches.sort_by(|a, b| a.1.0.total_cmp(&b.1.0));
    sketches.truncate(DRAWN);
    let drawn = |i: usize| {
        let (arranged, (_, sketch)) = &sketches[i];
        let wider = finished(graph, all[*arranged].1.clone(), &STRETCHES[1..]);
        let placements = std::iter::once_with(|| repaired(graph, sketch.clone().drawn())).chain(wider);
        let placement = boxes::first_without_fault(graph, placements);
        (measure(graph, &placement).score(), placement)
    };
    let drawn = map(jobs, sketches.len(), &drawn).into_iter();
    drawn.min_by(|a, b| a.0.total_cmp(&b.0)).map(|best| best.1).unwrap_or_default()
}

/// What is tried: the likeliest numbers of columns first.
fn variants(graph: &Graph, shapes: &[usize]) -> Vec<Variant> {
    let nodes = graph.nodes.len();
    let is_alone = graph.share != Share::OneOfMany;
    let columns = if !is_alone {
        1
    } else if nodes <= FEW {
        MORE_VARIANTS
    } else {
        VARIANTS
    };
    let compact = if is_alone && nodes <= LARGE { COMPACT } else { 0 };
    let again: &[Again] = if is_alone && nodes <= FEWEST {
        &[Again::Never, Again::Always]
    } else if nodes <= SMALL {
        &[Again::IfClear]
    } else {
        &[Again::Always]
    };
    let fits = |i: usize| if i < compact { &[Fit::Cells, Fit::Compact][..] } else { &[Fit::Cells] };
    let of = |(i, columns): (usize, &usize)| {
        let columns = *columns;
        fits(i).iter().flat_map(move |fit| again.iter().map(move |again| Variant { columns, fit: *fit, again: *again }))
    };
    shapes.iter().take(columns).enumerate().flat_map(of).collect()
}

/// An arrangement with its lines, with wider and wider gaps. A few lines that are in each other's way run elsewhere.
fn finished<'g>(graph: &'g Graph, nested: Nested<'g>, stretches: &'g [f64]) -> impl Iterator<Item = Placement> + 'g {
    stretches.iter().map(move |stretch| repaired(graph, nested.clone().finished(*stretch)))
}

impl Nested<'_> {
    /// What groups hold in cells, each for itself.
    fn filled(mut self) -> Self {
        // 1. Children come after their parents.
        for block in (0..self.graph.groups.len()).rev() {
            self.arrange(block, &[]);
        }
        self
    }

    /// The numbers of columns that the whole may have, the likeliest first.
    fn shapes(mut self) -> Vec<usize> {
        let whole = self.graph.groups.len();
        let count = self.blocks[whole].held.len();
        let mut all: Vec<(f64, usize)> = candidates(count)
            .into_iter()
            .map(|columns| {
                self.columns = Some(columns);
                (self.arrange(whole, &[]), columns)
            })
            .collect();
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        all.into_iter().map(|a| a.1).collect()
    }

    /// What the picture costs as it stands, in px of line.
    fn estimate(&self) -> f64 {
        let mut lines = Lines::new(self.graph, &self.nodes, &self.groups);
        let all: Vec<usize> = (0..self.graph.edges.len()).collect();
        let bounds = self.bounds();
        let beyond = page_factor(bounds.size());
        (lines.cost(&all) + bounds.w * bounds.h / AREA) * beyond * beyond
    }

    /// Everything in a cell of its own block, and the whole in this many columns.
    fn shaped(mut self, variant: &Variant) -> Self {
        (self.columns, self.fit) = (Some(variant.columns), variant.fit);
        self.arrange(self.graph.groups.len(), &[]);
        self.settle();
        self.arrange_strips();
        // 2. Facing what they talk to.
        self.turned(variant.again)
    }

    /// Every group facing what it talks to, from the outside in.
    fn turned(mut self, again: Again) -> Self {
        // Of many groups, those that turn later face those that have turned.
        let levels = self.levels();
        let most = (MOST_MEASURED / self.graph.groups.len().max(1) / levels.len()).clamp(1, TURNS);
        let turns = if self.graph.nodes.len() <= SMALL { 1 } else { most };
        for level in &levels[1..] {
            for together in level.chunks(level.len().div_ceil(turns).max(1)) {
                self.turn(together);
            }
            let first = &level[..level.len().min(1)];
            match again {
                Again::Never => {}
                Again::Always => self.turn(first),
                Again::IfClear => {
                    let mut tried = self.clone();
                    tried.turn(first);
                    if tried.estimate() < CLEAR_GAIN * self.estimate() {
                        self = tried;
                    }
                }
            }
        }
        self.arrange_strips();
        self
    }

    /// Some groups facing what they talk to.
    fn turn(&mut self, blocks: &[usize]) {
        for block in blocks {
            let pulls = self.pulls(*block);
            self.arrange(*block, &pulls);
        }
        self.measure_all();
        self.settle();
    }

    /// The same after trades between cells.
    fn traded(mut self) -> Self {
        self.exchange();
        // 3. What is outside once more, now that it is known where everything inside stands.
        self.arrange_strips();
        self
    }

    /// The placement with its lines, and with wider gaps.
    fn finished(mut self, stretch: f64) -> Placement {
        self.stretch = stretch;
        self.make_room_for_lines(|_| ());
        self.drawn()
    }

    /// Makes room for lines, and says what the picture costs, as far as that is known before they are drawn.
    fn sketched(&mut self) -> f64 {
        let lines = self.make_room_for_lines(|ways| ways.measures()).unwrap_or_default();
        let size = self.bounds().size();
        Measures { size, ..lines }.score()
    }

    fn bounds(&self) -> Rect {
        self.nodes.iter().chain(&self.groups).copied().reduce(Rect::union).unwrap_or_default()
    }

    /// 4. Which channels lines take, and as much room as they need there; gives what is to be known of the ways.
    fn make_room_for_lines<T>(&mut self, known: impl FnOnce(&Ways) -> T) -> Option<T> {
        let graph = self.graph;
        self.measure_all();
        self.settle();
        let between = graph.edges_between();
        let sketch = boxes::placement(graph, self.nodes.clone(), self.groups.clone());
        let channels = self.channels();
        let ways = Ways::find(graph, &sketch, &channels, &between, Care::Sketch)?;
        self.make_room(&ways.demand(&channels));
        let level = ways.level();
        self.measure_all();
        self.settle();
        self.align(&level);
        Some(known(&ways))
    }

    /// 5. The placement with its lines.
    fn drawn(self) -> Placement {
        let graph = self.graph;
        let between = graph.edges_between();
        let channels = self.channels();
        let mut placement = boxes::placement(graph, self.nodes, self.groups);
        Ways::draw(graph, &mut placement, &channels, &between);
        compaction::compact(graph, &mut placement, compaction::Level::Grid);
        straightening::straighten(graph, &mut placement);
        lines::complete(graph, &mut placement);
        // Texts stand where their lines ran before all that.
        let mut moved = placement.clone();
        labels::put(graph, &mut moved, &between);
        let faults = |placement: &Placement| measure(graph, placement).faults.len();
        let mut placement = if faults(&moved) <= faults(&placement) { moved } else { placement };
        placement.fit();
        placement
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Size;
    use crate::jobs::OneByOne;
    use crate::layout::{Anchor, Edge, Group, Node};

    /// Two groups of the given sizes, one after the other, with edges between nodes.
    fn groups(sizes: &[usize], edges: &[(usize, usize)]) -> Graph {
        let frame = |_| Group { title: Size::new(80.0, 18.0), inset: 16.0, ..Group::default() };
        let holder = sizes.iter().enumerate().flat_map(|(g, count)| std::iter::repeat_n(g, *count));
        let node = |g| Node { size: Size::new(120.0, 48.0), group: Some(g), ..Node::default() };
        let edge = |(a, b): &(usize, usize)| Edge {
            label: Some(Size::new(60.0, 18.0)),
            ..Edge::new(Anchor::Node(*a), Anchor::Node(*b))
        };
        Graph {
            groups: (0..sizes.len()).map(frame).collect(),
            nodes: holder.map(node).collect(),
            edges: edges.iter().map(edge).collect(),
            spacing: 1.0,
            ..Graph::default()
        }
    }

    #[test]
    fn frames_hold_their_members_and_nothing_else() {
        let graph = groups(&[3, 4, 2], &[(0, 3), (3, 4), (4, 7), (7, 8), (1, 2), (5, 6)]);
        let placement = place(&graph, &OneByOne);
        for (v, rect) in placement.nodes.iter().enumerate() {
            for (g, frame) in placement.groups.iter().enumerate() {
                assert_eq!(frame.holds(*rect), graph.nodes[v].group == Some(g), "node {v} and group {g}");
            }
        }
        let apart = |a: usize, b: usize| a == b || !placement.groups[a].meets(placement.groups[b]);
        assert!((0..3).all(|a| (0..3).all(|b| apart(a, b))), "{:?}", placement.groups);
        assert!(measure(&graph, &placement).faults.is_empty(), "{:?}", measure(&graph, &placement).faults);
    }

    #[test]
    fn two_groups_with_a_line_between_them_are_level() {
        let graph = groups(&[2, 2], &[(0, 1), (1, 2), (2, 3)]);
        let placement = place(&graph, &OneByOne);
        let [a, b] = placement.groups[..] else { panic!("two groups") };
        let (beside, above) = (a.y == b.y && a.h == b.h, a.x == b.x && a.w == b.w);
        assert!(beside || above, "they stand as a staircase: {a:?} {b:?}");
    }

    #[test]
    fn what_is_joined_across_a_frame_faces_each_other() {
        // Of a row of three, only the last talks to the other group.
        let graph = groups(&[3, 1], &[(0, 1), (1, 2), (2, 3)]);
        let placement = place(&graph, &OneByOne);
        let far = |v: usize| {
            let (a, b) = (placement.nodes[v].middle(), placement.nodes[3].middle());
            (a.x - b.x).abs() + (a.y - b.y).abs()
        };
        assert!(far(2) < far(0), "{:?}", placement.nodes);
        let bends: usize = placement.routes.iter().map(|r| r.points.len().saturating_sub(2)).sum();
        assert!(bends <= 2, "{bends} bends in a chain of four");
    }

    #[test]
    fn the_same_graph_gives_the_same_places() {
        let graph = groups(&[4, 5, 3], &[(0, 4), (4, 9), (9, 1), (2, 6), (7, 11), (3, 10), (5, 8)]);
        assert_eq!(place(&graph, &OneByOne), place(&graph, &OneByOne));
    }

    #[test]
    fn groups_in_groups_lie_inside() {
        let mut graph = groups(&[2, 2, 1], &[(0, 2), (2, 4), (1, 3)]);
        graph.groups[1].parent = Some(0);
        let placement = place(&graph, &OneByOne);
        assert!(placement.groups[0].holds(placement.groups[1]), "{:?}", placement.groups);
        assert!(placement.titles.iter().zip(&placement.groups).all(|(title, frame)| frame.holds(*title)));
    }

    #[test]
    fn lanes_and_constraints_are_left_to_others() {
        let mut graph = groups(&[1, 1], &[(0, 1)]);
        assert!(is_possible(&graph));
        graph.groups[0].lane = true;
        assert!(!is_possible(&graph));
        assert!(!is_possible(&Graph::default()), "nothing to be a block");
    }
}
