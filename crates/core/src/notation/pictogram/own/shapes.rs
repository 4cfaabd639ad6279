//! The outlines of an SVG's basic shapes and paths (SVG 2, chapters 9 and 10), in user units.

use super::style::{length, property};
use crate::geom::{Cmd, Path, Point, Rect, between, pt};
use roxmltree::Node;
use svgtypes::{PointsParser, SimplePathSegment, SimplifyingPathParser};

/// The outline of an element, or nothing if it is no shape; percents are of the viewport's sides.
pub(super) fn outline(node: Node<'_, '_>, (w, h): (f64, f64)) -> Option<Path> {
    let number = |name: &str, whole: f64| length(property(node, name)?, whole);
    let or_zero = |name: &str, whole: f64| number(name, whole).unwrap_or(0.0);
    let diagonal = diagonal((w, h));
    match node.tag_name().name() {
        "path" => Some(path(property(node, "d")?)),
        "rect" => {
            let rect = Rect::new(or_zero("x", w), or_zero("y", h), number("width", w)?, number("height", h)?);
            let (rx, ry) = (number("rx", w), number("ry", h));
            Some(rounded(rect, rx.or(ry).unwrap_or(0.0), ry.or(rx).unwrap_or(0.0)))
        }
        "circle" => {
            let r = number("r", diagonal)?;
            Some(ellipse(or_zero("cx", w), or_zero("cy", h), r, r))
        }
        "ellipse" => Some(ellipse(or_zero("cx", w), or_zero("cy", h), number("rx", w)?, number("ry", h)?)),
        "line" => Some(Path::line(&[pt(or_zero("x1", w), or_zero("y1", h)), pt(or_zero("x2", w), or_zero("y2", h))])),
        "polyline" => Some(Path::line(&points(node))),
        "polygon" => Some(Path::polygon(&points(node))),
        _ => None,
    }
    .filter(|path| path.0.len() > 1)
}

/// What percents of a length that is neither horizontal nor vertical are of (SVG 2, 8.9).
pub(super) fn diagonal((w, h): (f64, f64)) -> f64 {
    libm::hypot(w, h) / std::f64::consts::SQRT_2
}

fn ellipse(cx: f64, cy: f64, rx: f64, ry: f64) -> Path {
    if rx <= 0.0 || ry <= 0.0 {
        return Path::default();
    }
    Path::ellipse(Rect::new(cx - rx, cy - ry, rx * 2.0, ry * 2.0))
}

/// A rectangle whose corners are quarters of an ellipse: drawn with round corners in a plane that is then stretched.
fn rounded(rect: Rect, rx: f64, ry: f64) -> Path {
    let (rx, ry) = (rx.min(rect.w / 2.0), ry.min(rect.h / 2.0));
    if rect.w <= 0.0 || rect.h <= 0.0 {
        return Path::default();
    }
    if rx <= 0.0 || ry <= 0.0 {
        return Path::rect(rect);
    }
    let stretch = ry / rx;
    let round = Path::rounded(Rect::new(rect.x, rect.y / stretch, rect.w, rect.h / stretch), rx);
    round.mapped(|p| pt(p.x, p.y * stretch))
}

fn points(node: Node<'_, '_>) -> Vec<Point> {
    PointsParser::from(property(node, "points").unwrap_or_default()).map(|(x, y)| pt(x, y)).collect()
}

/// The commands of a path up to its first error, which is how far the standard wants it drawn (SVG 2, 9.5.4).
fn path(data: &str) -> Path {
    let mut out = Path::default();
    let mut last = pt(0.0, 0.0);
    for segment in SimplifyingPathParser::from(data).map_while(Result::ok) {
        let cmd = match segment {
            SimplePathSegment::MoveTo { x, y } => Cmd::Move(pt(x, y)),
            SimplePathSegment::LineTo { x, y } => Cmd::Line(pt(x, y)),
            SimplePathSegment::CurveTo { x1, y1, x2, y2, x, y } => Cmd::Curve(pt(x1, y1), pt(x2, y2), pt(x, y)),
            SimplePathSegment::Quadratic { x1, y1, x, y } => {
                let (end, control) = (pt(x, y), pt(x1, y1));
                // The cubic curve that follows it has its control points two thirds of the way to its own.
                Cmd::Curve(between(last, control, 2.0 / 3.0), between(end, control, 2.0 / 3.0), end)
            }
            SimplePathSegment::ClosePath => Cmd::Close,
        };
        if let Cmd::Move(p) | Cmd::Line(p) | Cmd::Curve(_, _, p) = cmd {
            last = p;
        }
        out.0.push(cmd);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The outline of the only element of an SVG, in a viewport of 200 x 100.
    fn of(element: &str) -> Option<Path> {
        let text = format!("<svg xmlns=\"http://www.w3.org/2000/svg\">{element}</svg>");
        let xml = roxmltree::Document::parse(&text).expect("XML");
        outline(xml.root_element().first_element_child().expect("an element"), (200.0, 100.0))
    }

    /// The smallest rectangle around all points of a path, rounded.
    fn bounds(element: &str) -> Option<(i64, i64, i64, i64)> {
        let path = of(element)?;
        let round = |v: f64| libm::round(v) as i64;
        let points: Vec<Point> = path.points().collect();
        let least = |of: fn(&Point) -> f64| round(points.iter().map(of).fold(f64::INFINITY, f64::min));
        let most = |of: fn(&Point) -> f64| round(points.iter().map(of).fold(f64::NEG_INFINITY, f64::max));
        Some((least(|p| p.x), least(|p| p.y), most(|p| p.x), most(|p| p.y)))
    }

    #[test]
    fn every_basic_shape_has_its_outline() {
        for (element, expected) in [
            ("<rect x='1' y='2' width='30' height='40'/>", (1, 2, 31, 42)),
            ("<rect width='30' height='40' rx='9' ry='4'/>", (0, 0, 30, 40)),
            ("<rect width='50%' height='50%'/>", (0, 0, 100, 50)),
            ("<rect width='1in' height='36pt'/>", (0, 0, 96, 48)),
            ("<circle cx='10' cy='10' r='5'/>", (5, 5, 15, 15)),
            ("<ellipse cx='10' cy='10' rx='5' ry='2'/>", (5, 8, 15, 12)),
            ("<line x1='1' y1='2' x2='3' y2='4'/>", (1, 2, 3, 4)),
            ("<polyline points='0,0 10,0 10,7'/>", (0, 0, 10, 7)),
            ("<polygon points='0 0 10 0 10 7'/>", (0, 0, 10, 7)),
            ("<path d='M1 1h8v8h-8z'/>", (1, 1, 9, 9)),
            ("<path d='m1 1 q4 4 8 0'/>", (1, 1, 9, 4)),
            ("<path d='M0 0 C0 9 9 9 9 0'/>", (0, 0, 9, 9)),
            ("<path d='M0 5 A5 5 0 0 1 10 5'/>", (0, 0, 10, 5)),
        ] {
            assert_eq!(bounds(element), Some(expected), "{element}");
        }
    }

    #[test]
    fn what_has_no_extent_has_no_outline() {
        for element in [
            "<rect width='30'/>",
            "<rect width='-3' height='4'/>",
            "<rect width='0' height='4'/>",
            "<circle/>",
            "<circle r='0'/>",
            "<ellipse rx='3'/>",
            "<path/>",
            "<path d=''/>",
            "<path d='M1 1'/>",
            "<polyline points=''/>",
            "<text>level</text>",
            "<g/>",
        ] {
            assert_eq!(of(element), None, "{element}");
        }
    }

    #[test]
    fn a_path_is_drawn_up_to_its_first_error() {
        let Some(path) = of("<path d='M0 0 L9 0 L9 x 0 9'/>") else { panic!("two points are drawn") };
        assert_eq!(path.0, [Cmd::Move(pt(0.0, 0.0)), Cmd::Line(pt(9.0, 0.0))]);
    }

    #[test]
    fn round_corners_are_no_larger_than_half_a_side() {
        let Some(path) = of("<rect width='20' height='10' rx='99'/>") else { panic!("a rectangle") };
        assert!(path.points().all(|p| (0.0..=20.0).contains(&p.x) && (0.0..=10.0).contains(&p.y)), "{path:?}");
        assert!(path.0.iter().any(|c| matches!(c, Cmd::Curve(..))), "{path:?}");
    }
}
