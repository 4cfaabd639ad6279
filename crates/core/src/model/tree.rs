//! Reads a `tree` block: indentation is the tree; `when "…"` labels the line to the parent.

use super::build::{Build, LineKind};
use super::{Diagram, ElementId, ElementKind, Verb};
use crate::diag::{Diagnostics, Message, nearest};
use crate::syntax::{Cursor, Line};
use crate::vocabulary::ours_line;

/// Reads the lines of the block into a diagram.
pub(super) fn read<'a>(build: Build<'a>, block: &'a Line, diags: &mut Diagnostics) -> Diagram {
    let mut branches = Branches { build, remarks: Vec::new() };
    branches.under(block, None, diags);
    let Branches { mut build, remarks } = branches;
    for (line, scope) in remarks {
        let mut cursor = build.cursor(line);
        build.remark_element(&mut cursor, scope, diags);
    }
    build.finish(diags)
}

struct Branches<'a> {
    build: Build<'a>,
    /// Remarks, read when all items are known, with the item that each stands under.
    remarks: Vec<(&'a Line, Option<ElementId>)>,
}

impl<'a> Branches<'a> {
    /// Reads what is indented under a line; it hangs below the item `above`.
    fn under(&mut self, parent: &'a Line, above: Option<ElementId>, diags: &mut Diagnostics) {
        for id in &parent.children {
            let line = self.build.tree.line(*id);
            let mut cursor = self.build.cursor(line);
            match self.build.line_kind(&cursor) {
                LineKind::Keyword(_) => self.remarks.push((line, above)),
                LineKind::Picture(word) => self.build.picture_word(word, line, above),
                LineKind::Property(word) => self.build.property(word, above, &mut cursor, diags),
                LineKind::Kind(word) => {
                    cursor.word();
                    let kind = ElementKind::from_word(word).unwrap_or(ElementKind::Item);
                    self.item(line, kind, &mut cursor, above, diags);
                }
                LineKind::Text => self.item(line, ElementKind::Item, &mut cursor, above, diags),
                LineKind::Unknown if is_name_alone(&self.build, &cursor) => {
                    self.item(line, ElementKind::Item, &mut cursor, above, diags);
                }
                _ => self.build.unknown_line(&cursor, diags),
            }
        }
    }

    fn item(
        &mut self, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, above: Option<ElementId>,
        diags: &mut Diagnostics,
    ) {
        let (ids, clauses) = self.build.declaration(kind, cursor, None, diags);
        if ids.len() > 1 && !line.children.is_empty() {
            diags.report(line.span, Message::NoBody { what: "a set of items" });
        }
        for id in &ids {
            self.build.traits_as_properties(*id);
            if let Some(above) = above {
                let relation = self.build.relate(above, *id, Verb::Holds, line.span);
                self.build.diagram.relations[relation.index()].label = clauses.text("when").cloned();
            }
        }
        self.under(line, ids.first().copied().or(above), diags);
    }
}

/// A tree has no verbs, so a name alone can only be an item, unless it looks like a mistyped kind.
fn is_name_alone(build: &Build<'_>, cursor: &Cursor<'_>) -> bool {
    let mut ahead = cursor.clone();
    let resembles_kind = ahead.peek().is_some_and(|w| nearest(w, build.words.kinds.iter().copied()).is_some());
    // What other notations call an item is no name, if a text follows.
    let is_foreign = ours_line(&ahead.texts(), build.words.block).is_some();
    let is_path = !is_foreign && ahead.path().is_some();
    is_path && (ahead.at_end() || !resembles_kind && (ahead.at_text() || ahead.peek() == Some("when")))
}
