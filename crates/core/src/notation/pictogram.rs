//! Pictograms: our own, on a grid of 24 units in one stroke. Each is a short text: `M x y`, `L x y`,
//! `C` (cubic), `Z`, and two more letters, `O x y r` for a circle and `R x y w h r` for a rounded
//! rectangle.

use crate::geom::{Cmd, Path, Rect, pt};
use crate::model::ElementKind;

/// The name and the strokes of every pictogram.
const ALL: &[(&str, &str)] = &[
    ("person", "O 12 7.5 3.8 M 4.5 20.5 C 5 15.5 8 13.8 12 13.8 C 16 13.8 19 15.5 19.5 20.5"),
    ("system", "R 3.5 3.5 17 17 2.5 M 3.5 9 L 20.5 9 M 9 9 L 9 20.5"),
    (
        "service",
        "O 12 12 3.2 M 12 3 L 12 6 M 12 18 L 12 21 M 3 12 L 6 12 M 18 12 L 21 12 \
        M 5.6 5.6 L 7.8 7.8 M 16.2 16.2 L 18.4 18.4 M 18.4 5.6 L 16.2 7.8 M 7.8 16.2 L 5.6 18.4",
    ),
    (
        "store",
        "M 4 6 C 4 2.6 20 2.6 20 6 C 20 9.4 4 9.4 4 6 L 4 18 C 4 21.4 20 21.4 20 18 L 20 6 \
        M 4 12 C 4 15.4 20 15.4 20 12",
    ),
    ("queue", "R 2.5 7 19 10 2 M 7.5 7 L 7.5 17 M 12 7 L 12 17 M 16.5 7 L 16.5 17"),
    (
        "device",
        "R 6 6 12 12 2 M 9.5 3 L 9.5 6 M 14.5 3 L 14.5 6 M 9.5 18 L 9.5 21 M 14.5 18 L 14.5 21 \
        M 3 9.5 L 6 9.5 M 3 14.5 L 6 14.5 M 18 9.5 L 21 9.5 M 18 14.5 L 21 14.5",
    ),
    ("part", "M 12 3 L 20 7.5 L 20 16.5 L 12 21 L 4 16.5 L 4 7.5 Z M 4 7.5 L 12 12 L 20 7.5 M 12 12 L 12 21"),
    ("party", "R 4 5 16 14 2.5 M 8 10 L 16 10 M 8 14 L 13 14"),
    ("buoy", "M 9 15 L 10.5 6 L 13.5 6 L 15 15 M 5 15 L 19 15 L 16.5 19 L 7.5 19 Z M 12 6 L 12 3 M 9.7 11 L 14.3 11"),
    ("console", "R 3 4 18 12.5 2 M 9 20.5 L 15 20.5 M 12 16.5 L 12 20.5 M 7 12 L 10 9 L 12.5 11 L 17 7.5"),
    (
        "bell",
        "M 5 17 L 19 17 C 17 15 17.2 13 17.2 10.5 C 17.2 7 15 5 12 5 C 9 5 6.8 7 6.8 10.5 C 6.8 13 7 15 5 17 \
        M 12 5 L 12 3 M 10 20 C 10.8 21 13.2 21 14 20",
    ),
    ("chart", "M 4 4 L 4 20 L 20 20 M 7.5 15 L 11 10.5 L 14 13 L 19 6.5"),
    (
        "cloud",
        "M 7 18 C 3.5 18 2.5 13.5 6 12.3 C 6 8 11.5 6.5 13.3 10 C 17 8.8 19.5 12 18 14 C 20.8 14.5 20.3 18 17.5 18 Z",
    ),
    (
        "gate",
        "M 4 20 L 4 8 C 4 4 20 4 20 8 L 20 20 M 8.5 20 L 8.5 11.5 C 8.5 9 15.5 9 15.5 11.5 L 15.5 20 M 2.5 20 L 21.5 20",
    ),
    ("ship", "M 3 14 L 21 14 L 18 19.5 L 6 19.5 Z M 7 14 L 7 9 L 15 9 L 15 14 M 11 9 L 11 4.5 L 15.5 6.5 L 11 8"),
    ("phone", "R 7 2.5 10 19 2.2 M 10.8 18.4 L 13.2 18.4"),
    (
        "document",
        "M 6 3 L 14.5 3 L 18.5 7 L 18.5 21 L 6 21 Z M 14.5 3 L 14.5 7 L 18.5 7 M 9 12 L 15.5 12 M 9 16 L 15.5 16",
    ),
    (
        "switch",
        "R 2.5 8 19 8.5 2 M 6 12.2 L 8 12.2 M 10 12.2 L 12 12.2 M 14 12.2 L 16 12.2 M 18.4 12.2 L 18.5 12.2 M 7 5 L 17 5 M 15 3 L 17 5 L 15 7",
    ),
    (
        "server",
        "R 4 3.5 16 7 1.8 R 4 13.5 16 7 1.8 M 7.5 7 L 7.6 7 M 10.5 7 L 16.5 7 M 7.5 17 L 7.6 17 M 10.5 17 L 16.5 17",
    ),
    ("host", "R 5 3 14 18 2 M 8 7 L 16 7 M 8 11 L 16 11 M 11.9 17 L 12.1 17"),
    (
        "zone",
        "M 3.5 7.5 L 3.5 3.5 L 7.5 3.5 M 16.5 3.5 L 20.5 3.5 L 20.5 7.5 M 20.5 16.5 L 20.5 20.5 L 16.5 20.5 M 7.5 20.5 L 3.5 20.5 L 3.5 16.5 R 8 8 8 8 1.5",
    ),
    ("clock", "O 12 12 8.7 M 12 7 L 12 12 L 15.5 14"),
    ("shield", "M 12 3 L 19.5 6 C 19.5 13 17.5 18 12 21 C 6.5 18 4.5 13 4.5 6 Z"),
    (
        "mast",
        "M 12 9 L 8 21 M 12 9 L 16 21 M 9.6 16 L 14.4 16 O 12 7 1.8 M 7.5 11 C 5.5 9 5.5 5 7.5 3 M 16.5 11 C 18.5 9 18.5 5 16.5 3",
    ),
];

/// The names of all pictograms.
pub(super) fn names() -> impl Iterator<Item = &'static str> {
    ALL.iter().map(|(name, _)| *name)
}

/// The pictogram of a kind.
pub(super) fn of_kind(kind: ElementKind) -> Option<&'static str> {
    Some(match kind {
        ElementKind::Actor => "person",
        ElementKind::System => "system",
        ElementKind::Service => "service",
        ElementKind::Store => "store",
        ElementKind::Queue => "queue",
        ElementKind::Device => "device",
        ElementKind::Part => "part",
        ElementKind::Host => "host",
        ElementKind::Zone => "zone",
        _ => return None,
    })
}

/// A pictogram's strokes in a square.
pub(super) fn path(name: &str, x: f64, y: f64, size: f64) -> Option<Path> {
    let (_, strokes) = ALL.iter().find(|(n, _)| *n == name)?;
    Some(read(strokes).placed(size / 24.0, x, y))
}

fn read(strokes: &str) -> Path {
    let mut path = Path::default();
    let mut words = strokes.split_whitespace();
    while let Some(letter) = words.next() {
        let count = match letter {
            "M" | "L" => 2,
            "C" => 6,
            "O" => 3,
            "R" => 5,
            _ => 0,
        };
        let v: Vec<f64> = words.by_ref().take(count).filter_map(|w| w.parse().ok()).collect();
        match (letter, v.as_slice()) {
            ("M", [x, y]) => path.0.push(Cmd::Move(pt(*x, *y))),
            ("L", [x, y]) => path.0.push(Cmd::Line(pt(*x, *y))),
            ("C", [a, b, c, d, x, y]) => path.0.push(Cmd::Curve(pt(*a, *b), pt(*c, *d), pt(*x, *y))),
            ("O", [x, y, r]) => path = path.and(Path::ellipse(Rect::new(x - r, y - r, 2.0 * r, 2.0 * r))),
            ("R", [x, y, w, h, r]) => path = path.and(Path::rounded(Rect::new(*x, *y, *w, *h), *r)),
            _ => path.0.push(Cmd::Close),
        }
    }
    path
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_pictogram_stays_on_its_grid() {
        for (name, strokes) in ALL {
            let known = strokes.split_whitespace().all(|w| w.parse::<f64>().is_ok() || "MLCORZ".contains(w));
            assert!(known, "{name} has an unknown letter");
            for cmd in read(strokes).0 {
                if let Cmd::Move(p) | Cmd::Line(p) = cmd {
                    assert!((0.0..=24.0).contains(&p.x) && (0.0..=24.0).contains(&p.y), "{name} {p:?}");
                }
            }
        }
    }
}
