//! What painting has in common, whatever is painted on: strokes from the back to the front, roles turned into colours,
//! letters placed, and lines under them.

use crate::letters::{Letters, Placed, place};
use bathygram_core::geom::{Path, Rect};
use bathygram_core::scene::{Item, Stroke};
use bathygram_core::theme::{Colour, Palette};

/// Something that is painted on.
pub(crate) trait Surface<'a> {
    /// The colours of the drawing, and the fonts of its letters.
    fn studio(&self) -> (Palette<'a>, Letters<'a>);
    fn fill(&mut self, path: &Path, colour: Colour);
    fn stroke(&mut self, path: &Path, stroke: &Stroke, colour: Colour);
    /// The letters of a text alone.
    fn letters(&mut self, text: &Placed<'_>, colour: Colour);
    fn image(&mut self, place: Rect, png: &[u8]);
}

/// Paints strokes from the back to the front.
pub(crate) fn items<'a>(surface: &mut impl Surface<'a>, items: &[Item]) {
    let (palette, fonts) = surface.studio();
    let mut work: Vec<std::slice::Iter<'_, Item>> = vec![items.iter()];
    while let Some(open) = work.last_mut() {
        match open.next() {
            Some(Item::Group(_, inner)) => work.push(inner.iter()),
            Some(Item::Path { path, fill, stroke, .. }) => {
                if let Some(fill) = fill {
                    surface.fill(path, palette.colour(*fill));
                }
                if let Some(stroke) = stroke {
                    surface.stroke(path, stroke, palette.colour(stroke.paint));
                }
            }
            Some(Item::Text(text)) => {
                let (placed, colour) = (place(text, fonts), palette.colour(text.fill));
                surface.letters(&placed, colour);
                if let Some(line) = &placed.underline {
                    let rect = Rect::new(line.left, line.y - line.width / 2.0, line.right - line.left, line.width);
                    surface.fill(&Path::rect(rect), colour);
                }
            }
            Some(Item::Image { place, png }) => surface.image(*place, png),
            None => drop(work.pop()),
        }
    }
}
