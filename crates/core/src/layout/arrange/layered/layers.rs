//! What lies in the layers: nodes, and the dummy nodes that long lines, labels, titles and turns
//! need. A *unit* is what the ordering moves as one: a node with the turns and companions at its
//! flanks, or a single dummy node.

use super::bypass::{self, Bypass};
use super::gaps::{END_LEFT, END_RIGHT, LINE_GAP, NODE_GAP};
use super::ranks::Ranks;
use crate::layout::graph::{Anchor, BackEdges, Edge, Face, Graph, LabelAt};
use crate::layout::routing::loops::Loops;

/// An end of what runs from layer to layer.
#[derive(Clone, Copy)]
enum LinkEnd {
    Upper,
    Lower,
}

/// How an edge runs in its layers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum EdgeHeading {
    /// From a higher layer to a lower one.
    Along,
    /// The other way; its chain is laid out turned round.
    Against,
}

impl EdgeHeading {
    fn is_against(self) -> bool {
        self == Self::Against
    }
}

/// A pass over the layers, one after the other.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Sweep {
    /// From the first to the last: each layer looks at the one above it.
    Down,
    /// From the last to the first.
    Up,
}

impl Sweep {
    /// Passes that alternate, the first one down.
    pub(super) fn numbered(pass: usize) -> Self {
        if pass.is_multiple_of(2) { Self::Down } else { Self::Up }
    }

    /// The layers that move, in the order of the pass.
    pub(super) fn layers(self, count: usize) -> Vec<usize> {
        match self {
            Self::Down => (1..count).collect(),
            Self::Up => (0..count.saturating_sub(1)).rev().collect(),
        }
    }
}

/// What an item is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum ItemKind {
    /// A node of the graph.
    Node(usize),
    /// A point that the line of an edge passes.
    Dummy,
    /// Where the label of an edge lies.
    Label,
    /// Where the text at an end of an edge lies, beside the line.
    EndLabel(usize),
    /// Where the line of an edge turns, level with the node it leaves.
    Turn,
    /// The title of a group.
    Title(usize),
    /// Keeps a group present in a layer.
    Filler,
    /// Where an edge meets the frame of a group.
    Frame(usize),
}

/// One thing in a layer.
#[derive(Clone, Debug)]
pub(super) struct Item {
    pub(super) kind: ItemKind,
    pub(super) layer: usize,
    pub(super) unit: usize,
    /// The edge it belongs to, for dummy nodes.
    pub(super) edge: Option<usize>,
    /// Room to the left and to the right of its axis.
    pub(super) left: f64,
    pub(super) right: f64,
    pub(super) height: f64,
    /// Links upwards and downwards.
    pub(super) up: Vec<usize>,
    pub(super) down: Vec<usize>,
}

/// A stretch of an edge between two neighbouring layers.
#[derive(Clone, Copy, Debug)]
pub(super) struct Link {
    pub(super) upper: usize,
    pub(super) lower: usize,
    pub(super) edge: usize,
    pub(super) weight: i64,
    /// Where it leaves its items, relative to their axes.
    pub(super) upper_port: f64,
    pub(super) lower_port: f64,
}

/// What is moved as one.
#[derive(Clone, Debug)]
pub(super) struct Unit {
    /// The groups around it, outermost first.
    pub(super) groups: Vec<usize>,
    /// Whether lines cannot turn to its right: something stands there.
    pub(super) right_taken: bool,
    /// Items to the left, the core, items to the right: from left to right.
    pub(super) left: Vec<usize>,
    pub(super) core: usize,
    pub(super) right: Vec<usize>,
}

impl Unit {
    /// Its items from left to right.
    pub(super) fn items(&self) -> impl DoubleEndedIterator<Item = usize> + '_ {
        self.left.iter().copied().chain([self.core]).chain(self.right.iter().copied())
    }
}

/// Edges that go around groups.
pub(super) type Detours = std::collections::BTreeMap<usize, Vec<usize>>;

/// In which layer a line passes groups.
#[derive(Clone, Copy, Debug)]
enum Way {
    Over(usize),
    Under(usize),
}

impl Way {
    /// How many layers a line passes on this way between two layers.
    fn length(&self, upper: usize, lower: usize) -> usize {
        match *self {
            Way::Over(t) => upper + lower - 2 * t,
            Way::Under(t) => 2 * t - upper - lower,
        }
    }
}

/// How an edge runs through the layers.
#[derive(Clone, Debug, Default)]
pub(super) struct Chain {
    /// Its items, from its upper to its lower end.
    pub(super) items: Vec<usize>,
    /// Whether the edge points upwards.
    pub(super) reversed: bool,
}

/// All layers.
#[derive(Clone)]
pub(super) struct Layers {
    pub(super) items: Vec<Item>,
    pub(super) units: Vec<Unit>,
    pub(super) links: Vec<Link>,
    /// Units of each layer, from left to right.
    pub(super) layers: Vec<Vec<usize>>,
    pub(super) chains: Vec<Chain>,
    /// Chains with a gap.
    pub(super) bypasses: Vec<Bypass>,
    /// The first and the last layer of each group.
    pub(super) spans: Vec<(usize, usize)>,
    /// Sort keys of groups among their siblings.
    pub(super) group_place: Vec<usize>,
    /// The item of each node.
    pub(super) node_item: Vec<usize>,
    /// The item of each group's title, if it has a layer of its own.
    pub(super) title_item: Vec<Option<usize>>,
    /// Gaps, as a multiple of the usual ones.
    spacing: f64,
    /// Lines from things to themselves.
    pub(super) loops: Loops,
    /// Room between two level items for the label of a line from one to the other.
    between: std::collections::BTreeMap<(usize, usize), f64>,
}

impl Layers {
    /// Fills the layers. `detours` are edges that go around some groups.
    pub(super) fn build(graph: &Graph, reversed: &[bool], ranks: &Ranks, detours: &Detours) -> Self {
        let mut layers = Self {
            items: Vec::new(),
            units: Vec::new(),
            links: Vec::new(),
            // Detours may pass below everything.
            layers: vec![Vec::new(); ranks.count + if detours.is_empty() { 0 } else { 3 }],
            chains: vec![Chain::default(); graph.edges.len()],
            bypasses: Vec::new(),
            spans: ranks.group.clone(),
            group_place: (0..graph.groups.len()).collect(),
            node_item: vec![usize::MAX; graph.nodes.len()],
            title_item: vec![None; graph.groups.len()],
            spacing: graph.spacing,
            loops: Loops::new(graph),
            between: Default::default(),
        };
        let paths: Vec<Vec<usize>> = (0..graph.groups.len()).map(|g| path(graph, Some(g))).collect();
        layers.add_titles(graph, &paths);
        layers.add_nodes(graph, ranks);
        let reach = bypass::reach(graph, ranks);
        for (edge, is_reversed) in reversed.iter().enumerate() {
            let heading = if *is_reversed { EdgeHeading::Against } else { EdgeHeading::Along };
            match detours.get(&edge).and_then(|groups| layers.way_around(graph, edge, heading, groups)) {
                Some(way) => layers.add_detour(graph, edge, heading, way),
                None => layers.add_chain(graph, edge, heading, reach),
            }
        }
        layers.fill_groups(&paths);
        layers
    }

    fn add_item(&mut self, kind: ItemKind, layer: usize, edge: Option<usize>, extent: [f64; 3]) -> usize {
        let [left, right, height] = extent;
        let item = Item { kind, layer, unit: usize::MAX, edge, left, right, height, up: Vec::new(), down: Vec::new() };
        self.items.push(item);
        self.items.len() - 1
    }

    fn add_unit(&mut self, core: usize, groups: Vec<usize>) -> usize {
        let unit = self.units.len();
        self.items[core].unit = unit;
        self.layers[self.items[core].layer].push(unit);
        self.units.push(Unit { groups, right_taken: false, left: Vec::new(), core, right: Vec::new() });
        unit
    }

    fn add_titles(&mut self, graph: &Graph, paths: &[Vec<usize>]) {
        for (g, group) in graph.groups.iter().enumerate() {
            if !group.has_title_row(graph.direction) {
                continue;
            }
            let extent = [0.0, group.title.w, group.title.h];
            // A group that reads upwards has its title above its last layer, a lane that reads to the left before it.
            let layer = if graph.direction.is_backwards() { self.spans[g].1 } else { self.spans[g].0 };
            let item = self.add_item(ItemKind::Title(g), layer, None, extent);
            self.add_unit(item, paths[g].clone());
            self.title_item[g] = Some(item);
        }
    }

    fn add_nodes(&mut self, graph: &Graph, ranks: &Ranks) {
        for (v, node) in graph.nodes.iter().enumerate() {
            let (half, room) = (node.size.w / 2.0, self.loops.room(Anchor::Node(v)));
            let extent = [half, half + room.w, node.size.h.max(room.h)];
            self.node_item[v] = self.add_item(ItemKind::Node(v), ranks.node[v], None, extent);
            if node.beside.is_none() {
                let unit = self.add_unit(self.node_item[v], path(graph, node.group));
                self.units[unit].right_taken = room.w > 0.0;
            }
        }
        for (v, node) in graph.nodes.iter().enumerate() {
            if let Some(host) = node.beside {
                let (item, unit) = (self.node_item[v], self.items[self.node_item[host]].unit);
                self.items[item].unit = unit;
                // To the left if the node's lines to itself, or another companion, are to the right.
                if self.loops.room(Anchor::Node(host)).w > 0.0 || !self.units[unit].right.is_empty() {
                    self.units[unit].left.push(item);
                } else {
                    self.units[unit].right.push(item);
                }
                self.units[unit].right_taken = true;
            }
        }
    }

    /// The item and the groups of an edge's end.
    fn end(&mut self, graph: &Graph, anchor: Anchor, edge: usize, end: LinkEnd) -> (usize, Vec<usize>) {
        match anchor {
            Anchor::Node(v) => (self.node_item[v], self.units[self.items[self.node_item[v]].unit].groups.clone()),
            Anchor::Group(g) => {
                let groups = path(graph, Some(g));
                let layer = match end {
                    LinkEnd::Upper => self.spans[g].1,
                    LinkEnd::Lower => self.spans[g].0,
                };
                let item = self.add_item(ItemKind::Frame(g), layer, Some(edge), [4.0, 4.0, 0.0]);
                self.add_unit(item, groups.clone());
                (item, groups)
            }
        }
    }

    /// A line through the layers; past most of them in the margin if there are more than `reach`.
    fn add_chain(&mut self, graph: &Graph, e: usize, heading: EdgeHeading, reach: usize) {
        let edge = &graph.edges[e];
        let (from, to) = if heading.is_against() { (edge.to, edge.from) } else { (edge.from, edge.to) };
        if from == to || beside_each_other(graph, from, to) {
            return;
        }
        let (upper, upper_groups) = self.end(graph, from, e, LinkEnd::Upper);
        let (lower, lower_groups) = self.end(graph, to, e, LinkEnd::Lower);
        let (top, bottom) = (self.items[upper].layer, self.items[lower].layer);
        if top >= bottom {
            // Both ends stand level: the line is drawn when everything has its place.
            let ends: f64 = edge.end_labels.iter().flatten().map(|l| l.w + 16.0).sum();
            let room = edge.label.map_or(0.0, |l| l.w + 24.0) + ends;
            let room = if room > 0.0 { room + 24.0 } else { 0.0 };
            let widest = self.between.entry((upper.min(lower), upper.max(lower))).or_insert(0.0);
            *widest = f64::max(*widest, room);
            return;
        }
        let mut items = vec![upper];
        let around = heading.is_against() && graph.back_edges == BackEdges::Flanks;
        let flank = !heading.is_against() && edge.face == Face::Flank;
        if (around || flank) && matches!(from, Anchor::Node(_)) {
            items.push(self.add_turn(upper, e));
        }
        let between = bottom - top - 1;
        let texts = usize::from(edge.label.is_some()) + edge.end_labels.iter().flatten().count();
        let kept = if between > reach { texts + 2 } else { between };
        let kinds = kinds_between(edge, heading, kept);
        let gap = (kept < between).then_some(kept.div_ceil(2));
        for (i, kind) in kinds.iter().enumerate() {
            let layer = if gap.is_none_or(|gap| i < gap) { top + 1 + i } else { bottom + i - kept };
            let item = self.add_item(*kind, layer, Some(e), extent_of(*kind, edge));
            // A text at the lower end lies with its node.
            let at_lower = i + 1 == kinds.len() && matches!(kind, ItemKind::EndLabel(_)) && i > 0;
            let groups = if at_lower {
                groups_between(&lower_groups, &upper_groups, layer, &self.spans)
            } else {
                groups_between(&upper_groups, &lower_groups, layer, &self.spans)
            };
            self.add_unit(item, groups);
            items.push(item);
        }
        if around && matches!(to, Anchor::Node(_)) {
            items.push(self.add_turn(lower, e));
        }
        items.push(lower);
        match gap.map(|gap| items.partition_point(|i| self.items[*i].layer <= top + gap)) {
            Some(gap) => {
                self.link(&items[..gap], edge, e, heading);
                self.link(&items[gap..], edge, e, heading);
                self.bypasses.push(Bypass { edge: e, upper: items[gap - 1], lower: items[gap] });
            }
            None => self.link(&items, edge, e, heading),
        }
        self.chains[e] = Chain { items, reversed: heading.is_against() };
    }

    /// Above or below some groups, whichever is shorter: the layer in which the line passes them.
    fn way_around(&self, graph: &Graph, e: usize, heading: EdgeHeading, groups: &[usize]) -> Option<Way> {
        let edge = &graph.edges[e];
        let (Anchor::Node(a), Anchor::Node(b)) = (edge.from, edge.to) else { return None };
        let (upper, lower) = if heading.is_against() { (b, a) } else { (a, b) };
        let layer = |v: usize| self.items[self.node_item[v]].layer;
        let needed = usize::from(edge.label.is_some()) + edge.end_labels.iter().flatten().count();
        let length = |way: &Way| way.length(layer(upper), layer(lower));
        let top = groups.iter().map(|g| self.spans[*g].0).min()?;
        let bottom = groups.iter().map(|g| self.spans[*g].1).max()?;
        let over = (0..top.min(layer(upper)).min(layer(lower))).rev().map(Way::Over);
        let under = (bottom.max(layer(upper)).max(layer(lower)) + 1..self.layers.len()).map(Way::Under);
        let mut ways: Vec<Way> = [over.collect::<Vec<_>>(), under.collect()]
            .into_iter()
            .filter_map(|ways| ways.into_iter().find(|w| length(w) > needed))
            .collect();
        ways.sort_by_key(length);
        ways.into_iter().next()
    }

    /// A line that leaves its upper end, passes some groups above or below them, and comes back to its
    /// lower end.
    fn add_detour(&mut self, graph: &Graph, e: usize, heading: EdgeHeading, way: Way) {
        let edge = &graph.edges[e];
        let (from, to) = if heading.is_against() { (edge.to, edge.from) } else { (edge.from, edge.to) };
        let (upper, upper_groups) = self.end(graph, from, e, LinkEnd::Upper);
        let (lower, lower_groups) = self.end(graph, to, e, LinkEnd::Lower);
        let (first, last) = (self.items[upper].layer, self.items[lower].layer);
        let common = upper_groups.iter().zip(&lower_groups).take_while(|(a, b)| a == b).count();
        let reach = |path: &[usize], layer: usize, spans: &[(usize, usize)]| {
            path.iter().copied().take_while(|g| spans[*g].0 <= layer && layer <= spans[*g].1).collect::<Vec<_>>()
        };
        let mut places: Vec<(usize, Vec<usize>)> = Vec::new();
        let (turning, before, after): (usize, Vec<usize>, Vec<usize>) = match way {
            Way::Over(t) => (t, (t + 1..first).rev().collect(), (t + 1..last).collect()),
            Way::Under(t) => (t, (first + 1..t).collect(), (last + 1..t).rev().collect()),
        };
        places.extend(before.into_iter().map(|l| (l, reach(&upper_groups, l, &self.spans))));
        places.push((turning, reach(&upper_groups[..common], turning, &self.spans)));
        places.extend(after.into_iter().map(|l| (l, reach(&lower_groups, l, &self.spans))));
        let kinds = kinds_between(edge, heading, places.len());
        let mut items = vec![upper];
        if matches!(way, Way::Over(_)) {
            items.push(self.add_turn(upper, e));
        }
        for ((layer, groups), kind) in places.into_iter().zip(kinds) {
            let item = self.add_item(kind, layer, Some(e), extent_of(kind, edge));
            self.add_unit(item, groups);
            items.push(item);
        }
        if matches!(way, Way::Under(_)) {
            items.push(self.add_turn(lower, e));
        }
        items.push(lower);
        self.link(&items, edge, e, heading);
        self.chains[e] = Chain { items, reversed: heading.is_against() };
    }

    fn add_turn(&mut self, node: usize, edge: usize) -> usize {
        let item = self.add_item(ItemKind::Turn, self.items[node].layer, Some(edge), [0.0; 3]);
        let unit = self.items[node].unit;
        self.items[item].unit = unit;
        self.units[unit].right.insert(0, item);
        item
    }

    fn link(&mut self, items: &[usize], edge: &Edge, e: usize, heading: EdgeHeading) {
        for pair in items.windows(2) {
            let (mut upper, mut lower) = (pair[0], pair[1]);
            if self.items[upper].layer == self.items[lower].layer {
                continue;
            }
            if self.items[upper].layer > self.items[lower].layer {
                std::mem::swap(&mut upper, &mut lower);
            }
            let straight = straightness(self.items[upper].kind, self.items[lower].kind, heading);
            let link = self.links.len();
            let weight = edge.weight * straight;
            self.links.push(Link { upper, lower, edge: e, weight, upper_port: 0.0, lower_port: 0.0 });
            self.items[upper].down.push(link);
            self.items[lower].up.push(link);
        }
    }

    /// Puts a filler wherever a group would have a gap.
    fn fill_groups(&mut self, paths: &[Vec<usize>]) {
        let mut present = std::collections::BTreeSet::new();
        for unit in &self.units {
            let layer = self.items[unit.core].layer;
            present.extend(unit.groups.iter().map(|g| (*g, layer)));
        }
        // Innermost first: a filler of a child keeps its parents present too.
        let mut groups: Vec<usize> = (0..paths.len()).collect();
        groups.sort_by_key(|g| std::cmp::Reverse(paths[*g].len()));
        for g in groups {
            for layer in self.spans[g].0..=self.spans[g].1 {
                if !present.contains(&(g, layer)) {
                    let item = self.add_item(ItemKind::Filler, layer, None, [0.0; 3]);
                    self.add_unit(item, paths[g].clone());
                    present.extend(paths[g].iter().map(|g| (*g, layer)));
                }
            }
        }
    }

    /// The groups around an item, outermost first.
    pub(super) fn groups_of(&self, item: usize) -> &[usize] {
        &self.units[self.items[item].unit].groups
    }

    /// The place of each item in its layer.
    pub(super) fn places(&self) -> Vec<usize> {
        let mut places = vec![0; self.items.len()];
        for layer in 0..self.layers.len() {
            self.row(layer).into_iter().enumerate().for_each(|(at, item)| places[item] = at);
        }
        places
    }

    /// The items of a layer from left to right.
    pub(super) fn row(&self, layer: usize) -> Vec<usize> {
        self.layers[layer].iter().flat_map(|u| self.units[*u].items()).collect()
    }

    /// The room that two neighbours keep between their edges.
    pub(super) fn gap(&self, a: usize, b: usize) -> f64 {
        let is_body = |i: usize| matches!(self.items[i].kind, ItemKind::Node(_) | ItemKind::Title(_));
        let is_filler = |i: usize| matches!(self.items[i].kind, ItemKind::Filler);
        match (is_body(a), is_body(b)) {
            _ if is_filler(a) || is_filler(b) => 4.0,
            (true, true) => {
                let line = self.between.get(&(a.min(b), a.max(b))).copied().unwrap_or(0.0);
                f64::max(NODE_GAP, line) * self.spacing
            }
            (false, false) => LINE_GAP * self.spacing,
            _ => (LINE_GAP + 4.0) * self.spacing,
        }
    }
}

/// How much a stretch wants to be straight: long lines more than short ones (Gansner and others,
/// section 4), and a text at an end stays right before its node.
fn straightness(upper: ItemKind, lower: ItemKind, heading: EdgeHeading) -> i64 {
    let is_node = |k| matches!(k, ItemKind::Node(_));
    let is_end = |k| matches!(k, ItemKind::EndLabel(_));
    match (is_node(upper), is_node(lower)) {
        (true, true) => 2,
        (true, _) if lower == ItemKind::EndLabel(usize::from(heading.is_against())) => 8,
        (_, true) if upper == ItemKind::EndLabel(usize::from(!heading.is_against())) => 8,
        _ if upper == ItemKind::Turn || lower == ItemKind::Turn => 16,
        (false, false) if is_end(upper) || is_end(lower) => 2,
        (false, false) => 8,
        _ => 3,
    }
}

/// Whether one end stands beside the other: their line is drawn between the two, outside the layers.
pub(super) fn beside_each_other(graph: &Graph, a: Anchor, b: Anchor) -> bool {
    match (a, b) {
        (Anchor::Node(a), Anchor::Node(b)) => graph.nodes[a].beside == Some(b) || graph.nodes[b].beside == Some(a),
        _ => false,
    }
}

/// The groups around a group, itself included, outermost first.
fn path(graph: &Graph, group: Option<usize>) -> Vec<usize> {
    let mut path: Vec<usize> = std::iter::successors(group, |g| graph.groups[*g].parent).collect();
    path.reverse();
    path
}

/// The room of a dummy node.
fn extent_of(kind: ItemKind, edge: &Edge) -> [f64; 3] {
    match kind {
        ItemKind::Label => edge.label.map_or([0.0; 3], |s| [s.w / 2.0, s.w / 2.0, s.h]),
        ItemKind::EndLabel(end) => edge.end_labels[end].map_or([0.0; 3], |s| [END_LEFT, s.w + END_RIGHT, s.h]),
        _ => [0.0; 3],
    }
}

/// What an edge needs in the layers between its ends.
fn kinds_between(edge: &Edge, heading: EdgeHeading, between: usize) -> Vec<ItemKind> {
    let mut kinds = vec![ItemKind::Dummy; between];
    let (first, last) = if heading.is_against() { (1, 0) } else { (0, 1) };
    let (mut low, mut high) = (0, between);
    if edge.end_labels[first].is_some() && low < high {
        kinds[low] = ItemKind::EndLabel(first);
        low += 1;
    }
    if edge.end_labels[last].is_some() && low < high {
        high -= 1;
        kinds[high] = ItemKind::EndLabel(last);
    }
    if edge.label.is_some() && low < high {
        let at = match (edge.label_at, heading.is_against()) {
            (LabelAt::Middle, _) => (low + high - 1) / 2,
            (LabelAt::Start, false) => low,
            (LabelAt::Start, true) => high - 1,
        };
        kinds[at] = ItemKind::Label;
    }
    kinds
}

/// The groups that a line passes in a layer between its ends: those of its upper end as far as they
/// reach, then those of its lower end from where they begin.
fn groups_between(upper: &[usize], lower: &[usize], layer: usize, spans: &[(usize, usize)]) -> Vec<usize> {
    let common = upper.iter().zip(lower).take_while(|(a, b)| a == b).count();
    let spans_layer = |g: &&usize| spans[**g].0 <= layer && layer <= spans[**g].1;
    let inside = |path: &[usize]| path[common..].iter().take_while(spans_layer).count();
    let reach = |path: &[usize]| path[..common + inside(path)].to_vec();
    let by_upper = reach(upper);
    if by_upper.len() > common { by_upper } else { reach(lower) }
}
