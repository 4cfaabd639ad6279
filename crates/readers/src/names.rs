//! Names out of what is there: readable, stable, unique, and valid without backquotes.

use bathygram_core::emit::written_name;
use bathygram_core::source::Unique;
use std::path::Path;

/// A name has at most this many letters.
// Longer ones are sentences: they are labels.
const LONGEST: usize = 40;

/// Words that say nothing in a short name.
const SMALL: [&str; 6] = ["the", "a", "an", "to", "of", "and"];

/// The names that are given already.
#[derive(Clone, Debug, Default)]
pub(crate) struct Names(Unique);

impl Names {
    /// A short name for a sentence: its first words, in small letters.
    pub(crate) fn give_short(&mut self, text: &str) -> String {
        let words = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty());
        let said: Vec<String> = words.map(str::to_lowercase).filter(|word| !SMALL.contains(&word.as_str())).collect();
        self.give(&said.into_iter().take(2).collect::<Vec<_>>().join("_"))
    }

    /// A name for a text, other than those that were given before.
    pub(crate) fn give(&mut self, text: &str) -> String {
        let plain = plain(text);
        self.0.give(&plain, |number| format!("{plain}_{number}"))
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

/// The name of a file as a title: "harbour_cabling" is "Harbour cabling".
pub(crate) fn sentence(stem: &str) -> String {
    let words = stem.replace(['_', '-'], " ");
    let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut letters = words.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

/// The name of a file without its endings; `otherwise` for what has none.
pub(crate) fn stem(path: &Path, otherwise: &str) -> String {
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let stem = name.split('.').find(|part| !part.is_empty()).unwrap_or(otherwise);
    stem.to_owned()
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
