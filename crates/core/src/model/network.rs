//! Reads a `network` block: general graphs of any kind of element. `then` draws an arrow, `joins` a
//! plain line, and `at` names the port at an end.

use super::build::Build;
use super::nested;
use super::{Diagram, ElementId, Verb};
use crate::diag::Diagnostics;
use crate::syntax::{Cursor, Line};

/// Reads the lines of the block into a diagram.
pub(super) fn read<'a>(build: Build<'a>, block: &'a Line, diags: &mut Diagnostics) -> Diagram {
    nested::read(build, block, statement, diags)
}

fn statement<'a>(
    build: &mut Build<'a>, cursor: &mut Cursor<'a>, line: &'a Line, scope: Option<ElementId>, diags: &mut Diagnostics,
) {
    let Some(subjects) = build.subjects(cursor, scope, diags) else { return };
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let verb = Verb::from_word(&word).unwrap_or(Verb::Joins);
    let objects = build.ends(cursor, &word, scope, diags);
    let clauses = cursor.clauses(build.words.clauses, diags);
    build.relate_sets([&subjects, &objects], (verb, scope), &clauses, cursor.line_span(), diags);
    build.remarks_under(line, subjects.first().map(|s| s.0), "a line between elements", diags);
}
