//! Where new lines go: behind their siblings, indented as these are.

use crate::emit::written_rule;
use crate::model::{BlockId, Diagram, ElementId, ElementKind, LookRule, Role, Target, Verb};
use crate::pipeline::Reading;
use crate::source::{Source, Span, TextEdit};
use crate::syntax::{Line, LineId};
use std::collections::BTreeMap;

/// Lines to be put in, by the byte behind which they go.
pub(super) struct Additions<'a> {
    reading: &'a Reading,
    diagram: &'a Diagram,
    lines: BTreeMap<usize, String>,
}

impl<'a> Additions<'a> {
    pub(super) fn of(reading: &'a Reading, diagram: &'a Diagram) -> Self {
        Self { reading, diagram, lines: BTreeMap::new() }
    }

    /// Elements in a holder, or at the level of the block: behind the last one there, or as its first lines.
    pub(super) fn elements(&mut self, holder: Option<ElementId>, text: &str) {
        let reading = self.reading;
        let Some(line) = self.holder(holder) else { return };
        let siblings: Vec<LineId> = {
            let children = self.diagram.ids().filter(|(_, element)| {
                element.parent == holder && !element.implicit && element.kind != ElementKind::Remark
            });
            let lines = children.filter_map(|(id, _)| declaration(reading, self.diagram, id));
            lines.filter(|own| reading.tree.line(line).children.contains(own)).collect()
        };
        let at = match siblings.iter().max() {
            Some(last) => end_of(reading, *last),
            None => line_end(&reading.source, reading.tree.line(line).span.end),
        };
        self.put(at, &self.inner_indent(line), text);
    }

    /// Relations at the level of the block, behind the last one there.
    pub(super) fn relations(&mut self, text: &str) {
        let reading = self.reading;
        let Some(block) = self.holder(None) else { return };
        let own = self
            .diagram
            .relations
            .iter()
            .filter(|r| r.span.source.is_root() && r.written_in.is_none() && r.verb != Verb::Remarks);
        let holds = |id: &LineId, span: Span| {
            let line = reading.tree.line(*id);
            line.span.start <= span.start && span.start < line.span.end
        };
        let children = &reading.tree.line(block).children;
        let last = own.filter_map(|r| children.iter().find(|id| holds(id, r.span))).max();
        let at = last.map_or_else(|| end_of(reading, block), |last| end_of(reading, *last));
        self.put(at, &self.inner_indent(block), text);
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
            Some(look) => self.put(end_of(reading, *look), &self.inner_indent(*look), &text),
            None => {
                let at = source.text.trim_end().len();
                let entry = self.lines.entry(at).or_default();
                let line_break = line_break(source);
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
        self.lines.iter().map(|(at, text)| TextEdit::new(source.span(*at, *at), text.clone())).collect()
    }

    fn put(&mut self, at: usize, indent: &str, text: &str) {
        let line_break = line_break(&self.reading.source);
        let lines: String = text.lines().map(|line| format!("{line_break}{indent}{line}")).collect();
        *self.lines.entry(at).or_default() += &lines;
    }

    /// The line under which what lies in a holder is indented.
    fn holder(&self, holder: Option<ElementId>) -> Option<LineId> {
        let tree = &self.reading.tree;
        match holder {
            Some(holder) => declaration(self.reading, self.diagram, holder),
            None => tree.roots.iter().copied().find(|id| tree.line(*id).span.start == self.diagram.span.start),
        }
    }

    /// How lines under another one are indented.
    fn inner_indent(&self, line: LineId) -> String {
        let (source, tree) = (&self.reading.source, &self.reading.tree);
        let line = tree.line(line);
        match line.children.first() {
            Some(first) => indent_of(source, tree.line(*first)).to_owned(),
            None => format!("{}  ", indent_of(source, line)),
        }
    }
}

/// The line that declares an element.
pub(super) fn declaration(reading: &Reading, diagram: &Diagram, id: ElementId) -> Option<LineId> {
    let target = Target::Element(BlockId::of(diagram), id);
    let declared = reading.occurrences.of(target).find(|o| o.role == Role::Declared).map(|o| o.span);
    let span = declared.unwrap_or(diagram.element(id).span);
    let is_in = |line: &Line| line.span.start <= span.start && span.end <= line.span.end;
    reading.tree.lines.iter().position(is_in).map(|at| LineId(at as u32))
}

fn indent_of<'s>(source: &'s Source, line: &Line) -> &'s str {
    source.slice(Span { start: source.line_start(line.span.start), end: line.span.start, ..line.span })
}

/// The byte behind a line and everything indented under it, comments at their ends included.
pub(super) fn end_of(reading: &Reading, id: LineId) -> usize {
    let (mut last, mut end) = (id, 0);
    loop {
        let line = reading.tree.line(last);
        end = end.max(line.span.end);
        match line.children.last() {
            Some(child) => last = *child,
            None => return line_end(&reading.source, end),
        }
    }
}

/// The end of the line that a byte stands in.
fn line_end(source: &Source, byte: u32) -> usize {
    let rest = &source.text[byte as usize..];
    byte as usize + rest.find(['\n', '\r']).unwrap_or(rest.len())
}

/// How lines of a text end.
fn line_break(source: &Source) -> &'static str {
    if source.text.contains("\r\n") { "\r\n" } else { "\n" }
}
