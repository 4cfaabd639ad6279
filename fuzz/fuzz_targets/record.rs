//! Any build record is a record or none.
#![no_main]

use bathygram_host::{Record, UnmetCache};

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    if let Ok(record) = serde_json::from_slice::<Record>(bytes) {
        let written = serde_json::to_vec(&record).expect("written");
        assert!(serde_json::from_slice::<Record>(&written).is_ok());
    }
    if let Ok(cache) = serde_json::from_slice::<UnmetCache>(bytes) {
        let _ = cache.get("sha256:0");
    }
});
