//! What can be searched for: one entry for each picture, element and document, as a script that any page can load, also from a disk.

use crate::Input;
use crate::book::{Book, Mention};
use bathygram_core::notation::name;
use serde_json::json;

/// Where the entries are.
pub(crate) const INDEX: &str = "assets/index.js";

/// The entries: title, address, kind, what it belongs to, and more words.
pub(crate) fn index(book: &Book<'_>, input: &Input<'_>) -> String {
    let language = &input.studio.language;
    let mut entries = Vec::new();
    for page in &book.documents {
        entries.push(json!([
            page.title,
            crate::address::link("index.html", &page.page),
            language.say("site", "document"),
            page.name,
            ""
        ]));
    }
    for entry in &book.entries {
        let kind = language.say("site", entry.kind().word());
        let address = crate::address::link("index.html", &entry.page);
        entries.push(json!([entry.title, address, kind, entry.reading.source.name, entry.picture.name]));
    }
    let mut element = |diagram: &bathygram_core::model::Diagram, title: &str, mention: Mention, id| {
        let element: &bathygram_core::model::Element = diagram.element(id);
        if element.kind.is_mark() {
            return;
        }
        let properties = &element.properties;
        let said = [&properties.about, &properties.built, &properties.owner];
        let said = said.into_iter().flatten().map(|label| label.text().replace('\n', " "));
        let more: Vec<String> = said.chain(properties.tags.iter().cloned()).chain([element.key.clone()]).collect();
        let address = crate::address::link("index.html", &book.address(mention));
        let kind = language.say("kind", element.kind.word());
        entries.push(json!([name(element, language), address, kind, title, more.join(" ")]));
    };
    for (i, model) in book.models.iter().enumerate() {
        let title = book.entries[model.entry].title.clone();
        model.diagram.ids().for_each(|(id, _)| element(model.diagram, &title, Mention::Model(i, id), id));
    }
    for (i, entry) in book.entries.iter().enumerate().filter(|(_, entry)| entry.model.is_none()) {
        let diagram = &entry.view.diagram;
        diagram.ids().for_each(|(id, _)| element(diagram, &entry.title, Mention::Entry(i, id), id));
    }
    // One a line, so that versions of a site can be compared.
    let lines: Vec<String> = entries.iter().map(serde_json::Value::to_string).collect();
    format!("window.bathygramIndex = [\n{}\n];\n", lines.join(",\n"))
}
