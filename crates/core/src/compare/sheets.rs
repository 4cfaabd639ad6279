//! Two versions of a sheet.

use super::change::{Change, Difference, Fate, Field, Said, Subject};
use super::written;
use crate::model::{Diagram, ElementId, Sheet};
use std::collections::BTreeSet;

/// A sheet, and the diagram it is of, if that is known.
pub(super) struct Of<'a> {
    pub(super) sheet: &'a Sheet,
    pub(super) of: Option<&'a Diagram>,
}

impl Of<'_> {
    fn name(&self, id: ElementId) -> String {
        self.of.map_or(String::new(), |d| d.element(id).key.clone())
    }

    fn names(&self, ids: &[ElementId]) -> Vec<String> {
        ids.iter().map(|id| self.name(*id)).collect()
    }

    fn first_fields(&self) -> Said<2> {
        let title = self.sheet.title.as_ref().map(|title| title.text());
        [(Field::Of, Some(self.sheet.of.clone())), (Field::Title, title)]
    }

    fn more_fields(&self) -> Said<4> {
        let flag = |said: Option<crate::source::Span>| said.map(|_| "said".to_owned());
        [
            (Field::Depth, self.sheet.depth.as_ref().map(|n| n.value.to_string())),
            (Field::Members, Some(self.sheet.shown_members().word().to_owned())),
            (Field::Tell, flag(self.sheet.tell)),
            (Field::ByHosts, flag(self.sheet.by_hosts)),
        ]
    }

    /// What it opens, closes and so on, by names.
    fn lists(&self) -> [(Field, Vec<String>); 6] {
        let focus = self.sheet.focus.iter().map(|(id, distance)| match distance {
            1 => self.name(*id),
            distance => format!("{} {distance}", self.name(*id)),
        });
        let steps = self.sheet.follow.iter().flat_map(|f| &f.steps);
        let follow = steps.map(|s| format!("{} to {}", self.name(s.from), self.name(s.to)));
        [
            (Field::Open, self.names(&self.sheet.open)),
            (Field::Close, self.names(&self.sheet.close)),
            (Field::Focus, focus.collect()),
            (Field::Show, self.names(&self.sheet.show)),
            (Field::Hide, self.names(&self.sheet.hide)),
            (Field::Follow, follow.collect()),
        ]
    }
}

/// All that a sheet says but for its name, as one text.
pub(super) fn said(sheet: &Of<'_>) -> String {
    let (fields, constraints) = written::picture(&sheet.sheet.picture, sheet.of);
    let sorted = |list: Vec<String>| list.into_iter().collect::<BTreeSet<_>>();
    let lists = sheet.lists().map(|(_, list)| sorted(list));
    format!("{:?}", (sheet.first_fields(), fields, sorted(constraints), sheet.more_fields(), lists))
}

/// Compares two versions of one sheet.
pub(super) fn compare(old: &Of<'_>, new: &Of<'_>) -> Vec<Change> {
    let (a, b) = (old.sheet, new.sheet);
    let name = (a.name != b.name).then(|| Difference::Name { old: a.name.clone(), new: b.name.clone() });
    let differences: Vec<Difference> = name.into_iter().chain(differences(old, new)).collect();
    if differences.is_empty() { Vec::new() } else { vec![change(b, Fate::Changed, Some(a), differences)] }
}

/// What differs in two versions of a sheet, apart from its name.
fn differences(old: &Of<'_>, new: &Of<'_>) -> Vec<Difference> {
    let mut differences = Difference::fields(old.first_fields(), new.first_fields());
    differences.extend(written::pictures((&old.sheet.picture, old.of), (&new.sheet.picture, new.of)));
    differences.extend(Difference::fields(old.more_fields(), new.more_fields()));
    for ((field, then), (_, now)) in old.lists().into_iter().zip(new.lists()) {
        differences.extend(Difference::lists(field, &then, &now));
    }
    differences
}

/// A change of a sheet.
pub(super) fn change(sheet: &Sheet, fate: Fate, old: Option<&Sheet>, differences: Vec<Difference>) -> Change {
    let old_span = old.map(|old| old.span);
    Change { fate, subject: Subject::sheet(sheet), differences, span: sheet.span, old_span }
}
