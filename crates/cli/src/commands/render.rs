//! `render`: text to pictures.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use crate::threads::Threads;
use bathygram_core::jobs::Jobs;
use bathygram_core::model::Diagram;
use bathygram_core::pipeline::{self, Reading, Studio};
use bathygram_core::svg;
use bathygram_host::{Format, Freshness, Printed, Project, freshness, write_whole};
use bathygram_outputs::Png;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Mutex, OnceLock};

/// Text to pictures: all of the project (only what changed), or the files named
///
/// Pictures go to `pictures/NAME.svg` beside the config. `-` reads standard input and writes to
/// standard output.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram render\n  bathygram render surge_warning.bathy --format svg,png\n  \
    bathygram render architecture.bathy --only tidewatch_core --out core.png\n  \
    bathygram render - < surge_warning.bathy > surge.svg")]
pub(crate) struct Arguments {
    /// Sources; all of the project if none is named, `-` for standard input
    files: Vec<PathBuf>,
    /// Forms of the pictures
    #[arg(long, value_enum, value_delimiter = ',')]
    format: Vec<FormatName>,
    /// Folder for the pictures, or a file if there is one picture only
    #[arg(long, short, value_name = "PATH")]
    out: Option<PathBuf>,
    /// Pixels for each px in PNG
    #[arg(long, default_value_t = 2.0, value_parser = scale)]
    scale: f32,
    /// Only the picture with this name
    #[arg(long, value_name = "NAME")]
    only: Option<String>,
    /// Draw pictures that are up to date, too
    #[arg(long)]
    all: bool,
    /// Draw what could be read of files with mistakes, too
    #[arg(long)]
    anyway: bool,
    /// An earlier picture, as SVG: elements that it has stay where they are
    #[arg(long, value_name = "PICTURE")]
    keep: Option<PathBuf>,
    /// Tell how each picture was laid out: arrangement, candidates, score
    #[arg(long)]
    explain: bool,
}

#[derive(Clone, Copy, clap::ValueEnum)]
enum FormatName {
    Svg,
    Png,
}

impl From<FormatName> for Format {
    fn from(name: FormatName) -> Self {
        match name {
            FormatName::Svg => Format::Svg,
            FormatName::Png => Format::Png,
        }
    }
}

fn scale(text: &str) -> std::result::Result<f32, String> {
    let value: f32 = text.parse().map_err(|_| "a number is expected".to_owned())?;
    if (0.1..=16.0).contains(&value) { Ok(value) } else { Err("the scale is between 0.1 and 16".to_owned()) }
}

/// One picture to be drawn.
struct Job<'a> {
    reading: &'a Reading,
    diagram: Diagram,
    paths: Vec<(Format, PathBuf)>,
    /// The text of an earlier picture that is to be kept.
    earlier: Option<String>,
}

/// Runs the command.
///
/// # Errors
/// If it is called wrongly, or a file cannot be read or written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    render(&session::project()?, arguments, voice)
}

/// Renders all of the project in a folder.
///
/// # Errors
/// As [`run`].
pub(crate) fn project_at(folder: &Path, voice: Voice) -> Result {
    let arguments = Arguments {
        files: Vec::new(),
        format: Vec::new(),
        out: None,
        scale: 2.0,
        only: None,
        all: false,
        anyway: false,
        keep: None,
        explain: false,
    };
    render(&Project::find(folder)?, &arguments, voice)
}

fn render(project: &Project, arguments: &Arguments, voice: Voice) -> Result {
    let is_piped = arguments.files.iter().any(|f| f == Path::new("-"));
    if is_piped && arguments.files.len() > 1 {
        return Err(Failure::Usage("`-` stands alone: standard input is the only source then".into()));
    }
    let sources = session::sources(project, &arguments.files);
    if sources.is_empty() {
        let root = project.root.display();
        return Err(Failure::Usage(format!("there is no .bathy file in {root}; `bathygram demo` writes an example")));
    }
    let (readings, whole) = session::open_all(project, &sources, voice);
    let mut printed = Printed::default();
    readings.iter().for_each(|r| printed.add(voice.findings(project, r)));
    let good: Vec<&Reading> = readings.iter().filter(|r| arguments.anyway || !r.has_mistakes()).collect();
    let (jobs, fresh) = jobs(project, arguments, &good, is_piped && arguments.out.is_none())?;
    if arguments.explain {
        explain(&jobs, voice);
    }
    let png = LazyPng::default();
    if is_piped && arguments.out.is_none() {
        if let Some(job) = jobs.first() {
            let format = formats(project, arguments)[0];
            let studio = Studio::with_jobs(Box::new(Threads::all()));
            session::answer_bytes(&draw_one(&studio, &png, job, format, arguments.scale)?)?;
        }
    } else {
        let written = draw_all(&jobs, &png, arguments.scale, voice)?;
        session::answer(&written.iter().map(|p| format!("{}\n", p.display())).collect::<String>())?;
        voice.say(&summary(written.len(), fresh));
    }
    if printed.errors > 0 {
        let drawn = match arguments.anyway {
            true => "files with errors are drawn without what is wrong",
            false => "files with errors are not drawn; `--anyway` draws what could be read of them",
        };
        voice.say(&format!("{}: {drawn}", session::counted(printed)));
    }
    Ok(match (whole, printed.errors) {
        (false, _) => Outcome::Incomplete,
        (true, 0) => Outcome::Done,
        _ => Outcome::Denied,
    })
}

fn summary(written: usize, fresh: usize) -> String {
    let pictures = |n: usize| if n == 1 { "1 picture".to_owned() } else { format!("{n} pictures") };
    match (written, fresh) {
        (w, 0) => format!("{} written", pictures(w)),
        (0, f) => format!("{} up to date", pictures(f)),
        (w, f) => format!("{} written, {f} up to date", pictures(w)),
    }
}

fn formats(project: &Project, arguments: &Arguments) -> Vec<Format> {
    let mut formats: Vec<Format> = arguments.format.iter().map(|f| (*f).into()).collect();
    if formats.is_empty() {
        formats.extend(arguments.out.as_deref().and_then(format_of));
    }
    if formats.is_empty() { project.config.formats.clone() } else { formats }
}

/// The format that a file name asks for.
fn format_of(path: &Path) -> Option<Format> {
    match path.extension()?.to_str()? {
        "svg" => Some(Format::Svg),
        "png" => Some(Format::Png),
        _ => None,
    }
}

/// The pictures to draw, and how many are up to date already.
fn jobs<'a>(
    project: &Project, arguments: &Arguments, readings: &[&'a Reading], single: bool,
) -> Result<(Vec<Job<'a>>, usize)> {
    let formats = formats(project, arguments);
    let mut pictures: Vec<(&Reading, Diagram)> =
        readings.iter().flat_map(|r| r.pictures().into_iter().map(|d| (*r, d))).collect();
    let names: Vec<String> = pictures.iter().map(|(_, d)| d.name.clone()).collect();
    if let Some(only) = &arguments.only {
        pictures.retain(|(_, d)| d.name == *only);
        if pictures.is_empty() && !readings.is_empty() {
            return Err(Failure::Usage(format!("no picture is called `{only}`; there are {}", names.join(", "))));
        }
    }
    let named = named_earlier(arguments)?;
    let to_file = arguments.out.as_deref().filter(|o| format_of(o).is_some());
    if arguments.keep.is_some() && pictures.len() > 1 {
        return Err(Failure::Usage(format!(
            "--keep is for one picture, and there are {}; choose one with --only NAME, or say `keep = true` in \
             bathygram.toml to keep each picture's own",
            names.join(", ")
        )));
    }
    if (to_file.is_some() || single) && pictures.len() > 1 {
        return Err(Failure::Usage(format!(
            "this text has several pictures, {}; choose one with --only NAME",
            names.join(", ")
        )));
    }
    let folder = arguments.out.clone().unwrap_or_else(|| project.pictures());
    let usual = arguments.out.is_none() && arguments.format.is_empty();
    let mut taken: BTreeMap<String, &str> = BTreeMap::new();
    let mut jobs = Vec::new();
    let mut fresh = 0;
    for (reading, diagram) in pictures {
        if let Some(first) = taken.insert(diagram.name.clone(), &reading.source.name) {
            let (name, second) = (&diagram.name, &reading.source.name);
            return Err(Failure::Usage(format!(
                "{first} and {second} both have a picture called `{name}`; rename one"
            )));
        }
        let digest = svg::digest(&pipeline::provenance(reading, &diagram.name));
        if usual && !single && !arguments.all && freshness(project, &diagram.name, &digest) == Freshness::Fresh {
            fresh += 1;
            continue;
        }
        let paths = match to_file {
            Some(file) => vec![(formats[0], file.to_owned())],
            None => formats.iter().map(|f| (*f, folder.join(format!("{}.{}", diagram.name, f.ending())))).collect(),
        };
        let earlier = named.clone().or_else(|| own_earlier(project, &diagram.name));
        jobs.push(Job { reading, diagram, paths, earlier });
    }
    Ok((jobs, fresh))
}

/// The earlier picture that was named.
fn named_earlier(arguments: &Arguments) -> Result<Option<String>> {
    let Some(path) = &arguments.keep else { return Ok(None) };
    let text = std::fs::read_to_string(path);
    let text = text.map_err(|e| Failure::Usage(format!("{} cannot be kept: {e}", path.display())))?;
    if svg::read_digest(&text).is_none() {
        return Err(Failure::Usage(format!("{} is no picture that this program drew", path.display())));
    }
    Ok(Some(text))
}

/// A picture's own earlier version, if the project keeps pictures and there is one.
fn own_earlier(project: &Project, name: &str) -> Option<String> {
    let path = project.pictures().join(format!("{name}.svg"));
    project.config.keep.then(|| std::fs::read_to_string(path).ok()).flatten()
}

fn draw_svg(studio: &Studio, job: &Job<'_>) -> String {
    pipeline::draw_keeping(studio, job.reading, &job.diagram, job.earlier.as_deref())
}

/// How each picture is laid out.
fn explain(jobs: &[Job<'_>], voice: Voice) {
    let studio = Studio::with_jobs(Box::new(Threads::all()));
    for job in jobs {
        let laid = pipeline::place_keeping(&studio, job.reading, &job.diagram, job.earlier.as_deref());
        let told = laid.map_or("sequence: columns and rows by time".to_owned(), |(_, laid)| laid.report.to_string());
        voice.say(&format!("{}: {told}", job.diagram.name));
    }
}

/// The PNG fonts are opened when the first PNG is drawn.
#[derive(Default)]
struct LazyPng(OnceLock<Png>);

fn draw_one(studio: &Studio, png: &LazyPng, job: &Job<'_>, format: Format, scale: f32) -> Result<Vec<u8>> {
    let svg = draw_svg(studio, job);
    into_format(&svg, png, job, format, scale)
}

fn into_format(svg: &str, png: &LazyPng, job: &Job<'_>, format: Format, scale: f32) -> Result<Vec<u8>> {
    match format {
        Format::Svg => Ok(svg.as_bytes().to_vec()),
        Format::Png => {
            let digest = svg::digest(&pipeline::provenance(job.reading, &job.diagram.name));
            let texts = [("bathygram-digest", digest.as_str()), ("bathygram-source", job.reading.source.text.as_str())];
            Ok(png.0.get_or_init(Png::new).draw(svg, scale, &texts)?)
        }
    }
}

/// Draws and writes all pictures, on as many threads as there are cores; the files are the same
/// whatever their number. Returns the paths that were written, in the order of the sources.
fn draw_all(jobs: &[Job<'_>], png: &LazyPng, scale: f32, voice: Voice) -> Result<Vec<PathBuf>> {
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(jobs.len())));
    let done: Mutex<BTreeMap<usize, Result<Vec<PathBuf>>>> = Mutex::new(BTreeMap::new());
    let bar = Progress::new(jobs.len(), voice);
    threads.run(jobs.len(), &|i| {
        let result = draw_and_write(&studio, png, &jobs[i], scale, voice);
        done.lock().unwrap_or_else(std::sync::PoisonError::into_inner).insert(i, result);
        bar.step();
    });
    let done = done.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
    let mut written = Vec::new();
    for result in done.into_values() {
        written.extend(result?);
    }
    Ok(written)
}

fn draw_and_write(studio: &Studio, png: &LazyPng, job: &Job<'_>, scale: f32, voice: Voice) -> Result<Vec<PathBuf>> {
    let svg = draw_svg(studio, job);
    let mut written = Vec::new();
    for (format, path) in &job.paths {
        let bytes = into_format(&svg, png, job, *format, scale)?;
        if !write_whole(path, &bytes)? {
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
