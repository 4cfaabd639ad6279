//! Other forms of a drawing: PNG, PDF, pages, and pictures in Markdown.

pub mod html;
mod letters;
pub mod markdown;
pub mod pdf;
mod pixels;
pub mod png;
