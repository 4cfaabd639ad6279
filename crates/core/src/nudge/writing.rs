//! Where a statement about a picture is written.

use super::desk::Desk;
use super::scene::Scene;
use crate::emit::written_constraint;
use crate::model::{Constraint, WrittenConstraint};
use crate::pipeline::Reading;
use crate::source::{Source, Span, TextEdit};
use crate::syntax::{Line, LineId};

/// A statement as it is written in the block, or the sheet, of the picture.
pub(super) fn written(scene: &Scene<'_>, constraint: &Constraint) -> String {
    written_constraint(scene.diagram, constraint)
}

/// The constraints that stand in the block, or the sheet, of the picture; elements have the numbers of the diagram.
pub(super) fn own_constraints<'a>(scene: &Scene<'a>) -> &'a [WrittenConstraint] {
    scene.picture.own_constraints()
}

/// Writes a statement: in place of another one, or as the last line of its block.
pub(super) fn statement(
    desk: &Desk<'_>, scene: &Scene<'_>, statement: &str, instead: Option<&WrittenConstraint>,
) -> Option<TextEdit> {
    let reading = desk.reading;
    match instead {
        Some(old) => {
            // A statement is all of its line, or what a comment leaves of it.
            let line = reading
                .tree
                .lines
                .iter()
                .find(|line| line.span.start <= old.span.start && old.span.end <= line.span.end)?;
            Some(TextEdit::new(line.span, statement))
        }
        None => last_of_block(reading, scene.picture.span, statement),
    }
}

/// A statement as the last line of a block.
fn last_of_block(reading: &Reading, block: Span, statement: &str) -> Option<TextEdit> {
    let (source, tree) = (&reading.source, &reading.tree);
    let root = *tree.roots.iter().find(|id| tree.line(**id).span.start == block.start)?;
    let indent = match tree.line(root).children.first() {
        Some(first) => indent_of(source, tree.line(*first)),
        None => "  ",
    };
    let end = end_of(reading, root);
    Some(TextEdit::new(source.span(end, end), format!("{}{indent}{statement}", line_break(source))))
}

/// How lines of a text end.
pub(super) fn line_break(source: &Source) -> &'static str {
    if source.text.contains("\r\n") { "\r\n" } else { "\n" }
}

/// What a line begins with.
pub(super) fn indent_of<'a>(source: &'a Source, line: &Line) -> &'a str {
    source.slice(Span { start: source.line_start(line.span.start), end: line.span.start, ..line.span })
}

/// The byte behind a line and everything indented under it, comments at their ends included.
pub(super) fn end_of(reading: &Reading, id: LineId) -> usize {
    let tree = &reading.tree;
    let (mut last, mut end) = (id, 0);
    loop {
        let line = tree.line(last);
        end = end.max(line.span.end as usize);
        match line.children.last() {
            Some(child) => last = *child,
            None => break,
        }
    }
    let rest = &reading.source.text[end..];
    end + rest.find(['\n', '\r']).unwrap_or(rest.len())
}
