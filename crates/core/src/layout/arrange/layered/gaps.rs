//! Room between the things of layers, in px: what several stages share.

/// Room between neighbours of a layer, in px.
// A line between two boxes with 9 px at both sides, and a little air.
pub(super) const NODE_GAP: f64 = 32.0;
/// Room between a line and its neighbours.
// A little more than the pitch, so that a line beside a box is not taken for its side.
pub(super) const LINE_GAP: f64 = 14.0;
/// Room between two lines in a channel.
pub(super) const TRACK: f64 = 12.0;
/// Room between neighbouring lines at a node.
pub(super) const PORT_GAP: f64 = 16.0;
/// Room to the left of a line with a text at its end, and to the right of the text.
pub(super) const END_LEFT: f64 = 2.0;
pub(super) const END_RIGHT: f64 = 6.0;
/// Room between a node's corner and its outermost line.
pub(super) const CORNER: f64 = 8.0;
/// Lines closer than this would look like one.
// Half a pitch.
pub(super) const CLOSE: f64 = 6.0;
