//! Elements inside elements, as architectures and networks declare them. Input: lines. Output: elements;
//! statements and remarks, which refer to elements, are handed back for later.

use super::build::{Build, Reading};
use super::{ElementId, ElementKind};
use crate::diag::Diagnostics;
use crate::syntax::{Cursor, Line, LineId};

/// Declares the elements under a line; what refers to elements is left for later.
pub(super) fn declare<'a>(
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
                let kind = ElementKind::from_word(word).unwrap_or(build.default_kind);
                element(build, line, kind, &mut cursor, inside, later, diags);
            }
            Reading::Text => element(build, line, build.default_kind, &mut cursor, inside, later, diags),
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
    for id in &ids {
        build.traits_as_properties(*id);
        declare(build, &line.children, Some(*id), later, diags);
    }
}
