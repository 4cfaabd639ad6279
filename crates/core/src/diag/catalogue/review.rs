//! Sentences that a reviewer would say.

use super::{Elsewhere, Parts, list, meant, warning};
use crate::diag::message::Message;
use crate::diag::severity::Severity;

impl Message {
    /// What a reviewer would ask about flows and sequences.
    pub(super) fn of_review(self, at: Elsewhere<'_>) -> Parts {
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
                format!("after \"{label}\" there is no way back: what was turned down cannot be corrected"),
                Some("add `go NAME` to where it is corrected, if there is such a place"),
            ),
            Message::NoBeginning { flow } => warning(
                "no-beginning",
                format!("the flow `{flow}` has no beginning"),
                Some("begin it with `begin \"…\"`, which says what sets it off"),
            ),
            Message::EndlessLoop { steps } => warning(
                "endless-loop",
                format!("from {} the flow never comes to an end", list(&steps)),
                Some("lead one of these steps to a `finish`, or to a step outside the loop"),
            ),
            Message::SameGuard { label, first } => warning(
                "same-guard",
                format!("\"{label}\" leads elsewhere in {} already: which of the two is taken?", at(first)),
                Some("say in each branch when it is taken"),
            ),
            Message::SamePlace { step, first } => warning(
                "same-place",
                format!("this branch leads to {step}, as the one in {} does: the question decides nothing", at(first)),
                Some("lead one of the two elsewhere, or leave the question out"),
            ),
            Message::RefusalGoesOn { label, step } => warning(
                "refusal-goes-on",
                format!("after \"{label}\" the flow goes on to {step}, as if nothing were wrong"),
                Some(
                    "lead it to a `finish`, or back with `go NAME`; the words of refusals are `refused` in bathygram.toml",
                ),
            ),
            Message::SequenceReadsDown { word } => warning(
                "hint-not-kept",
                format!("a sequence reads down, in the order of time: this `{word}` changes nothing"),
                Some("remove the line"),
            ),
            Message::TwoBeginnings { first } => warning(
                "two-beginnings",
                format!("this flow has begun in {} already", at(first)),
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
            other => other.of_structure(at),
        }
    }

    /// What a reviewer would ask about classes, states, architectures and pictures.
    pub(super) fn of_structure(self, at: Elsewhere<'_>) -> Parts {
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
            Message::DuplicateMember { name, class, first } => warning(
                "duplicate-member",
                format!("`{class}` has a member `{name}` in {} already", at(first)),
                Some("remove one of the two, or rename it"),
            ),
            Message::MemberForm { fault, help } => ("member-form", Severity::Warning, fault, Some(help)),
            Message::UnknownColumn { table, column, suggestion } => (
                "unknown-column",
                Severity::Warning,
                format!("the table `{table}` has no column `{column}`"),
                suggestion.map(meant),
            ),
            Message::DuplicateRelation { first } => warning(
                "duplicate-relation",
                format!("{} says the same", at(first)),
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
            Message::AmbiguousTransition { state, trigger, first } => warning(
                "ambiguous-transition",
                match trigger {
                    Some(trigger) => format!("on \"{trigger}\" the state `{state}` is left in {} already", at(first)),
                    None => format!("the state `{state}` is left without a trigger in {} already", at(first)),
                },
                Some("add a guard, `when \"…\"`, to one of them"),
            ),
            Message::ForbiddenRelation { from, to, rule, reason } => warning(
                "forbidden-relation",
                format!("{} says that `{from}` never uses `{to}`", at(rule)),
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
            Message::ShownNowhere { diagram, hidden, relations } => warning(
                "shown-nowhere",
                format!(
                    "no picture of `{diagram}` shows {}",
                    match (hidden.is_empty(), relations) {
                        (true, 1) => "1 relation between what is drawn".to_owned(),
                        (true, n) => format!("{n} relations between what is drawn"),
                        (false, 0) => some_of(&hidden, 4),
                        (false, 1) => format!("{}, and 1 relation", some_of(&hidden, 4)),
                        (false, n) => format!("{}, and {n} relations", some_of(&hidden, 4)),
                    }
                ),
                Some(
                    "add a sheet that shows it: `by hosts` for hosts and zones, `open` or `focus` for what lies inside",
                ),
            ),
            Message::MissingLetter { letters } => warning(
                "missing-letter",
                format!("no font here has {}: PNG and PDF show a box", some_of(&letters, 8)),
                Some("install a font that has it, or name a file in bathygram.toml: `fonts = [\"fonts/letters.ttf\"]`"),
            ),
            Message::HintNotKept { word, against: Some(other) } => warning(
                "hint-not-kept",
                format!("the layout could not keep this `{word}` beside `{other}`: the picture is drawn without it"),
                Some("take back one of the two"),
            ),
            Message::HintNotKept { word, against: None } => warning(
                "hint-not-kept",
                format!("the layout could not keep this `{word}`: the picture is drawn without it"),
                Some(
                    "pins come before lanes and groups, these before `row`, `order` and `place`; take back what contradicts",
                ),
            ),
            Message::UnknownRule { code, suggestion, is_error } => (
                "unknown-rule",
                Severity::Warning,
                match is_error {
                    true => format!("`{code}` is an error, not a warning, so it cannot be allowed"),
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
}

/// The first of some names, and how many more there are.
fn some_of(names: &[String], most: usize) -> String {
    let named: Vec<String> = names.iter().take(most).map(|name| format!("`{name}`")).collect();
    let more = names.len().saturating_sub(most);
    let tail = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{tail}", named.join(", "))
}
