//! What is drawn, in absolute px and paint roles.
//!
//! Guarantees: no relative length, no style left to resolve but the colours of roles, which a theme gives; order of painting
//! is order of the list, every element and relation is one group with its source line.

mod drawing;
mod items;
mod places;

pub use drawing::Drawing;
pub use items::{Holds, Inside, Item, Role, Scene, Stroke, Tag, Text, TextAnchor};
pub use places::Places;
