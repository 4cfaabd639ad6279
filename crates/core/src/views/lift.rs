//! A diagram with those of its elements that a sheet shows, and relations lifted to them.

use super::lifting::{self, Standing};
use super::view::{ElementView, RelationView, View};
use super::visible::{Each, Shown, context, hosting, nearest, visible};
use crate::model::{Diagram, DiagramKind, Element, ElementId, ElementKind, Picture, Sheet, Step, WrittenConstraint};

/// What a sheet of elements shows.
pub(super) fn lift(diagram: &Diagram, sheet: &Sheet) -> View {
    let Drawn { mut view, numbers } =
        lifted(diagram, sheet.follow.as_ref().map(|f| f.steps.as_slice()), &visible(diagram, sheet));
    under_sheet(&mut view, sheet, &numbers);
    for (number, is_context) in numbers.iter().zip(context(diagram, sheet)) {
        number.iter().for_each(|id| view.elements[id.index()].context = is_context);
    }
    view
}

/// Whether a sheet shows no element.
pub fn shows_nothing(diagram: &Diagram, sheet: &Sheet) -> bool {
    match sheet.by_hosts.is_some() {
        true => !has_hosts(diagram),
        false => !visible(diagram, sheet).elements.contains(&true),
    }
}

/// What an architecture's own picture shows: its elements, without its hosts. Other diagrams are shown whole.
pub fn whole(diagram: &Diagram) -> View {
    if diagram.kind != DiagramKind::Architecture || !has_hosts(diagram) {
        return View::of(diagram.clone());
    }
    let elements = hosting(diagram).into_iter().map(|is_hosting| !is_hosting).collect();
    lifted(diagram, None, &Shown { elements, leading: None }).view
}

/// Whether there is a second tree, of zones and hosts.
fn has_hosts(diagram: &Diagram) -> bool {
    diagram.elements.iter().any(|e| matches!(e.kind, ElementKind::Zone | ElementKind::Host))
}

/// Gives a diagram what its sheet says: name, title, and words about the picture.
pub(super) fn under_sheet(view: &mut View, sheet: &Sheet, numbers: &Numbers) {
    view.tell = sheet.tell.is_some();
    let out = &mut view.diagram;
    (out.name, out.title, out.span) = (sheet.name.clone(), sheet.title.clone(), sheet.span);
    let inherited = std::mem::take(&mut out.picture);
    let own = renumbered(&sheet.picture.constraints, numbers);
    let constraints = inherited.constraints.iter().cloned().chain(own).collect();
    out.picture = Picture { constraints, ..merged(&sheet.picture, &inherited) };
}

/// The numbers that elements of a diagram have in a drawing of it.
pub(super) type Numbers = Each<Option<ElementId>>;

/// The hints about elements that a drawing shows.
fn renumbered(constraints: &[WrittenConstraint], numbers: &Numbers) -> Vec<WrittenConstraint> {
    let shown = constraints.iter().filter_map(|written| {
        let constraint = written.constraint.renumbered(|id| numbers[id.index()])?;
        Some(WrittenConstraint { constraint, written_in: None, span: written.span })
    });
    shown.collect()
}

/// Words about the picture: those of the sheet, else those of its diagram.
fn merged(own: &Picture, inherited: &Picture) -> Picture {
    Picture {
        caption: own.caption.clone(),
        legend: own.legend.or(inherited.legend),
        heading: own.heading.clone().or_else(|| inherited.heading.clone()),
        arrangement: own.arrangement.clone().or_else(|| inherited.arrangement.clone()),
        routing: own.routing.clone().or_else(|| inherited.routing.clone()),
        spacing: own.spacing.clone().or_else(|| inherited.spacing.clone()),
        constraints: Vec::new(),
    }
}

/// A drawing of a diagram, and the numbers that the diagram's elements have in it.
pub(super) struct Drawn {
    pub(super) view: View,
    pub(super) numbers: Numbers,
}

/// A diagram with those of its elements that are shown; relations are lifted to them.
pub(super) fn lifted(diagram: &Diagram, steps: Option<&[Step]>, Shown { elements: shown, leading }: &Shown) -> Drawn {
    let mut out = Diagram { elements: Vec::new(), relations: Vec::new(), ..diagram.without_contents() };
    let mut marks = Vec::new();
    let mut numbers: Numbers = vec![None; diagram.elements.len()];
    let near = nearest(diagram, shown);
    let around = |id: ElementId| diagram.element(id).parent.and_then(|p| near[p.index()]);
    // A box is no level: it stands for what it holds only where it is closed.
    let mut opened = vec![false; diagram.elements.len()];
    let mut closed = vec![false; diagram.elements.len()];
    for (id, element) in diagram.ids() {
        if let (true, Some(parent)) = (shown[id.index()], element.parent) {
            opened[parent.index()] = true;
        } else if let Some(around) = around(id).filter(|_| !element.kind.is_mark()) {
            closed[around.index()] = true;
        }
    }
    for (id, element) in diagram.ids().filter(|(id, _)| shown[id.index()]) {
        numbers[id.index()] = Some(ElementId(out.elements.len() as u32));
        let parent = around(id).and_then(|p| numbers[p.index()]);
        marks.push(ElementView { has_more: closed[id.index()], ..ElementView::default() });
        out.elements.push(Element { parent, ..element.clone() });
    }
    let is_open_box = |id: ElementId| diagram.element(id).kind.is_box() && opened[id.index()];
    let stands = |(id, near): (usize, &Option<ElementId>)| {
        let near = near.filter(|near| near.index() == id || !is_open_box(*near))?;
        numbers[near.index()].map(|number| (number, near.index() == id))
    };
    let leads = |near: Option<ElementId>| leading.as_ref().is_none_or(|l| near.is_some_and(|id| l[id.index()]));
    let leading = near.iter().map(|near| leads(*near)).collect();
    let standing = Standing::new(near.iter().enumerate().map(stands).collect(), leading);
    let relations = match steps {
        Some(steps) => lifting::numbered_steps(diagram, steps, &standing),
        None => lifting::relations(diagram, &standing),
    };
    out.picture.constraints = renumbered(&diagram.picture.constraints, &numbers);
    // What was lifted to a container of its other end is inside that one: nothing is left to draw.
    let holds = |a: ElementId, b: ElementId| out.ancestors(b).any(|p| p == a);
    let drawn = relations.into_iter().filter(|(r, _)| !holds(r.from, r.to) && !holds(r.to, r.from));
    let (relations, behind): (Vec<_>, Vec<RelationView>) = drawn.unzip();
    out.relations = relations;
    Drawn { view: View { diagram: out, elements: marks, relations: behind, tell: false }, numbers }
}
