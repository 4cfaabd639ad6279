//! Reads a `network` block: general graphs of any kind of element. `then` draws an arrow, `joins` a
//! plain line, and `at` names the port at an end.

use super::build::{Build, Reading};
use super::{Diagram, ElementId, ElementKind, Verb};
use crate::diag::Diagnostics;
use crate::syntax::{Cursor, Line, LineId};

/// Reads the lines of the block into a diagram.
pub(super) fn read<'a>(mut build: Build<'a>, block: &'a Line, diags: &mut Diagnostics) -> Diagram {
    let mut later = Vec::new();
    declare(&mut build, &block.children, None, &mut later, diags);
    for (line, scope) in later {
        let mut cursor = build.cursor(line);
        match build.reading(&cursor) {
            Reading::Keyword(_) => build.remark_element(&mut cursor, scope, diags),
            _ => statement(&mut build, &mut cursor, line, scope, diags),
        }
    }
    build.finish(diags)
}

/// Declares the elements under a line; what refers to elements is left for later.
fn declare<'a>(
    build: &mut Build<'a>, ids: &[LineId], inside: Option<ElementId>, later: &mut Vec<(&'a Line, Option<ElementId>)>,
    diags: &mut Diagnostics,
) {
    for id in ids {
        let line = build.tree.line(*id);
        let mut cursor = build.cursor(line);
        match build.reading(&cursor) {
            Reading::Statement | Reading::Verb(_) | Reading::Keyword(_) => later.push((line, inside)),
            Reading::Picture(word) => build.picture_word(word, line, inside),
            Reading::Property(word) => build.property(word, inside, &mut cursor, diags),
            Reading::Kind(word) => {
                cursor.word();
                let kind = ElementKind::from_word(word).unwrap_or(ElementKind::Device);
                element(build, line, kind, &mut cursor, inside, later, diags);
            }
            Reading::Text => element(build, line, ElementKind::Device, &mut cursor, inside, later, diags),
            Reading::Unknown => {
                build.unknown_line(&cursor, diags);
                let below = build.below_unknown(line);
                declare(build, &below, inside, later, diags);
            }
        }
    }
}

fn element<'a>(
    build: &mut Build<'a>, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, inside: Option<ElementId>,
    later: &mut Vec<(&'a Line, Option<ElementId>)>, diags: &mut Diagnostics,
) {
    let (ids, _) = build.declaration(kind, cursor, inside, diags);
    for id in ids {
        build.traits_as_properties(id);
        declare(build, &line.children, Some(id), later, diags);
    }
}

fn statement<'a>(
    build: &mut Build<'a>, cursor: &mut Cursor<'a>, line: &'a Line, scope: Option<ElementId>, diags: &mut Diagnostics,
) {
    let Some(subjects) = build.subjects(cursor, scope, diags) else { return };
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let verb = Verb::from_word(&word).unwrap_or(Verb::Joins);
    let objects = build.ends(cursor, &word, scope, diags);
    let clauses = cursor.clauses(build.words.clauses, diags);
    build.relate_sets(&subjects, verb, &objects, &clauses, cursor.line_span());
    build.remarks_under(line, subjects.first().map(|s| s.0), "a line between elements", diags);
}
