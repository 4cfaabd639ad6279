//! What one candidate of the layered arrangement does differently from another.

/// Up to this many edges that is tried.
pub(super) const REPAIRED_EDGES: usize = 1_000;

/// Which way lines lead from layer to layer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::layout) enum Directions {
    /// As they were written, but for circles.
    Written,
    /// Away from the node with the most lines.
    FromHub,
    /// Away from the node with the shortest ways to all others.
    FromMiddle,
}

/// How much time is taken over places.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Care {
    /// Enough to see where lines run into things.
    Draft,
    /// As much as the picture deserves.
    Full,
}

/// What one candidate does differently from another.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LayeredOptions {
    /// How much the height of groups, in layers, weighs against the length of lines.
    pub(super) group_weight: i64,
    /// The widest that a layer may be, in px, where layers are folded.
    pub(super) width: Option<f64>,
    /// How many rows the outermost groups form, where they do not stand as their lines would have them.
    pub(super) rows: Option<usize>,
    /// Which way lines lead.
    pub(super) directions: Directions,
    /// Whether everything moves together where there are no groups too.
    pub(super) closer: bool,
    /// Whether lines from lane to lane run level where they can.
    pub(super) level: bool,
}

impl Default for LayeredOptions {
    fn default() -> Self {
        Self { group_weight: 3, width: None, rows: None, directions: Directions::Written, closer: false, level: false }
    }
}
