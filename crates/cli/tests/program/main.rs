//! Tests that run the built program on files in a temporary folder.

mod common;
mod docs;
mod mistakes;
mod render;
mod rough;
mod versions;
