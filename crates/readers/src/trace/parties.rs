//! Who takes part: services by their names, and what spans only name at their other end.

use super::spans::{PeerKind, Span, Spans, Text};
use crate::facts::Thing;
use crate::finding::Seen;
use bathygram_core::model::ElementKind;
use std::collections::{BTreeMap, BTreeSet};

/// Parties by what they are and their names, in the order in which they are seen.
#[derive(Default)]
pub(super) struct Parties {
    pub(super) things: Vec<Thing>,
    numbers: BTreeMap<(PeerKind, Text), usize>,
    /// Names of services that have spans.
    services: BTreeSet<Text>,
}

impl Parties {
    pub(super) fn of(spans: &Spans) -> Self {
        let services = spans.all.iter().map(|span| span.service).collect();
        Self { services, ..Self::default() }
    }

    /// The party that a span is of.
    pub(super) fn service(&mut self, span: &Span, spans: &Spans) -> usize {
        self.number(PeerKind::Service, span.service, 0, spans.seen(span), spans)
    }

    /// The party at the other end of a span.
    pub(super) fn peer(&mut self, span: &Span, spans: &Spans) -> Option<usize> {
        let kind = if self.services.contains(&span.peer) { PeerKind::Service } else { span.peer_kind };
        (span.peer > 0).then(|| self.number(kind, span.peer, span.technology, spans.seen(span), spans))
    }

    fn number(&mut self, kind: PeerKind, name: Text, technology: Text, seen: Seen, spans: &Spans) -> usize {
        if let Some(number) = self.numbers.get(&(kind, name)) {
            return *number;
        }
        let element = match kind {
            PeerKind::Service => ElementKind::Service,
            PeerKind::Store => ElementKind::Store,
            PeerKind::Queue => ElementKind::Queue,
            PeerKind::Outside => ElementKind::System,
        };
        let mut thing = Thing::new(spans.text(name), element, seen);
        thing.said.built = (technology > 0 && technology != name).then(|| spans.text(technology).to_owned());
        self.things.push(thing);
        self.numbers.insert((kind, name), self.things.len() - 1);
        self.things.len() - 1
    }
}
