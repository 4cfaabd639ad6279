//! Spans as they are kept: numbers, and texts that are kept once each.

use crate::finding::Seen;
use std::collections::HashMap;
use std::sync::Arc;

/// What a span does (OpenTelemetry Protocol, `SpanKind`).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Role {
    /// Work inside one party.
    #[default]
    Internal,
    /// It was called.
    Server,
    /// It calls.
    Client,
    /// It sends.
    Producer,
    /// It was sent something.
    Consumer,
}

/// What is at the other end of a span, where that has no spans of its own.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum PeerKind {
    /// Something that is not ours.
    #[default]
    Outside,
    /// Another service.
    Service,
    /// A database.
    Store,
    /// A queue or a topic.
    Queue,
}

/// What a call does to a database.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Access {
    /// Nobody says.
    #[default]
    Unknown,
    Reads,
    Writes,
}

/// The number of a text; 0 is no text.
pub(super) type Text = u32;

/// One span.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Span {
    pub(super) trace: u128,
    pub(super) id: u64,
    /// The span around it; 0 for none.
    pub(super) parent: u64,
    /// A span that it goes back to, such as the producer's of a consumer; 0 for none.
    pub(super) link: u64,
    /// Nanoseconds since 1970.
    pub(super) start: u64,
    pub(super) end: u64,
    pub(super) service: Text,
    pub(super) name: Text,
    pub(super) peer: Text,
    /// The technology of the peer.
    pub(super) technology: Text,
    /// What went wrong.
    pub(super) error: Text,
    /// What was answered, such as a status.
    pub(super) answer: Text,
    /// The line on which its document begins.
    pub(super) line: u32,
    pub(super) role: Role,
    pub(super) peer_kind: PeerKind,
    pub(super) access: Access,
}

impl Span {
    /// How long it took, in nanoseconds.
    pub(super) fn duration(&self) -> u64 {
        self.end.saturating_sub(self.start)
    }
}

/// All spans, and the texts in them.
pub(super) struct Spans {
    pub(super) all: Vec<Span>,
    pub(super) file: Arc<str>,
    texts: Vec<Arc<str>>,
    numbers: HashMap<Arc<str>, Text>,
    /// The line of the document that is read.
    pub(super) line: u32,
    /// Whether a whole document was read.
    pub(super) has_documents: bool,
}

impl Spans {
    pub(super) fn new(file: &Arc<str>) -> Self {
        let mut spans = Self {
            all: Vec::new(),
            file: file.clone(),
            texts: Vec::new(),
            numbers: HashMap::new(),
            line: 1,
            has_documents: false,
        };
        spans.number("");
        spans
    }

    /// The number of a text.
    pub(super) fn number(&mut self, text: &str) -> Text {
        if let Some(number) = self.numbers.get(text) {
            return *number;
        }
        let text: Arc<str> = text.into();
        self.texts.push(text.clone());
        self.numbers.insert(text, self.texts.len() as Text - 1);
        self.texts.len() as Text - 1
    }

    /// The text of a number.
    pub(super) fn text(&self, number: Text) -> &str {
        &self.texts[number as usize]
    }

    /// How many spans there are, to come back to.
    pub(super) fn mark(&self) -> usize {
        self.all.len()
    }

    /// Forgets the spans since a mark.
    pub(super) fn reset(&mut self, mark: usize) {
        self.all.truncate(mark);
    }

    /// Where a span stands.
    pub(super) fn seen(&self, span: &Span) -> Seen {
        Seen { file: self.file.clone(), sheet: None, line: span.line, column: None }
    }
}
