//! Reads an `architecture`: elements inside elements, and relations between them.

use super::build::Build;
use super::nested;
use super::{Diagram, ElementId, ElementKind, Verb};
use crate::diag::{Diagnostics, Message};
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
    let verb = match word.as_str() {
        "never" => {
            if cursor.eat("uses").is_none() {
                diags.report(cursor.span(), Message::NeverNeedsUses);
                return;
            }
            Verb::NeverUses
        }
        other => Verb::from_word(other).unwrap_or(Verb::Uses),
    };
    let objects = build.ends(cursor, &word, scope, diags);
    let clauses = cursor.clauses(build.words.clauses, diags);
    for (a, b) in subjects.iter().flat_map(|(a, _)| objects.iter().map(move |(b, _)| (*a, *b))) {
        if build.reports_own_container(a, b, cursor.line_span(), diags) {
            return;
        }
    }
    if verb == Verb::Runs {
        for (id, end) in &subjects {
            let kind = build.diagram.element(*id).kind;
            if !matches!(kind, ElementKind::Host | ElementKind::Zone | ElementKind::Device) {
                let span = if end.path.names.is_empty() { cursor.line_span() } else { end.path.span };
                diags.report(
                    span,
                    Message::NotAHost { name: build.diagram.element(*id).key.clone(), kind: kind.word() },
                );
                return;
            }
        }
    }
    build.relate_sets([&subjects, &objects], (verb, scope), &clauses, cursor.line_span(), diags);
    build.remarks_under(line, subjects.first().map(|s| s.0), "a relation", diags);
}
