//! What any text shows is drawn, and the drawing is whole.
#![no_main]

use bathygram_core::pipeline::{DrawOptions, Setting, Studio, draw, read};
use bathygram_core::source::Source;
use std::sync::OnceLock;

static STUDIO: OnceLock<Studio> = OnceLock::new();

libfuzzer_sys::fuzz_target!(|text: &str| {
    let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
    for picture in reading.pictures() {
        let studio = STUDIO.get_or_init(Studio::new);
        let view = picture.view();
        let drawing = draw(studio, &reading, &view, &DrawOptions::default());
        let svg = studio.svg(&drawing, &reading.provenance(view.name()));
        assert!(svg.ends_with("</svg>\n"));
        // Numbers stand in the tags of strokes and texts; letters of fonts and of the source elsewhere.
        let tags = svg.lines().filter(|l| l.starts_with("<path") || l.starts_with("<text") || l.starts_with("<svg"));
        for tag in tags.filter_map(|l| l.split('>').next()) {
            assert!(!tag.contains("NaN") && !tag.contains("inf"), "{tag}");
        }
    }
});
