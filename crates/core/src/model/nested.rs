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
    build: Build<'a>, block: &'a Line, statement: Statement<'a>, diags: &mut Diagnostics,
) -> Diagram {
    let mut nested = Nested { build, later: Vec::new() };
    nested.declare(&block.children, None, diags);
    let Nested { mut build, later } = nested;
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

/// A block whose elements are being declared.
struct Nested<'a> {
    build: Build<'a>,
    later: Vec<Later<'a>>,
}

impl<'a> Nested<'a> {
    /// Declares the elements under a line; what refers to elements is left for later.
    fn declare(&mut self, ids: &[LineId], inside: Option<ElementId>, diags: &mut Diagnostics) {
        for id in ids {
            let line = self.build.tree.line(*id);
            let mut cursor = self.build.cursor(line);
            match self.build.line_kind(&cursor) {
                LineKind::Keyword("from") => {
                    let taken = taken::declare(&mut self.build, &mut cursor, inside, diags);
                    self.later.extend(taken.map(Later::Relations));
                }
                LineKind::Statement | LineKind::Verb(_) | LineKind::Keyword(_) => {
                    self.later.push(Later::Line(line, inside));
                }
                LineKind::Picture(word) => self.build.picture_word(word, line, inside),
                LineKind::Property(word) => self.build.property(word, inside, &mut cursor, diags),
                LineKind::Kind(word) => {
                    cursor.word();
                    let kind = ElementKind::from_word(word).unwrap_or(self.build.default_kind);
                    self.element(line, kind, &mut cursor, inside, diags);
                }
                LineKind::Text => self.element(line, self.build.default_kind, &mut cursor, inside, diags),
                LineKind::Unknown => {
                    self.build.unknown_line(&cursor, diags);
                    let below = self.build.below_unknown(line);
                    self.declare(&below, inside, diags);
                }
            }
        }
    }

    fn element(
        &mut self, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, inside: Option<ElementId>,
        diags: &mut Diagnostics,
    ) {
        let (ids, _) = self.build.declaration(kind, cursor, inside, diags);
        for id in &ids {
            self.build.traits_as_properties(*id);
            self.declare(&line.children, Some(*id), diags);
        }
    }
}
