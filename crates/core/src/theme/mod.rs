//! Looks. Input: a view and the rules of its file. Output: resolved [`Styles`]: a paint role and a line for everything.
//! A [`Theme`], which is data (`file`), gives roles their colours when a drawing is written; nothing before that knows colours
//! but those that the author gave. Guarantees: text has a contrast of at least 4.5:1 on every fill.

mod asked;
mod colour;
mod effects;
mod file;
mod paint;
mod palette;
mod rules;
mod style;
#[allow(clippy::module_inception, reason = "the type is called so")]
mod theme;
mod themes;

pub use asked::{Asked, AskedLooks, asked};
pub use colour::{Colour, LEGIBLE};
pub use effects::{check_effects, check_rule_effects};
pub use file::{ThemeError, built_in, named, read, schema, source};
pub use paint::{Ground, Hue, Paint, Tone};
pub use palette::Palette;
pub use style::{
    Dash, ElementStyle, RelationStyle, SHAPES, Shape, Styles, Swatch, check_rules, check_traits, resolve,
    resolve_kinds, swatch,
};
pub use theme::{Hatch, Strokes, Theme};
pub use themes::Themes;
