//! Lines and their texts. Input: a placement whose nodes and groups have their places. Output: the same with routes, and
//! places for the texts on them.

pub(in crate::layout) mod channels;
mod grid;
pub(in crate::layout) mod labels;
pub(in crate::layout) mod lines;
pub(in crate::layout) mod loops;
pub(in crate::layout) mod obstacles;
mod shortest;
mod simple;
mod tracks;
