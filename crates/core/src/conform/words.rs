//! Sentences about differences: the one place where they are made.

use super::sequence::{Conformance, Difference};
use crate::model::{Diagram, RelationId};
use crate::source::Span;

impl Difference {
    /// What differs, in a sentence.
    pub fn sentence(&self, design: &Diagram, of: &Conformance) -> String {
        let message = |id: &RelationId| message(design, *id);
        match self {
            Self::Absent { message: id, seen: 0 } => format!("{} never happens{}", message(id), in_traces(of.traces)),
            Self::Absent { message: id, seen } => {
                format!(
                    "{} happens in {seen} of {} traces only; nothing says that it may be left out",
                    message(id),
                    of.traces
                )
            }
            Self::Surprise { call, ends, seen, .. } => {
                let party = |end: &Option<crate::model::ElementId>, name: &str| match end {
                    Some(id) => format!("`{}`", design.element(*id).called()),
                    None => format!("`{name}` (not in the diagram)"),
                };
                let from = call.from.as_ref().map_or("somebody outside".to_owned(), |name| party(&ends[0], name));
                let verb = if call.is_sent { "sends" } else { "calls" };
                let to = party(&ends[1], &call.to);
                format!(
                    "{from} {verb} {to} \"{}\" in {} of {} traces; the diagram does not say so",
                    call.label, seen, of.traces
                )
            }
            Self::Order { message: id, before, seen, .. } => {
                format!(
                    "{} comes before {} in {seen} of {} traces; the diagram says the opposite",
                    message(id),
                    message(before),
                    of.traces
                )
            }
            Self::Repeated { message: id, most, seen, .. } => {
                format!(
                    "{} happens up to {most} times in {seen} of {} traces; the diagram says once",
                    message(id),
                    of.traces
                )
            }
            Self::Untaken { guard, .. } => {
                let guard = if guard.is_empty() {
                    "a branch without a guard".to_owned()
                } else {
                    format!("the branch \"{guard}\"")
                };
                match of.traces {
                    1 => format!("{guard} is not taken in the one trace"),
                    traces => format!("{guard} is taken in none of {traces} traces"),
                }
            }
            Self::Unobserved { party } => format!("no trace speaks of `{}`", design.element(*party).called()),
        }
    }

    /// What it is known by, however often it was seen.
    pub(super) fn key(&self, design: &Diagram) -> String {
        let code = self.code();
        match self {
            Self::Absent { message: id, .. } | Self::Order { message: id, .. } | Self::Repeated { message: id, .. } => {
                format!("{code} {}", message(design, *id))
            }
            Self::Surprise { call, .. } => {
                let from = call.from.as_deref().unwrap_or("somebody outside");
                format!("{code} {from} > {} \"{}\"", call.to, call.label)
            }
            Self::Untaken { guard, .. } => format!("{code} {guard}"),
            Self::Unobserved { party } => format!("{code} {}", design.element(*party).called()),
        }
    }

    /// Where it stands in the diagram; nothing for what is not there.
    pub fn span(&self, design: &Diagram) -> Option<Span> {
        match self {
            Self::Absent { message, .. } | Self::Order { message, .. } | Self::Repeated { message, .. } => {
                Some(design.relation(*message).span)
            }
            Self::Surprise { after, .. } => after.map(|id| design.relation(id).span),
            Self::Untaken { span, .. } => Some(*span),
            Self::Unobserved { party } => Some(design.element(*party).span),
        }
    }

    /// Where it was seen first, as `file:line`; nothing for what was not.
    pub fn place(&self) -> Option<&str> {
        match self {
            Self::Surprise { call, .. } => Some(&call.place),
            Self::Order { place, .. } | Self::Repeated { place, .. } => Some(place),
            _ => None,
        }
    }
}

fn in_traces(count: usize) -> String {
    if count == 1 { " in the one trace".to_owned() } else { format!(" in {count} traces") }
}

/// `gateway` calls `readings` "append".
fn message(design: &Diagram, id: RelationId) -> String {
    let relation = design.relation(id);
    let called = |id| design.element(id).called();
    let label =
        relation.label.as_ref().map_or(String::new(), |label| format!(" \"{}\"", label.text().replace('\n', " ")));
    format!("`{}` {} `{}`{label}", called(relation.from), relation.verb.word(), called(relation.to))
}
