//! Text to sizes. Input: labels and fonts. Output: lines of text with widths in px, measured with the
//! very fonts that are drawn. Guarantees: shaped widths (kerning included); letters that the fonts
//! lack are given generous room by their Unicode width.

mod face;
mod files;
mod fonts;
mod glyphs;
mod page;
mod wrap;

pub use face::{FACES, Face};
pub use fonts::Fonts;
pub use glyphs::{Glyph, Metrics, Underline};
pub use page::Page;
pub use wrap::{Script, TextBlock, TextLine, TextSpan, wrap};
