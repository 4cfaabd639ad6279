//! Which span lies in which, trace by trace, and the choice of one trace.

use super::spans::{Role, Span, Spans};
use crate::finding::{Finding, Level};
use std::collections::{BTreeMap, HashMap};
use std::hash::{DefaultHasher, Hash, Hasher};

/// Which trace is meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Which {
    /// That of an identifier, or of its first figures.
    Id(String),
    /// The one that took longest.
    Slowest,
    /// One of the shape that most traces have, neither slow nor quick.
    Usual,
    /// All of them, as a map.
    All,
}

/// Spans deeper than this are not followed.
// A text is nested 100 lines deep at most; a call takes a line, and so may a repetition and parallel work around it.
pub(super) const DEEPEST: usize = 30;

/// No span.
const NONE: u32 = u32::MAX;

/// One trace: its spans are those of the order from `first` on.
pub(super) struct Trace {
    pub(super) id: u128,
    first: usize,
    len: usize,
}

/// All traces.
pub(super) struct Forest {
    pub(super) traces: Vec<Trace>,
    /// Spans by trace, then by time.
    order: Vec<u32>,
    /// What each span lies in.
    parents: Vec<u32>,
    /// Where the children of each span begin in `children`.
    starts: Vec<u32>,
    children: Vec<u32>,
    /// Spans whose parent is not there, and circles.
    pub(super) findings: Vec<Finding>,
}

/// The trace that was chosen.
pub(super) struct Chosen {
    pub(super) trace: usize,
    /// How many traces have its shape.
    pub(super) alike: usize,
}

impl Forest {
    pub(super) fn of(spans: &Spans) -> Self {
        let all = &spans.all;
        let mut order: Vec<u32> = (0..all.len() as u32).collect();
        order.sort_by_key(|i| (all[*i as usize].trace, all[*i as usize].start, *i));
        let mut forest = Self {
            traces: Vec::new(),
            parents: vec![NONE; all.len()],
            starts: Vec::new(),
            children: Vec::new(),
            findings: Vec::new(),
            order,
        };
        let mut first = 0;
        for chunk in forest.order.chunk_by(|a, b| all[*a as usize].trace == all[*b as usize].trace) {
            forest.traces.push(Trace { id: all[chunk[0] as usize].trace, first, len: chunk.len() });
            first += chunk.len();
        }
        // In the order of the file, as its reader knows it.
        forest.traces.sort_by_key(|trace| forest.order[trace.first..trace.first + trace.len].iter().copied().min());
        for trace in 0..forest.traces.len() {
            forest.join(trace, spans);
        }
        forest.fill();
        forest
    }

    /// The spans of a trace, by time.
    pub(super) fn spans(&self, trace: usize) -> &[u32] {
        let Trace { first, len, .. } = self.traces[trace];
        &self.order[first..first + len]
    }

    /// The spans of a trace that lie in no other, by time.
    pub(super) fn roots(&self, trace: usize) -> impl Iterator<Item = u32> + '_ {
        self.spans(trace).iter().copied().filter(|span| self.parent(*span).is_none())
    }

    pub(super) fn parent(&self, span: u32) -> Option<u32> {
        let parent = self.parents[span as usize];
        (parent != NONE).then_some(parent)
    }

    /// What lies in a span, by time.
    pub(super) fn children(&self, span: u32) -> &[u32] {
        &self.children[self.starts[span as usize] as usize..self.starts[span as usize + 1] as usize]
    }

    /// Finds the parents of a trace's spans.
    fn join(&mut self, trace: usize, spans: &Spans) {
        let own: Vec<u32> = self.spans(trace).to_vec();
        let by_id: HashMap<u64, u32> = own.iter().rev().map(|i| (spans.all[*i as usize].id, *i)).collect();
        let mut lost: Vec<&Span> = Vec::new();
        for i in &own {
            let span = &spans.all[*i as usize];
            let found = |id: u64| by_id.get(&id).copied().filter(|parent| parent != i);
            let parent = found(span.parent);
            // What was sent goes back to who sent it.
            let sent = || found(span.link).filter(|_| span.role == Role::Consumer);
            if parent.is_none() && span.parent > 0 {
                lost.push(span);
            }
            self.parents[*i as usize] = parent.or_else(sent).unwrap_or(NONE);
        }
        if let Some(first) = lost.first() {
            let names = lost.len();
            let others = if names > 1 { format!(", and that of {} more", names - 1) } else { String::new() };
            let says = format!(
                "the span around `{}` is not in the file{others}; who called is not known",
                spans.text(first.name)
            );
            self.findings.push(Finding::new("parent-missing", Level::Note, spans.seen(first), says));
        }
        self.cut_circles(&own, spans);
    }

    /// Cuts circles of parents, each before its earliest span.
    fn cut_circles(&mut self, own: &[u32], spans: &Spans) {
        // The walk that reached a span.
        let mut walks: HashMap<u32, u32> = HashMap::new();
        for start in own {
            let mut at = *start;
            loop {
                match walks.get(&at) {
                    Some(walk) if walk == start => {
                        let span = &spans.all[at as usize];
                        let says = format!("`{}` lies in itself, by way of others", spans.text(span.name));
                        let seen = spans.seen(span);
                        self.findings.push(Finding::new("in-a-circle", Level::Warning, seen, says));
                        self.parents[at as usize] = NONE;
                        break;
                    }
                    Some(_) => break,
                    None => _ = walks.insert(at, *start),
                }
                match self.parents[at as usize] {
                    NONE => break,
                    parent => at = parent,
                }
            }
        }
    }

    /// Lists the children of every span.
    fn fill(&mut self) {
        let mut starts = vec![0_u32; self.parents.len() + 1];
        for parent in self.parents.iter().filter(|parent| **parent != NONE) {
            starts[*parent as usize + 1] += 1;
        }
        for i in 1..starts.len() {
            starts[i] += starts[i - 1];
        }
        let mut next = starts.clone();
        self.children = vec![0; starts[starts.len() - 1] as usize];
        for span in &self.order {
            let parent = self.parents[*span as usize];
            if parent != NONE {
                self.children[next[parent as usize] as usize] = *span;
                next[parent as usize] += 1;
            }
        }
        self.starts = starts;
    }

    /// How long a trace took: from its first to its last moment, by the clock of its first party.
    pub(super) fn duration(&self, trace: usize, spans: &Spans) -> u64 {
        self.roots(trace).next().map_or(0, |root| spans.all[root as usize].duration())
    }

    /// Chooses a trace.
    pub(super) fn choose(&self, spans: &Spans, which: &Which) -> Option<Chosen> {
        let shapes: Vec<u64> = (0..self.traces.len()).map(|trace| self.shape(trace, spans)).collect();
        let alike =
            |trace: usize| Chosen { trace, alike: shapes.iter().filter(|shape| **shape == shapes[trace]).count() };
        match which {
            Which::Id(id) => {
                let id = id.to_lowercase();
                let is_it = |trace: &Trace| format!("{:032x}", trace.id).starts_with(&id);
                self.traces.iter().position(is_it).map(alike)
            }
            Which::Slowest => (0..self.traces.len()).rev().max_by_key(|trace| self.duration(*trace, spans)).map(alike),
            Which::Usual | Which::All => {
                let mut by_shape: BTreeMap<u64, Vec<usize>> = BTreeMap::new();
                shapes.iter().enumerate().for_each(|(trace, shape)| by_shape.entry(*shape).or_default().push(trace));
                let most = by_shape.into_values().max_by_key(|all| (all.len(), std::cmp::Reverse(all[0])))?;
                let mut by_time = most.clone();
                by_time.sort_by_key(|trace| self.duration(*trace, spans));
                Some(alike(by_time[(by_time.len() - 1) / 2]))
            }
        }
    }

    /// A number that traces have in common in which the same calls lie in the same ones, however often and in whatever order.
    fn shape(&self, trace: usize, spans: &Spans) -> u64 {
        let mut roots: Vec<u64> = self.roots(trace).map(|root| self.shape_of(root, spans, 0)).collect();
        roots.sort_unstable();
        roots.dedup();
        hashed(&roots)
    }

    fn shape_of(&self, span: u32, spans: &Spans, depth: usize) -> u64 {
        let own = &spans.all[span as usize];
        let mut inner: Vec<u64> = match depth < DEEPEST {
            true => self.children(span).iter().map(|child| self.shape_of(*child, spans, depth + 1)).collect(),
            false => Vec::new(),
        };
        inner.sort_unstable();
        inner.dedup();
        hashed(&(own.service, own.name, own.role as u8, own.peer, own.error > 0, inner))
    }
}

fn hashed(value: &impl Hash) -> u64 {
    let mut hasher = DefaultHasher::new();
    value.hash(&mut hasher);
    hasher.finish()
}
