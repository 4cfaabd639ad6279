//! What changed between two versions of several files, in what they say and in how they are drawn. Input: readings. Output:
//! [`Changes`]. Guarantees: if the pictures of two versions, each drawn from new, differ in anything but the places in the text
//! that they name, there is a change; if nothing but comments and spaces differ, there is none.
//!
//! Models are compared first ([`compare`]), then what rules ask for. Where that finds nothing, or nothing but
//! orders that a layout need not follow, the pictures themselves are compared.

mod looks;

use crate::compare::{self, Change, Changes, Difference, Events, Fate, InBoth, Matching, Paired, Subject};
use crate::model::{Diagram, Document};
use crate::pipeline::{self, DrawOptions, Picture, Reading, Studio};
use crate::scene::Scene;
use crate::syntax::{LineId, Tree};
use looks::Version;
use std::collections::BTreeMap;

/// Compares two versions of several files: diagrams and sheets by their names, wherever they are, then by what they hold.
/// Those without a change are left out. Draws only what seems to be the same though its text differs.
pub fn changes(studio: &Studio, old: &[&Reading], new: &[&Reading]) -> Vec<Changes> {
    let review = Review { studio, old: Side::of(old), new: Side::of(new) };
    let then: Vec<&Document> = old.iter().map(|r| &r.document).collect();
    let now: Vec<&Document> = new.iter().map(|r| &r.document).collect();
    let mut all: Vec<Changes> =
        compare::diagrams_of(&then, &now).into_iter().map(|both| review.of_diagram(both)).collect();
    let changed: Vec<String> = all.iter().filter(|c| !c.changes.is_empty()).map(|c| c.diagram.clone()).collect();
    all.extend(compare::sheets_of(&then, &now).into_iter().map(|sheet| review.of_sheet(sheet, &changed)));
    all.retain(|c| !c.changes.is_empty());
    all
}

/// The readings of one side, by the pictures that they hold.
struct Side<'a> {
    by_name: BTreeMap<&'a str, &'a Reading>,
}

impl<'a> Side<'a> {
    fn of(readings: &[&'a Reading]) -> Self {
        let named = |r: &&'a Reading| {
            let r: &'a Reading = r;
            r.pictures().map(move |picture| (picture.name, r)).collect::<Vec<_>>()
        };
        Self { by_name: readings.iter().flat_map(named).collect() }
    }

    /// The picture of a name, with the reading that holds it.
    fn picture(&self, name: &str) -> Option<(&'a Reading, Picture<'a>)> {
        let reading = *self.by_name.get(name)?;
        Some((reading, reading.pictures().find(|p| p.name == name)?))
    }
}

struct Review<'a> {
    studio: &'a Studio,
    old: Side<'a>,
    new: Side<'a>,
}

impl Review<'_> {
    fn of_diagram(&self, both: InBoth<'_>) -> Changes {
        let mut all = compare::compared(both);
        let InBoth { old: Some(old), new: Some(new) } = both else { return all };
        let (Some((then, a)), Some((now, b))) = (self.old.picture(&old.name), self.new.picture(&new.name)) else {
            return all;
        };
        if then.looks != now.looks {
            let versions = [Version { diagram: old, looks: &then.looks }, Version { diagram: new, looks: &now.looks }];
            let matched = Matching::of(old, new);
            let paired = Paired::of([old, new], &matched, [&Events::of(old), &Events::of(new)]);
            all.changes.extend(looks::compare(versions, &matched, &paired));
        }
        if !all.changes.iter().all(is_order_that_need_not_show) {
            return all;
        }
        match is_same_text(then, now) || self.is_drawn_alike((then, &a), (now, &b)) {
            true => all.changes.clear(),
            false if all.changes.is_empty() => all.changes.push(drawn_differently(old, new)),
            false => {}
        }
        all
    }

    /// What changed in a sheet; how it is drawn counts where its diagram did not change.
    fn of_sheet(&self, mut all: Changes, changed: &[String]) -> Changes {
        let Some(before) = all.before.as_deref().filter(|_| all.changes.is_empty()) else { return all };
        let (Some((then, a)), Some((now, b))) = (self.old.picture(before), self.new.picture(&all.diagram)) else {
            return all;
        };
        let is_told = changed.contains(&b.diagram().name);
        if !is_told && !is_same_text(then, now) && !self.is_drawn_alike((then, &a), (now, &b)) {
            let sheet = now.document.sheets.iter().find(|s| s.name == all.diagram);
            all.changes.extend(sheet.map(|sheet| Change {
                fate: Fate::Drawn,
                subject: Subject::sheet(sheet),
                differences: vec![Difference::Picture],
                span: sheet.span,
                old_span: Some(a.span),
            }));
        }
        all
    }

    /// Whether two pictures, each drawn from new, are the same but for the lines that they name.
    fn is_drawn_alike(&self, a: (&Reading, &Picture<'_>), b: (&Reading, &Picture<'_>)) -> bool {
        let scene = |(reading, picture): (&Reading, &Picture<'_>)| -> Scene {
            pipeline::draw(self.studio, reading, &picture.view(), &DrawOptions::default()).scene.without_lines()
        };
        scene(a) == scene(b)
    }
}

/// Whether a change is an order that a layout may follow, or not.
fn is_order_that_need_not_show(change: &Change) -> bool {
    change.fate == Fate::Drawn && change.differences.iter().all(|d| matches!(d, Difference::Order { .. }))
}

fn drawn_differently(old: &Diagram, new: &Diagram) -> Change {
    let (subject, differences) = (Subject::diagram(new), vec![Difference::Picture]);
    Change { fate: Fate::Drawn, subject, differences, span: new.span, old_span: Some(old.span) }
}

/// Whether two readings differ in comments and spaces alone, and take the same from the same files.
fn is_same_text(a: &Reading, b: &Reading) -> bool {
    let taken = |r: &Reading| -> Vec<(String, String)> {
        r.document.imports.sources.iter().map(|s| (s.name.clone(), s.text.clone())).collect()
    };
    let is_same_text = a.source.text == b.source.text || words(a) == words(b);
    is_same_text && taken(a) == taken(b) && a.icons.files() == b.icons.files()
}

/// The words of a text, line by line, with the depth of each line.
fn words(reading: &Reading) -> Vec<(usize, Vec<&str>)> {
    fn below<'s>(tree: &Tree, text: &'s str, lines: &[LineId], depth: usize, out: &mut Vec<(usize, Vec<&'s str>)>) {
        for line in lines.iter().map(|id| tree.line(*id)) {
            let word = |at: &u32| {
                let span = tree.tokens[*at as usize].span;
                text.get(span.start as usize..span.end as usize).unwrap_or("")
            };
            out.push((depth, line.words.iter().map(word).collect()));
            below(tree, text, &line.children, depth + 1, out);
        }
    }
    let mut out = Vec::new();
    below(&reading.tree, &reading.source.text, &reading.tree.roots, 0, &mut out);
    out
}
