//! Drawing pictures and writing them, on all cores.

use super::jobs::Job;
use crate::outcome::Result;
use crate::session::Voice;
use crate::threads::Threads;
use bathygram_core::container;
use bathygram_core::jobs::map;
use bathygram_core::model::Unmet;
use bathygram_core::pipeline::{self, DrawOptions, Studio};
use bathygram_core::scene::{Drawing, Places};
use bathygram_core::views::Crowding;
use bathygram_host::{Format, Project, write_inside, write_whole};
use bathygram_outputs::{pdf, png};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Draws a picture near where an earlier one, if there is one, has its elements.
fn drawn(studio: &Studio, job: &Job<'_>) -> Drawing {
    let places = job.earlier.as_deref().and_then(container::read_places).map(|text| Places::from_text(&text));
    let options = DrawOptions {
        earlier: places.as_ref(),
        share: job.picture.share(),
        more_sources: job.sources,
        ..DrawOptions::default()
    };
    pipeline::draw(studio, job.reading, &job.picture.view(), &options)
}

/// How each picture is laid out.
pub(super) fn explain(project: &Project, jobs: &[Job<'_>], voice: Voice) {
    let studio = Studio::with_jobs(Box::new(Threads::all())).in_themes(&project.themes);
    for job in jobs {
        let report = drawn(&studio, job).report;
        let shown = report.map_or("sequence: columns and rows by time".to_owned(), |report| report.to_string());
        voice.say(&format!("{}: {shown}", job.picture.name));
    }
}

/// Draws one picture in one form.
///
/// # Errors
/// If it cannot be brought into that form.
pub(super) fn one(project: &Project, job: &Job<'_>, format: Format, scale: f32) -> Result<Vec<u8>> {
    let studio = Studio::with_jobs(Box::new(Threads::all())).in_themes(&project.themes);
    into_format(&studio, &drawn(&studio, job), job, format, scale)
}

fn into_format(studio: &Studio, drawing: &Drawing, job: &Job<'_>, format: Format, scale: f32) -> Result<Vec<u8>> {
    let provenance = job.reading.provenance(job.picture.name);
    let source = &job.reading.source;
    match format {
        Format::Svg => {
            let kept = job.earlier.as_deref().filter(|svg| container::read_places(svg).is_some());
            let earlier = kept.and_then(container::read_digest);
            let provenance = container::Provenance { earlier, text_in: job.picture.text_in(), ..provenance };
            Ok(studio.svg(drawing, &provenance).into_bytes())
        }
        Format::Png => {
            let (digest, seal) = (container::digest(&provenance), container::open_seal());
            let texts = container::png_texts(&digest, &source.text, &seal);
            Ok(png::write(drawing, &studio.themes.main, &studio.fonts, f64::from(scale), &texts)?)
        }
        Format::Pdf => {
            let digest = container::digest(&provenance);
            let about = pdf::About { file: &source.name, source: &source.text, digest: &digest };
            Ok(pdf::write(drawing, &studio.themes.main, &about)?)
        }
    }
}

/// An earlier picture of the same text, as it was drawn, is the answer itself.
fn same_as_before<'j>(job: &'j Job<'_>) -> Option<&'j str> {
    let earlier = job.earlier.as_deref()?;
    let carried = container::read(earlier.as_bytes())?;
    let digest = container::digest(&job.reading.provenance(job.picture.name));
    (carried.is_intact && carried.digest == digest).then_some(earlier)
}

/// A picture that was written.
pub(super) struct Done {
    pub(super) paths: Vec<PathBuf>,
    /// Whether it was drawn, and is not the one that was there.
    pub(super) is_drawn: bool,
    /// What its layout could not keep.
    pub(super) unmet: Vec<Unmet>,
    /// What to say if it holds more than can be drawn well.
    pub(super) crowding: Option<Crowding>,
}

/// Draws and writes all pictures, on as many threads as there are cores; the files are the same
/// whatever their number. Returns for each, in the order of the sources, what was written. `below` is a folder
/// below which nothing is written through a symbolic link.
pub(super) fn all(
    project: &Project, jobs: &[Job<'_>], scale: f32, below: Option<&Path>, voice: Voice,
) -> Vec<Result<Done>> {
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(jobs.len()))).in_themes(&project.themes);
    let bar = Progress::new(jobs.len(), voice);
    map(&threads, jobs.len(), &|i| {
        let result = draw_and_write(&studio, &jobs[i], scale, below, voice);
        bar.step();
        result
    })
}

fn draw_and_write(studio: &Studio, job: &Job<'_>, scale: f32, below: Option<&Path>, voice: Voice) -> Result<Done> {
    let same = same_as_before(job);
    let mut drawing = None;
    let mut written = Vec::new();
    for (format, path) in &job.paths {
        let bytes = match (same, format) {
            (Some(same), Format::Svg) => same.as_bytes().to_vec(),
            _ => into_format(studio, drawing.get_or_insert_with(|| drawn(studio, job)), job, *format, scale)?,
        };
        let is_new = match below {
            Some(folder) => write_inside(folder, path, &bytes)?,
            None => write_whole(path, &bytes)?,
        };
        if !is_new {
            voice.detail(&format!("{} is unchanged", path.display()));
        }
        written.push(path.clone());
    }
    let crowding = drawing.as_ref().and_then(|drawing| job.picture.crowding(drawing));
    let unmet = drawing.map_or_else(Vec::new, |d: Drawing| d.unmet);
    Ok(Done { paths: written, is_drawn: same.is_none(), unmet, crowding })
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
