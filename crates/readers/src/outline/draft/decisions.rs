//! Decisions: conditions, what is done otherwise, questions with their answers.

use super::{Body, Draft, Sentence};
use crate::course::{Branch, Passage};
use crate::finding::{Finding, Level};
use bathygram_core::model::ElementKind;

impl Draft<'_> {
    pub(super) fn decide(
        &mut self, sentence: &Sentence<'_>, condition: &str, is_so: bool, step: Sentence<'_>, body: &mut Body,
    ) {
        let (yes, no) = (self.words.yes.clone(), self.words.no.clone());
        let plain = condition.to_lowercase();
        let refers = match (self.words.so.contains(&plain), self.words.not_so.contains(&plain)) {
            (true, _) => Some(true),
            (_, true) => Some(false),
            _ => None,
        };
        // What was asked before is decided here.
        let asked = body.asked.take().zip(refers);
        let (thing, is_so) = match asked {
            Some((thing, refers)) => {
                self.facts.things[thing].kind = ElementKind::Decide;
                let is_it = |(_, passage): &(Option<usize>, Passage)| *passage == Passage::Step(thing);
                if body.passages.last().is_some_and(is_it) {
                    body.passages.pop();
                }
                (thing, refers == is_so)
            }
            None => {
                let guess = Some("guess: a decision".to_owned());
                let (condition, is_so) = match self.words.positive(condition) {
                    Some(positive) => (positive, !is_so),
                    None => (condition.to_owned(), is_so),
                };
                (self.thing(sentence, ElementKind::Decide, self.words.question(&condition), guess), is_so)
            }
        };
        let lane = body.lane;
        let own = self.branch(step, body);
        let branch = Branch { label: Some(if is_so { yes } else { no }), body: self.gathered(own, lane) };
        body.passages.push((lane, Passage::Decide { thing, branches: vec![branch] }));
    }

    /// The other way of the decision before.
    pub(super) fn otherwise(&mut self, sentence: &Sentence<'_>, own: Body, body: &mut Body) {
        let lane = body.passages.last().and_then(|(lane, _)| *lane);
        let filled = self.gathered(own, lane);
        let (yes, no) = (self.words.yes.clone(), self.words.no.clone());
        match body.passages.last_mut().and_then(|(_, passage)| open_decision(passage)) {
            Some(branches) => {
                let other = match branches.first().and_then(|branch| branch.label.as_deref()) {
                    Some(first) if first == yes => Some(no),
                    Some(first) if first == no => Some(yes),
                    _ => None,
                };
                branches.push(Branch { label: other, body: filled });
            }
            None => {
                let says = "no decision stands before this; it is taken as what comes next".to_owned();
                let seen = sentence.seen.clone();
                self.facts.findings.push(Finding::new("no-decision", Level::Warning, seen, says));
                body.passages.extend(filled.into_iter().map(|passage| (lane, passage)));
            }
        }
    }

    /// A question: a decision if answers stand below it, a step that may become one otherwise.
    pub(super) fn ask(&mut self, sentence: &Sentence<'_>, asked: String, body: &mut Body) {
        let lane = body.lane;
        let thing = self.thing(sentence, ElementKind::Decide, asked, Some("guess: a decision".to_owned()));
        let mut inner = Body { lane, ..Body::default() };
        inner.passages.push((lane, Passage::Decide { thing, branches: Vec::new() }));
        self.items(sentence.children, &mut inner);
        match inner.passages.first() {
            Some((_, Passage::Decide { branches, .. })) if !branches.is_empty() => {
                body.passages.append(&mut inner.passages)
            }
            _ => {
                // Nobody says what follows from it yet.
                self.facts.things[thing].kind = ElementKind::Decide;
                let mut rest = inner.passages.split_off(1);
                body.passages.push((lane, Passage::Step(thing)));
                body.passages.append(&mut rest);
                body.asked = Some(thing);
            }
        }
    }

    /// `Yes: …` behind or below a question.
    pub(super) fn answer(&mut self, sentence: &Sentence<'_>, answer: &str, step: Sentence<'_>, body: &mut Body) {
        let lane = body.lane;
        if let Some(thing) = body.asked.take()
            && body.passages.last().is_some_and(|(_, passage)| *passage == Passage::Step(thing))
        {
            body.passages.pop();
            body.passages.push((lane, Passage::Decide { thing, branches: Vec::new() }));
        }
        let own = self.branch(step, body);
        let filled = self.gathered(own, lane);
        match body.passages.last_mut() {
            Some((_, Passage::Decide { branches, .. })) => {
                branches.push(Branch { label: Some(answer.to_lowercase()), body: filled });
            }
            _ => {
                let says = "no question stands before this answer; it is taken as what comes next".to_owned();
                let seen = sentence.seen.clone();
                self.facts.findings.push(Finding::new("no-decision", Level::Warning, seen, says));
                body.passages.extend(filled.into_iter().map(|passage| (lane, passage)));
            }
        }
    }
}

/// The branches of the innermost decision of which only one way is said.
fn open_decision(passage: &mut Passage) -> Option<&mut Vec<Branch>> {
    let is_deeper = matches!(passage, Passage::Decide { branches, .. } if branches.len() > 1
        && branches.last().is_some_and(|branch| matches!(branch.body.last(), Some(Passage::Decide { .. }))));
    match passage {
        Passage::Decide { branches, .. } => match is_deeper {
            true => open_decision(branches.last_mut()?.body.last_mut()?),
            false => Some(branches),
        },
        Passage::In { body, .. } => open_decision(body.last_mut()?),
        _ => None,
    }
}
