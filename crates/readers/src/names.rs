//! Names out of what is there: readable, stable, unique, and valid without backquotes.

use bathygram_core::emit::written_name;
use std::collections::BTreeSet;

/// A name has at most so many letters.
// Longer ones are sentences: they are labels.
const LONGEST: usize = 40;

/// The names that are given already.
#[derive(Clone, Debug, Default)]
pub(crate) struct Names(BTreeSet<String>);

impl Names {
    /// A name for a text, other than those that were given before.
    pub(crate) fn give(&mut self, text: &str) -> String {
        let plain = plain(text);
        let mut name = plain.clone();
        let mut count = 1;
        while !self.0.insert(name.clone()) {
            count += 1;
            name = format!("{plain}_{count}");
        }
        name
    }
}

/// A text as a name: letters, digits, `_` and `-`, a letter first.
fn plain(text: &str) -> String {
    let mut out = String::new();
    for c in text.trim().chars() {
        if c.is_alphanumeric() || c == '-' && !out.is_empty() {
            out.push(c);
        } else if !out.is_empty() && !out.ends_with('_') {
            out.push('_');
        }
        if out.chars().count() >= LONGEST {
            break;
        }
    }
    let out = out.trim_end_matches(['_', '-']).to_owned();
    let out = if out.starts_with(|c: char| c.is_alphabetic()) { out } else { format!("n{out}") };
    // What equals a verb would need backquotes.
    if written_name(&out) == out { out } else { format!("{out}_") }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_readable_and_unique() {
        let mut names = Names::default();
        let given = ["core-sw-01", "Pier / west 3", "pier/west 3", "10.0.0.7", "uses", "", "süd", "core-sw-01"];
        let given = given.map(|text| names.give(text));
        assert_eq!(
            given,
            ["core-sw-01", "Pier_west_3", "pier_west_3", "n10_0_0_7", "uses_", "n", "süd", "core-sw-01_2"]
        );
        assert!(given.iter().all(|name| written_name(name) == *name));
        assert_eq!(names.give(&"long ".repeat(30)).chars().count(), 39);
    }
}
