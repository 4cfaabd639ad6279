//! One small diagram for every construct and every pair that can nest: each is read without mistakes, everything written
//! is drawn, and the picture is no wider or taller than it was when it was looked at.

mod support;

use bathygram_core::pipeline::{self, Studio};
use bathygram_corpus::gallery;
use insta::assert_snapshot;
use std::fmt::Write;

/// How often something stands in a text.
fn count(text: &str, what: &str) -> usize {
    text.matches(what).count()
}

/// The messages that a text of a sequence has, replies included.
fn messages(text: &str) -> usize {
    let verbs = [" calls ", " sends ", " creates ", " destroys ", " answers ", " does ", " returning "];
    verbs.iter().map(|verb| count(text, verb)).sum()
}

/// The fragments that it has.
fn fragments(text: &str) -> usize {
    let opens = |line: &&str| {
        let words = ["when ", "repeat ", "together ", "leave when ", "undivided", "in order", "never"];
        words.iter().any(|word| line.trim_start().starts_with(word))
    };
    text.lines().filter(opens).count()
}

#[test]
fn every_construct_of_a_sequence_in_every_other() {
    let studio = Studio::new();
    let mut sizes = String::new();
    for sample in gallery::sequences() {
        let reading = support::good(&sample.text);
        let svg = pipeline::draw(&studio, &reading, &reading.pictures()[0]);
        assert_eq!(count(&svg, "data-relation="), messages(&sample.text), "{}\n{}", sample.name, sample.text);
        assert_eq!(count(&svg, "data-kind=\"fragment\""), fragments(&sample.text), "{}\n{}", sample.name, sample.text);
        let attribute = |name: &str| {
            let (_, rest) = svg.split_once(&format!(" {name}=\"")).expect("the attribute");
            rest.split_once('"').expect("its end").0.to_owned()
        };
        let _ = writeln!(sizes, "{} {} x {}", sample.name, attribute("width"), attribute("height"));
    }
    assert_snapshot!(sizes);
}
