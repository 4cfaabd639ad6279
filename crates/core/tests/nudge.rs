//! What is dragged in a picture becomes a line of text: the line is kept, the element stands where it was dropped, and nothing
//! else moves.

use bathygram_core::geom::{distance, pt};
use bathygram_core::nudge::{Desk, Drag, Nudge, Refused, STEP, nudge};
use bathygram_core::pipeline::{self, DrawOptions, Reading, Setting, Studio};
use bathygram_core::scene::Drawing;
use bathygram_core::source::{Source, apply};
use bathygram_corpus::{Dice, Sample, samples};

fn read(text: impl Into<String>) -> Reading {
    pipeline::read(Source::new("a.bathy", text), "a", &Setting::default())
}

fn draw(studio: &Studio, reading: &Reading, name: &str) -> Drawing {
    let picture = reading.pictures().find(|picture| picture.name == name).expect("the picture");
    pipeline::draw(studio, reading, &picture.view(), &DrawOptions::default())
}

/// What a drag writes in the first picture of a text, and the text with it.
fn dragged(text: &str, key: &str, by: (f64, f64)) -> Result<(Nudge, String), Refused> {
    let studio = Studio::new();
    let reading = read(text);
    let name = reading.pictures().next().expect("a picture").name.to_owned();
    let desk = Desk { studio: &studio, reading: &reading, read: &read, earlier: None };
    let nudge = nudge(&desk, &Drag { picture: &name, key, by: pt(by.0, by.1) })?;
    let text = apply(&reading.source, &nudge.edits).expect("edits that can be made");
    Ok((nudge, text))
}

const FLAT: &str = "architecture a \"A\"\n  device buoy \"Tide buoy\"\n  service gateway \"Gateway\"\n  store readings \"Readings\"\n  \
                    service desk \"Desk\"\n  buoy sends gateway\n  gateway writes readings\n  gateway calls desk\n\nlook\n  desk: fill kelp\n";

#[test]
fn a_pin_is_the_last_line_of_its_block() {
    let (nudge, text) = dragged(FLAT, "desk", (230.0, 61.0)).expect("room there");
    assert!(nudge.written.starts_with("pin desk "), "{nudge:?}");
    assert!(text.contains(&format!("gateway calls desk\n  {}\n\nlook\n", nudge.written)), "{text}");
    // Dragged once more, it is the same line that changes.
    let (again, text) = dragged(&text, "desk", (0.0, 40.0)).expect("room there");
    assert_eq!(text.matches("pin desk").count(), 1, "{text}");
    assert_ne!(again.written, nudge.written);
}

#[test]
fn a_party_changes_the_order() {
    let text = "sequence s\n  a sends b \"one\"\n  b sends c \"two\"\n";
    let (nudge, _) = dragged(text, "a", (1000.0, 0.0)).expect("the last place");
    assert_eq!(nudge.written, "place a right of c");
    let (nudge, text) = dragged(text, "c", (-1000.0, 0.0)).expect("the first place");
    assert_eq!(nudge.written, "place c left of a");
    let (nudge, text) = dragged(&text, "c", (1000.0, 3.0)).expect("the last place again");
    assert_eq!((nudge.written.as_str(), text.matches("place").count()), ("place c right of b", 1), "{text}");
    assert_eq!(dragged(&text, "a", (3.0, 90.0)), Err(Refused::Still));
}

#[test]
fn a_step_goes_into_another_lane_and_back() {
    let text = "flow f\n  lane keeper \"Keeper\"\n  lane office \"Office\"\n  in keeper\n    begin \"Begin\"\n    step read \"Read the gauge\"\n    \
                finish \"End\"\n";
    let studio = Studio::new();
    let reading = read(text);
    let boxes = draw(&studio, &reading, "f").places;
    let (read_at, office) = (boxes.boxes()["read"], boxes.boxes()["office"]);
    let over = office.middle().x - read_at.middle().x;
    let (nudge, moved) = dragged(text, "read", (over, 0.0)).expect("another lane");
    assert_eq!(nudge.written, "read in office");
    assert!(moved.contains("    step read \"Read the gauge\" in office\n"), "{moved}");
    let (_, back) = dragged(&moved, "read", (-over, 0.0)).expect("the lane that it came from");
    assert!(back.contains("step read \"Read the gauge\" in keeper\n"), "{back}");
}

#[test]
fn an_element_goes_into_a_group_with_all_that_is_indented_under_it() {
    let text = "architecture a\n  system core \"Core\"\n    service gateway \"Gateway\"\n  service desk \"Desk\" // who watches\n    about \"Nobody sleeps\"\n    calls gateway\n";
    let studio = Studio::new();
    let boxes = draw(&studio, &read(text), "a").places;
    let (desk, core) = (boxes.boxes()["desk"], boxes.boxes()["core"]);
    let by = (core.middle().x - desk.middle().x, core.middle().y - desk.middle().y);
    let (_, moved) = dragged(text, "desk", by).expect("a group");
    assert_eq!(
        moved,
        "architecture a\n  system core \"Core\"\n    service gateway \"Gateway\"\n    service desk \"Desk\" // who watches\n      about \"Nobody sleeps\"\n      calls gateway\n"
    );
}

/// The shape of a diagram's text, whatever it is about.
fn diagrams() -> Vec<Sample> {
    samples().into_iter().filter(|sample| sample.text.lines().count() < 60).collect()
}

#[test]
fn whatever_is_dragged_stays_where_it_was_dropped() {
    let studio = Studio::new();
    let all = diagrams();
    let (mut written, mut refused) = (0, 0);
    for seed in 0..200 {
        let mut dice = Dice::new(seed);
        let sample = &all[(seed as usize * 7) % all.len()];
        let reading = read(sample.text.as_str());
        let Some(name) = reading.pictures().next().map(|picture| picture.name.to_owned()) else { continue };
        let before = draw(&studio, &reading, &name);
        let Some((key, _)) = before.places.nodes.get(dice.roll(before.places.nodes.len().max(1))) else { continue };
        let by = pt(dice.roll(400) as f64 - 200.0, dice.roll(300) as f64 - 150.0);
        let desk = Desk { studio: &studio, reading: &reading, read: &read, earlier: None };
        let nudge = match nudge(&desk, &Drag { picture: &name, key, by }) {
            Ok(nudge) => nudge,
            Err(_) => {
                refused += 1;
                continue;
            }
        };
        written += 1;
        let after = read(apply(&reading.source, &nudge.edits).expect("edits"));
        assert!(!after.has_errors(), "{}: {nudge:?}", sample.name);
        let drawn = draw(&studio, &after, &name);
        if !nudge.written.contains(" in ") {
            let unmet: Vec<&str> = drawn.unmet.iter().map(|unmet| after.source.slice(unmet.span)).collect();
            assert!(!unmet.contains(&nudge.written.as_str()), "{}: {nudge:?}", sample.name);
            let (then, now) = (before.places.boxes(), drawn.places.boxes());
            let mut moved: Vec<(f64, f64)> = before
                .places
                .nodes
                .iter()
                .filter(|(own, _)| own != key)
                .map(|(own, rect)| {
                    let (a, b) = (rect.middle(), now[own.as_str()].middle());
                    (b.x - a.x, b.y - a.y)
                })
                .collect();
            moved.sort_by(|a, b| a.0.total_cmp(&b.0));
            let x = moved.get(moved.len() / 2).map_or(0.0, |m| m.0);
            moved.sort_by(|a, b| a.1.total_cmp(&b.1));
            let y = moved.get(moved.len() / 2).map_or(0.0, |m| m.1);
            for m in &moved {
                assert!(distance(pt(m.0, m.1), pt(x, y)) <= STEP, "{}: {nudge:?} moves others by {m:?}", sample.name);
            }
            let (a, b) = (then[key.as_str()].middle(), now[key.as_str()].middle());
            let off = distance(pt(b.x - x, b.y - y), pt(a.x + by.x, a.y + by.y));
            assert!(off <= STEP || !nudge.notes.is_empty(), "{}: {nudge:?} stands {off} px off", sample.name);
        }
    }
    assert!(written > 5 * refused, "{written} written, {refused} refused");
}
