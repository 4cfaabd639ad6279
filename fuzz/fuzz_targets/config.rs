//! Any config and any theme is read or refused with a sentence.
#![no_main]

use bathygram_host::{Config, looks_in};

libfuzzer_sys::fuzz_target!(|text: &str| {
    let _ = toml::from_str::<Config>(text).map_err(|why| why.to_string());
    let _ = looks_in(text);
    let _ = bathygram_core::theme::read("t.toml", text, None, &mut |_| None).map_err(|why| why.message);
    let _ = bathygram_core::language::Language::read("nl", text);
});
