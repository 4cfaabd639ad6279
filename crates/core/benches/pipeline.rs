//! What comes before and after the layout, on generated texts; `cost` in the quality report measures whole pictures.
//! Run with `cargo bench`. Figures are kept in `docs/performance.md`.

use bathygram_core::diag::Diagnostics;
use bathygram_core::format::format;
use bathygram_core::layout::Share;
use bathygram_core::model::Document;
use bathygram_core::pipeline::{self, DrawOptions, Setting, Studio};
use bathygram_core::source::Source;
use bathygram_core::source::world::Alone;
use bathygram_core::views::View;
use bathygram_core::{model, syntax};
use bathygram_corpus::scale::{SIZES, architecture, flow, sequence};
use divan::Bencher;
use std::fmt::Write;

/// The program's own.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() {
    divan::main();
}

fn read(text: &str) -> pipeline::Reading {
    let reading = pipeline::read(Source::new("bench.bathy", text), "bench", &Setting::default());
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics.first());
    reading
}

#[divan::bench(args = SIZES)]
fn parse(bencher: Bencher, n: usize) {
    let source = Source::new("bench.bathy", architecture(n));
    bencher.bench(|| -> Document {
        let mut diags = Diagnostics::default();
        let tree = syntax::parse(&source, &mut diags);
        model::read(&source, &tree, "bench", (&Alone, &|| false), &mut diags).0
    });
}

/// A file of one megabyte: 22,000 lines of an architecture.
fn megabyte() -> Source {
    let mut text = architecture(14_000);
    while text.len() < 1 << 20 {
        let _ = writeln!(text, "  // a line that says why the one above it is there, and nothing more");
    }
    text.truncate(text[..1 << 20].rfind('\n').map_or(0, |at| at + 1));
    Source::new("bench.bathy", text)
}

#[divan::bench]
fn megabyte_to_tree(bencher: Bencher) {
    let source = megabyte();
    bencher.bench(|| syntax::parse(&source, &mut Diagnostics::default()).lines.len());
}

#[divan::bench]
fn megabyte_to_meaning(bencher: Bencher) {
    let source = megabyte();
    bencher.bench(|| {
        let mut diags = Diagnostics::default();
        let tree = syntax::parse(&source, &mut diags);
        model::read(&source, &tree, "bench", (&Alone, &|| false), &mut diags).0.diagrams.len()
    });
}

#[divan::bench]
fn format_ten_thousand_lines(bencher: Bencher) {
    let source = Source::new("bench.bathy", sequence(20_000));
    bencher.bench(|| format(&source).len());
}

#[divan::bench(args = SIZES)]
fn read_and_review(bencher: Bencher, n: usize) {
    let source = Source::new("bench.bathy", flow(n));
    bencher.bench(|| pipeline::read(source.clone(), "bench", &Setting::default()).diagnostics.len());
}

#[divan::bench(args = SIZES)]
fn draw_sequence(bencher: Bencher, n: usize) {
    let studio = Studio::new();
    let reading = read(&sequence(n));
    let view = View::of(reading.document.diagrams[0].clone());
    bencher.bench(|| {
        let drawing = pipeline::draw(&studio, &reading, &view, &DrawOptions::default());
        studio.svg(&drawing, &reading.provenance(view.name())).len()
    });
}

/// What one key costs while somebody types: the text read and drawn again, near the picture that is there.
#[divan::bench(args = [30, 100, 300])]
fn draw_a_typed_letter(bencher: Bencher, n: usize) {
    let studio = Studio::new();
    let text = architecture(n);
    let reading = read(&text);
    let view = View::of(reading.document.diagrams[0].clone());
    let places = pipeline::draw(&studio, &reading, &view, &DrawOptions::default()).places;
    let typed = text.replacen("\"Service 20\"", "\"Service 20 x\"", 1);
    bencher.bench(|| {
        let reading = read(&typed);
        let view = View::of(reading.document.diagrams[0].clone());
        let options = DrawOptions { earlier: Some(&places), share: Share::Moment, ..DrawOptions::default() };
        let drawing = pipeline::draw(&studio, &reading, &view, &options);
        studio.svg(&drawing, &reading.provenance(view.name())).len()
    });
}
