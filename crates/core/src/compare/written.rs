//! Parts of a diagram as they are written, for comparison.

use super::change::{Difference, Field, Said};
use crate::model::{Constraint, Diagram, ElementId, Picture};
use crate::syntax::Trait;

/// Traits behind each other.
pub(crate) fn traits(list: &[Trait]) -> String {
    list.iter().map(one_trait).collect::<Vec<_>>().join(", ")
}

fn one_trait(written: &Trait) -> String {
    let values: Vec<&str> = written.values.iter().map(|v| v.value.as_str()).collect();
    format!("{} {}", written.word.value, values.join(" ")).trim_end().to_owned()
}

/// The words about a picture, and its constraints; with the diagram whose elements it names.
pub(super) fn picture(picture: &Picture, diagram: Option<&Diagram>) -> (Said<6>, Vec<String>) {
    let fields = [
        (Field::Caption, picture.caption.as_ref().map(|l| l.text())),
        (Field::Heading, picture.heading.as_ref().map(|h| h.value.word().to_owned())),
        (Field::Arrange, picture.arrangement.as_ref().map(|a| a.value.word().to_owned())),
        (Field::Route, picture.routing.as_ref().map(|r| r.value.word().to_owned())),
        (Field::Spacing, picture.spacing.as_ref().map(|s| s.value.to_string())),
        (Field::Legend, picture.legend.map(|_| "drawn".to_owned())),
    ];
    let constraints = diagram.iter().flat_map(|d| picture.constraints.iter().map(|h| constraint(d, &h.constraint)));
    (fields, constraints.collect())
}

/// What differs between words about two pictures, each with the diagram whose elements it names.
pub(super) fn pictures(old: (&Picture, Option<&Diagram>), new: (&Picture, Option<&Diagram>)) -> Vec<Difference> {
    let ((then, constraints_then), (now, constraints_now)) = (picture(old.0, old.1), picture(new.0, new.1));
    let mut out = Difference::fields(then, now);
    out.extend(Difference::lists(Field::Constraint, &constraints_then, &constraints_now));
    out
}

/// A constraint of the layout as it is written.
fn constraint(diagram: &Diagram, constraint: &Constraint) -> String {
    let name = |id: &ElementId| diagram.element(*id).key.clone();
    let written = constraint.written(|ids| ids.iter().map(name).collect::<Vec<_>>().join(", "));
    match constraint {
        Constraint::Heading(id, _) => format!("{written} in {}", name(id)),
        _ => written,
    }
}
