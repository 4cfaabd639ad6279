//! The passages of a flow: which are known, and where new ones go. Steps, decisions and repetitions are known by their
//! elements; parallel work, and what lies in a lane, by any step in it; a way elsewhere by its target and the branch it is in.

use super::ordered::{Anchor, Insertions, Key};
use super::place::moved;
use super::whole::Whole;
use crate::model::{Arrow, Branch, Content, ElementId, Passage, Procedure};
use crate::source::Span;
use crate::syntax::Label;
use std::collections::{BTreeMap, BTreeSet};

/// Adds the passages that the text does not have.
pub(super) fn take(whole: &mut Whole, found: &Procedure) {
    let Content::Flow(own) = &whole.diagram.content else { return };
    let own = own.clone();
    let block = whole.diagram.span.start;
    let mut index = Index { whole, ..Index::empty(whole) };
    index.read(&own.passages, block, block);
    let mut taking = Taking { index, passages: Insertions::default(), branches: BTreeMap::new() };
    taking.body(&found.passages, block, None);
    let arrows: Vec<Arrow> = found.arrows.iter().filter_map(|arrow| taking.arrow(arrow, &own)).collect();
    let Taking { mut passages, mut branches, .. } = taking;
    let spans: Vec<Span> = whole.diagram.elements.iter().map(|element| element.span).collect();
    let mut all = Procedure { arrows: own.arrows, ..Procedure::default() };
    all.passages = fill(&mut passages, &mut branches, &spans, own.passages, block);
    all.arrows.extend(arrows);
    whole.diagram.content = Content::Flow(all);
}

/// What is in the text.
struct Index<'a> {
    whole: &'a Whole,
    /// The body in which each thing stands, and whether it is the last one there.
    bodies: BTreeMap<Key, (Key, bool)>,
    /// The bodies that are in a lane of their own.
    lanes: BTreeSet<Key>,
    /// Branches of decisions, each with its first line and its label.
    branches: BTreeMap<ElementId, Vec<(Key, Option<String>)>>,
    /// Parallel work by the bodies of its parts.
    parallel: BTreeMap<Key, Key>,
    /// Ways elsewhere, with the branches that they stand in.
    ways: BTreeSet<(Key, Vec<ElementId>)>,
}

impl<'a> Index<'a> {
    fn empty(whole: &'a Whole) -> Self {
        let (bodies, lanes, branches) = (BTreeMap::new(), BTreeSet::new(), BTreeMap::new());
        Self { whole, bodies, lanes, branches, parallel: BTreeMap::new(), ways: BTreeSet::new() }
    }

    /// `branch` is the body around the lanes that are entered there.
    fn read(&mut self, passages: &[Passage], body: Key, branch: Key) {
        for (i, passage) in passages.iter().enumerate() {
            let is_last = i + 1 == passages.len();
            match passage {
                Passage::Step(id) | Passage::Container(id) => _ = self.bodies.insert(self.line(*id), (body, is_last)),
                Passage::Within { span, body: inner, .. } => {
                    self.lanes.insert(span.start);
                    self.read(inner, span.start, branch);
                }
                Passage::Decide(id, branches) => {
                    self.bodies.insert(self.line(*id), (body, is_last));
                    let label = |branch: &Branch| branch.label.as_ref().map(Label::text);
                    let known = branches.iter().map(|branch| (branch.span.start, label(branch)));
                    self.branches.insert(*id, known.collect());
                    branches.iter().for_each(|b| self.read(&b.body, b.span.start, b.span.start));
                }
                Passage::Together(parts) => {
                    let first = parts[0].span.start;
                    self.bodies.insert(first, (body, is_last));
                    for part in parts {
                        self.parallel.insert(part.span.start, first);
                        self.read(&part.body, part.span.start, part.span.start);
                    }
                }
                Passage::Repeat { first, body: inner } => {
                    self.bodies.insert(self.line(*first), (body, is_last));
                    self.read(inner, self.line(*first), self.line(*first));
                }
                Passage::Go(arrow) => _ = self.ways.insert((branch, arrow.to.clone())),
            }
        }
    }

    fn line(&self, id: ElementId) -> Key {
        self.whole.diagram.element(id).span.start
    }
}

struct Taking<'a> {
    index: Index<'a>,
    passages: Insertions<Passage>,
    /// New branches of known decisions, and new parts of known parallel work.
    branches: BTreeMap<Key, Vec<Branch>>,
}

impl Taking<'_> {
    /// Puts what is new in a body where it belongs; gives the last known thing in it.
    fn body(&mut self, found: &[Passage], of: Key, mut last: Option<Key>) -> Option<Key> {
        for (i, passage) in found.iter().enumerate() {
            match passage {
                _ if self.known(passage).is_some() => {
                    last = self.known(passage);
                    self.inside(passage);
                }
                Passage::Within { body, .. } if self.first_known(body).is_some() => last = self.body(body, of, last),
                Passage::Together(parts) if parts.iter().any(|part| self.first_known(&part.body).is_some()) => {
                    last = self.parts(parts, of, last);
                }
                Passage::Go(arrow) if self.is_known_way(arrow, of) => {}
                _ => {
                    let anchor = self.anchor(passage, &found[i + 1..], of, last);
                    if let Some(new) = self.added(passage) {
                        self.passages.put(anchor, new);
                    }
                }
            }
        }
        last
    }

    /// Where a new passage goes.
    fn anchor(&self, passage: &Passage, after: &[Passage], of: Key, last: Option<Key>) -> Anchor {
        let Some(last) = last else {
            let next = self.first_known(after).map(Anchor::Before);
            return next.unwrap_or(Anchor::First(of));
        };
        // Another lane begins behind the body of the lane that ends there.
        let ends = self.index.bodies.get(&last).filter(|(_, is_last)| *is_last).map(|(body, _)| *body);
        match (passage, ends.filter(|body| self.index.lanes.contains(body))) {
            (Passage::Within { .. }, Some(lane)) => Anchor::Behind(lane),
            _ => Anchor::Behind(last),
        }
    }

    /// What of the text a passage is.
    fn known(&self, passage: &Passage) -> Option<Key> {
        let (Passage::Step(id) | Passage::Container(id) | Passage::Decide(id, _) | Passage::Repeat { first: id, .. }) =
            passage
        else {
            return None;
        };
        let id = self.index.whole.number(*id);
        (!self.index.whole.is_new(id)).then(|| self.index.line(id))
    }

    fn first_known(&self, passages: &[Passage]) -> Option<Key> {
        passages.iter().find_map(|passage| match passage {
            Passage::Within { body, .. } => self.first_known(body),
            Passage::Together(parts) => parts.iter().find_map(|part| self.first_known(&part.body)),
            _ => self.known(passage),
        })
    }

    /// What is new inside a known passage.
    fn inside(&mut self, passage: &Passage) {
        match passage {
            Passage::Decide(id, branches) => {
                let own = self.index.whole.number(*id);
                let known = self.index.branches.get(&own).cloned().unwrap_or_default();
                let mut free: Vec<(Key, Option<String>)> = known.clone();
                for (i, branch) in branches.iter().enumerate() {
                    // By its label, by a step in it, by its place.
                    let label = branch.label.as_ref().map(Label::text);
                    let held = self.first_known(&branch.body).and_then(|id| self.index.bodies.get(&id)).map(|b| b.0);
                    let by_place = known.get(i).filter(|_| known.len() == branches.len()).map(|b| b.0);
                    let own = free.iter().position(|b| b.1 == label);
                    let own = own.or_else(|| free.iter().position(|b| Some(b.0) == held));
                    let own = own.or_else(|| free.iter().position(|b| Some(b.0) == by_place));
                    match own {
                        Some(at) => _ = self.body(&branch.body, free.remove(at).0, None),
                        None => self.new_branch(self.index.line(self.index.whole.number(*id)), branch),
                    }
                }
            }
            Passage::Repeat { first, body } => {
                self.body(body, self.index.line(self.index.whole.number(*first)), None);
            }
            _ => {}
        }
    }

    /// Parts of parallel work of which some are known.
    fn parts(&mut self, parts: &[Branch], of: Key, mut last: Option<Key>) -> Option<Key> {
        let held = |taking: &Self, part: &Branch| {
            let body = taking.first_known(&part.body).and_then(|key| taking.index.bodies.get(&key)).map(|b| b.0);
            body.filter(|body| taking.index.parallel.contains_key(body))
        };
        let whole = parts.iter().find_map(|part| held(self, part));
        let whole = whole.and_then(|body| self.index.parallel.get(&body).copied());
        for part in parts {
            match (held(self, part), whole) {
                (Some(body), _) => _ = self.body(&part.body, body, None),
                (None, Some(whole)) if self.first_known(&part.body).is_none() => self.new_branch(whole, part),
                _ => last = self.body(&part.body, of, last),
            }
        }
        whole.or(last)
    }

    fn new_branch(&mut self, of: Key, branch: &Branch) {
        if let Some(new) = self.branch(branch) {
            self.branches.entry(of).or_default().push(new);
        }
    }

    /// A branch with what is new in it; nothing if all of it is in the text elsewhere.
    fn branch(&mut self, branch: &Branch) -> Option<Branch> {
        let body: Vec<Passage> = branch.body.iter().filter_map(|passage| self.added(passage)).collect();
        let is_left = !body.is_empty() || branch.body.is_empty();
        is_left.then(|| Branch { body, span: moved(branch.span), ..branch.clone() })
    }

    /// A passage that is not in the text, without what is.
    fn added(&mut self, passage: &Passage) -> Option<Passage> {
        if self.known(passage).is_some() {
            self.inside(passage);
            return None;
        }
        let whole = self.index.whole;
        Some(match passage {
            Passage::Step(id) => Passage::Step(whole.number(*id)),
            Passage::Container(id) => Passage::Container(whole.number(*id)),
            Passage::Within { place, span, body } => {
                let body: Vec<Passage> = body.iter().filter_map(|passage| self.added(passage)).collect();
                if body.is_empty() {
                    return None;
                }
                Passage::Within { place: whole.number(*place), span: moved(*span), body }
            }
            Passage::Decide(id, branches) => {
                let branches = branches.iter().filter_map(|branch| self.branch(branch)).collect();
                Passage::Decide(whole.number(*id), branches)
            }
            Passage::Together(parts) => {
                let parts: Vec<Branch> = parts.iter().filter_map(|part| self.branch(part)).collect();
                if parts.is_empty() {
                    return None;
                }
                Passage::Together(parts)
            }
            Passage::Repeat { first, body } => {
                let body = body.iter().filter_map(|passage| self.added(passage)).collect();
                Passage::Repeat { first: whole.number(*first), body }
            }
            Passage::Go(arrow) => Passage::Go(self.moved(arrow)),
        })
    }

    fn moved(&self, arrow: &Arrow) -> Arrow {
        let (from, to) = (self.index.whole.numbers(&arrow.from), self.index.whole.numbers(&arrow.to));
        Arrow { from, to, span: moved(arrow.span), ..arrow.clone() }
    }

    fn is_known_way(&self, arrow: &Arrow, body: Key) -> bool {
        self.index.ways.contains(&(body, self.index.whole.numbers(&arrow.to)))
    }

    /// An arrow of its own that the text does not have.
    fn arrow(&self, arrow: &Arrow, own: &Procedure) -> Option<Arrow> {
        let new = self.moved(arrow);
        let is_known = own.arrows.iter().any(|a| (&a.from, &a.to) == (&new.from, &new.to));
        (!is_known).then_some(new)
    }
}

fn fill(
    new: &mut Insertions<Passage>, branches: &mut BTreeMap<Key, Vec<Branch>>, spans: &[Span], body: Vec<Passage>,
    of: Key,
) -> Vec<Passage> {
    let key = |passage: &Passage| match passage {
        Passage::Step(id) | Passage::Container(id) | Passage::Decide(id, _) | Passage::Repeat { first: id, .. } => {
            spans[id.index()].start
        }
        Passage::Within { span, .. } => span.start,
        Passage::Together(parts) => parts.first().map_or(0, |part| part.span.start),
        Passage::Go(arrow) => arrow.span.start,
    };
    new.fill(body, of, &key, &mut |new, passage| {
        let at = key(passage);
        match passage {
            Passage::Within { body, .. } | Passage::Repeat { body, .. } => {
                *body = fill(new, branches, spans, std::mem::take(body), at);
            }
            Passage::Decide(_, own) | Passage::Together(own) => {
                for branch in own.iter_mut() {
                    let body = std::mem::take(&mut branch.body);
                    branch.body = fill(new, branches, spans, body, branch.span.start);
                }
                own.extend(branches.remove(&at).into_iter().flatten());
            }
            Passage::Step(_) | Passage::Container(_) | Passage::Go(_) => {}
        }
    })
}
