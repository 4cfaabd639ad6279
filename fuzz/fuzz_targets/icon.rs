//! Any file is a pictogram or is refused, and what is drawn of it holds nothing that runs.
#![no_main]

use bathygram_core::pipeline::{DrawOptions, Setting, Studio, draw, read};
use bathygram_core::source::Source;
use bathygram_core::source::world::{Unopened, World};
use std::sync::OnceLock;

static STUDIO: OnceLock<Studio> = OnceLock::new();

struct Icon<'a>(&'a [u8]);

impl World for Icon<'_> {
    fn text(&self, _: &str) -> Result<String, Unopened> {
        Err(Unopened::Missing)
    }

    fn bytes(&self, _: &str) -> Result<Vec<u8>, Unopened> {
        Ok(self.0.to_vec())
    }
}

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    for text in ["architecture a\n  system s (icon \"i.svg\")\n", "architecture a\n  system s (icon \"i.png\")\n"] {
        let setting = Setting { world: &Icon(bytes), ..Setting::default() };
        let reading = read(Source::new("t.bathy", text), "t", &setting);
        for picture in reading.pictures().filter(|_| !reading.has_errors()) {
            let studio = STUDIO.get_or_init(Studio::new);
            let view = picture.view();
            let drawing = draw(studio, &reading, &view, &DrawOptions::default());
            let svg = studio.svg(&drawing, &reading.provenance(view.name()));
            assert!(!svg.contains("<script") && !svg.contains("NaN"));
        }
    }
});
