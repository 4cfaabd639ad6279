//! Distances between lines, and between lines and what they pass.

/// Distance between two lines side by side, in px.
pub(in crate::layout) const PITCH: f64 = 12.0;
/// Room between a line and what it passes.
pub(in crate::layout) const CLEAR: f64 = 9.0;
/// Room between a label on a line and the next line.
pub(super) const TEXT_CLEAR: f64 = 4.0;
/// Room between a line and the corner of the side at which it ends.
pub(super) const CORNER: f64 = 10.0;
