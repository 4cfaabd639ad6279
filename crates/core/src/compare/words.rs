//! Changes as a reviewer would say them: the one place in which sentences are made from them.

use super::change::{Change, Difference, ElementName, Fate, Field, Subject};
use super::members::MemberChange;
use crate::model::Verb;
use crate::source::visible_cut;

impl Change {
    /// One line: what changed.
    pub fn what(&self) -> String {
        plain(&self.titled_what())
    }

    fn titled_what(&self) -> String {
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
            Subject::Looks { names, .. } => listed(names),
        }
    }

    /// The title of a diagram is reported where the whole diagram is new or gone.
    fn with_title(&self, title: &Option<String>) -> String {
        if self.fate == Fate::Changed { String::new() } else { titled(title) }
    }

    /// What is different, one line each.
    pub fn details(&self) -> Vec<String> {
        self.marked_details().iter().map(|d| plain(d)).collect()
    }

    fn marked_details(&self) -> Vec<String> {
        match &self.subject {
            Subject::Diagram { elements, relations, .. } if self.fate != Fate::Changed => {
                vec![format!("{}, {}", counted(*elements, "element"), counted(*relations, "relation"))]
            }
            _ => self.differences.iter().filter_map(detail).collect(),
        }
    }

    /// The change in sentences, with names between backquotes.
    pub fn sentences(&self) -> Vec<String> {
        self.marked().iter().map(|s| plain(s)).collect()
    }

    /// The change in sentences, taken apart: what stands in a text is told from the words around it.
    pub fn phrases(&self) -> Vec<Vec<Phrase>> {
        self.marked().iter().map(|s| phrases(s)).collect()
    }

    fn marked(&self) -> Vec<String> {
        match (&self.subject, self.fate) {
            (Subject::Relation { .. }, Fate::Added | Fate::Removed) => vec![self.added_or_removed()],
            (_, Fate::Added | Fate::Removed) => vec![alone(self.fate, &self.introduced()) + &self.placed()],
            (Subject::Element(element), _) => self
                .differences
                .iter()
                .filter_map(|d| of_element((&called(element), element.name.is_empty()), d))
                .collect(),
            (Subject::Relation { label, .. }, _) => self.of_relation(label),
            (Subject::Diagram { kind, .. }, _) => self.of_whole(kind.word(), "the picture's "),
            (Subject::Sheet { name, .. }, _) => self.of_whole("sheet", &format!("sheet \u{1}{name}\u{2}: ")),
            (Subject::Looks { names, .. }, _) => {
                let verb = if names.len() == 1 { "is" } else { "are" };
                let what = self.marked_details();
                vec![format!("{} {verb} drawn differently: {}", listed(names), what.join("; "))]
            }
            (Subject::Event(text), _) => {
                self.marked_details().iter().map(|d| format!("\u{1}{text}\u{2}: {d}")).collect()
            }
        }
    }

    /// Where something is new or gone.
    fn placed(&self) -> String {
        match (self.differences.first(), self.fate) {
            (Some(Difference::Around { messages }), Fate::Added) => {
                format!(", around {}", counted(*messages, "message"))
            }
            (Some(Difference::Around { messages }), _) => {
                let stay = if *messages == 1 { "stays" } else { "stay" };
                format!(", and {} in it {stay}", counted(*messages, "message"))
            }
            (Some(Difference::Between { before, behind }), Fate::Added) => {
                format!(", between {} and {}", called(before), called(behind))
            }
            (Some(Difference::Between { before, behind }), _) => {
                format!(" from between {} and {}", called(before), called(behind))
            }
            _ => String::new(),
        }
    }

    /// What is new or gone, with its kind: `service `gateway``.
    fn introduced(&self) -> String {
        match &self.subject {
            Subject::Diagram { kind, name, .. } => format!("{} \u{1}{name}\u{2}", kind.word()),
            Subject::Sheet { name, of, .. } => format!("sheet \u{1}{name}\u{2} of \u{1}{of}\u{2}"),
            Subject::Element(element) if element.name.is_empty() && element.label.is_none() => called(element),
            Subject::Element(element) => format!("{} {}", element.kind.word(), called(element)),
            Subject::Relation { .. } => self.related(""),
            Subject::Event(text) => format!("\u{1}{text}\u{2}"),
            Subject::Looks { names, .. } => listed(names),
        }
    }

    /// What differs in a diagram or a sheet as a whole.
    fn of_whole(&self, sort: &str, owner: &str) -> Vec<String> {
        let sentence = |difference: &Difference| match difference {
            Difference::Name { old, new } => Some(format!("{sort} \u{1}{old}\u{2} is called \u{1}{new}\u{2} now")),
            Difference::Picture => Some("the picture is drawn differently".to_owned()),
            other => detail(other).map(|d| format!("{owner}{d}")),
        };
        self.differences.iter().filter_map(sentence).collect()
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
                Difference::Verb { old, .. } => {
                    first.push(format!("{who} now, where it said \u{1}{}\u{2}", old.word()))
                }
                Difference::To { old, .. } => first.push(format!("{who} now, no longer {}", called(old))),
                Difference::From { old, .. } => first.push(format!("{who} now, in place of {}", called(old))),
                Difference::InTime { number, before } => {
                    let place = before.map_or("to the end".to_owned(), |next| format!("before message {next}"));
                    first.push(format!("message {number}{} moved {place}", titled(label)));
                }
                Difference::Order { .. } => {
                    rest.extend(detail(difference).map(|d| format!("\u{1}{}\u{2} {d}", self.what())))
                }
                other => rest.extend(detail(other).map(|d| format!("{who}: {d}"))),
            }
        }
        first.extend(rest);
        first
    }
}

/// A part of a sentence.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Phrase {
    /// Words, and labels between quotes.
    Words(String),
    /// What is written so in a text, such as a name.
    Code(String),
}

/// What stands before and behind a part of a sentence that is written so in a text: no text holds these.
const MARKS: [char; 2] = ['\u{1}', '\u{2}'];

/// A text as part of a sentence, as it is written.
pub(crate) fn code(text: &str) -> String {
    format!("\u{1}{}\u{2}", text.replace(MARKS, "\u{fffd}"))
}

/// A marked sentence with backquotes.
fn plain(marked: &str) -> String {
    visible_cut(&marked.replace(MARKS, "`")).into_owned()
}

fn phrases(marked: &str) -> Vec<Phrase> {
    let parts = marked.split(MARKS).enumerate();
    let phrases = parts.map(|(i, part)| match i % 2 {
        0 => Phrase::Words(visible_cut(part).into_owned()),
        _ => Phrase::Code(visible_cut(part).into_owned()),
    });
    phrases.filter(|p| !matches!(p, Phrase::Words(text) if text.is_empty())).collect()
}

/// One difference of an element in a sentence.
fn of_element((who, is_unnamed): (&str, bool), difference: &Difference) -> Option<String> {
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
        // What has no name is known by what it said.
        Difference::Field { field: Field::Label, old: Some(old), new: Some(new) } if is_unnamed => {
            format!("{} says {} now", quoted(old), quoted(new))
        }
        Difference::Order { before } => format!("{who} comes {} now", before_or_last(before.clone())),
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
        Difference::EventInTime { before } => {
            Some(before.map_or("moved to the end".to_owned(), |next| format!("moved before message {next}")))
        }
        Difference::Around { messages } => Some(format!("around {}", counted(*messages, "message"))),
        Difference::Between { before, behind } => Some(format!("between {} and {}", called(before), called(behind))),
        Difference::Name { old, new } => between("name", Some(old), Some(new)),
        Difference::Order { before } => Some(format!("comes {} now", before_or_last(before.clone()))),
        Difference::MemberOrder { member, before } => {
            let before = before.as_ref().map(|b| format!("\u{1}{b}\u{2}"));
            Some(format!("\u{1}{member}\u{2} comes {} now", before_or_last(before)))
        }
        Difference::Look { of, old, new } => between(of, old.as_deref(), new.as_deref()),
        Difference::Picture => Some("drawn differently".to_owned()),
    }
}

/// How many lines a list of differences makes.
pub(super) fn count(differences: &[Difference]) -> usize {
    differences.iter().filter_map(detail).count()
}

/// A place in an order.
fn before_or_last(before: Option<String>) -> String {
    before.map_or("last".to_owned(), |next| format!("before {next}"))
}

/// So many of a kind.
fn counted(n: usize, word: &str) -> String {
    format!("{n} {word}{}", if n == 1 { "" } else { "s" })
}

/// Names behind each other; many are counted.
fn listed(names: &[String]) -> String {
    const SHOWN: usize = 3;
    match names {
        [] => String::new(),
        [only] => only.clone(),
        [first @ .., last] if names.len() <= SHOWN => format!("{} and {last}", first.join(", ")),
        _ => format!("{} and {} more", names[..SHOWN - 1].join(", "), names.len() + 1 - SHOWN),
    }
}

/// A text in one line, in quotes.
pub(super) fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('\n', " ").replace(MARKS, "\u{fffd}"))
}

/// A title or a label behind a name.
fn titled(title: &Option<String>) -> String {
    title.as_ref().map_or(String::new(), |t| format!(" {}", quoted(t)))
}

/// How an element is called in a sentence: by its name, or by what it shows.
pub(crate) fn called(element: &ElementName) -> String {
    match (element.name.as_str(), element.label.as_deref().filter(|l| !l.is_empty())) {
        ("", Some(label)) => quoted(label),
        ("", None) => format!("a {}", element.kind.word()),
        (name, _) => code(name),
    }
}

/// Something that is new or gone.
fn alone(fate: Fate, what: &str) -> String {
    match fate {
        Fate::Added => format!("{what} is new"),
        Fate::Removed => format!("{what} is gone"),
        Fate::Changed => format!("{what} changed"),
        Fate::Moved => format!("{what} moved"),
        Fate::Drawn => format!("{what} is drawn differently"),
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
            MemberChange::Added(word, member) => format!("{who} gained {word} \u{1}{member}\u{2}"),
            MemberChange::Removed(word, member) => format!("{who} lost {word} \u{1}{member}\u{2}"),
            MemberChange::Changed(word, old, new) => format!("{who}: {word} \u{1}{old}\u{2} became \u{1}{new}\u{2}"),
        }
    }
}

impl std::fmt::Display for MemberChange {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            MemberChange::Added(word, member) => write!(out, "{word} \u{1}{member}\u{2} added"),
            MemberChange::Removed(word, member) => write!(out, "{word} \u{1}{member}\u{2} removed"),
            MemberChange::Changed(word, old, new) => write!(out, "{word} \u{1}{old}\u{2} became \u{1}{new}\u{2}"),
        }
    }
}
