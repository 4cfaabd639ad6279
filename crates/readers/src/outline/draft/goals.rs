//! Ways to other steps, which may only be known at the end, and the ends that every flow has.

use super::{Body, Draft, Sentence};
use crate::course::Passage;
use crate::facts::Facts;
use crate::finding::{Finding, Level, Seen};
use crate::outline::labels::label;
use bathygram_core::model::ElementKind;
use std::collections::{BTreeMap, BTreeSet};

/// Ways whose targets are not known yet have numbers from here on.
const OPEN: usize = usize::MAX / 2;

impl Draft<'_> {
    /// A way to another step, which may only be known later.
    pub(super) fn go(&mut self, target: &str, text: &str, seen: &Seen, body: &mut Body) {
        self.targets.push((target.to_owned(), text.to_owned(), seen.clone()));
        body.passages.push((body.lane, Passage::Go(OPEN + self.targets.len() - 1)));
    }

    /// The thing that is meant by a target.
    pub(super) fn target(&self, text: &str) -> Option<usize> {
        let plain = text.trim().trim_end_matches('.').to_lowercase();
        if plain.is_empty() || self.words.beginnings.contains(&plain) {
            let is_start = |step: &&usize| self.facts.things[**step].kind != ElementKind::Begin;
            return self.steps.iter().find(is_start).copied();
        }
        if let Some(step) = self.numbers.get(&plain).copied().or_else(|| self.seen_before(&plain)) {
            return Some(step);
        }
        // By the words that they share; steps before others that are alike.
        let words = |text: &str| -> BTreeSet<String> {
            let words = text.split(|c: char| !c.is_alphanumeric()).map(str::to_lowercase);
            let says = |word: &String| word.chars().count() > 2 && !self.words.article.is_match(&format!("{word} "));
            words.filter(says).map(|word| self.words.stem(&word)).collect()
        };
        let wanted = words(&plain);
        let shared = |step: &usize| words(self.facts.things[*step].shown()).intersection(&wanted).count();
        let best = self.steps.iter().copied().rev().max_by_key(shared)?;
        (shared(&best) * 2 > wanted.len()).then_some(best)
    }

    pub(super) fn seen_before(&self, text: &str) -> Option<usize> {
        let text = text.to_lowercase();
        self.steps.iter().copied().find(|step| self.facts.things[*step].shown().to_lowercase() == text)
    }

    /// The facts, with the ends that every flow has, and with all ways leading somewhere.
    pub(super) fn finish(mut self, mut body: Body) -> Facts {
        self.ends(&mut body);
        let mut passages = self.gathered(body, None);
        let mut bounds = BTreeMap::new();
        bounded(&passages, None, &mut bounds);
        let mut goals: Vec<Goal> = Vec::new();
        for (i, (target, text, seen)) in std::mem::take(&mut self.targets).into_iter().enumerate() {
            // Parallel work is not left by a way.
            let is_within = |goal: &usize| bounds.get(&i).is_none_or(|part: &BTreeSet<usize>| part.contains(goal));
            goals.push(match self.target(&target).filter(is_within) {
                Some(goal) => {
                    self.facts.things[goal].is_named = true;
                    Goal::Known(goal)
                }
                None => {
                    let says =
                        format!("no step here is like \"{target}\"; this is taken as a step, not as a way to one");
                    let seen_there = seen.clone();
                    self.facts.findings.push(Finding {
                        others: Vec::new(),
                        code: "target-missing",
                        level: Level::Note,
                        seen: seen_there,
                        says,
                    });
                    let sentence = Sentence::new(text, &seen);
                    Goal::Step(self.thing(&sentence, ElementKind::Step, label(&sentence.text), None))
                }
            });
        }
        resolve(&mut passages, &goals);
        self.facts.passages = passages;
        self.facts.findings.sort_by(|a, b| a.seen.cmp(&b.seen));
        self.facts
    }

    /// A beginning and an end, where the text has none.
    pub(super) fn ends(&mut self, body: &mut Body) {
        // What comes before the first role is that role's.
        let first = body.passages.iter().find_map(|(lane, _)| *lane);
        body.passages.iter_mut().take_while(|(lane, _)| lane.is_none()).for_each(|(lane, _)| *lane = first);
        let guess = || Some("guess: not in the text".to_owned());
        let seen = Seen { file: self.file.clone(), line: 1, ..Seen::default() };
        let sentence = |text: &str| Sentence::new(text.to_owned(), &seen);
        let (start, end) = (sentence(&self.words.start), sentence(&self.words.end));
        let starts = |passage: &Passage| matches!(passage, Passage::Step(thing) if self.facts.things[*thing].kind == ElementKind::Begin);
        if !body.passages.first().is_some_and(|(_, passage)| starts(passage)) {
            let shown = self.words.start.clone();
            let thing = self.thing(&start, ElementKind::Begin, shown, guess());
            self.steps.pop();
            body.passages.insert(0, (first, Passage::Step(thing)));
        }
        if body.passages.last().is_some_and(|(_, passage)| !self.ends_here(passage)) {
            let lane = body.passages.last().and_then(|(lane, _)| *lane);
            let shown = self.words.end.clone();
            let thing = self.thing(&end, ElementKind::Finish, shown, guess());
            body.passages.push((lane, Passage::Step(thing)));
        }
    }

    /// Whether nothing flows on behind a passage.
    pub(super) fn ends_here(&self, passage: &Passage) -> bool {
        let last = |body: &[Passage]| body.last().is_some_and(|last| self.ends_here(last));
        match passage {
            Passage::Step(thing) => self.ends.contains(thing),
            Passage::Go(_) => true,
            Passage::In { body, .. } => last(body),
            Passage::Decide { branches, .. } => branches.len() > 1 && branches.iter().all(|branch| last(&branch.body)),
            Passage::Together(_) | Passage::Repeat { .. } => false,
        }
    }
}

/// For each open way in parallel work, the things of its own part.
fn bounded(passages: &[Passage], part: Option<&BTreeSet<usize>>, out: &mut BTreeMap<usize, BTreeSet<usize>>) {
    for passage in passages {
        match passage {
            Passage::Go(to) => out.extend(part.map(|part| (to.wrapping_sub(OPEN), part.clone()))),
            Passage::In { body, .. } | Passage::Repeat { body, .. } => bounded(body, part, out),
            Passage::Decide { branches, .. } => branches.iter().for_each(|branch| bounded(&branch.body, part, out)),
            Passage::Together(parts) => {
                for own in parts {
                    let mut things = BTreeSet::new();
                    held(own, &mut things);
                    bounded(own, Some(&things), out);
                }
            }
            Passage::Step(_) => {}
        }
    }
}

/// The things of passages.
fn held(passages: &[Passage], out: &mut BTreeSet<usize>) {
    for passage in passages {
        match passage {
            Passage::Step(thing) => _ = out.insert(*thing),
            Passage::In { body, .. } => held(body, out),
            Passage::Repeat { thing, body } => {
                out.insert(*thing);
                held(body, out);
            }
            Passage::Decide { thing, branches } => {
                out.insert(*thing);
                branches.iter().for_each(|branch| held(&branch.body, out));
            }
            Passage::Together(parts) => parts.iter().for_each(|part| held(part, out)),
            Passage::Go(_) => {}
        }
    }
}

/// Puts the goals of open ways in.
fn resolve(passages: &mut [Passage], goals: &[Goal]) {
    passages.iter_mut().for_each(|passage| match passage {
        Passage::Go(to) => match goals.get(to.wrapping_sub(OPEN)) {
            Some(Goal::Known(goal)) => *to = *goal,
            Some(Goal::Step(thing)) => *passage = Passage::Step(*thing),
            None => {}
        },
        Passage::In { body, .. } | Passage::Repeat { body, .. } => resolve(body, goals),
        Passage::Decide { branches, .. } => branches.iter_mut().for_each(|branch| resolve(&mut branch.body, goals)),
        Passage::Together(parts) => parts.iter_mut().for_each(|part| resolve(part, goals)),
        Passage::Step(_) => {}
    });
}

/// What an open way leads to.
enum Goal {
    /// A step of the text.
    Known(usize),
    /// Nothing: it is a step itself.
    Step(usize),
}
