//! Parties of a sequence: dragging one changes their order.

use super::desk::{Desk, Drag, Nudge, Refused};
use super::scene::{Scene, frame_of};
use super::trial::Trial;
use super::writing;
use crate::model::{Constraint, ElementId, Placing, WrittenConstraint};
use crate::scene::Drawing;

/// Writes the order in which the parties stand now.
pub(super) fn nudge(desk: &Desk<'_>, scene: &Scene<'_>, drag: &Drag<'_>) -> Result<Nudge, Refused> {
    let mut order = parties(scene, &scene.before);
    let at = order.iter().position(|(_, key, _)| key == drag.key).ok_or(Refused::Fixed(
        "messages and what belongs to them follow the order of the text; parties can be dragged",
    ))?;
    order[at].2 += drag.by.x;
    let before: Vec<ElementId> = order.iter().map(|(id, ..)| *id).collect();
    order.sort_by(|a, b| a.2.total_cmp(&b.2));
    let wanted: Vec<ElementId> = order.iter().map(|(id, ..)| *id).collect();
    if wanted == before {
        return Err(Refused::Still);
    }
    let to = wanted.iter().position(|id| *id == scene.id).unwrap_or(0);
    for (constraint, instead) in candidates(scene, &wanted, to, to > at) {
        let statement = writing::written(scene, &constraint);
        let Some(edit) = writing::statement(desk, scene, &statement, instead) else { continue };
        let edits = vec![edit];
        let Some(trial) = Trial::of(desk, scene.picture.name, &edits) else { continue };
        let keys = |order: Vec<(ElementId, String, f64)>| order.into_iter().map(|(_, key, _)| key).collect::<Vec<_>>();
        if trial.keeps(&statement) && keys(parties(scene, &trial.drawing)) == keys(order.clone()) {
            let lost = trial.lost(desk, scene);
            let notes = lost.iter().map(|line| format!("`{line}` no longer holds")).collect();
            return Ok(Nudge { edits, written: statement, notes });
        }
    }
    Err(Refused::Fixed("the parties cannot stand in that order: other lines ask for another one"))
}

/// The parties from left to right, with where they stand.
fn parties(scene: &Scene<'_>, drawing: &Drawing) -> Vec<(ElementId, String, f64)> {
    let all = scene.diagram.ids().filter(|(_, element)| !element.kind.is_box());
    let found =
        all.filter_map(|(id, element)| Some((id, element.key.clone(), frame_of(drawing, &element.key)?.middle().x)));
    let mut found: Vec<_> = found.collect();
    found.sort_by(|a, b| a.2.total_cmp(&b.2));
    found
}

/// Statements that may give that order, the smallest first, each with the one in whose place it stands.
fn candidates<'a>(
    scene: &Scene<'a>, wanted: &[ElementId], to: usize, went_right: bool,
) -> Vec<(Constraint, Option<&'a WrittenConstraint>)> {
    let own = writing::own_constraints(scene);
    let mut found = Vec::new();
    // What says where it stands says so again.
    let order = own.iter().find(|w| matches!(&w.constraint, Constraint::Order(ids) if ids.contains(&scene.id)));
    if let Some(Constraint::Order(ids)) = order.map(|written| &written.constraint) {
        let sorted = wanted.iter().copied().filter(|id| ids.contains(id)).collect();
        found.push((Constraint::Order(sorted), order));
    }
    let place = own.iter().find(|w| matches!(w.constraint, Constraint::Place(id, ..) if id == scene.id));
    let left = to.checked_sub(1).and_then(|at| wanted.get(at));
    let right = wanted.get(to + 1);
    let beside_left = left.map(|id| (Constraint::Place(scene.id, Placing::RightOf, *id), place));
    let beside_right = right.map(|id| (Constraint::Place(scene.id, Placing::LeftOf, *id), place));
    if went_right {
        found.extend(beside_left.into_iter().chain(beside_right));
    } else {
        found.extend(beside_right.into_iter().chain(beside_left));
    }
    found.push((Constraint::Order(wanted.to_vec()), order));
    found
}
