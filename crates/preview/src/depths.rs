//! Pictures by name: those of the text, and the insides of elements that no sheet of the text shows. These are called after
//! their diagram and the element: `tidewatch/core.gateway`.

use bathygram_core::model::{Diagram, DiagramKind};
use bathygram_core::pipeline::{Picture, Reading};
use bathygram_core::scene::{Drawing, Item, Tag};
use bathygram_core::views::{StackLevel, stack};
use std::collections::BTreeMap;

/// Between the name of a diagram and that of an inside; no name of a picture has it.
const INSIDE: char = '/';

/// Does something with the picture of a name; `None` if there is none.
pub(crate) fn with_picture<T>(reading: &Reading, name: &str, act: impl FnOnce(Picture<'_>) -> T) -> Option<T> {
    if let Some(picture) = reading.pictures().find(|picture| picture.name == name) {
        return Some(act(picture));
    }
    let (block, level) = name.split_once(INSIDE)?;
    let diagram = diagram(reading, block)?;
    let levels = stack(diagram);
    let picture = Picture::of_stack(diagram, &levels).find(|picture| picture.name == level)?;
    Some(act(picture))
}

fn diagram<'r>(reading: &'r Reading, name: &str) -> Option<&'r Diagram> {
    let all = reading.document.diagrams.iter().chain(reading.document.imports.diagrams());
    all.filter(|diagram| diagram.kind == DiagramKind::Architecture).find(|diagram| diagram.name == name)
}

/// Leads elements to their insides: to a sheet of the text if one shows it, else to a picture of its own.
pub(crate) fn lead_inside(reading: &Reading, picture: &Picture<'_>, drawing: &mut Drawing) {
    let own = picture.diagram();
    if own.kind != DiagramKind::Architecture {
        return picture.lead_inside(reading, drawing);
    }
    let levels = stack(own);
    let is_level = reading.pictures().all(|p| p.name != picture.name);
    // Levels lead to each other by the names of their files.
    for item in &mut drawing.scene.items {
        if let Item::Group(Tag::Element { opens, .. }, _) = item {
            *opens = opens.take().filter(|_| is_level).map(|level| address(own, &levels, &level));
        }
    }
    picture.lead_inside(reading, drawing);
    let view = picture.view();
    let closed = view.diagram.ids().filter(|(id, _)| view.element(*id).has_more).map(|(_, e)| e.key.clone());
    let closed: Vec<String> = closed.collect();
    let inside: BTreeMap<&str, &StackLevel> =
        levels.iter().filter_map(|level| Some((own.element(level.inside?).key.as_str(), level))).collect();
    for item in &mut drawing.scene.items {
        if let Item::Group(Tag::Element { id, opens, .. }, _) = item
            && opens.is_none()
            && closed.contains(id)
        {
            *opens = inside.get(id.as_str()).map(|level| address(own, &levels, &level.name));
        }
    }
}

/// What a level is called here; the outermost one is the diagram's own picture.
fn address(diagram: &Diagram, levels: &[StackLevel], level: &str) -> String {
    match levels.first().is_some_and(|top| top.name == level) {
        true => diagram.name.clone(),
        false => format!("{}{INSIDE}{level}", diagram.name),
    }
}
