//! Text to sizes. Input: labels and fonts. Output: lines of text with widths in px, measured with the
//! very fonts that are drawn. Guarantees: shaped widths (kerning included); letters that the fonts
//! lack are given generous room by their Unicode width.

mod face;
mod files;
mod font_face;
mod fonts;
mod glyphs;
mod page;
mod spare;
mod wrap;
mod writing;

pub use face::{FACES, Face, Lettering};
pub use font_face::{FontFace, Glyph, GlyphImage, Metrics, Underline};
pub use fonts::Fonts;

pub use page::Page;
pub use spare::{Cluster, Opened, SpareFont, SpareFonts, unshipped};
pub use wrap::{Script, TextBlock, TextLine, TextSpan, line_width, starts, wrap, wrap_hanging};
pub use writing::Writing;
