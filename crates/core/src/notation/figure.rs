//! The figure of one element: its outline, its texts and its pictogram, in sizes that are facts
//! before anything is placed.

use super::pictogram::{self, Art, Icons};
use super::symbol::Symbol;
use super::{class, texts_in};
use crate::geom::{Path, Point, Rect, Size, pt, up4};
use crate::measure::{Face, Fonts, TextBlock, wrap};
use crate::model::{DiagramKind, Element, ElementKind};
use crate::scene::{Item, Role, Stroke, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Colour, Dash, ElementStyle, Theme};

/// A block of text in a figure, relative to its left top corner.
pub(super) struct FigureText {
    pub(super) block: TextBlock,
    pub(super) place: Rect,
    pub(super) anchor: TextAnchor,
    pub(super) quiet: bool,
    pub(super) underline: bool,
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
pub(super) const BESIDE: f64 = 5.0;

/// The contour band of a closed element: its width in px, and which of the tints of depth it has.
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
    pub(super) fn draw(&self, r: Rect, style: &ElementStyle, theme: &Theme) -> Vec<Item> {
        let r = self.core.map_or(r, |core| Rect::around(r.middle(), core));
        let stroke = Stroke { colour: style.line, width: style.width, dash: style.dash };
        let plain = Stroke { dash: Dash::Solid, ..stroke };
        let fill = match (self.header, self.symbol) {
            (_, Symbol::Dots) => style.line,
            (Some(_), _) | (_, Symbol::Target) => theme.paper,
            _ => style.fill,
        };
        let outer = if self.has_more { theme.band(MORE) } else { fill };
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
            items.push(filled(Path::rect(inner), style.fill));
        }
        items.extend(self.symbol.details(r).into_iter().map(line));
        if self.symbol == Symbol::Target {
            items.push(filled(Path::ellipse(Rect::around(r.middle(), Size::new(r.w * 0.6, r.h * 0.6))), style.fill));
        }
        items.extend(self.rules.iter().map(|y| {
            let rule = Stroke { width: 1.0, ..plain };
            let path = Path::line(&[pt(r.x, r.y + y), pt(r.right(), r.y + y)]);
            Item::Path { path, fill: None, stroke: Some(rule), role: None }
        }));
        if let Some(tab) = self.tab {
            let tab = tab.moved(r.x, r.y);
            items.push(filled(top_rounded(tab), tab_fill(style, theme)));
        }
        if let Some(corner) = self.corner {
            // Its upper and right sides are those of the figure.
            let c = corner.moved(r.x, r.y);
            items.push(filled(Path::rect(c.grown(-0.5)), theme.paper));
            let path = Path::line(&[pt(c.x, c.y), pt(c.x, c.bottom()), pt(c.right(), c.bottom())]);
            let dashed = Stroke { width: 1.0, dash: Dash::Dashed, ..stroke };
            items.push(Item::Path { path, fill: None, stroke: Some(dashed), role: None });
        }
        if let Some((art, at, size)) = &self.icon {
            items.extend(art.draw((r.x + at.x, r.y + at.y, *size), style.accent, 1.3));
        }
        for text in &self.texts {
            let colour = if text.quiet { style.quiet } else { style.text };
            for mut item in texts_in(&text.block, text.place.moved(r.x, r.y), text.anchor, colour) {
                if let Item::Text(t) = &mut item {
                    t.underline = text.underline;
                }
                items.push(item);
            }
        }
        items
    }
}

fn filled(path: Path, fill: Colour) -> Item {
    Item::Path { path, fill: Some(fill), stroke: None, role: None }
}

/// The ground of a tab: a contour band's tint, or the element's own fill where that is coloured.
fn tab_fill(style: &ElementStyle, theme: &Theme) -> Colour {
    let band = theme.band(1);
    if style.quiet.contrast(band) >= 4.5 { band } else { style.fill }
}

/// A rectangle with its two upper corners rounded.
fn top_rounded(r: Rect) -> Path {
    let rounded = Path::rounded(Rect::new(r.x, r.y, r.w, r.h), 4.0);
    rounded.and(Path::rect(Rect::new(r.x, r.y + r.h / 2.0, r.w, r.h / 2.0)))
}

/// What the shapes of one diagram have in common.
pub(super) struct Shaper<'a> {
    pub(super) fonts: &'a Fonts,
    pub(super) kind: DiagramKind,
    /// Whether descriptions are drawn.
    pub(super) tell: bool,
    /// The pictograms.
    pub(super) icons: &'a Icons,
}

impl Shaper<'_> {
    /// The figure of an element that holds no others.
    pub(super) fn figure(&self, element: &Element, style: &ElementStyle) -> Figure {
        let figure = self.figure_of(element, style);
        let is_card = figure.symbol == Symbol::Card && self.kind == DiagramKind::Architecture;
        Figure { has_more: element.has_more && is_card, ..figure }
    }

    fn figure_of(&self, element: &Element, style: &ElementStyle) -> Figure {
        if element.kind == ElementKind::Remark {
            return self.note(&element.shown());
        }
        if let Some(shape) = style.shape.filter(|_| self.kind != DiagramKind::Classes) {
            return self.symbol(element, Symbol::of_shape(shape));
        }
        match self.kind {
            DiagramKind::Classes => class::figure(self.fonts, element),
            _ if element.kind == ElementKind::Ellipsis => self.point(element, Symbol::Dots, 28.0),
            DiagramKind::Flow => self.symbol(element, Symbol::of_flow(element.kind)),
            DiagramKind::States => self.state(element),
            DiagramKind::Tree => self.symbol(element, Symbol::of_tree(element.kind)),
            _ if Symbol::of_flow(element.kind) != Symbol::Box || element.kind == ElementKind::Step => {
                let card = element.kind == ElementKind::Store;
                if card { self.card(element, style) } else { self.symbol(element, Symbol::of_flow(element.kind)) }
            }
            _ if matches!(element.kind, ElementKind::Item | ElementKind::Chance | ElementKind::Outcome) => {
                self.symbol(element, Symbol::of_tree(element.kind))
            }
            _ => self.card(element, style),
        }
    }

    /// A state, or a mark of a state machine (UML 2.5.1, 14.2.4).
    fn state(&self, element: &Element) -> Figure {
        let fixed = |symbol: Symbol| Figure::new(symbol, symbol.around(Size::default()));
        match element.kind {
            ElementKind::Begin => fixed(Symbol::Dot),
            ElementKind::Finish => fixed(Symbol::Target),
            ElementKind::Bar => fixed(Symbol::Bar),
            ElementKind::Junction => self.point(element, Symbol::Dot, 12.0),
            ElementKind::Choice => self.point(element, Symbol::Diamond, 28.0),
            ElementKind::History => {
                let letter = if element.has("deep") { "H*" } else { "H" };
                let shown = Element { label: Some(Label::plain(letter, element.span)), ..element.clone() };
                self.symbol(&shown, Symbol::Circle)
            }
            ElementKind::Entry => self.point(element, Symbol::Circle, 16.0),
            ElementKind::Exit => self.point(element, Symbol::Crossed, 16.0),
            _ => class::state(self.fonts, element),
        }
    }

    /// A point with its name beside it: of those by which a state is entered or left, of others the label.
    fn point(&self, element: &Element, symbol: Symbol, width: f64) -> Figure {
        let core = Size::new(width, width);
        let is_named = matches!(element.kind, ElementKind::Entry | ElementKind::Exit);
        let label = element.label.clone().or_else(|| is_named.then(|| element.shown()));
        let name = label.map(|label| wrap(self.fonts, &label, Face::Regular, 12.0, 110.0)).unwrap_or_default();
        if name.width() == 0.0 {
            return Figure::new(symbol, core);
        }
        // The symbol stands in the middle, so the room is as wide on its other side.
        let height = f64::max(width, 2.0 * (name.height() + 4.0));
        let size = Size::new(up4(width + 2.0 * (BESIDE + name.width())), up4(height));
        Figure { core: Some(core), name: Some(name), ..Figure::new(symbol, size) }
    }

    /// A remark.
    pub(super) fn note(&self, label: &Label) -> Figure {
        let block = wrap(self.fonts, label, Face::Regular, 12.5, 190.0);
        let size = Symbol::Note.around(Size::new(block.width(), block.height()));
        let place = Rect::new(12.0, (size.h - block.height()) / 2.0, block.width(), block.height());
        let mut figure = Figure::new(Symbol::Note, size);
        figure.texts.push(FigureText { block, place, anchor: TextAnchor::Start, quiet: false, underline: false });
        figure
    }

    /// A symbol with its text in the middle.
    fn symbol(&self, element: &Element, symbol: Symbol) -> Figure {
        if symbol == Symbol::Bar {
            return Figure::new(symbol, symbol.around(Size::default()));
        }
        let narrows = matches!(symbol, Symbol::Diamond | Symbol::Circle | Symbol::Reel | Symbol::Ring | Symbol::Star);
        let (face, measure) = match symbol {
            Symbol::Pill => (Face::Bold, 170.0),
            _ if narrows => (Face::Regular, 112.0),
            _ => (Face::Regular, 156.0),
        };
        let block = wrap(self.fonts, &element.shown(), face, 13.5, measure);
        let text = Size::new(block.width(), block.height());
        let mut size = symbol.around(text);
        if !narrows {
            size = Size::new(size.w.max(120.0), size.h.max(40.0));
        }
        let middle = pt(size.w / 2.0 + symbol.text_offset().x, size.h / 2.0 + symbol.text_offset().y);
        let place = Rect::around(middle, text);
        let mut figure = Figure::new(symbol, size);
        figure.texts.push(FigureText { block, place, anchor: TextAnchor::Middle, quiet: false, underline: false });
        figure
    }

    /// A card: pictogram, name, description, technology on a tab.
    pub(super) fn card(&self, element: &Element, style: &ElementStyle) -> Figure {
        const PAD: f64 = 14.0;
        const ICON: f64 = 24.0;
        let icon = icon_of(self.icons, element, style);
        let name = wrap(self.fonts, &element.shown(), Face::Bold, 14.0, 150.0);
        let about = element
            .properties
            .about
            .as_ref()
            .filter(|_| self.tell)
            .map(|a| wrap(self.fonts, a, Face::Regular, 12.0, 170.0));
        let built = element.properties.built.as_ref().map(|b| wrap(self.fonts, b, Face::Regular, 11.0, 140.0));
        let before = PAD + if icon.is_some() { ICON + 10.0 } else { 0.0 };
        let text = f64::max(name.width(), about.as_ref().map_or(0.0, TextBlock::width));
        let tab = built.as_ref().map_or(0.0, |b| b.width() + 16.0);
        let w = up4((before + text + PAD).max(tab + 2.0 * PAD).max(116.0));
        // What is narrower than the card stands in its middle.
        let slack = libm::floor((w - before - text - PAD) / 2.0);
        let left = before + slack;
        let body = name.height() + about.as_ref().map_or(0.0, |a| a.height() + 4.0);
        let tab_height = built.as_ref().map_or(0.0, |b| b.height() + 4.0);
        let inner = body.max(if icon.is_some() { ICON } else { 0.0 });
        let h = up4(inner + 24.0 + tab_height).max(48.0);
        let mut figure = Figure::new(Symbol::Card, Size::new(w, h));
        let top = (h - tab_height - body) / 2.0;
        let align = |block: &TextBlock, y: f64| match &icon {
            Some(_) => (Rect::new(left, y, block.width(), block.height()), TextAnchor::Start),
            None => (Rect::new((w - block.width()) / 2.0, y, block.width(), block.height()), TextAnchor::Middle),
        };
        figure.icon = icon.clone().map(|i| (i, pt(PAD + slack, libm::round((h - tab_height - ICON) / 2.0)), ICON));
        let below = top + name.height() + 4.0;
        let (place, anchor) = align(&name, top);
        figure.texts.push(FigureText { block: name, place, anchor, quiet: false, underline: false });
        if let Some(about) = about {
            let (place, anchor) = align(&about, below);
            figure.texts.push(FigureText { block: about, place, anchor, quiet: true, underline: false });
        }
        if let Some(built) = built {
            let place = Rect::new(w - PAD - tab, h - tab_height - 0.6, tab, tab_height);
            figure.tab = Some(place);
            let text = Rect::new(place.x + 8.0, place.y + 2.0, built.width(), built.height());
            figure.texts.push(FigureText {
                block: built,
                place: text,
                anchor: TextAnchor::Start,
                quiet: true,
                underline: false,
            });
        }
        figure
    }
}

/// The pictogram of an element: its own, its rule's, or its kind's.
pub(super) fn icon_of(icons: &Icons, element: &Element, style: &ElementStyle) -> Option<Art> {
    let own = element.properties.icon.as_ref().map(|i| i.value.as_str());
    let named = own.or(style.icon.as_deref()).and_then(|name| icons.find(name));
    named.or_else(|| icons.find(pictogram::of_kind(element.kind)?))
}
