//! What a text means. Input: a tree of lines. Output: a [`Document`] of [`Diagram`]s and [`Sheet`]s,
//! with diagnostics. Guarantees: every relation's ends exist, every key is unique in its diagram,
//! the order is the source's. Style, sizes and places are left to later stages.

mod architecture;
mod build;
mod classes;
mod document;
mod flow;
mod hints;
mod imports;
mod kinds;

mod looks;
pub(crate) mod member;
mod names;
mod nested;
mod network;
mod occurrences;
mod sequence;
mod sheet;
mod states;
mod taken;
mod tree;

pub use document::{read, read_sheet};
pub use hints::{Hint, Picture, Unmet, Wish};
pub use imports::{Imports, is_icon_file};
pub use kinds::{Arrangement, DiagramKind, ElementKind, Heading, Operator, Placing, Routing, ShownMembers, Verb};
pub use looks::{LookRule, Selector};
pub use member::{ClassBody, Compartment, Member};
pub use occurrences::{BlockId, Occurrence, Occurrences, Role, Target};

use crate::source::{Span, Spanned};
use crate::syntax::{Label, Trait};
use std::collections::HashMap;

/// The number of an element in its diagram.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ElementId(pub u32);

/// The number of a relation in its diagram.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct RelationId(pub u32);

impl ElementId {
    /// As an index.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

impl RelationId {
    /// As an index.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// All that a file says.
#[derive(Clone, Debug, Default)]
pub struct Document {
    /// Its diagrams, in order.
    pub diagrams: Vec<Diagram>,
    /// Its sheets, in order.
    pub sheets: Vec<Sheet>,
    /// Its style rules, in order.
    pub looks: Vec<LookRule>,
    /// What it takes from other files.
    pub imports: Imports,
}

impl Document {
    /// A diagram of this file or of one that it takes from, by name.
    pub fn diagram(&self, name: &str) -> Option<&Diagram> {
        self.diagrams.iter().chain(&self.imports.diagrams).find(|d| d.name == name)
    }

    /// All rules that hold in this file, those of other files first.
    pub fn all_looks(&self) -> Vec<LookRule> {
        self.imports.looks.iter().chain(&self.looks).cloned().collect()
    }
}

/// One diagram.
#[derive(Clone, Debug)]
pub struct Diagram {
    /// What kind of diagram it is.
    pub kind: DiagramKind,
    /// The name of its picture.
    pub name: String,
    /// Its title.
    pub title: Option<Label>,
    /// What is said about its picture.
    pub picture: Picture,
    /// Where its first line was written.
    pub span: Span,
    /// Elements, those that hold others included.
    pub elements: Vec<Element>,
    /// Relations and messages.
    pub relations: Vec<Relation>,
    /// What happens, in a sequence; empty otherwise.
    pub items: Vec<Event>,
    /// Whether messages are numbered.
    pub numbered: bool,
    /// Whether the parties of a sequence stand at its foot too, however short it is.
    pub foot: bool,
    /// Whether multiplicities are drawn as crow's feet.
    pub crowfoot: bool,
}

impl Diagram {
    /// An empty diagram.
    pub fn new(kind: DiagramKind, name: &str, title: Option<Label>, span: Span) -> Self {
        Self {
            kind,
            name: name.to_owned(),
            title,
            picture: Picture::default(),
            span,
            elements: Vec::new(),
            relations: Vec::new(),
            items: Vec::new(),
            numbered: false,
            foot: false,
            crowfoot: false,
        }
    }

    /// The same without elements, relations and what happens.
    pub(crate) fn without_contents(&self) -> Self {
        let Self { kind, ref name, ref title, ref picture, span, numbered, foot, crowfoot, .. } = *self;
        let (title, picture) = (title.clone(), picture.clone());
        Self { picture, numbered, foot, crowfoot, ..Self::new(kind, name, title, span) }
    }

    /// The element with this number.
    pub fn element(&self, id: ElementId) -> &Element {
        &self.elements[id.index()]
    }

    /// The relation with this number.
    pub fn relation(&self, id: RelationId) -> &Relation {
        &self.relations[id.index()]
    }

    /// Elements with their numbers.
    pub fn ids(&self) -> impl Iterator<Item = (ElementId, &Element)> {
        self.elements.iter().enumerate().map(|(i, e)| (ElementId(i as u32), e))
    }

    /// The containers around an element, innermost first.
    pub fn ancestors(&self, id: ElementId) -> impl Iterator<Item = ElementId> {
        std::iter::successors(self.element(id).parent, |p| self.element(*p).parent)
    }

    /// What breaks a `never uses`: the rule, and the relation between its ends or anything inside them.
    pub fn breaches(&self) -> Vec<(RelationId, RelationId)> {
        let ids = || (0..).map(RelationId).zip(&self.relations);
        let mut rules: HashMap<(ElementId, ElementId), Vec<RelationId>> = HashMap::new();
        for (id, rule) in ids().filter(|(_, r)| r.verb == Verb::NeverUses) {
            rules.entry((rule.from, rule.to)).or_default().push(id);
        }
        let mut found = Vec::new();
        if rules.is_empty() {
            return found;
        }
        let around = |id: ElementId| std::iter::once(id).chain(self.ancestors(id));
        let is_use = |verb| matches!(verb, Verb::Uses | Verb::Calls | Verb::Sends | Verb::Reads | Verb::Writes);
        for (id, relation) in ids().filter(|(_, r)| is_use(r.verb)) {
            let pairs = around(relation.from).flat_map(|a| around(relation.to).map(move |b| (a, b)));
            found.extend(pairs.filter_map(|pair| rules.get(&pair)).flatten().map(|rule| (*rule, id)));
        }
        found.sort();
        found
    }

    /// For every element, whether it holds others.
    pub fn holds(&self) -> Vec<bool> {
        let mut holds = vec![false; self.elements.len()];
        for parent in self.elements.iter().filter_map(|e| e.parent) {
            holds[parent.index()] = true;
        }
        holds
    }
}

/// One element.
#[derive(Clone, Debug)]
pub struct Element {
    /// Unique in the diagram: the path of its names, or its label.
    pub key: String,
    /// Its name; empty if it has none.
    pub name: String,
    /// Its label.
    pub label: Option<Label>,
    /// What it is.
    pub kind: ElementKind,
    /// What it lies in.
    pub parent: Option<ElementId>,
    /// Where it was written.
    pub span: Span,
    /// Whether it came into being by being mentioned.
    pub implicit: bool,
    /// Its properties.
    pub properties: Properties,
    /// Its traits.
    pub traits: Vec<Trait>,
    /// Members, for classifiers.
    pub class: Option<Box<ClassBody>>,
}

impl Element {
    /// What is shown: the label, or the name.
    pub fn shown(&self) -> Label {
        self.label.clone().unwrap_or_else(|| Label::plain(self.name.clone(), self.span))
    }

    /// Whether a trait without value is there.
    pub fn has(&self, word: &str) -> bool {
        self.traits.iter().any(|t| t.word.value == word)
    }

    /// What it is called in messages: its name, its label, or its kind.
    pub fn called(&self) -> String {
        match (&self.label, self.name.as_str()) {
            (Some(label), "") => label.text().replace('\n', " "),
            (None, "") => self.kind.word().to_owned(),
            (_, name) => name.to_owned(),
        }
    }
}

/// What may be said of any element.
#[derive(Clone, Debug, Default)]
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
    /// A pictogram other than its kind's.
    pub icon: Option<Spanned<String>>,
    /// Tags.
    pub tags: Vec<String>,
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

impl EndText {
    /// All of it in one line; empty if there is nothing.
    pub fn shown(&self) -> String {
        let parts = [self.port.as_deref(), self.role.as_deref(), self.multiplicity.as_deref()];
        parts.into_iter().flatten().collect::<Vec<_>>().join(" ")
    }
}

/// One relation or message.
#[derive(Clone, Debug)]
pub struct Relation {
    /// Unique in the diagram: its ends, its verb and a count.
    pub key: String,
    /// The subject.
    pub from: ElementId,
    /// The object.
    pub to: ElementId,
    /// What it says.
    pub verb: Verb,
    /// Its label.
    pub label: Option<Label>,
    /// A label at its start, such as a branch's.
    pub start: Option<Label>,
    /// Its protocol.
    pub over: Option<Label>,
    /// Texts at its ends: subject's, object's.
    pub ends: [EndText; 2],
    /// When it happens, in a state machine.
    pub transition: Option<Box<Transition>>,
    /// Where it was written.
    pub span: Span,
    /// Its traits.
    pub traits: Vec<Trait>,
}

impl Relation {
    /// A relation that says nothing but its verb.
    pub(crate) fn between(from: ElementId, to: ElementId, verb: Verb, span: Span) -> Self {
        Self {
            key: String::new(),
            from,
            to,
            verb,
            label: None,
            start: None,
            over: None,
            ends: [EndText::default(), EndText::default()],
            transition: None,
            span,
            traits: Vec::new(),
        }
    }
}

/// When a transition between states happens.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Transition {
    /// What sets it off.
    pub trigger: Option<String>,
    /// What must hold.
    pub guard: Option<String>,
}

/// One thing that happens in a sequence.
#[derive(Clone, Debug)]
pub enum Event {
    /// A message or an own action.
    Message {
        /// The message.
        relation: RelationId,
        /// What happens while the receiver works.
        body: Vec<Event>,
        /// The reply at the end of the body.
        returning: Option<Label>,
        /// A guard.
        guard: Option<Label>,
        /// A time limit.
        within: Option<Label>,
    },
    /// A choice, a repetition or another combined fragment.
    Fragment {
        /// What kind.
        operator: Operator,
        /// Its operands.
        operands: Vec<Operand>,
        /// Where it was written.
        span: Span,
    },
    /// Another sequence takes place here.
    Reference {
        /// What is shown.
        label: Label,
        /// The parties that take part.
        across: Vec<ElementId>,
        /// Where it was written.
        span: Span,
    },
    /// A divider.
    Phase {
        /// Its text.
        label: Label,
        /// Where it was written.
        span: Span,
    },
    /// A gap in time.
    Pause {
        /// Its text.
        label: Option<Label>,
        /// Where it was written.
        span: Span,
    },
    /// A remark.
    Remark {
        /// On these parties.
        across: Vec<ElementId>,
        /// Its text.
        label: Label,
        /// To the left of the party instead of its right.
        left: bool,
        /// Where it was written.
        span: Span,
    },
}

/// One part of a fragment.
#[derive(Clone, Debug)]
pub struct Operand {
    /// Its guard, or its name.
    pub guard: Option<Label>,
    /// What happens in it.
    pub items: Vec<Event>,
    /// Where its first line was written.
    pub span: Span,
}

/// One of several drawings of a diagram.
#[derive(Clone, Debug)]
pub struct Sheet {
    /// The name of its picture.
    pub name: String,
    /// The diagram, by name.
    pub of: String,
    /// Its title.
    pub title: Option<Label>,
    /// What is said about its picture.
    pub picture: Picture,
    /// Levels shown.
    pub depth: Option<u32>,
    /// Elements whose inside is shown.
    pub open: Vec<ElementId>,
    /// Elements whose inside is not shown.
    pub close: Vec<ElementId>,
    /// Elements in focus, with what is this many relations away.
    pub focus: Vec<(ElementId, u32)>,
    /// Shown in any case.
    pub show: Vec<ElementId>,
    /// Not shown.
    pub hide: Vec<ElementId>,
    /// Whether descriptions are drawn.
    pub tell: bool,
    /// Which members of classifiers are drawn.
    pub members: ShownMembers,
    /// Whether hosts and what they run are shown, instead of the elements.
    pub by_hosts: bool,
    /// The messages of a sequence, as numbered steps over the map.
    pub follow: Option<Vec<Step>>,
    /// Where its first line was written.
    pub span: Span,
}

impl Sheet {
    /// A sheet that shows all of a diagram.
    pub(crate) fn whole(name: &str, of: &str, span: Span) -> Self {
        Self {
            name: name.to_owned(),
            of: of.to_owned(),
            title: None,
            picture: Picture::default(),
            depth: None,
            open: Vec::new(),
            close: Vec::new(),
            focus: Vec::new(),
            show: Vec::new(),
            hide: Vec::new(),
            tell: false,
            members: ShownMembers::All,
            by_hosts: false,
            follow: None,
            span,
        }
    }

    /// Whether `show` alone says what it shows.
    pub(crate) fn shows_only_a_set(&self) -> bool {
        let says_nothing_else = self.depth.is_none() && self.open.is_empty() && self.focus.is_empty();
        says_nothing_else && self.follow.is_none() && !self.show.is_empty()
    }
}

impl ShownMembers {
    /// Whether a member is one of them.
    pub fn shows(self, member: &Member) -> bool {
        match self {
            ShownMembers::None => false,
            ShownMembers::Keys => member.key || member.refers.is_some(),
            ShownMembers::Public => !member.text.starts_with(['-', '#', '~']),
            ShownMembers::All => true,
        }
    }
}

/// One message of a sequence that a sheet follows.
#[derive(Clone, Debug, PartialEq)]
pub struct Step {
    /// Its number, with a letter for each branch: `3a`.
    pub number: String,
    /// The sender, in the sheet's diagram.
    pub from: ElementId,
    /// The receiver.
    pub to: ElementId,
    /// What it says.
    pub label: Option<Label>,
    /// Where the message was written.
    pub span: Span,
}
