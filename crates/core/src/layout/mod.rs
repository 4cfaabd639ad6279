//! Where things go. Input: a [`Graph`] of sizes, or a [`sequence::Chart`]. Output: a [`Placement`]:
//! rectangles and lines in px. Pure geometry: it knows no kinds of elements and no styles.
//!
//! Guarantees: every node and edge is placed, no coordinate is NaN, the same input gives the same
//! output. Drawing is left to the notation.
//!
//! The rooms, each of which uses only those above it:
//!
//! 1. what is given and found: [`graph`], [`route`], [`placement`], [`earlier`], `orientation`, `outline`
//! 2. tools: `sets`, `simplex`, `separation`, `neighbourhood`, `intersections`, `precedence`, and [`score`], by which
//!    every choice is made
//! 3. `routing`: lines and their texts, around obstacles, and through channels between boxes
//! 4. `refine`: what makes a finished placement better: compaction, straightening, folding, packing
//! 5. `arrange`: layers, trees, rings, springs, rows, groups on their own, sequences
//! 6. `constraints`: what was asked for, on a finished placement: earlier places, pins, borders
//! 7. `select`: the candidates of a graph, and the best of them

pub mod arrange;
mod constraints;
pub mod earlier;
pub mod graph;
mod intersections;
mod neighbourhood;
mod orientation;
mod outline;
pub mod placement;
mod precedence;
mod refine;
pub mod route;
mod routing;
pub mod score;
mod select;
mod separation;
mod sets;
mod simplex;

pub use arrange::{layered, sequence};
pub use constraints::border::onto_frames;
pub use earlier::Earlier;
pub use graph::{
    Anchor, Arrangement, BackEdges, Border, Directed, Edge, Face, Graph, Group, LabelAt, Node, PlacementConstraint,
    Placing, RankDirection, Routing, Share, Stems,
};
pub use outline::{Outline, Side};
pub use placement::{Piece, Placement};
pub use route::Route;
pub use select::candidates::{Laid, place, place_with};
pub use select::effort::Effort;
pub use select::report::{Dropped, Keeping, Report};
