//! Flows: steps, decisions with ways back, and lanes.

use crate::{Dice, Sample};
use std::fmt::Write;

const STEPS: [&str; 8] = [
    "Read the gauge",
    "Check the frame",
    "Compare with the tide table",
    "Ask the neighbouring buoy",
    "Call the keeper",
    "Write the level down",
    "Sound the horn",
    "Wait for slack water",
];
const QUESTIONS: [&str; 5] =
    ["Frame intact?", "Above the mark?", "Keeper awake?", "Second warning today?", "Neighbour agrees?"];
const LANES: [&str; 4] = ["Field team", "Data office", "Duty keeper", "Harbour"];

pub(crate) fn samples() -> Vec<Sample> {
    let mut dice = Dice::new(9);
    let mut list = Vec::new();
    for steps in [10, 20, 40, 80, 160, 300] {
        let name = format!("flow_{steps}");
        list.push(Sample { family: "flows", text: flow(&mut dice, &name, steps), name });
    }
    for (lanes, steps) in [(2, 8), (3, 14), (4, 24), (3, 40)] {
        let name = format!("lanes_{lanes}_{steps}");
        list.push(Sample { family: "lanes", text: in_lanes(&mut dice, &name, lanes, steps), name });
    }
    list
}

fn flow(dice: &mut Dice, name: &str, steps: usize) -> String {
    let mut text = format!("flow {name}\n  begin \"Begin\"\n");
    let (mut made, mut named) = (0, 0usize);
    while made < steps {
        made += 1;
        let step = dice.pick(&STEPS);
        if dice.percent(60) {
            named += 1;
            let _ = writeln!(text, "  step s{named} \"{step} {made}\"");
            continue;
        }
        let _ = writeln!(text, "  decide \"{}\"", dice.pick(&QUESTIONS));
        let _ = writeln!(text, "    when \"yes\"\n      \"{step} {made}\"");
        made += 1;
        let _ = writeln!(text, "    or \"no\"\n      \"{} {made}\"", dice.pick(&STEPS));
        if named > 0 && dice.percent(30) {
            let back = named.saturating_sub(dice.roll(4)).max(1);
            let _ = writeln!(text, "      go s{back}");
        }
    }
    text + "  finish \"End\"\n"
}

fn in_lanes(dice: &mut Dice, name: &str, lanes: usize, steps: usize) -> String {
    let mut text = format!("flow {name}\n");
    for (i, lane) in LANES[..lanes].iter().enumerate() {
        let _ = writeln!(text, "  lane l{i} \"{lane}\"");
    }
    text.push_str("  in l0\n    begin \"Begin\"\n");
    let mut lane = 0;
    for i in 0..steps {
        if dice.percent(50) {
            // To the lane beside: a line to any other would have to cross what lies between.
            lane = if lane == 0 || (lane + 1 < lanes && dice.percent(60)) { lane + 1 } else { lane - 1 };
            let _ = writeln!(text, "  in l{lane}");
        }
        if dice.percent(25) && i + 2 < steps {
            let _ = writeln!(
                text,
                "    decide \"{}\"\n      when \"yes\"\n        \"{} {i}\"\n      or \"no\"\n        \"{} again {i}\"",
                dice.pick(&QUESTIONS),
                dice.pick(&STEPS),
                dice.pick(&STEPS)
            );
        } else {
            let _ = writeln!(text, "    step s{i} \"{} {i}\"", dice.pick(&STEPS));
        }
    }
    text + "    finish \"End\"\n"
}
