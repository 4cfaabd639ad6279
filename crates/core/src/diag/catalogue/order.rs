//! Sentences about fragments, branches and replies that lack their other half.

use super::{Parts, error, warning};
use crate::diag::message::Message;

impl Message {
    /// Fragments, branches and replies that lack their other half.
    pub(super) fn of_order(self) -> Parts {
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
            Message::EnterTogether => error(
                "enter-together",
                "this `go` leads into a `together` from outside: the other parts would not begin".into(),
                "go to a step before the `together`, or into the same part",
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
