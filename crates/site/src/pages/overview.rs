//! The pages that lead to the others: the front page by folders, the pictures by kinds, and all elements.

use super::{Desk, name, root};
use crate::address::link;
use crate::book::Mention;
use crate::templates::{CardGroup, Elements, Front, Link, LinkGroup};
use askama::Template;
use bathygram_core::model::DiagramKind;
use std::collections::BTreeMap;

/// The kinds in the order in which they are listed.
const KINDS: [DiagramKind; 7] = [
    DiagramKind::Architecture,
    DiagramKind::Sequence,
    DiagramKind::Flow,
    DiagramKind::States,
    DiagramKind::Classes,
    DiagramKind::Network,
    DiagramKind::Tree,
];

/// The front page: documents, and pictures by the folders of their sources.
pub(crate) fn front(desk: Desk<'_, '_>) -> String {
    let from = "index.html";
    let mut folders: BTreeMap<&str, Vec<usize>> = BTreeMap::new();
    for (i, entry) in desk.book.entries.iter().enumerate() {
        let folder = entry.reading.source.name.rsplit_once('/').map_or("", |(folder, _)| folder);
        folders.entry(folder).or_default().push(i);
    }
    let groups: Vec<CardGroup> = folders
        .into_iter()
        .map(|(folder, mut entries)| {
            let place = |i: &usize| KINDS.iter().position(|kind| *kind == desk.book.entries[*i].kind());
            entries.sort_by_key(place);
            CardGroup {
                title: if folder.is_empty() { desk.say("diagrams_head").to_owned() } else { folder.to_owned() },
                cards: entries.iter().map(|i| desk.card(from, &desk.book.entries[*i])).collect(),
            }
        })
        .collect();
    let documents: Vec<Link> = desk
        .book
        .documents
        .iter()
        .map(|page| Link { href: link(from, &page.page), title: page.title.clone(), about: page.name.to_owned() })
        .collect();
    let mut counts = vec![desk.count("diagrams", desk.book.entries.len())];
    let elements = desk.book.models.iter().map(|model| model.pages.len()).sum();
    counts.extend((elements > 0).then(|| desk.count("elements", elements)));
    counts.extend((!documents.is_empty()).then(|| desk.count("documents", documents.len())));
    let (title, root) = (desk.input.project, root(from));
    let page = Front {
        frame: desk.frame(&root),
        title,
        style: "",
        policy: super::POLICY,
        heading: title,
        summary: &counts.join(", "),
        documents: &documents,
        groups: &groups,
    };
    page.render().unwrap_or_default()
}

/// The pictures by their kinds.
pub(crate) fn kinds(desk: Desk<'_, '_>) -> String {
    let from = "kinds.html";
    let groups: Vec<CardGroup> = KINDS
        .into_iter()
        .filter_map(|kind| {
            let cards: Vec<_> =
                desk.book.entries.iter().filter(|e| e.kind() == kind).map(|entry| desk.card(from, entry)).collect();
            (!cards.is_empty()).then(|| CardGroup { title: desk.say(kind.word()).to_owned(), cards })
        })
        .collect();
    let root = root(from);
    let heading = desk.say("kinds");
    let page = Front {
        frame: desk.frame(&root),
        title: &format!("{heading} \u{2013} {}", desk.input.project),
        style: "",
        policy: super::POLICY,
        heading,
        summary: &desk.count("diagrams", desk.book.entries.len()),
        documents: &[],
        groups: &groups,
    };
    page.render().unwrap_or_default()
}

/// All elements, by their diagrams.
pub(crate) fn elements(desk: Desk<'_, '_>) -> String {
    let from = "elements.html";
    let language = &desk.input.studio.language;
    let listed = |diagram: &bathygram_core::model::Diagram,
                  mention: &dyn Fn(bathygram_core::model::ElementId) -> Mention| {
        let shown = diagram.ids().filter(|(_, e)| !e.kind.is_mark() && !e.kind.is_box());
        let mut links: Vec<Link> = shown
            .map(|(id, element)| Link {
                href: link(from, &desk.book.address(mention(id))),
                title: name(element, language),
                about: desk.kind(element).to_owned(),
            })
            .collect();
        links.sort_by_key(|link| link.title.to_lowercase());
        links
    };
    let mut groups = Vec::new();
    for (i, entry) in desk.book.entries.iter().enumerate() {
        let links = match desk.book.models.iter().position(|model| model.entry == i) {
            Some(model) => listed(desk.book.models[model].diagram, &|id| Mention::Model(model, id)),
            None if entry.model.is_none() => listed(&entry.view.diagram, &|id| Mention::Entry(i, id)),
            None => continue,
        };
        if !links.is_empty() {
            groups.push(LinkGroup { href: link(from, &entry.page), title: entry.title.clone(), links });
        }
    }
    let count = groups.iter().map(|group| group.links.len()).sum();
    let root = root(from);
    let page = Elements {
        frame: desk.frame(&root),
        title: &format!("{} \u{2013} {}", desk.say("elements_head"), desk.input.project),
        style: "",
        policy: super::POLICY,
        summary: &desk.count("elements", count),
        groups: &groups,
    };
    page.render().unwrap_or_default()
}
