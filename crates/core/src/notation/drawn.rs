//! A picture without its title, legend and caption.

use crate::geom::Size;
use crate::layout::Report;
use crate::model::Unmet;
use crate::scene::{Item, Places};

/// What is drawn of a diagram itself, from its own left top corner.
pub(super) struct Drawn {
    pub(super) items: Vec<Item>,
    pub(super) size: Size,
    pub(super) places: Places,
    pub(super) report: Option<Report>,
    pub(super) unmet: Vec<Unmet>,
    /// Whether frames show how deep they lie.
    pub(super) has_depths: bool,
}
