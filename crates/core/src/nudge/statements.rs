//! Statements about where an element stands, from the smallest to a pin.

use super::desk::{Desk, Nudge, Refused, STEP};
use super::scene::Scene;
use super::trial::{Moves, Trial};
use super::writing;
use crate::geom::{Point, Rect, distance, pt};
use crate::model::{Constraint, ElementId, Heading, Placing, WrittenConstraint};
use crate::source::TextEdit;

/// What is dropped nearer to something else than this is moved away from it, in px.
// What pins clear around themselves, and room for a line.
const CLEAR: f64 = 18.0;
/// The same below the title of a frame.
const TITLE: f64 = 40.0;
/// How many places near the one where it was dropped are tried.
// Each is a whole layout.
const TRIES: usize = 6;
/// So far from where it was dropped places are searched, in steps of the grid.
const RINGS: i32 = 25;
/// Something within this many px beside another one is meant to stand beside it.
const BESIDE: f64 = 90.0;

/// What keeps an element where it was dropped.
pub(super) fn nudge(desk: &Desk<'_>, scene: &Scene<'_>, key: &str, dropped: Rect) -> Result<Nudge, Refused> {
    let faults = Trial::faults(&scene.before);
    let is_fine = |trial: &Trial, moves: &Moves| moves.are_small() && Trial::faults(&trial.drawing) <= faults;
    // 1. What the author might write.
    for constraint in candidates(scene, key, dropped) {
        let Some((statement, edits)) = write(desk, scene, &constraint, None) else { continue };
        let Some(trial) = Trial::of(desk, scene.picture.name, &edits) else { continue };
        let moves = trial.moves(scene, key, dropped.middle());
        let is_kept = trial.keeps(&statement) && trial.lost(desk, scene).is_empty();
        if is_kept && moves.is_some_and(|moves| is_fine(&trial, &moves)) {
            return Ok(Nudge { edits, written: statement, notes: Vec::new() });
        }
    }
    // 2. A pin, at the nearest place where it can stand.
    let mut second: Option<(usize, Nudge)> = None;
    for place in places(scene, key, dropped).into_iter().take(TRIES) {
        let constraint = pin(scene, place);
        let old = writing::own_constraints(scene).iter().find(|written| is_pin_of(written, scene.id));
        let Some((statement, edits)) = write(desk, scene, &constraint, old) else { continue };
        let Some(trial) = Trial::of(desk, scene.picture.name, &edits) else { continue };
        let moves = trial.moves(scene, key, place);
        let Some(moves) = moves.filter(|moves| moves.are_small() && trial.keeps(&statement)) else { continue };
        let mut notes = Vec::new();
        let off = distance(place, dropped.middle());
        if off > STEP {
            notes.push(format!("it stands {off:.0} px from where it was dropped: something else is there"));
        }
        let lost = trial.lost(desk, scene);
        notes.extend(lost.iter().map(|line| format!("`{line}` no longer holds: a pin comes first")));
        let nudge = Nudge { edits, written: statement, notes };
        if is_fine(&trial, &moves) {
            return Ok(nudge);
        }
        // A place where lines run badly is better than none.
        let more = Trial::faults(&trial.drawing);
        if second.as_ref().is_none_or(|(least, _)| more < *least) {
            second = Some((more, nudge));
        }
    }
    second.map(|(_, nudge)| nudge).ok_or(Refused::NoRoom)
}

fn write(
    desk: &Desk<'_>, scene: &Scene<'_>, constraint: &Constraint, instead: Option<&WrittenConstraint>,
) -> Option<(String, Vec<TextEdit>)> {
    let statement = writing::written(scene, constraint);
    let edit = writing::statement(desk, scene, &statement, instead)?;
    Some((statement, vec![edit]))
}

/// A pin whose middle is at a place of the picture.
fn pin(scene: &Scene<'_>, at: Point) -> Constraint {
    Constraint::Pin(scene.id, libm::round(at.x - scene.origin.x), libm::round(at.y - scene.origin.y))
}

fn is_pin_of(written: &WrittenConstraint, id: ElementId) -> bool {
    matches!(written.constraint, Constraint::Pin(own, ..) if own == id)
}

/// Statements that may say what was meant, the smallest first. What is pinned already stays so.
fn candidates(scene: &Scene<'_>, key: &str, dropped: Rect) -> Vec<Constraint> {
    if writing::own_constraints(scene).iter().any(|written| is_pin_of(written, scene.id)) {
        return Vec::new();
    }
    let boxes = scene.before.places.boxes();
    let parent = |key: &str| scene.shown_id(key).and_then(|id| scene.shown.element(id).parent);
    let own = parent(key);
    let written = |key: &str| scene.diagram.ids().find(|(_, element)| element.key == key).map(|(id, _)| id);
    let siblings = boxes.iter().filter(|(other, _)| **other != key && parent(other) == own);
    let siblings: Vec<(ElementId, Rect)> =
        siblings.filter_map(|(other, rect)| Some((written(other)?, *rect))).collect();
    let is_sideways =
        matches!(scene.shown.picture.heading.as_ref().map(|h| h.value), Some(Heading::Right | Heading::Left));
    let along = |rect: &Rect| if is_sideways { rect.middle().x } else { rect.middle().y };
    let across = |rect: &Rect| if is_sideways { rect.middle().y } else { rect.middle().x };
    let before = boxes.get(key).copied().unwrap_or(dropped);
    let mut found = Vec::new();
    // 1. Among those on its level, it stands behind another one now.
    let level = siblings.iter().filter(|(_, rect)| (along(rect) - along(&dropped)).abs() <= 2.0 * STEP);
    for (other, rect) in level.clone() {
        let was_before = across(&before) < across(rect);
        let is_before = across(&dropped) < across(rect);
        if was_before != is_before {
            found.push(Constraint::Order(if is_before { vec![scene.id, *other] } else { vec![*other, scene.id] }));
        }
    }
    // 2. It came to the level of others.
    if (along(&before) - along(&dropped)).abs() > 2.0 * STEP {
        let nearest = level
            .min_by(|a, b| (across(&a.1) - across(&dropped)).abs().total_cmp(&(across(&b.1) - across(&dropped)).abs()));
        found.extend(nearest.map(|(other, _)| Constraint::Row(vec![*other, scene.id])));
    }
    // 3. It stands beside another one.
    let beside = siblings.iter().filter_map(|(other, rect)| Some((placing(&dropped, rect)?, *other)));
    let nearest = beside.min_by(|a, b| a.0.1.total_cmp(&b.0.1));
    found.extend(nearest.map(|((placing, _), other)| Constraint::Place(scene.id, placing, other)));
    found.truncate(3);
    found
}

/// On which side of another one something stands, if it stands beside it, and how far off.
fn placing(own: &Rect, other: &Rect) -> Option<(Placing, f64)> {
    let (dx, dy) = (own.middle().x - other.middle().x, own.middle().y - other.middle().y);
    let gap = own.gap(*other);
    if dy.abs() <= STEP && gap.w <= BESIDE {
        return Some((if dx < 0.0 { Placing::LeftOf } else { Placing::RightOf }, gap.w));
    }
    if dx.abs() <= STEP && gap.h <= BESIDE {
        return Some((if dy < 0.0 { Placing::Above } else { Placing::Below }, gap.h));
    }
    None
}

/// Places where it stands on nothing else, the nearest to where it was dropped first; later ones lie further apart.
fn places(scene: &Scene<'_>, key: &str, dropped: Rect) -> Vec<Point> {
    let obstacles = scene.obstacles(key);
    let around = scene.before.places.groups.iter().filter(|(own, _)| own != key && scene.lies_in(key, own));
    let below_titles = around.map(|(_, frame)| frame.y + TITLE).fold(f64::MIN, f64::max);
    let is_free = |rect: Rect| rect.y >= below_titles && !obstacles.iter().any(|other| other.meets(rect.grown(CLEAR)));
    let mut all: Vec<(f64, Point)> = Vec::new();
    for i in -RINGS..=RINGS {
        for j in -RINGS..=RINGS {
            let by = pt(f64::from(i) * STEP, f64::from(j) * STEP);
            let rect = dropped.moved(by.x, by.y);
            if is_free(rect) {
                all.push((distance(by, Point::default()), rect.middle()));
            }
        }
    }
    all.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.x.total_cmp(&b.1.x)).then(a.1.y.total_cmp(&b.1.y)));
    // What failed at one place fails a step from it, too.
    let mut chosen: Vec<Point> = Vec::new();
    for (_, place) in all {
        let apart = STEP * (1 + chosen.len()) as f64;
        if chosen.iter().all(|other| distance(*other, place) >= apart) {
            chosen.push(place);
        }
        if chosen.len() == TRIES {
            break;
        }
    }
    chosen
}
