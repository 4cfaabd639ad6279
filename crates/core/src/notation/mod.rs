//! How things look. Input: a view with the rules of its file. Output: a [`Drawing`](crate::scene::Drawing). Shapes come first
//! (labels wrapped, sizes fixed), then the layout places them, then they are drawn.

mod class;
mod context;
mod drawn;
mod ends;
mod figure;
mod frame;
mod graph;
mod icons;
mod in_the_way;
mod label;
mod legend;
pub mod pictogram;
mod picture;
mod sequence;
mod shaper;
mod symbol;
mod tags;
mod text;
mod words;

pub use context::Context;
pub use graph::given;
pub use icons::icons;
pub use picture::draw;
pub use words::{describe, name, says, sentence};
