//! Two versions of a sheet.

use super::change::{Change, Difference, Fate, Field, Subject};
use super::written;
use crate::model::{Diagram, ElementId, Sheet};

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

/// Whether two sheets differ in nothing but their names, and show something of the same diagram.
pub(super) fn is_alike(old: &Of<'_>, new: &Of<'_>) -> bool {
    old.sheet.of == new.sheet.of && differences(old, new).is_empty()
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
    let (a, b) = (old.sheet, new.sheet);
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let number = |n: &Option<crate::source::Spanned<u32>>| n.as_ref().map(|n| n.value.to_string());
    let flag = |said: Option<crate::source::Span>| said.map(|_| "said".to_owned());
    let fields = [(Field::Of, Some(a.of.clone()), Some(b.of.clone())), (Field::Title, text(&a.title), text(&b.title))];
    let more = [
        (Field::Depth, number(&a.depth), number(&b.depth)),
        (Field::Members, Some(a.shown_members().word().to_owned()), Some(b.shown_members().word().to_owned())),
        (Field::Tell, flag(a.tell), flag(b.tell)),
        (Field::ByHosts, flag(a.by_hosts), flag(b.by_hosts)),
    ];
    let differ = |(field, then, now)| Difference::field(field, then, now);
    let mut differences: Vec<Difference> = fields.into_iter().filter_map(differ).collect();
    differences.extend(written::pictures((&a.picture, old.of), (&b.picture, new.of)));
    differences.extend(more.into_iter().filter_map(differ));
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
