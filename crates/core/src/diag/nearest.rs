//! The likely meaning of a mistyped word.

/// The candidate that most resembles `word`, if any is close enough to be meant.
///
/// Distance after Damerau and Levenshtein (optimal string alignment), at most a third of the length, so
/// that words of one or two letters resemble nothing but their own capitals.
/// Ties go to the earlier candidate. Candidates whose length alone rules them out are not compared.
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let length = word.chars().count();
    let limit = (length / 3).min(3);
    let lower = word.to_lowercase();
    let mut best: Option<(usize, &str)> = None;
    for candidate in candidates {
        if candidate == word || candidate.chars().count().abs_diff(length) > limit {
            continue;
        }
        let distance = strsim::osa_distance(&lower, &candidate.to_lowercase());
        if distance <= limit && best.is_none_or(|(d, _)| distance < d) {
            best = Some((distance, candidate));
        }
    }
    best.map(|(_, candidate)| candidate)
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
    }
}
