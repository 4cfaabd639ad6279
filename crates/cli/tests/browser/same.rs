//! A picture looks the same as SVG in a browser, as PNG, and as PDF: what differs is how edges are smoothed.

use crate::driver::Browser;
use crate::files::{Folder, skipped};
use std::path::Path;
use std::process::Command;

/// Grey values, averaged over squares of this side: the smoothing of an edge disappears in them, a line elsewhere does not.
const SIDE: usize = 6;
/// Averages may differ by this much of 255.
// A letter that is drawn a little bolder makes 20 or so; a missing or shifted one more than 60.
const MOST: f64 = 48.0;
/// And by this much in the mean.
const MEAN: f64 = 1.2;

struct Grey {
    width: usize,
    height: usize,
    values: Vec<f64>,
}

/// Of a picture of this many px, drawn this many times as large.
fn grey(bytes: &[u8], (width, height): (usize, usize), times: usize) -> Grey {
    let side = SIDE * times;
    let mut decoder = png::Decoder::new(std::io::Cursor::new(bytes));
    decoder.set_transformations(png::Transformations::normalize_to_color8());
    let mut reader = decoder.read_info().expect("a PNG");
    let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
    let info = reader.next_frame(&mut pixels).expect("pixels");
    let samples = info.color_type.samples();
    let value = |x: usize, y: usize| {
        let (x, y) = (x.min(info.width as usize - 1), y.min(info.height as usize - 1));
        let at = (y * info.width as usize + x) * samples;
        pixels[at..at + samples.min(3)].iter().map(|v| f64::from(*v)).sum::<f64>() / samples.min(3) as f64
    };
    let (w, h) = (width / SIDE, height / SIDE);
    let square = |i: usize| {
        let (left, upper) = ((i % w) * side, (i / w) * side);
        let all = (0..side * side).map(|k| value(left + k % side, upper + k / side));
        all.sum::<f64>() / (side * side) as f64
    };
    Grey { width: w, height: h, values: (0..w * h).map(square).collect() }
}

fn compare(name: &str, a: &Grey, b: &Grey) {
    assert_eq!((a.width, a.height), (b.width, b.height), "{name}");
    let off: Vec<f64> = a.values.iter().zip(&b.values).map(|(a, b)| (a - b).abs()).collect();
    let (at, most) = off.iter().enumerate().fold((0, 0.0), |best, (i, v)| if *v > best.1 { (i, *v) } else { best });
    let place = (at % a.width * SIDE, at / a.width * SIDE);
    assert!(most <= MOST, "{name}: {most:.0} at {place:?}");
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    assert!(mean <= MEAN, "{name}: {mean:.2} in the mean");
}

/// A PDF is looked at this many times as large.
// Its viewer makes lines as wide as whole dots.
const LARGER: usize = 3;

/// The first page of a PDF.
fn rasterised(pdf: &Path) -> Option<Vec<u8>> {
    let drawn = Command::new("pdftoppm").args(["-png", "-r", "288", "-singlefile"]).arg(pdf).output().ok()?;
    drawn.status.success().then_some(drawn.stdout)
}

#[test]
fn the_demo_looks_the_same_in_every_form_in_two_themes() {
    let Some(browser) = Browser::open() else { return };
    let mut has_pdf = true;
    for theme in ["shoal", "abyss"] {
        let folder = Folder::demo();
        folder.run(&["-q", "render", "--theme", theme, "--format", "svg,png,pdf", "--scale", "1", "--out", "out"]);
        let mut names: Vec<String> = std::fs::read_dir(folder.path("out"))
            .expect("pictures")
            .flatten()
            .filter_map(|entry| entry.file_name().to_str()?.strip_suffix(".svg").map(str::to_owned))
            .collect();
        names.sort();
        assert!(names.len() > 15);
        for name in names {
            browser.show(&folder.path(&format!("out/{name}.svg")));
            let size = browser.wait_for(
                "await document.fonts.ready; const box = document.documentElement.viewBox.baseVal; return [box.width, box.height]",
            );
            let [width, height] = [0, 1].map(|i| size[i].as_u64().expect("a size") as usize);
            // A window has an edge of its own.
            browser.resize(width as u32, height as u32 + 200);
            let size = (width, height);
            let shown = grey(&browser.picture(), size, 1);
            let png = std::fs::read(folder.path(&format!("out/{name}.png"))).expect("a PNG");
            compare(&format!("{name}.png in {theme}"), &shown, &grey(&png, size, 1));
            match rasterised(&folder.path(&format!("out/{name}.pdf"))) {
                Some(drawn) => compare(&format!("{name}.pdf in {theme}"), &shown, &grey(&drawn, size, LARGER)),
                None => has_pdf = false,
            }
        }
    }
    if !has_pdf {
        skipped("there is no pdftoppm here");
    }
}
