//! Which of several placements a graph gets.

pub(in crate::layout) mod candidates;
pub(in crate::layout) mod effort;
pub(in crate::layout) mod report;
