//! What stands on each page.

mod diagram;
mod document;
mod element;
mod overview;

pub(crate) use diagram::{diagram, numbered, version_file};
pub(crate) use document::document;
pub(crate) use element::{Ties, element};
pub(crate) use overview::{elements, front, kinds};

use crate::Input;
use crate::address::{link, root};
use crate::book::{Book, Entry, Mention};
use crate::templates::{Card, Frame, Link};
use bathygram_core::model::{Diagram, Relation, Verb};
use bathygram_core::notation::{name, says};
use bathygram_outputs::html::escaped;

/// What pages may do and load. Nothing comes from any server but that of the site, and of a disk nothing but the site.
pub(crate) const POLICY: &str = "default-src 'none'; style-src 'self'; script-src 'self'; font-src data:; img-src 'self' data:; base-uri 'none'; form-action 'none'";

/// What all pages are made from.
#[derive(Clone, Copy)]
pub(crate) struct Desk<'b, 'a> {
    pub(crate) book: &'b Book<'a>,
    pub(crate) input: &'b Input<'a>,
}

impl<'b, 'a> Desk<'b, 'a> {
    /// What all pages have.
    fn frame<'f>(self, root: &'f str) -> Frame<'f>
    where
        'b: 'f,
    {
        Frame {
            language: &self.input.studio.language,
            project: self.input.project,
            root,
            has_documents: !self.book.documents.is_empty(),
        }
    }

    fn say(self, key: &'b str) -> &'b str {
        self.input.studio.language.say("site", key)
    }

    fn count(self, key: &str, n: usize) -> String {
        self.input.studio.language.count("site", key, n)
    }

    /// How many more there are, in words; empty for none.
    fn more(self, count: usize) -> String {
        if count == 0 {
            String::new()
        } else {
            self.input.studio.language.fill("picture", "more", &[("n", &count.to_string())])
        }
    }

    /// What a kind of elements is called.
    fn kind(self, element: &'b bathygram_core::model::Element) -> &'b str {
        self.input.studio.language.say("kind", element.kind.word())
    }

    /// A picture among others.
    fn card(self, from: &str, entry: &Entry<'_>) -> Card {
        let about = self.say(entry.kind().word()).to_owned();
        Card { href: link(from, &entry.page), image: link(from, &entry.file), title: entry.title.clone(), about }
    }

    /// What has the name of an element in other diagrams: the first ones, and how many more there are.
    fn namesakes(self, from: &str, own: Mention, shown: &str) -> (Vec<Link>, usize) {
        let (all, left) = self.book.namesakes(own, shown);
        (all.into_iter().map(|other| self.mention(from, other)).collect(), left)
    }

    /// An element in another diagram.
    fn mention(self, from: &str, mention: Mention) -> Link {
        let (entry, shown) = match mention {
            Mention::Model(model, id) => {
                let model = &self.book.models[model];
                (&self.book.entries[model.entry], model.diagram.element(id))
            }
            Mention::Entry(entry, id) => {
                let entry = &self.book.entries[entry];
                (entry, entry.view.diagram.element(id))
            }
        };
        Link {
            href: link(from, &self.book.address(mention)),
            title: entry.title.clone(),
            about: self.kind(shown).to_owned(),
        }
    }
}

/// Where a page is, as links: each step its address and its words. The first step alone is what every page has.
fn trail(from: &str, steps: &[(String, String)]) -> String {
    if steps.len() < 2 {
        return String::new();
    }
    let steps: Vec<String> = steps
        .iter()
        .map(|(to, words)| format!("<a href=\"{}\">{}</a>", escaped(&link(from, to)), escaped(words)))
        .collect();
    steps.join(" <span aria-hidden=\"true\">\u{203a}</span> ")
}

/// Whether a relation is said of the world: not of remarks, nor of what must not be.
fn is_told(relation: &Relation) -> bool {
    !matches!(relation.verb, Verb::Remarks | Verb::Aside)
}

/// A label in one line.
fn one_line(label: &bathygram_core::syntax::Label) -> String {
    label.text().replace('\n', " ")
}

/// What a relation says beyond its verb: label, protocol, ends.
fn reason(relation: &Relation) -> String {
    let transition = relation.transition.as_ref();
    let labels = [
        relation.label.as_ref(),
        relation.start.as_ref(),
        transition.and_then(|t| t.trigger.as_ref()),
        transition.and_then(|t| t.guard.as_ref()),
    ];
    let mut parts: Vec<String> = labels.into_iter().flatten().map(one_line).collect();
    parts.extend(relation.over.as_ref().map(one_line));
    parts.extend(relation.ends.iter().map(|end| end.shown()).filter(|end| !end.is_empty()));
    parts.join(", ")
}

/// What a diagram is called.
fn titled(diagram: &Diagram) -> String {
    diagram
        .title
        .as_ref()
        .map(one_line)
        .filter(|title| !title.trim().is_empty())
        .unwrap_or_else(|| diagram.name.clone())
}
