//! Changes with their words and their places, as lists and JSON show them.

use super::sides::{Compared, Conflict, Side};
use bathygram_core::compare::{Change, Changes, Fate, Phrase};
use bathygram_core::model::Document;
use bathygram_core::pipeline::{Reading, Studio};
use bathygram_core::review;
use bathygram_core::source::Span;
use bathygram_host::Project;
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeSet;

/// All changes of one diagram or sheet.
#[derive(Serialize, JsonSchema)]
pub(crate) struct Listed {
    /// The name of the diagram or the sheet; that of the older version, if it is gone.
    pub(crate) diagram: String,
    /// Its name in the older version; null if it is new.
    pub(crate) old_name: Option<String>,
    /// The file that holds it in the newer version, relative to the project; null if it is gone.
    pub(crate) file: Option<String>,
    /// The file that held it in the older version; null if it is new.
    pub(crate) old_file: Option<String>,
    /// Its changes, in the order of the newer text.
    pub(crate) changes: Vec<ListedChange>,
    /// The keys of what says what it said and is drawn differently.
    #[serde(skip)]
    pub(crate) drawn: BTreeSet<String>,
}

/// One change.
#[derive(Serialize, JsonSchema)]
pub(crate) struct ListedChange {
    /// `added`, `removed`, `changed`, `moved`, or `drawn differently`.
    #[serde(serialize_with = "word")]
    #[schemars(with = "String")]
    pub(crate) fate: Fate,
    /// `diagram`, `element`, `relation`, `event`, `sheet`, or `project` for what its config says of all pictures.
    subject: &'static str,
    /// The key in the drawing: `data-element` or `data-relation`.
    id: String,
    /// One line in words.
    what: String,
    /// What is different.
    details: Vec<String>,
    /// The change in sentences.
    pub(crate) says: Vec<String>,
    /// The file of the line, relative to the project.
    pub(crate) file: String,
    /// In the newer text, or in the older one if it was removed; from 1.
    pub(crate) line: u32,
    /// The file of the line in the older version; null if it is new.
    old_file: Option<String>,
    /// In the older text; null if it is new.
    pub(crate) old_line: Option<u32>,
    #[serde(skip)]
    pub(crate) phrases: Vec<Vec<Phrase>>,
}

fn word<S: serde::Serializer>(fate: &Fate, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(fate.word())
}

/// What changed between two versions.
pub(super) fn changes(project: &Project, compared: &Compared) -> Vec<Listed> {
    let mut all = named(between(project, &compared.from, &compared.to), &compared.pictures);
    all.extend(of_project(compared));
    all
}

/// What the config draws differently in all pictures.
fn of_project(compared: &Compared) -> Option<Listed> {
    const CONFIG: &str = "bathygram.toml";
    let change = |(key, old, new): &(String, Option<String>, Option<String>)| {
        let said = |value: &Option<String>| value.as_ref().map_or("nothing".to_owned(), |value| format!("\"{value}\""));
        let detail = match (old, new) {
            (None, None) => "changed".to_owned(),
            _ => format!("{} became {}", said(old), said(new)),
        };
        let words = format!(": {detail}; every picture is drawn differently");
        ListedChange {
            fate: Fate::Drawn,
            subject: "project",
            id: key.clone(),
            what: key.clone(),
            details: vec![detail],
            says: vec![format!("`{key}`{words}")],
            phrases: vec![vec![Phrase::Code(key.clone()), Phrase::Words(words)]],
            file: CONFIG.to_owned(),
            line: 1,
            old_file: Some(CONFIG.to_owned()),
            old_line: Some(1),
        }
    };
    let changes: Vec<ListedChange> = compared.looks.iter().map(change).collect();
    let file = || Some(CONFIG.to_owned());
    let (diagram, drawn) = (CONFIG.to_owned(), BTreeSet::new());
    (!changes.is_empty()).then(|| Listed { diagram, old_name: file(), file: file(), old_file: file(), changes, drawn })
}

/// What the two sides of a conflict say differently.
pub(super) fn of_conflict(project: &Project, conflict: &Conflict, pictures: &[String]) -> Vec<Listed> {
    named(between(project, &conflict.ours, &conflict.theirs), pictures)
}

/// Those of some names, or all if there are none.
fn named(mut all: Vec<Listed>, names: &[String]) -> Vec<Listed> {
    if !names.is_empty() {
        all.retain(|l| names.contains(&l.diagram) || l.old_name.as_ref().is_some_and(|old| names.contains(old)));
    }
    all
}

fn between(project: &Project, from: &Side, to: &Side) -> Vec<Listed> {
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let (then, now): (Vec<&Reading>, Vec<&Reading>) = (from.readings.iter().collect(), to.readings.iter().collect());
    review::changes(&studio, &then, &now).into_iter().map(|changes| listed(changes, &then, &now)).collect()
}

/// Changes with their places, found in the readings of both versions.
pub(crate) fn listed(all: Changes, old: &[&Reading], new: &[&Reading]) -> Listed {
    let drawn = all.drawn_differently();
    let Changes { diagram, before, changes } = all;
    let then = before.as_ref().and_then(|name| holder(old, name));
    let now = holder(new, &diagram).filter(|_| changes.iter().all(|c| !is_gone_as_a_whole(c)));
    let file = |r: Option<&Reading>| r.map(|r| r.source.name.clone());
    let changes = changes.iter().map(|change| listed_change(change, [then, now])).collect();
    Listed { file: file(now), old_file: file(then), old_name: before, changes, diagram, drawn }
}

fn is_gone_as_a_whole(change: &Change) -> bool {
    change.fate == Fate::Removed && matches!(change.subject.sort(), "diagram" | "sheet")
}

/// One change, with its places in the readings that have its texts.
fn listed_change(change: &Change, [then, now]: [Option<&Reading>; 2]) -> ListedChange {
    let place = |reading: Option<&Reading>, span: Span| {
        let sources = reading?.sources();
        let source = sources.get(span.source)?;
        Some((source.name.clone(), source.line(span.start)))
    };
    let old = change.old_span.and_then(|span| place(then, span));
    let here = if change.fate == Fate::Removed { old.clone() } else { place(now, change.span) };
    let (file, line) = here.unwrap_or_default();
    let (old_file, old_line) = old.unzip();
    ListedChange {
        fate: change.fate,
        subject: change.subject.sort(),
        id: change.subject.id().to_owned(),
        what: change.what(),
        details: change.details(),
        says: change.sentences(),
        phrases: change.phrases(),
        file,
        line,
        old_file,
        old_line,
    }
}

/// The text that has a diagram or a sheet; the last one, where several have.
fn holder<'s>(readings: &[&'s Reading], name: &str) -> Option<&'s Reading> {
    readings.iter().rev().find(|reading| has(&reading.document, name)).copied()
}

/// Whether a document has a diagram or a sheet of this name.
fn has(document: &Document, name: &str) -> bool {
    document.diagrams.iter().map(|d| &d.name).chain(document.sheets.iter().map(|s| &s.name)).any(|n| n == name)
}
