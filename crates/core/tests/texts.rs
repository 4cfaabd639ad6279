//! Texts: measured, wrapped, and drawn with the fonts that were measured.

mod support;

use bathygram_core::measure::{FACES, Face, Fonts, wrap};
use bathygram_core::source::Span;
use bathygram_core::syntax::Label;
use proptest::prelude::*;

fn label(text: &str) -> Label {
    Label::plain(text, Span::default())
}

fn written(text: &str) -> Label {
    Label::read(&format!("\"{text}\""), Span::default())
}

/// The letters of a wrapped text, without spaces.
fn letters(block: &bathygram_core::measure::TextBlock) -> String {
    block.lines.iter().flat_map(|l| &l.spans).flat_map(|s| s.text.chars()).filter(|c| !c.is_whitespace()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]

    #[test]
    fn no_letter_is_lost_and_no_line_is_too_long(text in "[a-zäöüß0-9 ./_-]{0,160}", limit in 40.0f64..300.0) {
        let fonts = Fonts::new();
        let block = wrap(&fonts, &label(&text), Face::Regular, 13.0, limit);
        prop_assert_eq!(letters(&block), text.chars().filter(|c| !c.is_whitespace()).collect::<String>());
        for line in &block.lines {
            // Kerning around spaces may add a little to the sum of the words.
            prop_assert!(line.width <= limit + 2.0, "{} > {}", line.width, limit);
            let sum: f64 = line.spans.iter().map(|s| fonts.width(&s.text, s.face, 13.0)).sum();
            prop_assert!((sum - line.width).abs() < 0.01);
        }
    }

    #[test]
    fn widths_grow_with_their_texts(text in "[A-Za-z ]{1,30}", more in "[A-Za-z]{1,5}") {
        let fonts = Fonts::new();
        // Kerning may take back a little of what one more letter adds.
        let (short, long) = (fonts.width(&text, Face::Bold, 20.0), fonts.width(&format!("{text}{more}"), Face::Bold, 20.0));
        prop_assert!(long > short - 2.0);
        prop_assert!((fonts.width(&text, Face::Bold, 40.0) - 2.0 * short).abs() < 1e-9);
    }
}

#[test]
fn every_face_is_there_and_has_what_people_write() {
    let fonts = Fonts::new();
    for face in FACES {
        // What the hand-like faces lack is written in the sans.
        let is_hand = matches!(face, Face::Hand | Face::HandBold);
        for c in "azAZ09 äéñøßžĞ ΑΩαω АЯая «»„“–—…€±×÷≤≥→←".chars() {
            let has = fonts.has(c, face) || is_hand && fonts.has(c, Face::Regular);
            assert!(has || c.is_whitespace(), "{face:?} lacks {c}");
        }
        assert!(fonts.width("Tide", face, 10.0) > 10.0);
    }
}

#[test]
fn mono_letters_are_equally_wide() {
    let fonts = Fonts::new();
    assert_eq!(fonts.width("iiii", Face::Mono, 12.0), fonts.width("WWWW", Face::Mono, 12.0));
    assert!(fonts.width("iiii", Face::Regular, 12.0) < fonts.width("WWWW", Face::Regular, 12.0));
}

#[test]
fn marks_that_combine_take_no_room() {
    let fonts = Fonts::new();
    let (plain, marked) = (fonts.width("e", Face::Regular, 100.0), fonts.width("e\u{301}", Face::Regular, 100.0));
    assert!((plain - marked).abs() < 5.0, "{plain} {marked}");
}

#[test]
fn marks_of_style_need_a_partner() {
    let plain = |text: &str| written(text).runs.len();
    assert_eq!(plain("2 * 3 * 4"), 1, "stars between spaces are stars");
    assert_eq!(plain("a * b"), 1);
    assert_eq!(plain("*a*"), 1);
    assert_eq!(written("*a*").text(), "a");
    assert_eq!(written("*open").text(), "*open");
    assert_eq!(written("**strong *and* plain**").text(), "strong *and* plain");
    assert_eq!(written("`a*b*c`").text(), "a*b*c", "code is kept as it is");
}

#[test]
fn lines_break_where_they_are_asked_to() {
    let fonts = Fonts::new();
    let block = wrap(&fonts, &written("one\\n\\ntwo three"), Face::Regular, 12.0, 500.0);
    assert_eq!(block.lines.len(), 3);
    assert!(block.lines[1].spans.is_empty());
    assert_eq!(block.height(), 3.0 * block.leading());
}

#[test]
fn only_the_faces_in_use_are_embedded_and_small_edits_keep_them() {
    let faces = |text: &str| -> Vec<String> {
        let svg = support::svg(text, "f");
        svg.split("@font-face").skip(1).map(|f| f.split("src:").next().unwrap_or_default().to_owned()).collect()
    };
    assert_eq!(faces("flow f\n  \"plain\"\n").len(), 1);
    assert_eq!(faces("flow f \"Title\"\n  \"plain and *slanted* and `code`\"\n").len(), 4);
    let font = |text: &str| support::svg(text, "f").lines().find(|l| l.starts_with("<style>")).map(str::to_owned);
    assert_eq!(font("flow f\n  \"level\"\n"), font("flow f\n  \"other words\"\n"), "ASCII is always there");
    assert_ne!(font("flow f\n  \"level\"\n"), font("flow f\n  \"Größe\"\n"));
}
