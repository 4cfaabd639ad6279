//! Texts as shapes, for viewers that have no fonts, or other ones.

use crate::Tools;
use crate::letters::{Letters, place};
use bathygram_core::geom::{Path, Rect};
use bathygram_core::scene::{Drawing, Item, Scene, Tag};

/// The same drawing without texts: each is one shape.
pub fn outlined(drawing: &Drawing, tools: Tools<'_>) -> Drawing {
    let letters = Letters { fonts: tools.fonts, spare: &tools.spare.open() };
    let items = drawing.scene.items.iter().map(|item| outlined_item(item, letters)).collect();
    Drawing { scene: Scene { items, ..drawing.scene.clone() }, ..drawing.clone() }
}

fn outlined_item(item: &Item, letters: Letters<'_>) -> Item {
    let text = match item {
        Item::Group(tag, inner) => {
            return Item::Group(tag.clone(), inner.iter().map(|item| outlined_item(item, letters)).collect());
        }
        Item::Text(text) => text,
        other => return other.clone(),
    };
    let placed = place(text, letters);
    let mut shape = Path::default();
    let mut images = Vec::new();
    for run in &placed.runs {
        for glyph in &run.glyphs {
            let (x, y) = (run.x + glyph.at.x * run.size, run.y + glyph.at.y * run.size);
            if let Some(image) = letters.face(run.font).and_then(|face| face.image(glyph.id)) {
                let r = image.place;
                let place = Rect::new(x + r.x * run.size, y + r.y * run.size, r.w * run.size, r.h * run.size);
                images.push(Item::Image { place, png: image.png.into() });
            } else if let Some(outline) = letters.outline(run.font, glyph.id) {
                shape = shape.and(outline.placed(run.size, x, y));
            }
        }
    }
    if let Some(line) = &placed.underline {
        let rect = Rect::new(line.left, line.y - line.width / 2.0, line.right - line.left, line.width);
        shape = shape.and(Path::rect(rect));
    }
    let shape = Item::Path { path: shape, fill: Some(text.fill), stroke: None, role: None };
    if images.is_empty() { shape } else { Item::Group(Tag::Plain, std::iter::once(shape).chain(images).collect()) }
}
