//! Looks. Input: a view and the rules of its file. Output: resolved [`Styles`]: a paint role and a line for everything.
//! A [`Theme`] gives roles their colours when a drawing is written; nothing before that knows colours but those that the
//! author gave. Guarantees: text has a contrast of at least 4.5:1 on every fill.

mod colour;
mod paint;
mod palette;
mod rules;
mod shoal;
mod style;
#[allow(clippy::module_inception, reason = "the type is called so")]
mod theme;

pub use colour::Colour;
pub use paint::{Ground, Hue, Paint, Tone};
pub use palette::{LEGIBLE, Palette};
pub use shoal::shoal;
pub use style::{Dash, ElementStyle, RelationStyle, SHAPES, Shape, Styles, check_rules, check_traits, resolve};
pub use theme::{Swatch, Theme};
