//! What was imported once and is not found any more.

use super::matching::{Matched, lost_relations, origin};
use super::outcome::{Gone, Merged};
use crate::emit::written_relations;
use crate::model::{BlockId, Diagram, DiagramKind, Element, ElementId, Relation, RelationId, Target, Verb};
use crate::pipeline::Reading;
use crate::source::{Span, TextEdit};
use crate::syntax::LineId;
use std::collections::{BTreeMap, BTreeSet};

/// Lines that say something about the line that they are indented under, and go with it.
const SAID_WITH: [&str; 14] = [
    "about",
    "built",
    "link",
    "code",
    "owner",
    "origin",
    "tag",
    "icon",
    "section",
    "when",
    "or",
    "otherwise",
    "and",
    "together",
];

/// Reports what is gone, and removes it if somebody asks for that and nothing written by hand speaks of it.
pub(super) fn gone(
    reading: &Reading, own: &Diagram, facts: &Diagram, (matched, found_relations): (&Matched, &BTreeSet<RelationId>),
    gone: Gone, merged: &mut Merged,
) {
    let found: BTreeSet<String> = facts.elements.iter().filter_map(origin).collect();
    let is_gone = |element: &Element| {
        element.span.source.is_root() && origin(element).is_some_and(|origin| !found.contains(&origin))
    };
    let elements: Vec<ElementId> = own.ids().filter(|(_, e)| is_gone(e)).map(|(id, _)| id).collect();
    let relations = lost_relations(own, found_relations);
    let members = lost_members(own, facts, matched);
    for id in &elements {
        merged.gone.push((own.element(*id).called(), own.element(*id).span));
    }
    let lines = relations.iter().map(|i| own.relations[*i].span).chain(members.iter().copied());
    merged.gone.extend(lines.map(|span| (reading.source.slice(span).to_owned(), span)));
    merged.gone.sort_by_key(|(_, span)| *span);
    merged.gone.dedup();
    if gone == Gone::Pruned {
        Pruning { reading, own, lines: BTreeSet::new(), statements: BTreeMap::new() }
            .prune(&elements, &relations, &members, merged);
    }
}

/// The columns and other members that classifiers do not have any more; only sorts of members that the source speaks of.
fn lost_members(own: &Diagram, facts: &Diagram, matched: &Matched) -> Vec<Span> {
    let mut lost = Vec::new();
    for (id, element) in facts.ids() {
        let Some(number) = matched.own(id).filter(|number| own.element(*number).span.source.is_root()) else {
            continue;
        };
        let (Some(found), Some(body)) = (&element.class, &own.element(number).class) else { continue };
        let known: BTreeSet<String> = found.members().map(|member| member.signature()).collect();
        let speaks_of = |operation: bool| found.members().any(|member| member.operation == operation);
        let is_lost = |m: &&crate::model::Member| speaks_of(m.operation) && !known.contains(&m.signature());
        lost.extend(body.members().filter(is_lost).map(|member| member.span));
    }
    lost
}

/// Whether a relation goes, by itself or with one of its ends.
fn goes(relation: &Relation, number: usize, going: &BTreeSet<ElementId>, lost: &[usize]) -> bool {
    lost.contains(&number) || going.contains(&relation.from) || going.contains(&relation.to)
}

/// Words that open a part of a sequence or a flow, those that do so in a sequence only, and those that go on with another part.
const OPENINGS: [&str; 7] = ["repeat", "together", "and", "leave", "undivided", "never", "in"];
const BRANCHES: [&str; 3] = ["when", "or", "otherwise"];
const CONTINUING: [&str; 3] = ["and", "or", "otherwise"];

struct Pruning<'a> {
    reading: &'a Reading,
    own: &'a Diagram,
    /// Lines that go as a whole.
    lines: BTreeSet<LineId>,
    /// Relations that are statements, by their lines.
    statements: BTreeMap<LineId, Vec<usize>>,
}

impl Pruning<'_> {
    fn prune(mut self, elements: &[ElementId], lost: &[usize], members: &[Span], merged: &mut Merged) {
        self.statements = self.statements();
        let (reading, own) = (self.reading, self.own);
        // 1. What goes, and what stays after all since a line that stays speaks of it, until nothing else stays.
        let mut going: BTreeSet<ElementId> = elements.iter().copied().collect();
        loop {
            self.lines = self.going_lines(&going, lost, members);
            let kept: Vec<ElementId> = going.iter().copied().filter(|id| self.stays(*id)).collect();
            if kept.is_empty() {
                break;
            }
            kept.iter().for_each(|id| _ = going.remove(id));
        }
        // 2. Other lines stay where something stays that is indented under them.
        let staying: Vec<LineId> = self.lines.iter().copied().filter(|line| !self.goes_whole(*line)).collect();
        staying.iter().for_each(|line| _ = self.lines.remove(line));
        // 3. The edits.
        let (source, tree) = (&reading.source, &reading.tree);
        let declared = self.declared(&going);
        let mut edits: Vec<TextEdit> = Vec::new();
        for line in &self.lines {
            edits.push(TextEdit::new(tree.whole(source, *line), ""));
            let called = declared.get(line).map(|id| own.element(*id).called());
            merged.pruned.push(called.unwrap_or_else(|| source.slice(tree.line(*line).span).to_owned()));
        }
        for (line, all) in self.statements.iter().filter(|(line, _)| !self.lines.contains(line)) {
            let rest: Vec<&Relation> = all
                .iter()
                .map(|i| &own.relations[*i])
                .zip(all)
                .filter(|(r, i)| !goes(r, **i, &going, lost))
                .map(|(r, _)| r)
                .collect();
            // What else a line of a set says is written again.
            if rest.len() < all.len() && !rest.is_empty() && own.kind != DiagramKind::Sequence {
                merged.pruned.push(source.slice(tree.line(*line).span).to_owned());
                edits.push(TextEdit::new(tree.line(*line).span, written_relations(own, &rest).trim_end()));
            }
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

    /// Relations by the lines that say nothing else.
    fn statements(&self) -> BTreeMap<LineId, Vec<usize>> {
        let mut statements: BTreeMap<LineId, Vec<usize>> = BTreeMap::new();
        if matches!(self.own.kind, DiagramKind::Flow | DiagramKind::Tree) {
            return statements;
        }
        let declared: BTreeSet<u32> = {
            let elements = self.own.elements.iter().filter(|e| !e.implicit);
            elements.map(|e| e.span.start).collect()
        };
        for (i, relation) in self.own.relations.iter().enumerate().filter(|(_, r)| r.span.source.is_root()) {
            let Some(line) = self.reading.tree.line_at(relation.span.start) else { continue };
            let start = self.reading.tree.line(line).span.start;
            let is_statement = start == relation.span.start && !declared.contains(&start);
            if is_statement && relation.verb != Verb::Remarks {
                statements.entry(line).or_default().push(i);
            }
        }
        statements
    }

    /// The lines that declare elements.
    fn declared(&self, ids: &BTreeSet<ElementId>) -> BTreeMap<LineId, ElementId> {
        ids.iter().filter_map(|id| Some((self.reading.declaration(self.own, *id)?, *id))).collect()
    }

    /// The lines that go if these elements, relations and members do.
    fn going_lines(&self, going: &BTreeSet<ElementId>, lost: &[usize], members: &[Span]) -> BTreeSet<LineId> {
        let (own, tree) = (self.own, &self.reading.tree);
        let mut lines: BTreeSet<LineId> = self.declared(going).into_keys().collect();
        let goes = |i: &usize| goes(&own.relations[*i], *i, going, lost);
        lines.extend(self.statements.iter().filter(|(_, all)| all.iter().all(&goes)).map(|(line, _)| *line));
        let classes = going.iter().filter_map(|id| own.element(*id).class.as_ref());
        let inner = classes.flat_map(|class| class.members()).map(|member| member.span);
        lines.extend(members.iter().copied().chain(inner).filter_map(|span| tree.line_at(span.start)));
        // What is inside goes before what is around it: lines inside have higher numbers.
        for line in (0..tree.lines.len() as u32).rev().map(LineId) {
            self.empty_parts(&tree.line(line).children, &mut lines);
        }
        lines
    }

    /// Lines that open parts of a sequence or a flow go where nothing is left in them; the first part of several stays as it is as
    /// long as another one does.
    fn empty_parts(&self, siblings: &[LineId], lines: &mut BTreeSet<LineId>) {
        let is_flow = match self.own.kind {
            DiagramKind::Flow => true,
            DiagramKind::Sequence => false,
            _ => return,
        };
        let opens = |line: LineId| {
            let word = self.first_word(line);
            OPENINGS.contains(&word) || !is_flow && BRANCHES.contains(&word)
        };
        let goes_on = |a: &LineId, b: &LineId| opens(*a) && opens(*b) && CONTINUING.contains(&self.first_word(*b));
        for parts in siblings.chunk_by(goes_on).filter(|parts| opens(parts[0])) {
            let is_empty = |line: &LineId, lines: &BTreeSet<LineId>| {
                let children = &self.reading.tree.line(*line).children;
                !children.is_empty() && children.iter().all(|child| lines.contains(child))
            };
            let empty: Vec<LineId> = parts.iter().copied().filter(|line| is_empty(line, lines)).collect();
            if empty.len() < parts.len() && empty.first() == parts.first() {
                let children = &self.reading.tree.line(parts[0]).children;
                children.iter().for_each(|child| _ = lines.remove(child));
                lines.extend(&empty[1..]);
            } else {
                lines.extend(empty);
            }
        }
    }

    fn first_word(&self, line: LineId) -> &str {
        let tree = &self.reading.tree;
        let first = tree.line(line).words.first().map(|word| tree.tokens[*word as usize].span);
        first.map_or("", |span| self.reading.source.slice(span))
    }

    /// Whether an element stays: it is declared together with what stays, a line that stays speaks of it, or something that
    /// stays lies in it.
    fn stays(&self, id: ElementId) -> bool {
        let Some(declared) = self.reading.declaration(self.own, id) else { return true };
        let is_beside =
            |(other, e): &(ElementId, &Element)| *other != id && !e.implicit && e.span == self.own.element(id).span;
        let is_one_of_set = self.own.ids().any(|other| is_beside(&other));
        let target = Target::Element(BlockId::of(self.own), id);
        is_one_of_set
            || !self.lines.contains(&declared)
            || !self.goes_whole(declared)
            || self.reading.occurrences.of(target).any(|o| {
                let Some(line) = self.reading.tree.line_at(o.span.start) else { return true };
                let may_change = self.statements.contains_key(&line) && self.own.kind != DiagramKind::Sequence;
                !self.is_within(line) && !may_change
            })
    }

    /// Whether a line goes, alone or in what goes.
    fn is_within(&self, line: LineId) -> bool {
        let tree = &self.reading.tree;
        let byte = tree.line(line).span.start;
        self.lines.contains(&line)
            || self.lines.range(..line).next_back().is_some_and(|_| {
                self.lines.iter().any(|going| {
                    let whole = tree.whole(&self.reading.source, *going);
                    whole.start <= byte && byte < whole.end
                })
            })
    }

    /// Whether all that is indented under a line goes as well.
    fn goes_whole(&self, line: LineId) -> bool {
        let goes =
            |child: &LineId| (self.lines.contains(child) || self.is_said_with(*child)) && self.goes_whole(*child);
        self.reading.tree.line(line).children.iter().all(goes)
    }

    fn is_said_with(&self, line: LineId) -> bool {
        SAID_WITH.contains(&self.first_word(line))
    }
}
