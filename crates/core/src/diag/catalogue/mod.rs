//! The catalogue of messages: every sentence the program says about a text, in one place, so that
//! wording is reviewed together. One variant a message; [`Message::into_parts`] is the whole list.

mod form;
mod meaning;
mod order;
mod review;

use super::{Severity, nearest};
use crate::vocabulary::DIAGRAMS;

/// The stable code of a rule.
pub type Code = &'static str;

/// The codes of all mistakes: what stops a text from having a meaning. Each has a page in docs/rules.md.
pub const MISTAKES: &[Code] = &[
    "ambiguous-name",
    "arrow",
    "bad-multiplicity",
    "bad-picture-name",
    "bad-range",
    "bad-value",
    "branch-order",
    "decide-holds-branches",
    "declared-twice",
    "divided-lane",
    "empty-file",
    "empty-part",
    "enter-together",
    "from-cycle",
    "from-missing",
    "from-mistakes",
    "from-outside",
    "from-too-deep",
    "from-unreadable",
    "group-holds-parties",
    "icon-file",
    "in-itself",
    "indented-block",
    "lane-holds-no-lines",
    "lane-inside",
    "leave-together",
    "leftover",
    "look-rule",
    "name-expected",
    "name-taken",
    "never-uses",
    "no-body",
    "no-reply-here",
    "nobody-to-answer",
    "not-a-host",
    "not-a-place",
    "of-what",
    "one-step-a-line",
    "only-inside",
    "own-container",
    "part-of-what",
    "party-inside",
    "property-of-nothing",
    "remark-place",
    "sheet-of",
    "sheet-of-what",
    "step-holds-no-lines",
    "subject-missing",
    "text-expected",
    "too-deep",
    "too-many-elements",
    "too-many-relations",
    "two-replies",
    "unclosed-text",
    "unclosed-traits",
    "uneven-indent",
    "unknown-block",
    "unknown-colour",
    "unknown-icon",
    "unknown-name",
    "unknown-trait",
    "unknown-verb",
    "unknown-word",
    "without-opening",
    "word-expected",
    "wrong-terminal",
];

/// A message with what it needs to be said.
#[derive(Clone, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the sentences below document each variant")]
pub enum Message {
    UnclosedText { mark: &'static str },
    UnevenIndent { found: usize, expected: usize },
    IndentedBlock,
    TooDeep { limit: usize },
    TooManyElements { limit: usize },
    TooManyRelations { limit: usize },
    TextExpected { after: String, found: String },
    NameExpected { after: String, found: String },
    Expected { what: &'static str, after: &'static str },
    BadRange,
    UnclosedTraits,
    Leftover { found: String, known: Vec<&'static str> },
    EmptyFile,
    UnknownBlock { word: String, suggestion: Option<String> },
    UnknownWord { word: String, block: &'static str, help: WordHelp },
    UnknownVerb { word: String, block: &'static str, verbs: &'static [&'static str] },
    UnknownName { name: String, suggestion: Option<String> },
    AmbiguousName { name: String, candidates: Vec<String> },
    DeclaredTwice { name: String, line: u32 },
    NameTaken { name: String },
    BadPictureName { name: String },
    UnknownTrait { word: String, suggestion: Option<String> },
    UnknownIcon { word: String, suggestion: Option<String> },
    IconFile { path: String, fault: String },
    UnknownColour { word: String, suggestion: Option<String> },
    BadValue { word: String, of: &'static str, values: &'static str },
    PropertyOfNothing { word: &'static str },
    RemarkNeedsPlace,
    SubjectMissing { verb: String },
    NoBody { what: &'static str },
    OnlyInside { word: &'static str, place: &'static str },
    NeverNeedsUses,
    LookNeedsColon,
    UnreachableStep { step: String },
    DeadEnd { step: String },
    RejectionWithoutReturn { label: String },
    TwoBeginnings { line: u32 },
    UnusedLane { lane: String },
    ReplyUnasked { from: String, to: String },
    SilentParty { party: String },
    MessageToDestroyed { party: String },
    InheritanceCycle { classes: Vec<String> },
    ExtendsInterface { class: String, interface: String },
    DuplicateMember { name: String, class: String, line: u32 },
    MemberForm { fault: String, help: String },
    UnknownColumn { table: String, column: String, suggestion: Option<String> },
    DuplicateRelation { line: u32 },
    NoWayIn { state: String },
    NoWayOut { state: String },
    AmbiguousTransition { state: String, trigger: Option<String>, line: u32 },
    ForbiddenRelation { from: String, to: String, line: u32, reason: Option<String> },
    Undescribed { element: String },
    EmptySheet { sheet: String },
    ShownNowhere { diagram: String, hidden: Vec<String> },
    HintNotKept { word: &'static str },
    UnknownRule { code: String, suggestion: Option<String>, is_mistake: bool },
    UnusedAllow { code: String },
    FromOutside { path: String },
    FromMissing { path: String },
    FromUnreadable { path: String, why: String },
    FromCycle { files: Vec<String> },
    FromTooDeep { limit: usize },
    FromMistakes { path: String, errors: usize },
    PartOfWhat { path: String, count: usize },
    OfWhat { found: String, what: &'static str },
    UnrelatedStep { from: String, to: String },
    StepOfNobody { party: String, diagram: String },
    WrongTerminal { word: &'static str },
    RuleOfNothing { selector: String },
    TagOfNothing { tag: String },
    SheetOfArchitecture { kind: &'static str },
    BadMultiplicity { low: String, high: String },
    GroupHoldsParties,
    PartyInside,
    EmptyPart,
    WithoutOpening { word: &'static str, before: &'static str },
    NobodyToAnswer,
    ReplyWithoutCall { verb: &'static str },
    TwoReplies,
    LaneHoldsNoLines,
    LaneInside { kind: &'static str },
    DividedLane { outer: String, inner: String },
    InItself { name: String },
    NotAHost { name: String, kind: &'static str },
    NotAPlace { name: String, kind: &'static str },
    OneStepALine,
    StepHoldsNoLines,
    DecideHoldsBranches,
    BranchOrder { word: &'static str, first: bool },
    OneArmedDecision { branches: usize },
    NothingFlowsHere,
    LeaveTogether,
    EnterTogether,
    SheetOfWhat { diagram: Option<String> },
    Arrow { verbs: &'static [&'static str] },
    OwnContainer { inner: String, outer: String },
}

/// What to write instead of a word that means nothing where it stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum WordHelp {
    /// Nothing is known.
    None,
    /// A word of this language that it resembles.
    Meant(String),
    /// What this language writes for a word of another notation.
    Ours(&'static str),
}

type Parts = (Code, Severity, String, Option<String>);

impl Message {
    /// Code, severity, sentence, and what to write instead.
    pub fn into_parts(self) -> Parts {
        match self {
            Message::UnclosedText { .. }
            | Message::UnevenIndent { .. }
            | Message::IndentedBlock
            | Message::TooDeep { .. }
            | Message::TooManyElements { .. }
            | Message::TooManyRelations { .. }
            | Message::TextExpected { .. }
            | Message::NameExpected { .. }
            | Message::Expected { .. }
            | Message::BadRange
            | Message::UnclosedTraits
            | Message::Leftover { .. }
            | Message::EmptyFile => self.of_form(),
            Message::UnknownBlock { .. }
            | Message::UnknownWord { .. }
            | Message::UnknownVerb { .. }
            | Message::UnknownName { .. }
            | Message::AmbiguousName { .. }
            | Message::DeclaredTwice { .. }
            | Message::NameTaken { .. }
            | Message::BadPictureName { .. }
            | Message::UnknownTrait { .. }
            | Message::UnknownColour { .. }
            | Message::UnknownIcon { .. }
            | Message::IconFile { .. }
            | Message::BadValue { .. } => self.of_words(),
            _ => self.of_meaning(),
        }
    }
}

fn error(code: Code, message: String, help: impl Into<String>) -> Parts {
    (code, Severity::Error, message, Some(help.into()))
}

fn warning(code: Code, message: String, help: Option<&str>) -> Parts {
    (code, Severity::Warning, message, help.map(str::to_owned))
}

fn meant(suggestion: String) -> String {
    format!("did you mean `{suggestion}`?")
}

fn list(names: &[String]) -> String {
    let quoted: Vec<String> = names.iter().take(6).map(|n| format!("`{n}`")).collect();
    let more = if names.len() > 6 { format!(" and {} more", names.len() - 6) } else { String::new() };
    quoted.join(", ") + &more
}

fn verb_help(word: &str, verbs: &[&'static str]) -> String {
    if let Some(suggestion) = nearest(word, verbs.iter().copied()) {
        return meant(suggestion.to_owned());
    }
    let elsewhere: Vec<String> =
        DIAGRAMS.iter().filter(|v| v.verbs.contains(&word)).map(|v| format!("`{}`", v.block)).collect();
    let here: Vec<String> = verbs.iter().map(|v| format!("`{v}`")).collect();
    let place =
        if elsewhere.is_empty() { String::new() } else { format!("it belongs to {}; ", elsewhere.join(" and ")) };
    format!("{place}the verbs here are {}", here.join(", "))
}

fn leftover(found: &str, known: &[&'static str]) -> Parts {
    let message = format!("`{found}` was not expected here");
    let help = match nearest(found, known.iter().copied()) {
        _ if known.contains(&found) => {
            Some(format!("traits in round brackets come last: write `{found} …` before them"))
        }
        Some(suggestion) => Some(meant(suggestion.to_owned())),
        None if found.starts_with(['-', '<', '=', '>']) => {
            Some("relations are written with a verb, such as `a uses b`, not with an arrow".to_owned())
        }
        None if known.is_empty() => Some("the line ends with the label and traits in round brackets".to_owned()),
        None => {
            let words: Vec<String> = known.iter().map(|w| format!("`{w}`")).collect();
            Some(format!("after the label come {} and traits in round brackets", words.join(", ")))
        }
    };
    ("leftover", Severity::Error, message, help)
}
