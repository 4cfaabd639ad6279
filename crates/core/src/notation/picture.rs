//! A whole picture: styles, shapes, places and strokes, then title, legend and caption around them.

use super::context::Context;
use super::text::{moved, texts_in};
use super::{graph, legend, sequence, words};
use crate::diag::Diagnostics;
use crate::geom::{Rect, Size};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::DiagramKind;
use crate::scene::{Drawing, Item, Scene, TextAnchor};
use crate::theme::{Ground, Paint, resolve};

/// Room around a picture.
const MARGIN: f64 = 24.0;
/// Size of a picture's title.
const TITLE: f64 = 19.0;

/// Draws what the context shows. Traits that mean nothing were reported when the file was read.
pub fn draw(context: &Context<'_>) -> Drawing {
    // 1. Styles.
    let styles = resolve(context.looks, context.view, &mut Diagnostics::default());
    let diagram = &context.view.diagram;
    // 2. Shapes, places and strokes, by the kind of arrangement.
    let drawn = match diagram.kind {
        DiagramKind::Sequence => sequence::draw(diagram, &styles, context),
        _ => graph::draw(diagram, &styles, context),
    };
    // 3. Title, legend, caption and margins around it.
    let legend =
        diagram.picture.legend.map(|_| legend::draw(diagram, &styles, context, drawn.size.w, drawn.has_depths));
    let ground = styles.ground.unwrap_or(Ground::Paper);
    let scene = framed(context, drawn.items, drawn.size, legend, ground);
    Drawing { scene, places: drawn.places, report: drawn.report, unmet: drawn.unmet }
}

/// Puts the title above and the caption below.
fn framed(
    context: &Context<'_>, items: Vec<Item>, size: Size, legend: Option<(Vec<Item>, Size)>, ground: Ground,
) -> Scene {
    let diagram = &context.view.diagram;
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
        out.extend(texts_in(title, place, TextAnchor::Start, Paint::TEXT));
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
        out.extend(texts_in(caption, place, TextAnchor::Start, Paint::Quiet));
        bottom += 16.0 + caption.height();
    }
    let shown = diagram.title.as_ref().map_or_else(|| diagram.name.replace('_', " "), |t| t.text());
    Scene {
        size: Size::new(libm::ceil(full), libm::ceil(bottom + MARGIN)),
        title: shown,
        desc: words::describe(context.view, context.language),
        ground,
        items: out,
    }
}
