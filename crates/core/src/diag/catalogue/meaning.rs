//! Sentences about lines that are well formed, but mean nothing where they stand; about other files and blocks.

use super::{Elsewhere, Parts, error, warning};
use crate::diag::message::Message;
use crate::diag::severity::Severity;

impl Message {
    /// Lines that are well formed, but in a place where they mean nothing.
    pub(super) fn of_meaning(self, at: Elsewhere<'_>) -> Parts {
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
            Message::NoEffect { look, why } => {
                warning("look-without-effect", format!("this `{look}` changes nothing: {why}"), Some("take it away"))
            }
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
                "steps are put into a lane by `in NAME`, not under its declaration".into(),
                "write `in NAME` after the lanes, and indent the steps under it",
            ),
            Message::InWithoutBody => error(
                "in-without-body",
                "nothing is indented under this `in`, so nothing lies there".into(),
                "indent what happens there under it; `bathygram format` does that for you",
            ),
            Message::LaneInside { kind } => error(
                "lane-inside",
                format!("a lane lies in another lane or in none, not in a {kind}"),
                "declare it at the beginning of the flow, and write `in NAME` at what happens in it",
            ),
            Message::DividedLane { outer, inner } => error(
                "divided-lane",
                format!("the lane \"{outer}\" is divided into lanes, so nothing lies in it directly"),
                format!("name one of its lanes: `in {inner}`"),
            ),
            Message::InItself { name } => {
                error("in-itself", format!("`{name}` cannot lie inside itself"), "name a lane or a group around it")
            }
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
            other => other.of_files(at),
        }
    }

    /// Other files, and other blocks.
    pub(super) fn of_files(self, at: Elsewhere<'_>) -> Parts {
        match self {
            Message::MergeConflict { ours, theirs } => error(
                "merge-conflict",
                match (ours.as_str(), theirs.as_str()) {
                    ("", "") => "this is the mark of a merge that is not finished".to_owned(),
                    ("", one) | (one, "") => format!("this is a mark of the merge with `{one}`, which is not finished"),
                    (ours, theirs) => format!("the merge of `{ours}` and `{theirs}` is not finished here"),
                },
                "keep what is right of both sides, and remove the lines with the marks",
            ),
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
            Message::FromErrors { path, errors } => error(
                "from-errors",
                format!("`{path}` has {errors} error{} of its own", if errors == 1 { "" } else { "s" }),
                "run `bathygram check` on it",
            ),
            Message::PartOfWhat { path, count } => error(
                "part-of-what",
                match count {
                    0 => format!("`{path}` has no architecture that could stand here"),
                    _ => format!("`{path}` has {count} architectures, and only one can stand here"),
                },
                "name a file with one architecture: its elements come to stand where this line is",
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
            other => other.of_review(at),
        }
    }
}
