//! `history`: the versions of a file in git, through renames, with what each changed.

mod strip;

use crate::forms;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::compare::documents;
use bathygram_core::container::{self, Packed, Provenance};
use bathygram_core::jobs::map;
use bathygram_core::pipeline::{self, DrawOptions, Reading, Studio};
use bathygram_core::scene::Places;
use bathygram_host::Threads;
use bathygram_host::{Commit, Format, Git, InVersion, Project, Version};
use bathygram_outputs::png::{Below, Scale};
use serde::Serialize;
use std::path::{Path, PathBuf};

/// The versions of a file in git, through renames: who, when, and what each changed
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram history surge_warning.bathy\n  \
    bathygram history surge_warning.bathy --json\n  \
    bathygram history surge_warning.bathy --picture strip.svg\n  \
    bathygram history architecture.bathy --only tidewatch_core --html steps.html\n\n\
    The form of --json is described in docs/json.md.")]
pub(crate) struct Arguments {
    /// The source
    file: PathBuf,
    /// Answer as JSON
    #[arg(long)]
    json: bool,
    /// Show only the N newest versions
    #[arg(long, value_name = "N")]
    last: Option<usize>,
    /// Which picture of the file is drawn; the first one if none is named
    #[arg(long, value_name = "NAME")]
    only: Option<String>,
    /// Draw the versions side by side: SVG or PNG by the ending
    #[arg(long, value_name = "FILE")]
    picture: Option<PathBuf>,
    /// Write a page to step through the versions
    #[arg(long, value_name = "FILE")]
    html: Option<PathBuf>,
}

/// One version of the file.
struct Step {
    commit: Option<Commit>,
    /// `None` if the file was gone.
    reading: Option<Reading>,
    /// What it changed, in sentences.
    says: Vec<String>,
}

/// One version as it is reported.
#[derive(Serialize)]
struct Told<'a> {
    commit: Option<&'a str>,
    author: Option<&'a str>,
    date: Option<&'a str>,
    subject: Option<&'a str>,
    path: Option<String>,
    changes: &'a [String],
}

#[derive(Serialize)]
struct Report<'a> {
    version: u32,
    file: String,
    versions: Vec<Told<'a>>,
}

impl Arguments {
    /// Whether a picture or a page is the answer, instead of words.
    fn is_to_stdout(&self) -> bool {
        [&self.picture, &self.html].into_iter().flatten().any(|target| session::is_stdout(target))
    }
}

/// Writes a result, and says where it is.
fn write(target: &Path, bytes: &[u8], voice: Voice) -> Result<()> {
    session::write_target(target, bytes)?;
    if !session::is_stdout(target) {
        voice.say(&format!("{} written", target.display()));
    }
    Ok(())
}

/// Runs the command.
///
/// # Errors
/// If the file is not in git, or a picture cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let project = session::project()?;
    let (git, mut steps) = steps(&project, &arguments.file)?;
    if let Some(last) = arguments.last {
        steps.drain(..steps.len().saturating_sub(last));
    }
    if git.is_shallow() {
        voice.say("this is a shallow clone: older versions are not here");
    }
    if arguments.json {
        let file = project.shown(&arguments.file);
        let report = Report { version: 1, file, versions: steps.iter().rev().map(Step::as_reported).collect() };
        session::answer(&(serde_json::to_string_pretty(&report)? + "\n"))?;
    } else if !arguments.is_to_stdout() {
        session::answer(&steps.iter().rev().map(line).collect::<String>())?;
    }
    if arguments.picture.is_some() || arguments.html.is_some() {
        let frames = frames(&project, &steps, arguments.only.as_deref())?;
        if let Some(path) = &arguments.picture {
            let (studio, drawing) =
                (Studio::new().in_themes(&project.themes).in_language(&project.language), strip::picture(&frames));
            let bytes = match Format::of(path) {
                Some(Format::Png) => forms::png(&project, &studio, &drawing, (Scale::Factor(1.5), Below::Paper), &[])?,
                _ => studio.svg(&drawing, &Provenance::without_text("history", &Packed::default())).into_bytes(),
            };
            write(path, &bytes, voice)?;
        }
        if let Some(path) = &arguments.html {
            write(path, strip::page(&arguments.file.to_string_lossy(), &frames).as_bytes(), voice)?;
        }
    }
    Ok(Outcome::Done)
}

/// The versions of a file, the oldest first, and the working tree's if that is another.
fn steps(project: &Project, file: &Path) -> Result<(Git, Vec<Step>)> {
    let full = std::path::absolute(file)?;
    let folder = full.parent().unwrap_or(Path::new("/"));
    let git = Git::find(folder)?;
    let top = git.top.canonicalize()?;
    let inside = folder.canonicalize()?.join(full.file_name().unwrap_or_default());
    let inside = inside.strip_prefix(&top).map_err(|_| Failure::Usage(format!("{} is not in git", file.display())))?;
    let mut commits = git.log(inside).unwrap_or_default();
    commits.reverse();
    // 1. All texts at once.
    let name = |c: &Commit| c.path.as_ref().map(|p| format!("{}:{}", c.id, p.to_string_lossy()));
    let names: Vec<String> = commits.iter().filter_map(name).collect();
    let texts = git.contents(&names)?;
    let root = project.root.canonicalize()?;
    let folder = root.strip_prefix(&top).map(PathBuf::from).unwrap_or_default();
    let readings = map(&Threads::all(), commits.len(), &|i| {
        let commit = &commits[i];
        let text = String::from_utf8(texts.get(&name(commit)?)?.clone()).ok()?;
        let version = Version::Revision(commit.id.clone());
        let world = InVersion { git: &git, version: &version, folder: folder.clone() };
        let path = commit.path.as_ref()?;
        Some(session::read_text(project, &project.shown(&top.join(path)), text, &world))
    });
    let mut steps: Vec<Step> = commits
        .into_iter()
        .zip(readings)
        .map(|(commit, reading)| Step { commit: Some(commit), reading, says: Vec::new() })
        .collect();
    // 2. The working tree.
    let last = steps.last().and_then(|s| s.reading.as_ref());
    let is_other = |reading: &Reading| last.is_none_or(|l| l.source.text != reading.source.text);
    if let Some(reading) = session::open(project, file).ok().filter(is_other) {
        steps.push(Step { commit: None, reading: Some(reading), says: Vec::new() });
    }
    if steps.is_empty() {
        return Err(Failure::Usage(format!("{} is neither here nor in git", file.display())));
    }
    // 3. What each changed.
    let says = map(&Threads::all(), steps.len(), &|i| {
        let before = i.checked_sub(1).and_then(|b| steps[b].reading.as_ref());
        let changes = documents(before.map(|r| &r.document), steps[i].reading.as_ref().map(|r| &r.document));
        let is_first = i == 0;
        changes
            .into_iter()
            .flat_map(|c| c.changes)
            .flat_map(|c| if is_first { c.details() } else { c.sentences() })
            .collect()
    });
    for (step, says) in steps.iter_mut().zip(says) {
        step.says = says;
    }
    Ok((git, steps))
}

impl Step {
    fn as_reported(&self) -> Told<'_> {
        let commit = self.commit.as_ref();
        Told {
            commit: commit.map(|c| c.id.as_str()),
            author: commit.map(|c| c.author.as_str()),
            date: commit.map(|c| c.date.as_str()),
            subject: commit.map(|c| c.subject.as_str()),
            path: commit.map_or_else(
                || self.reading.as_ref().map(|r| r.source.name.clone()),
                |c| c.path.as_ref().map(|p| p.to_string_lossy().into_owned()),
            ),
            changes: &self.says,
        }
    }

    /// Who and when: the date without its time, or that it is not committed.
    fn place(&self) -> (String, String) {
        match &self.commit {
            Some(c) => (c.date.chars().take(10).collect(), c.author.clone()),
            None => ("not yet".to_owned(), "working tree".to_owned()),
        }
    }

    /// What changed, in one line.
    fn summary(&self) -> String {
        match (self.says.as_slice(), &self.reading) {
            (_, None) => "the file is gone".to_owned(),
            ([], _) => "nothing that is drawn".to_owned(),
            ([only], _) => only.clone(),
            ([first, rest @ ..], _) => format!("{first}, and {} more", rest.len()),
        }
    }
}

/// A version in one line.
fn line(step: &Step) -> String {
    let (date, author) = step.place();
    let id = step.commit.as_ref().map_or("-", |c| &c.id[..c.id.len().min(9)]);
    format!("{id:9}  {date:10}  {author}: {}\n", step.summary())
}

/// The drawings of the versions, the oldest first, each near where the one before has its elements.
fn frames(project: &Project, steps: &[Step], only: Option<&str>) -> Result<Vec<strip::Frame>> {
    let names = |r: &Reading| r.pictures().map(|v| v.name.to_owned()).collect::<Vec<_>>();
    let latest = steps.iter().rev().find_map(|s| s.reading.as_ref()).map(names).unwrap_or_default();
    let Some(name) = only.map(str::to_owned).or_else(|| latest.first().cloned()) else {
        return Err(Failure::Usage("no version of this file has a picture".into()));
    };
    if only.is_some() && !steps.iter().filter_map(|s| s.reading.as_ref()).any(|r| names(r).contains(&name)) {
        return Err(Failure::Usage(format!("no picture is called `{name}`; there are {}", latest.join(", "))));
    }
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    // The places of the version before, and its digest.
    let mut before: Option<(Places, String)> = None;
    let mut frames = Vec::new();
    for step in steps {
        let picture = step.reading.as_ref().and_then(|r| Some((r, r.pictures().find(|p| p.name == name)?)));
        let drawn = picture.map(|(reading, picture)| {
            let near = before.as_ref().filter(|(places, _)| !places.is_empty());
            let options = DrawOptions { earlier: near.map(|(places, _)| places), ..DrawOptions::default() };
            let drawing = pipeline::draw(&studio, reading, &picture.view(), &options);
            let earlier = near.map(|(_, digest)| digest.as_str());
            let provenance = Provenance { earlier, ..reading.provenance(&name) };
            let svg = studio.svg(&drawing, &provenance);
            (strip::Shown { drawing, svg }, container::digest(&provenance))
        });
        let shown = drawn.map(|(shown, digest)| {
            before = Some((shown.drawing.places.clone(), digest));
            shown
        });
        let (date, author) = step.place();
        let subject = step.commit.as_ref().map_or(String::new(), |c| c.subject.clone());
        frames.push(strip::Frame { date, author, subject, summary: step.summary(), says: step.says.clone(), shown });
    }
    Ok(frames)
}
