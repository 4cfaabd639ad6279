//! Generated texts on which the layout is measured. Output: [`Sample`]s, the same on every machine:
//! all chance comes from [`Dice`].
//!
//! Families are the shapes that people draw (flows, nested architectures, lanes, trees) and those whose best drawing is
//! known (complete bipartite graphs, grids, series-parallel graphs, random layers).

mod dice;
mod edits;
mod flows;
pub mod gallery;
mod graphs;
mod nested;
pub mod processes;
pub mod scale;
mod shapes;

pub use dice::Dice;
pub use edits::{Edit, edits};
pub use graphs::{Layered, random_layers};

/// A text of the corpus.
#[derive(Clone, Debug)]
pub struct Sample {
    /// The shape it stands for.
    pub family: &'static str,
    /// Which one of its family.
    pub name: String,
    /// The text.
    pub text: String,
}

/// All samples, family by family.
pub fn samples() -> Vec<Sample> {
    [graphs::samples(), flows::samples(), nested::samples(), shapes::samples()].concat()
}
