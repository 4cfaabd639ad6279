//! The page of a Markdown document.

use super::{Desk, POLICY, root, trail};
use crate::links::DocumentLinks;
use crate::markdown::to_html;
use crate::templates::DocumentPage;
use askama::Template;

/// The page of a document; what it leads to is found on the way.
pub(crate) fn document(desk: Desk<'_, '_>, number: usize, links: &mut DocumentLinks<'_, '_, '_>) -> String {
    let document = &desk.book.documents[number];
    let from = document.page.as_str();
    let (body, headings) = to_html(document.text, links);
    let root = root(from);
    let steps = [
        ("index.html".to_owned(), desk.input.project.to_owned()),
        ("index.html#documents".to_owned(), desk.say("documents_head").to_owned()),
    ];
    let page = DocumentPage {
        frame: desk.frame(&root),
        title: &document.title,
        style: "",
        policy: POLICY,
        trail: &trail(from, &steps),
        needs_heading: !headings.iter().any(|(level, ..)| *level == 1),
        body: &body,
        file: document.name,
    };
    page.render().unwrap_or_default()
}
