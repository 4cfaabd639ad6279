//! The demo as pixels: text is really drawn, with the fonts that ship with the program.

use bathygram_core::measure::SpareFonts;
use bathygram_core::pipeline::{self, DrawOptions, Reading, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_core::source::world::{Unopened, World};
use bathygram_outputs::{Tools, png as outputs_png};
use std::path::{Path, PathBuf};
use std::sync::LazyLock;

/// Width, height and pixels (RGBA) of a picture.
fn pixels(bytes: &[u8]) -> (usize, usize, Vec<u8>) {
    let mut reader = png::Decoder::new(std::io::Cursor::new(bytes)).read_info().expect("a PNG");
    let mut out = vec![0; reader.output_buffer_size().expect("a size")];
    let info = reader.next_frame(&mut out).expect("pixels");
    (info.width as usize, info.height as usize, out)
}

/// The first picture of a text.
fn draw(text: &str, scale: f64) -> Vec<u8> {
    let reading = pipeline::read(Source::new("t.bathy", text), "t", &Setting::default());
    assert!(!reading.has_errors());
    all(&reading, scale).remove(0)
}

fn tools(studio: &Studio) -> Tools<'_> {
    static NO_SPARE: LazyLock<SpareFonts> = LazyLock::new(SpareFonts::default);
    Tools { theme: &studio.themes.main, fonts: &studio.fonts, spare: &NO_SPARE }
}

/// All pictures of a file.
fn all(reading: &Reading, scale: f64) -> Vec<Vec<u8>> {
    let studio = Studio::new();
    let draw = |view| pipeline::draw(&studio, reading, &view, &DrawOptions::default());
    let how = (outputs_png::Scale::Factor(scale), outputs_png::Below::Paper);
    let drawn = reading.pictures().map(|picture| draw(picture.view()));
    drawn.map(|d| outputs_png::write(&d, tools(&studio), how, &[]).expect("a picture")).collect()
}

/// The files of the demo.
struct Demo(PathBuf);

impl World for Demo {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        std::fs::read_to_string(self.0.join(name)).map_err(|_| Unopened::Missing)
    }

    fn bytes(&self, name: &str) -> Result<Vec<u8>, Unopened> {
        std::fs::read(self.0.join(name)).map_err(|_| Unopened::Missing)
    }
}

#[test]
fn text_does_not_vanish() {
    let (w, h, with) = pixels(&draw("flow f\n  \"MMMMMMMM\"\n", 1.0));
    let (_, _, without) = pixels(&draw("flow f\n  \"........\"\n", 1.0));
    let dark = |p: &[u8]| p.chunks(4).filter(|c| c[0] < 110 && c[1] < 110 && c[2] < 140).count();
    assert!(w > 100 && h > 60);
    assert!(dark(&with) > dark(&without) + 100, "{} {}", dark(&with), dark(&without));
}

#[test]
fn every_picture_of_the_demo_is_drawn() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/tidewatch");
    let world = Demo(folder.clone());
    let setting = Setting { world: &world, ..Setting::default() };
    let mut count = 0;
    for entry in std::fs::read_dir(folder).expect("the demo").flatten() {
        let path = entry.path();
        let Some(name) = path.file_name().and_then(|n| n.to_str()).filter(|n| n.ends_with(".bathy")) else { continue };
        let text = std::fs::read_to_string(&path).expect("a text");
        let reading = pipeline::read(Source::new(name, text), name.trim_end_matches(".bathy"), &setting);
        for bytes in all(&reading, 0.5) {
            let (w, h, pixels) = pixels(&bytes);
            assert_eq!(pixels.len(), w * h * 4);
            assert!(pixels.chunks(4).all(|c| c[3] == 255), "the ground is opaque");
            let colours: std::collections::BTreeSet<&[u8]> = pixels.chunks(4).collect();
            assert!(colours.len() > 20, "{name}");
            count += 1;
        }
    }
    assert!(count >= 10);
}

#[test]
fn the_scale_counts_pixels_for_each_px() {
    let (w, h, _) = pixels(&draw("flow f\n  \"x\"\n", 1.0));
    let (w2, h2, _) = pixels(&draw("flow f\n  \"x\"\n", 2.0));
    assert_eq!((w2, h2), (2 * w, 2 * h));
    assert_eq!(draw("flow f\n  \"x\"\n", 1.5), draw("flow f\n  \"x\"\n", 1.5), "the same bytes");
}
