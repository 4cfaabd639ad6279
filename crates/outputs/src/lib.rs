//! Other forms of a drawing: PNG, PDF, pages, and pictures in Markdown. A new form is a file here that takes a
//! [`Drawing`](bathygram_core::scene::Drawing), and a variant of `Format` in the host, where forms are listed once.

pub mod html;
mod letters;
pub mod markdown;
mod paint;
pub mod pdf;
mod pixels;
pub mod png;
