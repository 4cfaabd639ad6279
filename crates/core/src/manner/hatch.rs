//! Hatches: parallel lines within a shape. Input: the shape, and what covers parts of it. Output: the lines, in the shape
//! only.

use crate::geom::{Cmd, Path, Point, Rect, pt};
use crate::theme::Hatch;

/// Pieces of a hatch shorter than this are left out, in px.
const SHORTEST: f64 = 1.5;

/// The lines of a hatch within a shape and outside of what covers it.
pub(super) fn lines(shape: &Path, hatch: Hatch, covered: &[Rect]) -> Path {
    let polygons = shape.flattened();
    let mut out = Vec::new();
    let angles = if hatch.crossed { vec![hatch.angle, hatch.angle + 90.0] } else { vec![hatch.angle] };
    for angle in angles {
        parallel(&polygons, angle, hatch.gap, covered, &mut out);
    }
    Path(out)
}

/// About how many lines a hatch has in a shape of this size.
pub(super) fn count(bounds: Rect, hatch: Hatch) -> f64 {
    (bounds.w + bounds.h) / hatch.gap * if hatch.crossed { 2.0 } else { 1.0 }
}

/// Lines of one direction.
fn parallel(polygons: &[Vec<Point>], angle: f64, gap: f64, covered: &[Rect], out: &mut Vec<Cmd>) {
    let (sin, cos) = (libm::sin(angle.to_radians()), libm::cos(angle.to_radians()));
    // Turned so that the lines are level; and back.
    let turned = |p: Point| pt(p.x * cos - p.y * sin, p.x * sin + p.y * cos);
    let back = |p: Point| pt(p.x * cos + p.y * sin, p.y * cos - p.x * sin);
    let all: Vec<Vec<Point>> = polygons.iter().map(|ring| ring.iter().map(|p| turned(*p)).collect()).collect();
    let ys = || all.iter().flatten().map(|p| p.y);
    let (top, bottom) = (ys().fold(f64::INFINITY, f64::min), ys().fold(f64::NEG_INFINITY, f64::max));
    // From the shape's own edge, so that the lines stay where they are in it when it moves.
    let count = ((bottom - top) / gap).max(0.0) as usize;
    for i in 0..=count {
        let y = top + gap * (i as f64 + 0.5);
        for (from, to) in inside(&all, y) {
            for (a, b) in uncovered(back(pt(from, y)), back(pt(to, y)), covered) {
                out.extend([Cmd::Move(a), Cmd::Line(b)]);
            }
        }
    }
}

/// From where to where a level line is inside of some rings, by their winding.
fn inside(rings: &[Vec<Point>], y: f64) -> Vec<(f64, f64)> {
    let mut met: Vec<(f64, i32)> = Vec::new();
    for ring in rings {
        for (i, a) in ring.iter().enumerate() {
            let b = ring[(i + 1) % ring.len()];
            if (a.y <= y) != (b.y <= y) {
                let x = a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y);
                met.push((x, if a.y < b.y { 1 } else { -1 }));
            }
        }
    }
    met.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (mut winding, mut from) = (0, 0.0);
    let mut found = Vec::new();
    for (x, turn) in met {
        if winding == 0 {
            from = x;
        }
        winding += turn;
        if winding == 0 && x > from {
            found.push((from, x));
        }
    }
    found
}

/// The pieces of a stretch outside of some rectangles.
fn uncovered(a: Point, b: Point, covered: &[Rect]) -> Vec<(Point, Point)> {
    let mut hidden: Vec<(f64, f64)> = covered.iter().filter_map(|r| within(a, b, *r)).collect();
    hidden.sort_by(|a, b| a.0.total_cmp(&b.0));
    let length = libm::hypot(b.x - a.x, b.y - a.y);
    let at = |t: f64| pt(a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t);
    let mut pieces = Vec::new();
    let mut from = 0.0;
    for (enter, leave) in hidden.into_iter().chain([(1.0, 1.0)]) {
        if (enter - from) * length > SHORTEST {
            pieces.push((at(from), at(enter)));
        }
        from = f64::max(from, leave);
    }
    pieces
}

/// Which part of a stretch lies in a rectangle (Liang, Barsky, "A new concept and method for line clipping", 1984).
fn within(a: Point, b: Point, r: Rect) -> Option<(f64, f64)> {
    let (mut from, mut to) = (0.0, 1.0);
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    for (by, room) in [(-dx, a.x - r.x), (dx, r.right() - a.x), (-dy, a.y - r.y), (dy, r.bottom() - a.y)] {
        if by.abs() < 1e-9 {
            if room < 0.0 {
                return None;
            }
            continue;
        }
        let at = room / by;
        if by < 0.0 { from = f64::max(from, at) } else { to = f64::min(to, at) }
    }
    (from < to).then_some((from, to))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pieces(path: &Path) -> Vec<(Point, Point)> {
        let point = |cmd: &Cmd| if let Cmd::Move(p) | Cmd::Line(p) = cmd { *p } else { panic!("{cmd:?}") };
        path.0.chunks(2).map(|pair| (point(&pair[0]), point(&pair[1]))).collect()
    }

    const LEVEL: Hatch = Hatch { angle: 0.0, gap: 10.0, crossed: false };

    #[test]
    fn lines_lie_in_the_shape_and_outside_of_what_covers_it() {
        let shape = Path::rect(Rect::new(10.0, 20.0, 100.0, 40.0));
        let drawn = pieces(&lines(&shape, LEVEL, &[Rect::new(40.0, 30.0, 20.0, 12.0)]));
        let row =
            |y: f64| drawn.iter().filter(|(a, _)| (a.y - y).abs() < 0.01).map(|(a, b)| (a.x, b.x)).collect::<Vec<_>>();
        assert_eq!(row(25.0), [(10.0, 110.0)]);
        assert_eq!(row(35.0), [(10.0, 40.0), (60.0, 110.0)]);
        assert_eq!(drawn.len(), 5);
    }

    #[test]
    fn slanted_lines_stay_within_round_shapes() {
        let circle = Rect::new(0.0, 0.0, 80.0, 80.0);
        let hatch = Hatch { angle: 45.0, gap: 6.0, crossed: true };
        let drawn = pieces(&lines(&Path::ellipse(circle), hatch, &[]));
        assert!(drawn.len() > 20);
        for (a, b) in drawn {
            for p in [a, b] {
                assert!(libm::hypot(p.x - 40.0, p.y - 40.0) < 40.5, "{p:?}");
            }
        }
    }
}
