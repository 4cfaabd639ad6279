//! Sequences (UML 2.5.1, clause 17.8): parties, lifelines, messages, activations, combined fragments.
//! First a chart of sizes is made from what happens, then it is placed, then drawn.

mod paint;
mod script;

use super::context::Context;
use super::drawn::Drawn;
use crate::layout::sequence::place;
use crate::model::Diagram;
use crate::scene::Places;
use crate::theme::Styles;
use paint::Painter;
use script::Script;

/// Draws a sequence.
pub(super) fn draw(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> Drawn {
    let script = Script::write(diagram, styles, context);
    let placement = place(&script.chart);
    let size = placement.size;
    let painter = Painter { diagram, styles, context, script: &script, placement: &placement };
    let items = painter.paint();
    Drawn { items, size, places: Places::default(), report: None, unmet: Vec::new(), has_depths: false }
}
