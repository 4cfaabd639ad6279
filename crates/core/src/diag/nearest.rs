//! The likely meaning of a mistyped word.

/// What was probably meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Suggestion {
    /// The word.
    pub word: String,
    /// Whether nothing else resembles what was written: then the spelling can be corrected without asking.
    pub is_only: bool,
}

impl Suggestion {
    /// A word that comes to mind, and is no other spelling.
    pub fn idea(word: &str) -> Self {
        Self { word: word.to_owned(), is_only: false }
    }
}

/// The candidate that most resembles `word`, and whether it is the only one that does.
pub fn suggest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<Suggestion> {
    let near = resembling(word, candidates);
    let best = near.iter().min_by_key(|(distance, _)| *distance)?;
    Some(Suggestion { word: best.1.to_owned(), is_only: near.iter().all(|(_, other)| *other == best.1) })
}

/// The candidate that most resembles `word`, if any is close enough to be meant.
///
/// Distance after Damerau and Levenshtein (optimal string alignment), at most a third of the length, so
/// that words of one or two letters resemble nothing but their own capitals.
/// Ties go to the earlier candidate. Candidates whose length alone rules them out are not compared.
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    resembling(word, candidates).into_iter().min_by_key(|(distance, _)| *distance).map(|(_, candidate)| candidate)
}

/// All candidates that are close enough, with their distances, in their order.
fn resembling<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Vec<(usize, &'a str)> {
    let length = word.chars().count();
    let limit = (length / 3).min(3);
    let lower = word.to_lowercase();
    let mut found = Vec::new();
    for candidate in candidates {
        if candidate == word || candidate.chars().count().abs_diff(length) > limit {
            continue;
        }
        let distance = strsim::osa_distance(&lower, &candidate.to_lowercase());
        if distance <= limit {
            found.push((distance, candidate));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_what_was_meant_and_nothing_else() {
        assert_eq!(nearest("gatway", ["store", "gateway"]), Some("gateway"));
        assert_eq!(nearest("snds", ["calls", "sends"]), Some("sends"));
        assert_eq!(nearest("keeper", ["mariner", "buoy"]), None);
        assert_eq!(nearest("Buoy", ["buoy"]), Some("buoy"));
        assert_eq!(nearest("b", ["a", "c"]), None);
        assert_eq!(nearest("B", ["a", "b"]), Some("b"));
        let only = |word: &str| Some(Suggestion { word: word.to_owned(), is_only: true });
        assert_eq!(suggest("gatway", ["store", "gateway"]), only("gateway"));
        assert_eq!(suggest("gateway1", ["gateway2", "gateway3"]), Some(Suggestion::idea("gateway2")));
    }
}
