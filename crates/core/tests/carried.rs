//! Laws of what a drawing carries: its source comes back letter for letter, its seal breaks with any change, and nothing that
//! somebody else wrote is taken for a drawing or brings the reader down.

mod support;

use bathygram_core::container;
use bathygram_core::pipeline::Studio;
use proptest::prelude::*;
use support::{draw, good, views};

/// The SVG of a flow with one step.
fn drawn(label: &str) -> (String, String) {
    let text = format!("flow watch\n  begin \"Begin\"\n  step look \"{label}\"\n");
    let reading = good(&text);
    (draw(&Studio::new(), &reading, &views(&reading)[0]), text)
}

/// Letters that mean something in SVG, in texts of ours, or in neither.
fn letters() -> impl Strategy<Value = String> {
    const ALL: &[&str] = &[
        "<",
        ">",
        "&",
        "'",
        "]]>",
        "<!--",
        "</metadata>",
        "<script>",
        "ä",
        "水",
        "🌊",
        "\u{301}",
        "a",
        "b",
        " ",
        "#",
        "%41",
        "&amp;",
    ];
    proptest::collection::vec(proptest::sample::select(ALL), 1..12).prop_map(|parts| parts.concat())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn the_source_comes_back_letter_for_letter(label in letters()) {
        let (svg, text) = drawn(&label);
        prop_assert_eq!(container::source(svg.as_bytes()), Some(text));
        prop_assert_eq!(container::name(svg.as_bytes()), Some("watch".to_owned()));
        let carried = container::read(svg.as_bytes()).expect("a drawing of ours");
        prop_assert!(carried.is_intact && carried.digest.starts_with("sha256:"), "{:?}", carried);
        // Whatever the label says, it is a text of the drawing and nothing else.
        let parsed = roxmltree::Document::parse(&svg).expect("it is well-formed");
        prop_assert!(!parsed.descendants().any(|node| node.has_tag_name("script")));
    }

    #[test]
    fn any_change_of_a_letter_breaks_the_seal(at in any::<prop::sample::Index>(), letter in b'0'..=b'z') {
        let (svg, _) = drawn("Look out");
        let mut bytes = svg.clone().into_bytes();
        let at = at.index(bytes.len());
        prop_assume!(bytes[at] != letter);
        bytes[at] = letter;
        // It may no longer be known as a drawing at all, but never as one that nobody has touched.
        let carried = container::read(&bytes);
        prop_assert!(!carried.is_some_and(|carried| carried.is_intact), "byte {} of {}", at, svg.len());
    }

    #[test]
    fn what_is_cut_off_or_put_together_is_read_without_harm(
        from in any::<prop::sample::Index>(), to in any::<prop::sample::Index>(), junk in proptest::collection::vec(any::<u8>(), 0..60),
    ) {
        let (svg, _) = drawn("Look out");
        let bytes = svg.as_bytes();
        let (from, to) = (from.index(bytes.len()), to.index(bytes.len()));
        let pieces = [&bytes[from.min(to)..], &junk[..], &bytes[..from.max(to)]].concat();
        for bytes in [pieces, [b"%PDF-1.7\n", &junk[..]].concat(), [b"\x89PNG\r\n\x1a\n", &junk[..]].concat(), junk] {
            prop_assert!(!container::read(&bytes).is_some_and(|carried| carried.is_intact));
            let _ = (container::source(&bytes), container::name(&bytes), container::file(&bytes), container::text_in(&bytes));
        }
    }
}

#[test]
fn a_drawing_of_somebody_else_is_none_of_ours() {
    for svg in [
        "",
        "<svg xmlns=\"http://www.w3.org/2000/svg\"/>",
        "<svg xmlns=\"http://www.w3.org/2000/svg\"><metadata><source xmlns=\"urn:bathygram:source:1\"/></metadata></svg>",
        "<svg><metadata><source xmlns=\"urn:bathygram:source:1\" digest=\"sha256:00\" seal=\"00\" encoding=\"zlib+base64\">eJw=</source></metadata></svg>",
    ] {
        assert!(!container::read(svg.as_bytes()).is_some_and(|carried| carried.is_intact), "{svg}");
        assert_eq!(container::source(svg.as_bytes()).filter(|text| !text.is_empty()), None, "{svg}");
    }
}

#[test]
fn the_digest_follows_the_text_and_nothing_else() {
    let digest = |label: &str| container::read(drawn(label).0.as_bytes()).expect("a drawing").digest;
    assert_eq!(digest("Look out"), digest("Look out"));
    assert_ne!(digest("Look out"), digest("Look in"));
}
