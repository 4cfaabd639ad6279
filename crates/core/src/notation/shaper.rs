//! From elements to figures: which symbol an element has, and how large its texts make it.

use super::Context;
use super::class;
use super::figure::{BESIDE, Figure, FigureText};
use super::pictogram::{self, Art, Icons};
use super::symbol::Symbol;
use crate::geom::{Rect, Size, pt, up4};
use crate::measure::{Face, Fonts, TextBlock, wrap};
use crate::model::{DiagramKind, Element, ElementKind};
use crate::scene::TextAnchor;
use crate::source::Sources;
use crate::syntax::Label;
use crate::theme::ElementStyle;
use crate::vocabulary::TraitWord;

/// How wide the text of a remark may be, in px; how much wider for each gap between parties that it spans; at most.
// About 30, and 90, letters: what an eye finds its way back in.
const NOTE: f64 = 190.0;
const NOTE_GAP: f64 = 130.0;
const WIDEST_NOTE: f64 = 560.0;

/// What the shapes of one diagram have in common.
pub(super) struct Shaper<'a> {
    pub(super) fonts: &'a Fonts,
    pub(super) kind: DiagramKind,
    /// Whether descriptions are drawn.
    pub(super) tell: bool,
    /// The pictograms.
    pub(super) icons: &'a Icons,
    /// The texts in which elements are written.
    pub(super) sources: &'a Sources<'a>,
}

impl<'a> Shaper<'a> {
    /// One that draws no descriptions.
    pub(super) fn new(context: &Context<'a>, kind: DiagramKind) -> Self {
        Self { fonts: context.fonts, kind, tell: false, icons: context.icons, sources: context.sources }
    }

    /// Whether a figure shows that there is more inside it.
    pub(super) fn may_have_more(&self, figure: &Figure) -> bool {
        figure.symbol == Symbol::Card && self.kind == DiagramKind::Architecture
    }

    /// The figure of an element that holds no others.
    pub(super) fn figure(&self, element: &Element, style: &ElementStyle) -> Figure {
        if element.kind == ElementKind::Remark {
            return self.note(&element.shown(), 0);
        }
        // What has compartments keeps them.
        let has_members = element.class.as_ref().is_some_and(|body| !body.compartments.is_empty());
        if let Some(shape) = style.shape.filter(|_| self.kind != DiagramKind::Classes && !has_members) {
            return self.symbol(element, Symbol::of_shape(shape));
        }
        match self.kind {
            DiagramKind::Classes => class::figure(self.fonts, self.sources, element),
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
                let letter = if element.has(TraitWord::Deep) { "H*" } else { "H" };
                let shown = Element { label: Some(Label::plain(letter, element.span)), ..element.clone() };
                self.symbol(&shown, Symbol::Circle)
            }
            ElementKind::Entry => self.point(element, Symbol::Circle, 16.0),
            ElementKind::Exit => self.point(element, Symbol::Crossed, 16.0),
            _ => class::state(self.fonts, self.sources, element),
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

    /// A remark, across this many gaps between parties.
    pub(super) fn note(&self, label: &Label, gaps: usize) -> Figure {
        let measure = f64::min(NOTE + NOTE_GAP * gaps as f64, WIDEST_NOTE);
        let block = wrap(self.fonts, label, Face::Regular, 12.5, measure);
        let size = Symbol::Note.around(Size::new(block.width(), block.height()));
        let place = Rect::new(12.0, (size.h - block.height()) / 2.0, block.width(), block.height());
        let mut figure = Figure::new(Symbol::Note, size);
        figure.texts.push(FigureText::new(block, place, TextAnchor::Start));
        figure
    }

    /// A symbol with its text in the middle.
    fn symbol(&self, element: &Element, symbol: Symbol) -> Figure {
        if symbol == Symbol::Bar {
            return Figure::new(symbol, symbol.around(Size::default()));
        }
        let narrows = matches!(symbol, Symbol::Diamond | Symbol::Circle | Symbol::Reel | Symbol::Ring | Symbol::Star);
        let measure = if narrows { 112.0 } else { 156.0 };
        // A name is as heavy in every shape: in steps, states and items it is what is said, elsewhere what something is called.
        let is_name = !matches!(self.kind, DiagramKind::Flow | DiagramKind::Tree | DiagramKind::States);
        let (face, points) = if is_name { (Face::Bold, 14.0) } else { (Face::Regular, 13.5) };
        let properties = Some(&element.properties).filter(|_| is_name);
        let about = properties.and_then(|p| p.about.as_ref()).filter(|_| self.tell);
        let built = properties.and_then(|p| p.built.as_ref());
        let quiet =
            [about, built].into_iter().flatten().map(|label| wrap(self.fonts, label, Face::Regular, 12.0, measure));
        let blocks: Vec<TextBlock> =
            std::iter::once(wrap(self.fonts, &element.shown(), face, points, measure)).chain(quiet).collect();
        let width = blocks.iter().map(TextBlock::width).fold(0.0, f64::max);
        let text =
            Size::new(width, blocks.iter().map(TextBlock::height).sum::<f64>() + 4.0 * (blocks.len() - 1) as f64);
        let mut size = symbol.around(text);
        if !narrows {
            size = Size::new(size.w.max(120.0), size.h.max(40.0));
        }
        let middle = pt(size.w / 2.0 + symbol.text_offset().x, size.h / 2.0 + symbol.text_offset().y);
        let mut figure = Figure::new(symbol, size);
        let mut top = middle.y - text.h / 2.0;
        for (i, block) in blocks.into_iter().enumerate() {
            let place = Rect::new(middle.x - block.width() / 2.0, top, block.width(), block.height());
            top += block.height() + 4.0;
            figure.texts.push(FigureText { quiet: i > 0, ..FigureText::new(block, place, TextAnchor::Middle) });
        }
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
        // Beside a pictogram texts begin at one edge; without one they stand in the middle.
        let anchor = if icon.is_some() { TextAnchor::Start } else { TextAnchor::Middle };
        let x = |block: &TextBlock| if icon.is_some() { left } else { (w - block.width()) / 2.0 };
        let align = |block: &TextBlock, y: f64| (Rect::new(x(block), y, block.width(), block.height()), anchor);
        figure.icon = icon.clone().map(|i| (i, pt(PAD + slack, libm::round((h - tab_height - ICON) / 2.0)), ICON));
        let below = top + name.height() + 4.0;
        let (place, anchor) = align(&name, top);
        figure.texts.push(FigureText::new(name, place, anchor));
        if let Some(about) = about {
            let (place, anchor) = align(&about, below);
            figure.texts.push(FigureText { quiet: true, ..FigureText::new(about, place, anchor) });
        }
        if let Some(built) = built {
            let place = Rect::new(w - PAD - tab, h - tab_height - 0.6, tab, tab_height);
            figure.tab = Some(place);
            let text = Rect::new(place.x + 8.0, place.y + 2.0, built.width(), built.height());
            figure.texts.push(FigureText { quiet: true, ..FigureText::new(built, text, TextAnchor::Start) });
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
