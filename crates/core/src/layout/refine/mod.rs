//! What makes a finished placement better without arranging it again. Input and output: a placement.

pub(in crate::layout) mod compaction;
pub(in crate::layout) mod folding;
pub(in crate::layout) mod packing;
pub(in crate::layout) mod repair;
pub(in crate::layout) mod straightening;
