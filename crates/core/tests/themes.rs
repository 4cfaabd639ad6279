//! Drawings in every theme: the same things in the same places, and legible; by hand, and with hatches.

mod support;

use bathygram_core::pipeline::Studio;
use bathygram_core::scene::{Drawing, Item, Tag};
use bathygram_core::theme::{Themes, built_in, named};
use std::collections::BTreeMap;
use support::{demo, draw, drawing, good};

/// A studio with one theme.
fn studio(name: &str) -> Studio {
    Studio::new().in_themes(&Themes::from(named(name, None).expect("a theme")))
}

/// What each element and relation is drawn with, by its key.
fn parts(drawing: &Drawing) -> BTreeMap<String, String> {
    let mut found = BTreeMap::new();
    let mut work: Vec<&Item> = drawing.scene.items.iter().collect();
    while let Some(item) = work.pop() {
        let Item::Group(tag, inner) = item else { continue };
        if let Tag::Element { id, .. } | Tag::Relation { id, .. } = tag {
            let strokes: Vec<String> =
                inner.iter().filter(|i| matches!(i, Item::Path { .. })).map(|i| format!("{i:?}")).collect();
            found.insert(id.clone(), strokes.join("\n"));
        }
        work.extend(inner);
    }
    found
}

/// How often each role and each tag occurs.
fn roles(svg: &str) -> BTreeMap<String, usize> {
    let mut found = BTreeMap::new();
    for attribute in ["data-role", "data-element", "data-relation"] {
        for rest in svg.split(&format!("{attribute}=\"")).skip(1) {
            let value = rest.split('"').next().unwrap_or_default();
            *found.entry(format!("{attribute} {value}")).or_default() += 1;
        }
    }
    found
}

#[test]
fn every_theme_shows_the_same_things_in_a_picture_of_the_same_size() {
    let usual = Studio::new();
    for reading in demo() {
        for picture in reading.pictures() {
            let view = picture.view();
            let plain = draw(&usual, &reading, &view);
            for name in built_in() {
                let svg = draw(&studio(name), &reading, &view);
                let of = |svg: &str| svg.split('\n').next().map(str::to_owned);
                // Other letters take other room.
                if Studio::new().themes.main.letters == studio(name).themes.main.letters {
                    assert_eq!(of(&svg), of(&plain), "{} in {name}", picture.name);
                }
                assert_eq!(roles(&svg), roles(&plain), "{} in {name}", picture.name);
                roxmltree::Document::parse(&svg).expect("an SVG");
            }
        }
    }
}

#[test]
fn an_edit_elsewhere_changes_nothing_that_a_hand_has_drawn() {
    let pencil = studio("pencil");
    let drawn = |text: &str| {
        let reading = good(text);
        let view = reading.pictures().next().expect("a picture").view();
        drawing(&pencil, &reading, &view)
    };
    let text = "architecture a\n  system gauge \"Gauge\"\n  system desk \"Desk\"\n  gauge sends desk \"level\"\n  pin gauge 0 0\n  pin desk 240 0\n";
    let before = parts(&drawn(text));
    let after = parts(&drawn(
        &text.replace("  pin gauge", "  system log \"A log\"\n  desk writes log\n  pin log 240 160\n  pin gauge"),
    ));
    let by_hand = parts(&drawn(text));
    assert_eq!(before, by_hand, "the same text is drawn the same way");
    for key in ["gauge", "desk"] {
        assert_eq!(before[key], after[key], "{key}");
    }
    assert!(after.len() > before.len());
}

#[test]
fn hatches_keep_clear_of_texts_and_stay_in_their_shape_when_it_moves() {
    let ink = studio("ink");
    let lines = |text: &str| {
        let reading = good(text);
        let view = reading.pictures().next().expect("a picture").view();
        let drawing = drawing(&ink, &reading, &view);
        let place = drawing.places.clone();
        (parts(&drawing)["x"].matches("Move(").count(), place)
    };
    let (here, _) = lines("architecture a\n  system x \"Hatched\" (fill coral)\n");
    assert!(here > 12, "{here} lines");
    let (there, _) = lines(
        "architecture a\n  system x \"Hatched\" (fill coral)\n  system y \"Far\"\n  pin x 400 300\n  pin y 0 0\n",
    );
    assert_eq!(here, there);
    let (long, _) = lines("architecture a\n  system x \"Hatched with many more words than that\" (fill coral)\n");
    let (none, _) = lines("architecture a\n  system x \"Hatched\"\n");
    assert!(none < here && long > here, "{none} {here} {long}");
}

#[test]
fn no_line_of_a_tab_runs_through_its_text() {
    let ink = studio("ink");
    let reading =
        good("architecture a\n  system x\n    built \"Rust\"\n  system y\n  x calls y \"levels\" over \"HTTPS\"\n");
    let view = reading.pictures().next().expect("a picture").view();
    let svg = draw(&ink, &reading, &view);
    for text in ["Rust", "HTTPS"] {
        let before = svg.split(&format!(">{text}</text>")).next().expect("the text");
        // Pictograms and heads have other strokes, or a role.
        let is_tab = |line: &&str| line.starts_with("<path d=") && line.contains("stroke-width=\"0.8\"");
        let tab = before.lines().rev().find(is_tab).expect("its tab");
        assert_eq!(tab.matches('M').count(), 1, "one outline: {tab}");
    }
}

#[test]
fn what_a_label_hides_is_no_end_of_its_line() {
    let svg = support::svg("architecture a\n  system x\n  system y\n  x calls y \"levels\"\n", "a");
    let at = |role: &str| svg.find(&format!("data-role=\"{role}\"")).expect("it is there");
    assert!(at("line") < at("label") && at("label") < at("head"));
}

#[test]
fn a_pause_breaks_the_bars_on_its_lifelines_too() {
    let text = "sequence s\n  a calls b \"work\"\n    pause\n    does \"more\"\n  b sends a \"done\"\n";
    let svg = support::svg(text, "s");
    let bar = svg.find("data-kind=\"activation\"").expect("a bar");
    let pause = svg.find("data-element=\"pause 1\"").expect("a pause");
    let marks = svg[pause..].split("</g>").next().unwrap_or_default();
    // Two strokes for each lifeline, and a gap over the bar, all of it over the bar.
    assert!(bar < pause, "marks are drawn over bars");
    assert_eq!(marks.matches("stroke-width=\"1.2\"").count(), 4, "{marks}");
    assert_eq!(
        marks.lines().filter(|line| line.starts_with("<path d=") && !line.contains("stroke=")).count(),
        1,
        "{marks}"
    );
}
