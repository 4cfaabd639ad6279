//! A drawn picture as a value: every output starts from it.

use super::items::Scene;
use super::places::Places;
use crate::layout::Report;
use crate::model::Unmet;

/// A drawn picture, before it has colours and a form.
#[derive(Clone, Debug)]
pub struct Drawing {
    /// What is painted.
    pub scene: Scene,
    /// Where everything is.
    pub places: Places,
    /// How the layout came about; `None` for a sequence, whose columns and rows follow from time.
    pub report: Option<Report>,
    /// What was asked of the layout, and is not kept.
    pub unmet: Vec<Unmet>,
}
