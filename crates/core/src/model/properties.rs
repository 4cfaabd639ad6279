//! What may be said of any element, and of either end of a relation. Most say none of it: a model keeps them in a
//! [`Rare`](super::Rare).

use super::Empty;
use crate::source::Spanned;
use crate::syntax::Label;

/// What may be said of any element.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Properties {
    /// A description.
    pub about: Option<Label>,
    /// The technology.
    pub built: Option<Label>,
    /// Where more is to be read.
    pub link: Option<Label>,
    /// Who looks after it.
    pub owner: Option<Label>,
    /// The source files it stands for.
    pub code: Option<Label>,
    /// What it was imported from.
    pub origin: Option<Label>,
    /// A pictogram other than its kind's.
    pub icon: Option<Spanned<String>>,
    /// Tags.
    pub tags: Vec<String>,
}

impl Empty for Properties {
    fn empty() -> &'static Self {
        static NONE: Properties = Properties {
            about: None,
            built: None,
            link: None,
            owner: None,
            code: None,
            origin: None,
            icon: None,
            tags: Vec::new(),
        };
        &NONE
    }
}

/// Texts at one end of a relation.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct EndText {
    /// How many.
    pub multiplicity: Option<String>,
    /// The role.
    pub role: Option<String>,
    /// The port.
    pub port: Option<String>,
}

impl Empty for EndText {
    fn empty() -> &'static Self {
        static NONE: EndText = EndText { multiplicity: None, role: None, port: None };
        &NONE
    }
}

impl EndText {
    /// All of it in one line; empty if there is nothing.
    pub fn shown(&self) -> String {
        let parts = [self.port.as_deref(), self.role.as_deref(), self.multiplicity.as_deref()];
        parts.into_iter().flatten().collect::<Vec<_>>().join(" ")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::{Setting, read};
    use crate::source::Source;

    #[test]
    fn what_stands_at_an_end_is_told_in_one_line() {
        let end = |multiplicity: Option<&str>, role: Option<&str>, port: Option<&str>| {
            let own = |text: Option<&str>| text.map(str::to_owned);
            EndText { multiplicity: own(multiplicity), role: own(role), port: own(port) }.shown()
        };
        assert_eq!(end(None, None, None), "");
        assert_eq!(end(Some("0..*"), Some("keepers"), None), "keepers 0..*");
        assert_eq!(end(Some("1"), None, Some("eth0")), "eth0 1");
    }

    #[test]
    fn elements_and_ends_that_say_nothing_are_empty() {
        let text = "classes yard\n  class Crane\n    about \"Lifts\"\n    tag steel\n  class Hook\n  Crane owns 1 Hook as lower\n  Hook knows Crane\n";
        let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
        assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
        let diagram = &reading.document.diagrams[0];
        let said = |name: &str| &diagram.elements.iter().find(|e| e.name == name).expect(name).properties;
        assert_eq!(said("Crane").tags, ["steel"]);
        assert_eq!(said("Crane").about.as_ref().map(Label::text).as_deref(), Some("Lifts"));
        assert_eq!(**said("Hook"), *Properties::empty());
        let [first, second] = &diagram.relations[..] else { panic!("two relations") };
        assert_eq!((first.ends[0].shown(), first.ends[1].shown()), (String::new(), "lower 1".to_owned()));
        assert!(second.ends.iter().all(|end| **end == *EndText::empty()));
    }

    #[test]
    fn what_is_written_into_one_copy_stays_there() {
        let text = "architecture bay\n  service gate\n    link \"https://bay.example\"\n";
        let diagram = read(Source::new("t.bathy", text), "t", &Setting::default()).document.diagrams.remove(0);
        let mut copy = diagram.clone();
        copy.elements[0].properties.link = None;
        copy.elements[0].properties.owner = Some(Label::plain("Harbour", copy.elements[0].span));
        assert!(diagram.elements[0].properties.link.is_some() && diagram.elements[0].properties.owner.is_none());
        assert_eq!(copy.elements[0].properties.owner.as_ref().map(Label::text).as_deref(), Some("Harbour"));
    }
}
