//! Any bytes are looked at for what a picture carries.
#![no_main]

use bathygram_core::container;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let _ = (container::read(bytes), container::source(bytes), container::file(bytes));
    let _ = (container::name(bytes), container::text_in(bytes));
    if let Ok(svg) = std::str::from_utf8(bytes) {
        let _ = (container::title(svg), container::description(svg), container::read_places(svg));
    }
});
