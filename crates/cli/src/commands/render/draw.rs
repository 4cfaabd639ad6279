//! Drawing pictures and writing them, on all cores.

use super::jobs::Job;
use crate::forms::{self, Finish, TextForm};
use crate::outcome::Result;
use crate::session::Voice;
use bathygram_core::container;
use bathygram_core::jobs::map;
use bathygram_core::model::Unmet;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Studio};
use bathygram_core::scene::{Drawing, Item, Places};
use bathygram_core::views::Crowding;
use bathygram_host::Threads;
use bathygram_host::{Format, Project, Room, Seen, write_picture};
use bathygram_outputs::Sheet;
use std::collections::{BTreeSet, VecDeque};
use std::path::PathBuf;
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
    let studio = Studio::with_jobs(Box::new(Threads::all())).in_themes(&project.themes).in_language(&project.language);
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
pub(super) fn one(project: &Project, job: &Job<'_>, format: Format, finish: Finish) -> Result<Vec<u8>> {
    let studio = Studio::with_jobs(Box::new(Threads::all())).in_themes(&project.themes).in_language(&project.language);
    let drawing = drawn(&studio, job);
    into((project, &studio), job, &drawing, format, finish)
}

/// Brings a drawing into a form; a page has the pictures in it that it leads to.
fn into(
    (project, studio): (&Project, &Studio), job: &Job<'_>, drawing: &Drawing, format: Format, finish: Finish,
) -> Result<Vec<u8>> {
    if format != Format::Html {
        return forms::into(format, project, studio, drawing, from(job), finish);
    }
    let mut drawing = drawing.clone();
    job.picture.lead_inside(job.reading, &mut drawing);
    let inside = inside(studio, job, &drawing);
    forms::into(format, project, studio, &drawing, forms::From { inside: &inside, ..from(job) }, finish)
}

/// Draws pictures into one file: as the pages of a PDF, or in a page to walk through.
///
/// # Errors
/// If one is too large for a page.
pub(super) fn together(project: &Project, jobs: &[Job<'_>], format: Format, finish: Finish) -> Result<Vec<u8>> {
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(jobs.len())))
        .in_themes(&project.themes)
        .in_language(&project.language);
    let mut drawings = map(&threads, jobs.len(), &|i| drawn(&studio, &jobs[i]));
    jobs.iter().zip(&mut drawings).for_each(|(job, drawing)| job.picture.lead_inside(job.reading, drawing));
    if format == Format::Html
        && let (Some(first), Some((drawing, _))) = (jobs.first(), drawings.split_first())
    {
        let names = jobs.iter().map(|job| job.picture.name.to_owned());
        let inside: Vec<(String, Drawing)> = names.zip(drawings.iter().cloned()).skip(1).collect();
        return forms::into(format, project, &studio, drawing, forms::From { inside: &inside, ..from(first) }, finish);
    }
    let sheets: Vec<Sheet<'_>> =
        jobs.iter().zip(&drawings).map(|(job, drawing)| Sheet { name: job.picture.name, drawing }).collect();
    let mut sources: Vec<(&str, &str)> = Vec::new();
    for source in jobs.iter().map(|job| &job.reading.source) {
        if !sources.iter().any(|(file, _)| *file == source.name) {
            sources.push((&source.name, &source.text));
        }
    }
    let digests: Vec<String> = jobs.iter().map(|job| container::digest(&from(job).provenance)).collect();
    forms::pdf(project, &studio, &sheets, (&sources, &container::digest_of_all(&digests)), finish.page)
}

/// Where the picture of a job comes from.
fn from<'a>(job: &'a Job<'_>) -> forms::From<'a> {
    let kept = job.earlier.as_deref().filter(|svg| container::read_places(svg).is_some());
    let earlier = kept.and_then(container::read_digest);
    let provenance = job.reading.provenance(job.picture.name);
    let provenance = container::Provenance { earlier, text_in: job.picture.text_in(), ..provenance };
    forms::From { provenance, inside: &[] }
}

/// At most this many pictures that a page leads to are in it.
// Each adds as much as an SVG without its fonts; a stack of a large model has thousands.
const INSIDE: usize = 60;

/// The pictures that a page needs besides its own: those that elements lead to, and so on, the nearest first.
fn inside(studio: &Studio, job: &Job<'_>, drawing: &Drawing) -> Vec<(String, Drawing)> {
    let beside: Vec<Picture<'_>> = job.beside();
    let mut known: BTreeSet<String> = BTreeSet::from([job.picture.name.to_owned()]);
    let mut wanted: VecDeque<String> = targets(drawing).collect();
    let mut found = Vec::new();
    while let Some(name) = wanted.pop_front().filter(|_| found.len() < INSIDE) {
        let picture = beside.iter().find(|picture| picture.name == name);
        let Some(picture) = picture.filter(|_| known.insert(name.clone())) else { continue };
        let options = DrawOptions { share: picture.share(), more_sources: job.sources, ..DrawOptions::default() };
        let mut drawing = pipeline::draw(studio, job.reading, &picture.view(), &options);
        picture.lead_inside(job.reading, &mut drawing);
        wanted.extend(targets(&drawing));
        found.push((name, drawing));
    }
    found
}

/// The names of the pictures that elements of a drawing lead to.
fn targets(drawing: &Drawing) -> impl Iterator<Item = String> {
    drawing.scene.items.iter().filter_map(|item| match item {
        Item::Group(tag, _) => tag.opens().map(str::to_owned),
        _ => None,
    })
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
/// whatever their number. Returns for each, in the order of the sources, what was written.
pub(super) fn all(
    project: &Project, jobs: &[Job<'_>], finish: Finish, room: Room<'_>, voice: Voice,
) -> Vec<Result<Done>> {
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(jobs.len())))
        .in_themes(&project.themes)
        .in_language(&project.language);
    let bar = Progress::new(jobs.len(), voice);
    map(&threads, jobs.len(), &|i| {
        let result = draw_and_write((project, &studio), &jobs[i], finish, room, voice);
        bar.step();
        result
    })
}

fn draw_and_write(
    (project, studio): (&Project, &Studio), job: &Job<'_>, finish: Finish, room: Room<'_>, voice: Voice,
) -> Result<Done> {
    let same = same_as_before(job);
    let mut drawing = None;
    let mut written = Vec::new();
    for (format, path) in &job.paths {
        let bytes = match (same, format) {
            (Some(same), Format::Svg) if finish.text == TextForm::Embed => same.as_bytes().to_vec(),
            _ => {
                let drawing = drawing.get_or_insert_with(|| drawn(studio, job));
                into((project, studio), job, drawing, *format, finish)?
            }
        };
        if !write_picture(path, &bytes, room)? {
            voice.detail(&format!("{} is unchanged", path.seen()));
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
