//! Graphs without groups, written as architectures.

use crate::{Dice, Sample};
use std::collections::BTreeSet;
use std::fmt::Write;

const NAMES: [&str; 12] = [
    "Tide gauge",
    "Buoy",
    "Level store",
    "Forecast",
    "Harbour desk",
    "Radio mast",
    "Keeper",
    "Tide tables",
    "Frame decoder",
    "Warning rules",
    "Roster",
    "Swell watch",
];
const LABELS: [&str; 8] =
    ["levels", "frames", "raise warning", "tide windows", "checked", "wind and pressure", "who is on duty", "berths"];

/// A text of nodes and edges. Nodes are named by number, in that order.
pub(crate) fn text(name: &str, nodes: usize, edges: &[(usize, usize)], labelled: usize, dice: &mut Dice) -> String {
    let mut text = format!("architecture {name}\n");
    for i in 0..nodes {
        let _ = writeln!(text, "  service n{i} \"{} {i}\"", NAMES[(i * 7 + i / 12) % NAMES.len()]);
    }
    for (a, b) in edges {
        let label = if dice.percent(labelled) { format!(" \"{}\"", dice.pick(&LABELS)) } else { String::new() };
        let _ = writeln!(text, "  n{a} uses n{b}{label}");
    }
    text
}

struct Maker {
    list: Vec<Sample>,
    dice: Dice,
}

impl Maker {
    fn add(&mut self, family: &'static str, name: String, nodes: usize, edges: &[(usize, usize)], labelled: usize) {
        let text = text(&name, nodes, edges, labelled, &mut self.dice);
        self.list.push(Sample { family, name, text });
    }
}

pub(crate) fn samples() -> Vec<Sample> {
    let mut maker = Maker { list: Vec::new(), dice: Dice::new(4) };
    for (family, percent) in [("random sparse", 110), ("random medium", 150), ("random dense", 220)] {
        for nodes in [10, 20, 40, 80, 160, 300] {
            let edges = random(&mut maker.dice, nodes, nodes * percent / 100);
            maker.add(family, format!("{}_{nodes}", family.replace(' ', "_")), nodes, &edges, 30);
        }
    }
    for nodes in [10, 25, 60, 120, 300] {
        let edges: Vec<(usize, usize)> = (1..nodes).map(|i| (maker.dice.roll(i.min(nodes / 3 + 1)), i)).collect();
        maker.add("trees", format!("tree_{nodes}"), nodes, &edges, 0);
    }
    for nodes in [12, 24, 40, 60] {
        let out: Vec<(usize, usize)> = (1..nodes).map(|i| (0, i)).collect();
        maker.add("stars", format!("fan_{nodes}"), nodes, &out, 0);
        let mixed: Vec<(usize, usize)> = (1..nodes).map(|i| if i % 2 == 0 { (0, i) } else { (i, 0) }).collect();
        maker.add("stars", format!("star_{nodes}"), nodes, &mixed, 0);
    }
    for (w, h) in [(3, 3), (4, 6), (6, 6), (8, 8), (12, 12)] {
        let mut edges = Vec::new();
        for i in 0..w * h {
            edges.extend((i % w + 1 < w).then_some((i, i + 1)));
            edges.extend((i + w < w * h).then_some((i, i + w)));
        }
        maker.add("grids", format!("grid_{w}_{h}"), w * h, &edges, 0);
    }
    for steps in [6, 12, 25, 50, 100] {
        let (nodes, edges) = series_parallel(&mut maker.dice, steps);
        maker.add("series-parallel", format!("parallel_{steps}"), nodes, &edges, 0);
    }
    for (a, b) in [(2, 2), (2, 6), (3, 3), (3, 5), (4, 4), (5, 5), (4, 8)] {
        let edges: Vec<(usize, usize)> = (0..a * b).map(|i| (i / b, a + i % b)).collect();
        maker.add("complete bipartite", format!("bipartite_{a}_{b}"), a + b, &edges, 0);
    }
    maker.list
}

/// Random edges without loops and repetitions; most point forward.
fn random(dice: &mut Dice, nodes: usize, count: usize) -> Vec<(usize, usize)> {
    let mut seen = BTreeSet::new();
    // A spine keeps the graph together.
    for i in 1..nodes {
        if dice.percent(80) {
            seen.insert((dice.roll(i), i));
        }
    }
    let mut tries = 0;
    while seen.len() < count && tries < count * 20 {
        tries += 1;
        // Most things speak to things near them.
        let a = dice.roll(nodes);
        let reach = if dice.percent(75) { 8 } else { nodes };
        let b = (a + 1 + dice.roll(reach)) % nodes;
        if a != b && !seen.contains(&(b, a)) {
            seen.insert(if dice.percent(90) { (a.min(b), a.max(b)) } else { (a.max(b), a.min(b)) });
        }
    }
    seen.into_iter().collect()
}

/// A series-parallel graph: an edge is replaced, again and again, by two in a row or two side by side.
fn series_parallel(dice: &mut Dice, steps: usize) -> (usize, Vec<(usize, usize)>) {
    let mut edges = vec![(0, 1)];
    let mut nodes = 2;
    for _ in 0..steps {
        let at = dice.roll(edges.len());
        let (a, b) = edges[at];
        edges[at] = (a, nodes);
        edges.push((nodes, b));
        nodes += 1;
        if dice.percent(60) {
            edges.push((a, nodes));
            edges.push((nodes, b));
            nodes += 1;
        }
    }
    (nodes, edges)
}

/// A random graph whose layers are given: every edge leads to the next layer.
#[derive(Clone, Debug)]
pub struct Layered {
    /// How many nodes each layer has; nodes are numbered from the first layer on.
    pub layers: Vec<usize>,
    /// Edges, from the upper to the lower node.
    pub edges: Vec<(usize, usize)>,
    /// The same as a text.
    pub text: String,
}

/// A random graph of two or three layers with at most twelve nodes each; every node has an edge that holds it in its
/// layer.
pub fn random_layers(seed: u64) -> Layered {
    let mut dice = Dice::new(seed);
    let layers: Vec<usize> = (0..2 + seed as usize % 2).map(|_| 3 + dice.roll(10)).collect();
    let mut edges = BTreeSet::new();
    let mut first = 0;
    for pair in layers.windows(2) {
        let (upper, lower) = (pair[0], pair[1]);
        let below = first + upper;
        for i in 0..lower {
            edges.insert((first + dice.roll(upper), below + i));
        }
        for i in 0..upper {
            edges.insert((first + i, below + dice.roll(lower)));
        }
        for _ in 0..dice.roll(upper + 1) {
            edges.insert((first + dice.roll(upper), below + dice.roll(lower)));
        }
        first = below;
    }
    let edges: Vec<(usize, usize)> = edges.into_iter().collect();
    let text = text("layers (arrange layered)", layers.iter().sum(), &edges, 0, &mut dice);
    Layered { layers, edges, text }
}
