//! Realistic processes, each with one known gap: `check` reports exactly the gaps, each in its line.

use crate::common::Folder;
use std::collections::BTreeSet;

const PROCESSES: &[(&str, &str)] = &[
    ("spill", include_str!("../data/processes/spill.bathy")),
    ("leave", include_str!("../data/processes/leave.bathy")),
    ("repair", include_str!("../data/processes/repair.bathy")),
    ("chart", include_str!("../data/processes/chart.bathy")),
    ("contract", include_str!("../data/processes/contract.bathy")),
    ("sound", include_str!("../data/processes/sound.bathy")),
];

/// Codes with their lines, as `// gap: CODE` at the end of a line says.
fn known_gaps(text: &str) -> BTreeSet<(usize, String)> {
    let gap = |(i, line): (usize, &str)| line.split_once("// gap: ").map(|(_, code)| (i + 1, code.to_owned()));
    text.lines().enumerate().filter_map(gap).collect()
}

/// Codes with their lines, as the program reports them.
fn shown(output: &str, file: &str) -> BTreeSet<(usize, String)> {
    let mut found = BTreeSet::new();
    let mut code = None;
    for line in output.lines() {
        let is_title = line.starts_with("warning[") || line.starts_with("error[");
        if let Some((_, rest)) = line.split_once('[').filter(|_| is_title) {
            code = rest.split_once(']').map(|(code, _)| code.to_owned());
        } else if let Some((_, place)) = line.split_once(&format!("--> {file}:")) {
            let at = place.split(':').next().and_then(|n| n.parse().ok()).expect("a line");
            found.insert((at, code.take().expect("a code before its place")));
        }
    }
    found
}

#[test]
fn exactly_the_known_gaps_are_reported() {
    for (name, text) in PROCESSES {
        let folder = Folder::new();
        let file = format!("{name}.bathy");
        folder.write(&file, text);
        let run = folder.run(&["check", "--no-pictures", &file]);
        assert_eq!(shown(&run.out, &file), known_gaps(text), "{name}\n{}", run.out);
    }
    let gaps: Vec<usize> = PROCESSES.iter().map(|(_, text)| known_gaps(text).len()).collect();
    assert_eq!(gaps, [1, 1, 1, 1, 1, 0]);
}
