//! `render`: text to pictures.

mod adhoc;
mod build;
mod draw;
mod jobs;
mod report;
mod show;

pub(crate) use build::made;

use crate::forms::{self, Finish, TextForm};
use crate::named;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::diag::Diagnostic;
use bathygram_core::pipeline::{Picture, Reading, weigh_unmet};
use bathygram_host::{Format, MAX_PICTURE, Overwrite, Printed, Project, Room, Seen, Watch, picture_file, read_text};
use bathygram_outputs::pdf::PageSize;
use bathygram_outputs::png::{Below, Scale};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// Draw diagrams: all of the project (only what changed), or the files named
///
/// Pictures go to `pictures/NAME.svg` beside the config. `-` reads standard input and writes to
/// standard output.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram render\n  bathygram render surge_warning.bathy --format svg,png\n  \
    bathygram render architecture.bathy --only tidewatch_core --out core.png\n  \
    bathygram render --of tidewatch --focus gateway\n  \
    bathygram render --of tidewatch --follow surge_warning\n  \
    bathygram render --of tidewatch --all-depths\n  \
    bathygram render - < surge_warning.bathy > surge.svg\n  \
    bathygram render surge_warning.bathy --open\n\n`bathygram render --watch` draws again whenever a text is saved.")]
pub(crate) struct Arguments {
    /// Source files, folders or patterns; all of the project if none is named, `-` for standard input
    files: Vec<PathBuf>,
    /// Forms of the pictures
    #[arg(long, value_parser = formats(), value_delimiter = ',')]
    format: Vec<Format>,
    /// Folder for the pictures, or a file: for one picture, or a .pdf or .html for several
    #[arg(long, short, value_name = "PATH")]
    out: Option<PathBuf>,
    /// The theme: a built-in one, a file such as looks/harbour.toml, or two as shoal+abyss, for light and dark pages
    #[arg(long, value_name = "THEME")]
    theme: Option<String>,
    #[command(flatten)]
    finishing: Finishing,
    /// The language of the words that the program adds: en, de, fr, es, or a table such as words/nl.toml
    #[arg(long, value_name = "LANGUAGE")]
    language: Option<String>,
    /// Only the picture with this name
    #[arg(long, value_name = "NAME")]
    only: Option<String>,
    /// Draw pictures that are up to date, too
    #[arg(long)]
    all: bool,
    /// Also draw files with errors, as far as they can be read
    #[arg(long)]
    anyway: bool,
    /// Overwrite files that this program did not draw, where pictures go
    #[arg(long)]
    force: bool,
    /// An earlier picture, as SVG: elements that it has stay where they are
    #[arg(long, value_name = "PICTURE")]
    keep: Option<PathBuf>,
    /// Draw again whenever a text is saved, until the program is ended
    #[arg(long, conflicts_with_all = ["out", "theme", "language", "format", "only", "anyway", "keep", "explain"])]
    watch: bool,
    /// Answer as JSON: which pictures were written
    #[arg(long, conflicts_with = "watch")]
    json: bool,
    /// Print the JSON Schema of --format json; with --json, that of its answer
    #[arg(long, conflicts_with_all = ["files", "format", "out", "watch"])]
    schema: bool,
    /// Show how each picture was laid out: arrangement, candidates, score
    #[arg(long)]
    explain: bool,
    /// Show the picture in the program that the desktop has for it
    #[arg(long, conflicts_with_all = ["watch", "schema"])]
    open: bool,
    #[command(flatten)]
    adhoc: adhoc::Unwritten,
}

/// How forms are made.
#[derive(clap::Args)]
struct Finishing {
    /// Pixels for each px in PNG
    #[arg(long, default_value_t = 2.0, value_parser = scale)]
    scale: f32,
    /// Pixels from left to right in PNG, instead of a scale
    #[arg(long, value_name = "PIXELS", conflicts_with = "scale", value_parser = crate::numbers::between(16..=16_384))]
    width: Option<u32>,
    /// Nothing below the drawing in PNG, instead of the theme's paper
    #[arg(long)]
    transparent: bool,
    /// Pages of PDF: as large as the picture, or paper, to which a larger picture is shrunk
    #[arg(long, value_name = "SIZE", default_value = "fitted", value_parser = clap::builder::PossibleValuesParser::new(PageSize::ALL.map(|(name, _)| name)))]
    page: String,
    /// Letters of SVG
    #[arg(long, value_enum, value_name = "FORM", default_value_t = TextForm::Embed)]
    text: TextForm,
}

impl Default for Finishing {
    fn default() -> Self {
        Self { scale: 2.0, width: None, transparent: false, page: "fitted".to_owned(), text: TextForm::Embed }
    }
}

impl Finishing {
    /// Whether nothing was asked that the project's own pictures do not have; the scale of a PNG may differ.
    fn is_usual(&self) -> bool {
        let Self { scale: _, width, transparent, page, text } = self;
        width.is_none() && !transparent && page == "fitted" && *text == TextForm::Embed
    }

    /// Whether each option is about a form that is made.
    fn check(&self, formats: &[Format]) -> Result<()> {
        let asked = [
            (self.width.is_some(), "--width", Format::Png),
            (self.transparent, "--transparent", Format::Png),
            (self.page != "fitted", "--page", Format::Pdf),
            (self.text != TextForm::Embed, "--text", Format::Svg),
        ];
        match asked.into_iter().find(|(is_asked, _, format)| *is_asked && !formats.contains(format)) {
            Some((_, option, format)) => {
                let ending = format.ending();
                Err(Failure::Usage(format!("{option} is about {ending}, and none is made; add --format {ending}")))
            }
            None => Ok(()),
        }
    }

    fn finish(&self) -> Finish {
        let scale = self.width.map_or(Scale::Factor(f64::from(self.scale)), |width| Scale::Width(f64::from(width)));
        let below = if self.transparent { Below::Nothing } else { Below::Paper };
        let page =
            PageSize::ALL.into_iter().find(|(name, _)| *name == self.page).map_or(PageSize::Fitted, |(_, page)| page);
        Finish { scale, below, page, text: self.text }
    }
}

/// The forms by their endings, for arguments.
fn formats() -> impl clap::builder::TypedValueParser<Value = Format> {
    let endings = clap::builder::PossibleValuesParser::new(Format::ALL.map(Format::ending));
    clap::builder::TypedValueParser::try_map(endings, |ending| Format::from_ending(&ending).ok_or("no such form"))
}

fn scale(text: &str) -> std::result::Result<f32, String> {
    let value: f32 = text.parse().map_err(|_| "a number is expected".to_owned())?;
    if (0.1..=16.0).contains(&value) { Ok(value) } else { Err("the scale is between 0.1 and 16".to_owned()) }
}

/// Runs the command.
///
/// # Errors
/// If it is called wrongly, or a file cannot be read or written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        let schema = if arguments.json { report::schema() } else { bathygram_outputs::geometry::schema() };
        session::answer(&schema)?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    let project = match &arguments.theme {
        Some(theme) => session::in_themes(project, theme)?,
        None => project,
    };
    let project = match &arguments.language {
        Some(words) => project.in_language(words).map_err(|why| Failure::Usage(why.to_string()))?,
        None => project,
    };
    render(&project, arguments, voice)
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
        theme: None,
        language: None,
        finishing: Finishing::default(),
        only: None,
        all: false,
        anyway: false,
        force: false,
        keep: None,
        watch: false,
        json: false,
        schema: false,
        explain: false,
        open: false,
        adhoc: adhoc::Unwritten::default(),
    };
    render(&Project::find(folder)?, &arguments, voice)
}

impl Arguments {
    /// Whether the project's own pictures are made, in its forms.
    fn is_build(&self) -> bool {
        let is_usual = self.out.is_none()
            && self.theme.is_none()
            && self.language.is_none()
            && self.format.is_empty()
            && self.only.is_none()
            && self.keep.is_none()
            && self.finishing.is_usual();
        is_usual && !self.anyway && !self.explain && !self.adhoc.is_asked() && !self.is_piped()
    }

    /// What pictures may be written over: a file that is named is meant.
    fn overwrite(&self) -> Result<Overwrite> {
        let is_any = self.force || jobs::named_file(self)?.is_some();
        Ok(if is_any { Overwrite::Any } else { Overwrite::Own })
    }

    fn is_piped(&self) -> bool {
        self.files.iter().any(|f| f == Path::new("-"))
    }

    /// Whether the picture goes to standard output: `--out -`, or a piped source without `--out`.
    fn is_to_stdout(&self) -> bool {
        self.out.as_deref().map_or(self.is_piped(), session::is_stdout)
    }
}

fn render(project: &Project, arguments: &Arguments, voice: Voice) -> Result {
    session::is_piped(&arguments.files)?;
    if arguments.out.is_none() {
        session::only_own(project, &arguments.files)?;
    }
    if arguments.json && arguments.is_to_stdout() {
        return Err(Failure::Usage("standard output takes one result: the picture, or --json".into()));
    }
    if arguments.watch {
        return watch(project, arguments, voice);
    }
    if arguments.is_build() {
        let outcome = build::run(project, arguments, voice)?;
        if arguments.open {
            show::built(project, arguments, voice)?;
        }
        return Ok(outcome);
    }
    let sources = named::files(project, &arguments.files, named::Takes::Sources)?;
    if sources.is_empty() {
        return Err(no_source(project));
    }
    draw_asked(project, arguments, &sources, voice)
}

/// One picture of a text in a form, as it would be rendered.
///
/// # Errors
/// If it cannot be brought into that form.
pub(crate) fn exported(project: &Project, reading: &Reading, picture: Picture<'_>, format: Format) -> Result<Vec<u8>> {
    let folder = project.pictures_of(&reading.source.name);
    let file = picture_file(&folder, picture.name, Format::Svg).ok().filter(|_| project.config.keep);
    let earlier = file.and_then(|file| read_text(&file, MAX_PICTURE).ok());
    let why = jobs::Why::Asked;
    let job = jobs::Job { reading, picture, paths: Vec::new(), why, earlier, sources: &[], stack: Vec::new() };
    draw::one(project, &job, format, Finish::default())
}

/// Builds again and again. What goes wrong is reported, and may be repaired while the program waits.
fn watch(project: &Project, arguments: &Arguments, voice: Voice) -> Result {
    if !arguments.is_build() {
        return Err(Failure::Usage("--watch is for the project's own pictures".into()));
    }
    let watch = Watch::begin(project)?;
    loop {
        // The config may have changed, too.
        let built = Project::find(&project.root).map_err(Failure::from).and_then(|p| build::run(&p, arguments, voice));
        if let Err(failure) = built {
            voice.failure(&failure);
        }
        if !watch.wait(project) {
            return Ok(Outcome::Done);
        }
    }
}

fn no_source(project: &Project) -> Failure {
    let root = project.root.seen();
    Failure::Usage(format!("there is no .bathy file in {root}; `bathygram demo` writes an example"))
}

/// Draws what the arguments ask for, wherever that goes.
fn draw_asked(project: &Project, arguments: &Arguments, sources: &[PathBuf], voice: Voice) -> Result {
    let blocks = if arguments.files.is_empty() { session::Blocks::Illustrated } else { session::Blocks::All };
    let (readings, whole) = session::open_chosen(project, sources, blocks, voice);
    // Who draws one picture asks about its file.
    let is_meant = |r: &Reading| match (&arguments.only, &arguments.adhoc.block()) {
        (Some(only), _) => r.pictures().any(|picture| picture.name == only),
        (None, Some(of)) => r.document.diagrams.iter().any(|diagram| diagram.name == *of),
        (None, None) => true,
    };
    let is_there = readings.iter().any(is_meant);
    let told = readings.iter().filter(|r| !is_there || is_meant(r));
    let mut printed = voice.findings(project, told.map(|r| (r, &r.diagnostics[..])));
    let good: Vec<&Reading> = readings.iter().filter(|r| arguments.anyway || !r.has_errors()).collect();
    let is_single = arguments.is_to_stdout();
    let asked = match arguments.adhoc.is_asked() && !good.is_empty() {
        true => match adhoc::find(&arguments.adhoc, &good, voice)? {
            Some(asked) => Some(asked),
            None => return Ok(Outcome::Denied),
        },
        false => None,
    };
    let jobs = match &asked {
        Some(asked) => jobs::of_asked(project, arguments, asked, is_single)?,
        None => jobs::of_texts(project, arguments, &good, &BTreeMap::new(), is_single)?.0,
    };
    if arguments.explain {
        draw::explain(project, &jobs, voice);
    }
    let mut written_report = report::Report::default();
    let finish = arguments.finishing.finish();
    let formats = if is_single { vec![jobs::only_format(arguments)?] } else { jobs::formats(project, arguments) };
    arguments.finishing.check(&formats)?;
    printed.add(reported_letters(project, &good, &formats, voice)?);
    if is_single {
        if let Some(job) = jobs.first() {
            let format = jobs::only_format(arguments)?;
            let bytes = draw::one(project, job, format, finish)?;
            match arguments.open && arguments.out.is_none() {
                true => show::piped(job.picture.name, format, &bytes, voice)?,
                false => session::answer_bytes(&bytes)?,
            }
        }
    } else if let [first, _, ..] = jobs.as_slice()
        && let Some((form, file)) = jobs::shared_file(&jobs)
    {
        session::write_target(&file, &draw::together(project, &jobs, form, finish)?)?;
        match arguments.json {
            true => written_report.pictures = report::shared(project, &jobs, form, &file),
            false => session::answer(&session::listed(project, [&file]))?,
        }
        let count = session::count(jobs.len(), "picture");
        voice.say(&format!("{count} in one file, `{}` is the first", first.picture.name));
        if arguments.open {
            show::file(&file, voice);
        }
    } else {
        let below = arguments.out.is_none().then_some(project.root.as_path());
        let room = Room { below, overwrite: arguments.overwrite()? };
        let done = draw::all(project, &jobs, finish, room, voice).into_iter().collect::<Result<Vec<_>>>()?;
        let drawn: Vec<(&Reading, &draw::Done)> = jobs.iter().map(|j| j.reading).zip(&done).collect();
        printed.add(reported_unmet(project, &drawn, voice));
        if arguments.json {
            written_report.pictures = jobs.iter().flat_map(|job| report::of_job(project, job)).collect();
        }
        let written: Vec<PathBuf> = done.into_iter().flat_map(|d| d.paths).collect();
        if !arguments.json {
            session::answer(&session::listed(project, &written))?;
        }
        voice.say(&format!("{} written", session::count(written.len(), "picture")));
        if let Some(first) = written.first().filter(|_| arguments.open) {
            show::file(first, voice);
        }
    }
    if arguments.json {
        session::answer(&written_report.counted(printed, whole)?)?;
    }
    Ok(outcome(whole, printed, if arguments.anyway { Faulty::Drawn } else { Faulty::Left }, voice))
}

/// Reports what was found in texts.
fn reported(project: &Project, readings: &[Reading], voice: Voice) -> Printed {
    voice.findings(project, readings.iter().map(|r| (r, &r.diagnostics[..])))
}

/// Reports what the layouts of drawn pictures could not keep, and which pictures hold too much.
fn reported_unmet(project: &Project, drawn: &[(&Reading, &draw::Done)], voice: Voice) -> Printed {
    let found: Vec<(&Reading, Vec<Diagnostic>)> =
        drawn.iter().map(|(reading, done)| (*reading, weigh_unmet(reading, &done.unmet))).collect();
    let printed = voice.findings(project, found.iter().map(|(reading, found)| (*reading, &found[..])));
    drawn.iter().filter_map(|(_, done)| done.crowding.as_ref()).for_each(|crowding| voice.say(&crowding.to_string()));
    printed
}

/// Reports letters that no font has, where forms show boxes for them.
fn reported_letters(project: &Project, readings: &[&Reading], formats: &[Format], voice: Voice) -> Result<Printed> {
    if !formats.iter().copied().any(forms::shows_boxes) {
        return Ok(Printed::default());
    }
    let found = forms::missing_letters(project, readings.iter().copied())?;
    Ok(voice.findings(project, readings.iter().zip(&found).map(|(reading, found)| (*reading, &found[..]))))
}

/// What becomes of files with errors.
#[derive(Clone, Copy)]
enum Faulty {
    Drawn,
    Left,
}

/// How the command ends, and what is said of errors.
fn outcome(whole: bool, printed: Printed, faulty: Faulty, voice: Voice) -> Outcome {
    if printed.errors > 0 {
        let drawn = match faulty {
            Faulty::Drawn => "files with errors are drawn without what is wrong",
            Faulty::Left => "files with errors are not drawn; `--anyway` draws what could be read of them",
        };
        voice.say(&format!("{}: {drawn}", session::counted(printed)));
    }
    match (whole, printed.errors) {
        (false, _) => Outcome::Incomplete,
        (true, 0) => Outcome::Done,
        _ => Outcome::Denied,
    }
}
