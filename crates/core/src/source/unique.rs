//! Names that are each given once. A free one is found without trying all numbers that were given before, so that a hundred thousand
//! things of one name have theirs in an instant.

use std::collections::HashMap;

/// The names that are given already.
#[derive(Clone, Debug)]
pub struct Unique {
    /// What names are equal by, with the number that was tried last.
    taken: HashMap<String, usize>,
    folded: fn(&str) -> String,
}

impl Default for Unique {
    fn default() -> Self {
        Self { taken: HashMap::new(), folded: str::to_owned }
    }
}

impl Unique {
    /// No names; those that differ only in capitals are equal.
    pub fn whatever_the_case() -> Self {
        Self { folded: str::to_lowercase, ..Self::default() }
    }

    /// Takes a name; says whether nothing had it.
    pub fn take(&mut self, name: &str) -> bool {
        let mut is_new = false;
        self.taken.entry((self.folded)(name)).or_insert_with(|| {
            is_new = true;
            1
        });
        is_new
    }

    /// Takes the wanted name, or the first one that nothing has of those that `numbered` makes from 2 on; an empty name is none.
    pub fn give(&mut self, wanted: &str, numbered: impl Fn(usize) -> String) -> String {
        if !wanted.is_empty() && self.take(wanted) {
            return wanted.to_owned();
        }
        let key = (self.folded)(wanted);
        let mut number = self.taken.get(&key).copied().unwrap_or(1);
        loop {
            number += 1;
            let name = numbered(number);
            if self.take(&name) {
                self.taken.insert(key, number);
                return name;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_name_is_given_once() {
        let mut names = Unique::whatever_the_case();
        let mut give = |wanted: &str| names.give(wanted, |n| format!("{wanted}-{n}"));
        let given: Vec<String> = ["ebb", "Ebb", "ebb-3", "ebb", "ebb", "", ""].into_iter().map(&mut give).collect();
        assert_eq!(given, ["ebb", "Ebb-2", "ebb-3", "ebb-4", "ebb-5", "-2", "-3"]);
        let mut names = Unique::default();
        assert!(names.take("a") && names.take("A") && !names.take("a"));
        let many: Vec<String> = (0..200_000).map(|_| names.give("a", |n| format!("a{n}"))).collect();
        assert_eq!(many.last().map(String::as_str), Some("a200001"));
    }
}
