//! Where everything is, by key; and the same as text, which a picture carries so that the next one can stay near it. One line
//! for each thing, its key last: `n` nodes and `g` groups with x, y, width and height, `l` lines with their corners, `c`
//! curves, then `t`, `u`, `v` the label and the texts at the ends of the line before.

use crate::geom::{Point, Rect, pt};
use crate::layout::Route;
use std::collections::BTreeMap;
use std::fmt::Write;

/// Where everything is, by key, in px of the layout: the picture's margins and its title are not counted.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Places {
    /// Elements that hold no others.
    pub nodes: Vec<(String, Rect)>,
    /// Elements that hold others.
    pub groups: Vec<(String, Rect)>,
    /// Lines; several may have one key.
    pub lines: Vec<(String, Route)>,
}

impl Places {
    /// The same places under other keys, by those that they have here.
    pub fn under(&self, keys: &BTreeMap<String, String>) -> Self {
        let named = |key: &String| keys.get(key).unwrap_or(key).clone();
        Self {
            nodes: self.nodes.iter().map(|(key, place)| (named(key), *place)).collect(),
            groups: self.groups.iter().map(|(key, place)| (named(key), *place)).collect(),
            lines: self.lines.iter().map(|(key, route)| (named(key), route.clone())).collect(),
        }
    }

    /// Whether there are none: where they follow from the source alone, no picture carries them.
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty() && self.groups.is_empty() && self.lines.is_empty()
    }

    /// The rectangles of all elements.
    pub fn boxes(&self) -> BTreeMap<&str, Rect> {
        self.nodes.iter().chain(&self.groups).map(|(key, rect)| (key.as_str(), *rect)).collect()
    }

    /// The lines of each key, in the order in which they stand.
    pub fn lines_by_key(&self) -> BTreeMap<&str, Vec<&Route>> {
        let mut out: BTreeMap<&str, Vec<&Route>> = BTreeMap::new();
        self.lines.iter().for_each(|(key, route)| out.entry(key).or_default().push(route));
        out
    }

    /// As text.
    pub fn to_text(&self) -> String {
        let mut out = String::new();
        for (letter, boxes) in [('n', &self.nodes), ('g', &self.groups)] {
            for (key, r) in boxes {
                let _ = writeln!(out, "{letter} {} {} {} {} {}", r.x, r.y, r.w, r.h, line(key));
            }
        }
        for (key, route) in &self.lines {
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

    /// Out of the text that [`Places::to_text`] wrote; lines that it would not write are left out.
    pub fn from_text(text: &str) -> Self {
        let mut places = Self::default();
        let mut has_line = false;
        for row in text.lines() {
            let Some((letter, rest)) = row.split_once(' ') else { continue };
            match letter {
                "n" | "g" => {
                    if let Some((rect, key)) = rect(rest) {
                        let boxes = if letter == "n" { &mut places.nodes } else { &mut places.groups };
                        boxes.push((key.to_owned(), rect));
                    }
                }
                "l" | "c" => {
                    let Some((corners, key)) = rest.split_once(' ') else { continue };
                    let points: Option<Vec<Point>> = corners.split(';').map(point).collect();
                    let Some(points) = points.filter(|p| p.len() > 1) else { continue };
                    let route = Route { points, curved: letter == "c", ..Route::default() };
                    places.lines.push((key.to_owned(), route));
                    has_line = true;
                }
                _ => {
                    let route = places.lines.last_mut().filter(|_| has_line).map(|(_, route)| route);
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
}

/// A key on one line.
fn line(key: &str) -> String {
    key.replace(['\n', '\r'], " ")
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
        let places = Places {
            nodes: vec![("a name with blanks".to_owned(), Rect::new(1.0, 2.0, 3.0, 4.5))],
            groups: vec![("g".to_owned(), Rect::new(0.0, 0.0, 30.0, 40.0))],
            lines: vec![("a uses b".to_owned(), route)],
        };
        assert_eq!(Places::from_text(&places.to_text()), places);
        assert_eq!(Places::from_text("n 1 x 2 3 a\nl 1,2 b\nq\nt 1 2 3\n\n"), Places::default());
    }
}
