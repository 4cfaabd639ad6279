//! A contact sheet of pictograms: by category, in rows, each with its name.

use super::{Entry, Icons};
use crate::geom::{Path, Rect, Size};
use crate::measure::{Face, Fonts, wrap};
use crate::notation::text::texts_in;
use crate::scene::{Drawing, Item, Places, Role, Scene, Tag, TextAnchor};
use crate::source::Span;
use crate::syntax::Label;
use crate::theme::{Ground, Paint};

/// Cells in a row, and the size of one.
const ROW: usize = 18;
const CELL: Size = Size { w: 88.0, h: 80.0 };
/// The side of a pictogram on the sheet.
const SIDE: f64 = 36.0;
const MARGIN: f64 = 24.0;

/// Draws these pictograms.
pub fn sheet(entries: &[Entry], fonts: &Fonts) -> Drawing {
    let text = |text: &str, face, size| wrap(fonts, &Label::plain(text, Span::default()), face, size, CELL.w * 4.0);
    let mut items = Vec::new();
    let (mut y, mut nth) = (MARGIN, 0);
    let title = text("Pictograms", Face::Bold, 19.0);
    items.extend(texts_in(&title, Rect::new(MARGIN, y, title.width(), title.height()), TextAnchor::Start, Paint::TEXT));
    y += title.height() + 18.0;
    let columns =
        entries.chunk_by(|a, b| a.category == b.category).map(<[Entry]>::len).max().unwrap_or(1).clamp(3, ROW);
    for category in entries.chunk_by(|a, b| a.category == b.category) {
        let heading = text(category[0].category, Face::Bold, 13.5);
        let place = Rect::new(MARGIN, y, heading.width(), heading.height());
        items.extend(texts_in(&heading, place, TextAnchor::Start, Paint::Quiet));
        y += heading.height() + 6.0;
        for row in category.chunks(columns) {
            for (i, entry) in row.iter().enumerate() {
                nth += 1;
                let cell = Rect::new(MARGIN + i as f64 * CELL.w, y, CELL.w, CELL.h);
                items.push(one(entry, nth, cell, fonts));
            }
            y += CELL.h;
        }
        y += 14.0;
    }
    let scene = Scene {
        size: Size::new(2.0 * MARGIN + columns as f64 * CELL.w, y - 14.0 + MARGIN),
        title: "Pictograms".to_owned(),
        desc: format!("{nth} pictograms: {}.", entries.iter().map(|e| e.name).collect::<Vec<_>>().join(", ")),
        ground: Ground::Paper,
        items,
    };
    Drawing { scene, places: Places::default(), report: None, unmet: Vec::new() }
}

fn one(entry: &Entry, nth: u32, cell: Rect, fonts: &Fonts) -> Item {
    let frame = cell.grown(-4.0);
    let mut items = vec![Item::Path {
        path: Path::rounded(frame, 8.0),
        fill: Some(Paint::PICTURE),
        stroke: None,
        role: Some(Role::Frame),
    }];
    if let Some(art) = Icons::default().find(entry.name) {
        items.extend(art.draw((cell.middle().x - SIDE / 2.0, frame.y + 8.0, SIDE), Paint::Accent, 1.6));
    }
    let name = wrap(fonts, &Label::plain(entry.name, Span::default()), Face::Regular, 12.0, CELL.w);
    let place = Rect::new(frame.x, frame.y + SIDE + 14.0, frame.w, name.height());
    items.extend(texts_in(&name, place, TextAnchor::Middle, Paint::TEXT));
    let tag = Tag::element(entry.name.to_owned(), "pictogram", entry.name.to_owned(), nth);
    Item::Group(tag, items)
}
