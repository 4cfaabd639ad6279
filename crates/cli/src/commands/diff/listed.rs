//! Changes with their words and their lines, as lists and JSON show them.

use super::sides::Side;
use bathygram_core::compare::{Change, Changes, Fate, documents};
use bathygram_core::model::Document;
use bathygram_core::pipeline::Reading;
use serde::Serialize;

/// All changes of one diagram or sheet.
#[derive(Serialize)]
pub(super) struct Listed {
    pub(super) diagram: String,
    pub(super) changes: Vec<ListedChange>,
}

/// One change; the form is described in docs/json.md.
#[derive(Serialize)]
pub(super) struct ListedChange {
    #[serde(serialize_with = "word")]
    pub(super) fate: Fate,
    subject: &'static str,
    id: String,
    what: String,
    details: Vec<String>,
    pub(super) says: Vec<String>,
    /// In the newer text, or in the older one if it was removed.
    pub(super) line: u32,
}

fn word<S: serde::Serializer>(fate: &Fate, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(fate.word())
}

/// What changed between two versions.
pub(super) fn changes(from: &Side, to: &Side) -> Vec<Listed> {
    let all = documents(from.readings.iter().map(|r| &r.document), to.readings.iter().map(|r| &r.document));
    all.into_iter().map(|changes| listed(changes, from, to)).collect()
}

fn listed(Changes { diagram, changes }: Changes, from: &Side, to: &Side) -> Listed {
    let (then, now) = (holder(from, &diagram), holder(to, &diagram));
    let reading = |change: &Change| if change.fate == Fate::Removed { then } else { now };
    Listed { changes: changes.iter().map(|change| listed_change(change, reading(change))).collect(), diagram }
}

/// One change, in the reading that has its text.
fn listed_change(change: &Change, reading: Option<&Reading>) -> ListedChange {
    ListedChange {
        line: reading.map_or(0, |r| r.sources().line(change.span)),
        fate: change.fate,
        subject: change.subject.sort(),
        id: change.subject.id().to_owned(),
        what: change.what(),
        details: change.details(),
        says: change.sentences(),
    }
}

/// The file that has a diagram or a sheet; the last one, where several have.
fn holder<'s>(side: &'s Side, name: &str) -> Option<&'s Reading> {
    side.readings.iter().rev().find(|reading| has(&reading.document, name))
}

/// Whether a document has a diagram or a sheet of this name.
fn has(document: &Document, name: &str) -> bool {
    document.diagrams.iter().map(|d| &d.name).chain(document.sheets.iter().map(|s| &s.name)).any(|n| n == name)
}
