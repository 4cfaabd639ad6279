//! Parts of a diagram as they are written, for comparison.

use super::change::{Difference, Field};
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

/// What differs between words about two pictures, each with the diagram whose elements it names.
pub(super) fn pictures(
    (old, then): (&Picture, Option<&Diagram>), (new, now): (&Picture, Option<&Diagram>),
) -> Vec<Difference> {
    let caption = |p: &Picture| p.caption.as_ref().map(|l| l.text());
    let heading = |p: &Picture| p.heading.as_ref().map(|h| h.value.word().to_owned());
    let arrangement = |p: &Picture| p.arrangement.as_ref().map(|a| a.value.word().to_owned());
    let routing = |p: &Picture| p.routing.as_ref().map(|r| r.value.word().to_owned());
    let spacing = |p: &Picture| p.spacing.as_ref().map(|s| s.value.to_string());
    let legend = |p: &Picture| p.legend.map(|_| "drawn".to_owned());
    let fields = [
        (Field::Caption, caption(old), caption(new)),
        (Field::Heading, heading(old), heading(new)),
        (Field::Arrange, arrangement(old), arrangement(new)),
        (Field::Route, routing(old), routing(new)),
        (Field::Spacing, spacing(old), spacing(new)),
        (Field::Legend, legend(old), legend(new)),
    ];
    let mut out: Vec<Difference> =
        fields.into_iter().filter_map(|(field, then, now)| Difference::field(field, then, now)).collect();
    let constraints = |p: &Picture, d: Option<&Diagram>| -> Vec<String> {
        d.iter().flat_map(|d| p.constraints.iter().map(|h| constraint(d, &h.constraint))).collect()
    };
    out.extend(Difference::lists(Field::Constraint, &constraints(old, then), &constraints(new, now)));
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
