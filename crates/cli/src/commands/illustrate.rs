//! `illustrate`: the diagram blocks of Markdown files, with their pictures.

use crate::named;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::container;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading, Studio};
use bathygram_core::source::world::folded;
use bathygram_host::{
    Disk, Format, Lock, MAX_PICTURE, PATIENCE, Printed, Project, Purpose, Record, Seen, picture_file, read_bounded,
    read_source, remove_inside, write_inside, write_whole,
};
use bathygram_outputs::markdown::{self, Image, Sources};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// An alternative text is at most so long, in letters.
// A screen reader reads it in one go and cannot stop within it.
const ALTERNATIVE: usize = 300;

/// Draw the `bathygram` blocks of Markdown files, and keep their pictures beside them up to date
///
/// Pictures go to a folder beside each document. Below a block stands its picture, between two marks; nothing else in the
/// document is touched.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram illustrate notes.md\n  bathygram illustrate notes.md --hide-source\n  \
    bathygram illustrate notes.md --check")]
pub(crate) struct Arguments {
    /// Documents, folders or patterns
    #[arg(required_unless_present = "schema")]
    files: Vec<PathBuf>,
    /// Fold the source of each block away below its picture
    #[arg(long)]
    hide_source: bool,
    /// Show the sources that were folded away
    #[arg(long, conflicts_with = "hide_source")]
    show_source: bool,
    /// Write nothing; exit with 1 if a document or a picture is not up to date
    #[arg(long)]
    check: bool,
    /// Answer as JSON
    #[arg(long)]
    json: bool,
    /// Print the JSON Schema of --json
    #[arg(long, exclusive = true)]
    schema: bool,
}

/// What was illustrated.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "bathygram illustrate --json")]
struct Report {
    /// 1; it grows when a field changes its meaning or goes.
    version: u32,
    /// One for each document.
    documents: Vec<ReportedDocument>,
    /// Whether a block has errors; the exit status is 1 then.
    has_errors: bool,
}

/// A document.
#[derive(Serialize, JsonSchema)]
struct ReportedDocument {
    /// Relative to the project.
    file: String,
    /// Whether it was up to date, and so was everything beside it.
    is_fresh: bool,
    /// Whether it was written.
    is_written: bool,
    /// How many errors its blocks have.
    errors: usize,
    /// How many warnings.
    warnings: usize,
    /// The pictures of its blocks.
    pictures: Vec<ReportedPicture>,
    /// Pictures that no block has any more, and that were removed, or would be.
    removed: Vec<String>,
}

/// A picture of a block.
#[derive(Serialize, JsonSchema)]
struct ReportedPicture {
    /// Its file, relative to the project.
    file: String,
    /// `svg`.
    format: &'static str,
    /// Whether it was drawn, or would be.
    is_drawn: bool,
}

/// What is to be written for one document.
struct Work {
    path: PathBuf,
    before: String,
    after: String,
    /// Pictures by their paths, with their bytes where they are not up to date.
    pictures: BTreeMap<PathBuf, Option<String>>,
    /// Pictures that no block has any more.
    gone: Vec<PathBuf>,
    printed: Printed,
}

/// Runs the command.
///
/// # Errors
/// If a document cannot be read or written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&session::schema_of::<Report>())?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    let files = named::files(&project, &arguments.files, named::Takes::Documents)?;
    if let Some(path) = files.iter().find(|path| project.leads_out(path)) {
        return Err(Failure::Usage(format!("{} leads out of the project, and is not written", path.seen())));
    }
    let sources = match (arguments.hide_source, arguments.show_source) {
        (true, _) => Sources::Folded,
        (_, true) => Sources::Shown,
        _ => Sources::AsTheyAre,
    };
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let (mut printed, mut stale) = (Printed::default(), 0);
    let record = Record::open(&project, Purpose::Build)?;
    let how = (sources, &record);
    let works = files.iter().map(|path| work(&project, &studio, path, how, voice)).collect::<Result<Vec<_>>>()?;
    // A name that is used twice stops the command before anything is written.
    only_once(&project, &works)?;
    let mut documents = Vec::new();
    if !arguments.check {
        note_drawn(&project, &works)?;
    }
    for work in &works {
        let path = &work.path;
        printed.add(work.printed);
        let drawn = work.pictures.values().flatten().count();
        let is_fresh = work.before == work.after && drawn == 0 && work.gone.is_empty();
        stale += usize::from(!is_fresh);
        documents.push(work.reported(&project, (is_fresh, !arguments.check)));
        if arguments.check {
            if !is_fresh && !arguments.json {
                session::answer(&format!("{} is not up to date\n", path.seen()))?;
            }
            continue;
        }
        let written = write(&project, work)?;
        if !arguments.json {
            session::answer(&written)?;
        }
        let pictures = session::count(work.pictures.len(), "picture");
        voice.say(&format!("{}: {pictures}, {drawn} drawn, {} removed", path.seen(), work.gone.len()));
    }
    if arguments.json {
        let report = Report { version: 1, documents, has_errors: printed.errors > 0 };
        session::answer_json(&report)?;
    }
    if printed.errors > 0 {
        voice.say(&format!("{}: blocks with errors keep the pictures that they have", session::counted(printed)));
    }
    let is_denied = printed.errors > 0 || (arguments.check && stale > 0);
    Ok(if is_denied { Outcome::Denied } else { Outcome::Done })
}

/// Notes the pictures that are drawn now: once their document is gone, it is known that they were drawn here.
fn note_drawn(project: &Project, works: &[Work]) -> Result<()> {
    let drawn = works.iter().flat_map(|work| &work.pictures).filter(|(_, new)| new.is_some());
    let names: Vec<String> =
        drawn.filter_map(|(path, _)| Some(path.file_stem()?.to_string_lossy().into_owned())).collect();
    if !names.is_empty() {
        let _lock = Lock::take(project, PATIENCE, || ())?;
        let mut record = Record::open(project, Purpose::Build)?;
        record.note_drawn(names.iter().map(String::as_str));
        record.save(project);
    }
    Ok(())
}

/// Refuses a name that two documents use in one folder, or a document and a source.
fn only_once(project: &Project, works: &[Work]) -> Result<()> {
    let mut taken: BTreeMap<PathBuf, String> = BTreeMap::new();
    let absolute = |path: &Path| std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let folder = absolute(&project.pictures());
    let paths = || works.iter().flat_map(|work| work.pictures.keys().map(move |path| (work, absolute(path))));
    if paths().any(|(_, path)| path.parent() == Some(&folder)) {
        for source in project.sources()? {
            // What cannot be read has no names.
            let Ok(reading) = session::open(project, &source) else { continue };
            let name = &reading.source.name;
            taken.extend(reading.pictures().map(|p| (folder.join(folded(&format!("{}.svg", p.name))), name.clone())));
        }
    }
    for (work, path) in paths() {
        let name = project.shown(&work.path);
        let key = path.with_file_name(folded(&path.file_name().unwrap_or_default().to_string_lossy()));
        if let Some(other) = taken.insert(key, name.clone()).filter(|other| *other != name) {
            let picture = path.file_stem().unwrap_or_default().to_string_lossy();
            return Err(Failure::Usage(format!(
                "{other} and {name} both have a picture called `{picture}`; rename one"
            )));
        }
    }
    Ok(())
}

impl Work {
    fn reported(&self, project: &Project, (is_fresh, writes): (bool, bool)) -> ReportedDocument {
        let picture = |(path, new): (&PathBuf, &Option<String>)| ReportedPicture {
            file: project.shown(path),
            format: "svg",
            is_drawn: new.is_some(),
        };
        ReportedDocument {
            file: project.shown(&self.path),
            is_fresh,
            is_written: writes && self.before != self.after,
            errors: self.printed.errors,
            warnings: self.printed.warnings,
            pictures: self.pictures.iter().map(picture).collect(),
            removed: self.gone.iter().map(|path| project.shown(path)).collect(),
        }
    }
}

/// Pictures first: a document never names one that is not there. Gives back what was written, a line each.
fn write(project: &Project, work: &Work) -> Result<String> {
    let mut written = String::new();
    for (path, svg) in &work.pictures {
        if let Some(svg) = svg {
            write_inside(&project.root, path, svg.as_bytes())?;
            written += &session::listed(project, [path]);
        }
    }
    if work.before != work.after {
        // A link stays a link: the document that it leads to is written.
        write_whole(&work.path.canonicalize()?, work.after.as_bytes())?;
        written += &format!("{}\n", work.path.seen());
    }
    for path in &work.gone {
        remove_inside(&project.root, path)?;
    }
    Ok(written)
}

fn work(
    project: &Project, studio: &Studio, path: &Path, (sources, record): (Sources, &Record), voice: Voice,
) -> Result<Work> {
    let before = read_source(path)?;
    let name = project.shown(path);
    let own = project.picture_folder();
    let blocks = session::blocks(path, &before)?;
    let mut work = Work {
        path: path.to_owned(),
        before: String::new(),
        after: String::new(),
        pictures: BTreeMap::new(),
        gone: Vec::new(),
        printed: Printed::default(),
    };
    let mut images = Vec::new();
    let mut taken: BTreeMap<String, u32> = BTreeMap::new();
    let pictures = path.parent().unwrap_or(Path::new("")).join(&own);
    let file = |view: &Picture<'_>| picture_file(&pictures, view.name, Format::Svg);
    for (i, block) in blocks.iter().enumerate() {
        let reading = session::read_block(project, &name, (i, block), &Disk::around(project, path));
        if block.is_closed {
            work.printed.add(voice.findings(project, [(&reading, &reading.diagnostics[..])]));
        } else {
            // It holds all that follows, also blocks that were there before.
            let shown = project.from_here(&name);
            let line = block.line - 1;
            voice.failure(&Failure::Input(format!(
                "{shown}:{line}: the fence of this block is not closed; close it, or all below belongs to it"
            )));
            work.printed.errors += 1;
        }
        if !block.is_closed || reading.has_errors() {
            // Its pictures stay, if it had any.
            work.pictures.extend(reading.pictures().filter_map(|v| Some((file(&v).ok()?, None))));
            images.push(None);
            continue;
        }
        let mut shown = Vec::new();
        for view in reading.pictures() {
            if let Some(first) = taken.insert(folded(view.name), block.line) {
                return Err(Failure::Usage(format!(
                    "{name}: the blocks in lines {first} and {} both have a picture called `{}`; rename one",
                    block.line, view.name
                )));
            }
            let file = file(&view)?;
            let Drawn { alternative, new } = drawn(studio, &reading, &view, &file, &name)?;
            shown.push(Image { path: format!("{own}/{}.svg", view.name), alternative });
            work.pictures.insert(file, new);
        }
        images.push(Some(shown));
    }
    work.after = markdown::illustrated(&before, &blocks, &images, sources);
    work.before = before;
    if blocks.iter().all(|block| block.is_closed) {
        work.gone = gone(&pictures, &name, (&work.before, &own, record), &work.pictures);
    }
    Ok(work)
}

/// The picture of a block in words, and as SVG text where the one that is there is not up to date.
struct Drawn {
    alternative: String,
    new: Option<String>,
}

/// The picture of a block: the one that is there if it is up to date, or a new one.
fn drawn(studio: &Studio, reading: &Reading, picture: &Picture<'_>, file: &Path, name: &str) -> Result<Drawn> {
    let digest = container::digest(&reading.provenance(picture.name));
    let there = read_bounded(file, MAX_PICTURE).ok();
    let carried = there.as_ref().and_then(|bytes| container::read(bytes));
    let is_other = there.is_some() && carried.is_none();
    let owner = there.as_ref().and_then(|bytes| container::file(bytes));
    if is_other || owner.as_ref().is_some_and(|o| o != name) {
        let whose = owner.map_or("not drawn by this program".to_owned(), |o| format!("the picture of {o}"));
        return Err(Failure::Usage(format!("{} is {whose}; give the block another name", file.seen())));
    }
    if let (Some(bytes), Some(carried)) = (there, carried)
        && carried.is_intact
        && carried.digest == digest
        && let Ok(svg) = String::from_utf8(bytes)
    {
        let words = [container::title(&svg), container::description(&svg)].map(Option::unwrap_or_default);
        return Ok(Drawn { alternative: alternative(&words), new: None });
    }
    let drawing = pipeline::draw(studio, reading, &picture.view(), &DrawOptions::default());
    let alternative = alternative(&[drawing.scene.title.clone(), drawing.scene.desc.clone()]);
    Ok(Drawn { alternative, new: Some(studio.svg(&drawing, &reading.provenance(picture.name))) })
}

/// What a picture shows, in words of some length.
fn alternative([title, description]: &[String; 2]) -> String {
    let words = format!("{}. {description}", title.trim_end_matches('.'));
    if words.chars().count() <= ALTERNATIVE {
        return words;
    }
    let kept: String = words.chars().take(ALTERNATIVE).collect();
    format!("{}…", kept.rsplit_once(' ').map_or(kept.as_str(), |k| k.0))
}

/// Pictures in the folder that were drawn for this document, that it showed until now or that were drawn here, and that it has no more; those that were edited
/// stay.
fn gone(
    folder: &Path, name: &str, (before, own, record): (&str, &str, &Record),
    pictures: &BTreeMap<PathBuf, Option<String>>,
) -> Vec<PathBuf> {
    let is_known = |p: &Path| {
        p.file_name().is_some_and(|file| before.contains(&format!("](<{own}/{}>)", file.to_string_lossy())))
            || p.file_stem().is_some_and(|stem| record.has_drawn(&stem.to_string_lossy()))
    };
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|e| e.path());
    let mut gone: Vec<PathBuf> = entries
        .filter(|p| {
            p.extension().is_some_and(|e| e == "svg") && !pictures.contains_key(p) && !p.is_symlink() && is_known(p)
        })
        .filter(|p| {
            let bytes = read_bounded(p, MAX_PICTURE).unwrap_or_default();
            container::file(&bytes).as_deref() == Some(name) && container::read(&bytes).is_some_and(|c| c.is_intact)
        })
        .collect();
    gone.sort();
    gone
}
