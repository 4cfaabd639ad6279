//! The pure heart of Bathygram: texts and a [`World`](source::world::World) in, values out. No file, network, clock,
//! environment, process or thread.
//!
//! Other programs begin with the [`facade`]: [`Renderer`](facade::Renderer) has all of it in one call.
//!
//! # The line from text to picture
//!
//! 1. [`syntax::parse`]: a [`Source`](source::Source) to a [`Tree`](syntax::Tree) of lines, whatever its errors.
//! 2. [`model::read`]: a tree to a [`Document`](model::Document), and beside it its
//!    [`Occurrences`](model::Occurrences).
//! 3. [`check`]: what a reviewer would ask, as [`Diagnostic`](diag::Diagnostic)s.
//! 4. [`views`]: a diagram and a sheet to a [`View`](views::View), what is shown of it.
//! 5. [`theme::resolve`]: a view and rules to [`Styles`](theme::Styles), in paint roles.
//! 6. [`notation`]: a view and its styles to sizes; [`layout::place`] gives these places; notation draws strokes there.
//! 7. [`scene::Drawing`]: what is drawn, where everything is, and what could not be kept.
//! 8. [`svg::write`]: a drawing to text. Other forms start from the same drawing, outside of this crate.
//!
//! [`pipeline`] has 1 to 3 as `read` and 4 to 7 as `draw`.
//!
//! # Beside it
//!
//! [`format`](mod@format) and [`emit`] write texts, from a tree and from a model; [`compare`] tells two models apart, and
//! [`review`] two versions of several files;
//! [`container`] is what a picture file carries; [`ide`] answers editors;
//! [`nudge`] writes what was dragged.

pub mod check;
pub mod compare;
pub mod conform;
pub mod container;
pub mod diag;
pub mod emit;
pub mod facade;
pub mod format;
pub mod geom;
pub mod ide;
pub mod jobs;
pub mod language;
pub mod layout;
pub mod manner;
pub mod markup;
pub mod measure;
pub mod merge;
pub mod model;
pub mod notation;
pub mod nudge;
pub mod pipeline;
pub mod review;
pub mod scene;
pub mod source;
pub mod svg;
pub mod syntax;
pub mod theme;
pub mod views;
pub mod vocabulary;

/// The examples of the README are tested.
#[cfg(doctest)]
#[doc = include_str!("../README.md")]
struct Readme;
