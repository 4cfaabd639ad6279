//! Two versions of one diagram, and of several files.

use super::change::{Change, Changes, Difference, Fate, Field, Subject};
use super::events::{BothEvents, Events};
use super::matching::Matching;
use super::merged::ELSEWHERE;
use super::order::{self, Orders};
use super::relations::Paired;
use super::renamed::Contents;
use super::steps::Steps;
use super::{elements, relations, renamed, sheets, written};
use crate::model::{Diagram, DiagramKind, Document};
use std::collections::BTreeMap;

/// Compares two versions of several files: diagrams and sheets by their names, wherever they are, then by what they hold.
/// Those without a change are left out.
pub fn documents<'a>(
    old: impl IntoIterator<Item = &'a Document>, new: impl IntoIterator<Item = &'a Document>,
) -> Vec<Changes> {
    let (old, new): (Vec<&Document>, Vec<&Document>) = (old.into_iter().collect(), new.into_iter().collect());
    let mut out: Vec<Changes> = diagrams_of(&old, &new).into_iter().map(compared).collect();
    out.extend(sheets_of(&old, &new));
    out.retain(|c| !c.changes.is_empty());
    out
}

/// A diagram in two versions; `None` where it is not there.
#[derive(Clone, Copy, Debug)]
pub(crate) struct InBoth<'a> {
    pub(crate) old: Option<&'a Diagram>,
    pub(crate) new: Option<&'a Diagram>,
}

/// Which diagram is which, in the order of the newer version, those that are gone last.
pub(crate) fn diagrams_of<'a>(old: &[&'a Document], new: &[&'a Document]) -> Vec<InBoth<'a>> {
    let all = |list: &[&'a Document]| -> Vec<&'a Diagram> { list.iter().flat_map(|d| &d.diagrams).collect() };
    in_both(&all(old), &all(new), |d| d.name.clone(), renamed::contents)
        .into_iter()
        .map(|(old, new)| InBoth { old, new })
        .collect()
}

/// What changed in a diagram.
pub(crate) fn compared(InBoth { old, new }: InBoth<'_>) -> Changes {
    let named = |d: &Diagram| d.name.clone();
    let changes = match (old, new) {
        (Some(old), Some(new)) => diagrams(old, new),
        (None, Some(new)) => vec![whole(new, Fate::Added, None)],
        (Some(old), None) => vec![whole(old, Fate::Removed, Some(old))],
        (None, None) => Vec::new(),
    };
    Changes { diagram: new.or(old).map_or(String::new(), named), before: old.map(named), changes }
}

/// What changed in the sheets.
pub(crate) fn sheets_of(old: &[&Document], new: &[&Document]) -> Vec<Changes> {
    fn all<'a>(list: &[&'a Document]) -> Vec<sheets::Of<'a>> {
        list.iter().flat_map(|d| d.sheets.iter().map(|s| sheets::Of { sheet: s, of: d.diagram(&s.of) })).collect()
    }
    let (then, now) = (all(old), all(new));
    let (then, now): (Vec<&sheets::Of<'_>>, Vec<&sheets::Of<'_>>) = (then.iter().collect(), now.iter().collect());
    // A sheet that shows the same of the same is that sheet.
    let contents = |s: &sheets::Of<'_>| Contents::from([(sheets::said(s), 1)]);
    let named = |s: &sheets::Of<'_>| s.sheet.name.clone();
    let pairs = in_both(&then, &now, named, contents).into_iter();
    pairs
        .map(|(old, new)| {
            let changes = match (old, new) {
                (Some(old), Some(new)) => sheets::compare(old, new),
                (None, Some(new)) => vec![sheets::change(new.sheet, Fate::Added, None, Vec::new())],
                (Some(old), None) => vec![sheets::change(old.sheet, Fate::Removed, Some(old.sheet), Vec::new())],
                (None, None) => Vec::new(),
            };
            Changes { diagram: new.or(old).map_or(String::new(), named), before: old.map(named), changes }
        })
        .collect()
}

/// What is in two lists, paired: in the order of the newer one, what is only in the older one last.
fn in_both<'t, T>(
    old: &[&'t T], new: &[&'t T], name: impl Fn(&T) -> String, contents: impl Fn(&T) -> Contents,
) -> Vec<(Option<&'t T>, Option<&'t T>)> {
    let pairs = renamed::paired(old, new, &name, contents);
    let kept: std::collections::BTreeSet<usize> = pairs.iter().flatten().copied().collect();
    let gone = (0..old.len()).filter(|o| !kept.contains(o)).map(|o| (Some(old[o]), None));
    let here = pairs.iter().zip(new).map(|(o, n)| (o.map(|o| old[o]), Some(*n)));
    here.chain(gone.collect::<Vec<_>>()).collect()
}

fn whole(diagram: &Diagram, fate: Fate, old: Option<&Diagram>) -> Change {
    let old_span = old.map(|old| old.span);
    Change { fate, subject: Subject::diagram(diagram), differences: Vec::new(), span: diagram.span, old_span }
}

/// The keys that elements and relations have now, by those that they had, where they have others: unnamed ones are known by what they
/// show. What lies in something else now does not keep its place: that is the place of what [`merged`](super::merged()) draws there.
pub fn new_keys(old: &Diagram, new: &Diagram) -> BTreeMap<String, String> {
    let matched = Matching::of(old, new);
    let paired = Paired::of([old, new], &matched, [&Events::of(old), &Events::of(new)]);
    let mut keys = BTreeMap::new();
    for (o, n) in &matched.to_new {
        let (a, b) = (&old.elements[*o], &new.elements[*n]);
        let place = a.parent.map(|p| matched.to_new.get(&p.index()).copied());
        let is_moved = place != b.parent.map(|p| Some(p.index()));
        if !is_moved && a.key != b.key {
            keys.insert(a.key.clone(), b.key.clone());
        } else if is_moved && a.key == b.key {
            keys.insert(a.key.clone(), format!("{}{ELSEWHERE}", a.key));
        }
    }
    let relations = paired.pairs.iter().map(|(o, n)| (&old.relations[*o].key, &new.relations[*n].key));
    keys.extend(relations.filter(|(a, b)| a != b).map(|(a, b)| (a.clone(), b.clone())));
    keys
}

/// Compares two versions of one diagram.
pub fn diagrams(old: &Diagram, new: &Diagram) -> Vec<Change> {
    let matched = Matching::of(old, new);
    let (before, after) = (Events::of(old), Events::of(new));
    let mut paired = Paired::of([old, new], &matched, [&before, &after]);
    let steps = Steps::of([old, new], &matched, &mut paired);
    let events = BothEvents::of([&before, &after], &paired.pairs);
    let mut changes: Vec<Change> = header(old, new).into_iter().collect();
    changes.extend(elements::compare(old, new, &matched, &steps));
    changes.extend(relations::compare([old, new], (&paired, &steps.led), &matched, &events));
    changes.extend(events.changes());
    // An order that a layout may follow is worth a sentence where nothing else changed.
    if changes.is_empty() && new.kind != DiagramKind::Sequence {
        changes.extend(order::compare(old, new, &matched, Orders::All));
        // In a tree the lines follow from the order of what they lead to.
        if new.kind != DiagramKind::Tree {
            changes.extend(order::of_relations(old, new, &paired));
        }
    } else {
        changes.extend(order::compare(old, new, &matched, Orders::Shown));
    }
    changes
}

/// Name, title, words about the picture, kind.
fn header(old: &Diagram, new: &Diagram) -> Option<Change> {
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let kind = |d: &Diagram| Some(d.kind.word().to_owned());
    let name = (old.name != new.name).then(|| Difference::Name { old: old.name.clone(), new: new.name.clone() });
    let title = Difference::field(Field::Title, text(&old.title), text(&new.title));
    let picture = written::pictures((&old.picture, Some(old)), (&new.picture, Some(new)));
    let kind = Difference::field(Field::Kind, kind(old), kind(new));
    let differences: Vec<Difference> = name.into_iter().chain(title).chain(picture).chain(kind).collect();
    (!differences.is_empty()).then(|| Change { differences, ..whole(new, Fate::Changed, Some(old)) })
}
