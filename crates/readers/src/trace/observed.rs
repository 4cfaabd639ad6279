//! Traces as calls between parties, one after the other, to be compared with a diagram.

use super::calls::{DEEPEST, Forest};
use super::parties::Parties;
use super::spans::{PeerKind, Role, Span, Spans};
use bathygram_core::conform::{Call, Trace};

/// All traces of a file.
pub(super) fn traces(spans: &Spans, forest: &Forest) -> Vec<Trace> {
    let mut parties = Parties::of(spans);
    let trace = |number: usize| {
        let mut observing = Observing { spans, forest, parties: &mut parties, calls: Vec::new() };
        forest.roots(number).for_each(|root| observing.take(root, 0));
        Trace { id: format!("{:032x}", forest.traces[number].id), calls: observing.calls }
    };
    (0..forest.traces.len()).map(trace).collect()
}

struct Observing<'a> {
    spans: &'a Spans,
    forest: &'a Forest,
    parties: &'a mut Parties,
    calls: Vec<Call>,
}

impl Observing<'_> {
    /// A span and what lies in it, by time.
    fn take(&mut self, number: u32, depth: usize) {
        let span = self.spans.all[number as usize];
        let parent = self.forest.parent(number).map(|parent| self.spans.all[parent as usize]);
        self.call(number, &span, parent.as_ref());
        if depth < DEEPEST {
            let forest = self.forest;
            forest.children(number).iter().for_each(|child| self.take(*child, depth + 1));
        }
    }

    /// The call that a span stands for; a call that its receiver answers is told by that.
    fn call(&mut self, number: u32, span: &Span, parent: Option<&Span>) {
        let own = self.parties.service(span, self.spans);
        let answers =
            |role: Role| self.forest.children(number).iter().any(|child| self.spans.all[*child as usize].role == role);
        let (from, to, timed) = match span.role {
            Role::Internal => return,
            Role::Server => {
                (parent.map(|parent| self.parties.service(parent, self.spans)), own, parent.unwrap_or(span))
            }
            Role::Consumer => {
                let queue = parent
                    .filter(|parent| parent.peer_kind == PeerKind::Queue)
                    .or(Some(span).filter(|s| s.peer_kind == PeerKind::Queue));
                let from = match queue {
                    Some(queue) => self.parties.peer(queue, self.spans),
                    None => parent.map(|parent| self.parties.service(parent, self.spans)),
                };
                (from, own, span)
            }
            Role::Client if answers(Role::Server) => return,
            Role::Producer if answers(Role::Consumer) && span.peer_kind != PeerKind::Queue => return,
            Role::Client | Role::Producer => match self.parties.peer(span, self.spans) {
                Some(peer) => (Some(own), peer, span),
                None => return,
            },
        };
        let (said, other) = (self.spans.text(span.name), self.spans.text(timed.name));
        let name = |party: usize| self.parties.things[party].origin.clone();
        self.calls.push(Call {
            from: from.map(name),
            to: name(to),
            label: if other.starts_with(said) { other } else { said }.to_owned(),
            is_sent: matches!(span.role, Role::Producer | Role::Consumer),
            place: self.spans.seen(span).to_string(),
        });
    }
}
