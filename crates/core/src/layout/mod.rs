//! Where things go. Input: a [`Graph`] of sizes, or a [`sequence::Chart`]. Output: a [`Placement`]:
//! rectangles and lines in px. Pure geometry: it knows no kinds of elements and no styles.
//!
//! Guarantees: every node and edge is placed, no coordinate is NaN, the same input gives the same
//! output. Drawing is left to the notation.

mod apart;
mod around;
mod blocks;
mod border;
mod boxes;
mod cells;
mod columns;
mod compact;
mod force;
pub mod graph;
mod keep;
mod labels;
pub mod layered;
mod lines;
mod loops;
mod pack;
mod pins;
mod portfolio;
mod radial;
pub mod score;
mod separate;
pub mod sequence;
mod sets;
mod simplex;
mod straighten;
mod tree;
mod wishes;

pub use border::onto_frames;
pub use graph::{
    Anchor, Arrangement, BackEdges, Border, Directed, Edge, Face, Graph, Group, LabelAt, Node, Outline, Piece,
    Placement, Placing, Reading, Route, Routing, Side, Wish,
};
pub use keep::Earlier;
pub use portfolio::{Effort, Laid, Report, place, place_with};
