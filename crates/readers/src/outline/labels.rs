//! Sentences as the labels of steps and decisions.

/// A text with a capital, without its last full stop.
pub(super) fn label(text: &str) -> String {
    let text = text.trim().trim_end_matches(['.', ';', ',', ':', '!']).trim();
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

/// Sentences of a paragraph: at full stops, question marks and exclamation marks before a capital.
pub(super) fn sentences(text: &str, abbreviations: &[String]) -> Vec<String> {
    let mut out = Vec::new();
    let mut start = 0;
    let bytes: Vec<(usize, char)> = text.char_indices().collect();
    for (i, (at, c)) in bytes.iter().enumerate() {
        let next = bytes.get(i + 1).map(|b| b.1);
        let after = bytes.get(i + 2).map(|b| b.1);
        let ends = matches!(c, '.' | '?' | '!') && next == Some(' ');
        // Short words with a point are abbreviations: "e.g.", "approx.", "No. 3".
        let word = text[start..*at].rsplit(' ').next().unwrap_or_default();
        let is_short = *c == '.' && (word.contains('.') || abbreviations.iter().any(|own| own == word));
        if ends && !is_short && after.is_some_and(|c| c.is_uppercase() || c == '"' || c == '(') {
            out.push(text[start..=*at].trim().to_owned());
            start = at + 1;
        }
    }
    out.push(text[start..].trim().to_owned());
    out.retain(|sentence| sentence.chars().any(char::is_alphanumeric));
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paragraphs_are_cut_into_sentences() {
        assert_eq!(
            sentences(
                "Check it, e.g. the seal. Is it dry? Wait approx. 5 min. then go on. End.",
                &["approx".to_owned()]
            ),
            ["Check it, e.g. the seal.", "Is it dry?", "Wait approx. 5 min. then go on.", "End."]
        );
    }
}
