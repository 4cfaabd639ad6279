//! Two versions of one diagram, and of several files.

use super::change::{Change, Changes, Difference, Fate, Field, Subject};
use super::events::Events;
use super::matching::Matching;
use super::{elements, relations, sheets, written};
use crate::model::{Diagram, Document};
use std::collections::{BTreeMap, BTreeSet};

/// Compares two versions of several files: diagrams and sheets by their names, wherever they are.
/// Those without a change are left out.
pub fn documents<'a>(
    old: impl IntoIterator<Item = &'a Document>, new: impl IntoIterator<Item = &'a Document>,
) -> Vec<Changes> {
    let (old, new): (Vec<&Document>, Vec<&Document>) = (old.into_iter().collect(), new.into_iter().collect());
    let diagrams_of = |list: &[&'a Document]| -> Vec<&'a Diagram> { list.iter().flat_map(|d| &d.diagrams).collect() };
    let sheets_of = |list: &[&'a Document]| -> Vec<sheets::Of<'a>> {
        list.iter().flat_map(|d| d.sheets.iter().map(|s| sheets::Of { sheet: s, of: d.diagram(&s.of) })).collect()
    };
    let (then, now) = (sheets_of(&old), sheets_of(&new));
    let mut out = by_name(&diagrams_of(&old), &diagrams_of(&new), |d| &d.name, diagrams, whole);
    out.extend(by_name(
        &then.iter().collect::<Vec<_>>(),
        &now.iter().collect::<Vec<_>>(),
        |t| &t.sheet.name,
        sheets::compare,
        |t, fate| sheets::change(t.sheet, fate, Vec::new()),
    ));
    out
}

/// Pairs two lists by name and compares the pairs.
fn by_name<T>(
    old: &[&T], new: &[&T], name: fn(&T) -> &String, compare: fn(&T, &T) -> Vec<Change>, alone: fn(&T, Fate) -> Change,
) -> Vec<Changes> {
    let before: BTreeMap<&str, &T> = old.iter().map(|d| (name(d).as_str(), *d)).collect();
    let after: BTreeSet<&str> = new.iter().map(|d| name(d).as_str()).collect();
    let mut out = Vec::new();
    for item in new {
        let changes = match before.get(name(item).as_str()) {
            Some(old) => compare(old, item),
            None => vec![alone(item, Fate::Added)],
        };
        out.push(Changes { diagram: name(item).clone(), changes });
    }
    for item in old.iter().filter(|d| !after.contains(name(d).as_str())) {
        out.push(Changes { diagram: name(item).clone(), changes: vec![alone(item, Fate::Removed)] });
    }
    out.retain(|c| !c.changes.is_empty());
    out
}

fn whole(diagram: &Diagram, fate: Fate) -> Change {
    Change { fate, subject: Subject::diagram(diagram), differences: Vec::new(), span: diagram.span }
}

/// Compares two versions of one diagram.
pub fn diagrams(old: &Diagram, new: &Diagram) -> Vec<Change> {
    let matched = Matching::of(old, new);
    let (before, after) = (Events::of(old), Events::of(new));
    let mut changes: Vec<Change> = header(old, new).into_iter().collect();
    changes.extend(elements::compare(old, new, &matched));
    changes.extend(relations::compare([old, new], &matched, [&before, &after]));
    changes.extend(before.others_against(&after));
    changes
}

/// Title, words about the picture, kind.
fn header(old: &Diagram, new: &Diagram) -> Option<Change> {
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let kind = |d: &Diagram| Some(d.kind.word().to_owned());
    let title = Difference::field(Field::Title, text(&old.title), text(&new.title));
    let picture = written::pictures((&old.picture, Some(old)), (&new.picture, Some(new)));
    let kind = Difference::field(Field::Kind, kind(old), kind(new));
    let differences: Vec<Difference> = title.into_iter().chain(picture).chain(kind).collect();
    (!differences.is_empty()).then(|| Change { differences, ..whole(new, Fate::Changed) })
}
