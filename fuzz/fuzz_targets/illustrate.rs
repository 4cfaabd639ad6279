//! Any document keeps all that is not between marks, and is illustrated once.
#![no_main]

use bathygram_outputs::markdown::{Image, Sources, blocks, illustrated, rewritten};

libfuzzer_sys::fuzz_target!(|text: &str| {
    let image = || Image { path: "pictures/a.svg".to_owned(), alternative: "a `b` ](c".to_owned() };
    for sources in [Sources::AsTheyAre, Sources::Folded, Sources::Shown] {
        let found = blocks(text);
        let images: Vec<_> = found.iter().map(|_| Some(vec![image()])).collect();
        let once = illustrated(text, &found, &images, sources);
        let again = blocks(&once);
        assert!(again.len() >= found.len().min(1));
        let texts: Vec<_> = again.iter().map(|block| Some(block.text.clone())).collect();
        let _ = rewritten(&once, &again, &texts);
    }
});
