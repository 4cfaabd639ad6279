//! Small changes of a text, of the kind that a reviewer sees every day.

use crate::Dice;

/// A text after one change.
#[derive(Clone, Debug)]
pub struct Edit {
    /// What was changed.
    pub what: &'static str,
    /// The new text.
    pub text: String,
}

/// Changes of one line each: a relation more, a relation less, an element more with a relation to it, a longer label.
/// Only for texts of the graph families, whose lines name elements `n0`, `n1` … or `p0`, `p1` ….
pub fn edits(text: &str, seed: u64) -> Vec<Edit> {
    let mut dice = Dice::new(seed);
    let lines: Vec<&str> = text.lines().collect();
    let is_relation = |l: &str| l.contains(" uses ");
    let relations: Vec<usize> = (0..lines.len()).filter(|i| is_relation(lines[*i])).collect();
    let elements: Vec<usize> = (0..lines.len()).filter(|i| lines[*i].trim_start().starts_with("service ")).collect();
    if relations.len() < 2 || elements.len() < 2 {
        return Vec::new();
    }
    let name = |line: usize| lines[line].split_whitespace().nth(1).unwrap_or_default().to_owned();
    let with = |change: &dyn Fn(&mut Vec<String>)| with(&lines, change);
    let (a, b) = (name(*dice.pick(&elements)), name(*dice.pick(&elements)));
    let (gone, longer) = (*dice.pick(&relations), *dice.pick(&elements));
    let joined = format!("  {a} uses {b}");
    let mut edits = vec![
        Edit { what: "relation less", text: with(&|l| drop(l.remove(gone))) },
        Edit {
            what: "element more",
            text: with(&|l| l.extend(["  service fresh \"Fresh\"".to_owned(), format!("  {a} uses fresh")])),
        },
        Edit { what: "longer label", text: with(&|l| l[longer] = l[longer].replacen('"', "\"Renamed ", 1)) },
    ];
    if a != b && !lines.iter().any(|l| l.starts_with(&joined)) {
        edits.push(Edit { what: "relation more", text: with(&|l| l.push(joined.clone())) });
    }
    edits
}

/// The text of some lines after a change.
fn with(lines: &[&str], change: &dyn Fn(&mut Vec<String>)) -> String {
    let mut lines: Vec<String> = lines.iter().map(|l| (*l).to_owned()).collect();
    change(&mut lines);
    lines.join("\n") + "\n"
}
