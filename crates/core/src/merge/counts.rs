//! Texts that only count: a number that was found to be another one by now. In labels of relations (`12`, `mooredAt, 3`), in keywords
//! of elements (`4 instances`), and in comments behind members.

use super::matching::Matched;
use super::whole::Whole;
use crate::emit::quoted;
use crate::model::{Diagram, Member, RelationId};
use crate::pipeline::Reading;
use crate::source::{Span, TextEdit};
use crate::syntax::Label;
use crate::vocabulary::TraitWord;
use std::collections::BTreeMap;

/// The edits that bring numbers up to date. A text that says something else than the source did was written by hand, and stays; so does
/// a label that counts several lines at once.
pub(super) fn renewed(
    reading: &Reading, (own, facts): (&Diagram, &Diagram), (whole, matched): (&Whole, &Matched),
    comments: &BTreeMap<u32, String>,
) -> Vec<TextEdit> {
    let mut edits = labels(own, facts, whole);
    for (id, found) in facts.ids() {
        let Some(element) = matched.own(id).map(|id| own.element(id)).filter(|own| own.span.source.is_root()) else {
            continue;
        };
        let keyword = |element: &crate::model::Element| {
            let all = element.traits.iter().find(|t| t.meaning() == Some(TraitWord::Keyword));
            all.and_then(|t| t.values.first().cloned())
        };
        if let (Some(was), Some(now)) = (keyword(element), keyword(found))
            && is_recount(&was.value, &now.value)
        {
            edits.push(TextEdit { span: was.span, text: quoted(&now.value) });
        }
        let members = |element: &crate::model::Element| -> Vec<Member> {
            element.class.iter().flat_map(|body| body.members().cloned()).collect()
        };
        let known: BTreeMap<String, Span> = members(element).iter().map(|m| (m.signature(), m.span)).collect();
        for member in members(found) {
            let (Some(span), Some(now)) = (known.get(&member.signature()), comments.get(&member.span.start)) else {
                continue;
            };
            edits.extend(comment(reading, *span, now));
        }
    }
    edits
}

fn labels(own: &Diagram, facts: &Diagram, whole: &Whole) -> Vec<TextEdit> {
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
    let changed = alone.filter(|(span, now)| written.get(span).is_some_and(|was| is_recount(was, now)));
    changed.map(|(span, now)| TextEdit { span, text: quoted(&now) }).collect()
}

/// The comment behind a member, with other numbers.
fn comment(reading: &Reading, member: Span, now: &str) -> Option<TextEdit> {
    let source = &reading.source;
    let (start, end) = (member.start as usize, source.line_end(member.start) as usize);
    let line = source.text.get(start..end)?.trim_end();
    let at = line.rfind(" // ")? + " // ".len();
    let span = Span { start: (start + at) as u32, end: (start + line.len()) as u32, ..member };
    is_recount(&line[at..], now).then(|| TextEdit { span, text: now.to_owned() })
}

/// Whether two texts differ in nothing but numbers, and in whether there is one or several.
fn is_recount(was: &str, now: &str) -> bool {
    let is_number = |word: &&str| !word.is_empty() && word.bytes().all(|b| b.is_ascii_digit());
    let without = |text: &str| -> Vec<String> {
        let words = text.split(' ').map(|word| if is_number(&word) { "0" } else { word.trim_end_matches('s') });
        words.map(str::to_owned).collect()
    };
    was != now && now.split(' ').any(|word| is_number(&word)) && without(was) == without(now)
}

#[cfg(test)]
mod tests {
    use super::is_recount;

    #[test]
    fn only_numbers_may_differ() {
        for (was, now) in [
            ("3", "12"),
            ("at, 3", "at, 4"),
            ("1 instance", "2 instances"),
            ("table, about 9 rows", "table, about 10 rows"),
            ("in 1 instance | in 2 instances", "in 3 instances | in 4 instances"),
        ] {
            assert!(is_recount(was, now), "{was} {now}");
        }
        for (was, now) in [("3", "3"), ("ours", "3"), ("at, 3", "by, 4"), ("reads", "read"), ("3 boats", "4 buoys")] {
            assert!(!is_recount(was, now), "{was} {now}");
        }
    }
}
