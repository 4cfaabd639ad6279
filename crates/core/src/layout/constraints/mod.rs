//! What was asked for, worked into a finished placement, and what of it could not be kept.

pub(in crate::layout) mod border;
pub(in crate::layout) mod changes;
mod frames;
pub(in crate::layout) mod keep;
pub(in crate::layout) mod pins;
pub(in crate::layout) mod unmet;
