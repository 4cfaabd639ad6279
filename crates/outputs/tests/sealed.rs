//! PNG and PDF carry what the SVG carries: the source, and a seal that breaks with any change.

use bathygram_core::container;
use bathygram_core::measure::SpareFonts;
use bathygram_core::pipeline::{self, DrawOptions, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_outputs::{Sheet, Tools, pdf, png};
use proptest::prelude::*;
use std::sync::OnceLock;

const TEXT: &str = "architecture bay \"The bay\"\n  device buoy \"Tide buoy\"\n  service gate \"Gate\"\n  buoy sends gate \"levels\"\n";

/// The picture as PNG, and as PDF.
fn written() -> &'static [Vec<u8>; 2] {
    static WRITTEN: OnceLock<[Vec<u8>; 2]> = OnceLock::new();
    WRITTEN.get_or_init(|| {
        let reading = pipeline::read(Source::new("bay.bathy", TEXT), "bay", &Setting::default());
        assert!(!reading.has_errors());
        let studio = Studio::new();
        let picture = reading.pictures().next().expect("a picture");
        let drawing = pipeline::draw(&studio, &reading, &picture.view(), &DrawOptions::default());
        let digest = container::digest(&reading.provenance("bay"));
        let seal = container::open_seal();
        let texts = container::png_texts(&digest, TEXT, &seal);
        let about = pdf::About { sources: &[("bay.bathy", TEXT)], digest: &digest, language: "en" };
        let tools = Tools { theme: &studio.themes.main, fonts: &studio.fonts, spare: &SpareFonts::default() };
        let sheet = Sheet { name: "bay", drawing: &drawing };
        [
            png::write(&drawing, tools, (png::Scale::Factor(1.0), png::Below::Paper), &texts).expect("a PNG"),
            pdf::write(&[sheet], tools, &about, pdf::PageSize::Fitted).expect("a PDF"),
        ]
    })
}

#[test]
fn the_source_comes_back_of_every_form() {
    for bytes in written() {
        let carried = container::read(bytes).expect("a picture of ours");
        assert!(carried.is_intact && carried.digest.starts_with("sha256:"), "{carried:?}");
        assert_eq!(container::source(bytes).as_deref(), Some(TEXT));
    }
    let [a, b] = written().each_ref().map(|bytes| container::read(bytes).expect("a picture of ours").digest);
    assert_eq!(a, b, "both were drawn from the same text");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn any_change_breaks_the_seal(form in 0..2_usize, at in any::<prop::sample::Index>(), by in 1..=255_u8) {
        let mut bytes = written()[form].clone();
        let at = at.index(bytes.len());
        bytes[at] ^= by;
        let carried = container::read(&bytes);
        prop_assert!(!carried.is_some_and(|carried| carried.is_intact), "byte {} of form {}", at, form);
    }

    #[test]
    fn what_is_cut_off_is_read_without_harm(form in 0..2_usize, at in any::<prop::sample::Index>()) {
        let whole = &written()[form];
        let at = at.index(whole.len());
        for part in [&whole[..at], &whole[at..]] {
            prop_assert!(at == 0 || !container::read(part).is_some_and(|carried| carried.is_intact));
            let _ = (container::source(part), container::name(part), container::file(part));
        }
    }
}
