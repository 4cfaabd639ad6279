//! Replays what fuzzing kept and found: every text is read, formatted and drawn.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::format::format;
use bathygram_core::pipeline::Studio;
use bathygram_core::source::Source;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};

#[test]
fn what_fuzzing_kept_is_survived() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz");
    let texts: Vec<PathBuf> = ["corpus", "finds"]
        .iter()
        .flat_map(|folder| std::fs::read_dir(root.join(folder)).expect("a folder").flatten().map(|e| e.path()))
        .collect();
    // One after the other they take minutes; whoever is free takes the next.
    let (next, survived) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let studio = Studio::new();
    let hands = std::thread::available_parallelism().map_or(1, usize::from);
    std::thread::scope(|scope| {
        for _ in 0..hands {
            scope.spawn(|| {
                while let Some(path) = texts.get(next.fetch_add(1, Ordering::Relaxed)) {
                    survived.fetch_add(usize::from(survives(&studio, path)), Ordering::Relaxed);
                }
            });
        }
    });
    assert!(survived.load(Ordering::Relaxed) >= 100, "{survived:?} texts");
}

/// Whether a file is a text; as one it is formatted and drawn.
fn survives(studio: &Studio, path: &Path) -> bool {
    let Ok(text) = String::from_utf8(std::fs::read(path).expect("a file")) else { return false };
    let once = format(&Source::new("t.bathy", text.as_str()));
    assert_eq!(format(&Source::new("t.bathy", once.as_str())), once, "{path:?}");
    let reading = support::read(&text);
    for picture in support::views(&reading) {
        let svg = support::draw(studio, &reading, &picture);
        roxmltree::Document::parse(&svg).unwrap_or_else(|e| panic!("{e} in {path:?}"));
    }
    // A text has no change to itself, whatever is wrong in it.
    let changed = bathygram_core::review::changes(studio, &[&reading], &[&reading]);
    assert!(changed.is_empty(), "{path:?}");
    true
}
