//! The picture in which something was dragged, as it is drawn before.

use super::desk::{Desk, Drag};
use crate::geom::{Point, Rect, pt};
use crate::model::{Constraint, Diagram, ElementId};
use crate::pipeline::{self, DrawOptions, Picture, Reading};
use crate::scene::{Drawing, Item, Role, Tag};

/// Draws a picture as `render` does.
pub(super) fn draw(desk: &Desk<'_>, reading: &Reading, picture: &Picture<'_>) -> Drawing {
    let options = DrawOptions { earlier: desk.earlier, share: picture.share(), ..DrawOptions::default() };
    pipeline::draw(desk.studio, reading, &picture.view(), &options)
}

/// How far things stand from where pins are measured from: pins left of 0 or above it move the whole picture.
pub(super) fn origin(shown: &Diagram, drawing: &Drawing) -> Point {
    let boxes = drawing.places.boxes();
    let off = shown.picture.constraints.iter().filter_map(|written| {
        let Constraint::Pin(id, x, y) = written.constraint else { return None };
        let is_unmet = drawing.unmet.iter().any(|unmet| unmet.span == written.span);
        let middle = boxes.get(shown.element(id).key.as_str()).filter(|_| !is_unmet)?.middle();
        Some(pt(libm::round(middle.x - x), libm::round(middle.y - y)))
    });
    off.into_iter().next().unwrap_or_default()
}

/// The outline of an element as it is drawn.
pub(super) fn frame_of(drawing: &Drawing, key: &str) -> Option<Rect> {
    let mut work: Vec<&Item> = drawing.scene.items.iter().rev().collect();
    while let Some(item) = work.pop() {
        let Item::Group(tag, inner) = item else { continue };
        if !matches!(tag, Tag::Element { id, .. } if id == key) {
            work.extend(inner.iter().rev());
            continue;
        }
        let frame = inner.iter().find_map(|item| match item {
            Item::Path { path, role: Some(Role::Frame), .. } => path.bounds(),
            _ => None,
        });
        let any = inner.iter().find_map(|item| if let Item::Path { path, .. } = item { path.bounds() } else { None });
        return frame.or(any);
    }
    None
}

/// The picture in which something was dragged.
pub(super) struct Scene<'a> {
    pub(super) picture: Picture<'a>,
    /// What it shows.
    pub(super) shown: Diagram,
    /// The diagram as it is written.
    pub(super) diagram: &'a Diagram,
    /// The dragged element, in the diagram as it is written.
    pub(super) id: ElementId,
    pub(super) before: Drawing,
    /// How far it is drawn from where the layout would have it without the things that lie left of it and above.
    pub(super) origin: Point,
}

impl<'a> Scene<'a> {
    pub(super) fn of(desk: &Desk<'a>, drag: &Drag<'_>) -> Option<Self> {
        let picture = desk.reading.pictures().find(|picture| picture.name == drag.picture)?;
        let shown = picture.view().diagram;
        let diagram = picture.diagram();
        let (id, _) = diagram.ids().find(|(_, element)| element.key == drag.key)?;
        shown.ids().find(|(_, element)| element.key == drag.key)?;
        let before = draw(desk, desk.reading, &picture);
        let origin = origin(&shown, &before);
        Some(Self { picture, shown, diagram, id, before, origin })
    }

    /// The element in what is shown.
    pub(super) fn shown_id(&self, key: &str) -> Option<ElementId> {
        self.shown.ids().find(|(_, element)| element.key == key).map(|(id, _)| id)
    }

    /// Whether an element lies in another, or is it.
    pub(super) fn lies_in(&self, key: &str, holder: &str) -> bool {
        let lies = |id| self.shown.ancestors(id).any(|own| self.shown.element(own).key == holder);
        key == holder || self.shown_id(key).is_some_and(lies)
    }

    /// Boxes that a dragged element must not stand on.
    pub(super) fn obstacles(&self, key: &str) -> Vec<Rect> {
        let places = &self.before.places;
        let nodes = places.nodes.iter().filter(|(own, _)| !self.lies_in(own, key));
        // What it lies in is around it.
        let groups = places.groups.iter().filter(|(own, _)| !self.lies_in(own, key) && !self.lies_in(key, own));
        nodes.chain(groups).map(|(_, rect)| *rect).collect()
    }
}
