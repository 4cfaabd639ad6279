//! What a text leads to: other files, diagrams, pictograms, and addresses.

use super::places::diagram;
use crate::model::{Role, Target, is_icon_file};
use crate::pipeline::Reading;
use crate::source::Span;
use crate::source::world::name_of;
use crate::syntax::TokenKind;

/// Something that leads elsewhere.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Link {
    /// Where it stands.
    pub span: Span,
    /// Where it leads.
    pub to: LinkTarget,
}

/// Where a link leads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum LinkTarget {
    /// A file of the project, by its name.
    File(String),
    /// A place in this text, or in one that it takes from.
    Place(Span),
    /// Somewhere else: `https:`, `http:` or `mailto:`.
    Address(String),
}

/// The links of a text, in its order.
pub fn links(reading: &Reading) -> Vec<Link> {
    let sources = reading.sources();
    let mut found: Vec<Link> = Vec::new();
    // 1. Files that are taken from, and diagrams that are named: `see`, `of`.
    for occurrence in reading.occurrences.iter().filter(|o| o.span.source.is_root()) {
        let to = match occurrence.target {
            Target::File(source) => sources.get(source).map(|source| LinkTarget::File(source.name.clone())),
            Target::Block(block) if occurrence.role == Role::Named => {
                diagram(reading, block).map(|diagram| LinkTarget::Place(diagram.span))
            }
            _ => None,
        };
        found.extend(to.map(|to| Link { span: occurrence.span, to }));
    }
    // 2. Pictograms of the project, and addresses.
    let words: Vec<_> = reading.tree.tokens.iter().filter(|t| t.kind != TokenKind::Space).collect();
    for pair in words.windows(2).filter(|pair| pair[1].kind == TokenKind::Text) {
        let text = reading.source.slice(pair[1].span);
        let inner = text.trim_matches('"');
        let to = match reading.source.slice(pair[0].span) {
            "icon" if is_icon_file(inner) => name_of(&reading.source.name, inner).map(LinkTarget::File),
            "link" if is_address(inner) => Some(LinkTarget::Address(inner.to_owned())),
            _ => None,
        };
        found.extend(to.map(|to| Link { span: pair[1].span, to }));
    }
    found.sort_by_key(|link| link.span);
    found.dedup_by_key(|link| link.span);
    found
}

/// Whether an address may be opened: nothing that a browser would run.
fn is_address(text: &str) -> bool {
    ["https://", "http://", "mailto:"].iter().any(|scheme| text.starts_with(scheme))
}
