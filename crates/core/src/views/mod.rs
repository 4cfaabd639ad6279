//! Views: what one picture shows of a diagram. Input: a diagram, and a sheet or a level of a stack. Output: a [`View`], its own
//! type. What is hidden inside a closed element is lifted: its relations become relations of the nearest visible element
//! around it, and several become one.

mod crowding;
mod hosts;
mod lift;
mod lifting;
mod stack;
mod view;
mod visible;

pub use crowding::Crowding;
pub use lift::{shows_nothing, whole};
pub use stack::{StackLevel, file_name, stack};
pub use view::{ElementView, RelationView, View};

use crate::model::{Diagram, Sheet, ShownMembers};

/// What a sheet shows.
pub fn lift(diagram: &Diagram, sheet: &Sheet) -> View {
    if sheet.by_hosts.is_some() {
        return hosts::by_hosts(diagram, sheet);
    }
    let mut view = lift::lift(diagram, sheet);
    let bodies = view.diagram.elements.iter_mut().filter_map(|e| e.class.as_mut());
    for body in bodies.filter(|_| sheet.shown_members() != ShownMembers::All) {
        body.compartments.iter_mut().for_each(|c| c.members.retain(|m| sheet.shown_members().shows(m)));
        body.compartments.retain(|c| !c.members.is_empty());
    }
    view
}
