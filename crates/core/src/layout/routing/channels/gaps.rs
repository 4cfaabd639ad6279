//! Distances between lines, and between lines and what they pass.

/// Distance between two lines side by side, in px.
// Two arrow heads of 8 px side by side, with half of one between them.
pub(in crate::layout) const PITCH: f64 = 12.0;
/// Room between a line and what it passes.
// With it two lines and their pitch fit into the usual gap between two boxes.
pub(in crate::layout) const CLEAR: f64 = 9.0;
/// Room between a label on a line and the next line.
pub(super) const TEXT_CLEAR: f64 = 4.0;
/// Room between a line and the corner of the side at which it ends.
// Corners of boxes are rounded by 8 px: a line there would end in the air.
pub(super) const CORNER: f64 = 10.0;
