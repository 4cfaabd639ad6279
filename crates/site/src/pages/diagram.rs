//! The page of a picture.

use super::{Desk, is_told, name, one_line, root, says, trail};
use crate::address::link;
use crate::book::{Entry, Mention};
use crate::highlight;
use crate::templates::{Card, DiagramPage, Link, Listed, POLICY, STYLE, ShownVersion};
use crate::{PictureName, Version};
use askama::Template;
use bathygram_core::model::Diagram;

use bathygram_outputs::html::{escaped, with_code};
use std::collections::{BTreeMap, BTreeSet};

/// At most this many relations stand in words on a page.
// Beyond, the picture and the lists of the elements tell more than a page of sentences.
pub(super) const SENTENCES: usize = 400;

/// The page of a picture, with marks where its drawing goes. `documents` are those that show it.
pub(crate) fn diagram(desk: Desk<'_, '_>, number: usize, documents: &BTreeSet<usize>) -> String {
    let entry = &desk.book.entries[number];
    let from = entry.page.as_str();
    let language = &desk.input.studio.language;
    let diagram = &entry.view.diagram;
    let mut steps = vec![("index.html".to_owned(), desk.input.project.to_owned())];
    let block = entry.model.map(|model| desk.book.models[model].entry).filter(|block| *block != number);
    steps.extend(block.map(|block| (desk.book.entries[block].page.clone(), desk.book.entries[block].title.clone())));
    let file = &entry.reading.source.name;
    let counted = diagram.elements.iter().filter(|e| !e.kind.is_mark()).count();
    let about = format!("{}, {}", desk.say(entry.kind().word()), desk.count("elements", counted));
    let addresses = desk.book.addresses(entry);
    let mut sentences = sentences(desk, diagram, &addresses);
    let left = sentences.len().saturating_sub(SENTENCES);
    if left > 0 {
        sentences.truncate(SENTENCES);
        sentences.push(language.fill("picture", "more", &[("n", &left.to_string())]));
    }
    let (root, heading) = (root(from), &entry.title);
    let versions = versions(desk, entry);
    let page = DiagramPage {
        frame: desk.frame(&root),
        title: &format!("{heading} \u{2013} {}", desk.input.project),
        style: STYLE,
        policy: POLICY,
        trail: &trail(from, &steps),
        heading,
        about: &about,
        name: entry.picture.name,
        download: &link(from, &entry.file),
        description: &entry.words,
        sheets: &sheets(desk, entry, number),
        used: &used(desk, entry, documents),
        elements: &listed(desk, entry, (number, &addresses)),
        relations: &sentences,
        versions: &versions,
        file,
        source: &highlight::source(entry.reading, entry.picture.span),
    };
    page.render().unwrap_or_default()
}

/// What stands for the subject of a sentence, and for its object.
const FROM: char = '\u{2}';
const TO: char = '\u{3}';

/// What the relations of a picture say, as HTML: the names of elements lead to their pages.
fn sentences(desk: Desk<'_, '_>, diagram: &Diagram, addresses: &BTreeMap<String, String>) -> Vec<String> {
    let language = &desk.input.studio.language;
    let linked = |element: &bathygram_core::model::Element| {
        let shown = escaped(&name(element, language));
        match addresses.get(&element.key) {
            Some(address) => format!("<a href=\"{}\">{shown}</a>", escaped(address)),
            None => shown,
        }
    };
    let told = diagram.relations.iter().filter(|r| is_told(r));
    told.map(|own| {
        let ends = [own.from, own.to].map(|end| linked(diagram.element(end)));
        // No name has a control character: what stands for the names is replaced when the rest is HTML.
        let mut sentence = String::new();
        let marks = [FROM, TO].map(String::from);
        for part in says(own.verb, [&marks[0], &marks[1]], language).split_inclusive([FROM, TO]) {
            let words = part.trim_end_matches([FROM, TO]);
            sentence += &escaped(words);
            sentence += match part.chars().last() {
                Some(FROM) => &ends[0],
                Some(TO) => &ends[1],
                _ => "",
            };
        }
        let reason = escaped(&super::reason(own));
        if reason.is_empty() { sentence } else { format!("{sentence} <span class=\"quiet\">{reason}</span>") }
    })
    .collect()
}

/// The other pictures of the same model.
fn sheets(desk: Desk<'_, '_>, entry: &Entry<'_>, number: usize) -> Vec<Card> {
    let Some(model) = entry.model else { return Vec::new() };
    let others = desk.book.of_model(model).iter().filter(|i| **i != number);
    others.map(|i| desk.card(&entry.page, &desk.book.entries[*i])).collect()
}

/// What uses the file of a picture: other files with diagrams, and documents that show it.
fn used(desk: Desk<'_, '_>, entry: &Entry<'_>, documents: &BTreeSet<usize>) -> Vec<Link> {
    let file = entry.reading.source.name.as_str();
    let from = entry.page.as_str();
    let takers = desk.book.takers(file).iter().map(|i| &desk.book.entries[*i]).map(|other| Link {
        href: link(from, &other.page),
        title: other.title.clone(),
        about: other.reading.source.name.clone(),
    });
    let documents = documents.iter().map(|i| &desk.book.documents[*i]).map(|page| Link {
        href: link(from, &page.page),
        title: page.title.clone(),
        about: page.name.to_owned(),
    });
    takers.chain(documents).collect()
}

fn listed(
    desk: Desk<'_, '_>, entry: &Entry<'_>, (number, addresses): (usize, &BTreeMap<String, String>),
) -> Vec<Listed> {
    let diagram = &entry.view.diagram;
    let from = entry.page.as_str();
    let shown = diagram.ids().filter(|(_, e)| !e.kind.is_mark());
    shown
        .map(|(id, element)| {
            let title = name(element, &desk.input.studio.language);
            let href = addresses.get(&element.key).cloned().unwrap_or_default();
            // What has a page tells there what has its name.
            let (others, more_others) = match href.is_empty() && !element.kind.is_box() {
                true => desk.namesakes(from, Mention::Entry(number, id), &title),
                false => (Vec::new(), 0),
            };
            Listed {
                anchor: if href.is_empty() { entry.anchors[id.index()].clone() } else { String::new() },
                href,
                title,
                kind: desk.kind(element).to_owned(),
                about: element.properties.about.as_ref().map_or(String::new(), one_line),
                others,
                more_others: desk.more(more_others),
            }
        })
        .collect()
}

/// Where the picture of a version is, in the site.
pub(crate) fn version_file(entry: &Entry<'_>, number: usize) -> String {
    let own = entry.file.trim_start_matches("pictures/").trim_end_matches(".svg");
    format!("history/{own}/{}.svg", number + 1)
}

/// The versions of a picture that are shown, the newest first, each with the number that its picture has from the oldest one.
pub(crate) fn numbered<'v>(desk: Desk<'_, 'v>, entry: &Entry<'_>) -> Vec<(usize, &'v Version)> {
    let own = PictureName { file: entry.reading.source.name.clone(), name: entry.picture.name.to_owned() };
    let versions = desk.input.versions.get(&own).map_or(&[][..], Vec::as_slice);
    versions.iter().enumerate().map(|(i, version)| (versions.len() - 1 - i, version)).collect()
}

fn versions<'v>(desk: Desk<'_, 'v>, entry: &Entry<'_>) -> Vec<ShownVersion<'v>> {
    let all = numbered(desk, entry);
    let file = |found: Option<&(usize, &Version)>| {
        found
            .filter(|(_, version)| version.svg.is_some())
            .map_or(String::new(), |(number, _)| link(&entry.page, &version_file(entry, *number)))
    };
    let shown = all.iter().enumerate().map(|(i, (_, version))| ShownVersion {
        date: &version.date,
        author: &version.author,
        subject: &version.subject,
        says: version.says.iter().map(|sentence| with_code(sentence)).collect(),
        before: file(all.get(i + 1)),
        after: file(all.get(i)),
    });
    shown.collect()
}
