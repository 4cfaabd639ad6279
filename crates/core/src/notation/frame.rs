//! Contour frames: a container is an outline with a narrow tinted band along its inner edge, as sea
//! charts tint the shore; the ground inside stays paper. The depth of nesting stands as a small figure
//! that interrupts the outline, as a depth interrupts its contour. Titles of groups stand here, too: where in the band, and how
//! wide.

use super::context::Context;
use super::in_the_way::InTheWay;
use super::pictogram::Art;
use super::shaper::icon_of;
use super::text::texts_in;
use crate::geom::{Path, Point, Rect, Size, pt};
use crate::measure::{Face, Fonts, TextBlock, wrap};
use crate::model::{Diagram, Element, ElementId, ElementKind, Heading};
use crate::scene::{Item, Role, Stroke, Tag, Text, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Dash, ElementStyle, Ground, Paint};

/// Room around a depth figure that lines keep out of.
const FIGURE: f64 = 14.0;
/// Width of the band.
const BAND: f64 = 5.0;
/// The tab of a package: as high and wide as lines keep away from frames and from what they hold.
const TAB: Size = Size { w: 24.0, h: 7.0 };
/// How wide a line of a title may be, and that of a title before its lane, in px.
// A longer title wraps: it would make its frame wider than what it holds.
const WIDEST: f64 = 240.0;
const BEFORE: f64 = 108.0;
/// Size of a title's pictogram.
const ICON: f64 = 18.0;

/// The title of a container.
pub(super) struct FrameTitle {
    block: TextBlock,
    icon: Option<Art>,
    /// Its technology, on a tab below the name.
    built: Option<TextBlock>,
    /// Its whole size.
    pub(super) size: Size,
}

impl FrameTitle {
    /// The title of a container; that of a lane whose steps lie side by side stands before them, and takes little room there.
    pub(super) fn new(context: &Context<'_>, element: &Element, style: &ElementStyle, heading: Heading) -> Self {
        let is_before = element.kind == ElementKind::Lane && matches!(heading, Heading::Left | Heading::Right);
        let widest = if is_before { BEFORE } else { WIDEST };
        let fonts = context.fonts;
        let shown = element.shown();
        if shown.text().is_empty() {
            return Self { block: TextBlock::default(), icon: None, built: None, size: Size::default() };
        }
        let mut block = wrap(fonts, &shown, Face::Bold, 13.5, widest);
        // A state that holds others shows its behaviours below its name.
        let members = element.class.iter().flat_map(|body| &body.compartments).flat_map(|c| &c.members);
        for member in members.filter(|_| element.kind == ElementKind::State) {
            let label = Label::plain(member.text.as_str(), element.span);
            block.lines.extend(wrap(fonts, &label, Face::Regular, 13.5, 300.0).lines);
        }
        let boxed = element.kind.is_box() || element.kind == ElementKind::State;
        let icon = icon_of(context.icons, element, style).filter(|_| !boxed);
        let left = if icon.is_some() { ICON + 7.0 } else { 0.0 };
        let built = element.properties.built.as_ref().filter(|_| !boxed);
        let built = built.map(|label| wrap(fonts, label, Face::Regular, 11.0, 140.0));
        let tab = built.as_ref().map_or(Size::default(), tab_of);
        let below = if built.is_some() { tab.h + TAB_GAP } else { 0.0 };
        let size = Size::new(
            crate::geom::up4(block.width().max(tab.w) + left),
            (block.height() + below).max(if icon.is_some() { ICON } else { 0.0 }),
        );
        Self { block, icon, built, size }
    }
}

/// Room between a title and its tab.
const TAB_GAP: f64 = 3.0;

/// The tab for a technology.
fn tab_of(built: &TextBlock) -> Size {
    Size::new(built.width() + 12.0, built.height() + 3.0)
}

/// How many containers are around a container, itself included; groups are boxes only.
pub(super) fn depth(diagram: &Diagram, id: ElementId) -> usize {
    let around = diagram.ancestors(id).filter(|a| !diagram.element(*a).kind.is_box());
    1 + around.count()
}

/// Where the parts of a container are.
pub(super) struct Parts<'a> {
    pub(super) frame: Rect,
    pub(super) title: Rect,
    /// The room of the title: of a lane, a band from side to side.
    pub(super) header: Rect,
    pub(super) look: Look<'a>,
}

/// How a container that is a box only looks.
#[derive(Clone, Copy)]
pub(super) enum Look<'a> {
    /// A dashed box.
    Box,
    /// A package; the lines that its tab keeps clear of.
    Package(&'a InTheWay),
    /// A region without a box, and the line that divides it from the one before it.
    Region(Option<[Point; 2]>),
}

/// Draws a lane, in every column of the picture in which it goes on: two parallel lines with a band at one end (UML 2.5.1,
/// 15.6.4). The bands are its outline for those who read the drawing, since lines between other lanes may pass the ground
/// below them.
pub(super) fn lane(title: &FrameTitle, pieces: &[Parts<'_>], style: &ElementStyle) -> Vec<Item> {
    let stroke = Some(outline(1.1, style));
    let ground =
        |p: &Parts<'_>| Item::Path { path: Path::rect(p.frame), fill: Some(Paint::PICTURE), stroke, role: None };
    let mut items: Vec<Item> = pieces.iter().map(ground).collect();
    let bands = pieces.iter().map(|p| Path::rect(p.header)).reduce(Path::and);
    let fill = style.band.unwrap_or(Ground::Band(0));
    items.extend(bands.map(|path| Item::Path { path, fill: Some(fill.into()), stroke, role: Some(Role::Frame) }));
    items.extend(pieces.iter().flat_map(|p| caption(title, p, fill, style)));
    items
}

/// Draws a container's frame, without its figure.
pub(super) fn draw(
    element: &Element, title: &FrameTitle, parts: &Parts<'_>, depth: usize, style: &ElementStyle,
) -> Vec<Item> {
    let place = parts.frame;
    let mut items = match (element.kind, parts.look) {
        (ElementKind::Group, Look::Package(lines)) => package(place, lines, style),
        (ElementKind::Region, Look::Region(divider)) => region(place, divider),
        (ElementKind::Group, _) if style.band.is_some() => {
            contour(place, depth, &ElementStyle { dash: Dash::Dashed, ..style.clone() })
        }
        (ElementKind::Group | ElementKind::Region, _) => vec![Item::Path {
            path: Path::rounded(place, 6.0),
            fill: Some(Paint::PICTURE),
            stroke: Some(Stroke { dash: Dash::Dashed, ..outline(1.1, style) }),
            role: Some(Role::Frame),
        }],
        _ => contour(place, depth, style),
    };
    items.extend(caption(title, parts, Ground::Picture, style));
    items
}

/// The outline of a container: the theme's, or what was asked for.
fn outline(width: f64, style: &ElementStyle) -> Stroke {
    let width = if style.width == ElementStyle::WIDTH { width } else { style.width };
    Stroke { dash: style.dash, ..Stroke::solid(style.frame.map_or(Paint::Frame, Paint::from), width) }
}

/// The title of a container on a ground, with its pictogram.
fn caption(title: &FrameTitle, parts: &Parts<'_>, ground: Ground, style: &ElementStyle) -> Vec<Item> {
    let (mut left, header) = (parts.title.x, parts.header);
    let mut items = Vec::new();
    if let Some(art) = &title.icon {
        let y = header.y + (header.h - ICON) / 2.0;
        items.extend(art.draw((left, y, ICON), style.accent, 1.4));
        left += ICON + 7.0;
    }
    let below = title.built.as_ref().map_or(0.0, |built| tab_of(built).h + TAB_GAP);
    let y = header.y + (header.h - title.block.height() - below) / 2.0;
    let text = Rect::new(left, y, title.block.width(), title.block.height());
    let colour = style.written.map_or(Paint::TextOn(ground), |written| Paint::ColouredOn(written, ground));
    items.extend(texts_in(&title.block, text, TextAnchor::Start, colour));
    if let Some(built) = &title.built {
        let size = tab_of(built);
        let tab = Rect::new(text.x, text.bottom() + TAB_GAP, size.w, size.h);
        let (fill, quiet) = (Paint::TabOn(ground, style.written), Paint::QuietOn(ground, style.written));
        items.push(Item::Path { path: Path::rounded(tab, 3.0), fill: Some(fill), stroke: None, role: None });
        let place = Rect::around(tab.middle(), Size::new(built.width(), built.height()));
        items.extend(texts_in(built, place, TextAnchor::Middle, quiet));
    }
    items
}

fn contour(place: Rect, depth: usize, style: &ElementStyle) -> Vec<Item> {
    let external = style.dash != Dash::Solid;
    let stroke = outline(1.25, style);
    let inner = Path::rounded(place.grown(-BAND), 8.0);
    vec![
        Item::Path {
            path: Path::rounded(place, 12.0),
            fill: Some(match style.band {
                Some(own) => own.into(),
                None if external => Paint::PICTURE,
                None => Paint::band(depth - 1),
            }),
            stroke: Some(stroke),
            role: Some(Role::Frame),
        },
        Item::Path { path: inner, fill: Some(Paint::PICTURE), stroke: None, role: None },
    ]
}

/// A package: a rectangle with a small tab at the left of its upper side (UML 2.5.1, 12.2.4), where no line is.
fn package(place: Rect, lines: &InTheWay, style: &ElementStyle) -> Vec<Item> {
    let stroke = Some(outline(1.1, style));
    let at = |x: f64| Rect::new(x, place.y - TAB.h, TAB.w.min(place.w), TAB.h);
    let room = |tab: &Rect| Rect::new(tab.x - FIGURE / 2.0, tab.y, tab.w + FIGURE, tab.h + 1.0);
    let is_free = |tab: &Rect| !lines.is_crossed(room(tab));
    let steps = tries(place.w - TAB.w);
    let tab = (0..=steps).map(|i| at(place.x + 6.0 * i as f64)).find(is_free).unwrap_or(at(place.x));
    vec![
        Item::Path {
            path: Path::rect(tab),
            fill: Some(style.band.map_or(Paint::band(0), Paint::from)),
            stroke,
            role: None,
        },
        Item::Path { path: Path::rect(place), fill: Some(Paint::PICTURE), stroke, role: Some(Role::Frame) },
    ]
}

/// A region: only a dashed line between it and its neighbour (UML 2.5.1, 14.2.4).
fn region(place: Rect, divider: Option<[Point; 2]>) -> Vec<Item> {
    let stroke = Some(Stroke { paint: Paint::Frame, width: 1.1, dash: Dash::Dashed });
    let frame =
        Item::Path { path: Path::rect(place), fill: Some(Paint::PICTURE), stroke: None, role: Some(Role::Frame) };
    let line = |line: [Point; 2]| Item::Path { path: Path::line(&line), fill: None, stroke, role: None };
    std::iter::once(frame).chain(divider.map(line)).collect()
}

/// How many places along a side are tried, 6 px from one to the next.
// Nobody looks for a figure or a tab further from its corner than some 10,000 px.
fn tries(length: f64) -> usize {
    (length / 6.0).clamp(0.0, 2_000.0) as usize
}

/// Where on a frame's outline its depth is shown: near its upper right corner, or where nothing is in the way.
fn depth_place(place: Rect, in_the_way: &InTheWay) -> Point {
    let room = |at: Point| Rect::around(at, Size::new(2.0 * FIGURE, 2.0 * FIGURE));
    let (upper, lower) = (place.y + BAND / 2.0, place.bottom() - BAND / 2.0);
    let steps = tries(place.w - 52.0);
    let along = |y: f64| (0..=steps).map(move |i| pt(place.right() - 26.0 - 6.0 * i as f64, y));
    let free = along(upper).chain(along(lower)).find(|at| !in_the_way.meets(room(*at)));
    free.unwrap_or(pt(place.right() - 26.0, upper))
}

/// The figure that shows a contour frame's depth, drawn over its outline where nothing of what may be in the way is.
pub(super) fn depth_figure(place: Rect, depth: usize, in_the_way: &InTheWay, fonts: &Fonts) -> Item {
    let text = depth.to_string();
    let face = fonts.cast(Face::Regular);
    let w = fonts.width(&text, face, 11.0);
    let middle = depth_place(place, in_the_way);
    // Lines drawn by hand stray by two px.
    let patch = Rect::around(middle, Size::new(w + 10.0, BAND + 6.0));
    let spans = vec![crate::measure::TextSpan { text, face, script: Default::default() }];
    Item::Group(
        Tag::Plain,
        vec![
            Item::Path { path: Path::rect(patch), fill: Some(Paint::PICTURE), stroke: None, role: None },
            Item::Text(Text {
                x: middle.x,
                y: middle.y + 3.8,
                anchor: TextAnchor::Middle,
                spans,
                size: 11.0,
                fill: Paint::Quiet,
                underline: false,
                writing: Default::default(),
            }),
        ],
    )
}
