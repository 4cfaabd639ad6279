//! Sentences as the labels of steps and decisions.

/// A text with a capital, without its last full stop.
pub(super) fn label(text: &str) -> String {
    let text = text.trim().trim_end_matches(['.', ';', ',', ':', '!']).trim();
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

/// A condition as a question: "the drift is above 2 mm" is "Is the drift above 2 mm?"; "no one answers" is "No one answers?".
pub(super) fn question(condition: &str) -> String {
    let condition = condition.trim().trim_end_matches(['.', ',', ':', '?']);
    let words: Vec<&str> = condition.split(' ').collect();
    let is_verb = |word: &str| ["is", "are", "was", "were", "has", "have", "can", "may", "must"].contains(&word);
    let turned = words.iter().position(|word| is_verb(word)).filter(|at| (1..=5).contains(at)).and_then(|at| {
        let (verb, rest) = (words[at], &words[at + 1..]);
        // "has" with a thing is no auxiliary: "the form has no date" stays as it is.
        let is_auxiliary = !matches!(verb, "has" | "have") || rest.first().is_some_and(|word| word.ends_with("ed"));
        let begins_low = words[0].chars().next().is_some_and(char::is_lowercase) || words[0] == "The";
        let subject = words[..at].join(" ");
        let is_plain = !["no", "nobody", "nothing", "there", "it", "which", "that", "who"].contains(&words[0]);
        (is_auxiliary && begins_low && is_plain && !rest.is_empty())
            .then(|| format!("{verb} {} {}", subject.to_lowercase_first(), rest.join(" ")))
    });
    let it = match words.as_slice() {
        ["it", verb, rest @ ..] if is_verb(verb) && !rest.is_empty() => Some(format!("{verb} it {}", rest.join(" "))),
        ["there", verb, rest @ ..] if is_verb(verb) && !rest.is_empty() => {
            Some(format!("{verb} there {}", rest.join(" ")))
        }
        _ => None,
    };
    format!("{}?", label(&turned.or(it).unwrap_or_else(|| condition.to_owned())))
}

/// A condition without its "not", if it has one: the question is the same, and its answer the other one.
pub(super) fn positive(condition: &str) -> Option<String> {
    let negations = [
        (" is not ", " is "),
        (" are not ", " are "),
        (" isn't ", " is "),
        (" aren't ", " are "),
        (" has not ", " has "),
        (" have not ", " have "),
    ];
    negations.iter().find(|(not, _)| condition.contains(not)).map(|(not, so)| condition.replacen(not, so, 1))
}

/// A text whose first letter is small.
trait LowercaseFirst {
    fn to_lowercase_first(&self) -> String;
}

impl LowercaseFirst for String {
    fn to_lowercase_first(&self) -> String {
        let mut letters = self.chars();
        letters.next().map_or(String::new(), |first| first.to_lowercase().chain(letters).collect())
    }
}

/// Sentences of a paragraph: at full stops, question marks and exclamation marks before a capital.
pub(super) fn sentences(text: &str) -> Vec<String> {
    let mut out = Vec::new();
    let mut start = 0;
    let bytes: Vec<(usize, char)> = text.char_indices().collect();
    for (i, (at, c)) in bytes.iter().enumerate() {
        let next = bytes.get(i + 1).map(|b| b.1);
        let after = bytes.get(i + 2).map(|b| b.1);
        let ends = matches!(c, '.' | '?' | '!') && next == Some(' ');
        // Short words with a point are abbreviations: "e.g.", "approx.", "No. 3".
        let word = text[start..*at].rsplit(' ').next().unwrap_or_default();
        let is_short = *c == '.'
            && (word.contains('.') || ["approx", "No", "no", "resp", "incl", "etc", "Dr", "Mr", "Ms"].contains(&word));
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
    fn conditions_become_questions() {
        for (condition, wanted) in [
            ("the drift is above 2 mm", "Is the drift above 2 mm?"),
            ("no one answers", "No one answers?"),
            ("it is worn", "Is it worn?"),
            ("the form has no date", "The form has no date?"),
            ("the order has arrived", "Has the order arrived?"),
            ("there is a fault", "Is there a fault?"),
            ("damage", "Damage?"),
        ] {
            assert_eq!(question(condition), wanted);
        }
    }

    #[test]
    fn paragraphs_are_cut_into_sentences() {
        assert_eq!(
            sentences("Check it, e.g. the seal. Is it dry? Wait approx. 5 min. then go on. End."),
            ["Check it, e.g. the seal.", "Is it dry?", "Wait approx. 5 min. then go on.", "End."]
        );
    }
}
