//! Items as a draft flow. Sentences are read one after the other; what their patterns mean builds decisions, ways back, repetitions,
//! parallel parts and lanes. What no pattern matches is a step, as it is written.

mod decisions;
mod goals;
mod parts;

use super::Origins;
use super::items::{Item, Kind};
use super::labels::{label, sentences};
use super::words::{Means, Words};
use crate::course::Passage;
use crate::facts::{Facts, Thing};
use crate::finding::{Finding, Level, Seen};
use bathygram_core::model::{DiagramKind, ElementKind};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// Sentences in sentences are followed this deep.
const DEEPEST: usize = 12;
/// A longer sentence is one step, in bytes.
// Nobody writes it: its parts are looked for again and again.
const LONGEST: usize = 10_000;

/// The flow of an outline.
pub(super) fn flow(items: &[Item], file: &Arc<str>, words: &Words) -> Facts {
    let mut draft = Draft {
        words,
        file,
        facts: Facts::new(DiagramKind::Flow),
        origins: Origins::default(),
        lanes: BTreeMap::new(),
        numbers: BTreeMap::new(),
        waiting: None,
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

impl Sentence<'_> {
    /// A sentence alone.
    fn new(text: String, seen: &Seen) -> Self {
        Self { text, number: None, children: &[], seen: seen.clone(), is_listed: true }
    }
}

struct Draft<'a> {
    words: &'a Words,
    file: &'a Arc<str>,
    facts: Facts,
    origins: Origins,
    /// Lanes by their roles in small letters.
    lanes: BTreeMap<String, usize>,
    /// Things by the numbers of their items.
    numbers: BTreeMap<String, usize>,
    /// The number of a repetition in which no step was read yet.
    waiting: Option<String>,
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
            let mut all = sentences(&item.text, &self.words.abbreviations);
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
        let means = |text: &String| self.words.meaning(text.trim_end_matches('.')).map(|meaning| meaning.means);
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
        self.facts.findings.push(Finding::new("heading", Level::Note, seen, says));
    }

    fn sentence(&mut self, sentence: Sentence<'_>, body: &mut Body) {
        self.depth += 1;
        match self.depth > DEEPEST || sentence.text.len() > LONGEST {
            true => self.step(&sentence, ElementKind::Step, None, body),
            false => self.meant(sentence, body),
        }
        self.depth -= 1;
    }

    /// Reads the parts of a sentence that says several things; gives one back that says a single thing.
    fn cut<'s>(&mut self, sentence: Sentence<'s>, body: &mut Body) -> Option<Sentence<'s>> {
        let words = self.words;
        let parts: Vec<&str> = words.between.split(&sentence.text).filter(|part| !part.trim().is_empty()).collect();
        let is_condition = words.meaning(&sentence.text).is_some_and(|meaning| meaning.means != Means::Step);
        if parts.len() > 1 && !is_condition {
            for (i, part) in parts.iter().enumerate() {
                let children = if i + 1 == parts.len() { sentence.children } else { &[] };
                let number = sentence.number.filter(|_| i == 0);
                let is_listed = sentence.is_listed;
                let own = Sentence { number, children, is_listed, ..Sentence::new((*part).to_owned(), &sentence.seen) };
                self.sentence(own, body);
            }
            return None;
        }
        let contrast = words.contrast.captures(&sentence.text).filter(|_| is_condition);
        let Some((whole, other)) = contrast.and_then(|found| found.get(0).zip(found.name("other"))) else {
            return Some(sentence);
        };
        let (first, second) = (&sentence.text[..whole.start()], other.as_str());
        let alone = Sentence { number: sentence.number, ..Sentence::new(first.to_owned(), &sentence.seen) };
        self.sentence(alone, body);
        let other = Sentence { children: sentence.children, ..Sentence::new(second.to_owned(), &sentence.seen) };
        self.sentence(other, body);
        None
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
        let Some(sentence) = self.cut(sentence, body) else { return };
        // 3. What it means.
        let Some(meaning) = words.meaning(&sentence.text) else { return self.plain(sentence, body) };
        let part = |name: &str| meaning.part(name);
        let inner = |text: String| Sentence { children: sentence.children, ..Sentence::new(text, &sentence.seen) };
        match meaning.means {
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
                let asked = if part("question").is_empty() {
                    words.question(&part("condition"))
                } else {
                    label(&part("question"))
                };
                self.ask(&sentence, asked, body);
            }
            Means::Answer => self.answer(&sentence, &part("answer"), inner(part("step")), body),
            Means::Repeat | Means::Each => self.repeat(&sentence, meaning.label(), inner(meaning.step()), body),
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
                let waiting = Sentence { number: sentence.number, ..Sentence::new(part("condition"), &sentence.seen) };
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
        let is_meant = |(role, step): &(String, String)| {
            sentence.text.ends_with(')') || self.words.is_passive(step) || is_known(role)
        };
        if let Some((role, step)) = words.role(&sentence.text).filter(is_meant) {
            self.enter(&role, &sentence.seen, body);
            return self.sentence(Sentence { text: step, ..sentence }, body);
        }
        let (subject, step) = match words.subject(&sentence.text) {
            Some((role, step)) => {
                let is_one = !words.nobodies.contains(&role.to_lowercase());
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
            self.step(&Sentence { number, ..Sentence::new(first, &seen) }, ElementKind::Step, None, body);
            return self.sentence(Sentence { text: second, number: None, seen, ..sentence }, body);
        }
        let is_understood = subject || sentence.is_listed || words.is_verb(&step) || self.words.is_passive(&step);
        let is_group = sentence.children.iter().any(|child| child.line != sentence.seen.line);
        let guess = is_group.then(|| "guess: what is listed below it comes after it".to_owned());
        self.step(
            &Sentence { number: sentence.number, ..Sentence::new(step, &sentence.seen) },
            ElementKind::Step,
            guess,
            body,
        );
        if !is_understood && let Some(last) = self.facts.things.last_mut() {
            last.remark = Some(self.words.remark.clone());
            let says = "this sentence was not understood; it is a step with a remark".to_owned();
            self.facts.findings.push(Finding {
                others: Vec::new(),
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
        let (first, second) = step.match_indices(self.words.and.as_str()).find_map(|(at, and)| {
            let second = &step[at + and.len()..];
            let own = if in_third_person { self.words.third_person(second) } else { None };
            let leads =
                self.words.meaning(second).is_some_and(|meaning| matches!(meaning.means, Means::Go | Means::Finish));
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

    /// The lane of a role.
    fn enter(&mut self, role: &str, seen: &Seen, body: &mut Body) {
        let key = role.to_lowercase();
        // "clerk" and "clerks", "the duty keeper" and "keeper" are one.
        let known = self.lanes.get(&key).copied().or_else(|| {
            let plural = &self.words.plural;
            let is_same = |own: &str| {
                own == format!("{key}{plural}") || key == format!("{own}{plural}") || own.ends_with(&format!(" {key}"))
            };
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
    }

    /// Takes up a thing that is a place of the flow.
    fn thing(&mut self, sentence: &Sentence<'_>, kind: ElementKind, shown: String, guess: Option<String>) -> usize {
        let mut thing = Thing::new(&self.origins.give(&sentence.text), kind, sentence.seen.clone());
        thing.label = Some(shown);
        thing.is_named = false;
        thing.guess = guess;
        self.facts.things.push(thing);
        let number = self.facts.things.len() - 1;
        // A repetition has no name of its own: who goes to it goes to the first step in it.
        if kind == ElementKind::Repeat {
            self.waiting = sentence.number.map(str::to_lowercase);
            return number;
        }
        self.steps.push(number);
        for own in sentence.number.map(str::to_lowercase).into_iter().chain(self.waiting.take()) {
            self.numbers.entry(own).or_insert(number);
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
        let sentence = Sentence::new(event.to_owned(), seen);
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
}
