//! Two versions of a sheet.

use super::{Change, Fate, differ, lists_differ, picture, whole_sheet};
use crate::model::{Diagram, ElementId, Sheet};

/// A sheet, and the diagram it is of, if that is known.
pub(super) struct Told<'a> {
    pub(super) sheet: &'a Sheet,
    pub(super) of: Option<&'a Diagram>,
}

impl Told<'_> {
    fn name(&self, id: ElementId) -> String {
        self.of.map_or(String::new(), |d| d.element(id).key.clone())
    }

    fn names(&self, ids: &[ElementId]) -> Vec<String> {
        ids.iter().map(|id| self.name(*id)).collect()
    }

    /// What it opens, closes and so on, by names.
    fn lists(&self) -> [(&'static str, Vec<String>); 6] {
        let focus = self.sheet.focus.iter().map(|(id, distance)| match distance {
            1 => self.name(*id),
            distance => format!("{} {distance}", self.name(*id)),
        });
        let steps = self.sheet.follow.iter().flatten();
        let follow = steps.map(|s| format!("{} to {}", self.name(s.from), self.name(s.to)));
        [
            ("open", self.names(&self.sheet.open)),
            ("close", self.names(&self.sheet.close)),
            ("focus", focus.collect()),
            ("show", self.names(&self.sheet.show)),
            ("hide", self.names(&self.sheet.hide)),
            ("follow", follow.collect()),
        ]
    }
}

/// Compares two versions of one sheet.
pub(super) fn compare(old: &Told<'_>, new: &Told<'_>) -> Vec<Change> {
    let (a, b) = (old.sheet, new.sheet);
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let number = |n: Option<u32>| n.map(|n| n.to_string());
    let flag = |is_on: bool| is_on.then(|| "said".to_owned());
    let mut details = Vec::new();
    differ(&mut details, "of", Some(a.of.clone()), Some(b.of.clone()));
    differ(&mut details, "title", text(&a.title), text(&b.title));
    picture(&mut details, (&a.picture, old.of), (&b.picture, new.of));
    differ(&mut details, "depth", number(a.depth), number(b.depth));
    differ(&mut details, "members", Some(a.members.word().to_owned()), Some(b.members.word().to_owned()));
    differ(&mut details, "tell", flag(a.tell), flag(b.tell));
    differ(&mut details, "by hosts", flag(a.by_hosts), flag(b.by_hosts));
    for ((word, then), (_, now)) in old.lists().into_iter().zip(new.lists()) {
        details.extend(lists_differ(word, &then, &now));
    }
    if details.is_empty() {
        return Vec::new();
    }
    let says = details.iter().map(|d| format!("sheet `{}`: {d}", b.name)).collect();
    vec![Change { details, says, ..whole_sheet(b, Fate::Changed) }]
}
