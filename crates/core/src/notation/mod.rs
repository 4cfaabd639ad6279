//! How things look. Input: a diagram with resolved styles. Output: a [`Scene`]. Shapes come first
//! (labels wrapped, sizes fixed), then the layout places them, then they are drawn.

mod class;
mod ends;
mod figure;
mod frame;
mod graph;
mod icons;
mod legend;
pub mod pictogram;
mod places;
mod sequence;
mod symbol;
mod words;

pub use icons::icons;

use crate::diag::Diagnostics;
use crate::geom::{Rect, Size, pt};
use crate::jobs::Jobs;
use crate::layout::{Graph, Laid};
use crate::measure::{Face, Fonts, TextBlock, wrap};
use crate::model::{Diagram, DiagramKind, LookRule};
use crate::scene::{Item, Scene, Text, TextAnchor};
use crate::theme::{Colour, Theme, resolve};
use pictogram::Icons;

/// Room around a picture.
const MARGIN: f64 = 24.0;
/// Size of a picture's title.
const TITLE: f64 = 19.0;

/// What drawing needs besides the diagram.
pub struct Context<'a> {
    /// The theme.
    pub theme: &'a Theme,
    /// The fonts.
    pub fonts: &'a Fonts,
    /// The style rules of the file.
    pub looks: &'a [LookRule],
    /// The places of an earlier picture that is to be kept.
    pub earlier: Option<&'a str>,
    /// Whether this is one of very many pictures, for each of which less is tried.
    pub one_of_many: bool,
    /// The pictograms.
    pub icons: &'a Icons,
    /// What runs independent work.
    pub jobs: &'a dyn Jobs,
}

/// Draws a diagram. Traits that mean nothing are reported.
pub fn draw(diagram: &Diagram, context: &Context<'_>, diags: &mut Diagnostics) -> Scene {
    // 1. Styles.
    let styles = resolve(context.theme, context.looks, diagram, diags);
    let theme = Theme { paper: styles.ground.unwrap_or(context.theme.paper), ..context.theme.clone() };
    let context = &Context { theme: &theme, ..*context };
    // 2. Shapes, places and strokes, by the kind of arrangement.
    let (items, size, places) = match diagram.kind {
        DiagramKind::Sequence => {
            let (items, size) = sequence::draw(diagram, &styles, context);
            (items, size, String::new())
        }
        _ => graph::draw(diagram, &styles, context),
    };
    // 3. Title, legend, caption and margins around it.
    let legend = diagram.picture.legend.then(|| legend::draw(diagram, &styles, context, size.w));
    Scene { places, ..framed(diagram, items, size, legend, context) }
}

/// What the layout of a diagram is given, and what it gives back; `None` for a sequence, which is no graph.
pub fn place(diagram: &Diagram, context: &Context<'_>) -> Option<(Graph, Laid)> {
    let styles = resolve(context.theme, context.looks, diagram, &mut Diagnostics::default());
    (diagram.kind != DiagramKind::Sequence).then(|| graph::place(diagram, &styles, context))
}

/// Puts the title above and the caption below.
fn framed(
    diagram: &Diagram, items: Vec<Item>, size: Size, legend: Option<(Vec<Item>, Size)>, context: &Context<'_>,
) -> Scene {
    let width = size.w.max(240.0);
    let wrapped = |label: &Option<crate::syntax::Label>, face, points| {
        label.as_ref().map(|l| wrap(context.fonts, l, face, points, width.max(420.0)))
    };
    let title = wrapped(&diagram.title, Face::Bold, TITLE);
    let caption = wrapped(&diagram.picture.caption, Face::Regular, 13.0);
    let top = MARGIN + title.as_ref().map_or(0.0, |t| t.height() + 18.0);
    let below = legend.as_ref().map_or(0.0, |(_, size)| size.w);
    let texts = [&title, &caption].into_iter().flatten().map(TextBlock::width).fold(size.w.max(below), f64::max);
    let full = texts + 2.0 * MARGIN;
    let mut out = Vec::new();
    if let Some(title) = &title {
        let place = Rect::new(MARGIN, MARGIN, title.width(), title.height());
        out.extend(texts_in(title, place, TextAnchor::Start, context.theme.ink));
    }
    let left = libm::floor((full - size.w) / 2.0);
    // A picture narrower than its title stays under the title's beginning.
    let left = if title.is_some() { MARGIN } else { left };
    out.extend(items.into_iter().map(|i| moved(i, left, top)));
    let mut bottom = top + size.h;
    if let Some((items, size)) = legend {
        out.extend(items.into_iter().map(|i| moved(i, MARGIN, bottom + 24.0)));
        bottom += 24.0 + size.h;
    }
    if let Some(caption) = &caption {
        let place = Rect::new(MARGIN, bottom + 16.0, caption.width(), caption.height());
        out.extend(texts_in(caption, place, TextAnchor::Start, context.theme.quiet));
        bottom += 16.0 + caption.height();
    }
    let shown = diagram.title.as_ref().map_or_else(|| diagram.name.replace('_', " "), |t| t.text());
    Scene {
        size: Size::new(libm::ceil(full), libm::ceil(bottom + MARGIN)),
        title: shown,
        desc: words::describe(diagram),
        ground: context.theme.paper,
        items: out,
        places: String::new(),
    }
}

/// The lines of a block inside a rectangle, from its top.
fn texts_in(block: &TextBlock, place: Rect, anchor: TextAnchor, fill: Colour) -> Vec<Item> {
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
            Item::Text(Text { x, y: base, anchor, spans: line.spans.clone(), size: block.size, fill, underline: false })
        })
        .collect()
}

/// An item moved by some px.
fn moved(item: Item, dx: f64, dy: f64) -> Item {
    match item {
        Item::Group(tag, items) => Item::Group(tag, items.into_iter().map(|i| moved(i, dx, dy)).collect()),
        Item::Path { path, fill, stroke, role } => Item::Path { path: path.placed(1.0, dx, dy), fill, stroke, role },
        Item::Image { place, png } => Item::Image { place: place.moved(dx, dy), png },
        Item::Text(text) => {
            let at = pt(text.x + dx, text.y + dy);
            Item::Text(Text { x: at.x, y: at.y, ..text })
        }
    }
}
