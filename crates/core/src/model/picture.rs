//! Words about the picture: caption, legend, heading, and hints for the layout. Input: one line.
//! Output: [`Picture`], with every name resolved. Which hints a layout keeps is its own affair.

use super::{Arrangement, ElementId, Heading, Placing, Routing};
use crate::diag::{Diagnostics, Message};
use crate::source::{Span, Spanned};
use crate::syntax::{Cursor, Label, Path, Trait};

/// What a block or a sheet says about its picture.
#[derive(Clone, Debug, Default)]
pub struct Picture {
    /// A line under the picture.
    pub caption: Option<Label>,
    /// Where it was written that a legend is drawn, if it is.
    pub legend: Option<Span>,
    /// Which way it reads.
    pub heading: Option<Spanned<Heading>>,
    /// How its elements are arranged, if that was said.
    pub arrangement: Option<Spanned<Arrangement>>,
    /// How its lines run, if that was said.
    pub routing: Option<Spanned<Routing>>,
    /// Gaps between elements, as a multiple of the usual ones.
    pub spacing: Option<Spanned<f64>>,
    /// Constraints on single elements, in the order of the text.
    pub constraints: Vec<WrittenConstraint>,
}

impl Picture {
    /// Whether anything was asked that a layout may be unable to keep.
    pub fn may_go_unmet(&self) -> bool {
        let arrangement = self.arrangement.as_ref();
        !self.constraints.is_empty() || arrangement.is_some_and(|a| a.value != Arrangement::Layered)
    }
}

/// A constraint about where elements stand.
#[derive(Clone, Debug, PartialEq)]
pub struct WrittenConstraint {
    /// What is asked.
    pub constraint: Constraint,
    /// The element in whose body it was written; `None` at the level of the block.
    pub written_in: Option<ElementId>,
    /// Where it was written.
    pub span: Span,
}

/// Something that was asked of the layout, and is not kept.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Unmet {
    /// Where it was written.
    pub span: Span,
    /// The word that asked for it, such as `row`.
    pub word: &'static str,
    /// The constraint without which it would be kept, as it is written, if there is a single one.
    pub against: Option<String>,
}

/// What is asked of the layout.
#[derive(Clone, Debug, PartialEq)]
pub enum Constraint {
    /// These stand level.
    Row(Vec<ElementId>),
    /// These stand in this order.
    Order(Vec<ElementId>),
    /// One stands beside another.
    Place(ElementId, Placing, ElementId),
    /// One stands at a place, in px of the picture.
    Pin(ElementId, f64, f64),
    /// A group reads its own way.
    Heading(ElementId, Heading),
}

impl Constraint {
    /// As it is written, with the names that elements have there.
    pub(crate) fn written(&self, names: impl Fn(&[ElementId]) -> String) -> String {
        let name = |id: &ElementId| names(std::slice::from_ref(id));
        let word = self.word();
        match self {
            Constraint::Row(ids) | Constraint::Order(ids) => format!("{word} {}", names(ids)),
            Constraint::Place(a, placing, b) => {
                let of = if matches!(placing, Placing::LeftOf | Placing::RightOf) { " of" } else { "" };
                format!("{word} {} {}{of} {}", name(a), placing.word(), name(b))
            }
            Constraint::Pin(id, x, y) => format!("{word} {} {x} {y}", name(id)),
            Constraint::Heading(_, heading) => format!("{word} {}", heading.word()),
        }
    }

    /// The word that asks for it.
    pub fn word(&self) -> &'static str {
        match self {
            Constraint::Row(_) => "row",
            Constraint::Order(_) => "order",
            Constraint::Place(..) => "place",
            Constraint::Pin(..) => "pin",
            Constraint::Heading(..) => "heading",
        }
    }

    /// The same constraint in a picture where elements have other numbers; `None` if one is not shown.
    pub fn renumbered(&self, number: impl Fn(ElementId) -> Option<ElementId>) -> Option<Constraint> {
        let all = |ids: &[ElementId]| -> Vec<ElementId> { ids.iter().filter_map(|id| number(*id)).collect() };
        // A row of one says nothing.
        let several = |ids: &[ElementId]| Some(all(ids)).filter(|shown| shown.len() > 1);
        Some(match self {
            Constraint::Row(ids) => Constraint::Row(several(ids)?),
            Constraint::Order(ids) => Constraint::Order(several(ids)?),
            Constraint::Place(a, placing, b) => Constraint::Place(number(*a)?, *placing, number(*b)?),
            Constraint::Pin(id, x, y) => Constraint::Pin(number(*id)?, *x, *y),
            Constraint::Heading(id, heading) => Constraint::Heading(number(*id)?, *heading),
        })
    }
}

const HEADINGS: &str = "down, up, right or left";
const ARRANGEMENTS: &str = "layered, tree, radial, force or grid";
const ROUTINGS: &str = "stepped, curved or straight";
const SPACING_VALUES: &str = "a number from 0.5 to 4, such as 1.5";
const SPACINGS: std::ops::RangeInclusive<f64> = 0.5..=4.0;

/// Finds the element that a path names, or reports that there is none.
pub(super) type Find<'f> = dyn FnMut(&Path, &mut Diagnostics) -> Option<ElementId> + 'f;

impl Picture {
    /// Reads the traits of a block that are words about its picture: `(heading right)`.
    pub(super) fn read_traits(&mut self, traits: &[Trait], diags: &mut Diagnostics) {
        for t in traits {
            let word = t.values.first().map(|v| v.value.clone()).unwrap_or_default();
            let span = t.span();
            let (known, of, values) = match t.word.value.as_str() {
                "heading" => {
                    self.heading = Heading::from_word(&word).map(|value| Spanned { value, span });
                    (self.heading.is_some(), "heading", HEADINGS)
                }
                "arrange" => {
                    self.arrangement = Arrangement::from_word(&word).map(|value| Spanned { value, span });
                    (self.arrangement.is_some(), "arrange", ARRANGEMENTS)
                }
                "route" => {
                    self.routing = Routing::from_word(&word).map(|value| Spanned { value, span });
                    (self.routing.is_some(), "route", ROUTINGS)
                }
                "spacing" => {
                    let spacing = word.parse().ok().filter(|n| SPACINGS.contains(n));
                    self.spacing = spacing.map(|value| Spanned { value, span });
                    (self.spacing.is_some(), "spacing", SPACING_VALUES)
                }
                _ => continue,
            };
            if !known {
                diags.report(t.span(), Message::BadValue { word, of, values });
            }
        }
    }

    /// Reads one line that begins with a word about the picture. `inside` is the element whose body
    /// the line stands in.
    pub(super) fn read(
        &mut self, word: &'static str, inside: Option<ElementId>, cursor: &mut Cursor<'_>, find: &mut Find<'_>,
        diags: &mut Diagnostics,
    ) {
        let span = cursor.line_span();
        cursor.word();
        let constraint = match word {
            "caption" => {
                self.caption = cursor.expect_label(word, diags);
                None
            }
            "legend" => {
                self.legend = Some(span);
                None
            }
            "heading" => {
                let heading = value(cursor, "heading", HEADINGS, Heading::from_word, diags);
                if inside.is_none() {
                    self.heading = heading.map(|value| Spanned { value, span });
                }
                inside.zip(heading).map(|(id, heading)| Constraint::Heading(id, heading))
            }
            "arrange" => {
                let found = value(cursor, word, ARRANGEMENTS, Arrangement::from_word, diags);
                self.arrangement = found.map(|value| Spanned { value, span });
                None
            }
            "route" => {
                let found = value(cursor, word, ROUTINGS, Routing::from_word, diags);
                self.routing = found.map(|value| Spanned { value, span });
                None
            }
            "spacing" => {
                let found = number(cursor, word, SPACING_VALUES, SPACINGS, diags);
                self.spacing = found.map(|value| Spanned { value, span });
                None
            }
            "row" | "order" => {
                let ids = cursor.paths(word, diags).iter().filter_map(|p| find(p, diags)).collect::<Vec<_>>();
                Some(if word == "row" { Constraint::Row(ids) } else { Constraint::Order(ids) })
            }
            "place" => place(cursor, find, diags),
            _ => pin(cursor, find, diags),
        };
        cursor.finish(&[], diags);
        self.constraints.extend(constraint.map(|constraint| WrittenConstraint {
            constraint,
            written_in: inside,
            span,
        }));
    }
}

/// `place a right of b`.
fn place(cursor: &mut Cursor<'_>, find: &mut Find<'_>, diags: &mut Diagnostics) -> Option<Constraint> {
    let path = cursor.expect_path("place", diags)?;
    let values = "left of, right of, above or below";
    let placing = value(cursor, "place", values, Placing::from_word, diags);
    if matches!(placing, Some(Placing::LeftOf | Placing::RightOf)) && cursor.eat("of").is_none() {
        diags.report(cursor.span(), Message::Expected { what: "of", after: "left or right" });
    }
    let Some(placing) = placing else {
        cursor.skip_all();
        return None;
    };
    let beside = cursor.expect_path(placing.word(), diags)?;
    Some(Constraint::Place(find(&path, diags)?, placing, find(&beside, diags)?))
}

/// `pin a 120 40`.
fn pin(cursor: &mut Cursor<'_>, find: &mut Find<'_>, diags: &mut Diagnostics) -> Option<Constraint> {
    let path = cursor.expect_path("pin", diags)?;
    let mut coordinate = || number(cursor, "pin", "two numbers, such as `pin NAME 120 40`", -1e6..=1e6, diags);
    let (x, y) = (coordinate()?, coordinate()?);
    Some(Constraint::Pin(find(&path, diags)?, x, y))
}

/// Reads a word of a closed list, or reports which there are.
pub(super) fn value<T>(
    cursor: &mut Cursor<'_>, of: &'static str, values: &'static str, read: fn(&str) -> Option<T>,
    diags: &mut Diagnostics,
) -> Option<T> {
    let span = cursor.span();
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let found = read(&word);
    if found.is_none() {
        diags.report(span, Message::BadValue { word, of, values });
    }
    found
}

fn number(
    cursor: &mut Cursor<'_>, of: &'static str, values: &'static str, range: std::ops::RangeInclusive<f64>,
    diags: &mut Diagnostics,
) -> Option<f64> {
    let written = cursor.number();
    let found = written.value.parse().ok().filter(|n: &f64| range.contains(n));
    if found.is_none() {
        diags.report(written.span, Message::BadValue { word: written.value, of, values });
        cursor.skip_all();
    }
    found
}
