//! The page of an element: all that is known of it.

use super::diagram::SENTENCES;
use super::{Desk, is_told, name, one_line, reason, root, says, titled, trail};
use crate::address::link;
use crate::book::{Mention, Model, first_ones};
use crate::templates::{ElementPage, Fact, Link, POLICY, STYLE, TitledLinks};
use askama::Template;
use bathygram_core::model::{ElementId, Relation, Verb};

/// What models of one run share about their elements.
pub(crate) struct Ties {
    /// For each element the relations that it or anything inside it has with others.
    crossing: Vec<Vec<u32>>,
    /// For each element what lies directly in it.
    inside: Vec<Vec<ElementId>>,
}

impl Ties {
    pub(crate) fn of(model: &Model<'_>) -> Self {
        let diagram = model.diagram;
        let mut ties = Self {
            crossing: vec![Vec::new(); diagram.elements.len()],
            inside: vec![Vec::new(); diagram.elements.len()],
        };
        for (id, element) in diagram.ids() {
            element.parent.into_iter().for_each(|parent| ties.inside[parent.index()].push(id));
        }
        let around = |id: ElementId| std::iter::once(id).chain(diagram.ancestors(id)).collect::<Vec<_>>();
        for (number, relation) in diagram.relations.iter().enumerate().filter(|(_, r)| is_told(r)) {
            let (from, to) = (around(relation.from), around(relation.to));
            let one_side = from.iter().filter(|id| !to.contains(id)).chain(to.iter().filter(|id| !from.contains(id)));
            one_side.for_each(|id| ties.crossing[id.index()].push(number as u32));
            // An element that relates to itself.
            if relation.from == relation.to {
                ties.crossing[relation.from.index()].push(number as u32);
            }
        }
        ties
    }
}

/// The page of an element, with marks where the drawing of its inside goes if it has one.
pub(crate) fn element(desk: Desk<'_, '_>, number: usize, ties: &Ties, id: ElementId) -> String {
    let model = &desk.book.models[number];
    let diagram = model.diagram;
    let element = diagram.element(id);
    let from = model.pages[id.index()].as_str();
    let language = &desk.input.studio.language;
    let page_of = |id: ElementId| model.pages[id.index()].clone();
    let mut steps: Vec<(String, String)> =
        diagram.ancestors(id).map(|a| (page_of(a), name(diagram.element(a), language))).collect();
    let entry = &desk.book.entries[model.entry];
    steps.push((entry.page.clone(), entry.title.clone()));
    steps.push(("index.html".to_owned(), desk.input.project.to_owned()));
    steps.reverse();
    let heading = name(element, language);
    let properties = &element.properties;
    let has_inside = model.levels.iter().any(|level| level.inside == Some(id));
    let kind = desk.kind(element);
    let built = properties.built.as_ref().map(|built| format!(", {}", one_line(built))).unwrap_or_default();
    let members = element.class.iter().flat_map(|body| body.members()).map(|member| member.shown()).collect::<Vec<_>>();
    let shown = desk.book.showing(number, &element.key).iter().map(|i| desk.card(from, &desk.book.entries[*i]));
    let root = root(from);
    let has_drawing = if has_inside { (STYLE, POLICY) } else { ("", super::POLICY) };
    let page = ElementPage {
        frame: desk.frame(&root),
        title: &format!("{heading} \u{2013} {}", titled(diagram)),
        style: has_drawing.0,
        policy: has_drawing.1,
        trail: &trail(from, &steps),
        heading: &heading,
        name: &element.key,
        kind: &format!("{kind}{built}"),
        about: &properties.about.as_ref().map_or(String::new(), one_line),
        has_inside,
        facts: &facts(desk, model, id),
        members: &members,
        lists: &lists(desk, (number, model), ties, id),
        relations: &relations(desk, model, ties, id),
        shown: &shown.collect::<Vec<_>>(),
    };
    page.render().unwrap_or_default()
}

fn facts(desk: Desk<'_, '_>, model: &Model<'_>, id: ElementId) -> Vec<Fact> {
    let element = model.diagram.element(id);
    let properties = &element.properties;
    let said = [
        ("technology", &properties.built),
        ("owner", &properties.owner),
        ("link", &properties.link),
        ("code", &properties.code),
        ("origin", &properties.origin),
    ];
    let mut facts: Vec<Fact> = said
        .into_iter()
        .filter_map(|(key, label)| {
            let label = label.as_ref()?;
            let value = if key == "code" { label.with_signs() } else { one_line(label) };
            let is_address = key == "link" && ["https://", "http://"].iter().any(|scheme| value.starts_with(scheme));
            let href = if is_address { value.clone() } else { String::new() };
            Some(Fact { name: desk.say(key).to_owned(), value, href })
        })
        .collect();
    if !properties.tags.is_empty() {
        facts.push(Fact { name: desk.say("tags").to_owned(), value: properties.tags.join(", "), href: String::new() });
    }
    let source = &model.reading.source;
    let place = format!("{}:{}", source.name, source.line(element.span.start));
    let file = if element.span.source.is_root() { place } else { source.name.clone() };
    facts.push(Fact { name: desk.say("written_in").to_owned(), value: file, href: String::new() });
    facts
}

/// What lies in it, where it runs, what has its name, and what its code is shared with.
fn lists(desk: Desk<'_, '_>, (number, model): (usize, &Model<'_>), ties: &Ties, id: ElementId) -> Vec<TitledLinks> {
    let diagram = model.diagram;
    let language = &desk.input.studio.language;
    let from = model.pages[id.index()].as_str();
    let to = |other: ElementId| Link {
        href: link(from, &model.pages[other.index()]),
        title: name(diagram.element(other), language),
        about: desk.kind(diagram.element(other)).to_owned(),
    };
    let inside: Vec<Link> = ties.inside[id.index()]
        .iter()
        .filter(|inner| !diagram.element(**inner).kind.is_mark())
        .map(|inner| to(*inner))
        .collect();
    let touching = || ties.crossing[id.index()].iter().map(|i| &diagram.relations[*i as usize]);
    let runs: Vec<Link> = touching().filter(|r| r.verb == Verb::Runs && r.to == id).map(|r| to(r.from)).collect();
    let runs_here: Vec<Link> = touching().filter(|r| r.verb == Verb::Runs && r.from == id).map(|r| to(r.to)).collect();
    let shown = name(diagram.element(id), language);
    let lists = [
        ("inside", (inside, 0)),
        ("runs_on", (runs, 0)),
        ("runs_here", (runs_here, 0)),
        ("namesakes", desk.namesakes(from, Mention::Model(number, id), &shown)),
        ("shares_code", sharing(desk, (number, model), id)),
    ];
    under_headings(desk, lists)
}

/// Links under the words for them, with how many more there are; what has none is left out.
fn under_headings(
    desk: Desk<'_, '_>, lists: impl IntoIterator<Item = (&'static str, (Vec<Link>, usize))>,
) -> Vec<TitledLinks> {
    let titled = |(key, (links, more))| TitledLinks { title: desk.say(key).to_owned(), links, more: desk.more(more) };
    lists.into_iter().filter(|(_, (links, _))| !links.is_empty()).map(titled).collect()
}

/// The elements of other models whose code lies in the same place: the first ones, and how many more there are.
fn sharing(desk: Desk<'_, '_>, (number, model): (usize, &Model<'_>), id: ElementId) -> (Vec<Link>, usize) {
    let from = model.pages[id.index()].as_str();
    let language = &desk.input.studio.language;
    let linked = |(other, id): (usize, ElementId)| {
        let other = &desk.book.models[other];
        let element = other.diagram.element(id);
        let about = format!("{}, {}", desk.kind(element), titled(other.diagram));
        Link { href: link(from, &other.pages[id.index()]), title: name(element, language), about }
    };
    let (first, more) = desk.book.sharing(number, model.diagram.element(id));
    (first.into_iter().map(linked).collect(), more)
}

/// The relations out and in, of itself and of what lies in it.
fn relations(desk: Desk<'_, '_>, model: &Model<'_>, ties: &Ties, id: ElementId) -> Vec<TitledLinks> {
    let diagram = model.diagram;
    let from = model.pages[id.index()].as_str();
    let language = &desk.input.studio.language;
    let is_inside = |other: ElementId| other == id || diagram.ancestors(other).any(|around| around == id);
    let said = |relation: &Relation, other: ElementId| {
        let ends = [relation.from, relation.to].map(|end| name(diagram.element(end), language));
        let title = says(relation.verb, [&ends[0], &ends[1]], language);
        Link { href: link(from, &model.pages[other.index()]), title, about: reason(relation) }
    };
    let touching = ties.crossing[id.index()].iter().map(|i| &diagram.relations[*i as usize]);
    let (outgoing, incoming): (Vec<&Relation>, Vec<&Relation>) =
        touching.filter(|r| r.verb != Verb::Runs).partition(|relation| is_inside(relation.from));
    let linked = |all: Vec<&Relation>, other: fn(&Relation) -> ElementId| {
        let (first, more) = first_ones(all.into_iter(), SENTENCES);
        (first.into_iter().map(|relation| said(relation, other(relation))).collect(), more)
    };
    let outgoing = linked(outgoing, |relation| relation.to);
    let incoming = linked(incoming, |relation| relation.from);
    under_headings(desk, [("outgoing", outgoing), ("incoming", incoming)])
}
