//! How stretches of lines, rectangles and texts meet: the tests that measuring and routing share.

use crate::geom::{Point, Rect};

/// Twice the area of the triangle of three points, signed: positive where they turn clockwise as drawn.
fn cross(a: Point, b: Point, c: Point) -> f64 {
    (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)
}

/// Whether two stretches cross at a point inside both.
pub(in crate::layout) fn crosses(p: Point, q: Point, r: Point, s: Point) -> bool {
    let inside = |a: f64, b: f64| (a > 1e-6 && b < -1e-6) || (a < -1e-6 && b > 1e-6);
    inside(cross(p, q, r), cross(p, q, s)) && inside(cross(r, s, p), cross(r, s, q))
}

/// How far two horizontal or vertical stretches lie on each other, in px.
pub(in crate::layout) fn shared(p: Point, q: Point, r: Point, s: Point) -> f64 {
    let run =
        |a: (f64, f64), b: (f64, f64)| f64::min(a.0.max(a.1), b.0.max(b.1)) - f64::max(a.0.min(a.1), b.0.min(b.1));
    let close = |a: f64, b: f64| (a - b).abs() < 1.5;
    if close(p.y, q.y) && close(r.y, s.y) && close(p.y, r.y) {
        run((p.x, q.x), (r.x, s.x))
    } else if close(p.x, q.x) && close(r.x, s.x) && close(p.x, r.x) {
        run((p.y, q.y), (r.y, s.y))
    } else {
        0.0
    }
}

/// Whether a stretch enters a rectangle (Liang, Barsky, "A new concept and method for line clipping", 1984).
pub(in crate::layout) fn hits(p: Point, q: Point, rect: Rect) -> bool {
    // Most lie elsewhere, and divisions take time.
    let is_beside = p.x.max(q.x) <= rect.x || p.x.min(q.x) >= rect.right();
    let is_above = p.y.max(q.y) <= rect.y || p.y.min(q.y) >= rect.bottom();
    if is_beside || is_above || rect.w <= 0.0 || rect.h <= 0.0 {
        return false;
    }
    let (mut from, mut to) = (0.0, 1.0);
    for (start, step, low, high) in [(p.x, q.x - p.x, rect.x, rect.right()), (p.y, q.y - p.y, rect.y, rect.bottom())] {
        if step.abs() < 1e-9 {
            if start <= low || start >= high {
                return false;
            }
            continue;
        }
        let (a, b) = ((low - start) / step, (high - start) / step);
        from = f64::max(from, a.min(b));
        to = f64::min(to, a.max(b));
    }
    from < to - 1e-9
}

/// Whether a line runs through a text at its own end.
pub(in crate::layout) fn is_struck(line: &[Point], text: Rect) -> bool {
    line.windows(2).any(|p| hits(p[0], p[1], text))
}
