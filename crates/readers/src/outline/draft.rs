//! Items as a draft flow. Sentences are read one after the other; what their patterns mean builds decisions, ways back, repetitions,
//! parallel parts and lanes. What no pattern matches is a step, as it is written.

use super::Origins;
use super::items::{Item, Kind};
use super::labels::{label, positive, question, sentences};
use super::words::{Means, Words};
use crate::course::{Branch, Passage};
use crate::facts::{Facts, Thing};
use crate::finding::{Finding, Level, Seen};
use bathygram_core::model::{DiagramKind, ElementKind};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// Ways whose targets are not known yet have numbers from here on.
const OPEN: usize = usize::MAX / 2;
/// Sentences in sentences are followed this deep.
const DEEPEST: usize = 12;

/// The flow of an outline.
pub(super) fn flow(items: &[Item], file: &Arc<str>) -> Facts {
    let mut draft = Draft {
        words: Words::english(),
        file,
        facts: Facts::new(DiagramKind::Flow),
        origins: Origins::default(),
        lanes: BTreeMap::new(),
        numbers: BTreeMap::new(),
        steps: Vec::new(),
        targets: Vec::new(),
        depth: 0,
        ends: BTreeSet::new(),
    };
    let mut body = Body::default();
    draft.items(items, &mut body);
    draft.finish(body)
}

/// The passages of a body, each with the lane that it is in.
#[derive(Default)]
struct Body {
    passages: Vec<(Option<usize>, Passage)>,
    /// The lane of what comes next.
    lane: Option<usize>,
    /// A step that asks whether something is so: the next sentence may go on from it.
    asked: Option<usize>,
    /// Whether a step of another lane was read here, and this one only stands where that did.
    is_inherited: bool,
}

/// A sentence with where it stands.
struct Sentence<'a> {
    text: String,
    /// The number of its item.
    number: Option<&'a str>,
    /// What is indented below it.
    children: &'a [Item],
    seen: Seen,
    is_listed: bool,
}

struct Draft<'a> {
    words: &'static Words,
    file: &'a Arc<str>,
    facts: Facts,
    origins: Origins,
    /// Lanes by their roles in small letters.
    lanes: BTreeMap<String, usize>,
    /// Things by the numbers of their items.
    numbers: BTreeMap<String, usize>,
    /// Things that a way may lead to, in order.
    steps: Vec<usize>,
    /// What the open ways lead to, with the sentences that say so.
    targets: Vec<(String, String, Seen)>,
    depth: usize,
    /// Steps at which the flow ends.
    ends: BTreeSet<usize>,
}

impl Draft<'_> {
    fn items(&mut self, items: &[Item], body: &mut Body) {
        for item in items {
            let seen = Seen { file: self.file.clone(), sheet: None, line: item.line, column: None };
            if let Kind::Heading(_) = item.kind {
                self.heading(item, seen, body);
                continue;
            }
            let number = if let Kind::Number(number) = &item.kind { Some(number.as_str()) } else { None };
            let mut all = sentences(&item.text);
            let is_listed = item.kind != Kind::Paragraph;
            let mut number = number;
            while !all.is_empty() {
                let rest = all.split_off(self.together_with_next(&all));
                let text = all.remove(0);
                // What belongs to a sentence stands below it, as if it were written there.
                let own: Vec<Item> = all
                    .drain(..)
                    .map(|text| Item { text, kind: Kind::Bullet, line: item.line, children: Vec::new() })
                    .collect();
                let is_last = rest.is_empty();
                let below: Vec<Item> =
                    own.into_iter().chain(item.children.iter().filter(|_| is_last).cloned()).collect();
                self.sentence(
                    Sentence { text, number: number.take(), children: &below, seen: seen.clone(), is_listed },
                    body,
                );
                all = rest;
            }
        }
    }

    /// How many sentences of an item belong together: an answer with all that follows it, a condition with the way that is taken
    /// then.
    fn together_with_next(&self, sentences: &[String]) -> usize {
        let means = |text: &String| self.words.meaning(text.trim_end_matches('.')).map(|(means, _)| means);
        let leads = |text: &String| {
            let plain = self.words.order.replace(text, "").into_owned();
            matches!(means(&plain), Some(Means::Go | Means::Finish))
        };
        match means(&sentences[0]) {
            Some(Means::Answer) => sentences.len(),
            Some(Means::Decide | Means::Otherwise | Means::OtherwiseDecide) => {
                1 + usize::from(sentences.get(1).is_some_and(leads))
            }
            _ => 1,
        }
    }

    /// A heading that names a role is its lane; others are left out, and said to be.
    fn heading(&mut self, item: &Item, seen: Seen, body: &mut Body) {
        if let Some(lane) = self.lanes.get(&item.text.to_lowercase()) {
            body.lane = Some(*lane);
            return;
        }
        let says = format!("the heading \"{}\" is not drawn", item.text);
        self.facts.findings.push(Finding { code: "heading", level: Level::Note, seen, says });
    }

    fn sentence(&mut self, sentence: Sentence<'_>, body: &mut Body) {
        self.depth += 1;
        match self.depth > DEEPEST {
            true => self.step(&sentence, ElementKind::Step, None, body),
            false => self.meant(sentence, body),
        }
        self.depth -= 1;
    }

    fn meant(&mut self, sentence: Sentence<'_>, body: &mut Body) {
        let words = self.words;
        let text = sentence.text.trim().trim_end_matches(['.', '!', ';']).trim();
        let text = words.order.replace(text, "").trim().to_owned();
        let sentence = Sentence { text, ..sentence };
        // 1. Who does it, if a mark says so before anything else.
        if let Some((role, step)) = words
            .role(&sentence.text)
            .filter(|(role, _)| sentence.text.starts_with(['[']) || sentence.text.starts_with(&format!("{role}:")))
        {
            self.enter(&role, &sentence.seen, body);
            return self.sentence(Sentence { text: step, ..sentence }, body);
        }
        // 2. Several steps in one sentence.
        let parts: Vec<&str> = words.between.split(&sentence.text).filter(|part| !part.trim().is_empty()).collect();
        let is_condition = words.meaning(&sentence.text).is_some_and(|(means, _)| means != Means::Step);
        if parts.len() > 1 && !is_condition {
            let parts: Vec<String> = parts.into_iter().map(str::to_owned).collect();
            for (i, part) in parts.iter().enumerate() {
                let is_last = i + 1 == parts.len();
                let children = if is_last { sentence.children } else { &[] };
                let number = sentence.number.filter(|_| i == 0);
                self.sentence(
                    Sentence { text: part.clone(), number, children, seen: sentence.seen.clone(), ..sentence },
                    body,
                );
            }
            return;
        }
        if is_condition && let Some(found) = words.contrast.find(&sentence.text) {
            let (first, second) = (&sentence.text[..found.start()], &sentence.text[found.start() + 2..]);
            let alone = Sentence { text: first.to_owned(), children: &[], seen: sentence.seen.clone(), ..sentence };
            self.sentence(alone, body);
            let other = Sentence {
                text: second.to_owned(),
                number: None,
                children: sentence.children,
                seen: sentence.seen.clone(),
                is_listed: true,
            };
            return self.sentence(other, body);
        }
        // 3. What it means.
        let Some((means, captures)) = words.meaning(&sentence.text) else { return self.plain(sentence, body) };
        let part = |name: &str| captures.name(name).map(|found| found.as_str().trim().to_owned()).unwrap_or_default();
        let inner = |text: String| Sentence {
            text,
            number: None,
            children: sentence.children,
            seen: sentence.seen.clone(),
            is_listed: true,
        };
        match means {
            Means::Begin => self.begin(&part("event"), &sentence.seen, body),
            Means::Finish => self.end(&sentence, &part("event"), body),
            Means::Decide => {
                let (condition, is_so) =
                    if part("unless").is_empty() { (part("condition"), true) } else { (part("unless"), false) };
                let step = inner(part("step"));
                self.decide(&sentence, &condition, is_so, step, body);
            }
            Means::OtherwiseDecide => {
                let step = inner(part("step"));
                let mut own = Body { lane: body.lane, ..Body::default() };
                self.decide(&sentence, &part("condition"), true, step, &mut own);
                self.otherwise(&sentence, own, body);
            }
            Means::Otherwise => {
                let own = self.branch(inner(part("step")), body);
                self.otherwise(&sentence, own, body);
            }
            Means::Question => {
                let asked =
                    if part("question").is_empty() { question(&part("condition")) } else { label(&part("question")) };
                self.ask(&sentence, asked, body);
            }
            Means::Answer => self.answer(&sentence, &part("answer"), inner(part("step")), body),
            Means::Repeat => {
                let step = if part("step").is_empty() && !part("doing").is_empty() {
                    format!("keep {}", part("doing"))
                } else {
                    part("step")
                };
                self.repeat(&sentence, format!("Until {}", part("until")), inner(step), body);
            }
            Means::Each => {
                let each = part("each");
                let label = if each.starts_with("every ") && !sentence.text.to_lowercase().starts_with("for") {
                    each
                } else {
                    format!("for {each}")
                };
                self.repeat(&sentence, label, inner(part("step")), body);
            }
            Means::RepeatSteps => self.repeat_steps(&sentence, &part("first"), &part("until"), body),
            Means::Together => self.together(&sentence, inner(part("step")), body),
            Means::Go => self.go(&part("target"), &sentence.text, &sentence.seen, body),
            Means::When if self.steps.is_empty() => {
                self.begin(&part("condition"), &sentence.seen, body);
                self.sentence(inner(part("step")), body);
            }
            Means::When => {
                let step = inner(part("step"));
                self.decide(&sentence, &part("condition"), true, step, body);
            }
            Means::Once => {
                let waiting = Sentence {
                    text: part("condition"),
                    children: &[],
                    number: sentence.number,
                    seen: sentence.seen.clone(),
                    is_listed: true,
                };
                self.step(&waiting, ElementKind::Wait, Some("guess: the flow waits for this".to_owned()), body);
                self.sentence(inner(part("step")), body);
            }
            Means::Note => self.note(&part("step")),
            Means::Wait => self.step(&sentence, ElementKind::Wait, None, body),
            Means::Step => self.sentence(Sentence { text: part("step"), ..sentence }, body),
        }
    }

    /// A remark on the step before.
    fn note(&mut self, text: &str) {
        let Some(last) = self.steps.last().map(|step| &mut self.facts.things[*step]) else { return };
        last.remark = Some(match last.remark.take() {
            Some(before) => format!("{before} {}", label(text)),
            None => label(text),
        });
    }

    /// A sentence that no pattern matches.
    fn plain(&mut self, sentence: Sentence<'_>, body: &mut Body) {
        let words = self.words;
        // "by the window" is no role, unless somebody of that name is known, or something is done by it.
        let is_known = |role: &str| self.lanes.contains_key(&role.to_lowercase());
        let is_meant =
            |(role, step): &(String, String)| sentence.text.ends_with(')') || is_passive(step) || is_known(role);
        if let Some((role, step)) = words.role(&sentence.text).filter(is_meant) {
            self.enter(&role, &sentence.seen, body);
            return self.sentence(Sentence { text: step, ..sentence }, body);
        }
        let (subject, step) = match words.subject(&sentence.text) {
            Some((role, step)) => {
                let is_one = !["it", "he", "she", "they", "we", "you", "i", "someone", "somebody"]
                    .contains(&role.to_lowercase().as_str());
                if is_one {
                    self.enter(&role, &sentence.seen, body);
                }
                // "The clerk checks whether …" is a question.
                if words.meaning(&step).is_some() {
                    return self.sentence(Sentence { text: step, ..sentence }, body);
                }
                (true, step)
            }
            None => (false, sentence.text.clone()),
        };
        // "… and sends it to the office" is a step of its own.
        if let Some((first, second)) = self.split_at_and(&step, subject) {
            let number = sentence.number;
            let seen = sentence.seen.clone();
            self.step(
                &Sentence { text: first, number, children: &[], seen: seen.clone(), is_listed: true },
                ElementKind::Step,
                None,
                body,
            );
            return self.sentence(Sentence { text: second, number: None, seen, ..sentence }, body);
        }
        let is_understood = subject || sentence.is_listed || words.is_verb(&step) || is_passive(&step);
        let is_group = sentence.children.iter().any(|child| child.line != sentence.seen.line);
        let guess = is_group.then(|| "guess: what is listed below it comes after it".to_owned());
        self.step(
            &Sentence {
                text: step,
                children: &[],
                number: sentence.number,
                seen: sentence.seen.clone(),
                is_listed: true,
            },
            ElementKind::Step,
            guess,
            body,
        );
        if !is_understood && let Some(last) = self.facts.things.last_mut() {
            last.remark = Some("Is this a step?".to_owned());
            let says = "this sentence was not understood; it is a step with a remark".to_owned();
            self.facts.findings.push(Finding {
                code: "not-understood",
                level: Level::Note,
                seen: sentence.seen.clone(),
                says,
            });
        }
        self.items(sentence.children, body);
    }

    /// Two steps of one sentence: behind `and` stands another verb.
    fn split_at_and(&self, step: &str, in_third_person: bool) -> Option<(String, String)> {
        let (first, second) = step.match_indices(" and ").find_map(|(at, and)| {
            let second = &step[at + and.len()..];
            let own = if in_third_person { self.words.third_person(second) } else { None };
            let leads = self.words.meaning(second).is_some_and(|(means, _)| matches!(means, Means::Go | Means::Finish));
            if leads {
                return Some((step[..at].trim_end_matches(',').to_owned(), second.to_owned()));
            }
            let own = own.or_else(|| self.words.is_verb(second).then(|| second.to_owned()))?;
            // A verb alone shares what comes behind it: "sign and date the form".
            let has_object = step[..at].contains(' ') && own.contains(' ');
            has_object.then(|| (step[..at].trim_end_matches(',').to_owned(), own))
        })?;
        Some((first, second))
    }

    fn seen_before(&self, text: &str) -> Option<usize> {
        let text = text.to_lowercase();
        self.steps.iter().copied().find(|step| self.facts.things[*step].shown().to_lowercase() == text)
    }

    /// The lane of a role.
    fn enter(&mut self, role: &str, seen: &Seen, body: &mut Body) {
        let key = role.to_lowercase();
        // "clerk" and "clerks", "the duty keeper" and "keeper" are one.
        let known = self.lanes.get(&key).copied().or_else(|| {
            let is_same =
                |own: &str| own == format!("{key}s") || key == format!("{own}s") || own.ends_with(&format!(" {key}"));
            self.lanes.iter().find(|(own, _)| is_same(own)).map(|(_, lane)| *lane)
        });
        let lane = known.unwrap_or_else(|| {
            let mut thing = Thing::new(role, ElementKind::Lane, seen.clone());
            thing.origin = label(role);
            self.facts.things.push(thing);
            self.lanes.insert(key, self.facts.things.len() - 1);
            self.facts.things.len() - 1
        });
        body.lane = Some(lane);
        body.is_inherited = false;
    }

    /// Takes up a thing that is a place of the flow.
    fn thing(&mut self, sentence: &Sentence<'_>, kind: ElementKind, shown: String, guess: Option<String>) -> usize {
        let mut thing = Thing::new(&self.origins.give(&sentence.text), kind, sentence.seen.clone());
        thing.label = Some(shown);
        thing.is_named = false;
        thing.guess = guess;
        self.facts.things.push(thing);
        let number = self.facts.things.len() - 1;
        self.steps.push(number);
        if let Some(own) = sentence.number {
            self.numbers.entry(own.to_lowercase()).or_insert(number);
        }
        number
    }

    fn step(&mut self, sentence: &Sentence<'_>, kind: ElementKind, guess: Option<String>, body: &mut Body) {
        let shown = label(&sentence.text);
        if shown.is_empty() {
            return;
        }
        let thing = self.thing(sentence, kind, shown, guess);
        body.passages.push((body.lane, Passage::Step(thing)));
        body.asked = None;
    }

    fn begin(&mut self, event: &str, seen: &Seen, body: &mut Body) {
        let sentence =
            Sentence { text: event.to_owned(), number: None, children: &[], seen: seen.clone(), is_listed: true };
        self.step(&sentence, ElementKind::Begin, None, body);
    }

    fn end(&mut self, sentence: &Sentence<'_>, event: &str, body: &mut Body) {
        let event = self.words.article.replace(event, "");
        let shown = if event.is_empty() { self.words.end.clone() } else { label(&event) };
        let thing = self.thing(sentence, ElementKind::Finish, shown, None);
        body.passages.push((body.lane, Passage::Step(thing)));
        self.ends.insert(thing);
    }

    /// The body of a branch: a step, and what is indented below it.
    fn branch(&mut self, step: Sentence<'_>, body: &Body) -> Body {
        let mut own = Body { lane: body.lane, ..Body::default() };
        match step.text.is_empty() {
            true => self.items(step.children, &mut own),
            false => self.sentence(step, &mut own),
        }
        own
    }

    fn decide(&mut self, sentence: &Sentence<'_>, condition: &str, is_so: bool, step: Sentence<'_>, body: &mut Body) {
        let (yes, no) = (self.words.yes.clone(), self.words.no.clone());
        let plain = condition.to_lowercase();
        let refers = match plain.as_str() {
            "so" | "yes" | "it is" | "this is the case" | "that is the case" => Some(true),
            "not" | "no" | "it is not" => Some(false),
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
                let (condition, is_so) = match positive(condition) {
                    Some(positive) => (positive, !is_so),
                    None => (condition.to_owned(), is_so),
                };
                (self.thing(sentence, ElementKind::Decide, question(&condition), guess), is_so)
            }
        };
        let lane = body.lane;
        let own = self.branch(step, body);
        let branch = Branch { label: Some(if is_so { yes } else { no }), body: self.gathered(own, lane) };
        body.passages.push((lane, Passage::Decide { thing, branches: vec![branch] }));
    }

    /// The other way of the decision before.
    fn otherwise(&mut self, sentence: &Sentence<'_>, own: Body, body: &mut Body) {
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
                self.facts.findings.push(Finding { code: "no-decision", level: Level::Warning, seen, says });
                body.passages.extend(filled.into_iter().map(|passage| (lane, passage)));
            }
        }
    }

    /// A question: a decision if answers stand below it, a step that may become one otherwise.
    fn ask(&mut self, sentence: &Sentence<'_>, asked: String, body: &mut Body) {
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
    fn answer(&mut self, sentence: &Sentence<'_>, answer: &str, step: Sentence<'_>, body: &mut Body) {
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
                self.facts.findings.push(Finding { code: "no-decision", level: Level::Warning, seen, says });
                body.passages.extend(filled.into_iter().map(|passage| (lane, passage)));
            }
        }
    }

    fn repeat(&mut self, sentence: &Sentence<'_>, shown: String, step: Sentence<'_>, body: &mut Body) {
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
            return body.passages.push((lane, Passage::Step(thing)));
        }
        body.passages.push((lane, Passage::Repeat { thing, body: filled }));
    }

    /// Back to an earlier step, until something holds.
    fn repeat_steps(&mut self, sentence: &Sentence<'_>, first: &str, until: &str, body: &mut Body) {
        let guess = Some("guess: a way back".to_owned());
        let thing = self.thing(sentence, ElementKind::Decide, question(until), guess);
        let mut back = Body { lane: body.lane, ..Body::default() };
        self.go(first, &sentence.text, &sentence.seen, &mut back);
        let branch = Branch { label: Some(self.words.no.clone()), body: self.gathered(back, body.lane) };
        body.passages.push((body.lane, Passage::Decide { thing, branches: vec![branch] }));
    }

    fn together(&mut self, sentence: &Sentence<'_>, step: Sentence<'_>, body: &mut Body) {
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

    fn is_terminal(&self, passage: &Passage) -> bool {
        let is_mark =
            |thing: &usize| matches!(self.facts.things[*thing].kind, ElementKind::Begin | ElementKind::Finish);
        matches!(passage, Passage::Go(_)) || matches!(passage, Passage::Step(thing) if is_mark(thing))
    }

    /// A way to another step, which may only be known later.
    fn go(&mut self, target: &str, text: &str, seen: &Seen, body: &mut Body) {
        self.targets.push((target.to_owned(), text.to_owned(), seen.clone()));
        body.passages.push((body.lane, Passage::Go(OPEN + self.targets.len() - 1)));
    }

    /// Passages in their lanes, seen from a lane around them.
    fn gathered(&self, body: Body, around: Option<usize>) -> Vec<Passage> {
        let mut out: Vec<Passage> = Vec::new();
        for (lane, passage) in body.passages {
            let inside = lane.filter(|_| lane != around);
            match (inside, out.last_mut()) {
                (None, _) => out.push(passage),
                (Some(lane), Some(Passage::In { lane: last, body })) if *last == lane => body.push(passage),
                (Some(lane), _) => out.push(Passage::In { lane, body: vec![passage] }),
            }
        }
        out
    }

    /// The thing that is meant by a target.
    fn target(&self, text: &str) -> Option<usize> {
        let plain = text.trim().trim_end_matches('.').to_lowercase();
        if plain.is_empty() || ["beginning", "start", "top", "first step"].contains(&plain.as_str()) {
            let is_start = |step: &&usize| self.facts.things[**step].kind != ElementKind::Begin;
            return self.steps.iter().find(is_start).copied();
        }
        if let Some(step) = self.numbers.get(&plain).copied().or_else(|| self.seen_before(&plain)) {
            return Some(step);
        }
        // By the words that they share; steps before others that are alike.
        let words = |text: &str| -> BTreeSet<String> {
            let words = text.split(|c: char| !c.is_alphanumeric()).map(str::to_lowercase);
            words.filter(|word| word.chars().count() > 2 && word != "the").map(|word| stem(&word)).collect()
        };
        let wanted = words(&plain);
        let shared = |step: &usize| words(self.facts.things[*step].shown()).intersection(&wanted).count();
        let best = self.steps.iter().copied().rev().max_by_key(shared)?;
        (shared(&best) * 2 > wanted.len()).then_some(best)
    }

    /// The facts, with the ends that every flow has, and with all ways leading somewhere.
    fn finish(mut self, mut body: Body) -> Facts {
        self.ends(&mut body);
        let mut goals: Vec<Goal> = Vec::new();
        for (target, text, seen) in std::mem::take(&mut self.targets) {
            goals.push(match self.target(&target) {
                Some(goal) => {
                    self.facts.things[goal].is_named = true;
                    Goal::Known(goal)
                }
                None => {
                    let says = format!("no step is like \"{target}\"; this is taken as a step, not as a way to one");
                    self.facts.findings.push(Finding {
                        code: "target-missing",
                        level: Level::Note,
                        seen: seen.clone(),
                        says,
                    });
                    let sentence = Sentence { text, number: None, children: &[], seen, is_listed: true };
                    Goal::Step(self.thing(&sentence, ElementKind::Step, label(&sentence.text), None))
                }
            });
        }
        self.facts.passages = self.gathered(body, None);
        resolve(&mut self.facts.passages, &goals);
        self.facts.findings.sort_by(|a, b| a.seen.cmp(&b.seen));
        self.facts
    }

    /// A beginning and an end, where the text has none.
    fn ends(&mut self, body: &mut Body) {
        // What comes before the first role is that role's.
        let first = body.passages.iter().find_map(|(lane, _)| *lane);
        body.passages.iter_mut().take_while(|(lane, _)| lane.is_none()).for_each(|(lane, _)| *lane = first);
        let guess = || Some("guess: not in the text".to_owned());
        let sentence = |text: &str| Sentence {
            text: text.to_owned(),
            number: None,
            children: &[],
            seen: Seen { file: self.file.clone(), line: 1, ..Seen::default() },
            is_listed: true,
        };
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
    fn ends_here(&self, passage: &Passage) -> bool {
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

/// A word without its endings, so that "measuring" is like "measure".
fn stem(word: &str) -> String {
    let cut = ["ing", "ed", "es", "s", "e"].iter().find_map(|ending| word.strip_suffix(ending));
    cut.filter(|stem| stem.len() > 2).unwrap_or(word).to_owned()
}

/// Whether a sentence says what is done to something: "the form is signed".
fn is_passive(text: &str) -> bool {
    let words: Vec<&str> = text.split(' ').collect();
    let is_done = |pair: &[&str]| {
        ["is", "are", "gets", "get"].contains(&pair[0])
            && (pair[1].ends_with("ed")
                || pair[1].ends_with("en")
                || ["sent", "put", "set", "made", "told", "kept", "read", "paid", "built", "brought", "found"]
                    .contains(&pair[1]))
    };
    words.windows(2).any(is_done)
}
