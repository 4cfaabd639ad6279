//! Reads a `tree` block: indentation is the tree; `when "…"` labels the line to the parent.

use super::build::{Build, LineKind};
use super::{Diagram, ElementId, ElementKind, Verb};
use crate::diag::{Diagnostics, Message, nearest};
use crate::syntax::{Cursor, Line};

/// Reads the lines of the block into a diagram.
pub(super) fn read<'a>(mut build: Build<'a>, block: &'a Line, diags: &mut Diagnostics) -> Diagram {
    let mut remarks = Vec::new();
    branches(&mut build, block, None, &mut remarks, diags);
    for (line, scope) in remarks {
        let mut cursor = build.cursor(line);
        build.remark_element(&mut cursor, scope, diags);
    }
    build.finish(diags)
}

fn branches<'a>(
    build: &mut Build<'a>, parent: &'a Line, above: Option<ElementId>,
    remarks: &mut Vec<(&'a Line, Option<ElementId>)>, diags: &mut Diagnostics,
) {
    for id in &parent.children {
        let line = build.tree.line(*id);
        let mut cursor = build.cursor(line);
        match build.line_kind(&cursor) {
            LineKind::Keyword(_) => remarks.push((line, above)),
            LineKind::Picture(word) => build.picture_word(word, line, above),
            LineKind::Property(word) => build.property(word, above, &mut cursor, diags),
            LineKind::Kind(word) => {
                cursor.word();
                let kind = ElementKind::from_word(word).unwrap_or(ElementKind::Item);
                item(build, line, kind, &mut cursor, above, remarks, diags);
            }
            LineKind::Text => item(build, line, ElementKind::Item, &mut cursor, above, remarks, diags),
            LineKind::Unknown if is_name_alone(build, &cursor) => {
                item(build, line, ElementKind::Item, &mut cursor, above, remarks, diags);
            }
            _ => build.unknown_line(&cursor, diags),
        }
    }
}

/// A tree has no verbs, so a name alone can only be an item, unless it looks like a mistyped kind.
fn is_name_alone(build: &Build<'_>, cursor: &Cursor<'_>) -> bool {
    let mut ahead = cursor.clone();
    let resembles_kind = ahead.peek().is_some_and(|w| nearest(w, build.words.kinds.iter().copied()).is_some());
    let is_path = ahead.path().is_some();
    is_path && (ahead.at_end() || !resembles_kind && (ahead.at_text() || ahead.peek() == Some("when")))
}

fn item<'a>(
    build: &mut Build<'a>, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, above: Option<ElementId>,
    remarks: &mut Vec<(&'a Line, Option<ElementId>)>, diags: &mut Diagnostics,
) {
    let (ids, clauses) = build.declaration(kind, cursor, None, diags);
    if ids.len() > 1 && !line.children.is_empty() {
        diags.report(line.span, Message::NoBody { what: "a set of items" });
    }
    for id in &ids {
        build.traits_as_properties(*id);
        if let Some(above) = above {
            let relation = build.relate(above, *id, Verb::Holds, line.span);
            build.diagram.relations[relation.index()].label = clauses.text("when").cloned();
        }
    }
    branches(build, line, ids.first().copied().or(above), remarks, diags);
}
