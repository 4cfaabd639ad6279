//! A text with some edits in it: read, drawn, and compared with what was.

use super::desk::{Desk, STEP};
use super::scene::{Scene, draw};
use crate::check::is_error;
use crate::geom::{Point, distance, pt};
use crate::pipeline::Reading;
use crate::scene::Drawing;
use crate::source::{TextEdit, apply};
use std::collections::BTreeMap;

/// A text that was tried.
pub(super) struct Trial {
    pub(super) reading: Reading,
    pub(super) drawing: Drawing,
}

impl Trial {
    /// Reads and draws the text with some edits; `None` if it has errors that it had not, or no such picture.
    pub(super) fn of(desk: &Desk<'_>, name: &str, edits: &[TextEdit]) -> Option<Self> {
        let errors = |reading: &Reading| reading.diagnostics.iter().filter(|d| is_error(d)).count();
        let reading = (desk.read)(apply(&desk.reading.source, edits).ok()?);
        if errors(&reading) > errors(desk.reading) {
            return None;
        }
        let drawing = draw(desk, &reading, &reading.pictures().find(|picture| picture.name == name)?);
        Some(Self { reading, drawing })
    }

    /// Whether a statement of the text is kept.
    pub(super) fn keeps(&self, statement: &str) -> bool {
        !self.drawing.unmet.iter().any(|unmet| self.reading.source.slice(unmet.span) == statement)
    }

    /// What the picture kept before and keeps no longer, as it is written.
    pub(super) fn lost(&self, desk: &Desk<'_>, scene: &Scene<'_>) -> Vec<String> {
        let before: Vec<&str> = scene.before.unmet.iter().map(|unmet| desk.reading.source.slice(unmet.span)).collect();
        let now = self.drawing.unmet.iter().map(|unmet| self.reading.source.slice(unmet.span).to_owned());
        now.filter(|written| !before.contains(&written.as_str())).collect()
    }

    /// How far the element stands from where it was dropped, and how far the one that moved most of all others did, in px.
    /// What all others have in common is no move: the picture may begin elsewhere.
    pub(super) fn moves(&self, scene: &Scene<'_>, key: &str, dropped: Point) -> Option<Moves> {
        let (before, after) = (scene.before.places.boxes(), self.drawing.places.boxes());
        let is_other = |own: &str| !scene.lies_in(own, key) && !scene.lies_in(key, own);
        let deltas: BTreeMap<&str, Point> = before
            .iter()
            .filter(|(own, _)| is_other(own))
            .filter_map(|(own, rect)| Some((*own, difference(after.get(own)?.middle(), rect.middle()))))
            .collect();
        let shift = pt(median(deltas.values().map(|d| d.x)), median(deltas.values().map(|d| d.y)));
        let others = deltas.values().map(|delta| distance(*delta, shift)).fold(0.0, f64::max);
        let own = after.get(key)?.middle();
        Some(Moves { own: distance(difference(own, shift), dropped), others })
    }

    /// In how many places lines or texts lie on others.
    pub(super) fn faults(drawing: &Drawing) -> usize {
        drawing.report.as_ref().map_or(0, |report| report.faults)
    }
}

/// How far things moved, in px.
#[derive(Clone, Copy, Debug)]
pub(super) struct Moves {
    /// The dragged one, from where it was dropped.
    pub(super) own: f64,
    /// The other one that moved most.
    pub(super) others: f64,
}

impl Moves {
    pub(super) fn are_small(self) -> bool {
        self.own <= STEP && self.others <= STEP
    }
}

fn median(values: impl Iterator<Item = f64>) -> f64 {
    let mut all: Vec<f64> = values.collect();
    all.sort_by(f64::total_cmp);
    all.get(all.len() / 2).copied().unwrap_or(0.0)
}

fn difference(a: Point, b: Point) -> Point {
    pt(a.x - b.x, a.y - b.y)
}
