//! What exists, as facts: tables, and what else people have before they draw. Input: bytes and rows that the outside opens.
//! Output: [`Facts`]: elements, relations, where each was seen, and findings with their places. A reader writes no text itself:
//! [`Facts::document`] gives the model, and the core writes it.
//!
//! Guarantees: memory grows with what is found, not with what is read; the same input gives the same facts; broken input gives a
//! sentence with its place.

pub mod code;
mod course;
pub mod database;
mod document;
mod facts;
mod finding;
pub mod graph;
mod names;
pub mod outline;
pub mod rdf;
mod select;
mod sheets;
pub mod table;
mod text;
pub mod trace;

pub use course::{Branch, Happening, Message, Passage};
pub use facts::{
    Constraint, Counts, Facts, Imported, Link, LinkEnd, Member, ProposedSheet, Refers, Said, Thing, schema,
};
pub use finding::{Broken, Finding, Level, Seen};
pub use select::Selection;
