//! Lines of relations and what stands at their ends: arrow heads, diamonds, circles, crow's feet. A new end is a variant of
//! [`Head`] and its strokes (UML 2.5.1: 7.2.4 comments, 7.7.4 dependency, 9.2.4
//! generalisation, 11.5.4 association; 17.4.4 messages).

use crate::geom::{Path, Point, Rect, Size, distance, pt};
use crate::layout::sequence::CROSS;
use crate::model::{Diagram, DiagramKind, Relation, Verb};
use crate::scene::{Item, Role, Stroke};
use crate::theme::{Dash, Paint, RelationStyle};
use crate::vocabulary::{EndMark, TraitWord};

/// What stands at an end of a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Head {
    /// Nothing.
    None,
    /// A filled triangle.
    Filled,
    /// A filled triangle that leaves room for a cross at the tip.
    BeforeCross,
    /// Two strokes.
    Open,
    /// A large hollow triangle: generalisation.
    Hollow,
    /// A filled diamond: composition.
    Diamond,
    /// A hollow diamond: shared aggregation.
    HollowDiamond,
    /// A hollow circle.
    Circle,
    /// A cross.
    Cross,
    /// A crow's foot: at least none or one, at most one or many.
    Crow {
        /// Whether there may be none.
        optional: bool,
        /// Whether there may be many.
        many: bool,
    },
}

/// Corners of lines are rounded by this much.
pub(super) const ROUNDING: f64 = 7.0;

/// The heads at the subject's and the object's end, and whether the line is dashed.
pub(super) fn of_verb(verb: Verb) -> (Head, Head, Dash) {
    match verb {
        Verb::Extends => (Head::None, Head::Hollow, Dash::Solid),
        Verb::Implements => (Head::None, Head::Hollow, Dash::Dashed),
        Verb::Owns => (Head::Diamond, Head::None, Dash::Solid),
        Verb::Shares => (Head::HollowDiamond, Head::None, Dash::Solid),
        Verb::Knows => (Head::None, Head::Open, Dash::Solid),
        Verb::Joins | Verb::Holds => (Head::None, Head::None, Dash::Solid),
        Verb::Onward => (Head::None, Head::Filled, Dash::Dashed),
        Verb::Aside => (Head::None, Head::None, Dash::Dotted),
        Verb::Remarks => (Head::None, Head::None, Dash::Dashed),
        Verb::Sends | Verb::Becomes => (Head::None, Head::Open, Dash::Solid),
        Verb::Answers | Verb::Creates => (Head::None, Head::Open, Dash::Dashed),
        _ => (Head::None, Head::Filled, Dash::Solid),
    }
}

/// In class diagrams `uses` is a dependency.
pub(super) fn of_class_verb(verb: Verb) -> (Head, Head, Dash) {
    if verb == Verb::Uses { (Head::None, Head::Open, Dash::Dashed) } else { of_verb(verb) }
}

/// The crow's foot of a multiplicity; without one, none is drawn.
pub(super) fn crow(multiplicity: Option<&str>) -> Head {
    let Some(written) = multiplicity else { return Head::None };
    let (low, high) = written.split_once("..").unwrap_or(if written == "*" { ("0", "*") } else { (written, written) });
    Head::Crow { optional: low == "0", many: high.parse::<u64>() != Ok(1) }
}

impl Head {
    /// How far the line ends before the tip, so that it does not show beyond or inside the head.
    fn inset(self) -> f64 {
        match self {
            Head::None => 0.0,
            Head::Filled => 6.0,
            Head::Open => 1.2,
            Head::Hollow => 11.0,
            Head::Diamond | Head::HollowDiamond => 14.0,
            Head::Circle => 9.0,
            Head::Cross | Head::BeforeCross | Head::Crow { optional: false, .. } => 0.0,
            // The circle stands free of what is on its element's side.
            Head::Crow { optional: true, .. } => 0.0,
        }
    }
}

/// A line with its heads; `heads` belong to its first and last point.
pub(super) fn line(points: &[Point], heads: [Head; 2], dash: Dash, style: &RelationStyle, ground: Paint) -> Vec<Item> {
    drawn(points, |shortened| Path::rounded_line(shortened, ROUNDING), heads, dash, style, ground)
}

/// A curve with its heads: its points are those of cubic pieces.
pub(super) fn curve(points: &[Point], heads: [Head; 2], dash: Dash, style: &RelationStyle, ground: Paint) -> Vec<Item> {
    drawn(points, Path::curves, heads, dash, style, ground)
}

fn drawn(
    points: &[Point], path: impl Fn(&[Point]) -> Path, heads: [Head; 2], dash: Dash, style: &RelationStyle,
    ground: Paint,
) -> Vec<Item> {
    let dash = style.dash.unwrap_or(dash);
    let mut shortened = points.to_vec();
    if let [first, second, ..] = points {
        shortened[0] = towards(*first, *second, heads[0].inset());
    }
    if let [.., before, last] = points {
        let end = shortened.len() - 1;
        shortened[end] = towards(*last, *before, heads[1].inset());
    }
    let mut items = vec![Item::Path {
        path: path(&shortened),
        fill: None,
        stroke: Some(Stroke { paint: style.line, width: style.width, dash }),
        role: Some(Role::Line),
    }];
    if let [first, second, ..] = points {
        items.extend(head(heads[0], *first, *second, style, ground));
        items.extend(bars(heads[0], *first, *second, style, ground));
    }
    if let [.., before, last] = points {
        items.extend(head(heads[1], *last, *before, style, ground));
        items.extend(bars(heads[1], *last, *before, style, ground));
    }
    items
}

fn towards(from: Point, to: Point, by: f64) -> Point {
    let d = distance(from, to);
    let t = if d > by { by / d } else { 0.0 };
    pt(from.x + (to.x - from.x) * t, from.y + (to.y - from.y) * t)
}

/// The inner mark of a crow's foot: a bar, or a circle.
fn bars(head: Head, tip: Point, from: Point, style: &RelationStyle, ground: Paint) -> Option<Item> {
    let Head::Crow { optional, many } = head else { return None };
    let d = distance(tip, from);
    if d < 0.01 {
        return None;
    }
    let (ux, uy) = ((from.x - tip.x) / d, (from.y - tip.y) / d);
    let at = |along: f64, across: f64| pt(tip.x + ux * along - uy * across, tip.y + uy * along + ux * across);
    let along = if many { 15.0 } else { 10.0 };
    let (path, fill) = match optional {
        true => (Path::ellipse(Rect::around(at(along + 2.5, 0.0), Size::new(8.0, 8.0))), Some(ground)),
        false => (Path::line(&[at(along, 5.5), at(along, -5.5)]), None),
    };
    let stroke = Some(Stroke::solid(style.line, style.width.max(1.2)));
    Some(Item::Path { path, fill, stroke, role: Some(Role::Head) })
}

/// One head with its tip at `tip`, on a line that comes from `from`.
fn head(head: Head, tip: Point, from: Point, style: &RelationStyle, ground: Paint) -> Option<Item> {
    let d = distance(tip, from);
    if head == Head::None || d < 0.01 {
        return None;
    }
    let (ux, uy) = ((from.x - tip.x) / d, (from.y - tip.y) / d);
    // `along` back from the tip, `across` to its side.
    let at = |along: f64, across: f64| pt(tip.x + ux * along - uy * across, tip.y + uy * along + ux * across);
    let grown = 1.0 + (style.width - 1.4).max(0.0) * 0.25;
    let (path, fill) = match head {
        Head::Filled => (
            Path::polygon(&[at(0.0, 0.0), at(9.5 * grown, 4.0 * grown), at(9.5 * grown, -4.0 * grown)]),
            Some(style.line),
        ),
        Head::BeforeCross => {
            let tip = CROSS + 1.0;
            (Path::polygon(&[at(tip, 0.0), at(tip + 9.5, 4.0), at(tip + 9.5, -4.0)]), Some(style.line))
        }
        Head::Open => (Path::line(&[at(9.0 * grown, 4.5 * grown), at(0.8, 0.0), at(9.0 * grown, -4.5 * grown)]), None),
        Head::Hollow => (Path::polygon(&[at(0.6, 0.0), at(12.5, 7.0), at(12.5, -7.0)]), Some(ground)),
        Head::Circle => (Path::ellipse(Rect::around(at(4.6, 0.0), Size::new(9.0, 9.0))), Some(ground)),
        Head::Cross => {
            (Path::line(&[at(4.0, 4.5), at(13.0, -4.5)]).and(Path::line(&[at(4.0, -4.5), at(13.0, 4.5)])), None)
        }
        Head::Crow { many: true, .. } => (Path::line(&[at(0.0, 6.0), at(12.0, 0.0), at(0.0, -6.0)]), None),
        Head::Crow { many: false, .. } => (Path::line(&[at(6.0, 5.5), at(6.0, -5.5)]), None),
        Head::Diamond => (Path::polygon(&[at(0.4, 0.0), at(8.0, 4.6), at(15.6, 0.0), at(8.0, -4.6)]), Some(style.line)),
        _ => (Path::polygon(&[at(0.6, 0.0), at(8.0, 4.6), at(15.6, 0.0), at(8.0, -4.6)]), Some(ground)),
    };
    let width = if matches!(head, Head::Filled | Head::BeforeCross) { 0.8 } else { style.width.max(1.2) };
    let stroke = Some(Stroke::solid(style.line, width));
    Some(Item::Path { path, fill, stroke, role: Some(Role::Head) })
}

/// What stands at the ends of a relation's line, and how it is broken.
pub(super) fn heads(diagram: &Diagram, relation: &Relation) -> (Head, Head, Dash) {
    if relation.verb == Verb::Remarks {
        return (Head::None, Head::None, Dash::Dashed);
    }
    let (mut from, mut to, dash) = match diagram.kind {
        DiagramKind::Classes => of_class_verb(relation.verb),
        DiagramKind::Architecture if relation.verb == Verb::NeverUses => (Head::None, Head::Cross, Dash::Dashed),
        DiagramKind::Architecture => (Head::None, Head::Filled, Dash::Solid),
        _ => of_verb(relation.verb),
    };
    if diagram.has_crows_feet() && matches!(relation.verb, Verb::Knows | Verb::Joins | Verb::Owns | Verb::Shares) {
        (from, to) = (crow(relation.ends[0].multiplicity.as_deref()), crow(relation.ends[1].multiplicity.as_deref()));
    }
    for t in &relation.traits {
        let mark = t.values.first().and_then(|value| EndMark::from_word(&value.value));
        match (t.meaning(), mark) {
            (Some(TraitWord::End), Some(EndMark::Circle)) => to = Head::Circle,
            (Some(TraitWord::End), Some(EndMark::Cross)) => to = Head::Cross,
            (Some(TraitWord::Both), _) => {
                to = if to == Head::None { Head::Filled } else { to };
                from = to;
            }
            _ => {}
        }
    }
    (from, to, dash)
}

#[cfg(test)]
mod tests {
    use super::*;

    const STYLE: RelationStyle =
        RelationStyle { line: Paint::INK, text: Paint::TEXT, dash: None, width: 1.4, hidden: false };

    fn drawn(points: &[Point], heads: [Head; 2]) -> (Vec<Point>, usize) {
        let items = line(points, heads, Dash::Solid, &STYLE, Paint::PICTURE);
        let path = items.iter().find_map(|i| match i {
            Item::Path { path, role: Some(Role::Line), .. } => Some(path.clone()),
            _ => None,
        });
        let path = path.expect("a line");
        let points = path.0.iter().filter_map(|c| match c {
            crate::geom::Cmd::Move(p) | crate::geom::Cmd::Line(p) | crate::geom::Cmd::Curve(_, _, p) => Some(*p),
            crate::geom::Cmd::Close => None,
        });
        (points.collect(), items.len() - 1)
    }

    #[test]
    fn lines_end_before_their_heads() {
        let (points, heads) = drawn(&[pt(0.0, 0.0), pt(100.0, 0.0)], [Head::Diamond, Head::Filled]);
        assert!((points[0].x - 14.0).abs() < 1e-9 && (points[1].x - 94.0).abs() < 1e-9 && heads == 2, "{points:?}");
        let (points, heads) = drawn(&[pt(0.0, 0.0), pt(0.0, 50.0)], [Head::None, Head::None]);
        assert_eq!((points, heads), (vec![pt(0.0, 0.0), pt(0.0, 50.0)], 0));
    }

    #[test]
    fn corners_are_round_and_short_stretches_survive() {
        let (points, _) = drawn(&[pt(0.0, 0.0), pt(0.0, 40.0), pt(60.0, 40.0)], [Head::None, Head::None]);
        assert_eq!(points[1], pt(0.0, 40.0 - ROUNDING));
        assert_eq!(points[2], pt(ROUNDING, 40.0));
        let (points, _) = drawn(&[pt(0.0, 0.0), pt(0.0, 4.0), pt(3.0, 4.0), pt(3.0, 30.0)], [Head::None, Head::None]);
        assert!(points.iter().all(|p| (0.0..=3.0).contains(&p.x) && (0.0..=30.0).contains(&p.y)), "{points:?}");
        let (points, heads) = drawn(&[pt(0.0, 0.0), pt(0.0, 0.0)], [Head::None, Head::Filled]);
        assert!(heads == 0 && points.iter().all(|p| p.x.is_finite() && p.y.is_finite()), "a point has no head");
    }
}
