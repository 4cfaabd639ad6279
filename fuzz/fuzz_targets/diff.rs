//! Any two texts are compared, and what changed is said.
#![no_main]

use bathygram_core::pipeline::{Reading, Setting, Studio, read};
use bathygram_core::review::changes;
use bathygram_core::source::Source;
use std::sync::OnceLock;

static STUDIO: OnceLock<Studio> = OnceLock::new();

fn reading(text: &str) -> Reading {
    read(Source::new("t.bathy", text), "t", &Setting::default())
}

libfuzzer_sys::fuzz_target!(|text: &str| {
    // Two texts behind each other; without the sign between them, a text with itself.
    let (old, new) = text.split_once('\u{1}').unwrap_or((text, text));
    let (old, new) = (reading(old), reading(new));
    let found = changes(STUDIO.get_or_init(Studio::new), &[&old], &[&new]);
    let said = found.iter().flat_map(|c| &c.changes).flat_map(|c| c.sentences()).count();
    assert!(old.source.text != new.source.text || said == 0, "a text differs from itself");
});
