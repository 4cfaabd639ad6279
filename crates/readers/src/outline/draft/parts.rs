//! What happens several times, and what happens at the same time.

use super::{Body, Draft, Sentence};
use crate::course::{Branch, Passage};
use crate::outline::labels::label;
use bathygram_core::model::ElementKind;

impl Draft<'_> {
    pub(super) fn repeat(&mut self, sentence: &Sentence<'_>, shown: String, step: Sentence<'_>, body: &mut Body) {
        let lane = body.lane;
        let is_empty = step.text.is_empty() && step.children.is_empty();
        let thing = self.thing(sentence, ElementKind::Repeat, label(&shown), Some("guess: a repetition".to_owned()));
        let own = match is_empty {
            // What comes before it is repeated.
            true => Body { passages: body.passages.pop().into_iter().collect(), lane, ..Body::default() },
            false => self.branch(step, body),
        };
        let filled = self.gathered(own, lane);
        if filled.is_empty() {
            self.facts.things[thing].kind = ElementKind::Step;
            return body.passages.push((lane, Passage::Step(thing)));
        }
        body.passages.push((lane, Passage::Repeat { thing, body: filled }));
    }

    /// Back to an earlier step, until something holds.
    pub(super) fn repeat_steps(&mut self, sentence: &Sentence<'_>, first: &str, until: &str, body: &mut Body) {
        let guess = Some("guess: a way back".to_owned());
        let thing = self.thing(sentence, ElementKind::Decide, self.words.question(until), guess);
        let mut back = Body { lane: body.lane, ..Body::default() };
        self.go(first, &sentence.text, &sentence.seen, &mut back);
        let branch = Branch { label: Some(self.words.no.clone()), body: self.gathered(back, body.lane) };
        body.passages.push((body.lane, Passage::Decide { thing, branches: vec![branch] }));
    }

    pub(super) fn together(&mut self, sentence: &Sentence<'_>, step: Sentence<'_>, body: &mut Body) {
        let lane = body.lane;
        if step.text.is_empty() {
            let mut parts = Vec::new();
            for child in sentence.children {
                let mut own = Body { lane, ..Body::default() };
                self.items(std::slice::from_ref(child), &mut own);
                parts.push(self.gathered(own, lane));
            }
            parts.retain(|part| !part.is_empty());
            return match parts.len() {
                0 => {}
                1 => body.passages.extend(parts.remove(0).into_iter().map(|passage| (lane, passage))),
                _ => body.passages.push((lane, Passage::Together(parts))),
            };
        }
        let mut own = Body { lane, ..Body::default() };
        self.sentence(step, &mut own);
        let filled = self.gathered(own, lane);
        match body.passages.pop() {
            Some((lane, Passage::Together(mut parts))) => {
                parts.push(filled);
                body.passages.push((lane, Passage::Together(parts)));
            }
            Some((before, passage)) if !self.is_terminal(&passage) => {
                let alone = Body { passages: vec![(before, passage)], ..Body::default() };
                let first = self.gathered(alone, lane);
                body.passages.push((lane, Passage::Together(vec![first, filled])));
            }
            other => {
                body.passages.extend(other);
                body.passages.extend(filled.into_iter().map(|passage| (lane, passage)));
            }
        }
    }

    pub(super) fn is_terminal(&self, passage: &Passage) -> bool {
        let is_mark =
            |thing: &usize| matches!(self.facts.things[*thing].kind, ElementKind::Begin | ElementKind::Finish);
        matches!(passage, Passage::Go(_)) || matches!(passage, Passage::Step(thing) if is_mark(thing))
    }
}
