//! Elements inside elements, as architectures and networks declare them. Input: lines. Output: a
//! diagram. Statements and remarks, which refer to elements, are read when all of them are declared.

use super::build::{Build, LineKind};
use super::taken::{self, Taken};
use super::{Diagram, ElementId, ElementKind};
use crate::diag::Diagnostics;
use crate::syntax::{Cursor, Line, LineId};

/// Reads one statement of the block: its line, and the element that it belongs to.
pub(super) type Statement<'a> = fn(&mut Build<'a>, &mut Cursor<'a>, &'a Line, Option<ElementId>, &mut Diagnostics);

/// What is read when all elements are declared.
enum Later<'a> {
    /// A line, and the element that it stands in.
    Line(&'a Line, Option<ElementId>),
    /// The relations of a part of the model that lies in another file.
    Relations(Taken<'a>),
}

/// Reads the lines of a block into a diagram.
pub(super) fn read<'a>(
    mut build: Build<'a>, block: &'a Line, statement: Statement<'a>, diags: &mut Diagnostics,
) -> Diagram {
    let mut later = Vec::new();
    declare(&mut build, &block.children, None, &mut later, diags);
    for what in later {
        let (line, scope) = match what {
            Later::Line(line, scope) => (line, scope),
            Later::Relations(taken) => {
                taken::relate(&mut build, taken, diags);
                continue;
            }
        };
        let mut cursor = build.cursor(line);
        match build.line_kind(&cursor) {
            LineKind::Keyword(_) => build.remark_element(&mut cursor, scope, diags),
            _ => statement(&mut build, &mut cursor, line, scope, diags),
        }
    }
    build.finish(diags)
}

/// Declares the elements under a line; what refers to elements is left for later.
fn declare<'a>(
    build: &mut Build<'a>, ids: &[LineId], inside: Option<ElementId>, later: &mut Vec<Later<'a>>,
    diags: &mut Diagnostics,
) {
    for id in ids {
        let line = build.tree.line(*id);
        let mut cursor = build.cursor(line);
        match build.line_kind(&cursor) {
            LineKind::Keyword("from") => {
                let taken = taken::declare(build, &mut cursor, inside, diags);
                later.extend(taken.map(Later::Relations));
            }
            LineKind::Statement | LineKind::Verb(_) | LineKind::Keyword(_) => later.push(Later::Line(line, inside)),
            LineKind::Picture(word) => build.picture_word(word, line, inside),
            LineKind::Property(word) => build.property(word, inside, &mut cursor, diags),
            LineKind::Kind(word) => {
                cursor.word();
                let kind = ElementKind::from_word(word).unwrap_or(build.default_kind);
                element(build, line, kind, &mut cursor, inside, later, diags);
            }
            LineKind::Text => element(build, line, build.default_kind, &mut cursor, inside, later, diags),
            LineKind::Unknown => {
                build.unknown_line(&cursor, diags);
                let below = build.below_unknown(line);
                declare(build, &below, inside, later, diags);
            }
        }
    }
}

fn element<'a>(
    build: &mut Build<'a>, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, inside: Option<ElementId>,
    later: &mut Vec<Later<'a>>, diags: &mut Diagnostics,
) {
    let (ids, _) = build.declaration(kind, cursor, inside, diags);
    for id in &ids {
        build.traits_as_properties(*id);
        declare(build, &line.children, Some(*id), later, diags);
    }
}
