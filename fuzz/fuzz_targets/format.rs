//! Any text is formatted, and formatting twice changes nothing more.
#![no_main]

use bathygram_core::format::format;
use bathygram_core::source::Source;

libfuzzer_sys::fuzz_target!(|text: &str| {
    let once = format(&Source::new("t.bathy", text));
    assert_eq!(format(&Source::new("t.bathy", once.as_str())), once);
    let words = |text: &str| text.split_whitespace().map(str::len).sum::<usize>();
    assert!(text.contains('\u{feff}') || words(text) == words(&once), "something is lost");
});
