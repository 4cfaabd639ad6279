//! What only one kind of diagram holds, each in a type of its own. All else, elements and relations, stands in
//! [`Diagram`](super::Diagram).

use super::{DiagramKind, ElementId, Event, Transition};
use crate::source::Span;
use crate::syntax::{Label, Trait};

/// What one kind of diagram holds, and no other.
#[derive(Clone, Debug)]
pub enum Content {
    /// What happens in a sequence.
    Sequence(Interaction),
    /// How classes are drawn.
    Classes(Classifiers),
    /// A flow as it was written, line by line.
    Flow(Procedure),
    /// What states do while they last.
    States(Vec<Behaviour>),
    /// Parts of an architecture that lie in other files.
    Architecture(Vec<Part>),
    /// A network holds nothing else.
    Network,
    /// A tree holds nothing else.
    Tree,
}

impl Content {
    /// Nothing yet, of a kind.
    pub(super) fn of(kind: DiagramKind) -> Self {
        match kind {
            DiagramKind::Sequence => Self::Sequence(Interaction::default()),
            DiagramKind::Classes => Self::Classes(Classifiers::default()),
            DiagramKind::Flow => Self::Flow(Procedure::default()),
            DiagramKind::States => Self::States(Vec::new()),
            DiagramKind::Architecture => Self::Architecture(Vec::new()),
            DiagramKind::Network => Self::Network,
            DiagramKind::Tree => Self::Tree,
        }
    }
}

/// What happens in a sequence (UML 2.5.1, 17.2: an interaction).
#[derive(Clone, Debug, Default)]
pub struct Interaction {
    /// The architecture that it takes its parties from, by name.
    pub of: Option<String>,
    /// Messages and all else that happens, in order.
    pub events: Vec<Event>,
    /// Whether messages are numbered.
    pub numbered: bool,
    /// Whether the parties stand at its foot too, however short it is.
    pub foot: bool,
}

/// How classes are drawn.
#[derive(Clone, Debug, Default)]
pub struct Classifiers {
    /// Where it was written that multiplicities are drawn as crow's feet, if it was.
    pub crows_feet: Option<Span>,
}

/// A flow as it was written. Its elements and relations follow from it, and stand in the diagram.
#[derive(Clone, Debug, Default)]
pub struct Procedure {
    /// Its passages, in order.
    pub passages: Vec<Passage>,
    /// Arrows that statements add or label.
    pub arrows: Vec<Arrow>,
}

/// One line of a procedure, with what is indented under it.
#[derive(Clone, Debug)]
pub enum Passage {
    /// A step of any kind but a decision.
    Step(ElementId),
    /// A lane or a group that is declared here.
    Container(ElementId),
    /// What lies in a lane or a group.
    Within {
        /// The lane or the group.
        place: ElementId,
        /// The line that names it.
        span: Span,
        /// What lies there.
        body: Vec<Passage>,
    },
    /// A decision.
    Decide(ElementId, Vec<Branch>),
    /// Parts at the same time, each with the label of its line.
    Together(Vec<Branch>),
    /// What is repeated.
    Repeat {
        /// The limit at its beginning.
        first: ElementId,
        /// What is repeated.
        body: Vec<Passage>,
    },
    /// The flow goes on elsewhere.
    Go(Arrow),
}

/// One branch of a decision, or one part of what happens at the same time.
#[derive(Clone, Debug)]
pub struct Branch {
    /// Its label.
    pub label: Option<Label>,
    /// Which word began it.
    pub opening: Opening,
    /// What happens in it.
    pub body: Vec<Passage>,
    /// Where its first line was written.
    pub span: Span,
}

/// How a branch begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Opening {
    /// By its label, or as a part of parallel work.
    Labelled,
    /// By `otherwise`: whatever else may be the case.
    Otherwise,
}

/// An arrow to an element that does not follow from the order of lines.
#[derive(Clone, Debug)]
pub struct Arrow {
    /// Where it starts; nothing, where the line above goes on.
    pub from: Vec<ElementId>,
    /// Where it leads.
    pub to: Vec<ElementId>,
    /// Its label.
    pub label: Option<Label>,
    /// Its traits.
    pub traits: Vec<Trait>,
    /// Where it was written.
    pub span: Span,
}

impl Arrow {
    /// From the line above to a place that is not yet known.
    pub(super) fn onward(span: Span) -> Self {
        Self { from: Vec::new(), to: Vec::new(), label: None, traits: Vec::new(), span }
    }
}

/// What a state does without being left.
#[derive(Clone, Debug)]
pub struct Behaviour {
    /// The state.
    pub state: ElementId,
    /// When.
    pub occasion: Occasion,
    /// Where it was written.
    pub span: Span,
}

/// When a state does something (UML 2.5.1, 14.2.4.5).
#[derive(Clone, Debug)]
pub enum Occasion {
    /// When it is entered.
    Arriving(Label),
    /// While it lasts.
    Staying(Label),
    /// When it is left.
    Leaving(Label),
    /// When something happens that does not end it.
    Internal(Transition),
}

/// A part of an architecture that lies in another file.
#[derive(Clone, Debug)]
pub struct Part {
    /// The file's path, as written.
    pub path: Label,
    /// The element that it stands in.
    pub inside: Option<ElementId>,
}
