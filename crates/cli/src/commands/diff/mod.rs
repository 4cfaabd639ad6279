//! `diff`: what changed between two versions, in words and as a picture.

pub(super) mod drawn;
mod driver;
pub(crate) mod listed;
mod page;
mod report;
mod sides;
mod words;

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::pipeline::Studio;
use bathygram_host::{Format, Project, Seen, Version};
use drawn::Drawn;
use listed::Listed;
use report::{Part, Review};
use schemars::JsonSchema;
use serde::Serialize;
use sides::{Compared, Conflict, Side};
use std::path::{Path, PathBuf};

/// Show what changed between two versions in git, or between two files, in words and as a picture
///
/// FROM and TO are revisions, or `A..B`; `A...B` compares B with the commit that both have in common. Without TO the working
/// tree is compared, without FROM the last commit is. Behind them stand files, folders, or names of pictures. Two files are
/// compared with each other, also documents, and pictures, of which the sources count. What means the same and is drawn the same
/// is no change, however it is written.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram diff\n  bathygram diff HEAD surge_warning.bathy\n  \
    bathygram diff HEAD~1 HEAD --json\n  bathygram diff HEAD -- surge_warning\n  \
    bathygram diff --index --format markdown\n  \
    bathygram diff HEAD~1 --html changes.html\n  bathygram diff recalibrate.bathy warning_flow.bathy\n\n\
    The form of --json is described in docs/json.md, the use as git's own diff in docs/git.md.")]
pub(crate) struct Arguments {
    /// At most two revisions, FROM and TO, then files, folders or pictures; or two files
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
    /// Print the JSON Schema of --json
    #[arg(long, exclusive = true)]
    schema: bool,
    /// Draw what changed: a file if one picture changed, a folder for several; SVG or PNG by the ending
    #[arg(long, value_name = "PATH")]
    picture: Option<PathBuf>,
    /// Write a page with what changed, before and after, and a slider between them
    #[arg(long, value_name = "FILE")]
    html: Option<PathBuf>,
    /// In Markdown, show the pictures of --picture, which are found below this address
    #[arg(long, value_name = "PREFIX", requires = "picture")]
    picture_url: Option<String>,
    /// In Markdown, lead to lines of files, which are found below this address
    #[arg(long, value_name = "PREFIX")]
    source_url: Option<String>,
    /// Write at most this many characters of Markdown, and count what has no room
    #[arg(long, value_name = "CHARACTERS", default_value_t = 60_000)]
    limit: usize,
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

/// What changed between two versions.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "bathygram diff --json")]
struct Report<'a> {
    /// 1; it grows when a field changes its meaning or goes.
    version: u32,
    /// The older version.
    from: &'a str,
    /// Its commit; null if it is none.
    from_commit: Option<&'a str>,
    /// The newer version.
    to: &'a str,
    /// Its commit; null if it is none.
    to_commit: Option<&'a str>,
    /// Diagrams and sheets with changes.
    diagrams: &'a [Listed],
    /// Files whose merge is not finished.
    conflicts: Vec<ReportedConflict<'a>>,
    /// Pictures of what changed that were written.
    pictures: Vec<ReportedPicture>,
    /// Whether anything is compared only as far as it could be read; the exit status is 1 then.
    has_errors: bool,
    /// The files with errors.
    files_with_errors: Vec<FileWithErrors<'a>>,
}

/// A file whose merge is not finished.
#[derive(Serialize, JsonSchema)]
struct ReportedConflict<'a> {
    /// The file, relative to the project.
    file: &'a str,
    /// What git calls our side.
    ours: &'a str,
    /// What git calls their side.
    theirs: &'a str,
    /// What changed from our side to theirs.
    diagrams: &'a [Listed],
}

/// A picture of what changed.
#[derive(Serialize, JsonSchema)]
struct ReportedPicture {
    /// The diagram or the sheet.
    name: String,
    /// Its file.
    file: String,
    /// `svg` or `png`.
    format: &'static str,
}

/// A file with errors.
#[derive(Serialize, JsonSchema)]
struct FileWithErrors<'a> {
    /// The file, relative to the project.
    file: &'a str,
    /// The version that has the errors.
    version: &'a str,
}

/// The JSON Schema of the answer.
fn schema() -> String {
    session::schema_of::<Report<'_>>()
}

/// Runs the command.
///
/// # Errors
/// If it is called wrongly, or a file or git fails.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&schema())?;
        return Ok(Outcome::Done);
    }
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
    let sides = [&compared.from, &compared.to];
    let faulty: Vec<(&Side, &str)> =
        sides.into_iter().flat_map(|s| s.faulty().into_iter().map(move |f| (s, f))).collect();
    for (side, file) in &faulty {
        voice.say(&format!("{}: {file} has errors; what could be read is compared", side.name));
    }
    compared.unread.iter().for_each(|why| voice.failure(&Failure::Input(why.clone())));
    let changes = listed::changes(&project, &compared);
    let conflicts: Vec<(&Conflict, Vec<Listed>)> =
        compared.conflicts.iter().map(|c| (c, listed::of_conflict(&project, c, &compared.pictures))).collect();
    let (drawn, too_large) = match arguments.picture.is_some() || arguments.html.is_some() {
        true => drawn::all(&project, &compared, &changes),
        false => (Vec::new(), Vec::new()),
    };
    too_large.iter().for_each(|why| voice.failure(&Failure::Input(why.clone())));
    let pictures = match &arguments.picture {
        Some(path) => drawn::write(&project, path, &drawn, voice)?,
        None => Vec::new(),
    };
    if let Some(path) = &arguments.html {
        write_page(&project, path, (&compared, &changes, &conflicts), &drawn)?;
        if !session::is_stdout(path) {
            voice.say(&format!("{} written", path.seen()));
        }
    }
    let is_different = !changes.is_empty() || !conflicts.is_empty();
    let has_errors = !faulty.is_empty() || !conflicts.is_empty();
    let is_complete = compared.unread.is_empty() && too_large.is_empty();
    let outcome = match (is_complete, has_errors || arguments.exit_code && is_different) {
        (false, _) => Outcome::Incomplete,
        (true, true) => Outcome::Denied,
        (true, false) => Outcome::Done,
    };
    if arguments.is_to_stdout() {
        // The picture or the page is the answer.
        return Ok(outcome);
    }
    match if arguments.json { Form::Json } else { arguments.format } {
        Form::Json => {
            let report = Report {
                version: 1,
                from: &compared.from.name,
                from_commit: compared.from.commit.as_deref(),
                to: &compared.to.name,
                to_commit: compared.to.commit.as_deref(),
                diagrams: &changes,
                conflicts: conflicts.iter().map(reported_conflict).collect(),
                pictures: pictures.iter().map(reported_picture).collect(),
                has_errors: has_errors || !is_complete,
                files_with_errors: faulty
                    .iter()
                    .map(|(side, file)| FileWithErrors { file, version: &side.name })
                    .collect(),
            };
            session::answer_json(&report)?;
        }
        Form::Markdown => {
            let files = pictures.iter().map(|p| {
                let folder = arguments.picture.as_deref().unwrap_or(Path::new(""));
                let file = p.path.strip_prefix(folder).ok().filter(|f| !f.as_os_str().is_empty());
                let file = file.or_else(|| p.path.file_name().map(Path::new)).unwrap_or(&p.path);
                (p.name.clone(), file.to_string_lossy().replace('\\', "/"))
            });
            let named = |side: &Side| bathygram_outputs::markdown::escaped(&side.name);
            let heading = format!("Diagrams: {} to {}", named(&compared.from), named(&compared.to));
            let mut parts = vec![Part { heading, changes: &changes, pictures: files.collect() }];
            parts.extend(conflicts.iter().map(|(conflict, changes)| {
                let [ours, theirs] = [&conflict.ours, &conflict.theirs].map(named);
                let file = bathygram_outputs::markdown::as_code(&conflict.file);
                Part { heading: format!("Not merged: {file}, {ours} to {theirs}"), changes, pictures: Vec::new() }
            }));
            let notes: Vec<String> = faulty
                .iter()
                .map(|(side, file)| format!("{file} has errors in {}; what could be read is compared.", side.name))
                .chain(compared.unread.iter().cloned())
                .collect();
            let review = Review {
                pictures: arguments.picture_url.as_deref(),
                sources: arguments.source_url.as_deref(),
                limit: arguments.limit,
            };
            session::answer(&report::markdown(&parts, &notes, &review))?;
        }
        Form::Text => {
            let colours = voice.result_colours();
            let mut text = report::text(&project, &changes, colours);
            for (conflict, changes) in &conflicts {
                text += &conflict_heading(conflict);
                text += &report::text(&project, changes, colours);
            }
            session::answer(&text)?;
            if !is_different && compared.unread.is_empty() {
                voice.say(&format!("{} and {} show the same", compared.from.name, compared.to.name));
            }
        }
    }
    Ok(outcome)
}

/// A line before what the two sides of a file say differently.
fn conflict_heading(conflict: &Conflict) -> String {
    let Conflict { file, ours, theirs } = conflict;
    format!("{file}: the merge is not finished; from {} to {}:\n", ours.name, theirs.name)
}

fn reported_conflict<'a>((conflict, diagrams): &'a (&'a Conflict, Vec<Listed>)) -> ReportedConflict<'a> {
    let Conflict { file, ours, theirs } = conflict;
    ReportedConflict { file, ours: &ours.name, theirs: &theirs.name, diagrams }
}

fn reported_picture(picture: &drawn::Picture) -> ReportedPicture {
    let format = Format::of(&picture.path).unwrap_or(Format::Svg).ending();
    ReportedPicture { name: picture.name.clone(), file: picture.path.to_string_lossy().replace('\\', "/"), format }
}

fn write_page(
    project: &Project, path: &Path, (compared, changes, conflicts): (&Compared, &[Listed], &[page::Unmerged<'_>]),
    drawn: &[Drawn],
) -> Result<()> {
    if path.extension().is_none_or(|e| e != "html") && !session::is_stdout(path) {
        return Err(Failure::Usage(format!("{} should end in .html", path.seen())));
    }
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    session::write_target(path, page::page(&studio, compared, drawn, changes, conflicts).as_bytes())
}
