//! Laws of the comparison: what a random edit did to a random diagram is what is reported, and nothing is where only the
//! form changed.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::compare::{self, Change, Fate, Subject, documents};
use bathygram_core::format::format;
use bathygram_core::model::Document;
use bathygram_core::pipeline::{self, DrawOptions, Setting, Studio};
use bathygram_core::source::Source;
use proptest::prelude::*;
use std::collections::BTreeSet;
use std::fmt::Write;

/// A model that is written down, edited, and written down again.
#[derive(Clone, Debug)]
struct Map {
    /// Name, label word, kind, and the box that it lies in.
    elements: Vec<(usize, usize, &'static str, Option<usize>)>,
    /// From, to, verb and label.
    relations: Vec<(usize, usize, &'static str, usize)>,
    boxes: usize,
}

const KINDS: [&str; 4] = ["service", "store", "queue", "device"];
const VERBS: [&str; 4] = ["uses", "reads", "writes", "sends"];
/// Words that have nothing in common.
const WORDS: [&str; 24] = [
    "Anchor", "Beacon", "Crane", "Drift", "Ebb", "Fathom", "Groyne", "Hull", "Inlet", "Jetty", "Keel", "Lagoon",
    "Mole", "Neap", "Oar", "Pier", "Quay", "Reef", "Shoal", "Tide", "Undertow", "Vane", "Wharf", "Yard",
];

impl Map {
    fn text(&self, order: &[usize]) -> String {
        let mut out = String::from("architecture map \"Map\"\n");
        let line = |out: &mut String, indent: &str, i: usize| {
            let (name, word, kind, _) = self.elements[i];
            let _ = writeln!(out, "{indent}{kind} e{name} \"{} {}\"", WORDS[word % 24], word / 24);
        };
        for b in 0..self.boxes {
            let _ = writeln!(out, "  system box{b} \"Box {b}\"");
            let inside = order.iter().filter(|i| **i < self.elements.len() && self.elements[**i].3 == Some(b));
            inside.for_each(|i| line(&mut out, "    ", *i));
        }
        let outside = order.iter().filter(|i| **i < self.elements.len() && self.elements[**i].3.is_none());
        outside.for_each(|i| line(&mut out, "  ", *i));
        for (from, to, verb, label) in &self.relations {
            let _ = writeln!(out, "  e{} {verb} e{} \"line {label}\"", self.elements[*from].0, self.elements[*to].0);
        }
        out
    }

    fn document(&self) -> Document {
        let order: Vec<usize> = (0..self.elements.len()).collect();
        read(&self.text(&order))
    }
}

fn read(text: &str) -> Document {
    let reading = pipeline::read(Source::new("t.bathy", text), "t", &Setting::default());
    assert!(!reading.has_errors(), "{:?}\n{text}", reading.diagnostics);
    reading.document
}

/// A map with distinct names and labels, and one relation between two at most.
fn maps() -> impl Strategy<Value = Map> {
    let element = (0..4_usize, prop::option::weighted(0.5, 0..3_usize));
    let relation = (any::<prop::sample::Index>(), any::<prop::sample::Index>(), 0..4_usize);
    (prop::collection::vec(element, 6..20), prop::collection::vec(relation, 4..24)).prop_map(|(elements, relations)| {
        let elements: Vec<_> =
            elements.into_iter().enumerate().map(|(i, (kind, held))| (i, i, KINDS[kind], held)).collect();
        let mut pairs = BTreeSet::new();
        let mut lines = Vec::new();
        for (a, b, verb) in relations {
            let (a, b) = (a.index(elements.len()), b.index(elements.len()));
            if a != b && pairs.insert((a, b)) {
                lines.push((a, b, VERBS[verb], lines.len()));
            }
        }
        Map { elements, relations: lines, boxes: 3 }
    })
}

/// One edit, with what it must be reported as.
#[derive(Clone, Debug)]
enum Edit {
    Rename(prop::sample::Index),
    Relabel(prop::sample::Index),
    Move(prop::sample::Index),
    Add(usize),
    Remove(prop::sample::Index),
    Join(prop::sample::Index, prop::sample::Index),
    Part(prop::sample::Index),
    Reword(prop::sample::Index),
}

fn edits() -> impl Strategy<Value = Edit> {
    use Edit::{Add, Join, Move, Part, Relabel, Remove, Rename, Reword};
    let index = any::<prop::sample::Index>;
    prop_oneof![
        index().prop_map(Rename),
        index().prop_map(Relabel),
        index().prop_map(Move),
        (0..4_usize).prop_map(Add),
        index().prop_map(Remove),
        (index(), index()).prop_map(|(a, b)| Join(a, b)),
        index().prop_map(Part),
        index().prop_map(Reword),
    ]
}

/// What is expected: fate, and what the report names.
type Expected = BTreeSet<(Fate, String)>;

/// Makes edits, each to something that no other one touched, and says what must be reported.
fn edited(map: &Map, edits: &[Edit]) -> (Map, Expected) {
    let mut new = map.clone();
    let mut expected = Expected::new();
    let (mut touched, mut lines) = (BTreeSet::new(), BTreeSet::new());
    let mut removed = BTreeSet::new();
    for (fresh, edit) in (100..).zip(edits) {
        match edit {
            Edit::Add(kind) => {
                new.elements.push((fresh, fresh, KINDS[*kind], None));
                expected.insert((Fate::Added, format!("e{fresh}")));
            }
            Edit::Rename(i) | Edit::Relabel(i) | Edit::Move(i) | Edit::Remove(i) => {
                let i = i.index(map.elements.len());
                if !touched.insert(i) {
                    continue;
                }
                let element = &mut new.elements[i];
                match edit {
                    Edit::Rename(_) => {
                        element.0 = fresh;
                        expected.insert((Fate::Changed, format!("e{fresh}")));
                    }
                    Edit::Relabel(_) => {
                        element.1 = fresh;
                        expected.insert((Fate::Changed, format!("e{}", element.0)));
                    }
                    Edit::Move(_) => {
                        element.3 = if element.3 == Some(0) { Some(1) } else { Some(0) };
                        expected.insert((Fate::Moved, format!("e{}", element.0)));
                    }
                    _ => {
                        expected.insert((Fate::Removed, format!("e{}", element.0)));
                        removed.insert(i);
                    }
                }
            }
            Edit::Join(a, b) => {
                let (a, b) = (a.index(map.elements.len()), b.index(map.elements.len()));
                // In place of one that another edit takes away it would be a change.
                if a != b && !new.relations.iter().chain(&map.relations).any(|r| (r.0, r.1) == (a, b)) {
                    lines.insert(fresh);
                    new.relations.push((a, b, "uses", fresh));
                }
            }
            Edit::Part(i) | Edit::Reword(i) if !map.relations.is_empty() => {
                let label = map.relations[i.index(map.relations.len())].3;
                if lines.insert(label) {
                    let at = new.relations.iter().position(|r| r.3 == label).expect("touched once");
                    if matches!(edit, Edit::Part(_)) {
                        new.relations.remove(at);
                        expected.insert((Fate::Removed, format!("line {label}")));
                    } else {
                        new.relations[at].3 = fresh;
                        expected.insert((Fate::Changed, format!("line {fresh}")));
                    }
                }
            }
            Edit::Part(_) | Edit::Reword(_) => {}
        }
    }
    // Relations of what was removed go with it, and what was expected of them becomes that.
    let is_gone = |r: &(usize, usize, &str, usize)| removed.contains(&r.0) || removed.contains(&r.1);
    for relation in map.relations.iter().filter(|r| is_gone(r)) {
        expected.insert((Fate::Removed, format!("line {}", relation.3)));
    }
    for relation in new.relations.iter().filter(|r| is_gone(r)) {
        expected.remove(&(Fate::Changed, format!("line {}", relation.3)));
    }
    new.relations.retain(|r| !is_gone(r));
    for relation in new.relations.iter().filter(|r| r.3 >= 100 && r.2 == "uses") {
        if !expected.contains(&(Fate::Changed, format!("line {}", relation.3))) {
            expected.insert((Fate::Added, format!("line {}", relation.3)));
        }
    }
    let number = |i: usize| i - removed.iter().filter(|r| **r < i).count();
    for relation in &mut new.relations {
        (relation.0, relation.1) = (number(relation.0), number(relation.1));
    }
    let mut at = 0;
    new.elements.retain(|_| {
        at += 1;
        !removed.contains(&(at - 1))
    });
    (new, expected)
}

/// What a change is about, as the expectation names it.
fn subject(change: &Change) -> String {
    match change.subject {
        Subject::Relation { .. } => change.what().split('"').nth(1).unwrap_or_default().to_owned(),
        _ => change.what().split(' ').nth(1).unwrap_or_default().to_owned(),
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn edits_are_reported_as_they_were_made(map in maps(), edits in prop::collection::vec(edits(), 1..6)) {
        let (new, expected) = edited(&map, &edits);
        let changes = documents([&map.document()], [&new.document()]);
        let shown: Expected = changes.iter().flat_map(|c| &c.changes).map(|c| (c.fate, subject(c))).collect();
        prop_assert_eq!(shown, expected, "\n{}", new.text(&(0..new.elements.len()).collect::<Vec<_>>()));
    }

    #[test]
    fn the_form_is_no_change(map in maps(), order in Just((0..20).collect::<Vec<usize>>()).prop_shuffle()) {
        let text = map.text(&order);
        let spaced = format!("// Written otherwise.\n\n{}", text.replace(" \"", "   \"").replace('\n', "  // here\n"));
        // An order is at most drawn differently; `review_laws` asks the pictures.
        let said = documents([&map.document()], [&read(&text)]);
        prop_assert!(said.iter().flat_map(|c| &c.changes).all(|c| c.fate == Fate::Drawn), "another order: {said:?}");
        prop_assert!(documents([&read(&text)], [&read(&spaced)]).is_empty());
        prop_assert!(documents([&read(&text)], [&read(&format(&Source::new("t", spaced.as_str())))]).is_empty());
    }

    #[test]
    fn written_diagrams_equal_themselves_and_their_form(text in support::written()) {
        let lenient = |text: &str| pipeline::read(Source::new("t.bathy", text), "t", &Setting::default()).document;
        prop_assert!(documents([&lenient(&text)], [&lenient(&text)]).is_empty());
        let form = format(&Source::new("t.bathy", text.as_str()));
        prop_assert!(documents([&lenient(&text)], [&lenient(&form)]).is_empty(), "{}\n---\n{}", text, form);
    }

    #[test]
    fn any_two_diagrams_can_be_compared_and_drawn(a in support::written(), b in support::written()) {
        let lenient = |text: &str| pipeline::read(Source::new("t.bathy", text), "t", &Setting::default());
        let (then, now) = (lenient(&a), lenient(&b));
        documents([&then.document], [&now.document]);
        let studio = Studio::new();
        for (old, new) in support::views(&then).iter().zip(&support::views(&now)).take(1) {
            compare::diagrams(&old.diagram, &new.diagram);
            let before = support::drawing(&studio, &then, old);
            let marked = compare::merged(old, new, compare::Sides::Versions, &BTreeSet::new());
            let options = DrawOptions { earlier: Some(&before.places), more_looks: &marked.looks, ..DrawOptions::default() };
            let drawing = pipeline::draw(&studio, &now, &marked.view, &options);
            prop_assert!(studio.svg(&drawing, &now.provenance("changes")).ends_with("</svg>\n"));
        }
    }
}
