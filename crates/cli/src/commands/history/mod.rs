//! `history`: the versions of a file in git, through renames, with what each changed.

mod strip;

use crate::commands::diff::listed::{Listed, listed};
use crate::forms;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::compare::new_keys;
use bathygram_core::container::{self, Packed, Provenance};
use bathygram_core::jobs::map;
use bathygram_core::model::Diagram;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading, Studio};
use bathygram_core::review;
use bathygram_core::scene::{Drawing, Places};
use bathygram_core::source::visible;
use bathygram_host::Threads;
use bathygram_host::{Commit, Format, Found, Git, InVersion, Project, Seen, Version, is_document, limit_of};
use bathygram_outputs::png::{Below, Scale};
use schemars::JsonSchema;
use serde::Serialize;
use std::path::{Path, PathBuf};

/// Show the versions of a file in git, through renames: who, when, and what each changed
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram history surge_warning.bathy\n  \
    bathygram history surge_warning.bathy --json\n  \
    bathygram history surge_warning.bathy --picture strip.svg\n  \
    bathygram history architecture.bathy --only tidewatch_core --html steps.html\n\n\
    The form of --json is described in docs/json.md.")]
pub(crate) struct Arguments {
    /// The source, or a document
    #[arg(required_unless_present = "schema")]
    file: Option<PathBuf>,
    /// Answer as JSON
    #[arg(long)]
    json: bool,
    /// Print the JSON Schema of --json
    #[arg(long, exclusive = true)]
    schema: bool,
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
    /// The texts of the file; `None` if it was gone.
    readings: Option<Vec<Reading>>,
    /// Why it could not be read.
    unread: Option<String>,
    /// Whether what could be read has errors.
    has_errors: bool,
    /// What it changed, in sentences.
    says: Vec<String>,
    /// The same, a diagram at a time.
    changes: Vec<Listed>,
}

/// What a version says, or why it could not be read; neither where the file was gone.
type Read = (Option<Vec<Reading>>, Option<String>);

/// How many versions are read at once.
// Models take fifty times the bytes of their texts.
const AT_ONCE: usize = 4;

/// What becomes of the models of versions once these are compared.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Models {
    /// They are drawn.
    Kept,
    /// They go.
    Dropped,
}

/// One version.
#[derive(Serialize, JsonSchema)]
struct Told<'a> {
    /// Its commit; null for the working tree where that is another version.
    commit: Option<&'a str>,
    /// Who wrote it.
    author: Option<&'a str>,
    /// When, as a date of ISO 8601 with its zone.
    date: Option<&'a str>,
    /// The first line of what was said.
    subject: Option<&'a str>,
    /// The file's path then, relative to the repository; null where it was removed.
    path: Option<String>,
    /// Whether it has errors: then what could be read is compared.
    has_errors: bool,
    /// What it changed, in sentences.
    changes: &'a [String],
    /// The same, a diagram at a time.
    diagrams: &'a [Listed],
}

/// The versions of a file.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "bathygram history --json")]
struct Report<'a> {
    /// 1; it grows when a field changes its meaning or goes.
    version: u32,
    /// The file, relative to the project.
    file: String,
    /// The newest first.
    versions: Vec<Told<'a>>,
    /// Pictures that were written.
    pictures: Vec<Written>,
}

/// A picture of the versions, or a page.
#[derive(Serialize, JsonSchema)]
struct Written {
    /// Its file.
    file: String,
    /// `svg`, `png` or `html`.
    format: &'static str,
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
        voice.say(&format!("{} written", target.seen()));
    }
    Ok(())
}

/// Runs the command.
///
/// # Errors
/// If the file is not in git, or a picture cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&session::schema_of::<Report<'_>>())?;
        return Ok(Outcome::Done);
    }
    let Some(file) = &arguments.file else { return Err(Failure::Usage("name a file".into())) };
    if !is_document(file) && file.extension().is_none_or(|e| e != "bathy") {
        let file = file.seen();
        return Err(Failure::Usage(format!("{file} holds no diagrams; name a .bathy file or a Markdown document")));
    }
    let project = session::project()?;
    // What the oldest one changed is seen beside the one before it.
    let most = arguments.last.map(|last| last.saturating_add(1));
    let is_drawn = arguments.picture.is_some() || arguments.html.is_some();
    let models = if is_drawn { Models::Kept } else { Models::Dropped };
    let (git, mut steps) = steps(&project, file, most, models)?;
    if let Some(last) = arguments.last {
        steps.drain(..steps.len().saturating_sub(last));
    }
    if git.is_shallow() {
        voice.say("this is a shallow clone: older versions are not here");
    }
    steps.iter().filter_map(|s| s.unread.as_ref()).for_each(|why| voice.failure(&Failure::Input(why.clone())));
    let mut written = Vec::new();
    if is_drawn {
        fit(&steps, arguments.only.as_deref())?;
        let frames = frames(&project, &steps, arguments.only.as_deref())?;
        if let Some(path) = &arguments.picture {
            let (studio, drawing) =
                (Studio::new().in_themes(&project.themes).in_language(&project.language), strip::picture(&frames));
            let bytes = match Format::of(path) {
                Some(Format::Png) => forms::png(&project, &studio, &drawing, (Scale::Factor(1.5), Below::Paper), &[])?,
                Some(Format::Svg) => strip_of(&studio, &drawing),
                None if session::is_stdout(path) => strip_of(&studio, &drawing),
                _ => return Err(Failure::Usage(format!("{} should end in .svg or .png", path.seen()))),
            };
            write(path, &bytes, voice)?;
            written.push((path, if Format::of(path) == Some(Format::Png) { "png" } else { "svg" }));
        }
        if let Some(path) = &arguments.html {
            if !session::is_stdout(path) && Format::of(path) != Some(Format::Html) {
                return Err(Failure::Usage(format!("{} should end in .html", path.seen())));
            }
            write(path, strip::page(&file.to_string_lossy(), &frames).as_bytes(), voice)?;
            written.push((path, "html"));
        }
    }
    if arguments.json {
        let named = |(path, format): (&PathBuf, &'static str)| Written {
            file: path.to_string_lossy().replace('\\', "/"),
            format,
        };
        let versions = steps.iter().rev().map(Step::as_reported).collect();
        let pictures = written.into_iter().map(named).collect();
        let report = Report { version: 1, file: project.shown(file), versions, pictures };
        session::answer_json(&report)?;
    } else if !arguments.is_to_stdout() {
        session::answer(&steps.iter().rev().map(line).collect::<String>())?;
    }
    Ok(if steps.iter().any(|s| s.unread.is_some()) { Outcome::Incomplete } else { Outcome::Done })
}

/// How many elements and relations of all versions are drawn for one strip or page.
// Each version is laid out near the one before, one after the other.
const MOST_DRAWN: usize = 60_000;
/// The same for the versions of one picture on a site.
// A site draws its other pages as well: with twice as many, 60 versions of 2,000 elements and 3,000 relations took 13.6 s.
const MOST_ON_A_SITE: usize = 30_000;

/// Makes sure that all versions of a picture can be drawn; one of them always is.
fn fit(steps: &[Step], only: Option<&str>) -> Result<()> {
    let names = names(steps, only)?;
    let all: usize = steps.iter().zip(&names).map(|(step, name)| size(step, name)).sum();
    if steps.len() == 1 || all <= MOST_DRAWN {
        return Ok(());
    }
    Err(Failure::Usage(format!(
        "the {} versions hold {all} elements and relations, and at most {MOST_DRAWN} are drawn side by side; `--last N` takes \
         the newest ones",
        steps.len()
    )))
}

/// How many elements and relations the picture of a name has in a version.
fn size(step: &Step, name: &str) -> usize {
    let view = picture(step, name).map(|(_, picture)| picture.view());
    view.map_or(0, |view| view.diagram.elements.len() + view.diagram.relations.len())
}

fn strip_of(studio: &Studio, drawing: &Drawing) -> Vec<u8> {
    studio.svg(drawing, &Provenance::without_text("history", &Packed::default())).into_bytes()
}

/// The versions of a file, the oldest first, only the newest if a number is given, and the working tree's if that is another.
fn steps(project: &Project, file: &Path, most: Option<usize>, models: Models) -> Result<(Git, Vec<Step>)> {
    let full = std::path::absolute(file)?;
    let folder = full.parent().unwrap_or(Path::new("/"));
    let git = Git::find(if folder.is_dir() { folder } else { Path::new(".") })?;
    let top = git.top.canonicalize()?;
    // In a bare repository there are no folders but in its versions.
    let inside = folder.canonicalize().unwrap_or(folder.to_owned()).join(full.file_name().unwrap_or_default());
    let inside = inside.strip_prefix(&top).map_err(|_| Failure::Usage(format!("{} is not in git", file.seen())))?;
    let mut commits = git.log(inside, most).unwrap_or_default();
    commits.reverse();
    // 1. All texts at once.
    let name = |c: &Commit| c.path.as_ref().map(|p| format!("{}:{}", c.id, p.to_string_lossy()));
    let names: Vec<String> = commits.iter().filter_map(name).collect();
    let limit = limit_of(file);
    let texts = git.contents(&names, limit)?;
    let root = project.root.canonicalize()?;
    let folder = root.strip_prefix(&top).map(PathBuf::from).unwrap_or_default();
    let read = |commit: &Commit| -> Read {
        let (id, file) = (&commit.id[..9], file.seen());
        let bytes = match name(commit).and_then(|name| texts.get(&name)) {
            None | Some(Found::Nothing) => return (None, None),
            Some(Found::TooLarge) => return (None, Some(format!("{id}: {file} is larger than {} MiB", limit >> 20))),
            Some(Found::Bytes(bytes)) => bytes,
        };
        let (Some(path), Ok(text)) = (&commit.path, String::from_utf8(bytes.clone())) else {
            return (None, Some(format!("{id}: {file} is not UTF-8 text")));
        };
        let version = Version::Revision(commit.id.clone());
        let world = InVersion { git: &git, version: &version, folder: folder.clone() };
        match session::read_texts(project, &project.shown(&top.join(path)), text, &world) {
            Ok(readings) => (Some(readings), None),
            Err(why) => (None, Some(format!("{id}: {why}"))),
        }
    };
    // 2. What each changed, a few versions at a time.
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let mut steps = Vec::new();
    for commits in commits.chunks(AT_ONCE) {
        let read = map(&Threads::all(), commits.len(), &|i| read(&commits[i]));
        let new = commits.iter().zip(read).map(|(commit, read)| Step::new(Some(commit.clone()), read));
        extend(&mut steps, new.collect(), &studio, models);
    }
    // 3. The working tree.
    let same_text = |a: &[Reading], b: &[Reading]| {
        let texts = |all: &[Reading]| all.iter().map(|r| r.source.text.clone()).collect::<Vec<_>>();
        texts(a) == texts(b)
    };
    let last = steps.last().and_then(|s| s.readings.as_ref());
    let is_other = |readings: &Vec<Reading>| last.is_none_or(|l| !same_text(l, readings));
    if !git.is_bare
        && let Some(readings) = session::open_texts(project, file).ok().filter(is_other)
    {
        extend(&mut steps, vec![Step::new(None, (Some(readings), None))], &studio, models);
    }
    if steps.is_empty() {
        return Err(Failure::Usage(format!("{} is neither here nor in git", file.seen())));
    }
    Ok((git, steps))
}

/// Adds versions behind others, with what each of them changed.
fn extend(steps: &mut Vec<Step>, new: Vec<Step>, studio: &Studio, models: Models) {
    let first = steps.len();
    steps.extend(new);
    let told = map(&Threads::all(), steps.len() - first, &|i| told(steps, first + i, studio));
    for (step, (says, changes)) in steps[first..].iter_mut().zip(told) {
        (step.says, step.changes) = (says, changes);
    }
    // The last one is compared with the next.
    let last = steps.len().saturating_sub(1);
    for step in steps[first.saturating_sub(1)..last].iter_mut().filter(|_| models == Models::Dropped) {
        step.readings = step.readings.take().map(|_| Vec::new());
    }
}

/// What a version changed: in sentences, and a diagram at a time.
fn told(steps: &[Step], i: usize, studio: &Studio) -> (Vec<String>, Vec<Listed>) {
    fn readings(step: Option<&Step>) -> Vec<&Reading> {
        step.iter().flat_map(|s| &s.readings).flatten().collect()
    }
    let (then, now) = (readings(i.checked_sub(1).and_then(|b| steps.get(b))), readings(steps.get(i)));
    let changes = review::changes(studio, &then, &now);
    let says = changes.iter().flat_map(|c| &c.changes);
    let says: Vec<String> = says.flat_map(|c| if i == 0 { c.details() } else { c.sentences() }).collect();
    (says, changes.into_iter().map(|c| listed(c, &then, &now)).collect())
}

/// One version of a picture.
pub(crate) struct Shown {
    pub(crate) date: String,
    pub(crate) author: String,
    pub(crate) subject: String,
    pub(crate) says: Vec<String>,
    /// The picture; `None` if it was not there.
    pub(crate) svg: Option<String>,
}

/// The committed versions of a file's pictures, the oldest first, each picture with those in which it changed. The newest are drawn, as
/// many as a site may hold; the others are there in words.
///
/// # Errors
/// If the file is not in git.
pub(crate) fn versions(project: &Project, file: &Path, names: &[String]) -> Result<Vec<(String, Vec<Shown>)>> {
    let (_, mut steps) = steps(project, file, None, Models::Kept)?;
    steps.retain(|step| step.commit.is_some());
    let mut all = Vec::new();
    for name in names.iter().filter(|_| !steps.is_empty()) {
        // A picture that is not committed yet has no versions.
        let Ok(own_names) = self::names(&steps, Some(name)) else { continue };
        let changed = changed(&steps, &own_names);
        let mut room = MOST_ON_A_SITE;
        let fits = |(step, own, _): &&(&Step, &str, Vec<String>)| {
            let size = size(step, own);
            let is_drawn = size <= room || room == MOST_ON_A_SITE;
            room = room.saturating_sub(size);
            is_drawn
        };
        let in_words = changed.len() - changed.iter().rev().take_while(fits).count();
        let mut painter = Painter::new(project);
        let shown = changed.into_iter().enumerate().map(|(i, (step, own, says))| {
            let svg = if i < in_words { None } else { painter.draw(step, own).map(|shown| shown.svg) };
            let (date, author) = step.place();
            Shown { date, author, subject: step.subject(), says, svg }
        });
        all.push((name.clone(), shown.collect()));
    }
    Ok(all)
}

/// The versions in which a picture changed, each with its name then and what changed: nothing in the first one.
fn changed<'s>(steps: &'s [Step], names: &'s [String]) -> Vec<(&'s Step, &'s str, Vec<String>)> {
    let mut found: Vec<(&Step, &str, Vec<String>)> = Vec::new();
    for (step, name) in steps.iter().zip(names) {
        let changes = step.changes.iter().filter(|listed| listed.diagram == *name);
        let says: Vec<String> =
            changes.flat_map(|listed| listed.changes.iter().flat_map(|change| change.says.clone())).collect();
        let is_there = picture(step, name).is_some();
        match found.last() {
            None if !is_there => {}
            None => found.push((step, name, Vec::new())),
            Some((last, was, _)) if says.is_empty() && picture(last, was).is_some() == is_there => {}
            Some(_) => found.push((step, name, says)),
        }
    }
    found
}

impl Step {
    /// The first line of what was said of it; empty if it is not committed.
    fn subject(&self) -> String {
        self.commit.as_ref().map_or_else(String::new, |commit| commit.subject.clone())
    }

    fn new(commit: Option<Commit>, (readings, unread): Read) -> Self {
        let has_errors = readings.iter().flatten().any(Reading::has_errors);
        Self { commit, readings, unread, has_errors, says: Vec::new(), changes: Vec::new() }
    }

    fn as_reported(&self) -> Told<'_> {
        let commit = self.commit.as_ref();
        Told {
            commit: commit.map(|c| c.id.as_str()),
            author: commit.map(|c| c.author.as_str()),
            date: commit.map(|c| c.date.as_str()),
            subject: commit.map(|c| c.subject.as_str()),
            path: commit.map_or_else(
                || self.readings.as_ref().and_then(|r| r.first()).map(|r| r.source.name.clone()),
                |c| c.path.as_ref().map(|p| p.to_string_lossy().into_owned()),
            ),
            has_errors: self.has_errors || self.unread.is_some(),
            changes: &self.says,
            diagrams: &self.changes,
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
        match (self.says.as_slice(), &self.readings) {
            _ if self.unread.is_some() => "not read".to_owned(),
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
    format!("{id:9}  {date:10}  {}: {}\n", visible(&author), step.summary())
}

/// The names of a picture in all versions, the oldest first, through renames; `chosen` is its name in one of them.
fn names(steps: &[Step], chosen: Option<&str>) -> Result<Vec<String>> {
    let pictures = |s: &Step| -> Vec<String> {
        s.readings.iter().flatten().flat_map(|r| r.pictures().map(|v| v.name.to_owned()).collect::<Vec<_>>()).collect()
    };
    let latest = steps.iter().rev().map(pictures).find(|names| !names.is_empty()).unwrap_or_default();
    let Some(name) = chosen.map(str::to_owned).or_else(|| latest.first().cloned()) else {
        return Err(Failure::Usage("no version of this file has a picture".into()));
    };
    let Some(at) = steps.iter().rposition(|s| pictures(s).contains(&name)) else {
        return Err(Failure::Usage(format!("no picture is called `{name}`; there are {}", latest.join(", "))));
    };
    let mut names = vec![name; steps.len()];
    for i in (1..=at).rev() {
        let listed = steps[i].changes.iter().find(|l| l.diagram == names[i]);
        names[i - 1] = listed.and_then(|l| l.old_name.clone()).unwrap_or_else(|| names[i].clone());
    }
    for i in at + 1..steps.len() {
        let listed = steps[i].changes.iter().find(|l| l.old_name.as_ref() == Some(&names[i - 1]));
        names[i] = listed.map_or_else(|| names[i - 1].clone(), |l| l.diagram.clone());
    }
    Ok(names)
}

/// The picture of this name in a version, with the text that it is of.
fn picture<'s>(step: &'s Step, name: &str) -> Option<(&'s Reading, Picture<'s>)> {
    step.readings.iter().flatten().find_map(|reading| Some((reading, reading.pictures().find(|p| p.name == name)?)))
}

/// The versions with their drawings, the oldest first.
fn frames(project: &Project, steps: &[Step], only: Option<&str>) -> Result<Vec<strip::Frame>> {
    let names = names(steps, only)?;
    let mut painter = Painter::new(project);
    let frame = |(step, name): (&Step, &String)| {
        let (date, author) = step.place();
        let shown = painter.draw(step, name);
        let (summary, says) = (step.summary(), step.says.clone());
        strip::Frame { date, author, subject: step.subject(), summary, says, shown }
    };
    Ok(steps.iter().zip(&names).map(frame).collect())
}

/// Draws the versions of a picture, one after the other, each near where the one before has its elements.
struct Painter {
    studio: Studio,
    /// The places of the version before, its digest, and what it shows.
    before: Option<(Places, String, Diagram)>,
}

impl Painter {
    fn new(project: &Project) -> Self {
        let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
        Self { studio, before: None }
    }

    /// The drawing of the next version; `None` if it has no picture of this name.
    fn draw(&mut self, step: &Step, name: &str) -> Option<strip::Shown> {
        let (reading, picture) = picture(step, name)?;
        let view = picture.view();
        let near = self.before.as_ref().filter(|(places, ..)| !places.is_empty());
        // What is called otherwise now stays where it was.
        let places = near.map(|(places, _, shown)| places.under(&new_keys(shown, &view.diagram)));
        let options = DrawOptions { earlier: places.as_ref(), ..DrawOptions::default() };
        let drawing = pipeline::draw(&self.studio, reading, &view, &options);
        let earlier = near.map(|(_, digest, _)| digest.as_str());
        let provenance = Provenance { earlier, ..reading.provenance(name) };
        let svg = self.studio.svg(&drawing, &provenance);
        self.before = Some((drawing.places.clone(), container::digest(&provenance), view.diagram));
        Some(strip::Shown { drawing, svg })
    }
}
