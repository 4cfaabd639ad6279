//! A sequence against traces: calls that nobody drew, calls that never happen, another order, branches that nobody has taken.
//!
//! A trace is aligned with the messages in the order in which they are drawn (Wagner and Fischer 1974): what is left over on one
//! side is a difference, unless the diagram leaves it open. Messages within a branch, a repetition or something that may be left
//! out need not happen; parts that happen at the same time may come in any order.

use super::deviation::{Accepted, Deviation, Weight};
use super::observed::{Call, Trace};
use crate::model::{Diagram, Element, ElementId, ElementKind, Event, Operator, RelationId, Verb};
use crate::source::Span;
use std::collections::{BTreeMap, BTreeSet};

/// One difference between a sequence and the traces of it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Difference {
    /// A message that must happen and did so in fewer traces than there are, or in none.
    Absent {
        /// The message.
        message: RelationId,
        /// In how many traces it happened.
        seen: usize,
    },
    /// A call that is not in the diagram.
    Surprise {
        /// It, as it was seen first.
        call: Call,
        /// Its ends, where they are parties of the diagram.
        ends: [Option<ElementId>; 2],
        /// The message that happened before it, that time.
        after: Option<RelationId>,
        /// In how many traces it happened.
        seen: usize,
    },
    /// A message that happened before one that is drawn before it.
    Order {
        /// The message that came early.
        message: RelationId,
        /// The first one that is drawn before it and came later.
        before: RelationId,
        /// In how many traces.
        seen: usize,
        /// Where it was seen first.
        place: String,
    },
    /// A message that happened several times and is drawn once.
    Repeated {
        /// The message.
        message: RelationId,
        /// How often it happened at most.
        most: usize,
        /// In how many traces it happened more than once.
        seen: usize,
        /// Where it was seen first.
        place: String,
    },
    /// A branch that was never taken.
    Untaken {
        /// Its guard.
        guard: String,
        /// Where it is written.
        span: Span,
    },
    /// A party of which no trace speaks.
    Unobserved {
        /// The party.
        party: ElementId,
    },
}

impl Difference {
    /// How much it weighs.
    pub fn weight(&self) -> Weight {
        match self {
            Self::Untaken { .. } | Self::Unobserved { .. } => Weight::Note,
            _ => Weight::Difference,
        }
    }

    /// The code for it.
    pub fn code(&self) -> &'static str {
        match self {
            Self::Absent { .. } => "absent",
            Self::Surprise { .. } => "surprise",
            Self::Order { .. } => "order",
            Self::Repeated { .. } => "repeated",
            Self::Untaken { .. } => "untaken",
            Self::Unobserved { .. } => "unobserved",
        }
    }
}

/// How a sequence and the traces agree.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Conformance {
    /// How many traces are of this sequence.
    pub traces: usize,
    /// How many are of something else.
    pub others: usize,
    /// Messages that happened as they are drawn.
    pub agreements: Vec<RelationId>,
    /// What differs, by the diagram, then by the traces.
    pub differences: Vec<Difference>,
}

impl Conformance {
    /// Leaves out what is accepted, by its keys; gives the keys that were found.
    pub fn accept(&mut self, design: &Diagram, accepted: &BTreeSet<String>) -> BTreeSet<String> {
        let mut accepted = Accepted::new(accepted);
        self.differences.retain(|difference| !accepted.has(difference.key(design)));
        accepted.found
    }

    /// What differs, ready to be reported.
    pub fn deviations(&self, design: &Diagram) -> Vec<Deviation> {
        let one = |difference: &Difference| Deviation {
            code: difference.code(),
            weight: difference.weight(),
            span: difference.span(design).unwrap_or(design.span),
            says: difference.sentence(design, self),
            places: difference.place().map(str::to_owned).into_iter().collect(),
            keys: vec![difference.key(design)],
        };
        self.differences.iter().map(one).collect()
    }
}

/// Compares a sequence with traces.
pub fn sequence(design: &Diagram, traces: &[Trace]) -> Conformance {
    let parties = Parties::of(design, traces);
    let drawn = Drawn::of(design, &parties);
    let mut tally = Tally::new(&drawn, &parties);
    for trace in traces {
        let calls: Vec<Seen<'_>> = trace.calls.iter().map(|call| parties.seen(call)).collect();
        match drawn.messages.first() {
            Some(first) if calls.iter().any(|call| parties.is_pair(first, call)) => tally.take(&calls),
            _ => tally.others += 1,
        }
    }
    tally.finish(design)
}

/// Parties of the diagram, by what traces call them.
struct Parties {
    by_name: BTreeMap<String, ElementId>,
    observed: BTreeSet<ElementId>,
}

/// A call with its ends in the diagram.
#[derive(Clone, Copy)]
struct Seen<'t> {
    call: &'t Call,
    ends: [Option<ElementId>; 2],
}

/// A name without what people spell differently.
fn folded(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

impl Parties {
    fn of(design: &Diagram, traces: &[Trace]) -> Self {
        let mut by_name = BTreeMap::new();
        // By their labels, then, more particular, by their names, then by what they were imported from.
        let names: [fn(&Element) -> Option<String>; 3] = [
            |e| e.label.as_ref().map(|label| label.text()),
            |e| Some(e.name.clone()).filter(|name| !name.is_empty()),
            |e| e.properties.origin.as_ref().map(|origin| origin.text()),
        ];
        for name in names {
            by_name.extend(design.ids().filter_map(|(id, element)| Some((folded(&name(element)?), id))));
        }
        let mut parties = Self { by_name, observed: BTreeSet::new() };
        let calls = traces.iter().flat_map(|trace| &trace.calls);
        let ends = calls.flat_map(|call| [call.from.as_ref(), Some(&call.to)]);
        parties.observed = ends.flatten().filter_map(|name| parties.by_name.get(&folded(name)).copied()).collect();
        parties
    }

    fn seen<'t>(&self, call: &'t Call) -> Seen<'t> {
        let party = |name: &String| self.by_name.get(&folded(name)).copied();
        Seen { call, ends: [call.from.as_ref().and_then(party), party(&call.to)] }
    }

    /// Whether a call is one of a message, by its ends: who calls from outside is not observed.
    fn is_pair(&self, message: &Message, seen: &Seen<'_>) -> bool {
        let is_from = match seen.ends[0] {
            Some(from) => from == message.from,
            None => seen.call.from.is_none() && !self.observed.contains(&message.from),
        };
        is_from && seen.ends[1] == Some(message.to)
    }
}

/// A message of the diagram.
struct Message {
    id: RelationId,
    from: ElementId,
    to: ElementId,
    label: String,
    /// Whether it need not happen.
    may_be_left_out: bool,
    is_repeated: bool,
    /// Whether something else happens at the same time.
    has_company: bool,
    /// The branches that it is in.
    branches: Vec<usize>,
}

/// A branch with a guard.
struct Branch {
    guard: String,
    span: Span,
}

/// The messages that can be observed, in the order in which they are drawn.
#[derive(Default)]
struct Drawn {
    messages: Vec<Message>,
    branches: Vec<Branch>,
}

/// What is around a message.
#[derive(Clone, Default)]
struct Around {
    may_be_left_out: bool,
    is_repeated: bool,
    has_company: bool,
    branches: Vec<usize>,
}

impl Drawn {
    fn of(design: &Diagram, parties: &Parties) -> Self {
        let mut drawn = Self::default();
        drawn.take(design, parties, design.events(), &Around::default());
        drawn
    }

    fn take(&mut self, design: &Diagram, parties: &Parties, events: &[Event], around: &Around) {
        for event in events {
            match event {
                Event::Message { relation, body, guard, .. } => {
                    let message = design.relation(*relation);
                    let is_call = matches!(message.verb, Verb::Calls | Verb::Sends | Verb::Creates | Verb::Destroys);
                    // What somebody begins who is not observed is a trace of its own.
                    let is_another = !parties.observed.contains(&message.from) && !self.messages.is_empty();
                    if is_call && is_another {
                        continue;
                    }
                    // Who calls from outside is seldom observed; who is called must be.
                    if is_call && parties.observed.contains(&message.to) {
                        self.messages.push(Message {
                            id: *relation,
                            from: message.from,
                            to: message.to,
                            label: message.label.as_ref().map(|label| label.text()).unwrap_or_default(),
                            may_be_left_out: around.may_be_left_out || guard.is_some(),
                            is_repeated: around.is_repeated,
                            has_company: around.has_company,
                            branches: around.branches.clone(),
                        });
                    }
                    self.take(design, parties, body, around);
                }
                Event::Fragment { operator, operands, .. } => {
                    for operand in operands {
                        let mut inner = around.clone();
                        match operator {
                            Operator::Opt | Operator::Alt | Operator::Break => {
                                inner.may_be_left_out = true;
                                let guard = operand.guard.as_ref().map(|guard| guard.text()).unwrap_or_default();
                                self.branches.push(Branch { guard, span: operand.span });
                                inner.branches.push(self.branches.len() - 1);
                            }
                            // Something may be repeated no times.
                            Operator::Loop => (inner.may_be_left_out, inner.is_repeated) = (true, true),
                            Operator::Par => inner.has_company = true,
                            Operator::Neg => continue,
                            Operator::Critical | Operator::Strict => {}
                        }
                        self.take(design, parties, &operand.items, &inner);
                    }
                }
                _ => {}
            }
        }
    }
}

/// What is counted over all traces.
struct Tally<'a> {
    drawn: &'a Drawn,
    parties: &'a Parties,
    traces: usize,
    others: usize,
    /// For each message, in how many traces it happened.
    happened: Vec<usize>,
    surprises: BTreeMap<(Option<String>, String, String), Difference>,
    orders: BTreeMap<usize, Difference>,
    repeats: BTreeMap<usize, Difference>,
}

impl<'a> Tally<'a> {
    fn new(drawn: &'a Drawn, parties: &'a Parties) -> Self {
        let happened = vec![0; drawn.messages.len()];
        let (surprises, orders, repeats) = (BTreeMap::new(), BTreeMap::new(), BTreeMap::new());
        Self { drawn, parties, traces: 0, others: 0, happened, surprises, orders, repeats }
    }

    /// Takes one trace into account.
    fn take(&mut self, calls: &[Seen<'_>]) {
        self.traces += 1;
        let mut of_call = self.aligned(calls);
        let mut happened: BTreeMap<usize, usize> = BTreeMap::new();
        of_call.iter().flatten().for_each(|message| _ = happened.insert(*message, 1));
        let mut counted: BTreeSet<(Option<String>, String, String)> = BTreeSet::new();
        for (i, seen) in calls.iter().enumerate().filter(|(i, _)| of_call[*i].is_none()).collect::<Vec<_>>() {
            let candidates: Vec<usize> = (0..self.drawn.messages.len())
                .filter(|m| self.parties.is_pair(&self.drawn.messages[*m], seen))
                .collect();
            // The one that says the same; else one that did not happen yet, one that may happen again, any.
            let is_same = |m: &&usize| self.is_named_alike(**m, seen.call);
            let is_left = |m: &&usize| !happened.contains_key(m);
            let may_repeat = |m: &&usize| self.drawn.messages[**m].is_repeated;
            let best = candidates.iter().find(is_same).or_else(|| candidates.iter().find(is_left));
            let best = best.or_else(|| candidates.iter().find(may_repeat)).or(candidates.first()).copied();
            match (best, best.is_some_and(|m| happened.contains_key(&m))) {
                (Some(message), false) => {
                    of_call[i] = Some(message);
                    happened.insert(message, 1);
                    self.early(message, i, &of_call, seen.call);
                }
                (Some(message), true) => {
                    let count = happened.entry(message).or_insert(1);
                    *count += 1;
                    let count = *count;
                    if !self.drawn.messages[message].is_repeated {
                        self.again(message, count, seen.call);
                    }
                }
                (None, _) => {
                    let after = of_call[..i].iter().rev().find_map(|m| *m).map(|m| self.drawn.messages[m].id);
                    self.surprise(seen, after, &mut counted);
                }
            }
        }
        happened.keys().for_each(|message| self.happened[*message] += 1);
    }

    /// Pairs calls with messages in their common order, so that most are paired; equal names weigh more. A call that has the name
    /// of a message is one of that.
    fn aligned(&self, calls: &[Seen<'_>]) -> Vec<Option<usize>> {
        let messages = &self.drawn.messages;
        // Calls that some message names: they are of no other one.
        let is_named = |seen: &Seen<'_>| {
            let own = |m: usize| self.parties.is_pair(&messages[m], seen) && self.is_named_alike(m, seen.call);
            (0..messages.len()).any(own)
        };
        let named: Vec<bool> = calls.iter().map(is_named).collect();
        let weight = |m: usize, c: usize| match self.parties.is_pair(&messages[m], &calls[c]) {
            true if self.is_named_alike(m, calls[c].call) => 3,
            true if !named[c] => 2,
            _ => 0,
        };
        let width = calls.len() + 1;
        let mut most = vec![0_u32; (messages.len() + 1) * width];
        for m in (0..messages.len()).rev() {
            for c in (0..calls.len()).rev() {
                let apart = most[(m + 1) * width + c].max(most[m * width + c + 1]);
                let paired = match weight(m, c) {
                    0 => 0,
                    weight => weight + most[(m + 1) * width + c + 1],
                };
                most[m * width + c] = apart.max(paired);
            }
        }
        let mut pairs = vec![None; calls.len()];
        let (mut m, mut c) = (0, 0);
        while m < messages.len() && c < calls.len() {
            let here = most[m * width + c];
            if weight(m, c) > 0 && here == weight(m, c) + most[(m + 1) * width + c + 1] {
                pairs[c] = Some(m);
                (m, c) = (m + 1, c + 1);
            } else if here == most[m * width + c + 1] {
                c += 1;
            } else {
                m += 1;
            }
        }
        pairs
    }

    fn is_named_alike(&self, message: usize, call: &Call) -> bool {
        folded(&self.drawn.messages[message].label) == folded(&call.label)
    }

    /// A message that is there, but not where it is drawn.
    fn early(&mut self, message: usize, at: usize, of_call: &[Option<usize>], call: &Call) {
        let own = &self.drawn.messages[message];
        // What is drawn before it and came after it, or the other way round.
        let later = of_call[at + 1..].iter().flatten().copied().find(|m| *m < message);
        let earlier = of_call[..at].iter().flatten().copied().find(|m| *m > message);
        let (first, second) = match (later, earlier) {
            (Some(other), _) => (message, other),
            (None, Some(other)) => (other, message),
            (None, None) => return,
        };
        let has_company =
            own.has_company && self.drawn.messages[first].has_company && self.drawn.messages[second].has_company;
        if has_company || own.is_repeated {
            return;
        }
        let (first, second) = (self.drawn.messages[first].id, self.drawn.messages[second].id);
        let known = self.orders.entry(message).or_insert_with(|| Difference::Order {
            message: first,
            before: second,
            seen: 0,
            place: call.place.clone(),
        });
        if let Difference::Order { seen, .. } = known {
            *seen += 1;
        }
    }

    fn again(&mut self, message: usize, count: usize, call: &Call) {
        let id = self.drawn.messages[message].id;
        let known = self.repeats.entry(message).or_insert_with(|| Difference::Repeated {
            message: id,
            most: 0,
            seen: 0,
            place: call.place.clone(),
        });
        if let Difference::Repeated { most, seen, .. } = known {
            *most = count.max(*most);
            // Once for each trace.
            *seen += usize::from(count == 2);
        }
    }

    fn surprise(
        &mut self, seen: &Seen<'_>, after: Option<RelationId>, counted: &mut BTreeSet<(Option<String>, String, String)>,
    ) {
        let call = seen.call;
        let key = (call.from.clone(), call.to.clone(), call.label.clone());
        let known = self.surprises.entry(key.clone()).or_insert_with(|| Difference::Surprise {
            call: call.clone(),
            ends: seen.ends,
            after,
            seen: 0,
        });
        if let Difference::Surprise { seen, .. } = known
            && counted.insert(key)
        {
            *seen += 1;
        }
    }

    fn finish(self, design: &Diagram) -> Conformance {
        let mut conformance = Conformance { traces: self.traces, others: self.others, ..Conformance::default() };
        if self.traces == 0 {
            return conformance;
        }
        for (message, seen) in self.drawn.messages.iter().zip(&self.happened) {
            if message.may_be_left_out && *seen == 0 {
                continue;
            }
            match *seen == self.traces || message.may_be_left_out {
                true => conformance.agreements.push(message.id),
                false => conformance.differences.push(Difference::Absent { message: message.id, seen: *seen }),
            }
        }
        conformance.differences.extend(self.orders.into_values());
        conformance.differences.extend(self.repeats.into_values());
        conformance.differences.extend(self.surprises.into_values());
        // Branches with something to be seen in which nothing was.
        for (i, branch) in self.drawn.branches.iter().enumerate() {
            let mut own =
                self.drawn.messages.iter().zip(&self.happened).filter(|(m, _)| m.branches.contains(&i)).peekable();
            if own.peek().is_some() && own.all(|(_, seen)| *seen == 0) {
                let (guard, span) = (branch.guard.clone(), branch.span);
                conformance.differences.push(Difference::Untaken { guard, span });
            }
        }
        let is_party = |e: &Element| !e.kind.is_box() && !e.kind.is_mark() && e.kind != ElementKind::Actor;
        let silent = design.ids().filter(|(id, e)| is_party(e) && !self.parties.observed.contains(id));
        conformance.differences.extend(silent.map(|(party, _)| Difference::Unobserved { party }));
        conformance
    }
}
