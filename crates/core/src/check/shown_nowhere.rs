//! What no picture of a model shows: neither its own one, which leaves hosts out, nor a sheet of it.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, Document, ElementId, Relation, Sheet, Verb};
use crate::views::{View, lift, whole};
use std::collections::BTreeSet;

/// The picture of a whole model with more elements than this is no help to anyone, if the model has sheets.
// About as many as a slide holds at 12 px.
const READABLE: usize = 40;

/// A sheet, and the diagram that its numbers are of: that of the file, or as another file takes it.
pub(crate) type Placed<'a> = (&'a Sheet, &'a Diagram);

/// Elements that no picture draws, and relations between drawn ones that no picture draws, not even lifted.
pub(super) fn check(document: &Document, diagram: &Diagram, diags: &mut Diagnostics) {
    check_with(document, diagram, &[], diags);
}

/// The same, with sheets in other files.
pub(crate) fn check_with(document: &Document, diagram: &Diagram, others: &[Placed<'_>], diags: &mut Diagnostics) {
    let own: Vec<Placed<'_>> = document
        .sheets
        .iter()
        .filter(|s| s.of == diagram.name)
        .map(|s| (s, diagram))
        .chain(others.iter().copied())
        .collect();
    let picture = whole(diagram);
    if own.is_empty() && picture.diagram.elements.len() == diagram.elements.len() {
        return;
    }
    let mut pictures: Vec<View> = own.iter().map(|(sheet, of)| lift(of, sheet)).collect();
    if own.is_empty() || diagram.elements.len() <= READABLE {
        pictures.push(picture);
    }
    let mut drawn: BTreeSet<&str> =
        pictures.iter().flat_map(|p| p.diagram.elements.iter().map(|e| e.key.as_str())).collect();
    if own.iter().any(|(sheet, _)| sheet.by_hosts.is_some()) {
        // Under keys of what runs where.
        let run = diagram.relations.iter().filter(|r| r.verb == Verb::Runs);
        drawn.extend(run.map(|r| diagram.element(r.to).key.as_str()));
    }
    let relations = pictures.iter().flat_map(|p| p.diagram.relations.iter().zip(&p.relations));
    let lines: BTreeSet<&str> =
        relations.flat_map(|(r, own)| std::iter::once(&r.key).chain(&own.stands_for)).map(String::as_str).collect();
    let key = |of: &'_ Diagram, id: ElementId| of.element(id).key.clone();
    let steps = own.iter().flat_map(|(s, of)| s.follow.iter().flat_map(|f| &f.steps).map(move |step| (step, *of)));
    let steps: BTreeSet<(String, String)> = steps.map(|(step, of)| (key(of, step.from), key(of, step.to))).collect();
    let is_drawn = |id: ElementId| drawn.contains(diagram.element(id).key.as_str());
    let elements = diagram.ids().filter(|(id, e)| !e.kind.is_mark() && !e.kind.is_box() && !is_drawn(*id));
    let hidden: Vec<String> = elements.map(|(_, e)| e.key.clone()).collect();
    let is_listed = |verb| !matches!(verb, Verb::Runs | Verb::NeverUses | Verb::Remarks);
    let relations = diagram.relations.iter().filter(|r| is_listed(r.verb) && is_drawn(r.from) && is_drawn(r.to));
    let is_step = |r: &Relation| steps.contains(&(key(diagram, r.from), key(diagram, r.to)));
    let relations = relations.filter(|r| !lines.contains(r.key.as_str()) && !is_step(r)).count();
    if !hidden.is_empty() || relations > 0 {
        diags.report(diagram.span, Message::ShownNowhere { diagram: diagram.name.clone(), hidden, relations });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn everything_is_in_some_picture() {
        let model = "architecture a\n  system x\n    part p\n    part q\n      uses p\n  y uses p\n";
        let large: String = (0..40).map(|i| format!("  system z{i}\n")).collect();
        let found = |also: &str| lines(&format!("{model}{also}"), "shown-nowhere").len();
        let sheets = "sheet s of a\n  depth 1\n";
        assert_eq!((found(""), found(&large), found(sheets)), (0, 0, 0), "its own picture shows it");
        assert_eq!(found(&format!("{large}{sheets}")), 1, "the parts");
        assert_eq!(found(&format!("{large}{sheets}sheet i of a\n  open x\n")), 0);
        // `q uses p` has both of its ends on sheets, and is on none.
        assert_eq!(found(&format!("{large}{sheets}sheet i of a\n  show q, y\nsheet t of a\n  show p, y\n")), 1);
        // Its own picture leaves hosts out.
        assert_eq!(found("  host h\n    runs p\n"), 1);
        assert_eq!(found("  host h\n    runs p\nsheet h of a\n  by hosts\n"), 0);
    }
}
