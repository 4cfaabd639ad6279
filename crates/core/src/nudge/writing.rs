//! Where a statement about a picture is written.

use super::desk::Desk;
use super::scene::Scene;
use crate::emit::written_constraint;
use crate::model::{Constraint, WrittenConstraint};
use crate::pipeline::Reading;
use crate::source::{Span, TextEdit};

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
            let line = reading.tree.line_at(old.span.start)?;
            Some(TextEdit::new(reading.tree.line(line).span, statement))
        }
        None => last_of_block(reading, scene.picture.span, statement),
    }
}

/// A statement as the last line of a block.
fn last_of_block(reading: &Reading, block: Span, statement: &str) -> Option<TextEdit> {
    let (source, tree) = (&reading.source, &reading.tree);
    let root = tree.block_at(block.start)?;
    let at = tree.end(source, root) as usize;
    let text = format!("{}{}{statement}", source.line_break(), tree.inner_indent(source, root));
    Some(TextEdit::new(source.span(at, at), text))
}
