//! Any text is read, and every place that a finding names is a place in it.
#![no_main]

use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;

libfuzzer_sys::fuzz_target!(|text: &str| {
    let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
    for finding in &reading.diagnostics {
        assert!(text.get(finding.span.range()).is_some());
    }
});
