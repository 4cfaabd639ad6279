//! To come.
use super::Context;
use crate::geom::Size;
use crate::model::Diagram;
use crate::scene::Item;
use crate::theme::Styles;
pub(super) fn draw(_d: &Diagram, _s: &Styles, _c: &Context<'_>) -> (Vec<Item>, Size) {
    (Vec::new(), Size::default())
}
