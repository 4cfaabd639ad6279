//! Texts and other items put in their places.

use crate::geom::Rect;
use crate::measure::TextBlock;
use crate::scene::{Item, Text, TextAnchor};
use crate::theme::Paint;

/// The lines of a block inside a rectangle, from its top.
pub(super) fn texts_in(block: &TextBlock, place: Rect, anchor: TextAnchor, fill: Paint) -> Vec<Item> {
    let x = match anchor {
        TextAnchor::Start => place.x,
        TextAnchor::Middle => place.x + place.w / 2.0,
        TextAnchor::End => place.right(),
    };
    block
        .lines
        .iter()
        .enumerate()
        .filter(|(_, l)| !l.spans.is_empty())
        .map(|(i, line)| {
            // Capitals are about 0.69 em high: that part is set in the middle of its line.
            let base = place.y + (i as f64 + 0.5) * block.leading() + block.size * 0.345;
            let x = if i > 0 && anchor == TextAnchor::Start { x + block.hanging } else { x };
            let (spans, size, writing) = (line.spans.clone(), block.size, block.writing);
            Item::Text(Text { x, y: base, anchor, spans, size, fill, underline: false, writing })
        })
        .collect()
}

/// An item moved by some px.
pub(super) fn moved(item: Item, dx: f64, dy: f64) -> Item {
    item.placed(1.0, dx, dy)
}
