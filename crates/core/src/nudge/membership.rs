//! What is dragged into another group or lane, or out of one.

use super::desk::{Desk, Nudge, Refused};
use super::scene::Scene;
use super::trial::Trial;
use crate::geom::{Point, Rect};
use crate::model::{Diagram, DiagramKind, ElementId};
use crate::pipeline::Reading;
use crate::source::{Span, TextEdit};
use crate::syntax::LineId;
use std::collections::BTreeMap;

/// Where an element belongs that was dropped outside of what it lies in: in a group, or in none.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Home(Option<String>);

/// The other group that a place lies in.
pub(super) fn other_home(scene: &Scene<'_>, key: &str, at: Point) -> Option<Home> {
    let groups = scene.before.places.groups.iter();
    let around = groups.filter(|(own, rect)| !scene.lies_in(own, key) && rect.holds(Rect::new(at.x, at.y, 0.0, 0.0)));
    // The innermost one is the smallest.
    let home = around.min_by(|a, b| (a.1.w * a.1.h).total_cmp(&(b.1.w * b.1.h))).map(|(own, _)| own.clone());
    let parent = scene.shown.element(scene.shown_id(key)?).parent;
    let now = parent.map(|id| scene.shown.element(id).key.clone());
    (home != now).then_some(Home(home))
}

/// Writes an element into its new home.
pub(super) fn moved(desk: &Desk<'_>, scene: &Scene<'_>, home: Home) -> Result<Nudge, Refused> {
    let element = scene.diagram.element(scene.id);
    if !element.span.source.is_root() {
        let file = desk.reading.sources().get(element.span.source).map_or(String::new(), |source| source.name.clone());
        return Err(Refused::Elsewhere(file));
    }
    let holder = match &home.0 {
        Some(key) => Some(scene.diagram.ids().find(|(_, e)| e.key == *key).map(|(id, _)| id).ok_or(Refused::Gone)?),
        None => None,
    };
    let line = declaration(desk.reading, scene.diagram, scene.id).ok_or(Refused::Meaning)?;
    let edits = match scene.diagram.kind {
        DiagramKind::Flow | DiagramKind::States => clause(desk, scene, line, holder),
        _ => nested(desk, scene, line, holder),
    };
    let edits = edits.ok_or(Refused::Meaning)?;
    let trial = Trial::of(desk, scene.picture.name, &edits).ok_or(Refused::Meaning)?;
    let after = trial.reading.pictures().find(|picture| picture.name == scene.picture.name).ok_or(Refused::Meaning)?;
    let after = after.diagram();
    if !is_same_but(scene.diagram, after, scene.id, home.0.as_deref()) {
        return Err(Refused::Meaning);
    }
    let name = element.called();
    let written = match holder {
        Some(holder) => format!("{name} in {}", scene.diagram.element(holder).called()),
        None => format!("{name} in no group"),
    };
    Ok(Nudge { edits, written, notes: Vec::new() })
}

/// The line that declares an element.
fn declaration(reading: &Reading, diagram: &Diagram, id: ElementId) -> Option<LineId> {
    let line = reading.declaration(diagram, id)?;
    // A line of a statement that only mentions it says more than where it is.
    let element = diagram.element(id);
    (!element.implicit && reading.tree.line(line).span.start <= element.span.start).then_some(line)
}

/// A flow goes on from line to line: a clause says where a step is.
fn clause(desk: &Desk<'_>, scene: &Scene<'_>, line: LineId, holder: Option<ElementId>) -> Option<Vec<TextEdit>> {
    let (source, tree) = (&desk.reading.source, &desk.reading.tree);
    let line = tree.line(line);
    let words: Vec<Span> = line.words.iter().map(|w| tree.tokens[*w as usize].span).collect();
    let slice = |at: usize| words.get(at).map(|span| source.slice(*span));
    let traits = (0..words.len()).find(|at| slice(*at) == Some("("));
    let end = traits.unwrap_or(words.len());
    // A name may be a path of several words with dots between.
    let old = (1..end).rev().find(|at| slice(*at) == Some("in"));
    let name = holder.map(|id| crate::emit::written_path(scene.diagram, id));
    let edit = match (old, name) {
        (Some(at), Some(name)) => {
            let mut last = at + 1;
            while slice(last + 1) == Some(".") && last + 2 < end {
                last += 2;
            }
            TextEdit::new(words.get(at + 1)?.to(*words.get(last)?), name)
        }
        (Some(at), None) => {
            let start = words[at - 1].end as usize;
            TextEdit::new(source.span(start, words.get(at + 1)?.end as usize), "")
        }
        (None, Some(name)) => {
            let at = words[end - 1].end as usize;
            TextEdit::new(source.span(at, at), format!(" in {name}"))
        }
        (None, None) => return None,
    };
    Some(vec![edit])
}

/// Elsewhere what lies in something is indented under it: the line goes there, with what is indented under it.
fn nested(desk: &Desk<'_>, scene: &Scene<'_>, line: LineId, holder: Option<ElementId>) -> Option<Vec<TextEdit>> {
    let (reading, source, tree) = (desk.reading, &desk.reading.source, &desk.reading.tree);
    let target = match holder {
        Some(holder) => declaration(reading, scene.diagram, holder)?,
        None => tree.block_at(scene.diagram.span.start)?,
    };
    let whole = tree.whole(source, line);
    let (start, end) = (whole.start as usize, tree.end(source, line) as usize);
    let to = tree.end(source, target) as usize;
    if (start..end).contains(&to) && to != end {
        return None;
    }
    let indent = match tree.line(target).children.iter().find(|child| **child != line) {
        Some(first) => tree.indent(source, *first).to_owned(),
        None => format!("{}  ", tree.indent(source, target)),
    };
    let old = tree.indent(source, line);
    let lines = source.text[start..end].lines().map(|text| match text.strip_prefix(old) {
        Some(rest) if !rest.is_empty() => format!("{indent}{rest}"),
        _ => text.trim_start().to_owned(),
    });
    let line_break = source.line_break();
    let block = lines.collect::<Vec<String>>().join(line_break);
    if to == end {
        // The last of its old home and of its new one: only its indentation changes.
        return Some(vec![TextEdit::new(source.span(start, end), block)]);
    }
    let put = TextEdit::new(source.span(to, to), format!("{line_break}{block}"));
    Some(vec![TextEdit::new(whole, ""), put])
}

/// Whether two diagrams say the same but for where one element is.
fn is_same_but(before: &Diagram, after: &Diagram, id: ElementId, home: Option<&str>) -> bool {
    let moved = before.element(id);
    // Elements are told apart by what they are called and what they are in; the moved one only by what it is called.
    let called = |d: &Diagram, id: ElementId| (d.element(id).called(), d.element(id).kind);
    let is_moved = |d: &Diagram, own: ElementId| {
        called(d, own) == (moved.called(), moved.kind)
            || d.ancestors(own).any(|around| called(d, around) == (moved.called(), moved.kind))
    };
    let elements = |d: &Diagram| -> Vec<(String, Option<String>)> {
        let others = d.ids().filter(|(own, _)| !is_moved(d, *own));
        let mut all: Vec<_> = others.map(|(own, e)| (called(d, own).0, e.parent.map(|p| called(d, p).0))).collect();
        all.sort();
        all
    };
    let relations = |d: &Diagram| -> BTreeMap<(String, String, String, &'static str), usize> {
        let mut all = BTreeMap::new();
        for r in &d.relations {
            let label = r.label.as_ref().map(|l| l.text()).unwrap_or_default();
            *all.entry((called(d, r.from).0, called(d, r.to).0, label, r.verb.word())).or_insert(0) += 1;
        }
        all
    };
    let is_home = |d: &Diagram| {
        d.ids().any(|(own, e)| {
            called(d, own) == (moved.called(), moved.kind) && e.parent.map(|p| d.element(p).key.as_str()) == home
        })
    };
    before.elements.len() == after.elements.len()
        && elements(before) == elements(after)
        && relations(before) == relations(after)
        && is_home(after)
}
