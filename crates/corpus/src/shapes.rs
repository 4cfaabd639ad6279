//! Shapes for which a careful hand has a way of its own: chains and rings, layers of groups, racks with cables, families of
//! classes in packages, decision trees, hubs with many leaves, and members that nothing joins.

use crate::{Dice, Sample};
use std::fmt::Write;

const STATIONS: [&str; 6] = ["Quay", "Lock", "Buoy", "Sluice", "Beacon", "Pier"];
const LAYERS: [&str; 4] = ["What people see", "What it does", "What it knows", "What it stands on"];

pub(crate) fn samples() -> Vec<Sample> {
    let mut dice = Dice::new(33);
    let mut list = Vec::new();
    let mut add = |family, name: String, text: String| list.push(Sample { family, name, text });
    for count in [12, 60] {
        add("chains", format!("chain_{count}"), chain(&format!("chain_{count}"), count, false));
    }
    for count in [8, 20] {
        add("chains", format!("ring_{count}"), chain(&format!("ring_{count}"), count, true));
    }
    for per_layer in [3, 5] {
        let name = format!("layers_{per_layer}");
        add("layers", name.clone(), layers(&mut dice, &name, per_layer));
    }
    for racks in [2, 4] {
        let name = format!("racks_{racks}");
        add("racks", name.clone(), racks_with_cables(&mut dice, &name, racks));
    }
    for packages in [2, 4] {
        let name = format!("families_{packages}");
        add("families", name.clone(), families(&mut dice, &name, packages));
    }
    for depth in [2, 3] {
        let name = format!("decisions_{depth}");
        add("decisions", name.clone(), decisions(&name, depth));
    }
    for leaves in [12, 40] {
        let name = format!("springs_{leaves}");
        add("springs", name.clone(), springs(&name, leaves));
    }
    add("crowds", "crowd_9".to_owned(), crowd("crowd_9", 9));
    list
}

/// One after the other, and back to the first.
fn chain(name: &str, count: usize, is_ring: bool) -> String {
    let mut text = format!("architecture {name}\n");
    for i in 0..count {
        let _ = writeln!(text, "  service s{i} \"{} {i}\"", STATIONS[i % STATIONS.len()]);
    }
    for i in 1..count {
        let _ = writeln!(text, "  s{} calls s{i}", i - 1);
    }
    if is_ring {
        let _ = writeln!(text, "  s{} calls s0", count - 1);
    }
    text
}

/// Four groups, each of which calls only the next.
fn layers(dice: &mut Dice, name: &str, per_layer: usize) -> String {
    let mut text = format!("architecture {name}\n");
    for (l, title) in LAYERS.iter().enumerate() {
        let _ = writeln!(text, "  group g{l} \"{title}\"");
        for i in 0..per_layer {
            let _ = writeln!(text, "    part p{l}_{i} \"{} {l}.{i}\"", STATIONS[(l + i) % STATIONS.len()]);
        }
    }
    for l in 1..LAYERS.len() {
        for i in 0..per_layer {
            let _ = writeln!(text, "  p{}_{i} uses p{l}_{i}", l - 1);
            if dice.percent(40) {
                let _ = writeln!(text, "  p{}_{i} reads p{l}_{}", l - 1, (i + 1) % per_layer);
            }
        }
    }
    text
}

/// Switches in racks, each rack a chain, and cables between neighbouring racks.
fn racks_with_cables(dice: &mut Dice, name: &str, racks: usize) -> String {
    let mut text = format!("network {name}\n");
    for r in 0..racks {
        let _ = writeln!(text, "  group r{r} \"Rack {}\"", r + 1);
        for i in 0..4 {
            let _ = writeln!(text, "    device d{r}_{i} \"Switch {}.{i}\"", r + 1);
        }
    }
    let _ = writeln!(text, "  device gate \"Gateway\"");
    for r in 0..racks {
        for i in 1..4 {
            let _ = writeln!(text, "  d{r}_{} at eth{i} joins d{r}_{i} at eth0", i - 1);
        }
        if r > 0 {
            let row = dice.roll(4);
            let _ = writeln!(text, "  d{}_{row} at sfp1 joins d{r}_{row} at sfp0 \"10G\"", r - 1);
        }
        let _ = writeln!(text, "  gate at lan{r} joins d{r}_0 at up");
    }
    text
}

/// Classes in packages: a family in each, and what they know of each other.
fn families(dice: &mut Dice, name: &str, packages: usize) -> String {
    let mut text = format!("classes {name}\n");
    for p in 0..packages {
        let _ = writeln!(text, "  group k{p} \"{} classes\"", STATIONS[p % STATIONS.len()]);
        let _ = writeln!(text, "    class Base{p}\n      + read(): Metres");
        for i in 0..3 {
            let _ = writeln!(text, "    class Kind{p}{i} extends Base{p}\n      + mark{i}: Metres");
        }
    }
    for p in 1..packages {
        let _ = writeln!(text, "  1 Kind{}{} knows 0..* Base{p} as levels", p - 1, dice.roll(3));
    }
    text + "  Kind00 knows Kind01\n"
}

/// Decisions and chances in turn, two branches each.
fn decisions(name: &str, depth: usize) -> String {
    fn branch(text: &mut String, indent: usize, depth: usize, number: &mut usize) {
        for answer in ["yes", "no"] {
            *number += 1;
            let pad = "  ".repeat(indent);
            let kind = match (depth, depth % 2) {
                (0, _) => "outcome",
                (_, 0) => "decide",
                _ => "chance",
            };
            let _ = writeln!(
                text,
                "{pad}{kind} n{number} \"{} {number}?\" when \"{answer}\"",
                STATIONS[*number % STATIONS.len()]
            );
            if depth > 0 {
                branch(text, indent + 1, depth - 1, number);
            }
        }
    }
    let mut text = format!("tree {name}\n  decide root \"Close the barrier?\"\n");
    branch(&mut text, 2, depth - 1, &mut 0);
    text
}

/// A hub with leaves, and a few others, as springs have them.
fn springs(name: &str, leaves: usize) -> String {
    let mut text = format!("architecture {name}\n  arrange force\n  service hub \"Hub\"\n");
    for i in 0..leaves {
        let _ = writeln!(text, "  service s{i} \"{} {i}\"\n  hub calls s{i}", STATIONS[i % STATIONS.len()]);
    }
    for i in 0..3 {
        let _ = writeln!(text, "  store t{i} \"Store {i}\"\n  hub reads t{i}\n  t{i} uses t{}", (i + 1) % 3);
    }
    text
}

/// Members that nothing joins.
fn crowd(name: &str, count: usize) -> String {
    let mut text = format!("architecture {name}\n  system harbour \"Harbour\"\n");
    for i in 0..count {
        let _ = writeln!(text, "    service m{i} \"{} {i}\"", STATIONS[i % STATIONS.len()]);
    }
    text
}
