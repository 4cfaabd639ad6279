//! The way of one line over the lattice.

use crate::layout::outline::Side;

/// The way of one edge: places of the lattice from its first to its last, with a corner wherever it turns.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Way {
    /// Column and row of the first place, of all corners, and of the last place.
    pub(super) places: Vec<(usize, usize)>,
    /// The sides at which it leaves and arrives.
    pub(super) sides: [Side; 2],
    /// Which way lines leave there.
    pub(super) headings: [Side; 2],
}
