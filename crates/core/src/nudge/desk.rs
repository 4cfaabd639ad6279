//! What a nudge is worked out with, and what comes of it.

use crate::geom::Point;
use crate::pipeline::{Reading, Studio};
use crate::scene::Places;
use crate::source::TextEdit;

/// How far something else may move, and something dropped stand from where it was dropped, in px: a step of the grid.
pub const STEP: f64 = 8.0;

/// What a nudge is worked out with.
pub struct Desk<'a> {
    /// Themes, fonts, and so on.
    pub studio: &'a Studio,
    /// The text as it is.
    pub reading: &'a Reading,
    /// Reads another text in its place.
    pub read: &'a (dyn Fn(String) -> Reading + 'a),
    /// Where an earlier picture, which is kept, has its elements.
    pub earlier: Option<&'a Places>,
}

/// What was dragged.
#[derive(Clone, Copy, Debug)]
pub struct Drag<'a> {
    /// The name of the picture.
    pub picture: &'a str,
    /// The key of the element.
    pub key: &'a str,
    /// How far it was moved, in px of the picture.
    pub by: Point,
}

/// What is written because of a drag.
#[derive(Clone, Debug, PartialEq)]
pub struct Nudge {
    /// The edits, to be made at once.
    pub edits: Vec<TextEdit>,
    /// The statement that is written, or the line that stands elsewhere now.
    pub written: String,
    /// What else there is to say: why it is not quite where it was dropped, or what no longer holds.
    pub notes: Vec<String>,
}

/// Why nothing is written.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// The text has another picture by now.
    #[error("the text has changed since this was drawn; drag it once more")]
    Gone,
    /// It was hardly moved.
    #[error("it stays where it is")]
    Still,
    /// Its place follows from something else.
    #[error("{0}")]
    Fixed(&'static str),
    /// It is written in another file.
    #[error("it is declared in {0}; move it there")]
    Elsewhere(String),
    /// The text would mean something else.
    #[error("its line cannot be moved there without changing what else it says")]
    Meaning,
    /// There is no room near that place.
    #[error("there is no room for it there: other things would have to move, or lines would run through them")]
    NoRoom,
}
