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

/// The dots of a picture, a byte for each colour.
struct Dots {
    width: usize,
    height: usize,
    /// How many bytes a dot has.
    samples: usize,
    bytes: Vec<u8>,
}

impl Dots {
    fn of_png(bytes: &[u8]) -> Self {
        let mut decoder = png::Decoder::new(std::io::Cursor::new(bytes));
        decoder.set_transformations(png::Transformations::normalize_to_color8());
        let mut reader = decoder.read_info().expect("a PNG");
        let mut bytes = vec![0; reader.output_buffer_size().expect("a size")];
        let info = reader.next_frame(&mut bytes).expect("pixels");
        Self { width: info.width as usize, height: info.height as usize, samples: info.color_type.samples(), bytes }
    }

    /// Of a picture as `pdftoppm` writes it: `P6`, its size, 255, and three bytes for each dot.
    fn of_ppm(bytes: &[u8]) -> Self {
        let mut lines = bytes.splitn(4, |byte| *byte == b'\n');
        assert_eq!(lines.next(), Some(&b"P6"[..]));
        let size = String::from_utf8_lossy(lines.next().expect("a size")).into_owned();
        let (width, height) = size.split_once(' ').expect("width and height");
        assert_eq!(lines.next(), Some(&b"255"[..]));
        let [width, height] = [width, height].map(|side| side.parse().expect("a number"));
        Self { width, height, samples: 3, bytes: lines.next().expect("dots").to_owned() }
    }

    /// The squares of a picture of this many px, which is drawn here this many times as large.
    fn grey(&self, (width, height): (usize, usize), times: usize) -> Grey {
        let side = SIDE * times;
        let colours = self.samples.min(3);
        let row = |left: usize, y: usize| -> u64 {
            let y = y.min(self.height - 1) * self.width;
            let dots = (left..left + side).map(|x| (y + x.min(self.width - 1)) * self.samples);
            dots.map(|at| self.bytes[at..at + colours].iter().map(|value| u64::from(*value)).sum::<u64>()).sum()
        };
        let (w, h) = (width / SIDE, height / SIDE);
        let square = |i: usize| {
            let (left, upper) = ((i % w) * side, (i / w) * side);
            (upper..upper + side).map(|y| row(left, y)).sum::<u64>() as f64 / (side * side * colours) as f64
        };
        Grey { width: w, height: h, values: (0..w * h).map(square).collect() }
    }
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
fn rasterised(pdf: &Path) -> Option<Dots> {
    let drawn = Command::new("pdftoppm").args(["-r", "288", "-singlefile"]).arg(pdf).output().ok()?;
    drawn.status.success().then(|| Dots::of_ppm(&drawn.stdout))
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
            let shown = Dots::of_png(&browser.picture()).grey(size, 1);
            let png = std::fs::read(folder.path(&format!("out/{name}.png"))).expect("a PNG");
            compare(&format!("{name}.png in {theme}"), &shown, &Dots::of_png(&png).grey(size, 1));
            match rasterised(&folder.path(&format!("out/{name}.pdf"))) {
                Some(drawn) => compare(&format!("{name}.pdf in {theme}"), &shown, &drawn.grey(size, LARGER)),
                None => has_pdf = false,
            }
        }
    }
    if !has_pdf {
        skipped("there is no pdftoppm here");
    }
}
