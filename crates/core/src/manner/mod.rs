//! How a theme draws: by hand instead of with a ruler, and with hatches instead of colours. Input: a drawing and a theme.
//! Output: the same drawing with other strokes; nothing is anywhere else, and what is plain stays as it is.

mod hatch;
mod rough;

use crate::geom::{Path, Rect, SpatialIndex};
use crate::measure::{Fonts, line_width};
use crate::scene::{Item, Scene, Stroke, Tag, Text};
use crate::theme::{Dash, Ground, Hatch, Paint, Palette, Strokes, Theme};
use rough::Hand;

/// How thick the lines of a hatch are, in px.
// A hairline: less than any outline, so that shapes still stand out.
const HATCH: f64 = 0.6;
/// The outline of a tab, in px.
const TAB: f64 = 0.8;
/// Room around texts and pictograms that no hatch enters, in px.
const CLEAR: f64 = 3.0;
/// Strokes that are larger than this belong to no pictogram, in px.
const PICTOGRAM: f64 = 26.0;
/// How much of what covers a hatched shape is surely covered: its corners may be round.
const CORNER: f64 = 6.0;
/// A drawing has this many bends and lines of hatches; where it would have more, they are further apart.
// A picture of 9,000 elements, drawn by hand, took 8 GB. What people draw has some thousand.
const MOST_PIECES: f64 = 300_000.0;

/// Draws a scene in the manner of a theme.
pub fn apply(scene: &mut Scene, theme: &Theme, fonts: &Fonts) {
    if theme.is_plain() {
        return;
    }
    let palette = Palette::new(theme, scene.ground);
    let mut clear = Vec::new();
    collect(&scene.items, fonts, &mut clear);
    let near = SpatialIndex::of(&clear);
    let (is_rough, is_hatched) = (theme.strokes == Strokes::Rough, theme.has_hatches());
    let mut manner = Manner { palette, clear, near, is_rough, is_hatched, coarse: 1.0 };
    let pieces = manner.pieces(&scene.items);
    while pieces / manner.coarse > MOST_PIECES {
        manner.coarse *= 2.0;
    }
    let items = std::mem::take(&mut scene.items);
    scene.items = manner.drawn(items, "");
}

struct Manner<'a> {
    palette: Palette<'a>,
    /// Where texts and pictograms stand.
    clear: Vec<Rect>,
    near: SpatialIndex,
    is_rough: bool,
    is_hatched: bool,
    /// How many times further apart bends and lines of hatches are than usual.
    coarse: f64,
}

impl Manner<'_> {
    /// About how many bends and lines of hatches these items have, usually.
    fn pieces(&self, items: &[Item]) -> f64 {
        let of = |item: &Item| match item {
            Item::Group(_, inner) => self.pieces(inner),
            Item::Path { path, fill, stroke, .. } => {
                let bends = if self.is_rough && stroke.is_some() { rough::bends(path) } else { 0.0 };
                let hatch = fill.and_then(|fill| self.palette.hatch(fill)).zip(path.bounds());
                bends + hatch.map_or(0.0, |(hatch, bounds)| hatch::count(bounds, hatch))
            }
            Item::Text(_) | Item::Image { .. } => 0.0,
        };
        items.iter().map(of).sum()
    }

    /// Items, drawn; `key` says what they are part of.
    fn drawn(&self, items: Vec<Item>, key: &str) -> Vec<Item> {
        let mut hand = Hand::new(key, self.coarse);
        let mut out = Vec::with_capacity(items.len());
        let mut items = items.into_iter().peekable();
        while let Some(item) = items.next() {
            match item {
                // A tab without a tint has an outline.
                Item::Path { path, fill: Some(fill @ Paint::TabOn(..)), stroke: None, role } if self.is_hatched => {
                    let stroke = Some(Stroke::solid(Paint::Frame, TAB));
                    out.push(Item::Path { path, fill: Some(fill), stroke, role });
                }
                Item::Group(tag, inner) => {
                    let inner = match &tag {
                        Tag::Element { id, .. } | Tag::Relation { id, .. } => self.drawn(inner, id),
                        Tag::Plain | Tag::Label | Tag::EndLabel => self.drawn(inner, &hand.part()),
                        // Text alone, which no hand changes.
                        Tag::Row { .. } => inner,
                    };
                    out.push(Item::Group(tag, inner));
                }
                Item::Path { path, fill, stroke, role } => {
                    let lines = fill.and_then(|fill| self.hatched(&path, fill, items.peek()));
                    let (first, second) = match stroke.filter(|_| self.is_rough) {
                        Some(stroke) => hand.drawn(&path, stroke),
                        None => (path.clone(), None),
                    };
                    // The fill keeps its shape: what is over it must lie on it.
                    if lines.is_some() || (self.is_rough && fill.is_some() && stroke.is_some()) {
                        out.push(Item::Path { path, fill, stroke: None, role: None });
                        out.extend(lines);
                        out.push(Item::Path { path: first, fill: None, stroke, role });
                    } else {
                        out.push(Item::Path { path: first, fill, stroke, role });
                    }
                    let again = second.zip(stroke);
                    out.extend(again.map(|(path, stroke)| Item::Path {
                        path,
                        fill: None,
                        stroke: Some(stroke),
                        role: None,
                    }));
                }
                Item::Text(_) | Item::Image { .. } => out.push(item),
            }
        }
        out
    }

    /// The lines that stand for the fill of a shape, but where texts or what comes next cover it.
    fn hatched(&self, path: &Path, fill: Paint, next: Option<&Item>) -> Option<Item> {
        let hatch = self.palette.hatch(fill)?;
        let bounds = path.bounds()?;
        let hatch = Hatch { gap: hatch.gap * self.coarse, ..hatch };
        let near = self.near.near(bounds).into_iter().map(|text| self.clear[text]);
        let mut covered: Vec<Rect> = near.filter(|text| text.meets(bounds)).collect();
        if let Some(Item::Path { path, fill: Some(_), .. }) = next {
            let inner = path.bounds().map(|r| r.grown(-CORNER));
            covered.extend(inner.filter(|r| r.w > 0.0 && r.h > 0.0));
        }
        let path = hatch::lines(path, hatch, &covered);
        let paint = if let Paint::Ground(Ground::Fill(hue)) = fill { Ground::Shade(hue).into() } else { Paint::Frame };
        let stroke = Some(Stroke { paint, width: HATCH, dash: Dash::Solid });
        (!path.0.is_empty()).then_some(Item::Path { path, fill: None, stroke, role: None })
    }
}

/// Where the texts and pictograms of items stand, with a little room.
fn collect(items: &[Item], fonts: &Fonts, found: &mut Vec<Rect>) {
    // The strokes of a pictogram lie beside each other in one group.
    let mut pictogram: Option<Rect> = None;
    for item in items {
        match item {
            Item::Group(_, inner) => collect(inner, fonts, found),
            Item::Text(text) => found.push(place(text, fonts).grown(CLEAR)),
            Item::Image { place, .. } => found.push(place.grown(CLEAR)),
            Item::Path { path, role: None, .. } => {
                let own = path.bounds().filter(|r| r.w.max(r.h) <= PICTOGRAM);
                pictogram = own.map(|own| pictogram.map_or(own, |all| all.union(own))).or(pictogram);
            }
            Item::Path { .. } => {}
        }
    }
    found.extend(pictogram.map(|r| r.grown(CLEAR)));
}

fn place(text: &Text, fonts: &Fonts) -> Rect {
    let width = line_width(&text.spans, fonts, text.size);
    // Most letters lie between the base line and three quarters of the size above it, some a quarter below.
    Rect::new(text.left(width), text.y - 0.75 * text.size, width, text.size)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::{Size, pt};
    use crate::theme::named;

    /// How many commands the paths of a drawing have that holds one line, or one filled box, of a size.
    fn commands(theme: &str, size: f64) -> usize {
        let stroke = Some(Stroke::solid(Paint::Frame, 1.0));
        let line = Item::Path { path: Path::line(&[pt(0.0, 0.0), pt(size, 0.0)]), fill: None, stroke, role: None };
        let fill = Some(Paint::Ground(Ground::Band(0)));
        let filled = Item::Path { path: Path::rect(Rect::new(0.0, 0.0, size, size)), fill, stroke, role: None };
        let mut scene = Scene {
            size: Size::new(size, size),
            title: String::new(),
            desc: String::new(),
            ground: Ground::Picture,
            items: vec![line, filled],
        };
        apply(&mut scene, &named(theme, None).expect("a theme"), &Fonts::new());
        let of = |item: &Item| if let Item::Path { path, .. } = item { path.0.len() } else { 0 };
        scene.items.iter().map(of).sum()
    }

    #[test]
    fn a_drawing_of_any_size_has_a_bounded_number_of_bends_and_lines_of_hatches() {
        for theme in ["pencil", "ink"] {
            let (usual, vast) = (commands(theme, 2_000.0), commands(theme, 1e9));
            assert!(usual > 10, "{theme}: {usual}");
            assert!(vast < 3 * MOST_PIECES as usize, "{theme}: {vast}");
        }
    }
}
