//! How a language says things: its patterns and its words, as data.

use super::labels::label;
use regex::{Captures, Regex, RegexBuilder};
use serde::Deserialize;
use std::collections::BTreeSet;
use std::sync::OnceLock;

/// What a sentence means.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(super) enum Means {
    Begin,
    Finish,
    Decide,
    /// Another condition, where the one before does not hold.
    OtherwiseDecide,
    Otherwise,
    Question,
    Answer,
    Repeat,
    /// Earlier steps, by their numbers.
    RepeatSteps,
    /// Something for each of several.
    Each,
    Together,
    Go,
    When,
    Once,
    Wait,
    /// A step behind words that say nothing else.
    Step,
    /// A remark on the step before.
    Note,
}

#[derive(Deserialize)]
struct File {
    order: String,
    between: String,
    contrast: String,
    adverb: String,
    article: String,
    modal: String,
    behind_verb: Vec<String>,
    nobodies: Vec<String>,
    so: Vec<String>,
    not_so: Vec<String>,
    beginnings: Vec<String>,
    and: String,
    plural: String,
    third_person: Vec<[String; 2]>,
    endings: Vec<String>,
    abbreviations: Vec<String>,
    passive: String,
    remark: String,
    negations: Vec<Negation>,
    questions: Vec<QuestionPattern>,
    yes: String,
    no: String,
    start: String,
    end: String,
    patterns: Vec<Pattern>,
    roles: Vec<RolePattern>,
    not_roles: List,
    verbs: List,
}

#[derive(Deserialize)]
struct Pattern {
    means: Means,
    text: String,
    /// The label of what is repeated, with the parts of the sentence in it.
    label: Option<String>,
    /// The step, where it is not a part as it is written.
    step: Option<String>,
}

/// A condition with a "not", and the same without it.
#[derive(Deserialize)]
struct Negation {
    not: String,
    so: String,
}

#[derive(Deserialize)]
struct QuestionPattern {
    text: String,
    asks: String,
}

#[derive(Deserialize)]
struct RolePattern {
    text: String,
}

#[derive(Deserialize)]
struct List {
    words: Vec<String>,
}

/// What a sentence means, with its parts.
pub(super) struct Meaning<'w, 't> {
    pub(super) means: Means,
    parts: Captures<'t>,
    label: Option<&'w str>,
    step: Option<&'w str>,
}

impl Meaning<'_, '_> {
    /// A part, as it is written; empty if there is none.
    pub(super) fn part(&self, name: &str) -> String {
        self.parts.name(name).map(|found| found.as_str().trim().to_owned()).unwrap_or_default()
    }

    /// The step in it.
    pub(super) fn step(&self) -> String {
        self.step.map_or_else(|| self.part("step"), |template| self.filled(template))
    }

    /// The label of what is repeated.
    pub(super) fn label(&self) -> String {
        self.label.map(|template| self.filled(template)).unwrap_or_default()
    }

    fn filled(&self, template: &str) -> String {
        let mut out = String::new();
        self.parts.expand(template, &mut out);
        out
    }
}

/// The patterns and the words of a language.
#[derive(Clone, Debug)]
pub struct Words {
    pub(super) order: Regex,
    pub(super) between: Regex,
    pub(super) contrast: Regex,
    adverb: Regex,
    pub(super) article: Regex,
    modal: Regex,
    pub(super) yes: String,
    pub(super) no: String,
    pub(super) start: String,
    pub(super) end: String,
    pub(super) nobodies: Vec<String>,
    pub(super) so: Vec<String>,
    pub(super) not_so: Vec<String>,
    pub(super) beginnings: Vec<String>,
    pub(super) and: String,
    pub(super) plural: String,
    pub(super) abbreviations: Vec<String>,
    pub(super) remark: String,
    third_person: Vec<[String; 2]>,
    endings: Vec<String>,
    passive: Regex,
    negations: Vec<(String, String)>,
    questions: Vec<(Regex, String)>,
    patterns: Vec<Known>,
    roles: Vec<Regex>,
    behind_verb: BTreeSet<String>,
    not_roles: BTreeSet<String>,
    verbs: BTreeSet<String>,
}

/// A pattern, with what it means.
#[derive(Clone, Debug)]
struct Known {
    means: Means,
    pattern: Regex,
    label: Option<String>,
    step: Option<String>,
}

/// The words of English, as a file.
pub const ENGLISH: &str = include_str!("../../words/outline_en.toml");

/// Patterns take at most this many bytes.
const LARGEST: usize = 4 * 1024 * 1024;

impl Words {
    /// English.
    pub(super) fn english() -> &'static Self {
        static WORDS: OnceLock<Words> = OnceLock::new();
        WORDS.get_or_init(|| Self::read(ENGLISH).unwrap_or_else(|why| panic!("{why}")))
    }

    /// The words of another language, in the form of [`ENGLISH`].
    ///
    /// # Errors
    /// If a key is missing, or a pattern is none: a sentence.
    pub fn read(text: &str) -> Result<Self, String> {
        let file: File = toml::from_str(text).map_err(|why| why.to_string())?;
        let pattern = |text: &str, folds: bool| {
            let built = RegexBuilder::new(text).case_insensitive(folds).size_limit(LARGEST).build();
            built.map_err(|why| format!("{text}: {why}"))
        };
        let known =
            |p: Pattern| Ok(Known { pattern: pattern(&p.text, true)?, means: p.means, label: p.label, step: p.step });
        let role = |role: &RolePattern| {
            let built = pattern(&role.text, false)?;
            let has = |name: &str| built.capture_names().flatten().any(|own| own == name);
            match has("role") && has("step") {
                true => Ok(built),
                false => Err(format!("{}: a pattern of a role has the parts `role` and `step`", role.text)),
            }
        };
        Ok(Self {
            order: pattern(&file.order, true)?,
            between: pattern(&file.between, true)?,
            contrast: pattern(&file.contrast, true)?,
            adverb: pattern(&file.adverb, true)?,
            article: pattern(&file.article, true)?,
            modal: pattern(&file.modal, true)?,
            passive: pattern(&file.passive, true)?,
            patterns: file.patterns.into_iter().map(known).collect::<Result<_, String>>()?,
            roles: file.roles.iter().map(role).collect::<Result<_, String>>()?,
            questions: file
                .questions
                .into_iter()
                .map(|question| Ok((pattern(&question.text, false)?, question.asks)))
                .collect::<Result<_, String>>()?,
            negations: file.negations.into_iter().map(|negation| (negation.not, negation.so)).collect(),
            nobodies: file.nobodies,
            so: file.so,
            not_so: file.not_so,
            beginnings: file.beginnings,
            and: file.and,
            plural: file.plural,
            third_person: file.third_person,
            endings: file.endings,
            abbreviations: file.abbreviations,
            remark: file.remark,
            yes: file.yes,
            no: file.no,
            start: file.start,
            end: file.end,
            behind_verb: file.behind_verb.into_iter().collect(),
            not_roles: file.not_roles.words.into_iter().collect(),
            verbs: file.verbs.words.into_iter().collect(),
        })
    }

    /// A condition as a question: "the drift is above 2 mm" is "Is the drift above 2 mm?"; "no one answers" is "No one answers?".
    pub(super) fn question(&self, condition: &str) -> String {
        let condition = condition.trim().trim_end_matches(['.', ',', ':', '?']);
        let asked = self.questions.iter().find_map(|(pattern, asks)| {
            let mut out = String::new();
            pattern.captures(condition)?.expand(asks, &mut out);
            Some(out)
        });
        format!("{}?", label(&asked.unwrap_or_else(|| condition.to_owned())))
    }

    /// A condition without its "not", if it has one: the question is the same, and its answer the other one.
    pub(super) fn positive(&self, condition: &str) -> Option<String> {
        let found = self.negations.iter().find(|(not, _)| condition.contains(not.as_str()));
        found.map(|(not, so)| condition.replacen(not.as_str(), so, 1))
    }

    /// Whether a sentence says what is done to something.
    pub(super) fn is_passive(&self, text: &str) -> bool {
        self.passive.is_match(text)
    }

    /// A word without its endings, so that "measuring" is like "measure".
    pub(super) fn stem(&self, word: &str) -> String {
        let cut = self.endings.iter().find_map(|ending| word.strip_suffix(ending.as_str()));
        cut.filter(|stem| stem.len() > 2).unwrap_or(word).to_owned()
    }

    /// What a sentence means; `None` for a plain one.
    pub(super) fn meaning<'w, 't>(&'w self, sentence: &'t str) -> Option<Meaning<'w, 't>> {
        self.patterns.iter().find_map(|known| {
            let parts = known.pattern.captures(sentence)?;
            Some(Meaning { means: known.means, parts, label: known.label.as_deref(), step: known.step.as_deref() })
        })
    }

    /// Who does something, and what, where a mark or `by` says it.
    pub(super) fn role(&self, sentence: &str) -> Option<(String, String)> {
        self.roles.iter().find_map(|pattern| {
            let captures = pattern.captures(sentence)?;
            let role = self.article.replace(captures["role"].trim(), "").into_owned();
            let words = role.to_lowercase();
            // A word for what people do is no role, nor is one that only opens a sentence.
            let first = words.split(' ').next().unwrap_or_default();
            // Capitals alone are a name: "IT" is no "it".
            let is_name = role.len() > 1 && role.chars().all(char::is_uppercase);
            let is_word =
                self.not_roles.contains(&words) || self.verbs.contains(first) || self.not_roles.contains(first);
            let is_role = is_name || !is_word;
            is_role.then(|| (role, captures["step"].to_owned()))
        })
    }

    /// Who does something, and what, where a sentence has a subject: "the clerk checks the form", "clerks must check it". The
    /// step begins with its verb.
    pub(super) fn subject(&self, sentence: &str) -> Option<(String, String)> {
        let bare = self.article.replace(sentence, "");
        let has_article = bare.len() < sentence.len();
        let words: Vec<&str> = bare.split(' ').collect();
        for count in 1..=3.min(words.len().saturating_sub(1)) {
            let role = words[..count].join(" ");
            let rest = words[count..].join(" ");
            let rest = self.adverb.replace(&rest, "").into_owned();
            let first = words[0].to_lowercase();
            if self.verbs.contains(&first) && !has_article
                || self.not_roles.contains(&first)
                || role.ends_with([',', ':'])
            {
                return None;
            }
            if let Some(said) = self.modal.find(&rest) {
                let step = &rest[said.end()..];
                if self.is_verb(step) {
                    return Some((role, step.to_owned()));
                }
            }
            if let Some(step) = self.third_person(&rest) {
                return Some((role, step));
            }
            // "the boat crew sails to the gauge": a verb that is not listed.
            if has_article && let Some(step) = self.likely_verb(&rest) {
                return Some((role, step));
            }
            // "customers return the gauge".
            if !self.plural.is_empty() && role.ends_with(&self.plural) && self.is_verb(&rest) {
                return Some((role, rest));
            }
        }
        None
    }

    /// A step whose verb stands in the third person, with its verb as in a command: "checks the form" is "check the form".
    pub(super) fn third_person(&self, text: &str) -> Option<String> {
        let (verb, rest) = text.split_once(' ').unwrap_or((text, ""));
        let verb = verb.to_lowercase();
        let bases = self.third_person.iter().filter_map(|[ending, base]| {
            let stem = verb.strip_suffix(ending.as_str())?;
            Some(format!("{stem}{base}"))
        });
        let base = bases.into_iter().find(|base| self.verbs.contains(base.as_str()))?;
        Some(format!("{base} {rest}").trim_end().to_owned())
    }

    /// The same for a word that only looks like a verb in the third person, before one that stands behind verbs.
    fn likely_verb(&self, text: &str) -> Option<String> {
        let (verb, rest) = text.split_once(' ')?;
        let next = rest.split(' ').next().unwrap_or_default().to_lowercase();
        let verb = verb.to_lowercase();
        let is_likely =
            verb.len() > 3 && self.behind_verb.contains(&next) && !verb.ends_with("ss") && !verb.ends_with("us");
        let hisses = ["sh", "ch", "ss", "x", "z", "o"];
        let base = verb.strip_suffix("ies").map(|stem| format!("{stem}y")).or_else(|| {
            let stem = verb.strip_suffix("es").filter(|stem| hisses.iter().any(|end| stem.ends_with(end)));
            stem.or_else(|| verb.strip_suffix('s')).map(str::to_owned)
        });
        base.filter(|_| is_likely).map(|base| format!("{base} {rest}"))
    }

    /// Whether a text begins with what people do.
    pub(super) fn is_verb(&self, text: &str) -> bool {
        let first = text.split([' ', ',', ':']).next().unwrap_or_default();
        self.verbs.contains(&first.to_lowercase())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_words_of_english_are_whole() {
        let words = Words::english();
        let means = |sentence: &str| words.meaning(sentence).map(|meaning| meaning.means);
        for (sentence, wanted) in [
            ("If the drift is above 2 mm, adjust the offset", Some(Means::Decide)),
            ("Otherwise, sign the certificate", Some(Means::Otherwise)),
            ("Otherwise if it is worn, order a new one", Some(Means::OtherwiseDecide)),
            ("Repeat steps 2 to 4 until no drift is left", Some(Means::RepeatSteps)),
            ("Repeat until it is dry:", Some(Means::Repeat)),
            ("At the same time, archive the readings", Some(Means::Together)),
            ("Go back to step 3", Some(Means::Go)),
            ("The process ends", Some(Means::Finish)),
            ("Wait for the tide", Some(Means::Wait)),
            ("Is the drift above 2 mm?", Some(Means::Question)),
            ("Check the form", None),
            ("Continue the work", None),
        ] {
            assert_eq!(means(sentence), wanted, "{sentence}");
        }
        assert_eq!(words.subject("The clerk checks the form"), Some(("clerk".into(), "check the form".into())));
        assert_eq!(
            words.subject("The duty keeper must call the harbour"),
            Some(("duty keeper".into(), "call the harbour".into()))
        );
        assert_eq!(words.subject("Check the form"), None);
        assert_eq!(words.role("Technician: Collect readings"), Some(("Technician".into(), "Collect readings".into())));
        assert_eq!(words.role("Checked by the data office"), Some(("data office".into(), "Checked".into())));
        assert_eq!(words.role("Note: it takes two days"), None);
    }

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
            assert_eq!(Words::english().question(condition), wanted);
        }
    }
}
