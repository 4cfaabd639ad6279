//! What was imported once and is not found any more.

use super::matching::{Matched, origin};
use super::outcome::{Gone, Merged};
use crate::emit::written_relations;
use crate::model::{BlockId, Diagram, ElementId, Relation, Target, Verb};
use crate::pipeline::Reading;
use crate::source::{Span, TextEdit};
use crate::syntax::LineId;
use std::collections::{BTreeMap, BTreeSet};

/// Reports what is gone, and removes it if somebody asks for that and nothing written by hand speaks of it.
pub(super) fn gone(
    reading: &Reading, own: &Diagram, facts: &Diagram, matched: &Matched, gone: Gone, merged: &mut Merged,
) {
    let found: BTreeSet<String> = facts.elements.iter().filter_map(origin).collect();
    let is_gone = |element: &crate::model::Element| {
        element.span.source.is_root() && origin(element).is_some_and(|origin| !found.contains(&origin))
    };
    let elements: Vec<ElementId> = own.ids().filter(|(_, e)| is_gone(e)).map(|(id, _)| id).collect();
    let lost = matched.lost_relations(own, facts);
    for id in &elements {
        merged.gone.push((own.element(*id).called(), own.element(*id).span));
    }
    for relation in lost.iter().map(|i| &own.relations[*i]) {
        merged.gone.push((reading.source.slice(relation.span).to_owned(), relation.span));
    }
    merged.gone.sort_by_key(|(_, span)| *span);
    merged.gone.dedup();
    if gone == Gone::Stays {
        return;
    }
    // 1. Elements of which nothing else speaks: not a line besides their declaration and relations that go with them.
    let statements = own.relations.iter().filter(|r| r.verb != Verb::Remarks);
    let statements: BTreeSet<LineId> = statements.filter_map(|r| reading.tree.line_at(r.span.start)).collect();
    let going = elements.into_iter().filter(|id| may_go(reading, own, *id, &statements));
    let going: BTreeSet<ElementId> = going.collect();
    let goes = |r: &Relation| r.verb != Verb::Remarks && (going.contains(&r.from) || going.contains(&r.to));
    let relations: BTreeSet<usize> =
        (0..own.relations.len()).filter(|i| lost.contains(i) || goes(&own.relations[*i])).collect();
    let (source, tree) = (&reading.source, &reading.tree);
    let mut edits: Vec<TextEdit> = Vec::new();
    for id in &going {
        if let Some(line) = reading.declaration(own, *id) {
            edits.push(TextEdit::new(tree.whole(source, line), ""));
            merged.pruned.push(own.element(*id).called());
        }
    }
    // 2. Relations, by the lines in which they are written; what else such a line says is written anew.
    let mut lines: BTreeMap<Span, Vec<usize>> = BTreeMap::new();
    for (i, relation) in own.relations.iter().enumerate().filter(|(_, r)| r.span.source.is_root()) {
        lines.entry(relation.span).or_default().push(i);
    }
    for (span, all) in lines {
        let rest: Vec<&Relation> = all.iter().filter(|i| !relations.contains(i)).map(|i| &own.relations[*i]).collect();
        if rest.len() == all.len() {
            continue;
        }
        merged.pruned.push(source.slice(span).to_owned());
        let Some(line) = tree.line_at(span.start) else { continue };
        edits.push(match rest.is_empty() {
            true => TextEdit::new(tree.whole(source, line), ""),
            false => TextEdit::new(tree.line(line).span, written_relations(own, &rest).trim_end()),
        });
    }
    // What lies in something that goes, goes with it.
    edits.sort_by_key(|edit| (edit.span.start, std::cmp::Reverse(edit.span.end)));
    let mut end = 0;
    edits.retain(|edit| {
        let is_outside = edit.span.start >= end;
        end = end.max(edit.span.end);
        is_outside
    });
    merged.edits.extend(edits);
}

/// Whether nothing but its declaration and its relations, which stand in the lines of `statements`, speaks of an element, and
/// nothing lies in it.
fn may_go(reading: &Reading, own: &Diagram, id: ElementId, statements: &BTreeSet<LineId>) -> bool {
    if own.elements.iter().any(|element| element.parent == Some(id)) {
        return false;
    }
    let declared = reading.declaration(own, id);
    let target = Target::Element(BlockId::of(own), id);
    declared.is_some()
        && reading.occurrences.of(target).all(|o| {
            let line = reading.tree.line_at(o.span.start);
            line == declared || line.is_some_and(|line| statements.contains(&line))
        })
}
