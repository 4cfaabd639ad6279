//! What changed, as values: words, Markdown, JSON and marks in pictures are made from these.

use super::members::MemberChange;
use crate::model::{Diagram, DiagramKind, Element, ElementKind, Sheet, Verb};
use crate::source::Span;
use std::collections::BTreeSet;

/// What happened to something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fate {
    /// It is new.
    Added,
    /// It is no longer there.
    Removed,
    /// It is there, and different.
    Changed,
    /// It is there as it was, in another place, or at another time.
    Moved,
    /// It says what it said, and is drawn differently: in another look, or in another order.
    Drawn,
}

impl Fate {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Fate::Added => "added",
            Fate::Removed => "removed",
            Fate::Changed => "changed",
            Fate::Moved => "moved",
            Fate::Drawn => "drawn differently",
        }
    }
}

/// All changes of one diagram or sheet.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Changes {
    /// The name of the diagram or the sheet; that of the older version, if it is gone.
    pub diagram: String,
    /// Its name in the older version, if it is there.
    pub before: Option<String>,
    /// Its changes, in the order of the newer text.
    pub changes: Vec<Change>,
}

impl Changes {
    /// The keys of elements and relations that say what they said and are drawn differently.
    pub fn drawn_differently(&self) -> BTreeSet<String> {
        let drawn = self.changes.iter().filter(|c| c.fate == Fate::Drawn);
        let keys = drawn.flat_map(|c| match &c.subject {
            Subject::Looks { keys, .. } => keys.clone(),
            Subject::Element(_) | Subject::Relation { .. } => vec![c.subject.id().to_owned()],
            _ => Vec::new(),
        });
        keys.collect()
    }
}

/// One change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// What happened.
    pub fate: Fate,
    /// To what.
    pub subject: Subject,
    /// What is different, where it is there in both versions.
    pub differences: Vec<Difference>,
    /// Where it was written: in the newer text, or in the older one if it was removed.
    pub span: Span,
    /// Where it was written in the older text; `None` if it is new.
    pub old_span: Option<Span>,
}

/// What a change is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Subject {
    /// A whole diagram.
    Diagram {
        /// Its kind.
        kind: DiagramKind,
        /// Its name.
        name: String,
        /// Its title.
        title: Option<String>,
        /// How many elements it has.
        elements: usize,
        /// How many relations it has.
        relations: usize,
    },
    /// An element.
    Element(ElementName),
    /// A relation or message.
    Relation {
        /// Its key.
        key: String,
        /// Where it begins.
        from: ElementName,
        /// What it says.
        verb: Verb,
        /// Where it ends.
        to: ElementName,
        /// Its label.
        label: Option<String>,
    },
    /// A fragment, a divider, a remark or a reference in a sequence, as it is written.
    Event(String),
    /// Several elements or relations that a rule draws differently.
    Looks {
        /// Whether they are elements or relations.
        sort: &'static str,
        /// Their keys.
        keys: Vec<String>,
        /// How they are called, in the same order.
        names: Vec<String>,
    },
    /// A sheet.
    Sheet {
        /// Its name.
        name: String,
        /// The diagram that it is of.
        of: String,
        /// Its title.
        title: Option<String>,
    },
}

/// How an element is known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ElementName {
    /// Its key.
    pub key: String,
    /// Its name; empty if it has none.
    pub name: String,
    /// Its label.
    pub label: Option<String>,
    /// Its kind.
    pub kind: ElementKind,
}

impl ElementName {
    pub(crate) fn of(element: &Element) -> Self {
        let label = element.label.as_ref().map(|l| l.text());
        Self { key: element.key.clone(), name: element.name.clone(), label, kind: element.kind }
    }
}

/// One thing that is different.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Difference {
    /// What something says of itself; `None` where it says nothing.
    Field {
        /// Which.
        field: Field,
        /// What it was.
        old: Option<String>,
        /// What it is.
        new: Option<String>,
    },
    /// An element is called otherwise.
    Renamed {
        /// As it was.
        old: ElementName,
        /// As it is.
        new: ElementName,
    },
    /// An element is of another kind.
    Kind {
        /// Its kind then.
        old: ElementKind,
        /// Its kind now.
        new: ElementKind,
    },
    /// An element lies in something else; `None` at the level of the block.
    Place {
        /// What it lay in.
        old: Option<ElementName>,
        /// What it lies in.
        new: Option<ElementName>,
    },
    /// A member of a classifier.
    Member(MemberChange),
    /// A relation says something else.
    Verb {
        /// What it said.
        old: Verb,
        /// What it says.
        new: Verb,
    },
    /// A relation ends at another element.
    To {
        /// Where it ended.
        old: ElementName,
        /// Where it ends.
        new: ElementName,
    },
    /// A relation begins at another element.
    From {
        /// Where it began.
        old: ElementName,
        /// Where it begins.
        new: ElementName,
    },
    /// A diagram or a sheet has another name.
    Name {
        /// Its name then.
        old: String,
        /// Its name now.
        new: String,
    },
    /// An element or a relation stands in another order beside others.
    Order {
        /// Before what it comes now, as it is called; `None` if it is last.
        before: Option<String>,
    },
    /// A member stands in another order in its classifier.
    MemberOrder {
        /// The member, as it is described.
        member: String,
        /// Before which it stands now; `None` if it is last.
        before: Option<String>,
    },
    /// A fragment is new or gone around messages that both versions have.
    Around {
        /// How many.
        messages: usize,
    },
    /// A divider, pause, remark or reference comes at another time.
    EventInTime {
        /// The message of the older version before which it is now; `None` if no message follows.
        before: Option<usize>,
    },
    /// A step that is new or gone between two others.
    Between {
        /// The one before it.
        before: ElementName,
        /// The one behind it.
        behind: ElementName,
    },
    /// What a rule asks for another look.
    Look {
        /// What of it: `fill`, `line`, `text`, `shape`, `icon`.
        of: &'static str,
        /// What was asked.
        old: Option<String>,
        /// What is asked.
        new: Option<String>,
    },
    /// The picture differs in something that no other difference names.
    Picture,
    /// A message is sent at another time.
    InTime {
        /// Its number in the older version, from 1.
        number: usize,
        /// The message of the older version before which it is now; `None` if it is the last one.
        before: Option<usize>,
    },
}

impl Difference {
    /// A field, where it differs.
    pub(super) fn field(field: Field, old: Option<String>, new: Option<String>) -> Option<Self> {
        (old != new).then_some(Self::Field { field, old, new })
    }

    /// The fields that differ, given the same fields of both.
    pub(super) fn fields<const N: usize>(old: Said<N>, new: Said<N>) -> Vec<Self> {
        let both = old.into_iter().zip(new);
        both.filter_map(|((field, then), (_, now))| Self::field(field, then, now)).collect()
    }

    /// What is only in one of two lists.
    pub(super) fn lists(field: Field, old: &[String], new: &[String]) -> Vec<Self> {
        let only = |these: &[String], those: &[String]| -> Vec<String> {
            let those: BTreeSet<&String> = those.iter().collect();
            these.iter().filter(|t| !those.contains(t)).cloned().collect()
        };
        let removed = only(old, new).into_iter().map(|item| Self::Field { field, old: Some(item), new: None });
        let added = only(new, old).into_iter().map(|item| Self::Field { field, old: None, new: Some(item) });
        removed.chain(added).collect()
    }
}

/// What something says, by field.
pub(super) type Said<const N: usize> = [(Field, Option<String>); N];

/// Makes the fields with their words.
macro_rules! fields {
    ($($variant:ident $word:literal),+ $(,)?) => {
        /// What something says of itself, by the word that says it.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
        #[allow(missing_docs, reason = "the words say it")]
        pub enum Field { $($variant),+ }

        impl Field {
            /// The word for it.
            pub fn word(self) -> &'static str {
                match self { $(Self::$variant => $word),+ }
            }
        }
    };
}

fields! {
    Title "title", Kind "kind", Caption "caption", Heading "heading", Arrange "arrange", Route "route", Spacing "spacing",
    Legend "legend", Constraint "constraint",
    Label "label", About "about", Built "built", Link "link", Owner "owner", Code "code", Origin "origin", Icon "icon", Tags "tags",
    Traits "traits",
    Branch "branch", Over "over", Beginning "beginning", End "end", Inside "inside", Returning "returning", Guard "guard", When "when",
    Within "within",
    Of "of", Depth "depth", Members "members", Tell "tell", ByHosts "by hosts", Open "open", Close "close", Focus "focus",
    Show "show", Hide "hide", Follow "follow",
}

impl Subject {
    /// A whole diagram.
    pub(crate) fn diagram(diagram: &Diagram) -> Self {
        Self::Diagram {
            kind: diagram.kind,
            name: diagram.name.clone(),
            title: diagram.title.as_ref().map(|t| t.text()),
            elements: diagram.elements.len(),
            relations: diagram.relations.len(),
        }
    }

    /// A sheet.
    pub(crate) fn sheet(sheet: &Sheet) -> Self {
        let title = sheet.title.as_ref().map(|t| t.text());
        Self::Sheet { name: sheet.name.clone(), of: sheet.of.clone(), title }
    }

    /// The key of what changed, in its diagram.
    pub fn id(&self) -> &str {
        match self {
            Subject::Diagram { name, .. } | Subject::Sheet { name, .. } => name,
            Subject::Element(element) => &element.key,
            Subject::Relation { key, .. } => key,
            Subject::Event(text) => text,
            Subject::Looks { keys, .. } => keys.first().map_or("", String::as_str),
        }
    }

    /// The word for its sort.
    pub fn sort(&self) -> &'static str {
        match self {
            Subject::Diagram { .. } => "diagram",
            Subject::Element(_) => "element",
            Subject::Relation { .. } => "relation",
            Subject::Event(_) => "event",
            Subject::Looks { sort, .. } => sort,
            Subject::Sheet { .. } => "sheet",
        }
    }
}
