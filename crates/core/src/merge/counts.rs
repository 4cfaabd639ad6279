//! Labels that only count: a number that was found to be another one by now.

use super::whole::Whole;
use crate::model::{Diagram, RelationId};
use crate::source::{Span, TextEdit};
use crate::syntax::Label;
use std::collections::BTreeMap;

/// The edits that bring numbers up to date. A label that says more than a number was written by hand, and stays; so does one that
/// counts several lines at once.
pub(super) fn renewed(own: &Diagram, facts: &Diagram, whole: &Whole) -> Vec<TextEdit> {
    let mut wanted: BTreeMap<Span, Vec<String>> = BTreeMap::new();
    for (i, found) in facts.relations.iter().enumerate() {
        let known = whole.relation(RelationId(i as u32)).filter(|id| !whole.is_new_relation(*id));
        let label = known.and_then(|id| own.relation(id).label.as_ref()).filter(|label| label.span.source.is_root());
        if let (Some(label), Some(now)) = (label, found.label.as_ref().map(Label::text)) {
            wanted.entry(label.span).or_default().push(now);
        }
    }
    let written: BTreeMap<Span, String> =
        own.relations.iter().filter_map(|r| r.label.as_ref()).map(|l| (l.span, l.text())).collect();
    let alone =
        wanted.into_iter().filter_map(|(span, all)| Some((span, all.first().filter(|_| all.len() == 1)?.clone())));
    let changed =
        alone.filter(|(span, now)| is_number(now) && written.get(span).is_some_and(|was| is_number(was) && was != now));
    changed.map(|(span, now)| TextEdit { span, text: format!("\"{now}\"") }).collect()
}

fn is_number(text: &str) -> bool {
    !text.is_empty() && text.chars().all(|c| c.is_ascii_digit())
}
