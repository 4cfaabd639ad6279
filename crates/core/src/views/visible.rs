//! Which elements of a diagram a sheet shows, and which of them are only around what it is about.
//!
//! Parents come before what they hold in the list of elements, so each question is answered in one pass. Cost: linear in
//! elements, and in relations for each step of distance from a focus.

use crate::model::{Diagram, ElementId, ElementKind, Sheet, Verb};

/// For each element of a diagram, an answer.
pub(super) type Each<T> = Vec<T>;

/// An answer for each element that may follow from that of what holds it.
pub(super) fn downward<T: Clone>(diagram: &Diagram, mut of: impl FnMut(ElementId, Option<&T>) -> T) -> Each<T> {
    let mut all: Each<T> = Vec::with_capacity(diagram.elements.len());
    for (id, element) in diagram.ids() {
        let answer = of(id, element.parent.map(|p| &all[p.index()]));
        all.push(answer);
    }
    all
}

/// Whether elements belong to the second tree, of zones and hosts.
pub(super) fn hosting(diagram: &Diagram) -> Each<bool> {
    downward(diagram, |id, parent| {
        matches!(diagram.element(id).kind, ElementKind::Zone | ElementKind::Host) || parent.copied().unwrap_or(false)
    })
}

/// What a sheet shows.
pub(super) struct Shown {
    /// Which elements.
    pub(super) elements: Each<bool>,
    /// In a sheet with a focus, the elements whose relations it shows: those in focus, and what is less far from them than
    /// the sheet reaches. What is between others says nothing of the focus.
    pub(super) leading: Option<Each<bool>>,
}

/// What a sheet shows.
pub(super) fn visible(diagram: &Diagram, sheet: &Sheet) -> Shown {
    let boxed = |id: ElementId| diagram.element(id).kind.is_box();
    let mut shown = if sheet.shows_only_a_set() { vec![false; diagram.elements.len()] } else { opened(diagram, sheet) };
    sheet.show.iter().for_each(|id| shown[id.index()] = true);
    if sheet.shows_only_a_set() {
        // With what the boxes among them hold, and the boxes around them.
        let named = shown.clone();
        let held = downward(diagram, |id, parent: Option<&bool>| {
            let holder = diagram.element(id).parent.filter(|p| boxed(*p));
            holder.is_some_and(|p| named[p.index()] || parent.copied().unwrap_or(false))
        });
        shown.iter_mut().zip(held).for_each(|(s, is_held)| *s |= is_held);
        for id in &sheet.show {
            diagram.ancestors(*id).take_while(|a| boxed(*a)).for_each(|a| shown[a.index()] = true);
        }
    }
    let mut leading = None;
    if !sheet.focus.is_empty() {
        let (kept, leads) = in_focus(diagram, sheet, &shown);
        shown.iter_mut().zip(kept).for_each(|(s, k)| *s &= k);
        leading = Some(leads);
    }
    if let Some(followed) = &sheet.follow {
        let mut reached = vec![false; diagram.elements.len()];
        for id in followed.steps.iter().flat_map(|s| [s.from, s.to]).chain(sheet.show.iter().copied()) {
            with_around(diagram, id, &mut reached);
        }
        shown.iter_mut().zip(reached).for_each(|(s, r)| *s &= r);
    }
    if !sheet.hide.is_empty() {
        let hidden = within(diagram, sheet.hide.iter().copied());
        shown.iter_mut().zip(hidden).for_each(|(s, h)| *s &= !h);
    }
    Shown { elements: shown, leading }
}

/// What is shown by depth, and by what is open or closed.
fn opened(diagram: &Diagram, sheet: &Sheet) -> Each<bool> {
    let mut open = vec![false; diagram.elements.len()];
    sheet.open.iter().for_each(|id| with_around(diagram, *id, &mut open));
    // What is in focus is seen.
    sheet.focus.iter().flat_map(|(id, _)| diagram.ancestors(*id)).for_each(|a| open[a.index()] = true);
    let boxed = |id: ElementId| diagram.element(id).kind.is_box();
    let unless_said = if sheet.open.is_empty() && sheet.focus.is_empty() { u32::MAX } else { 1 };
    let levels = sheet.depth.as_ref().map_or(unless_said, |depth| depth.value);
    // How deep what lies in an element is, and whether its inside is shown.
    let inside = downward(diagram, |id, parent: Option<&(u32, bool)>| {
        let (level, is_shown) = parent.copied().unwrap_or((0, true));
        let is_open = boxed(id) || open[id.index()] || level + 1 < levels;
        (level + u32::from(!boxed(id)), is_shown && is_open && !sheet.close.contains(&id))
    });
    let hosting = hosting(diagram);
    let is_shown = |parent: Option<ElementId>| parent.is_none_or(|p| inside[p.index()].1);
    diagram.ids().map(|(id, element)| is_shown(element.parent) && !hosting[id.index()]).collect()
}

/// What lies in any of these, and they themselves.
fn within(diagram: &Diagram, ids: impl Iterator<Item = ElementId>) -> Each<bool> {
    let mut own = vec![false; diagram.elements.len()];
    ids.for_each(|id| own[id.index()] = true);
    downward(diagram, |id, parent| own[id.index()] || parent.copied().unwrap_or(false))
}

/// Marks an element and all that is around it.
fn with_around(diagram: &Diagram, id: ElementId, marked: &mut [bool]) {
    marked[id.index()] = true;
    diagram.ancestors(id).for_each(|a| marked[a.index()] = true);
}

/// For each element, the nearest one that is shown: itself, or one around it.
pub(super) fn nearest(diagram: &Diagram, shown: &[bool]) -> Each<Option<ElementId>> {
    downward(diagram, |id, parent| if shown[id.index()] { Some(id) } else { parent.copied().flatten() })
}

/// The elements in focus, what they touch within their distance, and what is around those; and which of them lead on.
fn in_focus(diagram: &Diagram, sheet: &Sheet, shown: &[bool]) -> (Each<bool>, Each<bool>) {
    let near = nearest(diagram, shown);
    let mut kept = vec![false; diagram.elements.len()];
    let mut leading = kept.clone();
    for (focus, distance) in &sheet.focus {
        let mut reached = within(diagram, std::iter::once(*focus));
        for _ in 0..*distance {
            let before = reached.clone();
            let is_in = |id: Option<ElementId>| id.is_some_and(|id| before[id.index()]);
            // What must not be is no neighbour.
            for relation in diagram.relations.iter().filter(|r| r.verb != Verb::NeverUses) {
                let ends = [near[relation.from.index()], near[relation.to.index()]];
                if is_in(ends[0]) || is_in(ends[1]) {
                    ends.into_iter().flatten().for_each(|id| reached[id.index()] = true);
                }
            }
            leading.iter_mut().zip(&before).for_each(|(l, b)| *l |= b);
            if before == reached {
                break;
            }
        }
        let reached = (0..).map(ElementId).zip(reached).filter(|(_, is_reached)| *is_reached);
        reached.for_each(|(id, _)| with_around(diagram, id, &mut kept));
    }
    (kept, leading)
}

/// Which elements are only around what a sheet is about: neither in focus or opened, nor in or around such an element.
pub(super) fn context(diagram: &Diagram, sheet: &Sheet) -> Each<bool> {
    let focused = sheet.focus.iter().map(|(id, _)| *id);
    let opened = sheet.open.iter().copied().filter(|_| sheet.depth.is_none() && sheet.focus.is_empty());
    let subjects: Vec<ElementId> = focused.chain(opened).collect();
    if subjects.is_empty() {
        return vec![false; diagram.elements.len()];
    }
    let mut about = within(diagram, subjects.iter().copied());
    subjects.into_iter().for_each(|id| with_around(diagram, id, &mut about));
    about.into_iter().map(|is_about| !is_about).collect()
}
