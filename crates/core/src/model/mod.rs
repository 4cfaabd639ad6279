//! What a text means. Input: a tree of lines. Output: a [`Document`] of [`Diagram`]s and [`Sheet`]s,
//! with diagnostics. Guarantees: every relation's ends exist, every key is unique in its diagram,
//! the order is the source's. Style, sizes and places are left to later stages.

mod architecture;
mod build;
mod classes;
mod columns;
mod content;
mod document;
mod flow;
mod imported;
mod imports;
mod kinds;
mod looks;
pub(crate) mod member;
mod names;
mod nested;
mod network;
mod occurrences;
mod picture;
mod properties;
mod rare;
mod read;
mod reference;
mod sequence;
mod sheet;
mod states;
mod table;
mod taken;
mod tree;

pub use build::{MAX_ELEMENTS, MAX_RELATIONS};
pub use columns::Columns;
pub use content::{
    Arrow, Behaviour, Branch, Classifiers, Content, Interaction, Occasion, Opening, Part, Passage, Procedure,
};
pub use document::MAX_BLOCKS;
pub(crate) use document::words;
pub use imported::{Imports, is_icon_file};
pub use kinds::{
    Arrangement, ChoiceWord, DiagramKind, ElementKind, Heading, Operator, Placing, Routing, ShownMembers, Verb,
};
pub use looks::{LookRule, Selector};
pub use member::{ClassBody, Compartment, Member, TableConstraint};
pub(crate) use names::{Names as NameIndex, path_to};
pub use occurrences::{BlockId, Occurrence, Occurrences, Role, Target};
pub use picture::{Constraint, Picture, Unmet, WrittenConstraint};
pub use properties::{EndText, Properties};
pub use rare::{Empty, Rare};
pub use read::{ad_hoc, read};
pub use reference::{Action, Reference};
pub use sheet::AdHocWords;
pub(crate) use table::reference_ends;

use crate::source::{Span, Spanned};
use crate::syntax::{Label, Trait};
use crate::vocabulary::TraitWord;
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
    /// The files that it names at block level, as written.
    pub from: Vec<Label>,
    /// What it takes from other files.
    pub imports: Imports,
}

impl Document {
    /// A diagram of this file or of one that it takes from, by name.
    pub fn diagram(&self, name: &str) -> Option<&Diagram> {
        self.diagrams.iter().chain(self.imports.diagrams()).find(|d| d.name == name)
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
    /// Whether every undeclared name is an error.
    pub declared: bool,
    /// What its kind alone holds.
    pub content: Content,
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
            declared: false,
            content: Content::of(kind),
        }
    }

    /// The same without elements, relations and what happens.
    pub(crate) fn without_contents(&self) -> Self {
        let mut content = self.content.clone();
        if let Content::Sequence(interaction) = &mut content {
            interaction.events.clear();
        }
        let bare = Self::new(self.kind, &self.name, self.title.clone(), self.span);
        Self { picture: self.picture.clone(), declared: self.declared, content, ..bare }
    }

    /// What happens, if it is a sequence.
    pub fn interaction(&self) -> Option<&Interaction> {
        if let Content::Sequence(interaction) = &self.content { Some(interaction) } else { None }
    }

    /// What happens in a sequence, in order; nothing in other kinds.
    pub fn events(&self) -> &[Event] {
        self.interaction().map_or(&[], |i| &i.events)
    }

    /// The same, to be changed; `None` in other kinds.
    pub(crate) fn events_mut(&mut self) -> Option<&mut Vec<Event>> {
        if let Content::Sequence(interaction) = &mut self.content { Some(&mut interaction.events) } else { None }
    }

    /// Whether multiplicities are drawn as crow's feet.
    pub fn has_crows_feet(&self) -> bool {
        matches!(&self.content, Content::Classes(Classifiers { crows_feet: Some(_) }))
    }

    /// Whether it is a tree of decisions and chances.
    pub fn decides(&self) -> bool {
        let is_fork = |e: &Element| matches!(e.kind, ElementKind::Decide | ElementKind::Chance);
        self.kind == DiagramKind::Tree && self.elements.iter().any(is_fork)
    }

    /// The element with this number.
    pub fn element(&self, id: ElementId) -> &Element {
        &self.elements[id.index()]
    }

    /// The relation with this number.
    pub fn relation(&self, id: RelationId) -> &Relation {
        &self.relations[id.index()]
    }

    /// Whether columns say a relation: it stands where they do, and in no line of its own.
    pub fn is_said_by_columns(&self, relation: &Relation) -> bool {
        let mut members = self.element(relation.from).class.iter().flat_map(|body| body.members());
        members.any(|member| member.refers.is_some() && member.span.start == relation.span.start)
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
    pub properties: Rare<Properties>,
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

    /// Whether a trait is there.
    pub fn has(&self, word: TraitWord) -> bool {
        self.traits.iter().any(|t| t.meaning() == Some(word))
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
    pub ends: [Rare<EndText>; 2],
    /// When it happens, in a state machine.
    pub transition: Option<Box<Transition>>,
    /// The element in whose body it was written; `None` at the level of the block.
    pub written_in: Option<ElementId>,
    /// Where it was written.
    pub span: Span,
    /// Its traits.
    pub traits: Vec<Trait>,
}

impl Relation {
    /// Its tags.
    pub fn tags(&self) -> impl Iterator<Item = &str> {
        let traits = self.traits.iter().filter(|t| t.meaning() == Some(TraitWord::Tag));
        traits.flat_map(|t| t.values.iter().map(|v| v.value.as_str()))
    }

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
            ends: [Rare::default(), Rare::default()],
            transition: None,
            written_in: None,
            span,
            traits: Vec::new(),
        }
    }
}

/// When a transition between states happens, and what it does (UML 2.5.1, 14.2.4.9).
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Transition {
    /// What is said of it beyond that.
    pub label: Option<Label>,
    /// What sets it off.
    pub trigger: Option<Label>,
    /// What must hold.
    pub guard: Option<Label>,
    /// What it does.
    pub effect: Option<Label>,
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
        /// The other sequence, by name.
        sequence: Spanned<String>,
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
    pub depth: Option<Spanned<u32>>,
    /// Its lines about elements and tags, as they were written.
    pub choices: Vec<Choice>,
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
    /// Where it was written that descriptions are drawn, if they are.
    pub tell: Option<Span>,
    /// Which members of classifiers are drawn, if that was said.
    pub members: Option<Spanned<ShownMembers>>,
    /// Where it was written that hosts and what they run are shown instead of the elements, if they are.
    pub by_hosts: Option<Span>,
    /// The messages of a sequence, as numbered steps over the map.
    pub follow: Option<Followed>,
    /// Where its first line was written.
    pub span: Span,
}

impl Sheet {
    /// The one element that it is about: in focus, or open.
    pub fn about(&self) -> Option<ElementId> {
        match (self.focus.as_slice(), self.open.as_slice()) {
            ([(only, _)], _) => Some(*only),
            ([], [only]) => Some(*only),
            _ => None,
        }
    }

    /// A sheet that shows all of a diagram.
    pub fn whole(name: &str, of: &str, span: Span) -> Self {
        Self {
            name: name.to_owned(),
            of: of.to_owned(),
            title: None,
            picture: Picture::default(),
            depth: None,
            choices: Vec::new(),
            open: Vec::new(),
            close: Vec::new(),
            focus: Vec::new(),
            show: Vec::new(),
            hide: Vec::new(),
            tell: None,
            members: None,
            by_hosts: None,
            follow: None,
            span,
        }
    }

    /// Adds a line that chooses elements; these are the ones that it chooses.
    pub fn choose(&mut self, choice: Choice, ids: Vec<ElementId>) {
        match choice.word {
            ChoiceWord::Open => self.open.extend(ids),
            ChoiceWord::Close => self.close.extend(ids),
            ChoiceWord::Show => self.show.extend(ids),
            ChoiceWord::Hide => self.hide.extend(ids),
            ChoiceWord::Focus => self.focus.extend(ids.into_iter().map(|id| (id, choice.distance.unwrap_or(1)))),
        }
        self.choices.push(choice);
    }

    /// Which members of classifiers are drawn.
    pub fn shown_members(&self) -> ShownMembers {
        self.members.as_ref().map_or(ShownMembers::All, |m| m.value)
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

/// One line of a sheet that chooses elements.
#[derive(Clone, Debug)]
pub struct Choice {
    /// Its word.
    pub word: ChoiceWord,
    /// What it chooses.
    pub chosen: Chosen,
    /// How many relations away, for `focus`, if that was said.
    pub distance: Option<u32>,
    /// Where it was written.
    pub span: Span,
}

/// What a line of a sheet chooses.
#[derive(Clone, Debug)]
pub enum Chosen {
    /// These.
    Elements(Vec<ElementId>),
    /// All with a tag.
    Tag(String),
}

/// The sequence that a sheet follows.
#[derive(Clone, Debug)]
pub struct Followed {
    /// Its name.
    pub sequence: String,
    /// Its messages, as steps between elements of the sheet's diagram.
    pub steps: Vec<Step>,
    /// Where it was written.
    pub span: Span,
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
