//! What a layout is given and what it gives back.

use crate::geom::{Point, Rect, Size};
use crate::layout::earlier::Earlier;
use crate::layout::outline::Outline;
use std::collections::BTreeMap;

/// Which way layers follow each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum RankDirection {
    /// Downwards.
    #[default]
    Down,
    /// Upwards.
    Up,
    /// To the right.
    Right,
    /// To the left.
    Left,
}

impl RankDirection {
    /// Whether layers lie side by side.
    pub fn is_sideways(self) -> bool {
        matches!(self, RankDirection::Right | RankDirection::Left)
    }

    /// How far a place lies behind another one in this direction, in px; negative before it.
    pub(in crate::layout) fn advance(self, from: Point, to: Point) -> f64 {
        match self {
            RankDirection::Down => to.y - from.y,
            RankDirection::Up => from.y - to.y,
            RankDirection::Right => to.x - from.x,
            RankDirection::Left => from.x - to.x,
        }
    }

    /// Whether layers follow each other against the way in which texts are read.
    pub(in crate::layout) fn is_backwards(self) -> bool {
        matches!(self, RankDirection::Up | RankDirection::Left)
    }
}

/// Where lines against the reading direction meet their nodes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum BackEdges {
    /// At the faces, as all others do.
    #[default]
    Faces,
    /// At the flanks, and around the outside.
    Flanks,
}

/// How nodes are arranged.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Arrangement {
    /// In layers along the reading direction.
    Layered,
    /// As a tidy tree.
    Tree,
    /// In rings around a centre.
    Radial,
    /// As if lines were springs.
    Force,
    /// In rows, in source order.
    Grid,
}

/// How lines run.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Routing {
    /// Horizontal and vertical, with rounded corners.
    #[default]
    Stepped,
    /// As smooth curves.
    Curved,
    /// As straight as possible.
    Straight,
}

/// On which side of another node a node stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Placing {
    /// To its left.
    Left,
    /// To its right.
    Right,
    /// Above it.
    Above,
    /// Below it.
    Below,
}

impl Placing {
    /// The same side in a picture whose layers run from top to bottom.
    pub(in crate::layout) fn turned(self, direction: RankDirection) -> Placing {
        use Placing::{Above, Below, Left, Right};
        match (direction, self) {
            (RankDirection::Down, side) => side,
            (RankDirection::Up, Above) => Below,
            (RankDirection::Up, Below) => Above,
            (RankDirection::Up, side) => side,
            (RankDirection::Right, Left) | (RankDirection::Left, Right) => Above,
            (RankDirection::Right, Right) | (RankDirection::Left, Left) => Below,
            (RankDirection::Right | RankDirection::Left, Above) => Left,
            (RankDirection::Right | RankDirection::Left, Below) => Right,
        }
    }
}

/// Which lines have a direction that a reader follows through the picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Directed {
    /// All of them.
    #[default]
    All,
    /// All of them, and they tell what happens in time: what leads back is what was written to lead back.
    InTime,
    /// Those that say so; others may lead up as well as down.
    Trunks,
}

/// Whether lines that leave one node may begin as one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Stems {
    /// They may, as in trees.
    #[default]
    Shared,
    /// Only those of one trunk: a common stem would say that the lines mean the same.
    Separate,
}

/// A constraint about where things stand.
#[derive(Clone, Debug, PartialEq)]
pub enum PlacementConstraint {
    /// These stand level: in one layer.
    Row(Vec<Anchor>),
    /// These follow each other in this order, from left to right or from above where layers lie side by side.
    Order(Vec<Anchor>),
    /// The first stands beside the second.
    Place(Anchor, Placing, Anchor),
    /// The middle of this lies here, in px of the picture.
    Pin(Anchor, Point),
    /// What this group holds reads its own way.
    Heading(Anchor, RankDirection),
}

impl PlacementConstraint {
    /// The heading that it asks of a group, if it does.
    pub(in crate::layout) fn heading_of(&self, group: usize) -> Option<RankDirection> {
        match self {
            Self::Heading(Anchor::Group(g), heading) if *g == group => Some(*heading),
            _ => None,
        }
    }

    /// The things that it is about.
    pub(in crate::layout) fn ends(&self) -> Vec<Anchor> {
        match self {
            PlacementConstraint::Row(all) | PlacementConstraint::Order(all) => all.clone(),
            PlacementConstraint::Place(a, _, b) => vec![*a, *b],
            PlacementConstraint::Pin(a, _) | PlacementConstraint::Heading(a, _) => vec![*a],
        }
    }

    /// The same constraint in a graph where things have other numbers; `None` if one of them is not there.
    pub(in crate::layout) fn renumbered(
        &self, number: impl Fn(Anchor) -> Option<Anchor>,
    ) -> Option<PlacementConstraint> {
        let all = |list: &[Anchor]| list.iter().map(|a| number(*a)).collect::<Option<Vec<_>>>();
        Some(match self {
            PlacementConstraint::Row(list) => PlacementConstraint::Row(all(list)?),
            PlacementConstraint::Order(list) => PlacementConstraint::Order(all(list)?),
            PlacementConstraint::Place(a, placing, b) => PlacementConstraint::Place(number(*a)?, *placing, number(*b)?),
            PlacementConstraint::Pin(a, at) => PlacementConstraint::Pin(number(*a)?, *at),
            PlacementConstraint::Heading(a, direction) => PlacementConstraint::Heading(number(*a)?, *direction),
        })
    }
}

/// How much time a picture may take of a run.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Share {
    /// As much as it needs.
    #[default]
    Own,
    /// It is one of very many, for each of which less is tried.
    OneOfMany,
    /// It is one of the parts of a picture of thousands of elements, which together get what one part of that size would get: each
    /// step is taken once.
    Part,
    /// Somebody types and watches: the earlier picture is kept wherever it has no fault, and is compared with no other.
    Moment,
}

/// A graph to be placed.
#[derive(Clone, Debug)]
pub struct Graph {
    /// Nodes, in source order.
    pub nodes: Vec<Node>,
    /// Groups; a parent comes before its children.
    pub groups: Vec<Group>,
    /// Edges, in source order.
    pub edges: Vec<Edge>,
    /// Which way it reads.
    pub direction: RankDirection,
    /// Whether that was asked for: such a picture may become a strip.
    pub is_heading_asked: bool,
    /// How lines back are drawn.
    pub back_edges: BackEdges,
    /// Which lines have a direction that matters.
    pub directed: Directed,
    /// Whether lines may begin as one.
    pub stems: Stems,
    /// How nodes are arranged; `None` leaves the choice to the shape of the graph.
    pub arrangement: Option<Arrangement>,
    /// How lines run.
    pub routing: Routing,
    /// Gaps, as a multiple of the usual ones.
    pub spacing: f64,
    /// Constraints, in source order.
    pub constraints: Vec<PlacementConstraint>,
    /// Where an earlier picture had these things, if there is one to be kept.
    pub earlier: Option<Earlier>,
    /// How much time it may take of a run.
    pub share: Share,
}

impl Graph {
    /// A graph without contents, to be placed in the same way.
    pub(in crate::layout) fn emptied(&self) -> Graph {
        Graph {
            direction: self.direction,
            is_heading_asked: self.is_heading_asked,
            back_edges: self.back_edges,
            directed: self.directed,
            stems: self.stems,
            arrangement: self.arrangement,
            routing: self.routing,
            spacing: self.spacing,
            ..Graph::default()
        }
    }

    /// The same graph with layers from top to bottom: axes exchanged for sideways readings, outlines mirrored for those
    /// that run back.
    pub(in crate::layout) fn turned(&self) -> Graph {
        let mut turned = self.clone();
        if self.direction.is_sideways() {
            let swap = |size: &mut Size| *size = size.transposed();
            for node in &mut turned.nodes {
                swap(&mut node.size);
                node.core.iter_mut().for_each(swap);
                node.outline = node.outline.transposed();
            }
            turned.groups.iter_mut().for_each(|g| swap(&mut g.title));
            for edge in &mut turned.edges {
                edge.label.iter_mut().chain(edge.end_labels.iter_mut().flatten()).for_each(swap);
            }
        }
        if self.direction.is_backwards() {
            turned.nodes.iter_mut().for_each(|n| n.outline = n.outline.mirrored());
        }
        turned
    }

    /// The edges that do not lead from something to itself, in source order.
    pub(in crate::layout) fn edges_between(&self) -> Vec<usize> {
        (0..self.edges.len()).filter(|e| self.edges[*e].from != self.edges[*e].to).collect()
    }

    /// The outline that lines to an end meet.
    pub(in crate::layout) fn outline(&self, end: Anchor) -> &Outline {
        end.node().map_or(&Outline::Box, |v| &self.nodes[v].outline)
    }

    /// The groups around an end, innermost first; a group counts as around itself.
    pub fn groups_around(&self, anchor: Anchor) -> impl Iterator<Item = usize> + '_ {
        let first = match anchor {
            Anchor::Node(v) => self.nodes[v].group,
            Anchor::Group(g) => Some(g),
        };
        std::iter::successors(first, |g| self.groups[*g].parent)
    }

    /// Regions that lie in one group, in pairs.
    pub(in crate::layout) fn neighbouring_regions(&self) -> Vec<(usize, usize)> {
        let mut last: BTreeMap<Option<usize>, usize> = BTreeMap::new();
        let regions = (0..self.groups.len()).filter(|g| self.groups[*g].region);
        regions.filter_map(|g| last.insert(self.groups[g].parent, g).map(|before| (before, g))).collect()
    }

    /// How many lanes are around a lane.
    pub(in crate::layout) fn lanes_around(&self, g: usize) -> usize {
        self.groups_around(Anchor::Group(g)).skip(1).filter(|o| self.groups[*o].lane).count()
    }

    /// The lane around a lane.
    pub(in crate::layout) fn outer_lane(&self, g: usize) -> Option<usize> {
        self.groups[g].parent.filter(|p| self.groups[g].lane && self.groups[*p].lane)
    }

    /// The groups around either end of an edge.
    pub(in crate::layout) fn groups_around_edge(&self, e: usize) -> Vec<usize> {
        let edge = &self.edges[e];
        [edge.from, edge.to].into_iter().flat_map(|a| self.groups_around(a)).collect()
    }

    /// Whether texts of an edge may lie in a group: one around an end, not one that the line comes to from outside. Lines
    /// may pass lanes.
    pub(in crate::layout) fn may_hold_text(&self, e: usize, g: usize) -> bool {
        let edge = &self.edges[e];
        let is_end = |a: Anchor| a == Anchor::Group(g);
        let lies_in = |a: Anchor| !is_end(a) && self.groups_around(a).any(|h| h == g);
        self.groups[g].lane || [edge.from, edge.to].into_iter().any(lies_in) || (is_end(edge.from) && is_end(edge.to))
    }
}

impl Default for Graph {
    fn default() -> Self {
        Self {
            nodes: Vec::new(),
            groups: Vec::new(),
            edges: Vec::new(),
            direction: RankDirection::default(),
            is_heading_asked: false,
            back_edges: BackEdges::default(),
            directed: Directed::default(),
            stems: Stems::default(),
            arrangement: Some(Arrangement::Layered),
            routing: Routing::default(),
            spacing: 1.0,
            constraints: Vec::new(),
            earlier: None,
            share: Share::Own,
        }
    }
}

/// A side of a group, in reading direction.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Border {
    /// Where it begins.
    Begins,
    /// Where it ends.
    Ends,
}

/// Something with a size.
#[derive(Clone, Debug, Default)]
pub struct Node {
    /// Its size.
    pub size: Size,
    /// Where lines end.
    pub outline: Outline,
    /// The size of the figure in its middle that lines lead to, where it needs more room than that.
    pub core: Option<Size>,
    /// What it lies in.
    pub group: Option<usize>,
    /// The node that it stands beside, tied by a short level line.
    pub beside: Option<usize>,
    /// At which side of its group it lies, if that is entered or left by it.
    pub border: Option<Border>,
    /// Whether it becomes as wide, across the reading direction, as what its lines lead to; its size is the least.
    pub stretches: bool,
}

impl Node {
    /// The size of what lines lead to.
    pub(in crate::layout) fn figure(&self) -> Size {
        self.core.unwrap_or(self.size)
    }
}

/// A box around nodes and other groups.
#[derive(Clone, Debug, Default)]
pub struct Group {
    /// What it lies in.
    pub parent: Option<usize>,
    /// The room of its title, at its upper edge; zero for none.
    pub title: Size,
    /// Room between its frame and what it holds.
    pub inset: f64,
    /// A lane: it spans the whole picture in reading direction, and keeps its place among lanes. A lane lies in none, or
    /// in another that holds lanes only, below the band with its title.
    pub lane: bool,
    /// A region: it begins and ends level with the other regions of its parent, if that can be.
    pub region: bool,
}

impl Group {
    /// Room between its upper side and what it holds, in px.
    pub(in crate::layout) fn above(&self) -> f64 {
        self.inset + if self.title.h > 0.0 { self.title.h + TITLE_GAP } else { 0.0 }
    }

    /// The size of its frame around what it holds.
    pub(in crate::layout) fn around(&self, inner: Size) -> Size {
        let width = inner.w.max(self.title.w + 8.0) + 2.0 * self.inset;
        Size::new(width, inner.h + self.above() + self.inset)
    }

    /// Whether its title stands before what it holds, in reading direction or against it; others have it at a side.
    pub(in crate::layout) fn has_title_row(&self, direction: RankDirection) -> bool {
        self.title.h > 0.0 && (self.lane || !direction.is_sideways())
    }

    /// The room that its title takes in its frame: of a lane, a band from side to side.
    pub(in crate::layout) fn header(&self, direction: RankDirection, frame: Rect, title: Rect) -> Rect {
        if !self.lane || self.title.h <= 0.0 {
            title
        } else if direction.is_sideways() {
            Rect::new(frame.x, frame.y, title.right() + BAND_GAP - frame.x, frame.h)
        } else {
            Rect::new(frame.x, frame.y, frame.w, title.bottom() + BAND_GAP - frame.y)
        }
    }

    /// Where its title is in its frame.
    pub(in crate::layout) fn title_in(&self, frame: Rect) -> Rect {
        Rect::new(frame.x + self.inset, frame.y + TITLE_GAP, self.title.w, self.title.h)
    }
}

/// Room above and below the title of a group.
const TITLE_GAP: f64 = 12.0;
/// Room between the title of a lane and the end of its band.
const BAND_GAP: f64 = 8.0;

/// An end of an edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Anchor {
    /// A node.
    Node(usize),
    /// A group's frame.
    Group(usize),
}

impl Anchor {
    /// The node, if it is one.
    pub fn node(self) -> Option<usize> {
        if let Self::Node(v) = self { Some(v) } else { None }
    }

    /// What belongs to it, of one value for each node and one for each group.
    pub(in crate::layout) fn of<T: Copy>(self, nodes: &[T], groups: &[T]) -> T {
        match self {
            Self::Node(v) => nodes[v],
            Self::Group(g) => groups[g],
        }
    }

    /// Its number where groups are counted behind this many nodes.
    pub(in crate::layout) fn number(self, nodes: usize) -> usize {
        match self {
            Self::Node(v) => v,
            Self::Group(g) => nodes + g,
        }
    }

    /// The same in a graph whose nodes and groups have other numbers, if it is there.
    pub(in crate::layout) fn renumbered(
        self, node: impl Fn(usize) -> Option<usize>, group: impl Fn(usize) -> Option<usize>,
    ) -> Option<Self> {
        match self {
            Self::Node(v) => node(v).map(Self::Node),
            Self::Group(g) => group(g).map(Self::Group),
        }
    }
}

/// Where an edge leaves its upper node.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Face {
    /// At the face towards the next layer.
    #[default]
    Front,
    /// At a flank.
    Flank,
}

/// Where along its line a label lies.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum LabelAt {
    /// In the middle.
    #[default]
    Middle,
    /// At its start.
    Start,
}

/// One line to be drawn.
#[derive(Clone, Debug)]
pub struct Edge {
    /// Where it begins; it points in reading direction if it can.
    pub from: Anchor,
    /// Where it ends.
    pub to: Anchor,
    /// Room for its label.
    pub label: Option<Size>,
    /// Where the label lies.
    pub label_at: LabelAt,
    /// Room for texts at its beginning and its end.
    pub end_labels: [Option<Size>; 2],
    /// Edges of one trunk leave their common start as one line.
    pub trunk: Option<usize>,
    /// Whether it keeps its direction where others may lead up as well as down.
    pub is_directed: bool,
    /// How much it wants to be short and straight.
    pub weight: i64,
    /// Where it leaves its start.
    pub face: Face,
}

impl Edge {
    /// A plain edge.
    pub fn new(from: Anchor, to: Anchor) -> Self {
        Self {
            from,
            to,
            label: None,
            label_at: LabelAt::Middle,
            end_labels: [None, None],
            trunk: None,
            is_directed: false,
            weight: 1,
            face: Face::Front,
        }
    }

    /// Its beginning (0) or its end (1).
    pub(in crate::layout) fn end(&self, end: usize) -> Anchor {
        if end == 0 { self.from } else { self.to }
    }

    /// Whether neither of its ends is a group.
    pub(in crate::layout) fn is_between_nodes(&self) -> bool {
        matches!((self.from, self.to), (Anchor::Node(_), Anchor::Node(_)))
    }
}
