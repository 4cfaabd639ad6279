//! One trace as a sequence. Calls that overlap are `together`, runs of equal ones are repeated; errors, status and duration
//! are kept.

use super::calls::{Chosen, DEEPEST, Forest};
use super::parties::Parties;
use super::spans::{PeerKind, Role, Span, Spans};
use crate::course::{Happening, Message};
use crate::facts::{Facts, Link, Thing};
use crate::finding::{Finding, Level};
use crate::select::Selection;
use bathygram_core::model::{DiagramKind, ElementKind, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// Clocks that differ by less are taken as equal, in nanoseconds.
const SAME_CLOCK: i64 = 1_000_000;
/// At most this many happenings are looked at for a run.
// A run of longer parts is rare, and none is lost: it is written out.
const LONGEST_RUN: usize = 4;

/// The sequence of a trace.
pub(super) fn facts(spans: &Spans, forest: &Forest, chosen: &Chosen, selection: &Selection) -> Facts {
    let mut telling = Telling {
        spans,
        forest,
        selection,
        parties: Parties::of(spans),
        links: Vec::new(),
        clocks: BTreeMap::new(),
        deep: 0,
    };
    let mut timed = Vec::new();
    for root in forest.roots(chosen.trace) {
        telling.root(root, &mut timed);
    }
    let happenings = telling.gathered(timed);
    let trace = &forest.traces[chosen.trace];
    let mut facts = Facts::new(DiagramKind::Sequence);
    let root = forest.roots(chosen.trace).next().map(|root| &spans.all[root as usize]);
    facts.title = root.map(|root| spans.text(root.name).to_owned()).unwrap_or_default();
    let own = format!("Trace {:032x}, {}", trace.id, duration(forest.duration(chosen.trace, spans)));
    facts.caption = Some(match forest.traces.len() {
        1 => own,
        all => format!("{own}; {} of {all} traces have this shape", chosen.alike),
    });
    let own: BTreeSet<u32> = forest.spans(chosen.trace).iter().map(|span| spans.all[*span as usize].line).collect();
    facts.findings = forest.findings.iter().filter(|finding| own.contains(&finding.seen.line)).cloned().collect();
    facts.findings.extend(telling.doubts(trace.id));
    facts.things = telling.parties.things;
    facts.links = telling.links;
    facts.happenings = happenings;
    facts.order_links();
    facts.keep_linked();
    facts
}

/// A time in nanoseconds as people say it.
pub(super) fn duration(nanos: u64) -> String {
    let short = |value: f64, unit: &str| {
        let figures = if value < 9.95 { format!("{value:.1}") } else { format!("{value:.0}") };
        format!("{} {unit}", figures.strip_suffix(".0").unwrap_or(&figures))
    };
    match nanos {
        0..1_000 => format!("{nanos} ns"),
        1_000..999_500 => short(nanos as f64 / 1e3, "µs"),
        999_500..999_500_000 => short(nanos as f64 / 1e6, "ms"),
        _ => short(nanos as f64 / 1e9, "s"),
    }
}

/// Something that happens, with when.
struct Timed {
    happening: Happening,
    start: u64,
    end: u64,
}

struct Telling<'a> {
    spans: &'a Spans,
    forest: &'a Forest,
    selection: &'a Selection,
    parties: Parties,
    links: Vec<Link>,
    /// How far clocks are ahead of those that call, by the numbers of both services.
    clocks: BTreeMap<(u32, u32), i64>,
    /// How many spans lie too deep.
    deep: usize,
}

impl Telling<'_> {
    fn span(&self, number: u32) -> Span {
        self.spans.all[number as usize]
    }

    /// A span that nothing of the trace lies around.
    fn root(&mut self, number: u32, out: &mut Vec<Timed>) {
        let span = self.span(number);
        let verb = match span.role {
            Role::Server => Verb::Calls,
            Role::Consumer => Verb::Sends,
            _ => return self.tell(number, 0, out),
        };
        let party = self.parties.service(&span, self.spans);
        if !self.wants(party) {
            return self.inside(number, 0, out);
        }
        // Who called is not known.
        self.parties.things.push(Thing::new("found", ElementKind::Found, self.spans.seen(&span)));
        let found = self.parties.things.len() - 1;
        let body = self.body(number, 0);
        out.push(self.message(&span, &span, (found, verb, party), body));
    }

    fn wants(&self, party: usize) -> bool {
        self.selection.wants(&self.parties.things[party].origin)
    }

    /// What happens in a span, in order and gathered.
    fn body(&mut self, number: u32, depth: usize) -> Vec<Happening> {
        let mut timed = Vec::new();
        self.inside(number, depth + 1, &mut timed);
        self.gathered(timed)
    }

    /// What lies in a span.
    fn inside(&mut self, number: u32, depth: usize, out: &mut Vec<Timed>) {
        let forest = self.forest;
        if depth >= DEEPEST {
            self.deep += forest.children(number).len();
            return;
        }
        forest.children(number).iter().for_each(|child| self.tell(*child, depth, out));
    }

    /// A span in the work of its party.
    fn tell(&mut self, number: u32, depth: usize, out: &mut Vec<Timed>) {
        let span = self.span(number);
        let forest = self.forest;
        let caller = match forest.parent(number).map(|parent| self.span(parent)) {
            Some(parent) if matches!(span.role, Role::Server | Role::Consumer) => parent,
            _ => span,
        };
        let from = self.parties.service(&caller, self.spans);
        if !self.wants(from) {
            return self.inside(number, depth, out);
        }
        let is_answered = |child: &&u32| match self.span(**child).role {
            Role::Server => span.role == Role::Client,
            Role::Consumer => span.role == Role::Producer,
            _ => false,
        };
        let (answers, rest): (Vec<&u32>, Vec<&u32>) =
            forest.children(number).iter().partition(|child| is_answered(child));
        match span.role {
            Role::Client | Role::Producer => {
                let verb = if span.role == Role::Client { Verb::Calls } else { Verb::Sends };
                let queue = (span.peer_kind == PeerKind::Queue).then(|| self.parties.peer(&span, self.spans)).flatten();
                let mut received = Vec::new();
                for answer in &answers {
                    self.received(
                        &span,
                        **answer,
                        (queue.unwrap_or(from), verb),
                        depth + usize::from(queue.is_some()),
                        &mut received,
                    );
                }
                let peer =
                    if answers.is_empty() || queue.is_some() { self.parties.peer(&span, self.spans) } else { None };
                match (queue.or(peer), answers.is_empty()) {
                    (Some(to), _) if self.wants(to) => {
                        let body = self.gathered(received);
                        out.push(self.message(&span, &span, (from, verb, to), body));
                    }
                    (None, true) => {
                        let own = self.body(number, depth);
                        return out.push(self.message(&span, &span, (from, Verb::Does, from), own));
                    }
                    _ => out.extend(received),
                }
                // What the caller does beside.
                rest.into_iter().for_each(|child| self.tell(*child, depth, out));
            }
            Role::Server => self.received(&caller, number, (from, Verb::Calls), depth, out),
            Role::Consumer => self.received(&caller, number, (from, Verb::Sends), depth, out),
            Role::Internal => {
                let body = self.body(number, depth);
                out.push(self.message(&span, &span, (from, Verb::Does, from), body));
            }
        }
    }

    /// The span of who is called, seen from the span that calls.
    fn received(
        &mut self, caller: &Span, number: u32, (from, verb): (usize, Verb), depth: usize, out: &mut Vec<Timed>,
    ) {
        let span = self.span(number);
        let to = self.parties.service(&span, self.spans);
        if !self.wants(to) {
            return self.inside(number, depth, out);
        }
        if verb == Verb::Calls && caller.role == Role::Client {
            self.compare_clocks(caller, &span);
        }
        let body = self.body(number, depth);
        out.push(self.message(caller, &span, (from, verb, to), body));
    }

    /// A message; `timed` is the span of who sends it, `span` that of who works on it.
    fn message(&mut self, timed: &Span, span: &Span, ends: (usize, Verb, usize), body: Vec<Happening>) -> Timed {
        let (from, verb, to) = ends;
        let (own, other) = (self.spans.text(span.name), self.spans.text(timed.name));
        // Names such as `GET` alone say less than those with a path.
        let label = if other.starts_with(own) { other } else { own };
        let mut link = Link::new(from, verb, to, self.spans.seen(span));
        link.label = (!label.is_empty()).then(|| label.to_owned());
        let error = if span.error > 0 { span.error } else { timed.error };
        let answer = if span.answer > 0 { span.answer } else { timed.answer };
        let texts = [answer, error].map(|text| self.spans.text(text));
        let reply: Vec<&str> = texts.into_iter().filter(|text| !text.is_empty()).collect();
        if error > 0 {
            link.tags.push("failed".to_owned());
        }
        self.links.push(link);
        // A send waits for nothing: how long it took says nothing about what it led to.
        let is_timed = verb != Verb::Sends && timed.duration() > 0;
        let message = Message {
            link: self.links.len() - 1,
            returning: (verb == Verb::Calls && !reply.is_empty()).then(|| reply.join(" ")),
            within: is_timed.then(|| duration(timed.duration())),
            body,
        };
        Timed { happening: Happening::Message(message), start: timed.start, end: timed.end.max(timed.start) }
    }

    /// Remembers by how much the clock of who is called is off: its work lies within the call.
    fn compare_clocks(&mut self, caller: &Span, span: &Span) {
        let early = caller.start as i64 - span.start as i64;
        let late = span.end as i64 - caller.end as i64;
        if early > SAME_CLOCK || late > SAME_CLOCK {
            let middle = |span: &Span| span.start as i64 / 2 + span.end as i64 / 2;
            let ahead = middle(span) - middle(caller);
            let worst = self.clocks.entry((caller.service, span.service)).or_default();
            if ahead.abs() > worst.abs() {
                *worst = ahead;
            }
        }
    }

    /// What is doubtful beyond what the forest says.
    fn doubts(&self, trace: u128) -> Vec<Finding> {
        let first = |service: u32| self.spans.all.iter().find(|span| span.trace == trace && span.service == service);
        let skewed = self.clocks.iter().filter_map(|((caller, service), ahead)| {
            let seen = self.spans.seen(first(*service)?);
            let way = if *ahead > 0 { "ahead of" } else { "behind" };
            let says = format!(
                "the clock of `{}` is about {} {way} that of `{}`; the order is that of who calls",
                self.spans.text(*service),
                duration(ahead.unsigned_abs()),
                self.spans.text(*caller)
            );
            Some(Finding::new("clocks-differ", Level::Note, seen, says))
        });
        let mut doubts: Vec<Finding> = skewed.collect();
        if self.deep > 0 {
            let seen = crate::finding::Seen { file: self.spans.file.clone(), ..Default::default() };
            let says = format!("{} spans lie more than {DEEPEST} calls deep; they are left out", self.deep);
            doubts.push(Finding::new("too-deep", Level::Warning, seen, says));
        }
        doubts
    }

    /// What happens, by time: overlapping ones together, runs of equal ones once.
    fn gathered(&self, mut timed: Vec<Timed>) -> Vec<Happening> {
        timed.sort_by_key(|timed| timed.start);
        let mut out: Vec<Happening> = Vec::new();
        let mut group: Vec<Timed> = Vec::new();
        let mut end = 0;
        for next in timed {
            if !group.is_empty() && !overlaps(end, &next) {
                self.close(std::mem::take(&mut group), &mut out);
            }
            end = if group.is_empty() { next.end } else { end.max(next.end) };
            group.push(next);
        }
        self.close(group, &mut out);
        self.runs(out)
    }

    /// A group of happenings that overlap, or a single one.
    fn close(&self, group: Vec<Timed>, out: &mut Vec<Happening>) {
        let parts: Vec<Happening> = group.into_iter().map(|timed| timed.happening).collect();
        if parts.len() < 2 {
            return out.extend(parts);
        }
        // Equal ones at the same time are one, several times.
        let mut alike: Vec<(Happening, usize)> = Vec::new();
        for part in parts {
            match alike.iter_mut().find(|(first, _)| self.is_alike(first, &part)) {
                Some((_, count)) => *count += 1,
                None => alike.push((part, 1)),
            }
        }
        let several = |(part, count): (Happening, usize)| match count {
            1 => vec![part],
            _ => vec![Happening::Repeat { label: format!("{count} times, at the same time"), body: vec![part] }],
        };
        let mut parts: Vec<Vec<Happening>> = alike.into_iter().map(several).collect();
        match parts.len() {
            1 => out.append(&mut parts[0]),
            _ => out.push(Happening::Together(parts)),
        }
    }

    /// Runs of equal happenings, one or a few at a time, become repetitions.
    fn runs(&self, all: Vec<Happening>) -> Vec<Happening> {
        let mut out: Vec<Happening> = Vec::new();
        let mut at = 0;
        while at < all.len() {
            let times = |period: usize| {
                let is_same = |i: &usize| {
                    (0..period)
                        .all(|k| all.get(at + i * period + k).is_some_and(|other| self.is_alike(&all[at + k], other)))
                };
                (1..).take_while(is_same).count() + 1
            };
            let best = (1..=LONGEST_RUN).map(|period| (period, times(period))).filter(|(_, times)| *times > 1);
            // The shortest part that covers most.
            match best.max_by_key(|(period, times)| (period * times, std::cmp::Reverse(*period))) {
                Some((period, times)) => {
                    let body = all[at..at + period].to_vec();
                    out.push(Happening::Repeat { label: format!("{times} times"), body });
                    at += period * times;
                }
                None => {
                    out.push(all[at].clone());
                    at += 1;
                }
            }
        }
        out
    }

    /// Whether two happenings are the same, however long they took.
    fn is_alike(&self, a: &Happening, b: &Happening) -> bool {
        let all =
            |a: &[Happening], b: &[Happening]| a.len() == b.len() && a.iter().zip(b).all(|(a, b)| self.is_alike(a, b));
        match (a, b) {
            (Happening::Message(a), Happening::Message(b)) => {
                let said = |message: &Message| {
                    let link = &self.links[message.link];
                    (link.from, link.to, link.verb, link.label.clone(), message.returning.clone())
                };
                said(a) == said(b) && all(&a.body, &b.body)
            }
            (Happening::Repeat { body: a, .. }, Happening::Repeat { body: b, .. }) => all(a, b),
            (Happening::Together(a), Happening::Together(b)) => {
                a.len() == b.len() && a.iter().zip(b).all(|(a, b)| all(a, b))
            }
            _ => false,
        }
    }
}

/// Whether something begins well before what came before it has ended: clocks are no better than that.
fn overlaps(end: u64, next: &Timed) -> bool {
    let shared = end.min(next.end).saturating_sub(next.start);
    let length = next.end.saturating_sub(next.start);
    shared > 0 && shared.saturating_mul(10) >= length
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn times_are_said_as_people_say_them() {
        for (nanos, wanted) in [
            (0, "0 ns"),
            (999, "999 ns"),
            (1_000, "1 µs"),
            (1_500, "1.5 µs"),
            (9_940, "9.9 µs"),
            (9_960, "10 µs"),
            (999_499, "999 µs"),
            (999_500, "1 ms"),
            (12_345_678, "12 ms"),
            (999_499_999, "999 ms"),
            (999_500_000, "1 s"),
            (1_250_000_000, "1.2 s"),
            (90_000_000_000, "90 s"),
        ] {
            assert_eq!(duration(nanos), wanted, "{nanos}");
        }
    }

    #[test]
    fn what_touches_does_not_overlap() {
        let timed = |start, end| Timed { happening: Happening::Together(Vec::new()), start, end };
        assert!(!overlaps(100, &timed(100, 200)));
        assert!(!overlaps(109, &timed(100, 200)), "clocks are no better than a tenth");
        assert!(overlaps(110, &timed(100, 200)));
        assert!(overlaps(500, &timed(100, 200)));
        assert!(!overlaps(100, &timed(300, 300)));
    }
}
