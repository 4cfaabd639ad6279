//! What was dragged in a picture, as the line of text that keeps it there. Input: a reading, one of its pictures, and how far
//! something in it was moved. Output: [`TextEdit`](crate::source::TextEdit)s, and sentences about what they do.
//!
//! What is dragged into another group or lane is written there. A party of a sequence changes the order of the parties. Anything
//! else gets the smallest statement that keeps it where it was dropped: statements are tried in turn, each is drawn, and the
//! first counts that is kept, brings the element to its place, and moves nothing else. A pin is the last of them.

mod desk;
mod membership;
mod parties;
mod scene;
mod statements;
mod trial;
mod writing;

pub use desk::{Desk, Drag, Nudge, Refused, STEP};

use crate::model::DiagramKind;
use scene::Scene;

/// What a drag writes.
///
/// # Errors
/// If nothing can be written that keeps the element there.
pub fn nudge(desk: &Desk<'_>, drag: &Drag<'_>) -> Result<Nudge, Refused> {
    let scene = Scene::of(desk, drag).ok_or(Refused::Gone)?;
    if drag.by.x.abs().max(drag.by.y.abs()) < 1.0 {
        return Err(Refused::Still);
    }
    if scene.shown.kind == DiagramKind::Sequence {
        return parties::nudge(desk, &scene, drag);
    }
    let own = *scene.before.places.boxes().get(drag.key).ok_or(Refused::Fixed(
        "what stands beside something else, such as a remark, follows it; drag what it belongs to",
    ))?;
    let dropped = own.moved(drag.by.x, drag.by.y);
    if let Some(home) = membership::other_home(&scene, drag.key, dropped.middle()) {
        return membership::moved(desk, &scene, home);
    }
    statements::nudge(desk, &scene, drag.key, dropped)
}
