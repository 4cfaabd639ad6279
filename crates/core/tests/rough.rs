//! Whatever is written, the line from text to picture holds: no panic, no endless run, no broken XML.

mod support;

use bathygram_core::compare::documents;
use bathygram_core::diag::Severity;
use bathygram_core::pipeline::{self, Studio};
use proptest::prelude::*;
use support::{BLOCKS, read, soup};

fn survives(text: &str) {
    let reading = read(text);
    for diagnostic in &reading.diagnostics {
        let range = diagnostic.span.range();
        assert!(text.get(range.clone()).is_some(), "{range:?} is no place in {text:?}");
        let sentence = support::sentence(&reading, diagnostic);
        assert!(!sentence.is_empty() && !sentence.ends_with('.'), "{sentence}");
    }
    let studio = Studio::new();
    for picture in support::views(&reading) {
        // Pictures are drawn from what could be read, errors or not.
        let svg = support::draw(&studio, &reading, &picture);
        roxmltree::Document::parse(&svg).unwrap_or_else(|e| panic!("{e} in the picture of {text:?}"));
        let strokes = svg.lines().filter(|l| !l.starts_with("<style>") && !l.starts_with("<metadata>"));
        for line in strokes.filter(|l| l.starts_with("<path") || l.starts_with("<text") || l.starts_with("<svg")) {
            let numbers = line.split('>').next().unwrap_or_default();
            assert!(!numbers.contains("NaN") && !numbers.contains("inf"), "{line} in the picture of {text:?}");
        }
    }
    assert!(documents([&reading.document], [&reading.document]).is_empty(), "nothing changed in {text:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn word_soup_is_survived(text in soup()) {
        survives(&text);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn any_characters_are_survived(text in "\\PC{0,80}", block in prop::sample::select(BLOCKS)) {
        survives(&format!("{block} x\n  {text}\n"));
    }

    #[test]
    fn labels_are_kept_as_they_were_written(label in "[^\"\\\\*`$\\pC]{1,40}") {
        prop_assume!(!label.trim().is_empty());
        let reading = read(&format!("flow f\n  step x \"{label}\"\n"));
        prop_assert_eq!(reading.document.diagrams[0].elements[0].shown().text(), label);
    }
}

#[test]
fn errors_are_reported_in_the_order_of_the_text() {
    let reading = read("flow f\n  bogus one\n  \"x\" (fil coral)\n  go nowhere\nbogus\n");
    let places: Vec<u32> = reading.diagnostics.iter().map(|d| d.span.start).collect();
    assert!(places.is_sorted() && places.len() >= 4, "{:#?}", reading.diagnostics);
    assert_eq!(reading.diagnostics.iter().filter(|d| d.severity == Severity::Error).count(), 4);
}

#[test]
fn an_error_damages_only_its_own_line() {
    let good = "architecture a\n  system x \"X\"\n  system y \"Y\"\n  x uses y \"z\"\n";
    let bad = "architecture a\n  system x \"X\"\n  sistem q \"Q\"\n  system y \"Y\"\n  x -> y\n  x uses y \"z\"\n  x uses y \"z\" nonsense\n";
    let (good, bad) = (read(good), read(bad));
    assert_eq!(bad.diagnostics.iter().filter(|d| d.severity == Severity::Error).count(), 3);
    let keys = |r: &pipeline::Reading| -> Vec<String> {
        r.document.diagrams[0].elements.iter().map(|e| e.key.clone()).collect()
    };
    assert_eq!(keys(&good), keys(&bad));
    assert_eq!(bad.document.diagrams[0].relations.len(), 2, "the line with a leftover still relates");
}

#[test]
fn very_wide_and_very_long_diagrams_are_drawn() {
    let star: String = (0..400).map(|i| format!("  hub uses s{i}\n")).collect();
    survives(&format!("architecture a\n{star}"));
    let chain: String = (0..400).map(|i| format!("  \"step {i}\"\n")).collect();
    survives(&format!("flow f\n{chain}"));
    let everyone: String = (0..14).map(|i| format!("  n{i}, m{i} uses n1..n13 \"x\"\n")).collect();
    survives(&format!("architecture a\n{everyone}"));
}
