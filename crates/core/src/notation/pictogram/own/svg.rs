//! Reads an SVG of a project. Input: the bytes of a file. Output: shapes with plain colours on the grid of pictograms.
//! Guarantees: what could run, reach outside or grow beyond its size was refused before anything is read.

use super::super::{Art, GRID, OwnPaint, OwnShape};
use super::fault::IconFault;
use super::shapes::{diagonal, outline};
use super::style::{Style, length, opacity, property};
use crate::geom::{Path, pt};
use crate::theme::Colour;
use roxmltree::{Document, Node, NodeId};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::str::FromStr;
use svgtypes::{Align, AspectRatio, Color, Paint, PaintFallback, Transform, ViewBox};

/// An SVG file may have this many bytes.
// A pictogram is drawn some 24 px wide: what is larger was not made to be one.
pub const MAX_SVG: usize = 64 * 1024;
/// All paths of an SVG together may have this many segments.
pub(super) const MAX_SEGMENTS: usize = 4_000;
/// Elements of an SVG may nest so deep, and this many may repeat others.
// Reading goes down with the elements; this bounds the stack. Drawing programs nest five to ten deep.
const MAX_DEPTH: usize = 64;
const MAX_USES: usize = 16;
/// A coordinate may lie this many units from the picture; what lies further out is no picture, and would not print.
const FAR: f64 = 100_000.0;
/// What is fainter than this is not drawn.
// Nobody sees a hundredth of a colour on paper or screen.
const FAINT: f64 = 0.01;

/// Reads an SVG.
pub(super) fn read_svg(bytes: &[u8]) -> Result<Art, IconFault> {
    if bytes.len() > MAX_SVG {
        return Err(IconFault::TooLarge(MAX_SVG));
    }
    let text = std::str::from_utf8(bytes).map_err(|_| IconFault::broken("it is not UTF-8 text"))?;
    let text = &without_type(text)?;
    let xml = Document::parse(text).map_err(IconFault::broken)?;
    refuse(&xml)?;
    let mut flat = Flat {
        targets: xml.descendants().filter_map(|node| Some((node.attribute("id")?, node))).collect(),
        repeated: Vec::new(),
        takes_accent: text.contains("currentColor"),
        shapes: Vec::new(),
        segments: 0,
    };
    flat.root(xml.root_element())?;
    if flat.shapes.is_empty() {
        return Err(IconFault::broken("it draws nothing"));
    }
    Ok(Art::Shapes(flat.shapes.into()))
}

/// A text without its document type, which says nothing that is not in the file, as SVG 1.1 has one. One that declares more, such as
/// entities, is refused: few bytes of those can stand for very many.
fn without_type(text: &str) -> Result<Cow<'_, str>, IconFault> {
    let Some(start) = text.find("<!DOCTYPE") else { return Ok(Cow::Borrowed(text)) };
    let mut quote = None;
    for (at, c) in text[start..].char_indices() {
        match (quote, c) {
            (Some(open), c) if c == open => quote = None,
            (None, '"' | '\'') => quote = Some(c),
            (None, '[') => return Err(IconFault::broken("its document type declares more than a name")),
            (None, '>') => return Ok(Cow::Owned(format!("{}{}", &text[..start], &text[start + at + 1..]))),
            _ => {}
        }
    }
    Err(IconFault::broken("its document type does not end"))
}

/// What no pictogram holds: what could run or reach outside, and what could become more than its file.
const REFUSED: [&str; 15] = [
    "script",
    "foreignObject",
    "image",
    "feImage",
    "iframe",
    "audio",
    "video",
    "animate",
    "set",
    "marker",
    "pattern",
    "filter",
    "mask",
    "clipPath",
    "style",
];

/// Refuses what could run, reach outside, or grow: such elements, handlers, references that leave the file, deep nesting.
fn refuse(xml: &Document<'_>) -> Result<(), IconFault> {
    let mut uses = 0;
    let mut work = vec![(xml.root_element(), 0)];
    while let Some((node, depth)) = work.pop() {
        work.extend(node.children().filter(Node::is_element).map(|child| (child, depth + 1)));
        if depth > MAX_DEPTH {
            return Err(IconFault::Broken(format!("its elements lie more than {MAX_DEPTH} deep")));
        }
        let tag = node.tag_name().name();
        uses += usize::from(tag == "use");
        if uses > MAX_USES {
            return Err(IconFault::Broken(format!("it repeats parts more than {MAX_USES} times")));
        }
        if REFUSED.contains(&tag) {
            return Err(IconFault::Unsafe(format!("a `{tag}`")));
        }
        for attribute in node.attributes() {
            refuse_attribute(attribute.name(), attribute.value().trim())?;
        }
    }
    Ok(())
}

/// Refuses handlers and references that leave the file.
fn refuse_attribute(name: &str, value: &str) -> Result<(), IconFault> {
    if name.to_ascii_lowercase().starts_with("on") {
        return Err(IconFault::Unsafe(format!("the handler `{name}`")));
    }
    let mut urls = value.split("url(").skip(1).map(|url| url.trim_start_matches(['"', '\'', ' ']));
    if name == "href" && !value.starts_with('#') || urls.any(|url| !url.starts_with('#')) {
        let begin: String = value.chars().take(40).collect();
        return Err(IconFault::Unsafe(format!("a reference to `{begin}`")));
    }
    Ok(())
}

/// Where an element is drawn: what its coordinates become on the grid, and the viewport that percents are of.
#[derive(Clone, Copy)]
struct Place {
    transform: Transform,
    viewport: (f64, f64),
}

impl Place {
    /// Inside an element with a transform of its own.
    fn within(self, inner: Transform) -> Self {
        Self { transform: compose(self.transform, inner), ..self }
    }
}

/// A picture on the way to plain shapes.
struct Flat<'a, 'input> {
    /// Elements by their `id`.
    targets: BTreeMap<&'a str, Node<'a, 'input>>,
    /// The elements that are being repeated by a `use`: none may repeat itself.
    repeated: Vec<NodeId>,
    /// Whether black stands for the accent: the file speaks of the current colour.
    takes_accent: bool,
    shapes: Vec<OwnShape>,
    segments: usize,
}

impl<'a, 'input> Flat<'a, 'input> {
    /// The whole picture, in the middle of the grid.
    fn root(&mut self, svg: Node<'a, 'input>) -> Result<(), IconFault> {
        let view = svg.attribute("viewBox").and_then(|v| ViewBox::from_str(v).ok());
        let side = |name: &str| svg.attribute(name).filter(|v| !v.ends_with('%')).and_then(|v| length(v, 0.0));
        let sides = side("width").zip(side("height")).or(view.map(|v| (v.w, v.h)));
        let Some((w, h)) = sides.filter(|(w, h)| *w > 0.0 && *h > 0.0) else {
            return Err(IconFault::broken("it has no size; give its `svg` a `viewBox`"));
        };
        let scale = GRID / w.max(h);
        let centred = Transform::new(scale, 0.0, 0.0, scale, (GRID - w * scale) / 2.0, (GRID - h * scale) / 2.0);
        let place = Place { transform: centred, viewport: (w, h) };
        let place = view.map_or(place, |view| into_viewport(place, svg, view));
        let style = Style::initial().within(svg, diagonal(place.viewport));
        self.children(svg, place, &style)
    }

    fn children(&mut self, node: Node<'a, 'input>, place: Place, style: &Style<'a>) -> Result<(), IconFault> {
        node.children().filter(Node::is_element).try_for_each(|child| self.element(child, place, style))
    }

    fn element(&mut self, node: Node<'a, 'input>, place: Place, around: &Style<'a>) -> Result<(), IconFault> {
        if property(node, "display") == Some("none") {
            return Ok(());
        }
        let style = around.within(node, diagonal(place.viewport));
        let own = node.attribute("transform").and_then(|t| Transform::from_str(t).ok());
        let place = own.map_or(place, |own| place.within(own));
        match node.tag_name().name() {
            "g" | "a" => self.children(node, place, &style),
            // The first that can be shown; no condition is known here, so the first.
            "switch" => {
                node.children().find(Node::is_element).map_or(Ok(()), |child| self.element(child, place, &style))
            }
            "svg" => self.children(node, viewport(node, node, shifted(node, place)), &style),
            "use" => self.repeat(node, shifted(node, place), &style),
            _ => outline(node, place.viewport).map_or(Ok(()), |path| self.shape(path, place, &style)),
        }
    }

    /// What a `use` repeats.
    fn repeat(&mut self, node: Node<'a, 'input>, place: Place, style: &Style<'a>) -> Result<(), IconFault> {
        let href = node.attributes().find(|a| a.name() == "href").map(|a| a.value().trim_start_matches('#'));
        let Some(target) = href.and_then(|id| self.targets.get(id)).copied() else { return Ok(()) };
        if self.repeated.contains(&target.id()) || node.ancestors().any(|around| around == target) {
            return Err(IconFault::broken("a `use` repeats itself"));
        }
        self.repeated.push(target.id());
        let done = if target.tag_name().name() == "symbol" {
            let style = style.within(target, diagonal(place.viewport));
            self.children(target, viewport(target, node, place), &style)
        } else {
            self.element(target, place, style)
        };
        self.repeated.pop();
        done
    }

    fn shape(&mut self, path: Path, place: Place, style: &Style<'a>) -> Result<(), IconFault> {
        self.segments += path.0.len();
        if self.segments > MAX_SEGMENTS {
            return Err(IconFault::Broken(format!("its paths have more than {MAX_SEGMENTS} segments")));
        }
        let t = place.transform;
        let path = path.mapped(|p| pt(t.a * p.x + t.c * p.y + t.e, t.b * p.x + t.d * p.y + t.f));
        let is_far = |p: crate::geom::Point| !(p.x.abs() < FAR && p.y.abs() < FAR);
        if path.points().any(is_far) {
            return Err(IconFault::broken("it draws far outside of its own size"));
        }
        let fill = self.paint(style.fill, style.fill_opacity, style);
        // A line that a transform stretches to one side is as wide as in its longer direction.
        let width = style.stroke_width * libm::hypot(t.a, t.b).max(libm::hypot(t.c, t.d));
        let stroke = self.paint(style.stroke, style.stroke_opacity, style).filter(|_| width > 0.0 && width < FAR);
        if style.is_visible && (fill.is_some() || stroke.is_some()) {
            self.shapes.push(OwnShape { path, fill, stroke: stroke.map(|paint| (paint, width)) });
        }
        Ok(())
    }

    /// A plain colour; that of a gradient is its first. What shines through is mixed with white.
    fn paint(&self, paint: Paint<'a>, own: f64, style: &Style<'a>) -> Option<OwnPaint> {
        let colour = match paint {
            Paint::Color(colour) => colour,
            Paint::CurrentColor => style.colour,
            Paint::FuncIRI(id, fallback) => self.first_stop(id, style).or(match fallback {
                Some(PaintFallback::Color(colour)) => Some(colour),
                Some(PaintFallback::CurrentColor) => Some(style.colour),
                Some(PaintFallback::None) | None => None,
            })?,
            Paint::None | Paint::Inherit | Paint::ContextFill | Paint::ContextStroke => return None,
        };
        let opacity = own * style.opacity * f64::from(colour.alpha) / 255.0;
        if opacity <= FAINT {
            return None;
        }
        if self.takes_accent && (colour.red, colour.green, colour.blue) == (0, 0, 0) {
            return Some(OwnPaint::Accent);
        }
        let mixed = |c: u8| libm::round(f64::from(c) * opacity + 255.0 * (1.0 - opacity)) as u8;
        Some(OwnPaint::Colour(Colour { r: mixed(colour.red), g: mixed(colour.green), b: mixed(colour.blue) }))
    }

    /// The first colour of a gradient, which may take its stops from another.
    fn first_stop(&self, id: &str, style: &Style<'a>) -> Option<Color> {
        let mut gradient = *self.targets.get(id)?;
        // As deep as elements may nest: gradients that take from each other in a circle have no stop.
        for _ in 0..MAX_DEPTH {
            if let Some(stop) = gradient.children().find(|child| child.tag_name().name() == "stop") {
                let colour = match property(stop, "stop-color") {
                    Some("currentColor") => style.colour,
                    written => written.and_then(|c| Color::from_str(c).ok()).unwrap_or(Color::black()),
                };
                let own = property(stop, "stop-opacity").and_then(opacity).unwrap_or(1.0);
                return Some(Color { alpha: libm::round(f64::from(colour.alpha) * own) as u8, ..colour });
            }
            let next = gradient.attributes().find(|a| a.name() == "href")?.value().trim_start_matches('#');
            gradient = *self.targets.get(next)?;
        }
        None
    }
}

/// The place of an element that `x` and `y` shift.
fn shifted(node: Node<'_, '_>, place: Place) -> Place {
    let (w, h) = place.viewport;
    let at = |name: &str, whole: f64| node.attribute(name).and_then(|v| length(v, whole)).unwrap_or(0.0);
    place.within(Transform::new(1.0, 0.0, 0.0, 1.0, at("x", w), at("y", h)))
}

/// The place inside an `svg` or a `symbol`, whose sides stand at `sides`: at itself, or at the `use` that repeats it.
fn viewport(node: Node<'_, '_>, sides: Node<'_, '_>, place: Place) -> Place {
    let (w, h) = place.viewport;
    let side = |name: &str, whole: f64| sides.attribute(name).and_then(|v| length(v, whole)).unwrap_or(whole);
    let place = Place { viewport: (side("width", w), side("height", h)), ..place };
    let view = node.attribute("viewBox").and_then(|v| ViewBox::from_str(v).ok());
    view.map_or(place, |view| into_viewport(place, node, view))
}

/// The place inside a view box that is fitted into the viewport (SVG 2, 8.2).
fn into_viewport(place: Place, node: Node<'_, '_>, view: ViewBox) -> Place {
    let aspect = node.attribute("preserveAspectRatio").and_then(|v| AspectRatio::from_str(v).ok());
    let aspect = aspect.unwrap_or(AspectRatio { defer: false, align: Align::XMidYMid, slice: false });
    let (w, h) = place.viewport;
    let (sx, sy) = (w / view.w, h / view.h);
    let uniform = if aspect.slice { sx.max(sy) } else { sx.min(sy) };
    let (sx, sy) = if aspect.align == Align::None { (sx, sy) } else { (uniform, uniform) };
    let (along, down) = shares(aspect.align);
    let (dx, dy) = ((w - view.w * sx) * along - view.x * sx, (h - view.h * sy) * down - view.y * sy);
    Place { viewport: (view.w, view.h), ..place.within(Transform::new(sx, 0.0, 0.0, sy, dx, dy)) }
}

/// Which share of the room left over stands before the picture, along and down.
fn shares(align: Align) -> (f64, f64) {
    match align {
        Align::None | Align::XMinYMin => (0.0, 0.0),
        Align::XMidYMin => (0.5, 0.0),
        Align::XMaxYMin => (1.0, 0.0),
        Align::XMinYMid => (0.0, 0.5),
        Align::XMidYMid => (0.5, 0.5),
        Align::XMaxYMid => (1.0, 0.5),
        Align::XMinYMax => (0.0, 1.0),
        Align::XMidYMax => (0.5, 1.0),
        Align::XMaxYMax => (1.0, 1.0),
    }
}

/// Applies `inner`, then `outer`.
fn compose(outer: Transform, inner: Transform) -> Transform {
    Transform {
        a: outer.a * inner.a + outer.c * inner.b,
        b: outer.b * inner.a + outer.d * inner.b,
        c: outer.a * inner.c + outer.c * inner.d,
        d: outer.b * inner.c + outer.d * inner.d,
        e: outer.a * inner.e + outer.c * inner.f + outer.e,
        f: outer.b * inner.e + outer.d * inner.f + outer.f,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::Point;

    const XML: &str = "xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\"";

    fn read(attributes: &str, body: &str) -> Result<Vec<OwnShape>, IconFault> {
        match read_svg(format!("<svg {XML} {attributes}>{body}</svg>").as_bytes())? {
            Art::Shapes(shapes) => Ok(shapes.to_vec()),
            other => panic!("{other:?}"),
        }
    }

    /// The upper left and the lower right corner of the only shape, on the grid of 24.
    fn corners(attributes: &str, body: &str) -> [(f64, f64); 2] {
        let shapes = read(attributes, body).expect(body);
        assert_eq!(shapes.len(), 1, "{body}");
        let all: Vec<Point> = shapes[0].path.points().collect();
        let fold = |of: fn(&Point) -> f64, by: fn(f64, f64) -> f64| all.iter().map(of).reduce(by).unwrap_or_default();
        [(fold(|p| p.x, f64::min), fold(|p| p.y, f64::min)), (fold(|p| p.x, f64::max), fold(|p| p.y, f64::max))]
    }

    /// The colour with which the only shape is filled.
    fn fill(body: &str) -> Option<String> {
        let shapes = read("viewBox='0 0 24 24'", body).expect(body);
        shapes[0].fill.map(|paint| match paint {
            OwnPaint::Accent => "accent".to_owned(),
            OwnPaint::Colour(colour) => colour.hex(),
        })
    }

    #[test]
    fn a_picture_fills_the_grid_and_lies_in_its_middle() {
        let square = "<rect width='100%' height='100%'/>";
        assert_eq!(corners("viewBox='0 0 10 10'", square), [(0.0, 0.0), (24.0, 24.0)]);
        assert_eq!(corners("width='48' height='24'", square), [(0.0, 6.0), (24.0, 18.0)]);
        assert_eq!(corners("width='12' height='12' viewBox='0 0 100 100'", square), [(0.0, 0.0), (24.0, 24.0)]);
        let moved = "<rect x='-10' y='-10' width='10' height='10'/>";
        assert_eq!(corners("viewBox='-10 -10 10 10'", moved), [(0.0, 0.0), (24.0, 24.0)]);
    }

    #[test]
    fn a_view_box_keeps_its_proportions_unless_it_is_told_not_to() {
        let square = "<rect width='10' height='10'/>";
        let view = "width='24' height='12' viewBox='0 0 10 10'";
        assert_eq!(corners(view, square), [(6.0, 6.0), (18.0, 18.0)]);
        assert_eq!(corners(&format!("{view} preserveAspectRatio='xMinYMid'"), square), [(0.0, 6.0), (12.0, 18.0)]);
        assert_eq!(corners(&format!("{view} preserveAspectRatio='none'"), square), [(0.0, 6.0), (24.0, 18.0)]);
        assert_eq!(
            corners(&format!("{view} preserveAspectRatio='xMidYMax slice'"), square),
            [(0.0, -6.0), (24.0, 18.0)]
        );
    }

    #[test]
    fn transforms_add_up_from_the_outside_in() {
        let view = "viewBox='0 0 24 24'";
        let body = "<g transform='translate(4 0)'><g transform='scale(2)'><rect width='3' height='1'/></g></g>";
        assert_eq!(corners(view, body), [(4.0, 0.0), (10.0, 2.0)]);
        let [a, b] = corners(view, "<rect width='4' height='2' transform='rotate(90)'/>");
        let near = |a: (f64, f64), b: (f64, f64)| (a.0 - b.0).abs() < 1e-9 && (a.1 - b.1).abs() < 1e-9;
        assert!(near(a, (-2.0, 0.0)) && near(b, (0.0, 4.0)), "{a:?} {b:?}");
        // Inside out it would be moved first and scaled then.
        let inner = "<svg x='4' y='4' width='8' height='8' viewBox='0 0 2 2'><rect width='1' height='1'/></svg>";
        assert_eq!(corners(view, inner), [(4.0, 4.0), (8.0, 8.0)]);
    }

    #[test]
    fn parts_are_repeated_where_they_are_used() {
        let view = "viewBox='0 0 24 24'";
        let body = "<defs><rect id='r' width='2' height='2'/></defs><use href='#r' x='5' y='6'/>";
        assert_eq!(corners(view, body), [(5.0, 6.0), (7.0, 8.0)]);
        let symbol = "<symbol id='s' viewBox='0 0 1 1'><rect width='1' height='1'/></symbol>\
                      <use xlink:href='#s' x='1' y='1' width='10' height='10'/>";
        assert_eq!(corners(view, symbol), [(1.0, 1.0), (11.0, 11.0)]);
        // What is repeated inherits from where it is used.
        let body = "<defs><rect id='r' width='2' height='2'/></defs><use href='#r' fill='#123456'/>";
        assert_eq!(fill(body).as_deref(), Some("#123456"));
        for circle in [
            "<g id='a'><use href='#a'/></g>",
            "<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>",
            "<use id='a' href='#a'/>",
        ] {
            assert_eq!(read(view, circle).err(), Some(IconFault::broken("a `use` repeats itself")), "{circle}");
        }
        // What is not there draws nothing.
        assert_eq!(read(view, "<use href='#gone'/>").err(), Some(IconFault::broken("it draws nothing")));
    }

    #[test]
    fn colours_are_plain() {
        for (body, expected) in [
            ("<rect width='9' height='9'/>", Some("#000000")),
            ("<rect width='9' height='9' fill='teal'/>", Some("#008080")),
            ("<rect width='9' height='9' fill='currentColor'/>", Some("accent")),
            ("<g color='red'><rect width='9' height='9' fill='currentColor'/></g>", Some("#ff0000")),
            ("<rect width='9' height='9' fill='none' stroke='red'/>", None),
            ("<rect width='9' height='9' fill='red' fill-opacity='0.5'/>", Some("#ff8080")),
            ("<g opacity='0.5'><rect width='9' height='9' fill='red'/></g>", Some("#ff8080")),
            ("<rect width='9' height='9' fill='red' opacity='0' stroke='red' stroke-opacity='9'/>", None),
            ("<rect width='9' height='9' fill='rgba(255, 0, 0, 0.5)'/>", Some("#ff7f7f")),
        ] {
            // What cannot be seen at all draws nothing, which the last but one of these does.
            let shapes = read("viewBox='0 0 24 24'", body);
            match expected {
                Some(colour) => assert_eq!(fill(body).as_deref(), Some(colour), "{body}"),
                None => assert!(shapes.map_or(true, |s| s[0].fill.is_none()), "{body}"),
            }
        }
    }

    #[test]
    fn of_a_gradient_the_first_colour_is_taken() {
        let stops = "<stop stop-color='#102030'/><stop stop-color='white'/>";
        let rect = "<rect width='9' height='9' fill='url(#g)'/>";
        assert_eq!(fill(&format!("<linearGradient id='g'>{stops}</linearGradient>{rect}")).as_deref(), Some("#102030"));
        let other = format!("<radialGradient id='h'>{stops}</radialGradient><linearGradient id='g' href='#h'/>{rect}");
        assert_eq!(fill(&other).as_deref(), Some("#102030"));
        // Gradients that take from each other in a circle have none, and another paint may stand in.
        let circle = "<linearGradient id='g' href='#h'/><linearGradient id='h' href='#g'/>";
        assert!(read("viewBox='0 0 24 24'", &format!("{circle}{rect}")).is_err());
        let fallback = "<rect width='9' height='9' fill='url(#g) red'/>";
        assert_eq!(fill(&format!("{circle}{fallback}")).as_deref(), Some("#ff0000"));
    }

    #[test]
    fn lines_are_as_wide_as_on_the_grid() {
        let body = "<g transform='scale(3 1)'><path d='M0 0H9' stroke='red' stroke-width='2'/></g>";
        let shapes = read("viewBox='0 0 48 48'", body).expect("a line");
        assert!(matches!(shapes[0].stroke, Some((_, width)) if (width - 3.0).abs() < 1e-9), "{:?}", shapes[0].stroke);
    }

    #[test]
    fn what_is_hidden_is_not_drawn() {
        for body in [
            "<rect width='9' height='9' display='none'/>",
            "<g display='none'><rect width='9' height='9'/></g>",
            "<g visibility='hidden'><rect width='9' height='9'/></g>",
            "<defs><rect width='9' height='9'/></defs>",
            "<symbol><rect width='9' height='9'/></symbol>",
            "<text>level</text>",
        ] {
            assert_eq!(read("viewBox='0 0 24 24'", body).err(), Some(IconFault::broken("it draws nothing")), "{body}");
        }
        let seen = "<g visibility='hidden'><rect width='9' height='9' visibility='visible'/></g>";
        assert!(read("viewBox='0 0 24 24'", seen).is_ok());
        let body = "<switch><rect width='1' height='1'/><rect width='9' height='9'/></switch>";
        assert_eq!(corners("viewBox='0 0 24 24'", body), [(0.0, 0.0), (1.0, 1.0)]);
    }

    #[test]
    fn sizes_and_figures_are_sane() {
        let square = "<rect width='1' height='1'/>";
        for attributes in ["", "width='0' height='0'", "width='-1' height='4'", "viewBox='0 0 0 4'", "viewBox='a'"] {
            let why = read(attributes, square).err();
            assert_eq!(why, Some(IconFault::broken("it has no size; give its `svg` a `viewBox`")), "{attributes}");
        }
        for body in [
            "<path d='M0 0L1e300 1e300'/>",
            "<path d='M0 0L9 9' transform='scale(1e200)'/>",
            "<g transform='scale(1e200)'><g transform='scale(1e200)'><rect width='9' height='9'/></g></g>",
            "<rect x='1e9' width='9' height='9'/>",
        ] {
            let why = read("viewBox='0 0 24 24'", body).err();
            assert_eq!(why, Some(IconFault::broken("it draws far outside of its own size")), "{body}");
        }
    }
}
