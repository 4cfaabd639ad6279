//! Where new lines go: behind their siblings, indented as these are.

use crate::emit::written_rule;
use crate::model::{Diagram, ElementId, ElementKind, LookRule, Verb};
use crate::pipeline::Reading;
use crate::source::TextEdit;
use crate::syntax::LineId;
use std::collections::BTreeMap;

/// Lines to be put in, by the byte behind which they go.
pub(super) struct Additions<'a> {
    reading: &'a Reading,
    diagram: &'a Diagram,
    lines: BTreeMap<u32, String>,
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
            let lines = children.filter_map(|(id, _)| reading.declaration(self.diagram, id));
            lines.filter(|own| reading.tree.line(line).children.contains(own)).collect()
        };
        let at = match siblings.iter().max() {
            Some(last) => reading.tree.end(&reading.source, *last),
            None => reading.source.line_end(reading.tree.line(line).span.end),
        };
        self.put(at, line, text);
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
        let children = &reading.tree.line(block).children;
        let last = own.filter_map(|r| reading.tree.line_at(r.span.start).filter(|id| children.contains(id))).max();
        self.put(reading.tree.end(&reading.source, last.unwrap_or(block)), block, text);
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

    /// The line under which what lies in a holder is indented.
    fn holder(&self, holder: Option<ElementId>) -> Option<LineId> {
        match holder {
            Some(holder) => self.reading.declaration(self.diagram, holder),
            None => self.reading.tree.block_at(self.diagram.span.start),
        }
    }
}
