//! The arrangements. Input: a graph, or a chart of a sequence. Output: a placement, lines included.

pub(in crate::layout) mod apart;
pub(in crate::layout) mod boxes;
mod fans;
pub(in crate::layout) mod force;
pub(in crate::layout) mod free;
pub mod layered;
pub(in crate::layout) mod nested;
pub(in crate::layout) mod radial;
pub(in crate::layout) mod rows;
pub mod sequence;
pub(in crate::layout) mod serpentine;
pub(in crate::layout) mod tree;
