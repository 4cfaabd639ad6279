//! What a table says of several columns, and the relations that its references draw. Input: a line `refers a, b to table.x,
//! table.y`; all references of a diagram. Output: a [`Member`]; relations with how many there are at their ends.

use super::build::Build;
use super::member::{ClassBody, Member, TableConstraint};
use super::reference::{Reference, with_actions};
use super::{ElementId, EndText, Verb};
use crate::diag::{Diagnostics, Message};
use crate::source::Span;
use crate::syntax::{Cursor, Label, Line, Name, Path};
use std::collections::BTreeMap;

/// How many rows refer to one row, and how many a row refers to.
pub(crate) fn reference_ends(body: &ClassBody, columns: &[String]) -> [EndText; 2] {
    let [many, one] =
        [if body.identifies(columns) { "0..1" } else { "0..*" }, if body.can_lack(columns) { "0..1" } else { "1" }];
    [many, one].map(|count| EndText { multiplicity: Some(count.to_owned()), ..EndText::default() })
}

/// Reads `refers a, b to table.x, table.y`, from behind its first word; `to table` means the table's key.
pub(super) fn reference_line(cursor: &mut Cursor<'_>, line: &Line, diags: &mut Diagnostics) -> Option<Member> {
    let columns: Vec<String> = cursor.paths("refers", diags).iter().map(Path::text).collect();
    if cursor.eat("to").is_none() {
        let (after, found) = ("refers a, b to".to_owned(), cursor.peek().unwrap_or_default().to_owned());
        diags.report(cursor.span(), Message::NameExpected { after, found });
        cursor.skip_all();
        return None;
    }
    let paths = cursor.paths("to", diags);
    let traits = cursor.traits(diags);
    cursor.finish(&[], diags);
    let path = |path: &Path| path.names.iter().map(|name| name.text.clone()).collect::<Vec<_>>();
    let mut table = path(paths.first()?);
    // One column says its table's column as a trait does.
    let has_columns = paths.len() > 1 || columns.len() == 1 && table.len() > 1;
    let mut targets = Vec::new();
    if has_columns {
        table.pop();
        for other in &paths {
            let mut names = path(other);
            targets.extend(names.pop());
            if names != table {
                let values = "columns of one table, as in `refers a, b to sensor.station, sensor.number`";
                diags.report(other.span, Message::BadValue { word: other.text(), of: "refers", values });
                return None;
            }
        }
        if targets.len() != columns.len() {
            let values = "as many columns behind `to` as before it";
            let word = paths.iter().map(Path::text).collect::<Vec<_>>().join(", ");
            diags.report(line.span, Message::BadValue { word, of: "refers", values });
            return None;
        }
    }
    let reference = Reference { targets, ..Reference::new(columns.clone(), table) };
    let reference = with_actions(Some(reference), &traits, diags);
    Some(Member::of_table(TableConstraint::Refers(columns), reference, line.span))
}

/// Draws the relations that references say, but for those that somebody has written.
pub(super) fn relate(build: &mut Build<'_>, found: Vec<(ElementId, Reference, Span)>, diags: &mut Diagnostics) {
    let mut targets: Vec<(ElementId, ElementId, Reference, Span)> = Vec::new();
    for (from, reference, span) in found {
        let to = build.existing(&path_of(&reference, span), Some(from), diags);
        targets.extend(to.map(|to| (from, to, reference, span)));
    }
    let pair = |a: ElementId, b: ElementId| (a.min(b), a.max(b));
    // Lines that are written, by their ends; each stands for one reference.
    let mut written: BTreeMap<(ElementId, ElementId), Vec<Option<String>>> = BTreeMap::new();
    for relation in build.diagram.relations.iter().filter(|relation| relation.verb != Verb::Remarks) {
        let said = relation.ends[1].role.clone().or(relation.label.as_ref().map(Label::text));
        written.entry(pair(relation.from, relation.to)).or_default().push(said);
    }
    // Those that name the column, first.
    targets.retain(|(from, to, reference, _)| {
        let lines = written.get_mut(&pair(*from, *to));
        let named = lines.and_then(|lines| {
            let at =
                lines.iter().position(|said| said.as_ref().is_some_and(|said| reference.columns.contains(said)))?;
            Some(lines.remove(at))
        });
        named.is_none()
    });
    targets.retain(|(from, to, ..)| written.get_mut(&pair(*from, *to)).and_then(Vec::pop).is_none());
    let mut counts: BTreeMap<(ElementId, ElementId), usize> = BTreeMap::new();
    targets.iter().for_each(|(from, to, ..)| *counts.entry((*from, *to)).or_default() += 1);
    for (from, to, reference, span) in targets {
        if !build.has_room_for_relation(span, diags) {
            return;
        }
        let id = build.relate(from, to, Verb::Knows, span);
        let ends = build.diagram.element(from).class.as_deref().map(|body| reference_ends(body, &reference.columns));
        let relation = &mut build.diagram.relations[id.index()];
        relation.written_in = Some(from);
        relation.ends = ends.unwrap_or_default().map(Into::into);
        // Several are told apart by their columns.
        if counts.get(&(from, to)).is_some_and(|count| *count > 1) {
            relation.label = Some(Label::plain(reference.columns.join(", "), span));
        }
    }
}

/// The table as one names it.
fn path_of(reference: &Reference, span: Span) -> Path {
    let name = |text: &String| Name { text: text.clone(), span, by_label: false, quoted: false };
    Path { names: reference.table.iter().map(name).collect(), span }
}
