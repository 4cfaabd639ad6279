//! Changes as a reviewer would say them: the one place in which sentences are made from them.

use super::change::{Change, Difference, ElementName, Fate, Subject};
use super::members::MemberChange;
use crate::model::Verb;

impl Change {
    /// One line: what changed.
    pub fn what(&self) -> String {
        match &self.subject {
            Subject::Diagram { kind, name, title, .. } => format!("{} {name}{}", kind.word(), self.with_title(title)),
            Subject::Sheet { name, of, title } => format!("sheet {name} of {of}{}", titled(title)),
            Subject::Element(element) => {
                let name = if element.name.is_empty() { String::new() } else { format!(" {}", element.name) };
                format!("{}{name}{}", element.kind.word(), titled(&element.label))
            }
            Subject::Relation { from, verb, to, label, .. } => {
                let end = |element: &ElementName| {
                    if element.key.contains(' ') { quoted(&element.key) } else { element.key.clone() }
                };
                match verb {
                    Verb::Does => format!("{} does{}", end(from), titled(label)),
                    verb => format!("{} {} {}{}", end(from), verb.word(), end(to), titled(label)),
                }
            }
            Subject::Event(text) => text.clone(),
        }
    }

    /// The title of a diagram is reported where the whole diagram is new or gone.
    fn with_title(&self, title: &Option<String>) -> String {
        if self.fate == Fate::Changed { String::new() } else { titled(title) }
    }

    /// What is different, one line each.
    pub fn details(&self) -> Vec<String> {
        match &self.subject {
            Subject::Diagram { elements, relations, .. } if self.fate != Fate::Changed => {
                vec![format!("{elements} elements, {relations} relations")]
            }
            _ => self.differences.iter().filter_map(detail).collect(),
        }
    }

    /// The change in sentences.
    pub fn sentences(&self) -> Vec<String> {
        match (&self.subject, self.fate) {
            (Subject::Relation { .. }, Fate::Added | Fate::Removed) => vec![self.added_or_removed()],
            (_, Fate::Added | Fate::Removed) => vec![alone(self.fate, &self.introduced())],
            (Subject::Element(element), _) => {
                self.differences.iter().filter_map(|d| of_element(&called(element), d)).collect()
            }
            (Subject::Relation { label, .. }, _) => self.of_relation(label),
            (Subject::Diagram { .. }, _) => self.details().iter().map(|d| format!("the picture's {d}")).collect(),
            (Subject::Sheet { name, .. }, _) => self.details().iter().map(|d| format!("sheet `{name}`: {d}")).collect(),
            (Subject::Event(_), _) => Vec::new(),
        }
    }

    /// What is new or gone, with its kind: `service `gateway``.
    fn introduced(&self) -> String {
        match &self.subject {
            Subject::Diagram { kind, name, .. } => format!("{} `{name}`", kind.word()),
            Subject::Sheet { name, of, .. } => format!("sheet `{name}` of `{of}`"),
            Subject::Element(element) if element.name.is_empty() && element.label.is_none() => called(element),
            Subject::Element(element) => format!("{} {}", element.kind.word(), called(element)),
            Subject::Relation { .. } => self.related(""),
            Subject::Event(text) => format!("`{text}`"),
        }
    }

    /// A relation: `` `gateway` writes `archive` ``.
    fn related(&self, adverb: &str) -> String {
        let Subject::Relation { from, verb, to, .. } = &self.subject else { return String::new() };
        match verb {
            Verb::Does => format!("{} {adverb}does", called(from)),
            verb => format!("{} {adverb}{} {}", called(from), said(*verb), called(to)),
        }
    }

    /// A relation that is new or gone: `` `gateway` now writes `archive` "levels" ``.
    fn added_or_removed(&self) -> String {
        let Subject::Relation { label, .. } = &self.subject else { return String::new() };
        let adverb = if self.fate == Fate::Added { "now " } else { "no longer " };
        self.related(adverb) + &titled(label)
    }

    /// A relation that changed: first what it says and where it leads, then the rest.
    fn of_relation(&self, label: &Option<String>) -> Vec<String> {
        let who = self.related("");
        let mut first = Vec::new();
        let mut rest = Vec::new();
        for difference in &self.differences {
            match difference {
                Difference::Verb { old, .. } => first.push(format!("{who} now, where it said `{}`", old.word())),
                Difference::To { old, .. } => first.push(format!("{who} now, no longer {}", called(old))),
                Difference::From { old, .. } => first.push(format!("{who} now, in place of {}", called(old))),
                Difference::InTime { number, before } => {
                    let place = before.map_or("to the end".to_owned(), |next| format!("before message {next}"));
                    first.push(format!("message {number}{} moved {place}", titled(label)));
                }
                other => rest.extend(detail(other).map(|d| format!("{who}: {d}"))),
            }
        }
        first.extend(rest);
        first
    }
}

/// One difference of an element in a sentence.
fn of_element(who: &str, difference: &Difference) -> Option<String> {
    Some(match difference {
        Difference::Renamed { old, new } => match (old.name.as_str(), new.name.as_str()) {
            (_, "") => format!("{} has no name any more", called(old)),
            ("", _) => format!("{} has the name {who} now", called(old)),
            _ => format!("{} is called {who} now", called(old)),
        },
        Difference::Kind { old, new } => format!("{who} is a {} now, no longer a {}", new.word(), old.word()),
        Difference::Place { old, new } => match (old, new) {
            (Some(from), Some(to)) => format!("{who} moved from {} into {}", called(from), called(to)),
            (None, Some(to)) => format!("{who} moved into {}", called(to)),
            (Some(from), None) => format!("{who} moved out of {}", called(from)),
            (None, None) => format!("{who} moved"),
        },
        Difference::Member(change) => change.sentence(who),
        other => format!("{who}: {}", detail(other)?),
    })
}

/// One difference in a line.
fn detail(difference: &Difference) -> Option<String> {
    let some = |text: &str| (!text.is_empty()).then(|| text.to_owned());
    match difference {
        Difference::Field { field, old, new } => between(field.word(), old.as_deref(), new.as_deref()),
        Difference::Renamed { old, new } => between("name", some(&old.name).as_deref(), some(&new.name).as_deref()),
        Difference::Kind { old, new } => between("kind", Some(old.word()), Some(new.word())),
        Difference::Place { old, new } => {
            let key = |element: &'_ Option<ElementName>| element.as_ref().map(|e| e.key.clone());
            between("place", key(old).as_deref(), key(new).as_deref())
        }
        Difference::Member(change) => Some(change.to_string()),
        Difference::Verb { old, new } => between("verb", Some(old.word()), Some(new.word())),
        Difference::To { old, new } => between("to", Some(&old.key), Some(&new.key)),
        Difference::From { old, new } => between("from", Some(&old.key), Some(&new.key)),
        Difference::InTime { .. } => Some("moved in time".to_owned()),
    }
}

/// How many lines a list of differences makes.
pub(super) fn count(differences: &[Difference]) -> usize {
    differences.iter().filter_map(detail).count()
}

/// A text in one line, in quotes.
pub(super) fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('\n', " "))
}

/// A title or a label behind a name.
fn titled(title: &Option<String>) -> String {
    title.as_ref().map_or(String::new(), |t| format!(" {}", quoted(t)))
}

/// How an element is called in a sentence: by its name, or by what it shows.
fn called(element: &ElementName) -> String {
    match (element.name.as_str(), element.label.as_deref().filter(|l| !l.is_empty())) {
        ("", Some(label)) => quoted(label),
        ("", None) => format!("a {}", element.kind.word()),
        (name, _) => format!("`{name}`"),
    }
}

/// Something that is new or gone.
fn alone(fate: Fate, what: &str) -> String {
    match fate {
        Fate::Added => format!("{what} is new"),
        Fate::Removed => format!("{what} is gone"),
        Fate::Changed => format!("{what} changed"),
        Fate::Moved => format!("{what} moved"),
    }
}

/// `label: "a" became "b"`; nothing where both are the same.
fn between(what: &str, old: Option<&str>, new: Option<&str>) -> Option<String> {
    match (old, new) {
        (old, new) if old == new => None,
        (Some(old), Some(new)) => Some(format!("{what}: {} became {}", quoted(old), quoted(new))),
        (None, Some(new)) => Some(format!("{what}: {} added", quoted(new))),
        (Some(old), None) => Some(format!("{what}: {} removed", quoted(old))),
        (None, None) => None,
    }
}

/// A verb in a sentence.
fn said(verb: Verb) -> &'static str {
    match verb.word() {
        "then" => "leads to",
        word => word,
    }
}

impl MemberChange {
    /// As a sentence about `who`.
    fn sentence(&self, who: &str) -> String {
        match self {
            MemberChange::Added(word, member) => format!("{who} gained {word} `{member}`"),
            MemberChange::Removed(word, member) => format!("{who} lost {word} `{member}`"),
            MemberChange::Changed(word, old, new) => format!("{who}: {word} `{old}` became `{new}`"),
        }
    }
}

impl std::fmt::Display for MemberChange {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            MemberChange::Added(word, member) => write!(out, "{word} `{member}` added"),
            MemberChange::Removed(word, member) => write!(out, "{word} `{member}` removed"),
            MemberChange::Changed(word, old, new) => write!(out, "{word} `{old}` became `{new}`"),
        }
    }
}
