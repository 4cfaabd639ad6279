//! Which of several placements a graph gets.

pub(in crate::layout) mod candidates;
