//! Reads the sources of our own pictograms: SVG of one form, `path` (with `M`, `L`, `C`, `Z`), `circle` and `rect`. The
//! sources are compiled in and a test reads them all, so what does not fit is left out here.

use crate::geom::{Cmd, Path, Rect, pt};

/// The words by which a pictogram is found, from its description.
pub(super) fn words(source: &'static str) -> Vec<&'static str> {
    let text =
        source.split_once("<desc>").and_then(|(_, rest)| rest.split_once("</desc>")).map_or("", |(text, _)| text);
    text.split_whitespace().collect()
}

/// All strokes of a source.
pub(super) fn strokes(source: &str) -> Path {
    let mut out = Path::default();
    for line in source.lines().map(str::trim_start) {
        let number = |name: &str| attribute(line, name).and_then(|v| v.parse::<f64>().ok()).unwrap_or(0.0);
        if line.starts_with("<path") {
            out = out.and(commands(attribute(line, "d").unwrap_or_default()));
        } else if line.starts_with("<circle") {
            let (x, y, r) = (number("cx"), number("cy"), number("r"));
            out = out.and(Path::ellipse(Rect::new(x - r, y - r, 2.0 * r, 2.0 * r)));
        } else if line.starts_with("<rect") {
            let place = Rect::new(number("x"), number("y"), number("width"), number("height"));
            out = out.and(Path::rounded(place, number("rx")));
        }
    }
    out
}

fn attribute<'a>(line: &'a str, name: &str) -> Option<&'a str> {
    let (_, rest) = line.split_once(&format!(" {name}=\""))?;
    rest.split('"').next()
}

/// The commands of a path.
fn commands(data: &str) -> Path {
    let mut path = Path::default();
    let starts: Vec<usize> = data.match_indices(['M', 'L', 'C', 'Z']).map(|(at, _)| at).collect();
    for (i, start) in starts.iter().enumerate() {
        let end = starts.get(i + 1).copied().unwrap_or(data.len());
        let v: Vec<f64> = data[start + 1..end].split_whitespace().filter_map(|n| n.parse().ok()).collect();
        match (data.as_bytes()[*start], v.as_slice()) {
            (b'M', [x, y]) => path.0.push(Cmd::Move(pt(*x, *y))),
            (b'L', [x, y]) => path.0.push(Cmd::Line(pt(*x, *y))),
            (b'C', [a, b, c, d, x, y]) => path.0.push(Cmd::Curve(pt(*a, *b), pt(*c, *d), pt(*x, *y))),
            _ => path.0.push(Cmd::Close),
        }
    }
    path
}
