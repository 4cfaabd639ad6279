//! What a text holds, as a tree: blocks, their elements, and what these hold.

use crate::model::{Diagram, ElementId};
use crate::pipeline::Reading;
use crate::source::Span;

/// Something that a text holds.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Symbol {
    /// Its name.
    pub name: String,
    /// What it is, in the word of the language, with its label where that says more.
    pub detail: String,
    /// Where it is written: the first line of a block, the declaration of an element.
    pub span: Span,
    /// What it holds.
    pub children: Vec<Symbol>,
}

/// The blocks of a text with their declared elements.
pub fn symbols(reading: &Reading) -> Vec<Symbol> {
    let mut found: Vec<Symbol> = reading.document.diagrams.iter().map(block).collect();
    found.extend(reading.document.sheets.iter().map(|sheet| Symbol {
        name: sheet.name.clone(),
        detail: format!("sheet of {}", sheet.of),
        span: sheet.span,
        children: Vec::new(),
    }));
    found.sort_by_key(|symbol| symbol.span.start);
    found
}

fn block(diagram: &Diagram) -> Symbol {
    let title = diagram.title.as_ref().map_or(String::new(), |title| format!(", {}", title.text()));
    let detail = format!("{}{title}", diagram.kind.word());
    // A parent comes before what it holds, so that children are put into it from the back.
    let mut open: Vec<Option<Symbol>> = diagram.ids().map(|(id, _)| element(diagram, id)).collect();
    let mut top = Vec::new();
    for (id, own) in diagram.ids().collect::<Vec<_>>().into_iter().rev() {
        let Some(mut symbol) = open[id.index()].take() else { continue };
        symbol.children.sort_by_key(|child| child.span.start);
        match own.parent.and_then(|parent| open.get_mut(parent.index())).and_then(Option::as_mut) {
            Some(parent) => parent.children.push(symbol),
            None => top.push(symbol),
        }
    }
    top.sort_by_key(|symbol| symbol.span.start);
    Symbol { name: diagram.name.clone(), detail, span: diagram.span, children: top }
}

/// An element that is declared in this file.
fn element(diagram: &Diagram, id: ElementId) -> Option<Symbol> {
    let element = diagram.element(id);
    if element.implicit || !element.span.source.is_root() {
        return None;
    }
    let shown = element.shown().text();
    let name = if element.name.is_empty() { shown.clone() } else { element.name.clone() };
    let kind = element.kind.word();
    let detail = if shown == name || shown.is_empty() { kind.to_owned() } else { format!("{kind}, {shown}") };
    let members = element.class.iter().flat_map(|body| body.members()).map(|member| Symbol {
        name: member.name(),
        detail: member.text.clone(),
        span: member.span,
        children: Vec::new(),
    });
    let name = if name.is_empty() { kind.to_owned() } else { name };
    Some(Symbol { name, detail, span: element.span, children: members.collect() })
}
