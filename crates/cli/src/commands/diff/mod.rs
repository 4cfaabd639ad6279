//! `diff`: what changed between two versions, in words and as a picture.

mod drawn;
mod driver;
mod listed;
mod page;
mod report;
mod sides;

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::Version;
use drawn::Drawn;
use listed::{Listed, changes};
use serde::Serialize;
use sides::Compared;
use std::path::{Path, PathBuf};

/// What changed between two versions in git, or between two files, in words and as a picture
///
/// FROM and TO are revisions; without TO the working tree is compared, without FROM the last commit
/// is. A name that is a file is taken as a file. What means the same is no change, however it is written.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram diff\n  bathygram diff HEAD surge_warning.bathy\n  \
    bathygram diff HEAD~1 HEAD --json\n  bathygram diff --index --format markdown\n  \
    bathygram diff HEAD~1 --html changes.html\n  bathygram diff recalibrate.bathy warning_flow.bathy\n\n\
    The form of --json is described in docs/json.md, the use as git's own diff in docs/git.md.")]
pub(crate) struct Arguments {
    /// At most two revisions, FROM and TO, then sources; or two files
    #[arg(value_name = "VERSIONS AND FILES")]
    words: Vec<String>,
    /// Compare with what the next commit will hold, not with the working tree
    #[arg(long)]
    index: bool,
    /// Form of the answer
    #[arg(long, value_enum, default_value_t = Form::Text)]
    format: Form,
    /// Answer as JSON, the same as --format json
    #[arg(long, conflicts_with = "format")]
    json: bool,
    /// Draw what changed: a file if one picture changed, a folder for several; SVG or PNG by the ending
    #[arg(long, value_name = "PATH")]
    picture: Option<PathBuf>,
    /// Write a page with what changed, before and after, and a slider between them
    #[arg(long, value_name = "FILE")]
    html: Option<PathBuf>,
    /// Exit with 1 when there are differences
    #[arg(long)]
    exit_code: bool,
    /// Called by git for one file: PATH OLD-FILE OLD-HEX OLD-MODE NEW-FILE NEW-HEX NEW-MODE
    #[arg(long, conflicts_with_all = ["index", "json", "picture", "html", "exit_code"])]
    driver: bool,
}

impl Arguments {
    /// Whether a picture or a page is the answer, instead of words.
    fn is_to_stdout(&self) -> bool {
        [&self.picture, &self.html].into_iter().flatten().any(|target| session::is_stdout(target))
    }
}

#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Form {
    /// For people
    Text,
    /// For programs
    Json,
    /// For a review
    Markdown,
}

#[derive(Serialize)]
struct Report<'a> {
    version: u32,
    from: &'a str,
    to: &'a str,
    diagrams: &'a [Listed],
}

/// Runs the command.
///
/// # Errors
/// If it is called wrongly, or a file or git fails.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.driver {
        return driver::run(&arguments.words, voice);
    }
    if arguments.picture.as_deref().is_some_and(session::is_stdout)
        && arguments.html.as_deref().is_some_and(session::is_stdout)
    {
        return Err(Failure::Usage("standard output takes one result: --picture - or --html -".into()));
    }
    let project = session::project()?;
    let newer = if arguments.index { Version::Index } else { Version::WorkingTree };
    let compared = sides::read(&project, &arguments.words, newer)?;
    let Compared { from, to } = &compared;
    for side in [from, to] {
        for reading in side.readings.iter().filter(|r| r.has_errors()) {
            voice.say(&format!("{}: {} has errors; what could be read is compared", side.name, reading.source.name));
        }
    }
    let changes = changes(from, to);
    let drawn = match arguments.picture.is_some() || arguments.html.is_some() {
        true => drawn::all(&project, from, to),
        false => Vec::new(),
    };
    let pictures = match &arguments.picture {
        Some(path) => drawn::write(&project, path, &drawn, voice)?,
        None => Vec::new(),
    };
    if let Some(path) = &arguments.html {
        write_page(path, &compared, &drawn, &changes)?;
        if !session::is_stdout(path) {
            voice.say(&format!("{} written", path.display()));
        }
    }
    let files = report::files_of([from, to]);
    let outcome = if arguments.exit_code && !changes.is_empty() { Outcome::Denied } else { Outcome::Done };
    if arguments.is_to_stdout() {
        // The picture or the page is the answer.
        return Ok(outcome);
    }
    match if arguments.json { Form::Json } else { arguments.format } {
        Form::Json => {
            let report = Report { version: 1, from: &from.name, to: &to.name, diagrams: &changes };
            session::answer(&(serde_json::to_string_pretty(&report)? + "\n"))?;
        }
        Form::Markdown => session::answer(&report::markdown(&compared, &changes, &files, &pictures))?,
        Form::Text => {
            session::answer(&report::text(&changes, &files, voice.result_colours()))?;
            if changes.is_empty() {
                voice.say(&format!("{} and {} show the same", from.name, to.name));
            }
        }
    }
    Ok(outcome)
}

fn write_page(path: &Path, compared: &Compared, drawn: &[Drawn], changes: &[Listed]) -> Result<()> {
    if path.extension().is_none_or(|e| e != "html") && !session::is_stdout(path) {
        return Err(Failure::Usage(format!("{} should end in .html", path.display())));
    }
    session::write_target(path, page::page(compared, drawn, changes).as_bytes())
}
