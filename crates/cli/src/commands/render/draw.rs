//! Drawing pictures and writing them, on all cores.

use super::jobs::Job;
use crate::outcome::Result;
use crate::session::Voice;
use crate::threads::Threads;
use bathygram_core::container;
use bathygram_core::jobs::map;
use bathygram_core::pipeline::{self, Studio};
use bathygram_host::{Format, write_inside, write_whole};
use bathygram_outputs::Png;
use bathygram_outputs::pdf::{About, Pdf};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Mutex, OnceLock};

fn draw_svg(studio: &Studio, job: &Job<'_>) -> String {
    pipeline::draw_view(studio, job.reading, &job.view, job.earlier.as_deref())
}

/// How each picture is laid out.
pub(super) fn explain(jobs: &[Job<'_>], voice: Voice) {
    let studio = Studio::with_jobs(Box::new(Threads::all()));
    for job in jobs {
        let laid = pipeline::place_view(&studio, job.reading, &job.view, job.earlier.as_deref());
        let told = laid.map_or("sequence: columns and rows by time".to_owned(), |(_, laid)| laid.report.to_string());
        voice.say(&format!("{}: {told}", job.view.name));
    }
}

/// What other forms need is opened when the first picture is drawn in them.
#[derive(Default)]
struct Forms {
    png: OnceLock<Png>,
    pdf: OnceLock<Pdf>,
}

/// Draws one picture in one form.
///
/// # Errors
/// If it cannot be brought into that form.
pub(super) fn one(job: &Job<'_>, format: Format, scale: f32) -> Result<Vec<u8>> {
    let studio = Studio::with_jobs(Box::new(Threads::all()));
    into_format(&draw_svg(&studio, job), &Forms::default(), job, format, scale)
}

fn into_format(svg: &str, forms: &Forms, job: &Job<'_>, format: Format, scale: f32) -> Result<Vec<u8>> {
    let digest = || container::digest(&pipeline::provenance(job.reading, job.view.name));
    let source = &job.reading.source;
    match format {
        Format::Svg => Ok(svg.as_bytes().to_vec()),
        Format::Png => {
            let (digest, seal) = (digest(), container::open_seal());
            let texts = container::png_texts(&digest, &source.text, &seal);
            Ok(forms.png.get_or_init(Png::new).draw(svg, scale, &texts)?)
        }
        Format::Pdf => {
            let title = container::title(svg).unwrap_or_default();
            let about = About { title: &title, file: &source.name, source: &source.text, digest: &digest() };
            Ok(forms.pdf.get_or_init(Pdf::new).draw(svg, &about)?)
        }
    }
}

/// Draws and writes all pictures, on as many threads as there are cores; the files are the same
/// whatever their number. Returns for each, in the order of the sources, the paths that were written. `below` is a folder
/// below which nothing is written through a symbolic link.
pub(super) fn all(jobs: &[Job<'_>], scale: f32, below: Option<&Path>, voice: Voice) -> Vec<Result<Vec<PathBuf>>> {
    let forms = &Forms::default();
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(jobs.len())));
    let bar = Progress::new(jobs.len(), voice);
    map(&threads, jobs.len(), &|i| {
        let result = draw_and_write(&studio, forms, &jobs[i], scale, below, voice);
        bar.step();
        result
    })
}

fn draw_and_write(
    studio: &Studio, forms: &Forms, job: &Job<'_>, scale: f32, below: Option<&Path>, voice: Voice,
) -> Result<Vec<PathBuf>> {
    let svg = draw_svg(studio, job);
    let mut written = Vec::new();
    for (format, path) in &job.paths {
        let bytes = into_format(&svg, forms, job, *format, scale)?;
        let is_new = match below {
            Some(folder) => write_inside(folder, path, &bytes)?,
            None => write_whole(path, &bytes)?,
        };
        if !is_new {
            voice.detail(&format!("{} is unchanged", path.display()));
        }
        written.push(path.clone());
    }
    Ok(written)
}

/// A bar that appears when drawing takes longer than a second.
struct Progress {
    bar: Mutex<Option<indicatif::ProgressBar>>,
    start: std::time::Instant,
    done: AtomicUsize,
    count: usize,
    shown: bool,
}

impl Progress {
    fn new(count: usize, voice: Voice) -> Self {
        let start = std::time::Instant::now();
        Self { bar: Mutex::new(None), start, done: AtomicUsize::new(0), count, shown: voice.shows_progress() }
    }

    fn step(&self) {
        let done = self.done.fetch_add(1, Ordering::Relaxed) + 1;
        if !self.shown || self.start.elapsed().as_secs_f32() < 1.0 {
            return;
        }
        let mut bar = self.bar.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let bar = bar.get_or_insert_with(|| indicatif::ProgressBar::new(self.count as u64));
        bar.set_position(done as u64);
        if done == self.count {
            bar.finish_and_clear();
        }
    }
}
