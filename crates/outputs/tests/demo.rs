//! The demo as pixels: text is really drawn, with the fonts that ship with the program.

use bathygram_core::pipeline::{self, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_outputs::Png;
use std::path::Path;

/// Width, height and pixels (RGBA) of a picture.
fn pixels(bytes: &[u8]) -> (usize, usize, Vec<u8>) {
    let mut reader = png::Decoder::new(std::io::Cursor::new(bytes)).read_info().expect("a PNG");
    let mut out = vec![0; reader.output_buffer_size().expect("a size")];
    let info = reader.next_frame(&mut out).expect("pixels");
    (info.width as usize, info.height as usize, out)
}

fn draw(text: &str, scale: f32) -> Vec<u8> {
    let reading = pipeline::read(Source::new("t.bathy", text), "t", &Setting::default());
    assert!(!reading.has_mistakes());
    let svg = pipeline::draw(&Studio::new(), &reading, &reading.pictures()[0]);
    Png::new().draw(&svg, scale, &[]).expect("a picture")
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
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/tidewatch/pictures");
    let png = Png::new();
    let mut count = 0;
    for entry in std::fs::read_dir(folder).expect("the demo").flatten() {
        let svg = std::fs::read_to_string(entry.path()).expect("a picture");
        let (w, h, pixels) = pixels(&png.draw(&svg, 0.5, &[]).expect("drawn"));
        assert_eq!(pixels.len(), w * h * 4);
        assert!(pixels.chunks(4).all(|c| c[3] == 255), "the ground is opaque");
        let colours: std::collections::BTreeSet<&[u8]> = pixels.chunks(4).collect();
        assert!(colours.len() > 20, "{}", entry.path().display());
        count += 1;
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
