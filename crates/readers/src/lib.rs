//! What exists, as facts: tables, and what else people have before they draw. Input: bytes and rows that the outside opens.
//! Output: [`Facts`]: elements, relations, where each was seen, and findings with their places. A reader writes no text itself:
//! [`Facts::document`] gives the model, and the core writes it.
//!
//! Guarantees: memory grows with what is found, not with what is read; the same input gives the same facts; broken input gives a
//! sentence with its place.

mod facts;
mod finding;
mod names;
pub mod table;
mod text;

pub use facts::{Counts, Facts, Link, Thing, schema};
pub use finding::{Broken, Finding, Level, Seen};
