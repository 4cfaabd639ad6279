//! The formatter: one form, nothing lost, nothing changed in meaning, the same when repeated.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::format::format;
use bathygram_core::source::Source;
use proptest::prelude::*;
use support::{meaning, written};

fn formatted(text: &str) -> String {
    format(&Source::new("t.bathy", text))
}

/// Words and comments in their order, without the spaces between them.
fn substance(text: &str) -> String {
    text.chars().filter(|c| !c.is_whitespace() && *c != '\u{feff}').collect()
}

fn check(text: &str) -> Result<(), TestCaseError> {
    let once = formatted(text);
    prop_assert_eq!(&formatted(&once), &once, "formatting twice changes something:\n{}", text);
    let has_pins = text.contains("pin");
    if !has_pins {
        prop_assert_eq!(substance(text), substance(&once), "something is lost:\n{}", text);
    }
    prop_assert!(meaning(text) == meaning(&once), "the meaning changes:\n{}\n---\n{}", text, once);
    Ok(())
}

#[test]
fn there_is_one_form() {
    let table = [
        ("flow  f   \"x\"\n", "flow f \"x\"\n"),
        ("flow f\n    \"a\"\n\t\"b\"\n", "flow f\n  \"a\"\n  \"b\"\n"),
        ("flow f\n\n\n  \"a\"\n\n\n\n  \"b\"\n\n", "flow f\n  \"a\"\n\n  \"b\"\n"),
        ("\u{feff}flow f\r\n  \"a\"  \r\n", "flow f\n  \"a\"\n"),
        ("flow f\n  \"a\"\nflow g\n  \"b\"", "flow f\n  \"a\"\n\nflow g\n  \"b\"\n"),
        (
            "architecture a\n  x ,y,z uses w( line  dashed ,tag b )\n",
            "architecture a\n  x, y, z uses w (line dashed, tag b)\n",
        ),
        ("architecture a\n  x uses y\"label\"over\"SQL\"\n", "architecture a\n  x uses y \"label\" over \"SQL\"\n"),
        ("network n\n  row a,\n   b,   c\n", "network n\n  row a,\n      b, c\n"),
        ("look\n  actor :fill   sand\n", "look\n  actor: fill sand\n"),
        ("look\n  actor : fill sand\n", "look\n  actor: fill sand\n"),
        (
            "classes c\n  class A\n    +name:Text\n    raise(a:B):  C\n",
            "classes c\n  class A\n    + name: Text\n    raise(a:B): C\n",
        ),
        ("//x\nflow f //y\n  \"a\"//z\n", "// x\nflow f // y\n  \"a\"//z\n"),
        ("", ""),
    ];
    for (text, form) in table {
        assert_eq!(formatted(text), form, "{text:?}");
    }
}

#[test]
fn comments_stay_with_what_they_are_about() {
    let text = "// about the file\n\n// about f\nflow f\n  // about a\n  \"a\"\n    // under a\n  // after a\n\n  // about b\n  \"b\"\n  // last in f\n\nflow g\n  \"c\"\n\n// the end\n";
    assert_eq!(formatted(text), text);
}

#[test]
fn comments_between_the_rows_of_a_set_stay() {
    let text = "network n\n  row a, // one\n      // two\n      b\n";
    assert_eq!(formatted(text), text);
}

#[test]
fn text_blocks_move_with_their_line() {
    let text = "flow f\n      \"\"\"one\n           two\n             three\n      \"\"\"\n";
    assert_eq!(formatted(text), "flow f\n  \"\"\"\n    one\n    two\n      three\n  \"\"\"\n");
}

#[test]
fn pins_come_last_and_sorted() {
    let text = "network n\n  pin b 1 2\n  // about a\n  pin a 3 4\n  a joins b\n";
    assert_eq!(formatted(text), "network n\n  a joins b\n  // about a\n  pin a 3 4\n  pin b 1 2\n");
}

#[test]
fn nothing_becomes_a_comment_or_another_text() {
    // What fuzzing found: a space may begin a comment, a quote that moves may close another.
    for text in [
        "classes c\n  class A\n    +//x\n",
        "classes c\n  class A\n    x://y\n",
        "architecture a\n  row a,//b\n",
        "architecture a\n  x(//y\n",
        "network n\n  \"\"\" open\n  pin a 1 2\n  b\n",
        "network n\n  pin b 1 \"2\n  pin a 3 4\n",
        "network n\n  pin b 1 2 // \"\"\"\n  \"\"\" open\n  a joins b\n",
        "classes c\n  class A\n    x: T,\u{b}\n    y: T\n",
        "flow f\n  \"a\\\\\"\"b\"\n",
        "architecture a\n  row x,\n  s. ,y b\n",
    ] {
        let once = formatted(text);
        assert_eq!(formatted(&once), once, "{text:?}");
        assert_eq!(meaning(&once), meaning(text), "{text:?}");
        let comments = |text: &str| text.matches(" //").count() + text.matches("\n//").count();
        assert_eq!(comments(&once), comments(text), "{once:?}");
    }
}

#[test]
fn names_and_figures_called_pin_do_not_move() {
    let text = "architecture a\n  system pin\n  pin uses b1\n  system x\n    pin y 1 2\n  system c\n";
    assert_eq!(formatted(text), text);
    let text = "sheet s of a\n  pin b 2 1\n  depth 1\n  pin a 1 2\n";
    assert_eq!(formatted(text), "sheet s of a\n  depth 1\n  pin a 1 2\n  pin b 2 1\n");
}

#[test]
fn what_follows_a_bare_in_is_indented_under_it() {
    let bare = "flow f\n  lane a\n  lane b\n  in a\n  begin \"x\"\n  decide \"y?\"\n    when \"no\"\n      in b\n      \"z\"\n    or \"yes\"\n      \"v\"\n\n  // to the other one\n  in b\n  finish \"end\"\n  legend\n";
    let good = "flow f\n  lane a\n  lane b\n  in a\n    begin \"x\"\n    decide \"y?\"\n      when \"no\"\n        in b\n          \"z\"\n      or \"yes\"\n        \"v\"\n\n  // to the other one\n  in b\n    finish \"end\"\n  legend\n";
    assert_eq!(formatted(bare), good);
    assert_eq!(formatted(good), good);
    // What has a body keeps it, and what comes after it is in no lane.
    let mixed = "flow f\n  lane a\n  in a\n    \"x\"\n  \"y\"\n";
    assert_eq!(formatted(mixed), mixed);
    // In other blocks `in` is a word like any other.
    let order = "sequence s\n  in order\n    a sends b\n";
    assert_eq!(formatted(order), order);
}

#[test]
fn the_demo_is_in_its_form() {
    for (path, text) in support::files("../../demo/tidewatch", "bathy") {
        assert_eq!(formatted(&text), text, "{path}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn good_texts_keep_their_meaning(text in written()) {
        check(&text)?;
    }

    #[test]
    fn mutated_texts_keep_their_meaning(text in written(), cuts in prop::collection::vec((any::<prop::sample::Index>(), 0..12_usize, "[ \n\t\"`(),:/a.*-]{0,4}"), 1..6)) {
        let mut text = text;
        for (at, length, put) in cuts {
            let mut from = at.index(text.len() + 1);
            while !text.is_char_boundary(from) { from -= 1; }
            let mut to = (from + length).min(text.len());
            while !text.is_char_boundary(to) { to -= 1; }
            text.replace_range(from..to.max(from), &put);
        }
        check(&text)?;
    }

    #[test]
    fn anything_keeps_its_substance(text in "[ a-c\"`\\\\(),:/.\n\t*#+-]{0,80}") {
        check(&text)?;
    }
}
