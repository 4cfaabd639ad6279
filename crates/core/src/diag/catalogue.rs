//! The catalogue of messages: every sentence the program says about a text, in one place, so that
//! wording is reviewed together. One variant a message; [`Message::into_parts`] is the whole list.

use super::{Severity, nearest};
use crate::syntax::vocabulary::DIAGRAMS;

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
    "empty-file",
    "empty-part",
    "from-cycle",
    "from-missing",
    "from-mistakes",
    "from-outside",
    "from-too-deep",
    "from-unreadable",
    "group-holds-parties",
    "indented-block",
    "lane-holds-no-lines",
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
    UnknownColumn { table: String, column: String, suggestion: Option<String> },
    DuplicateRelation { line: u32 },
    NoWayIn { state: String },
    NoWayOut { state: String },
    AmbiguousTransition { state: String, trigger: Option<String>, line: u32 },
    ForbiddenRelation { from: String, to: String, line: u32, reason: Option<String> },
    Undescribed { element: String },
    EmptySheet { sheet: String },
    HintNotKept { word: &'static str },
    UnknownRule { code: String, suggestion: Option<String>, is_mistake: bool },
    UnusedAllow { code: String },
    FromOutside { path: String },
    FromMissing { path: String },
    FromUnreadable { path: String, why: String },
    FromCycle { files: Vec<String> },
    FromTooDeep { limit: usize },
    FromMistakes { path: String, errors: usize },
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
    NotAHost { name: String, kind: &'static str },
    NotAPlace { name: String, kind: &'static str },
    OneStepALine,
    StepHoldsNoLines,
    DecideHoldsBranches,
    BranchOrder { word: &'static str, first: bool },
    OneArmedDecision { branches: usize },
    NothingFlowsHere,
    LeaveTogether,
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
            | Message::BadValue { .. } => self.of_words(),
            _ => self.of_meaning(),
        }
    }

    /// Mistakes of form: quotes, indentation, brackets.
    fn of_form(self) -> Parts {
        match self {
            Message::UnclosedText { mark } => error(
                "unclosed-text",
                format!("this text is opened by {mark} and never closed"),
                format!("write {mark} where it ends"),
            ),
            Message::UnevenIndent { found, expected } => error(
                "uneven-indent",
                format!("this line is indented by {found}, which matches no line above it"),
                format!("indent it by {expected}, like its neighbours, or by two more than the line it belongs to"),
            ),
            Message::IndentedBlock => {
                error("indented-block", "a file begins in the first column".into(), "remove the spaces in front")
            }
            Message::TooDeep { limit } => error(
                "too-deep",
                format!("lines are nested more than {limit} deep here"),
                "divide the diagram into several",
            ),
            Message::TooManyElements { limit } => error(
                "too-many-elements",
                format!("a diagram holds at most {limit} elements"),
                "divide the diagram into several",
            ),
            Message::TextExpected { after, found } => error(
                "text-expected",
                if found.is_empty() {
                    format!("a text in quotes is missing after `{after}`")
                } else {
                    format!("`{after}` is followed by a text in quotes, not by `{found}`")
                },
                format!("write `{after} \"…\"`"),
            ),
            Message::NameExpected { after, found } => error(
                "name-expected",
                if found.is_empty() {
                    format!("a name is missing after `{after}`")
                } else if after.is_empty() {
                    format!("a name is expected here, not `{found}`")
                } else {
                    format!("`{after}` is followed by a name, not by `{found}`")
                },
                "names are letters, digits, `_` and `-`; any other name goes in `backquotes`",
            ),
            Message::Expected { what, after } => {
                error("word-expected", format!("`{what}` is missing after {after}"), format!("write `{what}` here"))
            }
            Message::BadRange => error(
                "bad-range",
                "a range goes from a lower to a higher figure of the same name".into(),
                "write it like `lamp1..lamp4`",
            ),
            Message::UnclosedTraits => error(
                "unclosed-traits",
                "this bracket is opened and never closed".into(),
                "write `)` after the last trait",
            ),
            Message::Leftover { found, known } => leftover(&found, &known),
            _ => error(
                "empty-file",
                "this file says nothing".into(),
                "begin with a block, such as `sequence name \"Title\"`, `classes`, `flow` or `architecture`",
            ),
        }
    }

    /// Words and names that are not known.
    fn of_words(self) -> Parts {
        match self {
            Message::UnknownBlock { word, suggestion } => (
                "unknown-block",
                Severity::Error,
                format!("no kind of block is called `{word}`"),
                Some(suggestion.map_or_else(
                    || "a file holds `sequence`, `classes`, `flow`, `states`, `architecture`, `network`, `tree`, `sheet`, \
                         `look` and `from` blocks"
                            .into(),
                    meant,
                )),
            ),
            Message::UnknownWord { word, block, help } => (
                "unknown-word",
                Severity::Error,
                format!("`{word}` means nothing at the start of a line in this {block}"),
                match help {
                    WordHelp::Ours(ours) => Some(match ours.strip_prefix("nothing: ") {
                        Some(why) => format!("remove it: {why}"),
                        None => format!("here that is written `{ours}`"),
                    }),
                    WordHelp::Meant(meant_word) => Some(meant(meant_word)),
                    WordHelp::None => None,
                },
            ),
            Message::UnknownVerb { word, block, verbs } => (
                "unknown-verb",
                Severity::Error,
                format!("`{word}` is no verb of a {block}"),
                Some(verb_help(&word, verbs)),
            ),
            Message::UnknownName { name, suggestion } => {
                ("unknown-name", Severity::Error, format!("no element `{name}`"), suggestion.map(meant))
            }
            Message::AmbiguousName { name, candidates } => error(
                "ambiguous-name",
                format!("`{name}` may mean any of {}", list(&candidates)),
                "write the path of the one that is meant",
            ),
            Message::DeclaredTwice { name, line } => error(
                "declared-twice",
                format!("`{name}` is declared in line {line} already"),
                "give one of them another name",
            ),
            Message::NameTaken { name } => error(
                "name-taken",
                format!("another block of this file is called `{name}`, so their pictures would be one file"),
                "give this block a name of its own",
            ),
            Message::BadPictureName { name } => error(
                "bad-picture-name",
                format!("`{name}` cannot name a picture file"),
                "use letters, digits, `_` and `-`",
            ),
            Message::UnknownTrait { word, suggestion } => {
                ("unknown-trait", Severity::Error, format!("no trait is called `{word}`"), suggestion.map(meant))
            }
            Message::UnknownIcon { word, suggestion } => (
                "unknown-icon",
                Severity::Error,
                format!("no pictogram is called `{word}`"),
                Some(suggestion.map_or_else(|| "the pictograms are listed in docs/language.md".into(), meant)),
            ),
            Message::UnknownColour { word, suggestion } => (
                "unknown-colour",
                Severity::Error,
                format!("no colour is called `{word}`"),
                Some(suggestion.map_or_else(
                    || {
                        "colours are coral, ochre, sand, kelp, lagoon, azure, heather, shell, basalt, or `#rrggbb`"
                            .into()
                    },
                    meant,
                )),
            ),
            Message::BadValue { word, of, values } => error(
                "bad-value",
                if word.is_empty() {
                    format!("`{of}` needs a value")
                } else {
                    format!("`{word}` is no value of `{of}`")
                },
                format!("write {values}"),
            ),
            other => other.of_meaning(),
        }
    }

    /// Lines that are well formed, but in a place where they mean nothing.
    fn of_meaning(self) -> Parts {
        match self {
            Message::PropertyOfNothing { word } => error(
                "property-of-nothing",
                format!("`{word}` belongs to an element, and there is none above it"),
                "indent it under its element",
            ),
            Message::RemarkNeedsPlace => error(
                "remark-place",
                "a remark needs a place".into(),
                "write `remark on NAME \"…\"` or `remark across a, b \"…\"`",
            ),
            Message::SubjectMissing { verb } => error(
                "subject-missing",
                format!("nobody is said to do this: a line that starts with `{verb}` belongs under its subject"),
                format!("write the name before it, `NAME {verb} …`, or indent it under a line that has a receiver"),
            ),
            Message::NoBody { what } => {
                error("no-body", format!("{what} has nothing indented under it"), "move this line to the left")
            }
            Message::OnlyInside { word, place } => {
                error("only-inside", format!("`{word}` stands inside {place} only"), "indent it under one")
            }
            Message::NeverNeedsUses => {
                error("never-uses", "`never` is followed by `uses` here".into(), "write `never uses NAME`")
            }
            Message::WrongTerminal { word } => error(
                "wrong-terminal",
                match word {
                    "begin" => "nothing becomes `begin`: it is where the state begins".into(),
                    _ => "`finish` becomes nothing: it is where the state ends".into(),
                },
                "turn the line around, or name a state",
            ),
            Message::LookNeedsColon => error(
                "look-rule",
                "a rule of a look is a name, a kind, a verb or `tag NAME`, then a colon, then traits".into(),
                "write it like `tag critical: line coral thick`",
            ),
            Message::RuleOfNothing { selector } => warning(
                "rule-of-nothing",
                format!("nothing in this file is called `{selector}`, so this rule changes nothing"),
                None,
            ),
            Message::TagOfNothing { tag } => warning("tag-of-nothing", format!("no element has the tag `{tag}`"), None),
            Message::SheetOfArchitecture { kind } => error(
                "sheet-of",
                format!("a sheet shows an architecture or classes, not a {kind}"),
                "name an architecture or a classes block",
            ),
            Message::BadMultiplicity { low, high } => error(
                "bad-multiplicity",
                format!("the multiplicity {low}..{high} has its bounds the wrong way round"),
                format!("write {high}..{low}"),
            ),
            Message::GroupHoldsParties => error(
                "group-holds-parties",
                "a group of a sequence holds parties only".into(),
                "move this line out of the group",
            ),
            Message::PartyInside => error(
                "party-inside",
                "parties are declared at the level of the block, not while something happens".into(),
                "move this line to the left, above the messages",
            ),
            Message::LaneHoldsNoLines => error(
                "lane-holds-no-lines",
                "steps are put into a lane by `in NAME`, not by indentation".into(),
                "write `in NAME` on a line of its own before them, or at the end of a step",
            ),
            Message::NotAHost { name, kind } => error(
                "not-a-host",
                format!("`{name}` is a {kind}; only a zone, a host or a device runs something"),
                "write `host NAME` and indent `runs NAME` under it",
            ),
            Message::NotAPlace { name, kind } => error(
                "not-a-place",
                format!("`{name}` is a {kind}; only a lane or a group holds steps"),
                "name a lane or a group",
            ),
            Message::SheetOfWhat { diagram } => error(
                "sheet-of-what",
                "a sheet says which block it is a drawing of".into(),
                format!("write `of {}` after its name", diagram.as_deref().unwrap_or("NAME")),
            ),
            Message::Arrow { verbs } => (
                "arrow",
                Severity::Error,
                "relations are written in words, not as arrows".into(),
                Some(match verbs.first() {
                    Some(verb) => format!("write a verb between the names, such as `a {verb} b`"),
                    None => "indent what hangs below under what it hangs from".to_owned(),
                }),
            ),
            Message::OwnContainer { inner, outer } => error(
                "own-container",
                format!("`{inner}` lies inside `{outer}`, so no line can be drawn between the two"),
                "relate it to something outside, or to a part",
            ),
            other => other.of_files(),
        }
    }

    /// Other files, and other blocks.
    fn of_files(self) -> Parts {
        match self {
            Message::FromOutside { path } => error(
                "from-outside",
                format!("`{path}` lies outside the project folder"),
                "name a file inside the project, relative to this one, with `/` between folders",
            ),
            Message::FromMissing { path } => {
                error("from-missing", format!("there is no file `{path}`"), "its path is relative to this file")
            }
            Message::FromUnreadable { path, why } => {
                error("from-unreadable", format!("`{path}` cannot be read: {why}"), "name a text file")
            }
            Message::FromCycle { files } => error(
                "from-cycle",
                format!("these files take from each other in a circle: {}", files.join(", ")),
                "move what both need into a file of its own",
            ),
            Message::FromTooDeep { limit } => error(
                "from-too-deep",
                format!("files take from files that take from files, more than {limit} deep"),
                "name the file that is meant directly",
            ),
            Message::FromMistakes { path, errors } => error(
                "from-mistakes",
                format!("`{path}` has {errors} mistake{} of its own", if errors == 1 { "" } else { "s" }),
                "run `bathygram check` on it",
            ),
            Message::OfWhat { found, what } => error(
                "of-what",
                format!("`{found}` is not {what}"),
                format!("name {what} of this file, or of a file named by `from`"),
            ),
            Message::UnrelatedStep { from, to } => warning(
                "unrelated-step",
                format!("a message goes from `{from}` to `{to}`, but the architecture does not relate the two"),
                Some("add the relation to the architecture, or correct the sequence"),
            ),
            Message::StepOfNobody { party, diagram } => warning(
                "step-of-nobody",
                format!("the sequence has a party `{party}` that `{diagram}` does not know: its messages are left out"),
                Some("declare it in the architecture, or write the sequence `of` the architecture"),
            ),
            other => other.of_review(),
        }
    }

    /// What a reviewer would ask about flows and sequences.
    fn of_review(self) -> Parts {
        match self {
            Message::UnreachableStep { step } => warning(
                "unreachable-step",
                format!("no way leads to \"{step}\""),
                Some("let a step above flow on, or `go` to it from somewhere"),
            ),
            Message::DeadEnd { step } => warning(
                "dead-end",
                format!("nothing comes after \"{step}\", and the flow does not finish there"),
                Some("write what comes next, `go NAME`, or `finish \"…\"`"),
            ),
            Message::RejectionWithoutReturn { label } => warning(
                "rejection-without-return",
                format!("after \"{label}\" there is no way back: what was turned down cannot be mended"),
                Some("add `go NAME` to where it is mended, if there is such a place"),
            ),
            Message::TwoBeginnings { line } => warning(
                "two-beginnings",
                format!("this flow has begun in line {line} already"),
                Some("make it a `step`, or a flow of its own"),
            ),
            Message::UnusedLane { lane } => warning(
                "unused-lane",
                format!("nothing happens in the lane `{lane}`"),
                Some("put a step into it by `in NAME`, or remove it"),
            ),
            Message::ReplyUnasked { from, to } => warning(
                "reply-without-call",
                format!("`{from}` answers `{to}`, who has not asked"),
                Some("let the other call first, or write `sends`"),
            ),
            Message::SilentParty { party } => warning(
                "silent-party",
                format!("`{party}` takes no part in this sequence"),
                Some("remove it, or write what it does"),
            ),
            Message::MessageToDestroyed { party } => warning(
                "message-to-destroyed",
                format!("`{party}` was destroyed before this message"),
                Some("move the message up, or create the party again"),
            ),
            other => other.of_structure(),
        }
    }

    /// What a reviewer would ask about classes, states, architectures and pictures.
    fn of_structure(self) -> Parts {
        match self {
            Message::InheritanceCycle { classes } => warning(
                "inheritance-cycle",
                format!("these inherit from each other in a circle: {}", list(&classes)),
                Some("remove one of the relations"),
            ),
            Message::ExtendsInterface { class, interface } => warning(
                "extends-interface",
                format!("`{class}` extends `{interface}`, which is an interface"),
                Some("write `implements`"),
            ),
            Message::DuplicateMember { name, class, line } => warning(
                "duplicate-member",
                format!("`{class}` has a member `{name}` in line {line} already"),
                Some("remove one of the two, or rename it"),
            ),
            Message::UnknownColumn { table, column, suggestion } => (
                "unknown-column",
                Severity::Warning,
                format!("the table `{table}` has no column `{column}`"),
                suggestion.map(meant),
            ),
            Message::DuplicateRelation { line } => warning(
                "duplicate-relation",
                format!("line {line} says the same"),
                Some("remove one of the two, or say how they differ"),
            ),
            Message::NoWayIn { state } => warning(
                "no-way-in",
                format!("no transition leads to the state `{state}`"),
                Some("write `begin becomes NAME`, or a transition to it"),
            ),
            Message::NoWayOut { state } => warning(
                "no-way-out",
                format!("the state `{state}` is never left"),
                Some("write `NAME becomes finish`, or a transition from it"),
            ),
            Message::AmbiguousTransition { state, trigger, line } => warning(
                "ambiguous-transition",
                match trigger {
                    Some(trigger) => format!("on \"{trigger}\" the state `{state}` is left in line {line} already"),
                    None => format!("the state `{state}` is left without a trigger in line {line} already"),
                },
                Some("add a guard, `when \"…\"`, to one of them"),
            ),
            Message::ForbiddenRelation { from, to, line, reason } => warning(
                "forbidden-relation",
                format!("line {line} says that `{from}` never uses `{to}`"),
                Some(
                    &reason
                        .map_or_else(|| "remove one of the two".to_owned(), |r| format!("{r}: remove one of the two")),
                ),
            ),
            Message::Undescribed { element } => warning(
                "undescribed-element",
                format!("`{element}` has no description, though most of its neighbours have one"),
                Some("indent `about \"…\"` under it"),
            ),
            Message::EmptySheet { sheet } => warning(
                "empty-sheet",
                format!("the sheet `{sheet}` shows nothing"),
                Some("loosen its `depth`, `focus` or `hide`"),
            ),
            Message::HintNotKept { word } => warning(
                "hint-not-kept",
                format!("the layout could not keep this `{word}`: the picture is drawn without it"),
                None,
            ),
            Message::UnknownRule { code, suggestion, is_mistake } => (
                "unknown-rule",
                Severity::Warning,
                match is_mistake {
                    true => format!("`{code}` is a mistake, not a doubt, so it cannot be allowed"),
                    false => format!("no rule is called `{code}`"),
                },
                suggestion.map(meant),
            ),
            Message::UnusedAllow { code } => warning(
                "unused-allow",
                format!("nothing here breaks the rule `{code}`"),
                Some("remove it from the comment"),
            ),
            other => other.of_order(),
        }
    }

    /// Fragments, branches and replies that lack their other half.
    fn of_order(self) -> Parts {
        match self {
            Message::EmptyPart => {
                error("empty-part", "nothing happens in this part".into(), "indent under it what happens, or remove it")
            }
            Message::WithoutOpening { word, before } => error(
                "without-opening",
                format!("`{word}` continues a `{before}`, and there is none right above it"),
                format!("write `{before}` first"),
            ),
            Message::NobodyToAnswer => {
                error("nobody-to-answer", "there is no caller to answer here".into(), "name one: `a answers b \"…\"`")
            }
            Message::ReplyWithoutCall { verb } => error(
                "no-reply-here",
                format!("`{verb}` gets no reply, so `returning` has no place here"),
                "use `calls`, or remove it",
            ),
            Message::TwoReplies => error(
                "two-replies",
                "this message has `returning` and is answered in its body too".into(),
                "keep one of the two",
            ),
            Message::LeaveTogether => error(
                "leave-together",
                "this `go` leaves a `together`, and the other parts would wait for it".into(),
                "go to a step of the same part, or let the part end and decide after it",
            ),
            Message::OneStepALine => {
                error("one-step-a-line", "a line of a flow is one step".into(), "write a line for each")
            }
            Message::StepHoldsNoLines => error(
                "step-holds-no-lines",
                "a step holds properties, `remark` and `aside` only".into(),
                "move this line to the left",
            ),
            Message::DecideHoldsBranches => error(
                "decide-holds-branches",
                "a decision holds branches: `when \"…\"`, then `or \"…\"` or `otherwise`".into(),
                "indent this line under a branch",
            ),
            Message::BranchOrder { word, first } => error(
                "branch-order",
                if first {
                    format!("the first branch of a decision is `when \"…\"`, not `{word}`")
                } else {
                    "further branches of a decision are `or \"…\"` or `otherwise`".into()
                },
                if first { "write `when`" } else { "write `or`" },
            ),
            Message::OneArmedDecision { branches } => warning(
                "one-armed-decision",
                if branches == 0 {
                    "this decision has no branch".into()
                } else {
                    "this decision has one branch: it does not say what happens otherwise".into()
                },
                Some("add `or \"…\"` or `otherwise`"),
            ),
            _ => warning(
                "nothing-flows-here",
                "nothing flows into this `go`: the line above it ends the flow".into(),
                Some("remove it, or move it"),
            ),
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
