//! Sheets: a depth and a few exceptions.

use super::lines::Lines;
use super::phrases::{Naming, name};
use super::picture;
use crate::model::{Choice, Chosen, Diagram, Sheet};

/// A sheet as a block.
pub(super) fn sheet(diagram: &Diagram, sheet: &Sheet) -> Lines {
    let naming = Naming::of(diagram);
    let mut lines = Lines::default();
    let depth = sheet.depth.as_ref().map(|n| (n.span, format!("depth {}", n.value)));
    let hosts = sheet.by_hosts.map(|span| (span, "by hosts".to_owned()));
    let members = sheet.members.as_ref().map(|m| (m.span, format!("members {}", m.value.word())));
    let tell = sheet.tell.map(|span| (span, "tell".to_owned()));
    for (span, line) in [depth, hosts, members, tell].into_iter().flatten() {
        lines.push(span, line);
    }
    if let Some(followed) = &sheet.follow {
        lines.push(followed.span, format!("follow {}", name(&followed.sequence, &[])));
    }
    for Choice { word, chosen, distance, span } in &sheet.choices {
        let what = match chosen {
            Chosen::Elements(ids) => naming.paths(ids, None),
            Chosen::Tag(tag) => format!("tag {}", name(tag, &[])),
        };
        let distance = distance.map(|d| format!(" {d}")).unwrap_or_default();
        lines.push(*span, format!("{} {what}{distance}", word.word()));
    }
    picture::lines(sheet.span, &sheet.picture, &naming, &mut lines);
    let mut out = Lines::default();
    out.push_with(sheet.span, picture::sheet_header(sheet), lines.in_order());
    out
}
