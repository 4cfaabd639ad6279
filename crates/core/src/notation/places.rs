//! Where everything is, as text: what a picture carries so that the next one can stay near it. One line for each thing,
//! its key last: `n` nodes and `g` groups with x, y, width and height, `l` lines with their corners, `c` curves, then
//! `t`, `u`, `v` the label and the texts at the ends of the line before.

use crate::geom::{Point, Rect, pt};
use crate::layout::{Placement, Route};
use std::collections::BTreeMap;
use std::fmt::Write;

/// Places by keys.
#[derive(Debug, Default, PartialEq)]
pub(super) struct Places {
    /// Nodes and groups.
    pub(super) boxes: BTreeMap<String, Rect>,
    /// Lines, in the order in which they stand; several may have one key.
    pub(super) lines: BTreeMap<String, Vec<Route>>,
}

/// Writes a placement; keys stand in its order.
pub(super) fn write(placement: &Placement, nodes: &[&str], groups: &[&str], edges: &[&str]) -> String {
    let mut out = String::new();
    for (letter, keys, rects) in [('n', nodes, &placement.nodes), ('g', groups, &placement.groups)] {
        for (key, r) in keys.iter().zip(rects) {
            let _ = writeln!(out, "{letter} {} {} {} {} {}", r.x, r.y, r.w, r.h, line(key));
        }
    }
    for (key, route) in edges.iter().zip(&placement.routes) {
        let corners: Vec<String> = route.points.iter().map(|p| format!("{},{}", p.x, p.y)).collect();
        let letter = if route.curved { 'c' } else { 'l' };
        let _ = writeln!(out, "{letter} {} {}", corners.join(";"), line(key));
        let texts = [('t', route.label), ('u', route.end_labels[0]), ('v', route.end_labels[1])];
        for (letter, r) in texts.into_iter().filter_map(|(l, r)| Some((l, r?))) {
            let _ = writeln!(out, "{letter} {} {} {} {}", r.x, r.y, r.w, r.h);
        }
    }
    out
}

/// A key on one line.
fn line(key: &str) -> String {
    key.replace(['\n', '\r'], " ")
}

/// Reads what [`write`] wrote; lines that it would not write are left out.
pub(super) fn read(text: &str) -> Places {
    let mut places = Places::default();
    let mut last: Option<String> = None;
    for row in text.lines() {
        let Some((letter, rest)) = row.split_once(' ') else { continue };
        match letter {
            "n" | "g" => {
                if let Some((rect, key)) = rect(rest) {
                    places.boxes.insert(key.to_owned(), rect);
                }
            }
            "l" | "c" => {
                let Some((corners, key)) = rest.split_once(' ') else { continue };
                let points: Option<Vec<Point>> = corners.split(';').map(point).collect();
                let Some(points) = points.filter(|p| p.len() > 1) else { continue };
                let route = Route { points, curved: letter == "c", ..Route::default() };
                places.lines.entry(key.to_owned()).or_default().push(route);
                last = Some(key.to_owned());
            }
            _ => {
                let route = last.as_ref().and_then(|k| places.lines.get_mut(k)?.last_mut());
                if let (Some(route), Some((rect, _))) = (route, rect(&format!("{rest} "))) {
                    match letter {
                        "t" => route.label = Some(rect),
                        "u" => route.end_labels[0] = Some(rect),
                        _ => route.end_labels[1] = Some(rect),
                    }
                }
            }
        }
    }
    places
}

fn number(text: &str) -> Option<f64> {
    text.parse().ok().filter(|n: &f64| n.is_finite() && n.abs() < 1e7)
}

fn point(text: &str) -> Option<Point> {
    let (x, y) = text.split_once(',')?;
    Some(pt(number(x)?, number(y)?))
}

/// Four numbers and what follows them.
fn rect(text: &str) -> Option<(Rect, &str)> {
    let mut parts = text.splitn(5, ' ');
    let mut next = || number(parts.next()?);
    let rect = Rect::new(next()?, next()?, next()?, next()?);
    Some((rect, parts.next()?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_come_back() {
        let route = Route {
            points: vec![pt(1.0, 2.5), pt(1.0, 9.0)],
            label: Some(Rect::new(0.0, 1.0, 2.0, 3.0)),
            ..Route::default()
        };
        let placement = Placement {
            nodes: vec![Rect::new(1.0, 2.0, 3.0, 4.5)],
            groups: vec![Rect::new(0.0, 0.0, 30.0, 40.0)],
            routes: vec![route.clone(), Route::default()],
            ..Placement::default()
        };
        let text = write(&placement, &["a name with blanks"], &["g"], &["a uses b", "lost"]);
        let places = read(&text);
        assert_eq!(places.boxes["a name with blanks"], placement.nodes[0]);
        assert_eq!(places.boxes["g"], placement.groups[0]);
        assert_eq!(places.lines["a uses b"], [route]);
        assert!(!places.lines.contains_key("lost"));
        assert_eq!(read("n 1 x 2 3 a\nl 1,2 b\nq\nt 1 2 3\n\n"), Places::default());
    }
}
