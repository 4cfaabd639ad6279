//! Which layout a graph gets. Its parts are laid out on their own; for each, several candidates are computed, as many as
//! a graph of that size can afford, and the one with the least [score](crate::layout::score::Measures::score) is kept. The first candidate is
//! the plain one; another must be better, so equal ones never replace it.

use super::effort::{Effort, NESTED_EDGES};
use super::report::{Dropped, Keeping, Report};
use crate::jobs::{Jobs, OneByOne};
use crate::layout::arrange::apart;
use crate::layout::arrange::boxes::first_without_fault;
use crate::layout::arrange::force;
use crate::layout::arrange::free as boxes;
use crate::layout::arrange::layered;
use crate::layout::arrange::nested;
use crate::layout::arrange::radial;
use crate::layout::arrange::serpentine;
use crate::layout::arrange::tree;
use crate::layout::constraints::keep::{self, Lost};
use crate::layout::constraints::pins;
use crate::layout::constraints::unmet;
use crate::layout::earlier::Earlier;
use crate::layout::graph::{Anchor, Arrangement, Directed, Graph, PlacementConstraint, Routing, Share};
use crate::layout::placement::Placement;
use crate::layout::refine::folding as columns;
use crate::layout::refine::packing as pack;
use crate::layout::refine::repair;
use crate::layout::routing::lines;
use crate::layout::score::{Measures, excess, excess_height, excess_width, measure};
use crate::layout::simplex::{self, Constraint};

/// A fresh layout replaces the earlier picture only with a score below this part of the kept one's.
// Measured over one-line edits: with 0.85 one picture in ten moved for a gain that nobody sees, with 0.5 one in a
// hundred, because a fresh start was luckier and not because of the edit.
const MARGIN: f64 = 1.0 / 3.0;
/// A candidate replaces a plainer one only with a score below this part of it: luck in the last digit is no reason.
const RIVAL: f64 = 0.95;

/// How often what cannot be kept is left out.
// The first leaves out what is in the way, the second what that was in the way of.
const RETRIES: usize = 2;
/// How many layouts are tried, for up to this many nodes, to find out which constraint is in the way of another.
// A whole layout each: what is not kept is rare, and worth a moment.
const TRIES: usize = 12;
const TRIED_NODES: usize = 60;
/// How much wider the spacing is made in turn where lines that are not stepped lie on something.
// Each step is about a third: less finds no new place for a text, more wastes the page.
const SPACINGS: [f64; 4] = [1.0, 1.35, 1.8, 2.4];
/// Up to this many nodes: each spacing is a whole layout.
const SPACED_NODES: usize = 60;
/// Groups on their own must win by more: lines between them take longer ways, which the score hardly sees.
const APART: f64 = 0.85;
/// A picture with more than this many times the area of its nodes is mostly white.
const LOOSE: f64 = 8.0;

/// More lines than this between groups are a web.
// Groups in rows with lines around them are then found without trying what takes seconds.
const WEB: usize = 150;
/// Up to this many outermost groups of a large graph stand in rows.
// Measured: with forty, lines around them lay on each other in thousands of places.
const IN_ROWS: usize = 12;
/// Up to this many nodes, layers are tried besides blocks, if lines between groups form no circle.
// Measured on 57 graphs: of larger ones, blocks were the better one each time.
const FLOWING: usize = 12;

/// A placement and how it came about.
#[derive(Clone, Debug, PartialEq)]
pub struct Laid {
    /// Where everything is.
    pub placement: Placement,
    /// How that came about.
    pub report: Report,
}

/// Places a graph; near where an earlier picture has it, if there is one.
pub fn place(graph: &Graph) -> Laid {
    place_with(graph, &OneByOne)
}

/// The same, with candidates computed as the outside likes; the answer does not depend on it.
pub fn place_with(graph: &Graph, jobs: &dyn Jobs) -> Laid {
    let (mut laid, dropped) = kept_or_fresh(graph, jobs);
    laid.report.dropped = named(graph, dropped, jobs);
    laid
}

/// The earlier picture where it is worth keeping, else a fresh one; and the constraints that are not kept.
fn kept_or_fresh(graph: &Graph, jobs: &dyn Jobs) -> (Laid, Vec<usize>) {
    if graph.share == Share::Moment
        && let Some(kept) = kept_at_once(graph)
    {
        return kept;
    }
    let (fresh, dropped) = placed_anew(graph, jobs);
    let given_up = |keeping: Keeping, fresh: Laid, dropped: Vec<usize>| {
        (Laid { report: Report { keeping, ..fresh.report }, ..fresh }, dropped)
    };
    // Lanes in columns are cut from scratch each time: the cuts follow from the text.
    let Some(earlier) = graph.earlier.as_ref().filter(|_| fresh.placement.pieces.is_empty()) else {
        return (fresh, dropped);
    };
    let kept = match kept(graph, earlier) {
        Ok(kept) => kept,
        Err(Lost::Elements) => return given_up(Keeping::TooLittle, fresh, dropped),
        Err(Lost::Lines) => return given_up(Keeping::NoWay, fresh, dropped),
    };
    let (old, new) = (measure(graph, &kept), measure(graph, &fresh.placement));
    if old.faults.len() > new.faults.len() {
        return given_up(Keeping::Faults(old.faults.len() - new.faults.len()), fresh, dropped);
    }
    if new.score() < MARGIN * old.score() {
        return given_up(Keeping::Score(old.score(), new.score()), fresh, dropped);
    }
    let (score, faults) = (Some(old.score()), old.faults.len());
    let report = Report { keeping: Keeping::Kept, score, faults, ..fresh.report };
    let dropped = unmet::dropped(graph, &kept);
    (Laid { placement: kept, report }, dropped)
}

/// The earlier picture with what changed worked in.
fn kept(graph: &Graph, earlier: &Earlier) -> Result<Placement, Lost> {
    let mut kept = keep::place(graph, earlier)?;
    pins::keep(graph, &mut kept);
    let mut kept = repaired(graph, kept);
    kept.settle();
    Ok(kept)
}

/// The earlier picture if it can be kept without a fault, whatever a fresh one would look like.
fn kept_at_once(graph: &Graph) -> Option<(Laid, Vec<usize>)> {
    let has_columns = graph.groups.iter().any(|group| group.lane);
    let placement = kept(graph, graph.earlier.as_ref().filter(|_| !has_columns)?).ok()?;
    if !measure(graph, &placement).faults.is_empty() {
        return None;
    }
    let report = Report {
        effort: Effort::for_graph(graph),
        arrangement: graph.arrangement.unwrap_or(Arrangement::Layered),
        parts: 1,
        candidates: 1,
        keeping: Keeping::Kept,
        score: None,
        faults: 0,
        dropped: Vec::new(),
    };
    let dropped = unmet::dropped(graph, &placement);
    Some((Laid { placement, report }, dropped))
}

/// Lays out from scratch. What cannot be kept of the constraints does not change the picture either.
fn placed_anew(graph: &Graph, jobs: &dyn Jobs) -> (Laid, Vec<usize>) {
    let mut laid = laid_out(graph, jobs);
    let mut dropped = unmet::dropped(graph, &laid.placement);
    // What is left out may make room for more, or for less.
    for _ in 0..RETRIES {
        if dropped.is_empty() || laid.report.effort < Effort::Brisk || jobs.is_stopped() {
            break;
        }
        let again = laid_out(&without(graph, &dropped), jobs);
        let left = unmet::dropped(graph, &again.placement);
        if left.len() > dropped.len() {
            break;
        }
        let is_stable = left == dropped;
        (laid, dropped) = (again, left);
        if is_stable {
            break;
        }
    }
    (laid, dropped)
}

/// The same graph without some of its constraints.
fn without(graph: &Graph, dropped: &[usize]) -> Graph {
    let kept = graph.constraints.iter().enumerate().filter(|(i, _)| !dropped.contains(i));
    Graph { constraints: kept.map(|(_, constraint)| constraint.clone()).collect(), ..graph.clone() }
}

/// Constraints that could not be kept, each with the first one without which it could.
fn named(graph: &Graph, dropped: Vec<usize>, jobs: &dyn Jobs) -> Vec<Dropped> {
    let mut tries = if graph.nodes.len() <= TRIED_NODES && !jobs.is_stopped() { TRIES } else { 0 };
    let mut in_the_way = |constraint: usize| {
        let others = (0..graph.constraints.len()).filter(|other| !dropped.contains(other));
        let mut left = others.take(tries).inspect(|_| tries -= 1);
        left.find(|other| {
            let out: Vec<usize> = dropped.iter().copied().filter(|d| *d != constraint).chain([*other]).collect();
            let tried = Graph { share: Share::OneOfMany, ..without(graph, &out) };
            unmet::is_kept(graph, &laid_out(&tried, jobs).placement, &graph.constraints[constraint])
        })
    };
    let all: Vec<Option<usize>> = dropped.iter().map(|constraint| in_the_way(*constraint)).collect();
    dropped.into_iter().zip(all).map(|(constraint, against)| Dropped { constraint, against }).collect()
}

/// One layout from scratch with all constraints; its report does not say which it does not keep.
fn laid_out(graph: &Graph, jobs: &dyn Jobs) -> Laid {
    let effort = Effort::for_graph(graph);
    // Pins come last, and change nothing about how the rest is laid out.
    let is_pin = |constraint: &&PlacementConstraint| matches!(constraint, PlacementConstraint::Pin(..));
    let constraints: Vec<PlacementConstraint> = graph.constraints.iter().filter(|c| !is_pin(c)).cloned().collect();
    let unpinned = (constraints.len() < graph.constraints.len()).then(|| Graph { constraints, ..graph.clone() });
    let unpinned = unpinned.as_ref().unwrap_or(graph);
    let mut parts = pack::parts(unpinned);
    if effort == Effort::Plain && parts.len() > 1 {
        parts.iter_mut().for_each(|part| part.graph.share = Share::Part);
    }
    let mut report = Report {
        effort,
        arrangement: graph.arrangement.unwrap_or(Arrangement::Layered),
        parts: parts.len(),
        candidates: 0,
        keeping: Keeping::None,
        score: None,
        faults: 0,
        dropped: Vec::new(),
    };
    let largest = parts.iter().map(|p| p.nodes.len()).max().unwrap_or(0);
    let mut placed = Vec::with_capacity(parts.len());
    for part in &parts {
        let chosen = best(&part.graph, effort, jobs);
        if part.nodes.len() == largest {
            report.arrangement = chosen.arrangement;
        }
        report.candidates += chosen.candidates;
        placed.push(chosen.placement);
    }
    let mut placement = if placed.len() == 1 { placed.remove(0) } else { pack::pack(unpinned, &parts, placed) };
    pins::keep(graph, &mut placement);
    placement.settle();
    if effort != Effort::Plain {
        let measures = measure(graph, &placement);
        report.faults = measures.faults.len();
        report.score = (effort == Effort::Full).then(|| measures.score());
    }
    Laid { placement, report }
}

/// The best candidate of one part.
struct Chosen {
    placement: Placement,
    arrangement: Arrangement,
    candidates: usize,
}

/// A way to lay a part out.
#[derive(Clone, Copy, Debug)]
enum Way {
    Layered(layered::LayeredOptions),
    Tree(tree::TreeOptions),
    /// Layered, with groups on their own.
    Apart(apart::SplitOptions),
    Boxes(Arrangement),
    /// Groups in groups, as blocks.
    Nested,
    /// In rows back and forth.
    Serpentine,
}

/// What a graph is, where that decides how it may be laid out.
enum Shape {
    Chain(serpentine::Chain),
    Tree(tree::Tree),
    Other,
}

impl Shape {
    fn of(graph: &Graph) -> Self {
        if let Some(chain) = serpentine::find(graph) {
            return Shape::Chain(chain);
        }
        let may_be_tree = !graph.direction.is_sideways() || graph.arrangement.is_some();
        tree::find(graph).filter(|_| may_be_tree).map_or(Shape::Other, Shape::Tree)
    }
}

/// Groups in groups as blocks, and beside them layers, which read well where lines flow one way; none where nothing suits.
fn in_blocks(graph: &Graph, effort: Effort, jobs: &dyn Jobs) -> Vec<Candidate> {
    // A few groups in rows are quicker where there is much.
    let outermost = graph.groups.iter().filter(|g| g.parent.is_none()).count();
    let in_rows = effort < Effort::Brisk && outermost <= IN_ROWS && !apart::SplitOptions::nested(graph).is_empty();
    if effort < Effort::Some || in_rows || !suits_blocks(graph) {
        return Vec::new();
    }
    let ways = [Way::Nested, Way::Layered(layered::LayeredOptions::default())];
    let is_flowing = graph.nodes.len() <= FLOWING && flows_one_way(graph);
    let of = |way: Way| Candidate::of(graph, way, placed(graph, &way, &Shape::Other, jobs), Measured::All);
    crate::jobs::map(jobs, if is_flowing { 2 } else { 1 }, &|i| of(ways[i]))
}

fn best(graph: &Graph, effort: Effort, jobs: &dyn Jobs) -> Chosen {
    // 0. Blocks of groups in groups: nothing else is tried where they come out without a fault, or where there is so much
    //    that nothing else does.
    let chosen = in_blocks(graph, effort, jobs);
    if chosen.first().is_some_and(|blocks| effort < Effort::Brisk || blocks.measures.faults.is_empty()) {
        let candidates = chosen.len();
        let placement = chosen.into_iter().reduce(better).map(|c| c.placement).unwrap_or_default();
        return Chosen { placement, arrangement: Arrangement::Layered, candidates };
    }
    let mut chosen = chosen.into_iter();
    let (blocks, laid) = (chosen.next(), chosen.next());
    // 1. What is worth trying. A path is no tree.
    let shape = Shape::of(graph);
    let ways = ways(graph, &shape, effort);
    let is_layered = effort == Effort::Full && ways.iter().all(|w| matches!(w, Way::Layered(_)));
    let apart = if is_layered { apart::SplitOptions::candidates(graph) } else { Vec::new() };
    let closer =
        if is_layered && graph.constraints.is_empty() { layered::LayeredOptions::closer(graph) } else { Vec::new() };
    let more: Vec<Way> = apart.into_iter().map(Way::Apart).chain(closer.into_iter().map(Way::Layered)).collect();
    let folds = |way: &Way| matches!(way, Way::Layered(m) if m.folds());
    let measured = if ways.len() + more.len() > 1 { Measured::All } else { Measured::None };
    let (folded, plain): (Vec<Way>, Vec<Way>) = ways.into_iter().partition(folds);
    // 2. Candidates: layers are folded only where they are too wide, and groups on their own tried where all else is loose.
    let is_laid = |way: &Way| matches!(way, Way::Layered(options) if *options == layered::LayeredOptions::default());
    let candidate = |way: Way| {
        let known = laid.as_ref().filter(|_| is_laid(&way)).cloned();
        known.unwrap_or_else(|| Candidate::of(graph, way, placed(graph, &way, &shape, jobs), measured))
    };
    // Whoever does not wait any more is content with the first.
    let wanted = |ways: &[Way]| if jobs.is_stopped() { ways.len().min(1) } else { ways.len() };
    let try_all = |ways: &[Way]| crate::jobs::map(jobs, wanted(ways), &|i| candidate(ways[i]));
    let excess = if graph.direction.is_sideways() { excess_height } else { excess_width };
    let is_wide = |p: &Placement| excess(p.size) > 1.0;
    let mut all = try_all(&plain);
    if all.iter().any(|c| is_wide(&c.placement)) {
        all.extend(try_all(&folded));
    }
    if all.iter().all(|c| is_loose(&c.measures)) {
        all.extend(try_all(&more));
    }
    if is_layered && graph.routing != Routing::Stepped && graph.nodes.len() <= SPACED_NODES {
        add_others(graph, &mut all, &try_all);
    }
    // 3. A strip is broken into columns, or into rows where layers lie side by side.
    // Among many lines back and forth no column comes out better, and each line is drawn once more for it.
    let is_sparse = graph.edges.len() <= NESTED_EDGES.max(graph.nodes.len() * 5 / 4);
    if effort != Effort::Plain && graph.constraints.is_empty() && is_sparse {
        add_columns(graph, &mut all, measured);
    }
    // 4. The best.
    if all.len() > 1 || blocks.is_some() {
        all.iter_mut().for_each(|c| c.measure(graph));
    }
    all.extend(blocks);
    let candidates = all.len();
    let Some(Candidate { placement, way, .. }) = all.into_iter().reduce(better) else {
        return Chosen { placement: Placement::default(), arrangement: Arrangement::Layered, candidates };
    };
    let arrangement = match way {
        Way::Tree(_) => Arrangement::Tree,
        Way::Layered(_) | Way::Apart(_) | Way::Nested | Way::Serpentine => Arrangement::Layered,
        Way::Boxes(arrangement) => arrangement,
    };
    Chosen { placement, arrangement, candidates }
}

/// Whether groups in groups may stand as blocks: lines have no direction in time, and nothing else was asked for.
fn suits_blocks(graph: &Graph) -> bool {
    let has_trunks = graph.edges.iter().any(|e| e.trunk.is_some());
    graph.directed != Directed::InTime && !has_trunks && graph.arrangement.is_none() && nested::is_possible(graph)
}

/// Whether the lines between the outermost groups, and what lies in none, form no circle: such a graph may read well in
/// layers.
fn flows_one_way(graph: &Graph) -> bool {
    let nodes = graph.nodes.len();
    let outermost = |end: Anchor| graph.groups_around(end).last().map_or(end, Anchor::Group).number(nodes);
    let pairs = graph.edges.iter().map(|edge| (outermost(edge.from), outermost(edge.to)));
    let between = pairs.filter(|(from, to)| from != to);
    let all: Vec<Constraint> = between.map(|(tail, head)| Constraint { tail, head, min: 1, weight: 0 }).collect();
    simplex::is_possible(nodes + graph.groups.len(), &all)
}

/// The placement of one way. Where lines are not stepped, what the layout left room for is not where they run: it is made wider
/// until they, and their texts, lie on nothing.
fn placed(graph: &Graph, way: &Way, shape: &Shape, jobs: &dyn Jobs) -> Placement {
    let is_wide_enough = graph.routing == Routing::Stepped || matches!(way, Way::Boxes(_));
    if is_wide_enough || graph.nodes.len() > SPACED_NODES {
        return placed_once(graph, way, shape, jobs);
    }
    let spaced = |by: f64| Graph { spacing: graph.spacing * by, ..graph.clone() };
    first_without_fault(graph, SPACINGS.into_iter().map(|by| placed_once(&spaced(by), way, shape, jobs)))
}

/// The same with the spacing that was asked for.
fn placed_once(graph: &Graph, way: &Way, shape: &Shape, jobs: &dyn Jobs) -> Placement {
    let layered = |options: layered::LayeredOptions| move |g: &Graph| repaired(g, layered::place(g, options));
    let mut placement = match (way, shape) {
        (Way::Tree(options), Shape::Tree(tree)) => {
            let mut placement = tree::place(&graph.turned(), tree, *options);
            placement.turn_back(graph.direction);
            placement
        }
        (Way::Layered(options), _) => {
            let inner = layered(*options);
            apart::place_headed(graph, &inner).map_or_else(|| inner(graph), |p| repaired(graph, p))
        }
        (Way::Apart(options), _) => repaired(graph, apart::place_all(graph, *options, &layered(options.layers))),
        (Way::Boxes(arrangement), _) => boxes::place(graph, *arrangement),
        (Way::Nested, _) => repaired(graph, nested::place(graph, jobs)),
        (Way::Serpentine, Shape::Chain(chain)) => serpentine::place(graph, chain),
        (Way::Tree(_) | Way::Serpentine, _) => layered::place(graph, layered::LayeredOptions::default()),
    };
    if graph.routing != Routing::Stepped && !matches!(way, Way::Boxes(_)) {
        lines::complete(graph, &mut placement);
        placement.fit();
    }
    placement
}

/// Which candidates have their measures.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Measured {
    All,
    /// There was nothing to compare.
    None,
}

/// Adds other layers where lines that are not stepped lie on something in all candidates: they may leave texts room.
fn add_others(graph: &Graph, all: &mut Vec<Candidate>, try_all: &dyn Fn(&[Way]) -> Vec<Candidate>) {
    all.iter_mut().for_each(|c| c.measure(graph));
    if all.iter().all(|c| !c.measures.faults.is_empty()) {
        let others: Vec<Way> = layered::LayeredOptions::others().into_iter().map(Way::Layered).collect();
        all.extend(try_all(&others));
        all.iter_mut().for_each(|c| c.measure(graph));
    }
}

/// Adds the strips among layered candidates once more, broken into columns.
fn add_columns(graph: &Graph, all: &mut Vec<Candidate>, measured: Measured) {
    for i in 0..all.len() {
        let (way, size) = (all[i].way, all[i].placement.size);
        let excess = if graph.direction.is_sideways() { excess_width(size) } else { excess_height(size) };
        if !matches!(way, Way::Layered(_)) || excess <= 1.0 {
            continue;
        }
        for evenness in columns::Evenness::ALL {
            let Some(placement) = columns::broken(graph, &all[i].placement, evenness) else { continue };
            if measured == Measured::None {
                all[i].measure(graph);
            }
            let measures = measure(graph, &placement);
            // Uneven columns are for what is no better in even ones.
            let is_enough = measures.score() < RIVAL * all[i].measures.score();
            all.push(Candidate { placement, way, measures });
            if is_enough {
                break;
            }
        }
    }
}

/// A placement that may be chosen; without measures where there is nothing to compare it with.
#[derive(Clone)]
struct Candidate {
    placement: Placement,
    way: Way,
    measures: Measures,
}

impl Candidate {
    /// The layout that one way gave.
    fn of(graph: &Graph, way: Way, placement: Placement, measured: Measured) -> Self {
        let measures = if measured == Measured::All { measure(graph, &placement) } else { Measures::default() };
        Self { placement, way, measures }
    }

    /// Measures it, if that was not done.
    fn measure(&mut self, graph: &Graph) {
        if self.measures == Measures::default() {
            self.measures = measure(graph, &self.placement);
        }
    }
}

/// The better of two: a rival has to win by a margin, so that a small edit does not change the way of a picture.
fn better(kept: Candidate, rival: Candidate) -> Candidate {
    let is_apart = |c: &Candidate| matches!(c.way, Way::Apart(_));
    let margin = if is_apart(&rival) && !is_apart(&kept) { APART } else { RIVAL };
    if rival.measures.score() < margin * kept.measures.score() { rival } else { kept }
}

/// Whether groups on their own might do better: lines cross, or much of the picture is white, or no page holds it.
fn is_loose(measures: &Measures) -> bool {
    measures.crossings > 0 || measures.area() > LOOSE * measures.node_area || excess(measures.size) > 1.0
}

/// A placement with its faults repaired, where a graph of its size can afford that.
fn repaired(graph: &Graph, placement: Placement) -> Placement {
    if Effort::for_graph(graph) < Effort::Brisk { placement } else { repair::repaired(graph, placement) }
}

/// The candidates, the plain one first.
fn ways(graph: &Graph, shape: &Shape, effort: Effort) -> Vec<Way> {
    let may_tree = matches!(graph.arrangement, None | Some(Arrangement::Tree)) && graph.constraints.is_empty();
    if let (true, Shape::Tree(tree)) = (may_tree, shape) {
        if effort != Effort::Full && !graph.direction.is_sideways() {
            return vec![Way::Tree(tree.usual_options())];
        }
        let options = tree.options().into_iter();
        let count = if graph.direction.is_sideways() { 1 } else { usize::MAX };
        return options.take(count).map(Way::Tree).collect();
    }
    match graph.arrangement {
        Some(Arrangement::Force) if graph.nodes.len() > force::LIMIT => {}
        Some(Arrangement::Radial) if graph.nodes.len() > radial::LIMIT => {}
        // Lanes stand side by side and their lines pass others: only layers have channels for that.
        Some(_) if graph.groups.iter().any(|g| g.lane) => {}
        Some(asked @ (Arrangement::Grid | Arrangement::Radial | Arrangement::Force)) => return vec![Way::Boxes(asked)],
        _ => {}
    }
    // Where so many lines join groups, one order of layers costs more than groups on their own, and shows less.
    let is_web = effort != Effort::Plain && graph.edges.len() > WEB;
    let nested = if is_web { apart::SplitOptions::nested(graph) } else { Vec::new() };
    if !nested.is_empty() {
        let count = if effort == Effort::Full { nested.len() } else { 1 };
        return nested.into_iter().take(count).map(Way::Apart).collect();
    }
    let plain = layered::LayeredOptions::default();
    if effort < Effort::Brisk {
        return vec![Way::Layered(plain)];
    }
    if let Shape::Chain(_) = shape {
        return vec![Way::Layered(plain), Way::Serpentine];
    }
    if effort != Effort::Full {
        return vec![Way::Layered(plain)];
    }
    layered::LayeredOptions::candidates(graph).into_iter().map(Way::Layered).collect()
}
