//! Where new lines go. Input: the lines of the whole diagram, known ones and new ones. Output: edits that put the new ones in,
//! indented as their siblings.
//!
//! Where order means something a line goes behind the one before it; elsewhere elements stand with elements, relations with
//! relations and members with members, behind the last one.

use super::place::place_in_facts;
use super::whole::Whole;
use crate::emit::{Line, Lines, written_rule};
use crate::model::{Content, Diagram, ElementKind, Event, LookRule, Passage, Verb};
use crate::pipeline::Reading;
use crate::source::TextEdit;
use crate::syntax::LineId;
use std::collections::BTreeMap;

/// What a line is.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Sort {
    Element,
    Relation,
    Attribute,
    Operation,
    Behaviour,
    /// Something of a flow or a sequence: it stands where it stands in the order of things.
    Ordered,
    /// A remark, or a line about the picture.
    Other,
}

/// Lines to be put in, by the byte behind which they go.
pub(super) struct Additions<'a> {
    reading: &'a Reading,
    whole: &'a Whole,
    comments: &'a BTreeMap<u32, String>,
    sorts: BTreeMap<u32, Sort>,
    lines: BTreeMap<u32, String>,
    /// What is new, as people call it.
    pub(super) added: Vec<String>,
}

impl<'a> Additions<'a> {
    pub(super) fn of(reading: &'a Reading, whole: &'a Whole, comments: &'a BTreeMap<u32, String>) -> Self {
        let sorts = sorts(&whole.diagram);
        Self { reading, whole, comments, sorts, lines: BTreeMap::new(), added: Vec::new() }
    }

    /// Puts in what is new in a body, which stands under a line.
    pub(super) fn body(&mut self, lines: &Lines, under: LineId) {
        let reading = self.reading;
        // The lines that are there, in the order in which the new ones are listed.
        let mut known: Vec<(Sort, LineId)> = Vec::new();
        for row in lines.rows() {
            let sort = self.sorts.get(&row.at.start).copied().unwrap_or(Sort::Other);
            if place_in_facts(row.at).is_some() {
                let at = self.behind(&known, sort, under);
                let text = self.text(std::slice::from_ref(row), 0);
                self.put(at, under, &text);
                continue;
            }
            let Some(line) = reading.tree.line_at(row.at.start).filter(|_| row.at.source.is_root()) else { continue };
            if reading.tree.line(under).children.contains(&line) {
                known.push((sort, line));
            }
            self.body(&row.body, line);
        }
    }

    /// The byte behind which a line of some sort goes.
    fn behind(&self, known: &[(Sort, LineId)], sort: Sort, under: LineId) -> u32 {
        let (source, tree) = (&self.reading.source, &self.reading.tree);
        let last = match sort {
            Sort::Ordered => known.last().map(|(_, line)| *line),
            _ => known.iter().filter(|(own, _)| *own == sort).map(|(_, line)| *line).max(),
        };
        match (last, sort) {
            (Some(last), _) => tree.end(source, last),
            (None, Sort::Relation | Sort::Other) => tree.end(source, under),
            (None, _) => source.line_end(tree.line(under).span.end),
        }
    }

    /// New lines as text, and what they say.
    fn text(&mut self, rows: &[Line], depth: usize) -> String {
        let mut out = String::new();
        for row in rows {
            let comment = place_in_facts(row.at).and_then(|at| self.comments.get(&at));
            let comment =
                comment.map(|comment| format!(" // {}", comment.replace(['\n', '\r'], " "))).unwrap_or_default();
            out += &format!("{}{}{comment}\n", "  ".repeat(depth), row.text);
            if place_in_facts(row.at).is_some() {
                let declared = self.whole.diagram.elements.iter().find(|e| !e.implicit && e.span == row.at);
                self.added.push(declared.map_or_else(|| row.text.clone(), |element| element.called()));
            }
            out += &self.text(row.body.rows(), depth + 1);
        }
        out
    }

    /// Rules of looks, in the last block of looks or in a new one.
    pub(super) fn looks(&mut self, rules: &[&LookRule]) {
        let (reading, source) = (self.reading, &self.reading.source);
        if rules.is_empty() {
            return;
        }
        let text: String = rules.iter().map(|rule| written_rule(rule) + "\n").collect();
        let is_look = |id: &&LineId| {
            let first = reading.tree.line(**id).words.first().map(|w| reading.tree.tokens[*w as usize].span);
            first.is_some_and(|span| source.slice(span) == "look")
        };
        match reading.tree.roots.iter().rev().find(is_look) {
            Some(look) => self.put(reading.tree.end(source, *look), *look, &text),
            None => {
                let at = source.text.trim_end().len();
                let entry = self.lines.entry(at as u32).or_default();
                let line_break = source.line_break();
                *entry += &format!("{line_break}{line_break}look");
                for line in text.lines() {
                    *entry += &format!("{line_break}  {line}");
                }
            }
        }
    }

    /// The edits.
    pub(super) fn edits(&self) -> Vec<TextEdit> {
        let source = &self.reading.source;
        let put = |at: u32, text: &str| TextEdit::new(source.span(at as usize, at as usize), text);
        self.lines.iter().map(|(at, text)| put(*at, text)).collect()
    }

    /// Lines under another one, behind a byte.
    fn put(&mut self, at: u32, under: LineId, text: &str) {
        let source = &self.reading.source;
        let (line_break, indent) = (source.line_break(), self.reading.tree.inner_indent(source, under));
        let lines: String = text.lines().map(|line| format!("{line_break}{indent}{line}")).collect();
        *self.lines.entry(at).or_default() += &lines;
    }
}

/// What stands in the line that begins at a byte.
fn sorts(diagram: &Diagram) -> BTreeMap<u32, Sort> {
    let mut sorts: BTreeMap<u32, Sort> = BTreeMap::new();
    let is_flow = matches!(diagram.content, Content::Flow(_));
    let relations = match &diagram.content {
        Content::Sequence(_) => Sort::Ordered,
        _ => Sort::Relation,
    };
    for relation in diagram.relations.iter().filter(|r| r.verb != Verb::Remarks) {
        sorts.insert(relation.span.start, relations);
    }
    for element in diagram.elements.iter().filter(|e| !e.implicit && e.kind != ElementKind::Remark) {
        // Beginnings and ends come into being where a transition names them.
        if element.name.is_empty() && sorts.contains_key(&element.span.start) && !is_flow {
            continue;
        }
        sorts.insert(element.span.start, if is_flow { Sort::Ordered } else { Sort::Element });
        let members = element.class.iter().flat_map(|body| body.members());
        let sort = |operation: bool| if operation { Sort::Operation } else { Sort::Attribute };
        sorts.extend(members.map(|member| (member.span.start, sort(member.operation))));
    }
    match &diagram.content {
        Content::States(all) => sorts.extend(all.iter().map(|b| (b.span.start, Sort::Behaviour))),
        Content::Sequence(interaction) => events(&interaction.events, &mut sorts),
        Content::Flow(procedure) => {
            passages(&procedure.passages, &mut sorts);
            sorts.extend(procedure.arrows.iter().map(|arrow| (arrow.span.start, Sort::Relation)));
        }
        _ => {}
    }
    sorts
}

fn events(all: &[Event], sorts: &mut BTreeMap<u32, Sort>) {
    for event in all {
        match event {
            Event::Message { body, .. } => events(body, sorts),
            Event::Fragment { operands, .. } => {
                for operand in operands {
                    sorts.insert(operand.span.start, Sort::Ordered);
                    events(&operand.items, sorts);
                }
            }
            Event::Reference { span, .. }
            | Event::Phase { span, .. }
            | Event::Pause { span, .. }
            | Event::Remark { span, .. } => _ = sorts.insert(span.start, Sort::Ordered),
        }
    }
}

fn passages(all: &[Passage], sorts: &mut BTreeMap<u32, Sort>) {
    for passage in all {
        match passage {
            Passage::Within { span, body, .. } => {
                sorts.insert(span.start, Sort::Ordered);
                passages(body, sorts);
            }
            Passage::Decide(_, branches) | Passage::Together(branches) => {
                for branch in branches {
                    sorts.insert(branch.span.start, Sort::Ordered);
                    passages(&branch.body, sorts);
                }
            }
            Passage::Repeat { body, .. } => passages(body, sorts),
            Passage::Go(arrow) => _ = sorts.insert(arrow.span.start, Sort::Ordered),
            Passage::Step(_) | Passage::Container(_) => {}
        }
    }
}
