//! Other forms of a drawing. Input: the SVG text that the core wrote. Output: bytes.

pub mod html;
pub mod markdown;
pub mod pdf;
mod png;

pub use png::{Error, MAX_SIDE, Png};
