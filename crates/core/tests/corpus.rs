//! Replays what fuzzing kept and found: every text is read, formatted and drawn.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::format::format;
use bathygram_core::pipeline::Studio;
use bathygram_core::source::Source;
use std::path::Path;

#[test]
fn what_fuzzing_kept_is_survived() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz");
    let studio = Studio::new();
    let mut count = 0;
    for folder in ["corpus", "finds"] {
        for entry in std::fs::read_dir(root.join(folder)).expect(folder).flatten() {
            let bytes = std::fs::read(entry.path()).expect("a text");
            let Ok(text) = String::from_utf8(bytes) else { continue };
            let once = format(&Source::new("t.bathy", text.as_str()));
            assert_eq!(format(&Source::new("t.bathy", once.as_str())), once, "{:?}", entry.path());
            let reading = support::read(&text);
            for picture in support::views(&reading) {
                let svg = support::draw(&studio, &reading, &picture);
                roxmltree::Document::parse(&svg).unwrap_or_else(|e| panic!("{e} in {:?}", entry.path()));
            }
            count += 1;
        }
    }
    assert!(count >= 100, "{count} texts");
}
