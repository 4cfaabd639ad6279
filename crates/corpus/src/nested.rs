//! Architectures of systems inside systems, with lines across their sides.

use crate::{Dice, Sample};
use std::collections::BTreeSet;
use std::fmt::Write;

const SYSTEMS: [&str; 6] = ["Field stations", "Core", "Warnings", "Portal", "Harbour office", "Archive"];
const PARTS: [&str; 8] =
    ["Ingest", "Level stream", "Readings", "Forecast", "Rules", "Alert desk", "Tide pages", "Data feed"];
const LABELS: [&str; 6] = ["levels", "frames", "raise warning", "expected level", "open data", "who is on duty"];

/// How the parts of a picture are joined.
#[derive(Clone, Copy)]
enum Style {
    /// Most lines stay inside their system, as in a map that someone keeps.
    Orderly,
    /// A third of the lines goes anywhere.
    Tangled,
}

pub(crate) fn samples() -> Vec<Sample> {
    let mut dice = Dice::new(21);
    let mut list = Vec::new();
    for (family, style) in [("nested", Style::Orderly), ("nested tangled", Style::Tangled)] {
        for (levels, parts) in [(3, 20), (3, 35), (4, 35), (3, 60), (4, 60), (4, 100), (4, 200)] {
            let name = format!("{}_{levels}_{parts}", family.replace(' ', "_"));
            list.push(Sample { family, text: architecture(&mut dice, &name, levels, parts, style), name });
        }
    }
    list
}

/// A system in the making: its parts, and the systems in it.
struct Tree {
    leaves: Vec<usize>,
    children: Vec<Tree>,
}

/// Distributes parts over systems inside systems.
fn grow(dice: &mut Dice, levels: usize, parts: &[usize]) -> Tree {
    if levels == 0 || parts.len() < 3 {
        return Tree { leaves: parts.to_vec(), children: Vec::new() };
    }
    let loose = dice.roll(3).min(parts.len() / 3);
    let rest = &parts[loose..];
    let count = (2 + dice.roll(3)).min(rest.len() / 2).max(1);
    let mut children = Vec::new();
    let mut at = 0;
    for i in 0..count {
        let fair = (rest.len() - at) / (count - i);
        let take =
            if i + 1 == count { rest.len() - at } else { (fair / 2 + dice.roll(fair.max(1)) + 1).min(rest.len() - at) };
        if take > 0 {
            children.push(grow(dice, levels - 1, &rest[at..at + take]));
        }
        at += take;
    }
    Tree { leaves: parts[..loose].to_vec(), children }
}

struct Writer {
    text: String,
    systems: usize,
    /// The path of systems around each part.
    paths: Vec<Vec<usize>>,
}

impl Writer {
    fn write(&mut self, tree: &Tree, depth: usize, path: &mut Vec<usize>) {
        let pad = "  ".repeat(depth);
        for leaf in &tree.leaves {
            let _ = writeln!(self.text, "{pad}service p{leaf} \"{} {leaf}\"", PARTS[leaf % PARTS.len()]);
            self.paths[*leaf].clone_from(path);
        }
        for child in &tree.children {
            let system = self.systems;
            self.systems += 1;
            let _ = writeln!(self.text, "{pad}system y{system} \"{} {system}\"", SYSTEMS[system % SYSTEMS.len()]);
            path.push(system);
            self.write(child, depth + 1, path);
            path.pop();
        }
    }
}

fn architecture(dice: &mut Dice, name: &str, levels: usize, parts: usize, style: Style) -> String {
    let all: Vec<usize> = (0..parts).collect();
    let tree = grow(dice, levels - 1, &all);
    let mut writer = Writer { text: format!("architecture {name}\n"), systems: 0, paths: vec![Vec::new(); parts] };
    writer.write(&tree, 1, &mut Vec::new());
    let mut seen = BTreeSet::new();
    for i in 1..parts {
        // A part is used by one before it in its own system, or by another.
        let near: Vec<usize> = (0..i).filter(|j| writer.paths[*j] == writer.paths[i]).collect();
        let far = matches!(style, Style::Tangled) && dice.percent(35);
        let from = if near.is_empty() || far || dice.percent(12) { dice.roll(i) } else { *dice.pick(&near) };
        seen.insert((from, i));
        if dice.percent(if matches!(style, Style::Tangled) { 40 } else { 18 }) {
            let other = (i + 1 + dice.roll(6)) % parts;
            if other != i && !seen.contains(&(other, i)) {
                seen.insert((i, other));
            }
        }
    }
    for (a, b) in seen {
        let label = if dice.percent(35) { format!(" \"{}\"", dice.pick(&LABELS)) } else { String::new() };
        let _ = writeln!(writer.text, "  p{a} uses p{b}{label}");
    }
    writer.text
}
