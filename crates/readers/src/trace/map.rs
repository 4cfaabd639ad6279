//! Who calls whom over all traces, with how often, how long and how often it failed, as an architecture.

use super::calls::Forest;
use super::parties::Parties;
use super::sequence::duration;
use super::spans::{Access, PeerKind, Role, Span, Spans};
use crate::facts::{Facts, Link};
use crate::finding::{Finding, Level};
use crate::select::Selection;
use bathygram_core::model::{DiagramKind, Verb};
use std::collections::BTreeMap;

/// Failures of more than one call in this many are named.
const FAILS: usize = 100;

/// What is known of the calls from one party to another.
#[derive(Default)]
struct Calls {
    /// Durations in nanoseconds.
    times: Vec<u64>,
    failed: usize,
    first: Option<u32>,
}

/// The map of all traces.
pub(super) fn facts(spans: &Spans, forest: &Forest, selection: &Selection) -> Facts {
    let mut parties = Parties::of(spans);
    let mut calls: BTreeMap<(usize, usize, Verb), Calls> = BTreeMap::new();
    for number in 0..spans.all.len() as u32 {
        for (from, verb, to, timed) in edges(number, spans, forest, &mut parties) {
            let known = calls.entry((from, to, verb)).or_default();
            known.times.push(timed.duration());
            let has_failed = timed.error > 0 || spans.all[number as usize].error > 0;
            known.failed += usize::from(has_failed);
            known.first = known.first.or(Some(number));
        }
    }
    // Services that call nobody are there, too.
    spans.all.iter().for_each(|span| _ = parties.service(span, spans));
    let mut facts = Facts::new(DiagramKind::Architecture);
    let wanted: Vec<bool> = parties.things.iter().map(|thing| selection.wants(&thing.origin)).collect();
    let numbers: Vec<usize> = wanted
        .iter()
        .scan(0, |next, is| {
            let own = *next;
            *next += usize::from(*is);
            Some(own)
        })
        .collect();
    let mut all: Vec<((usize, usize, Verb), Calls)> = calls.into_iter().collect();
    all.sort_by_key(|(_, calls)| calls.first);
    for ((from, to, verb), calls) in all.into_iter().filter(|((from, to, _), _)| wanted[*from] && wanted[*to]) {
        let seen = calls.first.map(|number| spans.seen(&spans.all[number as usize])).unwrap_or_default();
        let mut link = Link::new(numbers[from], verb, numbers[to], seen);
        link.tags.extend((calls.failed * FAILS > calls.times.len()).then(|| "failed".to_owned()));
        link.label = Some(label(calls));
        facts.links.push(link);
    }
    let mut is_wanted = wanted.iter();
    facts.things = parties.things;
    facts.things.retain(|_| is_wanted.next().is_some_and(|is| *is));
    facts.caption = Some(format!("{} traces. On each line: how many calls, median time.", forest.traces.len()));
    facts.findings = gathered(&forest.findings);
    facts
}

/// Findings of one kind over many traces are one.
fn gathered(findings: &[Finding]) -> Vec<Finding> {
    let mut all: Vec<Finding> = Vec::new();
    for finding in findings {
        if !all.iter().any(|known| known.code == finding.code) {
            let count = findings.iter().filter(|other| other.code == finding.code).count();
            let more = if count > 1 { format!(" (and so in {} more traces)", count - 1) } else { String::new() };
            all.push(Finding { says: format!("{}{more}", finding.says), level: Level::Note, ..finding.clone() });
        }
    }
    all
}

/// `1204 calls, 12 ms, 3 % fail`.
fn label(mut calls: Calls) -> String {
    calls.times.sort_unstable();
    let (count, middle) = (calls.times.len(), calls.times[calls.times.len() / 2]);
    let times = if count == 1 { "1 call".to_owned() } else { format!("{count} calls") };
    let long = if middle > 0 { format!(", {}", duration(middle)) } else { String::new() };
    let failed = match calls.failed {
        0 => String::new(),
        failed if failed * FAILS <= count => format!(", {failed} fail"),
        failed => format!(", {} % fail", (failed * 100 + count / 2) / count),
    };
    format!("{times}{long}{failed}")
}

/// The calls that a span stands for, with the span that says how long they took.
fn edges<'s>(
    number: u32, spans: &'s Spans, forest: &Forest, parties: &mut Parties,
) -> Vec<(usize, Verb, usize, &'s Span)> {
    let span = &spans.all[number as usize];
    let parent = forest.parent(number).map(|parent| &spans.all[parent as usize]);
    let mut out = Vec::new();
    match span.role {
        Role::Server => {
            if let Some(parent) = parent.filter(|parent| parent.service != span.service || parent.role == Role::Client)
            {
                let timed = if parent.role == Role::Client { parent } else { span };
                out.push((parties.service(parent, spans), Verb::Calls, parties.service(span, spans), timed));
            }
        }
        Role::Consumer => {
            let queue = parent.filter(|parent| parent.peer_kind == PeerKind::Queue).unwrap_or(span);
            let from = match queue.peer_kind {
                PeerKind::Queue => parties.peer(queue, spans),
                _ => parent.map(|parent| parties.service(parent, spans)),
            };
            out.extend(from.map(|from| (from, Verb::Sends, parties.service(span, spans), span)));
        }
        Role::Producer if span.peer_kind == PeerKind::Queue => {
            let from = parties.service(span, spans);
            out.extend(parties.peer(span, spans).map(|to| (from, Verb::Sends, to, span)));
        }
        Role::Client => {
            let is_answered =
                forest.children(number).iter().any(|child| spans.all[*child as usize].role == Role::Server);
            let verb = match (span.peer_kind, span.access) {
                (PeerKind::Store, Access::Reads) => Verb::Reads,
                (PeerKind::Store, Access::Writes) => Verb::Writes,
                (PeerKind::Store, Access::Unknown) => Verb::Uses,
                _ => Verb::Calls,
            };
            if !is_answered {
                let from = parties.service(span, spans);
                out.extend(parties.peer(span, spans).map(|to| (from, verb, to, span)));
            }
        }
        Role::Producer | Role::Internal => {}
    }
    out
}
