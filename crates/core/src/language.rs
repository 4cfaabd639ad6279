//! The words that the program adds to pictures: descriptions, legends, pages. Input: a table in TOML. Output: a [`Language`]
//! that has every word; what a table lacks is said in English.

use crate::diag::suggest;
use std::collections::BTreeMap;
use std::sync::{Arc, LazyLock};

/// The languages that come with the program, by their tags (BCP 47), the default one first.
const BUILT_IN: [(&str, &str); 4] = [
    ("en", include_str!("../languages/en.toml")),
    ("de", include_str!("../languages/de.toml")),
    ("fr", include_str!("../languages/fr.toml")),
    ("es", include_str!("../languages/es.toml")),
];

/// Words by section and key.
type Table = BTreeMap<String, BTreeMap<String, String>>;

/// The words of one language.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Language {
    tag: String,
    words: Arc<Table>,
}

impl Default for Language {
    /// English.
    fn default() -> Self {
        static ENGLISH: LazyLock<Arc<Table>> = LazyLock::new(|| Arc::new(plain(BUILT_IN[0].1)));
        Self { tag: BUILT_IN[0].0.to_owned(), words: ENGLISH.clone() }
    }
}

fn parsed(text: &str) -> Result<Table, String> {
    toml::from_str(text).map_err(|why| why.to_string().trim_end().to_owned())
}

/// The built-in table, which has one word a line and no escapes.
// Every run needs it, and a reader of all of TOML takes as long for it as a small picture takes to be laid out. A test holds
// the two against each other.
fn plain(text: &str) -> Table {
    let mut table = Table::new();
    let mut section = "";
    for line in text.lines() {
        if let Some(name) = line.strip_prefix('[') {
            section = name.trim_end_matches(']');
        } else if let Some((key, value)) = line.split_once(" = ") {
            let word = value.trim_matches('"').to_owned();
            table.entry(section.to_owned()).or_default().insert(key.to_owned(), word);
        }
    }
    table
}

/// What is filled in: the names in braces.
fn holes(text: &str) -> Vec<&str> {
    let mut found: Vec<&str> =
        text.split('{').skip(1).filter_map(|rest| rest.split_once('}')).map(|(name, _)| name).collect();
    found.sort_unstable();
    found
}

impl Language {
    /// The tags of the languages that come with the program.
    pub fn built_in() -> impl Iterator<Item = &'static str> {
        BUILT_IN.iter().map(|(tag, _)| *tag)
    }

    /// The table of a language that comes with the program: what a project's own may start from.
    pub fn source(tag: &str) -> Option<&'static str> {
        BUILT_IN.iter().find(|(own, _)| *own == tag).map(|(_, text)| *text)
    }

    /// A language that comes with the program.
    pub fn named(tag: &str) -> Option<Self> {
        Self::source(tag).and_then(|text| Self::read(tag, text).ok())
    }

    /// A language from its table.
    ///
    /// # Errors
    /// If the table has a key that means nothing, or a text that lacks what is filled in.
    pub fn read(tag: &str, text: &str) -> Result<Self, String> {
        let english = Self::default();
        let mut words = (*english.words).clone();
        for (section, own) in parsed(text)? {
            let Some(known) = words.get_mut(&section) else {
                return Err(unknown(&section, "section", english.words.keys()));
            };
            for (key, text) in own {
                let Some(word) = known.get_mut(&key) else {
                    return Err(unknown(&format!("{section}.{key}"), "word", known.keys()));
                };
                if holes(word) != holes(&text) || word.contains('|') != text.contains('|') {
                    return Err(format!("`{section}.{key}` is \"{text}\", but has to have the form of \"{word}\""));
                }
                *word = text;
            }
        }
        Ok(Self { tag: tag.to_owned(), words: Arc::new(words) })
    }

    /// Its tag (BCP 47).
    pub fn tag(&self) -> &str {
        &self.tag
    }

    /// A word of a section.
    pub fn say<'a>(&'a self, section: &str, key: &'a str) -> &'a str {
        self.words.get(section).and_then(|words| words.get(key)).map_or(key, String::as_str)
    }

    /// So many of something: the word has a form for one, and one for many.
    pub fn count(&self, section: &str, key: &str, n: usize) -> String {
        let (one, many) = self.say(section, key).split_once('|').unwrap_or_default();
        format!("{n} {}", if n == 1 { one } else { many })
    }

    /// A sentence, with what is filled in.
    pub fn fill(&self, section: &str, key: &str, values: &[(&str, &str)]) -> String {
        let mut out = String::new();
        // A value is not looked at again: it may have braces.
        let mut rest = self.say(section, key);
        while let Some((before, behind)) = rest.split_once('{') {
            out.push_str(before);
            let Some((name, behind)) = behind.split_once('}') else { break };
            out.push_str(values.iter().find(|(own, _)| *own == name).map_or("", |(_, value)| value));
            rest = behind;
        }
        out + rest
    }

    /// A sentence without what is filled in.
    pub fn bare(&self, section: &str, key: &str) -> String {
        let text = self.fill(section, key, &[]);
        text.split_whitespace().collect::<Vec<_>>().join(" ")
    }
}

fn unknown<'a>(found: &str, what: &str, known: impl Iterator<Item = &'a String>) -> String {
    let last = found.rsplit('.').next().unwrap_or(found);
    let hint =
        suggest(last, known.map(String::as_str)).map_or(String::new(), |s| format!("; did you mean `{}`?", s.word));
    format!("no {what} is called `{found}`{hint}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_language_has_every_word() {
        let english = parsed(BUILT_IN[0].1).expect("a table");
        for (tag, text) in BUILT_IN {
            let own = parsed(text).expect("a table");
            let keys = |table: &Table| -> Vec<(String, String)> {
                table.iter().flat_map(|(s, words)| words.keys().map(|k| (s.clone(), k.clone()))).collect()
            };
            assert_eq!(keys(&own), keys(&english), "{tag}");
            assert_eq!(plain(text), own, "{tag} has one word a line");
            assert_eq!(Language::named(tag).map(|l| l.tag().to_owned()).as_deref(), Some(tag));
        }
    }

    #[test]
    fn a_table_may_say_a_part_and_nothing_unknown() {
        let own = Language::read("nl", "[relation]\ncalls = \"{from} roept {to} aan\"\n").expect("a table");
        assert_eq!(own.fill("relation", "calls", &[("from", "{to}"), ("to", "b")]), "{to} roept b aan");
        assert_eq!(own.bare("relation", "calls"), "roept aan");
        assert_eq!(own.count("picture", "relations", 1), "1 relation");
        for (wrong, why) in [
            ("[relation]\ncallz = \"x\"\n", "did you mean `calls`?"),
            ("[relations]\n", "did you mean `relation`?"),
            ("[relation]\ncalls = \"{from} roept aan\"\n", "the form of \"{from} calls {to}\""),
            ("[relation\n", "line 1"),
        ] {
            let said = Language::read("nl", wrong).expect_err(wrong);
            assert!(said.contains(why), "{said}");
        }
    }
}
