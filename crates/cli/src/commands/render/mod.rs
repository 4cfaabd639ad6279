//! `render`: text to pictures.

mod adhoc;
mod draw;
mod jobs;

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::pipeline::Reading;
use bathygram_host::{Format, Printed, Project};
use std::path::{Path, PathBuf};

/// Text to pictures: all of the project (only what changed), or the files named
///
/// Pictures go to `pictures/NAME.svg` beside the config. `-` reads standard input and writes to
/// standard output.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram render\n  bathygram render surge_warning.bathy --format svg,png\n  \
    bathygram render architecture.bathy --only tidewatch_core --out core.png\n  \
    bathygram render --of tidewatch --focus gateway\n  \
    bathygram render --of tidewatch --follow surge_warning\n  \
    bathygram render --of tidewatch --all-depths\n  \
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
    #[command(flatten)]
    adhoc: adhoc::Unwritten,
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
        adhoc: adhoc::Unwritten::default(),
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
    let is_single = is_piped && arguments.out.is_none();
    let asked = match arguments.adhoc.is_asked() && !good.is_empty() {
        true => match adhoc::find(&arguments.adhoc, &good, voice)? {
            Some(asked) => Some(asked),
            None => return Ok(Outcome::Denied),
        },
        false => None,
    };
    let (jobs, fresh) = match &asked {
        Some(asked) => (jobs::of_asked(project, arguments, asked, is_single)?, 0),
        None => jobs::of_texts(project, arguments, &good, is_single)?,
    };
    if arguments.explain {
        draw::explain(&jobs, voice);
    }
    if is_single {
        if let Some(job) = jobs.first() {
            let format = jobs::formats(project, arguments)[0];
            session::answer_bytes(&draw::one(job, format, arguments.scale)?)?;
        }
    } else {
        let written = draw::all(&jobs, arguments.scale, voice)?;
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
