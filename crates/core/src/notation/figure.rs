//! The figure of one element: its outline, its texts and its pictogram, in sizes that are facts
//! before anything is placed.

use super::pictogram::Art;
use super::symbol::Symbol;
use super::text::texts_in;
use crate::geom::{Path, Point, Rect, Size, pt};
use crate::measure::TextBlock;
use crate::scene::{Item, Role, Stroke, Tag, TextAnchor};
use crate::theme::{Dash, ElementStyle, Paint};

/// A block of text in a figure, relative to its left top corner.
pub(super) struct FigureText {
    pub(super) block: TextBlock,
    pub(super) place: Rect,
    pub(super) anchor: TextAnchor,
    pub(super) quiet: bool,
    pub(super) underline: bool,
    /// The line of the text that it is of, if that is not the element's.
    pub(super) line: Option<u32>,
}

impl FigureText {
    /// A block in plain ink, of the element's own line.
    pub(super) fn new(block: TextBlock, place: Rect, anchor: TextAnchor) -> Self {
        Self { block, place, anchor, quiet: false, underline: false, line: None }
    }
}

/// An element's figure.
pub(super) struct Figure {
    pub(super) symbol: Symbol,
    pub(super) size: Size,
    pub(super) texts: Vec<FigureText>,
    /// Level lines from side to side.
    pub(super) rules: Vec<f64>,
    /// A tinted stretch from the top.
    pub(super) header: Option<f64>,
    /// A pictogram and its left top corner.
    pub(super) icon: Option<(Art, Point, f64)>,
    /// A tab on the lower edge.
    pub(super) tab: Option<Rect>,
    /// A dashed box in the upper right corner.
    pub(super) corner: Option<Rect>,
    /// The size of the symbol in the middle, where the figure keeps room for a name beside it.
    pub(super) core: Option<Size>,
    /// That name.
    pub(super) name: Option<TextBlock>,
    /// Whether a contour band says that there is more inside.
    pub(super) has_more: bool,
}

/// Room between a point and the name beside it, in px.
// The width of the point itself.
pub(super) const BESIDE: f64 = 5.0;

/// The contour band of a closed element: its width in px, and which of the tints of depth it has.
// Wide enough to be seen at half size, narrow enough not to be taken for a frame.
const BAND: f64 = 4.0;
const MORE: usize = 3;

impl Figure {
    pub(super) fn new(symbol: Symbol, size: Size) -> Self {
        Self {
            symbol,
            size,
            texts: Vec::new(),
            rules: Vec::new(),
            header: None,
            icon: None,
            tab: None,
            corner: None,
            core: None,
            name: None,
            has_more: false,
        }
    }

    /// Makes a box at least this large: what stands in its middle stays there, lists stay at its left upper side, its
    /// tab at its foot.
    pub(super) fn grow(&mut self, least: Size) {
        let (w, h) = (self.size.w.max(least.w), self.size.h.max(least.h));
        let (right, down) = (w - self.size.w, h - self.size.h);
        self.size = Size::new(w, h);
        let is_list = !self.rules.is_empty();
        let (dx, dy) = (libm::floor(right / 2.0), if is_list { 0.0 } else { libm::floor(down / 2.0) });
        let is_in = |outer: Option<Rect>, inner: Rect| outer.is_some_and(|o| o.holds(inner));
        for text in &mut self.texts {
            text.place = match text.anchor {
                _ if is_in(self.tab, text.place) => text.place.moved(right, down),
                _ if is_in(self.corner, text.place) => text.place.moved(right, 0.0),
                TextAnchor::Start if is_list => text.place,
                _ => text.place.moved(dx, dy),
            };
        }
        self.icon.iter_mut().for_each(|(_, at, _)| *at = pt(at.x + dx, at.y + dy));
        self.tab.iter_mut().for_each(|tab| *tab = tab.moved(right, down));
        self.corner.iter_mut().for_each(|corner| *corner = corner.moved(right, 0.0));
    }

    /// Draws it into a rectangle.
    pub(super) fn draw(&self, r: Rect, style: &ElementStyle) -> Vec<Item> {
        let r = self.core.map_or(r, |core| Rect::around(r.middle(), core));
        let stroke = Stroke { paint: style.line, width: style.width, dash: style.dash };
        let plain = Stroke { dash: Dash::Solid, ..stroke };
        let fill = match (self.header, self.symbol) {
            (_, Symbol::Dots) => style.line,
            (Some(_), _) | (_, Symbol::Target) => Paint::PICTURE,
            _ => style.fill.into(),
        };
        let outer = if self.has_more { Paint::band(MORE) } else { fill };
        let mut items = vec![Item::Path {
            path: self.symbol.path(r),
            fill: Some(outer),
            stroke: if self.symbol == Symbol::Bar { None } else { Some(stroke) },
            role: Some(Role::Frame),
        }];
        if self.has_more {
            items.push(filled(self.symbol.path(r.grown(-BAND)), fill));
        }
        let line = |path| Item::Path { path, fill: None, stroke: Some(plain), role: None };
        if let Some(height) = self.header {
            let inner = Rect::new(
                r.x + style.width / 2.0,
                r.y + style.width / 2.0,
                r.w - style.width,
                height - style.width / 2.0,
            );
            items.push(filled(Path::rect(inner), style.fill.into()));
        }
        items.extend(self.symbol.details(r).into_iter().map(line));
        if self.symbol == Symbol::Target {
            items.push(filled(
                Path::ellipse(Rect::around(r.middle(), Size::new(r.w * 0.6, r.h * 0.6))),
                style.fill.into(),
            ));
        }
        items.extend(self.rules.iter().map(|y| {
            let rule = Stroke { width: 1.0, ..plain };
            let path = Path::line(&[pt(r.x, r.y + y), pt(r.right(), r.y + y)]);
            Item::Path { path, fill: None, stroke: Some(rule), role: None }
        }));
        if let Some(tab) = self.tab {
            let tab = tab.moved(r.x, r.y);
            items.push(filled(Path::rounded_above(tab, TAB), style.tab));
        }
        if let Some(corner) = self.corner {
            // Its upper and right sides are those of the figure.
            let c = corner.moved(r.x, r.y);
            items.push(filled(Path::rect(c.grown(-0.5)), Paint::PICTURE));
            let path = Path::line(&[pt(c.x, c.y), pt(c.x, c.bottom()), pt(c.right(), c.bottom())]);
            let dashed = Stroke { width: 1.0, dash: Dash::Dashed, ..stroke };
            items.push(Item::Path { path, fill: None, stroke: Some(dashed), role: None });
        }
        if let Some((art, at, size)) = &self.icon {
            items.extend(art.draw((r.x + at.x, r.y + at.y, *size), style.accent, 1.3));
        }
        for text in &self.texts {
            let colour = if text.quiet { style.quiet } else { style.text };
            let mut lines = texts_in(&text.block, text.place.moved(r.x, r.y), text.anchor, colour);
            for item in &mut lines {
                if let Item::Text(t) = item {
                    t.underline = text.underline;
                }
            }
            match text.line {
                Some(line) => items.push(Item::group(Tag::Row { line }, lines)),
                None => items.extend(lines),
            }
        }
        items
    }
}

/// How round the upper corners of a tab are, in px.
pub(super) const TAB: f64 = 4.0;

pub(super) fn filled(path: Path, fill: Paint) -> Item {
    Item::Path { path, fill: Some(fill), stroke: None, role: None }
}
