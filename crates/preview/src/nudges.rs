//! What was dragged, as edits of the text.

use crate::draw::{Edit, earlier, edits};
use crate::positions::Positions;
use crate::shared::Shared;
use bathygram_core::geom::pt;
use bathygram_core::nudge::{self, Desk, Drag};
use serde::{Deserialize, Serialize};

/// What was dragged.
#[derive(Deserialize)]
pub(crate) struct Dragged {
    file: String,
    text: String,
    picture: String,
    key: String,
    /// How far, in px of the picture.
    by: (f64, f64),
    theme: Option<String>,
}

/// What is written.
#[derive(Serialize)]
pub(crate) struct Nudged {
    edits: Vec<Edit>,
    written: String,
    notes: Vec<String>,
}

/// Works out what keeps it where it was dropped.
///
/// # Errors
/// If nothing does, in a sentence.
pub(crate) fn nudge(shared: &Shared, dragged: &Dragged) -> Result<Nudged, String> {
    if !dragged.by.0.is_finite() || !dragged.by.1.is_finite() || dragged.by.0.abs().max(dragged.by.1.abs()) > 1e6 {
        return Err("it cannot be dragged so far".to_owned());
    }
    let set = shared.set(dragged.theme.as_deref())?;
    let read = |text: String| shared.read(&set.project, &dragged.file, text);
    let reading = read(dragged.text.clone());
    let kept = earlier(&set.project, &dragged.picture);
    let desk = Desk { studio: &set.studio, reading: &reading, read: &read, earlier: kept.as_ref() };
    let drag = Drag { picture: &dragged.picture, key: &dragged.key, by: pt(dragged.by.0, dragged.by.1) };
    let nudge = nudge::nudge(&desk, &drag).map_err(|why| why.to_string())?;
    let positions = Positions::new(&dragged.text);
    Ok(Nudged { edits: edits(&nudge.edits, &positions), written: nudge.written, notes: nudge.notes })
}
