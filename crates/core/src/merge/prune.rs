//! What was imported once and is not found any more.

use super::matching::{Matched, origin};
use super::outcome::{Gone, Merged};
use super::writing::{declaration, end_of};
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
    let going: BTreeSet<ElementId> = elements.into_iter().filter(|id| may_go(reading, own, *id)).collect();
    let goes = |r: &Relation| r.verb != Verb::Remarks && (going.contains(&r.from) || going.contains(&r.to));
    let relations: BTreeSet<usize> =
        (0..own.relations.len()).filter(|i| lost.contains(i) || goes(&own.relations[*i])).collect();
    let mut cut = Cut { reading, edits: Vec::new() };
    for id in &going {
        if let Some(line) = declaration(reading, own, *id) {
            cut.line(line);
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
        merged.pruned.push(reading.source.slice(span).to_owned());
        let is_it = |line: &crate::syntax::Line| line.span.start <= span.start && span.start < line.span.end;
        let Some(at) = reading.tree.lines.iter().position(is_it) else { continue };
        if rest.is_empty() {
            cut.line(LineId(at as u32));
        } else {
            let text = written_relations(own, &rest);
            cut.edits.push(TextEdit::new(reading.tree.lines[at].span, text.trim_end().to_owned()));
        }
    }
    // What lies in something that goes, goes with it.
    let mut edits = cut.edits;
    edits.sort_by_key(|edit| (edit.span.start, std::cmp::Reverse(edit.span.end)));
    let mut end = 0;
    edits.retain(|edit| {
        let is_outside = edit.span.start >= end;
        end = end.max(edit.span.end);
        is_outside
    });
    merged.edits.extend(edits);
}

/// Whether nothing but its declaration and its relations speaks of an element, and nothing lies in it.
fn may_go(reading: &Reading, own: &Diagram, id: ElementId) -> bool {
    if own.elements.iter().any(|element| element.parent == Some(id)) {
        return false;
    }
    let Some(line) = declaration(reading, own, id).map(|id| reading.tree.line(id).span) else { return false };
    let relations = own.relations.iter().filter(|r| r.verb != Verb::Remarks);
    let spans: BTreeSet<(u32, u32)> = relations.map(|r| (r.span.start, r.span.end)).collect();
    let target = Target::Element(BlockId::of(own), id);
    reading.occurrences.of(target).all(|o| {
        let is_own = line.start <= o.span.start && o.span.end <= line.end;
        is_own || spans.iter().any(|(start, end)| *start <= o.span.start && o.span.end <= *end)
    })
}

/// Lines that are cut out.
struct Cut<'a> {
    reading: &'a Reading,
    edits: Vec<TextEdit>,
}

impl Cut<'_> {
    /// A line with what is indented under it, and its line break.
    fn line(&mut self, id: LineId) {
        let source = &self.reading.source;
        let start = source.line_start(self.reading.tree.line(id).span.start) as usize;
        let end = end_of(self.reading, id);
        let rest = &source.text[end..];
        let line_break = if rest.starts_with("\r\n") { 2 } else { usize::from(!rest.is_empty()) };
        self.edits.push(TextEdit::new(source.span(start, end + line_break), ""));
    }
}
